//! The evaluation of a schema against an instance, keyword by keyword, with the annotations that `unevaluated*` asks for.

use super::formats;
use super::resources::{Dialect, ResourceId, Resources};
use crate::tree::Json;
use num_rational::BigRational;
use std::cell::Cell;
use std::collections::{BTreeSet, HashMap};

/// Why there is no verdict.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stop {
    /// A reference leads nowhere, or a pattern is none.
    Broken,
    /// Schemas are applied to one value without end, or it takes too long.
    Endless,
}

/// Evaluates one schema.
pub struct Evaluator<'s> {
    resources: Resources<'s>,
    root: &'s Json,
    patterns: HashMap<String, Option<regress::Regex>>,
    steps: Cell<u64>,
}

/// What a schema said of an instance.
#[derive(Clone, Debug, Default)]
struct Said {
    holds: bool,
    /// The properties and items that have been evaluated (Core, 11); of a schema that does not hold there are none.
    properties: BTreeSet<String>,
    items: BTreeSet<usize>,
}

impl Said {
    fn holding() -> Said {
        Said { holds: true, ..Said::default() }
    }

    /// Adds what a schema that was applied to the same instance has evaluated, if it holds.
    fn take(&mut self, other: &Said) {
        if other.holds {
            self.properties.extend(other.properties.iter().cloned());
            self.items.extend(&other.items);
        }
    }
}

type Outcome = Result<Said, Stop>;

/// Schemas applied within each other, to a value or to what is in it.
const MAX_DEPTH: usize = 60;

/// So many schemas are applied at most.
const MAX_STEPS: u64 = 10_000;

impl<'s> Evaluator<'s> {
    /// An evaluator of a schema of a dialect.
    pub fn new(schema: &'s Json, dialect: Dialect) -> Self {
        let mut patterns = HashMap::new();
        gather_patterns(schema, &mut patterns);
        Evaluator { resources: Resources::of(schema, dialect), root: schema, patterns, steps: Cell::new(0) }
    }

    /// Whether an instance is valid.
    ///
    /// # Errors
    ///
    /// There may be no verdict.
    pub fn is_valid(&self, instance: &Json) -> Result<bool, Stop> {
        self.steps.set(0);
        let resource = self.resources.entered(self.root, 0);
        self.apply(self.root, 0, &[resource], instance, 0).map(|said| said.holds)
    }

    fn dialect(&self) -> Dialect {
        self.resources.dialect
    }

    fn matches(&self, pattern: &str, text: &str) -> Result<bool, Stop> {
        match self.patterns.get(pattern) {
            Some(Some(regex)) => Ok(regex.find(text).is_some()),
            _ => Err(Stop::Broken),
        }
    }

    /// Applies a schema that is come to from a resource; `scope` is the dynamic scope, the outermost resource first.
    fn apply(
        &self,
        schema: &'s Json,
        from: ResourceId,
        scope: &[ResourceId],
        instance: &Json,
        depth: usize,
    ) -> Outcome {
        self.steps.set(self.steps.get() + 1);
        if depth > MAX_DEPTH || self.steps.get() > MAX_STEPS {
            return Err(Stop::Endless);
        }
        match schema {
            Json::Bool(holds) => return Ok(Said { holds: *holds, ..Said::default() }),
            Json::Object(_) => {}
            _ => return Err(Stop::Broken),
        }
        let here = self.resources.entered(schema, from);
        let mut scope = scope.to_vec();
        if scope.last() != Some(&here) {
            scope.push(here);
        }
        let at = At { schema, here, scope: &scope, instance, depth: depth + 1 };
        let mut said = Said::holding();
        if let Some(reference) = schema.get("$ref") {
            let target = self.reference(&at, reference)?;
            // Draft-07 Core, 8.3: all other properties beside `$ref` must be ignored.
            if self.dialect() <= Dialect::Draft07 {
                return Ok(target);
            }
            self.join(&mut said, &target);
        }
        if self.dialect() == Dialect::Draft201909
            && let Some(reference) = schema.get("$recursiveRef")
        {
            let target = self.recursive(&at, reference)?;
            self.join(&mut said, &target);
        }
        if self.dialect() == Dialect::Draft202012
            && let Some(reference) = schema.get("$dynamicRef")
        {
            let target = self.dynamic(&at, reference)?;
            self.join(&mut said, &target);
        }
        said.holds &= self.assertions(&at)?;
        self.in_place(&at, &mut said)?;
        match instance {
            Json::Object(_) => self.object(&at, &mut said)?,
            Json::Array(_) => self.array(&at, &mut said)?,
            _ => {}
        }
        self.unevaluated(&at, &mut said)?;
        if !said.holds {
            said.properties.clear();
            said.items.clear();
        }
        Ok(said)
    }

