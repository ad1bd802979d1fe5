//! Versions of a schema: what one promises to those who use another one, and what is said when that is broken.
//!
//! A released version is recorded with what it promised: see [`Record`].
//!
//! Each schema language compares versions in its own crate and tells the result in the terms of this one. Which of two versions is
//! the older one does not matter to the comparison, but to its words: a [`Role`] says it.

mod comparison;
mod ledger;
mod promise;

pub use comparison::{Break, Comparison, Kind, Role, Spot};
pub use ledger::{Change, Damage, RECORD, Record, digest, proposed};
pub use promise::{Promise, Scope};
pub use semver::Version;
