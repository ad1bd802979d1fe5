//! Field rules: read from options and from files beside a `.proto`, checked against the types, compiled, run.

mod compile;
pub(crate) mod file;
pub(crate) mod limits;
pub(crate) mod raw;
mod sense;
pub(crate) mod table;
mod test;
mod values;

pub(crate) use compile::{Compiler, Found, Typed, Valued, set_named};
pub(crate) use test::{Moment, Now, Test};

use crate::schema::PlaceId;
use crate::value::Scalar;

/// One rule for one value.
#[derive(Debug)]
pub(crate) struct Check {
    /// Its name in `mervik/rules.proto`.
    pub(crate) name: &'static str,
    pub(crate) test: Test,
    pub(crate) place: PlaceId,
}

/// The rules that a value must keep, all of them.
#[derive(Debug, Default)]
pub(crate) struct Rules {
    pub(crate) checks: Vec<Check>,
}

impl Rules {
    /// Whether a scalar keeps all of them. Allocates nothing, except for `multiple_of` of a fraction.
    #[inline]
    pub(crate) fn hold(&self, value: Scalar<'_>) -> bool {
        self.checks.iter().all(|check| check.test.holds(value))
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.checks.is_empty()
    }
}

/// What a list or a map must keep as a whole.
#[derive(Debug, Default)]
pub(crate) struct ListRules {
    pub(crate) min: Option<(u64, PlaceId)>,
    pub(crate) max: Option<(u64, PlaceId)>,
    pub(crate) unique: Option<PlaceId>,
}

impl ListRules {
    pub(crate) fn is_empty(&self) -> bool {
        self.min.is_none() && self.max.is_none() && self.unique.is_none()
    }
}
