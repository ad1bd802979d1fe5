//! The rules of one (sub)schema, keyword by keyword.

use super::Compiler;
use super::Direction;
use crate::content::{self, Encoding};
use crate::dialect::{Dialect, Language, Vocabulary};
use crate::error::Breach;
use crate::file::{FileId, Location};
use crate::format::{self, Format};
use crate::keyword::{self, Treatment};
use crate::names::NameTable;
use crate::pattern::Pattern;
use crate::resource::{RECURSIVE, ResourceId};
use crate::schema::{
    ContainsTest, ContentTest, Dependencies, DynamicTest, Entry, HashedName, IfTest, ItemsTest, Kinds, MembersTest,
    Rule, SchemaId, Test, Types, Union, Values,
};
use mervik_document::{Decimal, Kind, Member, NodeId, Value, near};
use std::collections::HashSet;

/// The schema whose keywords are read.
#[derive(Clone, Copy)]
pub(super) struct Here<'d> {
    pub(super) schema: Value<'d>,
    file: FileId,
    pub(super) resource: ResourceId,
    language: Language,
}

impl<'d> Here<'d> {
    pub(super) fn at(self, node: NodeId) -> Location {
        Location { file: self.file, node }
    }

    /// Whether a keyword is `true`, which in draft-04 makes a bound exclusive.
    fn is_true(self, name: &str) -> bool {
        self.language.dialect == Dialect::Draft04
            && self.member(name).is_some_and(|member| member.value.as_bool() == Some(true))
    }

    /// The keyword `name`, if the schema has it and its language knows it.
    fn member(self, name: &str) -> Option<Member<'d>> {
        keyword::find(name, self.language)?;
        self.schema.members().find(|member| member.name.text() == name)
    }
}

