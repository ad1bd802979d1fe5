//! Combinations of tests.

use std::sync::Arc;

/// What the members of a set satisfy: tests, joined by *and*, *or* and *not*. Cheap to clone.
#[derive(Clone, Debug)]
pub enum Set<T> {
    /// Everything.
    All,
    /// What passes the test.
    Test(T),
    /// What is not in the set.
    Not(Arc<Set<T>>),
    /// What is in all of the sets.
    And(Arc<[Set<T>]>),
    /// What is in one of the sets at least; in none, when there is no set.
    Or(Arc<[Set<T>]>),
}

impl<T: Clone> Set<T> {
    /// What passes the test.
    pub fn test(test: T) -> Set<T> {
        Set::Test(test)
    }

    /// The set without a member.
    pub fn none() -> Set<T> {
        Set::Or(Arc::new([]))
    }

    /// What is in both.
    #[must_use]
    pub fn and(self, other: Set<T>) -> Set<T> {
        match (self, other) {
            (Set::All, set) | (set, Set::All) => set,
            (one, other) => Set::And(Arc::new([one, other])),
        }
    }

    /// What is in one of the two, or in both.
    #[must_use]
    pub fn or(self, other: Set<T>) -> Set<T> {
        match (self, other) {
            (Set::All, _) | (_, Set::All) => Set::All,
            (one, other) => Set::Or(Arc::new([one, other])),
        }
    }

    /// What is not in the set.
    #[must_use]
    #[expect(clippy::should_implement_trait, reason = "sets read as `a.and(b.not())`")]
    pub fn not(self) -> Set<T> {
        match self {
            Set::Not(set) => Arc::unwrap_or_clone(set),
            set => Set::Not(Arc::new(set)),
        }
    }

    /// What is in all of the sets; everything, when there is none.
    pub fn all_of(sets: impl IntoIterator<Item = Set<T>>) -> Set<T> {
        Set::And(sets.into_iter().collect())
    }

    /// What is in one of the sets at least; nothing, when there is none.
    pub fn any_of(sets: impl IntoIterator<Item = Set<T>>) -> Set<T> {
        Set::Or(sets.into_iter().collect())
    }

    /// Whether a value is in the set, when `test` says which tests it passes; `None` where that depends on a test of
    /// which `test` says `None`.
    pub fn holds(&self, test: &mut impl FnMut(&T) -> Option<bool>) -> Option<bool> {
        match self {
            Set::All => Some(true),
            Set::Test(one) => test(one),
            Set::Not(set) => set.holds(test).map(|holds| !holds),
            Set::And(sets) => any(sets, test, false).map(|refused| !refused),
            Set::Or(sets) => any(sets, test, true),
        }
    }

    /// Calls `visit` with every test.
    pub fn tests<'s>(&'s self, visit: &mut impl FnMut(&'s T)) {
        match self {
            Set::All => {}
            Set::Test(test) => visit(test),
            Set::Not(set) => set.tests(visit),
            Set::And(sets) | Set::Or(sets) => sets.iter().for_each(|set| set.tests(visit)),
        }
    }
}

/// Whether one of the sets answers `wanted`; `None` when none does and one of them does not know.
fn any<T: Clone>(sets: &[Set<T>], test: &mut impl FnMut(&T) -> Option<bool>, wanted: bool) -> Option<bool> {
    let mut known = true;
    for set in sets {
        match set.holds(test) {
            Some(holds) if holds == wanted => return Some(true),
            Some(_) => {}
            None => known = false,
        }
    }
    known.then_some(false)
}
