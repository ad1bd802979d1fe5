//! Whether whatever satisfies one schema satisfies another.
//!
//! The answer "yes" is sound; where the two are too different to compare, it is "no".

use super::conjunction::{Conjunction, is_never};
use crate::check::Checker;
use crate::schema::{ItemsTest, Kinds, MembersTest, Rule, Schema, SchemaId, Test, Types, Values};
use mervik_document::tape;
use std::collections::HashSet;

/// How many pairs of schemas are compared, and how deep they may lie in each other.
const MAX_PAIRS: usize = 2_000;
const MAX_DEPTH: usize = 64;

pub(super) struct Implication<'s> {
    schema: &'s Schema,
    /// Pairs that have been compared, or are being compared: a child is smaller than its value, so that a pair may be
    /// taken for granted within itself.
    assumed: HashSet<(SchemaId, SchemaId)>,
    depth: usize,
}

impl<'s> Implication<'s> {
    pub(super) fn new(schema: &'s Schema) -> Self {
        Implication { schema, assumed: HashSet::new(), depth: 0 }
    }

    /// Whether every value that `a` accepts is accepted by `b`.
    pub(super) fn holds(&mut self, a: SchemaId, b: SchemaId) -> bool {
        if a == b || is_never(self.schema, a) || self.assumed.contains(&(a, b)) || self.is_same(a, b) {
            return true;
        }
        if self.assumed.len() >= MAX_PAIRS || self.depth >= MAX_DEPTH {
            return false;
        }
        self.assumed.insert((a, b));
        self.depth += 1;
        let holds = self.compare(a, b);
        self.depth -= 1;
        if !holds {
            self.assumed.remove(&(a, b));
        }
        holds
    }

    /// Whether both are written the same, in the same resource.
    fn is_same(&self, a: SchemaId, b: SchemaId) -> bool {
        let (Some(a), Some(b)) = (self.schema.node(a), self.schema.node(b)) else { return false };
        let (Some(file_a), Some(file_b)) = (self.schema.file(a.at.file), self.schema.file(b.at.file)) else {
            return false;
        };
        let (one, other) = (file_a.document(), file_b.document());
        a.scope == b.scope && tape::equal(one.value(a.at.node), other.value(b.at.node))
    }

    fn compare(&mut self, a: SchemaId, b: SchemaId) -> bool {
        let (given, wanted) = (Conjunction::of(self.schema, a), Conjunction::of(self.schema, b));
        let values = given.rules().find_map(|(rule, _)| match &rule.test {
            Test::OneOfValues(values) => Some(&**values),
            _ => None,
        });
        if let Some(values) = values {
            return self.all_accepted(values, a, b);
        }
        let types = given.types();
        types_within(types, wanted.types()) && wanted.rules().all(|(rule, _)| self.rule(&given, types, a, rule))
    }

    /// Whether `b` accepts each of the values that `a` accepts.
    fn all_accepted(&self, values: &Values, a: SchemaId, b: SchemaId) -> bool {
        let mut checker = Checker::new(self.schema);
        values.all.iter().all(|at| {
            let Some(file) = self.schema.file(at.file) else { return false };
            let document = file.document();
            let value = document.value(at.node);
            !checker.holds_at(a, value) || checker.holds_at(b, value)
        })
    }

    /// Whether the rule `wanted` holds of whatever satisfies what is given.
    fn rule(&mut self, given: &Conjunction<'s>, types: Types, a: SchemaId, wanted: &'s Rule) -> bool {
        let has = |test: &dyn Fn(&Test) -> bool| given.rules().any(|(rule, _)| test(&rule.test));
        if !matches!(wanted.test, Test::Type(_) | Test::Required) && !types.reach().meets(wanted.kinds) {
            return true;
        }
        if given.rules().any(|(rule, _)| std::ptr::eq(rule, wanted)) {
            return true;
        }
        match &wanted.test {
            Test::Type(_) | Test::Required | Test::Ref(_) | Test::AllOf(_) | Test::Deprecated => true,
            Test::Minimum(least) => has(&|test| match test {
                Test::Minimum(bound) | Test::ExclusiveMinimum(bound) => bound >= least,
                _ => false,
            }),
            Test::ExclusiveMinimum(least) => has(&|test| match test {
                Test::Minimum(bound) => bound > least,
                Test::ExclusiveMinimum(bound) => bound >= least,
                _ => false,
            }),
            Test::Maximum(most) => has(&|test| match test {
                Test::Maximum(bound) | Test::ExclusiveMaximum(bound) => bound <= most,
                _ => false,
            }),
            Test::ExclusiveMaximum(most) => has(&|test| match test {
                Test::Maximum(bound) => bound < most,
                Test::ExclusiveMaximum(bound) => bound <= most,
                _ => false,
            }),
            Test::MultipleOf(by) => {
                let integers =
                    !types.kinds.meets(Kinds::NUMBERS) && mervik_document::Decimal::from(1).is_multiple_of(by);
                integers || has(&|test| matches!(test, Test::MultipleOf(other) if other.is_multiple_of(by)))
            }
            Test::MinLength(least) => {
                has(&|test| matches!(test, Test::MinLength(bound) if bound >= least)) || *least == 0
            }
            Test::MaxLength(most) => has(&|test| matches!(test, Test::MaxLength(bound) if bound <= most)),
            Test::MinItems(least) => {
                has(&|test| matches!(test, Test::MinItems(bound) if bound >= least)) || *least == 0
            }
            Test::MaxItems(most) => has(&|test| matches!(test, Test::MaxItems(bound) if bound <= most)),
            Test::MinProperties(least) => {
                has(&|test| matches!(test, Test::MinProperties(bound) if bound >= least)) || *least == 0
            }
            Test::MaxProperties(most) => has(&|test| matches!(test, Test::MaxProperties(bound) if bound <= most)),
            Test::UniqueItems => has(&|test| matches!(test, Test::UniqueItems)),
            Test::Pattern(pattern) => {
                has(&|test| matches!(test, Test::Pattern(other) if other.source() == pattern.source()))
            }
            Test::Format(format) => has(&|test| matches!(test, Test::Format(other) if other == format)),
            Test::Items(items) => self.items(given, items),
            Test::Members(members) => self.members(given, members),
            Test::AnyOf(union) => union.branches.iter().any(|branch| self.holds(a, *branch)),
            // The others are compared by being the same, which they are not.
            Test::Never
            | Test::OneOfValues(_)
            | Test::Contains(_)
            | Test::PropertyNames(_)
            | Test::DependentRequired(_)
            | Test::DependentSchemas(_)
            | Test::Dynamic(_)
            | Test::OneOf(_)
            | Test::Not(_)
            | Test::If(_)
            | Test::UnevaluatedItems(_)
            | Test::UnevaluatedProperties(_)
            | Test::Content(_)
            | Test::Stated(_)
            | Test::WrongDirection => false,
        }
    }