    fn join(&self, said: &mut Said, other: &Said) {
        said.holds &= other.holds;
        said.take(other);
    }

    fn same(&self, at: &At<'s, '_>, schema: &'s Json) -> Outcome {
        self.apply(schema, at.here, at.scope, at.instance, at.depth)
    }

    fn child(&self, at: &At<'s, '_>, schema: &'s Json, instance: &Json) -> Result<bool, Stop> {
        self.apply(schema, at.here, at.scope, instance, at.depth).map(|said| said.holds)
    }

    fn led(&self, at: &At<'s, '_>, target: &'s Json, resource: ResourceId) -> Outcome {
        self.apply(target, resource, at.scope, at.instance, at.depth)
    }

    /// `$ref` (Core, 8.2.3.1).
    fn reference(&self, at: &At<'s, '_>, reference: &Json) -> Outcome {
        let reference = reference.as_text().ok_or(Stop::Broken)?;
        let (target, resource, _) = self.resources.follow(reference, at.here).ok_or(Stop::Broken)?;
        self.led(at, target, resource)
    }

    /// `$recursiveRef` (2019-09 Core, 8.2.4.2): `#`, and where that has `$recursiveAnchor: true`, the outermost resource of the
    /// dynamic scope that has it too.
    fn recursive(&self, at: &At<'s, '_>, reference: &Json) -> Outcome {
        if reference.as_text() != Some("#") {
            return Err(Stop::Broken);
        }
        let is_recursive = |id: &ResourceId| self.resources.all.get(*id).is_some_and(|one| one.recursive);
        let target = match is_recursive(&at.here) {
            true => at.scope.iter().copied().find(is_recursive).unwrap_or(at.here),
            false => at.here,
        };
        let root = self.resources.all.get(target).ok_or(Stop::Broken)?.root;
        self.led(at, root, target)
    }

    /// `$dynamicRef` (Core, 8.2.3.2): where it leads to a dynamic anchor by its name, the outermost resource of the dynamic
    /// scope that has a dynamic anchor of that name.
    fn dynamic(&self, at: &At<'s, '_>, reference: &Json) -> Outcome {
        let reference = reference.as_text().ok_or(Stop::Broken)?;
        let (mut target, mut resource, anchor) = self.resources.follow(reference, at.here).ok_or(Stop::Broken)?;
        let dynamic = |id: ResourceId, name: &str| {
            let (schema, dynamic) = self.resources.all.get(id)?.anchors.get(name)?;
            dynamic.then_some((*schema, id))
        };
        if let Some(name) = anchor.filter(|name| dynamic(resource, name).is_some()) {
            let outermost = at.scope.iter().find_map(|id| dynamic(*id, &name));
            (target, resource) = outermost.unwrap_or((target, resource));
        }
        self.led(at, target, resource)
    }

    /// Validation keywords that look at the instance alone (Validation, 6).
    fn assertions(&self, at: &At<'s, '_>) -> Result<bool, Stop> {
        let At { schema, instance, .. } = *at;
        let mut holds = true;
        for (keyword, value) in schema.members() {
            let keeps = match (keyword.as_str(), instance) {
                ("type", _) => match value {
                    Json::Array(types) => types.iter().any(|one| self.is_of_type(one, instance)),
                    one => self.is_of_type(one, instance),
                },
                ("enum", _) => value.items().iter().any(|one| one.equals(instance)),
                ("const", _) if self.dialect() >= Dialect::Draft06 => value.equals(instance),
                ("multipleOf", Json::Number(number, _)) => (number / bound(value)?).is_integer(),
                ("maximum", Json::Number(number, _)) => {
                    let exclusive = self.dialect() == Dialect::Draft04
                        && matches!(schema.get("exclusiveMaximum"), Some(Json::Bool(true)));
                    if exclusive { *number < bound(value)? } else { *number <= bound(value)? }
                }
                ("minimum", Json::Number(number, _)) => {
                    let exclusive = self.dialect() == Dialect::Draft04
                        && matches!(schema.get("exclusiveMinimum"), Some(Json::Bool(true)));
                    if exclusive { *number > bound(value)? } else { *number >= bound(value)? }
                }
                ("exclusiveMaximum", Json::Number(number, _)) if self.dialect() >= Dialect::Draft06 => {
                    *number < bound(value)?
                }
                ("exclusiveMinimum", Json::Number(number, _)) if self.dialect() >= Dialect::Draft06 => {
                    *number > bound(value)?
                }
                ("maxLength", Json::Text(text)) => counted(text.chars().count()) <= bound(value)?,
                ("minLength", Json::Text(text)) => counted(text.chars().count()) >= bound(value)?,
                ("pattern", Json::Text(text)) => self.matches(value.as_text().ok_or(Stop::Broken)?, text)?,
                ("format", Json::Text(text)) => formats::holds(value.as_text().unwrap_or(""), text),
                ("maxItems", Json::Array(items)) => counted(items.len()) <= bound(value)?,
                ("minItems", Json::Array(items)) => counted(items.len()) >= bound(value)?,
                ("uniqueItems", Json::Array(items)) => {
                    let twice = |(at, one): (usize, &Json)| items.iter().take(at).any(|other| other.equals(one));
                    !matches!(value, Json::Bool(true)) || !items.iter().enumerate().any(twice)
                }
                ("maxProperties", Json::Object(members)) => counted(members.len()) <= bound(value)?,
                ("minProperties", Json::Object(members)) => counted(members.len()) >= bound(value)?,
                ("required", Json::Object(_)) => {
                    value.items().iter().filter_map(Json::as_text).all(|name| instance.get(name).is_some())
                }
                ("dependentRequired", Json::Object(_)) if self.dialect() >= Dialect::Draft201909 => {
                    value.members().iter().all(|(name, others)| required_with(instance, name, others))
                }
                ("dependencies", Json::Object(_)) if self.dialect() <= Dialect::Draft07 => {
                    let arrays = value.members().iter().filter(|(_, one)| matches!(one, Json::Array(_)));
                    arrays.into_iter().all(|(name, others)| required_with(instance, name, others))
                }
                _ => true,
            };
            holds &= keeps;
        }
        Ok(holds)
    }

