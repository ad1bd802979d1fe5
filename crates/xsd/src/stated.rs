//! Rules between fields, as directives state them: `<d:rules id="…" that="…"/>` about an element or a complex type.

mod fields;
mod grove;
mod reach;

pub(crate) use grove::{At, Grove, Place, Planted};

use crate::build::Components;
use crate::component::*;
use crate::content::Model;
use crate::directives::{DIRECTIVE, Directives};
use crate::remark::Findings;
use fields::{kind_of, of_schema};
use mervik_document::{Severity, near};
use mervik_messages::{ALWAYS, Message, identifier};
use mervik_rules::syntax::Expr;
use mervik_rules::{Bound, Checked, Condition, Kind};
use reach::Reach;
use std::collections::{BTreeSet, HashSet};

/// A rule as a directive states it.
#[derive(Debug)]
pub(crate) struct Written {
    pub(crate) id: String,
    pub(crate) that: Expr,
    pub(crate) when: Option<Expr>,
    pub(crate) severity: Severity,
    pub(crate) message: Option<Message>,
    /// The directive.
    pub(crate) at: Origin,
    /// Of a rule of a set that the directive uses: what stands for its parameters.
    pub(crate) bound: Option<Bound>,
}

/// A rule between fields, ready to be asked.
#[derive(Debug)]
pub(crate) struct Stated {
    pub(crate) id: Box<str>,
    /// The rule as it is printed: the condition, after its guard.
    pub(crate) text: Box<str>,
    pub(crate) severity: Severity,
    pub(crate) message: Option<Message>,
    pub(crate) that: Condition,
    pub(crate) when: Option<Condition>,
    pub(crate) at: Origin,
    pub(crate) bound: Option<Bound>,
}

/// The rules of a schema, and where they stand.
#[derive(Debug, Default)]
pub(crate) struct StatedRules {
    pub(crate) all: Vec<Stated>,
    /// By the number of the element or the type.
    of_elements: Vec<Vec<u32>>,
    /// Those of the types that a type is derived from are among its own.
    of_types: Vec<Vec<u32>>,
    /// The kind of the values of each simple type, by its number.
    kinds: Vec<Option<Kind>>,
    /// Whether any rule reads what lies above its place, so that documents are kept from the root on.
    pub(crate) looks_up: bool,
    /// What they may read.
    pub(crate) reach: Reach,
}