    /// Whether a schema accepts whatever there is.
    fn accepts_all(&self, id: SchemaId) -> bool {
        let all = Conjunction::of(self.schema, id);
        all.types() == Types::ANY && all.rules().all(|(rule, _)| matches!(rule.test, Test::Ref(_) | Test::AllOf(_)))
    }

    /// Whether a child that `given` asks for, if it asks for anything, satisfies what is wanted of it.
    fn child(&mut self, given: Option<SchemaId>, wanted: SchemaId) -> bool {
        match given {
            Some(given) => self.holds(given, wanted),
            None => self.accepts_all(wanted),
        }
    }

    fn items(&mut self, given: &Conjunction<'s>, wanted: &ItemsTest) -> bool {
        let none = ItemsTest { prefix: Box::default(), rest: None };
        let given = given.rules().find_map(|(rule, _)| match &rule.test {
            Test::Items(items) => Some(&**items),
            _ => None,
        });
        let given = given.unwrap_or(&none);
        let at = |items: &ItemsTest, index: usize| items.prefix.get(index).copied().or(items.rest);
        let places = given.prefix.len().max(wanted.prefix.len());
        let firsts =
            (0..places).all(|index| at(wanted, index).is_none_or(|wanted| self.child(at(given, index), wanted)));
        firsts && wanted.rest.is_none_or(|wanted| self.child(given.rest, wanted))
    }

    fn members(&mut self, given: &Conjunction<'s>, wanted: &'s MembersTest) -> bool {
        let given: Vec<&MembersTest> = given.members().map(|(members, ..)| members).collect();
        let requires = |name: &str| {
            let entry = |members: &&MembersTest| {
                members.table.find(name).and_then(|index| members.entries.get(index)?.required)
            };
            given.iter().filter_map(entry).next().is_some()
        };
        // What the given schemas say of a property, each for itself.
        let says = |name: &str| -> Vec<SchemaId> {
            let of = |members: &&MembersTest| {
                let described = members.table.find(name).and_then(|index| members.entries.get(index)?.schema);
                described.or(members.additional.filter(|_| members.patterns.is_empty()))
            };
            given.iter().filter_map(of).collect()
        };
        let named = wanted.table.names().zip(&wanted.entries).all(|(name, entry)| {
            let required = entry.required.is_none() || requires(name);
            required
                && entry.schema.is_none_or(|wanted| {
                    self.accepts_all(wanted) || says(name).into_iter().any(|given| self.holds(given, wanted))
                })
        });
        if !named || !wanted.patterns.is_empty() {
            return false;
        }
        let Some(rest) = wanted.additional.filter(|rest| !self.accepts_all(*rest)) else { return true };
        // Every other name must be spoken for as strictly.
        given.iter().any(|members| {
            let described = members.table.names().zip(&members.entries);
            let others = described.filter(|(name, entry)| {
                entry.schema.is_some()
                    && wanted.table.find(name).and_then(|at| wanted.entries.get(at)?.schema).is_none()
            });
            members.patterns.is_empty()
                && members.additional.is_some_and(|given| self.holds(given, rest))
                && others.filter_map(|(_, entry)| entry.schema).all(|given| self.holds(given, rest))
        })
    }
}

fn types_within(a: Types, b: Types) -> bool {
    let integers = !a.integer || b.integer || b.kinds.meets(Kinds::NUMBERS);
    a.kinds.0 & !b.kinds.0 == 0 && integers && (!b.plain || a.plain || b.kinds.meets(Kinds::NUMBERS))
}

#[cfg(test)]
mod tests;