    /// `type` (Validation, 6.1.1): an integer is any number without a fraction; in draft-04 it must be written without one, too.
    fn is_of_type(&self, name: &Json, instance: &Json) -> bool {
        match (name.as_text().unwrap_or(""), instance) {
            ("null", Json::Null)
            | ("boolean", Json::Bool(_))
            | ("number", Json::Number(..))
            | ("string", Json::Text(_))
            | ("array", Json::Array(_))
            | ("object", Json::Object(_)) => true,
            ("integer", Json::Number(number, text)) => {
                number.is_integer() && (self.dialect() > Dialect::Draft04 || !text.contains(['.', 'e', 'E']))
            }
            _ => false,
        }
    }

    /// Keywords that apply schemas to the same instance (Core, 10.2).
    fn in_place(&self, at: &At<'s, '_>, said: &mut Said) -> Result<(), Stop> {
        let schema = at.schema;
        for one in schema.get("allOf").map_or(&[][..], Json::items) {
            let other = self.same(at, one)?;
            self.join(said, &other);
        }
        if let Some(any) = schema.get("anyOf") {
            let all: Vec<Said> = any.items().iter().map(|one| self.same(at, one)).collect::<Result<_, _>>()?;
            said.holds &= all.iter().any(|one| one.holds);
            all.iter().for_each(|one| said.take(one));
        }
        if let Some(one_of) = schema.get("oneOf") {
            let all: Vec<Said> = one_of.items().iter().map(|one| self.same(at, one)).collect::<Result<_, _>>()?;
            said.holds &= all.iter().filter(|one| one.holds).count() == 1;
            all.iter().for_each(|one| said.take(one));
        }
        if let Some(not) = schema.get("not") {
            said.holds &= !self.same(at, not)?.holds;
        }
        if let (Some(condition), true) = (schema.get("if"), self.dialect() >= Dialect::Draft07) {
            let met = self.same(at, condition)?;
            said.take(&met);
            if let Some(branch) = schema.get(if met.holds { "then" } else { "else" }) {
                let other = self.same(at, branch)?;
                self.join(said, &other);
            }
        }
        let dependent = match self.dialect() {
            Dialect::Draft201909 | Dialect::Draft202012 => schema.get("dependentSchemas"),
            _ => schema.get("dependencies"),
        };
        for (name, one) in dependent.map_or(&[][..], Json::members) {
            if !matches!(one, Json::Array(_)) && at.instance.get(name).is_some() {
                let other = self.same(at, one)?;
                self.join(said, &other);
            }
        }
        Ok(())
    }

