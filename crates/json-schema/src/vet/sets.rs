//! Rules of one value taken together, as a set: that they leave nothing, and that one of them says what the others say already.

use super::conjunction::{Conjunction, Via, meet_here, place};
use super::{Raw, Vetter, rules};
use crate::format::FormatCheck;
use crate::inclusion::{texts_of_format, texts_of_pattern};
use crate::schema::{Kinds, Rule, Test};
use crate::words::rule_name;
use mervik_document::Decimal;
use mervik_value_set::Set;
use mervik_value_set::numbers::{self, NumberTest, Numbers};
use mervik_value_set::texts::{self, Texts};

/// With more rules than these about one value, nothing is said.
const MAX_RULES: usize = 8;

/// A rule, and the values that it lets pass.
type Ruled<'v, S> = (&'v Rule, Option<Via>, S);

fn text_set(test: &Test) -> Option<Texts> {
    Some(match test {
        Test::Pattern(pattern) => texts_of_pattern(pattern.source())?,
        Test::Format(format) => texts_of_format(FormatCheck::of(*format)),
        Test::MinLength(least) => texts::length(*least, None),
        Test::MaxLength(most) => texts::length(0, Some(*most)),
        _ => return None,
    })
}

fn number_set(test: &Test) -> Option<Numbers> {
    Some(Set::test(match test {
        Test::Minimum(limit) => NumberTest::AtLeast((**limit).clone()),
        Test::ExclusiveMinimum(limit) => NumberTest::MoreThan((**limit).clone()),
        Test::Maximum(limit) => NumberTest::AtMost((**limit).clone()),
        Test::ExclusiveMaximum(limit) => NumberTest::LessThan((**limit).clone()),
        Test::MultipleOf(by) => NumberTest::MultipleOf((**by).clone()),
        _ => return None,
    }))
}

/// The rules that are about one kind of value, with their sets, when there are several. Sets of texts cost something to make.
fn together<'v, S>(
    all: &Conjunction<'v>,
    told: &dyn Fn(&Test) -> bool,
    set: fn(&Test) -> Option<S>,
) -> Vec<Ruled<'v, S>> {
    let rules: Vec<(&'v Rule, Option<Via>)> = all.rules().filter(|(rule, _)| told(&rule.test)).collect();
    if !(2..=MAX_RULES).contains(&rules.len()) {
        return Vec::new();
    }
    rules.into_iter().filter_map(|(rule, via)| Some((rule, via, set(&rule.test)?))).collect()
}

impl<'v> Vetter<'v> {
    pub(super) fn value_sets(&mut self, all: &Conjunction<'v>) {
        let types = all.types();
        if types.reach().meets(Kinds::STRINGS) {
            let told = |test: &Test| {
                matches!(test, Test::Pattern(_) | Test::Format(_) | Test::MinLength(_) | Test::MaxLength(_))
            };
            let found: Vec<Ruled<'v, Texts>> = together(all, &told, text_set);
            let empty = |sets: &[Texts]| texts::find(&Set::all_of(sets.iter().cloned()), &[]).is_empty();
            let is_length = |rule: &Rule| matches!(rule.test, Test::MinLength(_) | Test::MaxLength(_));
            if !self.left_empty(&found, "string", &is_length, &empty) {
                self.implied(&found, &empty);
            }
        }
        if types.reach().meets(Kinds::NUMBERS) {
            let whole = types.integer && !types.kinds.meets(Kinds::NUMBERS);
            let integers = whole.then(|| Set::test(NumberTest::MultipleOf(Decimal::from(1))));
            let found: Vec<Ruled<'v, Numbers>> = together(all, &|test| number_set(test).is_some(), number_set);
            let empty = |sets: &[Numbers]| {
                let all = sets.iter().cloned().chain(integers.clone());
                numbers::find(&Set::all_of(all), &[]).is_empty()
            };
            let is_bound = |rule: &Rule| !matches!(rule.test, Test::MultipleOf(_));
            let noun = if whole { "integer" } else { "number" };
            self.left_empty(&found, noun, &is_bound, &empty);
        }
    }

    /// Says that rules which meet here leave nothing; those that are told elsewhere, being `plain`, leave something.
    fn left_empty<S: Clone>(
        &mut self,
        found: &[Ruled<'v, S>],
        noun: &str,
        plain: &dyn Fn(&Rule) -> bool,
        empty: &dyn Fn(&[S]) -> bool,
    ) -> bool {
        let meets = found
            .iter()
            .any(|one| found.iter().any(|other| !std::ptr::eq(one.0, other.0) && meet_here(one.1, other.1)));
        if found.len() < 2 || !meets || found.iter().all(|(rule, ..)| plain(rule)) {
            return false;
        }
        let sets = |keep: &dyn Fn(usize) -> bool| -> Vec<S> {
            found.iter().enumerate().filter(|(at, _)| keep(*at)).map(|(_, (.., set))| set.clone()).collect()
        };
        let plain_alone = sets(&|at| found.get(at).is_some_and(|(rule, ..)| plain(rule)));
        if !empty(&sets(&|_| true)) || empty(&plain_alone) {
            return false;
        }
        // Those that are not needed for it are left out of what is said.
        let mut needed: Vec<usize> = (0..found.len()).collect();
        for at in 0..found.len() {
            let without: Vec<usize> = needed.iter().copied().filter(|other| *other != at).collect();
            if empty(&sets(&|other| without.contains(&other))) {
                needed = without;
            }
        }
        let blamed: Vec<&Ruled<'v, S>> = needed.iter().filter_map(|at| found.get(*at)).collect();
        let names: Vec<String> =
            blamed.iter().map(|(rule, ..)| format!("`{}`", rule_name(self.schema(), rule.at))).collect();
        let Some((rule, via, _)) = blamed.iter().find(|(_, via, _)| via.is_none()).or(blamed.first()) else {
            return false;
        };
        let message = format!("no {noun} satisfies {} together", names.join(" and "));
        self.say(Raw::new(&rules::CONTRADICTING_RULES, place(rule, *via), message));
        true
    }

    /// Says which rules of the schema itself the others of it imply.
    fn implied(&mut self, found: &[Ruled<'v, Texts>], empty: &dyn Fn(&[Texts]) -> bool) {
        let own: Vec<&Ruled<'v, Texts>> = found.iter().filter(|(_, via, _)| via.is_none()).collect();
        if own.len() < 2 {
            return;
        }
        for (rule, _, set) in &own {
            // A pattern says more than a reader can see at once; a length beside it may be there to be read.
            if !matches!(rule.test, Test::MinLength(_) | Test::MaxLength(_)) {
                continue;
            }
            let others = own.iter().filter(|(other, ..)| !std::ptr::eq(*other, *rule));
            let sets: Vec<Texts> = others.map(|(.., set)| set.clone()).chain([set.clone().not()]).collect();
            if empty(&sets) {
                let name = rule_name(self.schema(), rule.at);
                let message = format!("`{name}` has no effect: the rules beside it say as much");
                self.say(Raw::new(&rules::IMPLIED_RULE, rule.at.node, message));
            }
        }
    }
}