impl Compiler<'_> {
    pub(super) fn rules_at(&mut self, at: Location, resource: ResourceId) -> Vec<Rule> {
        let Some(file) = self.resources.file(at.file) else { return Vec::new() };
        let document = file.document();
        let schema = document.value(at.node);
        let here = Here { schema, file: at.file, resource, language: self.resources.language(resource) };
        match schema.kind() {
            Kind::Bool if schema.as_bool() == Some(true) => Vec::new(),
            Kind::Bool => vec![Rule { kinds: Kinds::ALL, test: Test::Never, at }],
            Kind::Object => self.rules_of_object(here),
            _ => {
                let is = if at.node == NodeId::ROOT { "a schema" } else { "a subschema" };
                let message =
                    format!("{is} must be an object or a boolean, found {}", mervik_document::shown::value(schema));
                self.resources.error(Breach::Value, at, message, None);
                Vec::new()
            }
        }
    }

    fn rules_of_object(&mut self, here: Here<'_>) -> Vec<Rule> {
        let mut rules = Vec::new();
        // Keywords that are checked together make one rule, at the first of them.
        let (mut members, mut items, mut content) = (false, false, false);
        let alone = here.language.ref_stands_alone()
            && here.member("$ref").is_some_and(|member| member.value.as_str().is_some());
        for member in here.schema.members() {
            let name = member.name.text();
            if alone && name != "$ref" {
                continue;
            }
            if name == "title" {
                self.title(here, member.value);
            }
            match keyword::find(name, here.language) {
                Some(keyword) if keyword.treatment == Treatment::Applied => {
                    let first = match name {
                        "properties" | "patternProperties" | "additionalProperties" | "required" => {
                            !std::mem::replace(&mut members, true)
                        }
                        "prefixItems" | "items" | "additionalItems" => !std::mem::replace(&mut items, true),
                        "contentEncoding" | "contentMediaType" | "contentSchema" => {
                            !std::mem::replace(&mut content, true)
                        }
                        _ => true,
                    };
                    if let Some((kinds, test)) = self.test(here, name, member.value, first) {
                        rules.push(Rule { kinds, test, at: here.at(member.name.id()) });
                    }
                    if name == "x-mervik" {
                        self.label(here, member.value);
                        rules.extend(self.stated(here, member.value));
                    }
                    if name == "dependencies" {
                        rules.extend(self.dependencies(here, name, member));
                    }
                    if name == "required" {
                        rules.push(Rule { kinds: Kinds::NONE, test: Test::Required, at: here.at(member.name.id()) });
                    }
                }
                _ => {}
            }
        }
        rules
    }

    /// The test of one keyword. `first` is false when the keyword is checked together with one that came before.
    fn test(&mut self, here: Here<'_>, name: &str, value: Value<'_>, first: bool) -> Option<(Kinds, Test)> {
        let file = here.file;
        let count = |compiler: &mut Self| compiler.count(file, name, value);
        let bound = |compiler: &mut Self| compiler.decimal(file, name, value).map(Box::new);
        let test = match name {
            "$schema" | "$id" | "id" | "$anchor" | "$dynamicAnchor" => return self.string(file, name, value).and(None),
            "x-mervik" => return self.directives(file, value).and(None),
            "$recursiveAnchor" => return self.boolean(file, name, value).and(None),
            "$defs" | "definitions" => return self.compile_definitions(here, name, value),
            "$dynamicRef" => return self.dynamic_reference(here, name, value),
            "$recursiveRef" => return self.recursive_reference(here, name, value),
            "$ref" => return self.reference(here, name, value).map(|id| (Kinds::ALL, Test::Ref(id))),
            "allOf" => (Kinds::ALL, Test::AllOf(self.schemas(here, name, value)?)),
            "anyOf" => (Kinds::ALL, Test::AnyOf(self.union(here, name, value)?)),
            "oneOf" => (Kinds::ALL, Test::OneOf(self.union(here, name, value)?)),
            "not" => (Kinds::ALL, Test::Not(self.subschema(here, value))),
            "if" => return self.condition(here, value),
            "then" | "else" => {
                // Without `if` it has no effect (Core, 10.2.2.2), but it must be a schema all the same.
                self.subschema(here, value);
                return None;
            }
            "dependentSchemas" => (Kinds::OBJECTS, Test::DependentSchemas(self.schema_map(here, name, value)?)),
            "properties" | "patternProperties" | "additionalProperties" | "required" => {
                if !first {
                    return None;
                }
                (Kinds::OBJECTS, Test::Members(self.members(here)))
            }
            "propertyNames" => (Kinds::OBJECTS, Test::PropertyNames(self.subschema(here, value))),
            "prefixItems" | "items" | "additionalItems" => {
                if !first {
                    return None;
                }
                (Kinds::ARRAYS, Test::Items(self.items(here)))
            }
            "contains" => (Kinds::ARRAYS, Test::Contains(self.contains(here, value))),
            "minContains" | "maxContains" => return count(self).and(None),
            "type" => (Kinds::NONE, Test::Type(self.types(here, name, value)?)),
            "enum" => {
                self.is_array(file, name, value, false).then_some(())?;
                (Kinds::ALL, Test::OneOfValues(values(here, value.items(), false)))
            }
            "const" => (Kinds::ALL, Test::OneOfValues(values(here, std::iter::once(value), true))),
            "multipleOf" => (Kinds::NUMBERS, Test::MultipleOf(self.divisor(here, name, value)?)),
            "exclusiveMaximum" | "exclusiveMinimum" if here.language.dialect == Dialect::Draft04 => {
                return self.boolean(file, name, value).and(None);
            }
            "maximum" if here.is_true("exclusiveMaximum") => (Kinds::NUMBERS, Test::ExclusiveMaximum(bound(self)?)),
            "minimum" if here.is_true("exclusiveMinimum") => (Kinds::NUMBERS, Test::ExclusiveMinimum(bound(self)?)),
            "maximum" => (Kinds::NUMBERS, Test::Maximum(bound(self)?)),
            "exclusiveMaximum" => (Kinds::NUMBERS, Test::ExclusiveMaximum(bound(self)?)),
            "minimum" => (Kinds::NUMBERS, Test::Minimum(bound(self)?)),
            "exclusiveMinimum" => (Kinds::NUMBERS, Test::ExclusiveMinimum(bound(self)?)),
            "maxLength" => (Kinds::STRINGS, Test::MaxLength(count(self)?)),
            "minLength" => (Kinds::STRINGS, Test::MinLength(count(self)?)),
            "pattern" => {
                let text = self.string(file, name, value)?;
                (Kinds::STRINGS, Test::Pattern(Box::new(self.pattern(here, name, value, text)?)))
            }
            "format" => (Kinds::STRINGS, Test::Format(self.format(here, name, value)?)),
            "maxItems" => (Kinds::ARRAYS, Test::MaxItems(count(self)?)),
            "minItems" => (Kinds::ARRAYS, Test::MinItems(count(self)?)),
            "uniqueItems" => match self.boolean(file, name, value)? {
                true => (Kinds::ARRAYS, Test::UniqueItems),
                false => return None,
            },
            "unevaluatedItems" => (Kinds::ARRAYS, Test::UnevaluatedItems(self.subschema(here, value))),
            "unevaluatedProperties" => (Kinds::OBJECTS, Test::UnevaluatedProperties(self.subschema(here, value))),
            "deprecated" => {
                let warned = self.boolean(file, name, value)? && self.options.warn_deprecated;
                return warned.then_some((Kinds::ALL, Test::Deprecated));
            }
            "readOnly" | "writeOnly" => {
                if name == "writeOnly" && value.as_bool() == Some(true) {
                    self.secrets.insert(here.at(here.schema.id()));
                }
                let wrong = if name == "readOnly" { Direction::Request } else { Direction::Response };
                let holds = self.boolean(file, name, value)? && self.options.direction == Some(wrong);
                return holds.then_some((Kinds::ALL, Test::WrongDirection));
            }
            "contentEncoding" | "contentMediaType" | "contentSchema" => {
                if !first || !self.options.assert_content {
                    return None;
                }
                (Kinds::STRINGS, Test::Content(self.content(here)))
            }
            "maxProperties" => (Kinds::OBJECTS, Test::MaxProperties(count(self)?)),
            "minProperties" => (Kinds::OBJECTS, Test::MinProperties(count(self)?)),
            "dependentRequired" => {
                (Kinds::OBJECTS, Test::DependentRequired(self.dependent_required(here, name, value)?))
            }
            _ => return None,
        };
        Some(test)
    }

    fn subschema(&mut self, here: Here<'_>, value: Value<'_>) -> SchemaId {
        self.schema_at(here.at(value.id()), here.resource)
    }

    fn schemas(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<Box<[SchemaId]>> {
        self.is_array(here.file, name, value, true)
            .then(|| value.items().map(|item| self.subschema(here, item)).collect())
    }

    fn schema_map(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<Dependencies<SchemaId>> {
        self.is_object(here.file, name, value).then(|| {
            let members = value.members();
            members.map(|member| (member.name.text().into(), self.subschema(here, member.value))).collect()
        })
    }

    /// `$dynamicRef`: a `$ref`, unless it leads to a dynamic anchor by its name (Core, 8.2.3.2).
    fn dynamic_reference(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<(Kinds, Test)> {
        let reference = self.string(here.file, name, value)?;
        let (at, resource) = self.resources.resolve(here.resource, reference, here.at(value.id()))?;
        let target = self.schema_at(at, resource);
        let anchor = reference.split_once('#').map_or("", |(_, fragment)| fragment);
        if anchor.is_empty() || !self.resources.is_dynamic_anchor(resource, anchor, at) {
            return Some((Kinds::ALL, Test::Ref(target)));
        }
        let test = DynamicTest { name: anchor.to_owned(), target, table: Vec::new() };
        Some((Kinds::ALL, Test::Dynamic(Box::new(test))))
    }

    /// `$recursiveRef`: to the root of the resource, or of an outer one that has `$recursiveAnchor` (2019-09 Core, 8.2.4.2).
    fn recursive_reference(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<(Kinds, Test)> {
        let reference = self.string(here.file, name, value)?;
        if reference != "#" {
            self.wrong_shape(here.file, name, value, "`\"#\"`");
            return None;
        }
        let root = self.resources.root_of(here.resource)?;
        let target = self.schema_at(root, here.resource);
        if !self.resources.is_dynamic_anchor(here.resource, RECURSIVE, root) {
            return Some((Kinds::ALL, Test::Ref(target)));
        }
        let test = DynamicTest { name: RECURSIVE.to_owned(), target, table: Vec::new() };
        Some((Kinds::ALL, Test::Dynamic(Box::new(test))))
    }

    /// Definitions are compiled even when nothing refers to them, so that their errors are found.
    fn compile_definitions(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<(Kinds, Test)> {
        self.schema_map(here, name, value).and(None)
    }

    fn reference(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<SchemaId> {
        let reference = self.string(here.file, name, value)?;
        let (target, resource) = self.resources.resolve(here.resource, reference, here.at(value.id()))?;
        Some(self.schema_at(target, resource))
    }

    fn union(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<Box<Union>> {
        let branches = self.schemas(here, name, value)?;
        let named = here.language.discriminates.then(|| self.discriminator(here, value)).flatten();
        Some(Box::new(Union { branches, tag: None, named }))
    }

    fn condition(&mut self, here: Here<'_>, value: Value<'_>) -> Option<(Kinds, Test)> {
        let condition = self.subschema(here, value);
        let mut branch = |name| here.member(name).map(|member| self.subschema(here, member.value));
        let (then, otherwise) = (branch("then"), branch("else"));
        // Alone it refuses nothing, but evaluates (Core, 10.2.2.1).
        Some((Kinds::ALL, Test::If(Box::new(IfTest { condition, then, otherwise }))))
    }

    fn items(&mut self, here: Here<'_>) -> Box<ItemsTest> {
        let items = here.member("items");
        // Before 2020-12, an array in `items` is what `prefixItems` is now, and `additionalItems` is for the rest.
        let older = here.language.dialect <= Dialect::Draft201909;
        let listed = items.filter(|member| older && member.value.kind() == Kind::Array);
        let (prefix, rest) = match listed {
            Some(_) => (listed, here.member("additionalItems")),
            None => (here.member("prefixItems"), items),
        };
        let prefix = prefix.and_then(|member| self.schemas(here, "prefixItems", member.value));
        let rest = rest.and_then(|member| {
            if member.value.kind() == Kind::Array {
                let at = here.at(member.value.id());
                let hint = "`prefixItems` takes a schema for each place".to_owned();
                self.resources.error(
                    Breach::Value,
                    at,
                    "`items` must be one schema, found an array".to_owned(),
                    Some(hint),
                );
                return None;
            }
            Some(self.subschema(here, member.value))
        });
        Box::new(ItemsTest { prefix: prefix.unwrap_or_default(), rest })
    }

    fn contains(&mut self, here: Here<'_>, value: Value<'_>) -> Box<ContainsTest> {
        let schema = self.subschema(here, value);
        let mut limit = |name| {
            let member = here.member(name)?;
            Some((self.count(here.file, name, member.value)?, here.at(member.name.id())))
        };
        let (min, max) = (limit("minContains"), limit("maxContains"));
        Box::new(ContainsTest {
            schema,
            min: min.map_or(1, |(min, _)| min),
            max: max.map(|(max, _)| max),
            evaluates: here.language.dialect == Dialect::Draft202012,
            min_rule: min.map(|(_, at)| at),
            max_rule: max.map(|(_, at)| at),
        })
    }

    fn members(&mut self, here: Here<'_>) -> Box<MembersTest> {
        let value = |name| here.member(name).map(|member| member.value);
        let properties = value("properties").and_then(|value| self.schema_map(here, "properties", value));
        let required = value("required").and_then(|value| self.names(here.file, "required", value)).unwrap_or_default();
        let mut names: Vec<Box<str>> = Vec::new();
        let mut entries: Vec<Entry> = Vec::new();
        for (name, schema) in properties.unwrap_or_default() {
            names.push(name.text);
            entries.push(Entry { schema: Some(schema), required: None });
        }
        let known = NameTable::new(names.iter().cloned());
        for (number, name) in required.iter().enumerate() {
            match known.find(name).and_then(|at| entries.get_mut(at)) {
                Some(entry) => entry.required = Some(number as u32),
                None => {
                    names.push(name.clone());
                    entries.push(Entry { schema: None, required: Some(number as u32) });
                }
            }
        }
        let patterns = value("patternProperties").map(|value| self.pattern_properties(here, value)).unwrap_or_default();
        let additional = value("additionalProperties").map(|value| self.subschema(here, value));
        Box::new(MembersTest {
            table: NameTable::new(names),
            entries: entries.into(),
            patterns,
            additional,
            required: required.len() as u32,
            required_rule: None,
            straight: None,
        })
    }

    fn pattern_properties(&mut self, here: Here<'_>, value: Value<'_>) -> Box<[(Pattern, SchemaId)]> {
        if !self.is_object(here.file, "patternProperties", value) {
            return Box::default();
        }
        let mut patterns = Vec::new();
        for member in value.members() {
            let schema = self.subschema(here, member.value);
            let pattern = self.pattern(here, "patternProperties", member.name.as_value(), member.name.text());
            patterns.extend(pattern.map(|pattern| (pattern, schema)));
        }
        patterns.into()
    }

    fn pattern(&mut self, here: Here<'_>, name: &str, value: Value<'_>, text: &str) -> Option<Pattern> {
        match Pattern::new(text) {
            Ok(pattern) => Some(pattern),
            Err(error) => {
                let message = format!("`{name}` must be a regular expression, found `{text}`: {}", error.message);
                self.resources.error(Breach::Pattern, here.at(value.id()), message, error.hint);
                None
            }
        }
    }

    fn types(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<Types> {
        let plain = here.language.dialect == Dialect::Draft04;
        let mut types = Types { kinds: Kinds::NONE, integer: false, plain };
        let mut add = |compiler: &mut Self, item: Value<'_>| match item.as_str().and_then(type_kinds) {
            Some(one) => {
                types.kinds.0 |= one.kinds.0;
                types.integer |= one.integer;
            }
            None => {
                let near = item.as_str().and_then(|word| near::nearest(word, TYPES.iter().map(|(word, _)| *word)));
                let list: Vec<String> = TYPES.iter().map(|(word, _)| format!("`\"{word}\"`")).collect();
                let at = here.at(item.id());
                let message = format!("`{name}` must be one of {}, found `{}`", list.join(", "), item.source());
                compiler.resources.error(Breach::Value, at, message, near.map(|near| format!("`\"{near}\"` is near")));
            }
        };
        match value.kind() {
            Kind::Array => {
                self.is_array(here.file, name, value, true).then_some(())?;
                value.items().for_each(|item| add(self, item));
            }
            _ => add(self, value),
        }
        // OpenAPI 3.0.3, 4.7.24: beside `type`, it allows `null` too.
        let nullable = || here.schema.get("nullable").and_then(Value::as_bool) == Some(true);
        if here.language.openapi && nullable() {
            types.kinds = types.kinds.with(Kinds::of(Kind::Null));
        }
        Some(types)
    }

    fn divisor(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<Box<Decimal>> {
        let number = self.decimal(here.file, name, value)?;
        if number.is_zero() || number.is_negative() {
            self.wrong_shape(here.file, name, value, "a number above 0");
            return None;
        }
        Some(Box::new(number))
    }

    fn format(&mut self, here: Here<'_>, name: &str, value: Value<'_>) -> Option<Format> {
        let word = self.string(here.file, name, value)?;
        if format::is_note(word) {
            self.secrets.insert(here.at(here.schema.id()));
        }
        if !self.options.assert_formats && !here.language.has(Vocabulary::FormatAssertion) {
            return None;
        }
        // What is not known is an annotation (Validation, 7.2.3).
        Format::find(word)
    }

    /// `dependencies`: in one what `dependentRequired` and `dependentSchemas` are now (draft-07 Validation, 6.5.7).
    fn dependencies(&mut self, here: Here<'_>, name: &str, member: Member<'_>) -> Vec<Rule> {
        if !self.is_object(here.file, name, member.value) {
            return Vec::new();
        }
        let (mut names, mut schemas) = (Vec::new(), Vec::new());
        for one in member.value.members() {
            let when = HashedName::from(one.name.text());
            if one.value.kind() == Kind::Array {
                let listed = self.names(here.file, name, one.value).unwrap_or_default();
                names.push((when, listed.iter().map(|name| HashedName::from(&**name)).collect()));
            } else {
                schemas.push((when, self.subschema(here, one.value)));
            }
        }
        let rule = |test| Rule { kinds: Kinds::OBJECTS, test, at: here.at(member.name.id()) };
        vec![rule(Test::DependentRequired(names.into())), rule(Test::DependentSchemas(schemas.into()))]
    }

    /// The content keywords, which are checked in one go.
    fn content(&mut self, here: Here<'_>) -> Box<ContentTest> {
        let text = |name| here.member(name).and_then(|member| member.value.as_str());
        let json = text("contentMediaType").is_some_and(content::is_json);
        let schema = here.member("contentSchema").filter(|_| json);
        Box::new(ContentTest {
            encoding: text("contentEncoding").and_then(Encoding::find),
            json,
            schema: schema.map(|member| self.subschema(here, member.value)),
        })
    }

    fn dependent_required(
        &mut self,
        here: Here<'_>,
        name: &str,
        value: Value<'_>,
    ) -> Option<Dependencies<Box<[HashedName]>>> {
        if !self.is_object(here.file, name, value) {
            return None;
        }
        let all = value.members().filter_map(|member| {
            let names = self.names(here.file, name, member.value)?;
            let names = names.iter().map(|name| HashedName::from(&**name)).collect();
            Some((HashedName::from(member.name.text()), names))
        });
        Some(all.collect())
    }
}

fn values<'v>(here: Here<'_>, all: impl Iterator<Item = Value<'v>>, single: bool) -> Box<Values> {
    let (mut strings, mut numbers): (Vec<Box<str>>, Vec<Decimal>) = Default::default();
    let (mut others, mut places): (Vec<Location>, Vec<Location>) = Default::default();
    let mut seen = HashSet::new();
    for value in all {
        let at = here.at(value.id());
        places.push(at);
        match value.as_str() {
            Some(text) if seen.insert(text) => strings.push(text.into()),
            Some(_) => {}
            None => match value.as_decimal() {
                Some(number) => numbers.push(number),
                None => others.push(at),
            },
        }
    }
    Box::new(Values {
        strings: NameTable::new(strings),
        numbers: numbers.into(),
        others: others.into(),
        single,
        all: places.into(),
    })
}

/// The words of `type` (Validation, 6.1.1).
const TYPES: &[(&str, Types)] = &[
    ("null", Types { kinds: Kinds::of(Kind::Null), integer: false, plain: false }),
    ("boolean", Types { kinds: Kinds::of(Kind::Bool), integer: false, plain: false }),
    ("object", Types { kinds: Kinds::OBJECTS, integer: false, plain: false }),
    ("array", Types { kinds: Kinds::ARRAYS, integer: false, plain: false }),
    ("number", Types { kinds: Kinds::NUMBERS, integer: false, plain: false }),
    ("string", Types { kinds: Kinds::STRINGS, integer: false, plain: false }),
    ("integer", Types { kinds: Kinds::NONE, integer: true, plain: false }),
];

fn type_kinds(word: &str) -> Option<Types> {
    TYPES.iter().find(|(known, _)| *known == word).map(|(_, types)| *types)
}

/// The words for the types that are allowed; for messages.
pub(crate) fn type_words(types: Types) -> Vec<&'static str> {
    let inside = |one: &Types| (one.integer && types.integer) || one.kinds.meets(types.kinds);
    TYPES.iter().filter(|(_, one)| inside(one)).map(|(word, _)| *word).collect()
}