    /// Keywords that apply schemas to members (Core, 10.3.2).
    fn object(&self, at: &At<'s, '_>, said: &mut Said) -> Result<(), Stop> {
        let At { schema, instance, .. } = *at;
        for (name, value) in instance.members() {
            let mut described = false;
            if let Some(one) = schema.get("properties").and_then(|all| all.get(name)) {
                described = true;
                said.holds &= self.child(at, one, value)?;
            }
            for (pattern, one) in schema.get("patternProperties").map_or(&[][..], Json::members) {
                if self.matches(pattern, name)? {
                    described = true;
                    said.holds &= self.child(at, one, value)?;
                }
            }
            if let (Some(rest), false) = (schema.get("additionalProperties"), described) {
                described = true;
                said.holds &= self.child(at, rest, value)?;
            }
            if described {
                said.properties.insert(name.clone());
            }
            if let (Some(names), true) = (schema.get("propertyNames"), self.dialect() >= Dialect::Draft06) {
                said.holds &= self.child(at, names, &Json::Text(name.clone()))?;
            }
        }
        Ok(())
    }

    /// Keywords that apply schemas to items (Core, 10.3.1).
    fn array(&self, at: &At<'s, '_>, said: &mut Said) -> Result<(), Stop> {
        let At { schema, instance, .. } = *at;
        let (prefix, rest) = match (self.dialect(), schema.get("items")) {
            (Dialect::Draft202012, rest) => (schema.get("prefixItems").map_or(&[][..], Json::items), rest),
            (_, Some(Json::Array(prefix))) => (prefix.as_slice(), schema.get("additionalItems")),
            (_, rest) => (&[][..], rest),
        };
        for (index, item) in instance.items().iter().enumerate() {
            if let Some(one) = prefix.get(index).or(rest) {
                said.holds &= self.child(at, one, item)?;
                said.items.insert(index);
            }
        }
        if let (Some(wanted), true) = (schema.get("contains"), self.dialect() >= Dialect::Draft06) {
            let mut found = 0usize;
            for (index, item) in instance.items().iter().enumerate() {
                if self.child(at, wanted, item)? {
                    found += 1;
                    // Since 2020-12 they count as evaluated (Core, 10.3.1.3).
                    if self.dialect() == Dialect::Draft202012 {
                        said.items.insert(index);
                    }
                }
            }
            let limits = self.dialect() >= Dialect::Draft201909;
            let least = schema.get("minContains").filter(|_| limits).map(bound).transpose()?;
            said.holds &= counted(found) >= least.unwrap_or_else(|| counted(1));
            if let Some(most) = schema.get("maxContains").filter(|_| limits).map(bound).transpose()? {
                said.holds &= counted(found) <= most;
            }
        }
        Ok(())
    }

    /// `unevaluatedItems` and `unevaluatedProperties` (Core, 11), after all others.
    fn unevaluated(&self, at: &At<'s, '_>, said: &mut Said) -> Result<(), Stop> {
        if self.dialect() < Dialect::Draft201909 {
            return Ok(());
        }
        let At { schema, instance, .. } = *at;
        if let (Some(rest), Json::Array(items)) = (schema.get("unevaluatedItems"), instance) {
            for (index, item) in items.iter().enumerate() {
                if !said.items.contains(&index) {
                    said.holds &= self.child(at, rest, item)?;
                }
            }
            said.items.extend(0..items.len());
        }
        if let (Some(rest), Json::Object(members)) = (schema.get("unevaluatedProperties"), instance) {
            for (name, value) in members {
                if !said.properties.contains(name) {
                    said.holds &= self.child(at, rest, value)?;
                }
            }
            said.properties.extend(members.iter().map(|(name, _)| name.clone()));
        }
        Ok(())
    }
}

/// A schema at an instance.
struct At<'s, 'e> {
    schema: &'s Json,
    here: ResourceId,
    scope: &'e [ResourceId],
    instance: &'e Json,
    depth: usize,
}

fn counted(count: usize) -> BigRational {
    BigRational::from_integer(count.into())
}

fn bound(value: &Json) -> Result<BigRational, Stop> {
    value.count().ok_or(Stop::Broken)
}

fn required_with(instance: &Json, name: &str, others: &Json) -> bool {
    instance.get(name).is_none()
        || others.items().iter().filter_map(Json::as_text).all(|other| instance.get(other).is_some())
}

fn gather_patterns(schema: &Json, patterns: &mut HashMap<String, Option<regress::Regex>>) {
    for (name, value) in schema.members() {
        if let ("pattern", Json::Text(pattern)) = (name.as_str(), value) {
            patterns.entry(pattern.clone()).or_insert_with(|| compiled(pattern));
        }
        if name == "patternProperties" {
            for (pattern, _) in value.members() {
                patterns.entry(pattern.clone()).or_insert_with(|| compiled(pattern));
            }
        }
        gather_patterns(value, patterns);
    }
    schema.items().iter().for_each(|one| gather_patterns(one, patterns));
}

/// A regular expression of ECMA-262 with its `u` flag (Core, 6.4).
fn compiled(pattern: &str) -> Option<regress::Regex> {
    regress::Regex::with_flags(pattern, "u").ok()
}