impl StatedRules {
    /// The rules of an element with its type, by their numbers.
    pub(crate) fn of(&self, element: Option<ElementId>, ty: TypeId) -> impl Iterator<Item = u32> + '_ {
        let of_element = element.and_then(|id| self.of_elements.get(id.0 as usize)).into_iter().flatten();
        of_element.chain(self.of_types.get(ty.0 as usize).into_iter().flatten()).copied()
    }

    /// The kind of the values of a simple type; `None` where it has several, or none that rules know.
    fn kind(&self, ty: TypeId) -> Option<Kind> {
        self.kinds.get(ty.0 as usize).copied().flatten()
    }

    /// Checks the rules that directives state against what is declared.
    pub(crate) fn compile(
        components: &Components,
        models: &[Model],
        directives: &mut Directives,
        findings: &mut Findings,
    ) -> StatedRules {
        let written = directives.take_rules();
        if written.is_empty() {
            return StatedRules::default();
        }
        let mut stands = Stands::default();
        for (about, rules) in &written {
            let elements = components.elements.iter().zip(0..).filter(|(element, _)| element.origin == Some(*about));
            let elements: Vec<ElementId> = elements.map(|(_, id)| ElementId(id)).collect();
            let types = (0..components.types.len() as u32).map(TypeId);
            let types: Vec<TypeId> = types
                .filter(|id| components.complex(*id).is_some_and(|complex| complex.origin == Some(*about)))
                .collect();
            for _ in rules {
                stands.elements.push(elements.clone());
                stands.types.push(types.clone());
            }
        }
        let all: Vec<Written> = written.into_iter().flat_map(|(_, rules)| rules).collect();
        let derived = |from: TypeId, ty: TypeId| components.complex(ty).is_some() && is_derived(components, ty, from);
        for types in &mut stands.types {
            let bases = types.clone();
            types.extend(
                (0..components.types.len() as u32)
                    .map(TypeId)
                    .filter(|ty| !bases.contains(ty) && bases.iter().any(|base| derived(*base, *ty))),
            );
        }
        let fields = of_schema(components, models, &stands);
        let checked = mervik_rules::check_all(&fields, fields.roots(), |rule| {
            let one = all.get(rule);
            (one.map(|one| &one.that), one.and_then(|one| one.when.as_ref()))
        });
        let mut ready: Vec<(Option<Condition>, Option<Condition>)> = all.iter().map(|_| (None, None)).collect();
        let mut faulty = HashSet::new();
        for Checked { rule, is_guard, outcome } in checked {
            let (Some(one), Some(into)) = (all.get(rule), ready.get_mut(rule)) else { continue };
            match outcome {
                Ok(condition) if is_guard => into.1 = Some(condition),
                Ok(condition) => into.0 = Some(condition),
                Err(fault) => {
                    faulty.insert(rule);
                    if one.bound.is_some() {
                        findings.error(DIRECTIVE, one.at, mervik_rules::unfit(&one.id, &fault));
                        if let Some(hint) = fault.hint {
                            findings.hint(hint);
                        }
                        continue;
                    }
                    let attribute = if is_guard { "when" } else { "that" };
                    findings.error(DIRECTIVE, one.at, fault.message).at(attribute).part(fault.span);
                    if let Some(hint) = fault.hint {
                        findings.hint(hint);
                    }
                }
            }
        }
        let types = components.types.len();
        let mut rules = StatedRules {
            of_elements: vec![Vec::new(); components.elements.len()],
            of_types: vec![Vec::new(); types],
            kinds: (0..types as u32).map(|ty| kind_of(components, TypeId(ty))).collect(),
            ..StatedRules::default()
        };
        for (index, (one, (that, when))) in all.into_iter().zip(ready).enumerate() {
            if faulty.contains(&index) {
                continue;
            }
            let Some(that) = that.filter(|_| one.when.is_some() == when.is_some()) else {
                let message = "no rule can stand here: it is not known what its fields are".to_owned();
                findings.error(DIRECTIVE, one.at, message).hint("rules are about elements and complex types");
                continue;
            };
            let guard = one.when.as_ref().map(|when| format!("if {when} then ")).unwrap_or_default();
            let text = format!("{guard}{}", one.that).into();
            let Written { id, severity, message, at, bound, .. } = one;
            let stated = Stated { id: id.into(), text, severity, message, that, when, at, bound };
            stated.check_placeholders(findings);
            rules.looks_up |= stated.conditions().any(Condition::looks_up);
            let number = rules.all.len() as u32;
            for element in stands.elements.get(index).into_iter().flatten() {
                if let Some(rules) = rules.of_elements.get_mut(element.0 as usize) {
                    rules.push(number);
                }
            }
            for ty in stands.types.get(index).into_iter().flatten() {
                if let Some(rules) = rules.of_types.get_mut(ty.0 as usize) {
                    rules.push(number);
                }
            }
            rules.all.push(stated);
        }
        rules.reach = Reach::of(&rules, components, models);
        rules
    }
}

impl Stated {
    pub(crate) fn conditions(&self) -> impl Iterator<Item = &Condition> {
        [Some(&self.that), self.when.as_ref()].into_iter().flatten()
    }

    /// What can be filled in where it is told.
    pub(crate) fn placeholders(&self) -> BTreeSet<String> {
        let fields = self.conditions().flat_map(Condition::spelled);
        let always = ALWAYS.iter().map(|name| (*name).to_owned());
        let parameters = self.bound.iter().flat_map(Bound::names).map(str::to_owned);
        let fields = fields.filter_map(|field| placeholder(&field));
        fields.chain(always).chain(parameters).collect()
    }

    fn check_placeholders(&self, findings: &mut Findings) {
        let known = self.placeholders();
        for one in self.message.iter().flat_map(Message::placeholders).filter(|one| !known.contains(&one.name)) {
            let message = format!("there is nothing to fill in for `{}`", one.name);
            findings.error(DIRECTIVE, self.at, message).at("message").part(one.span);
            if let Some(near) = near::nearest(&one.name, known.iter().map(String::as_str)) {
                findings.hint(format!("`{near}` is near"));
            }
        }
    }
}

/// The placeholder of a field: attributes that are named as such bear the same name.
pub(crate) fn placeholder(field: &str) -> Option<String> {
    identifier(field.trim_matches('`').trim_start_matches('@'))
}

/// Where rules stand, by their numbers.
#[derive(Debug, Default)]
struct Stands {
    elements: Vec<Vec<ElementId>>,
    types: Vec<Vec<TypeId>>,
}

/// Whether a type is derived from another one, in however many steps.
fn is_derived(components: &Components, ty: TypeId, from: TypeId) -> bool {
    let mut at = ty;
    for _ in 0..components.types.len() {
        let Some(complex) = components.complex(at) else { return false };
        if complex.base == at {
            return false;
        }
        at = complex.base;
        if at == from {
            return true;
        }
    }
    false
}
