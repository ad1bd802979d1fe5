//! What comparing versions came to, in each form of report.

mod html;
mod json;
mod junit;
mod sarif;
mod text;

use crate::compat::{Compared, Texts};
use mervik_versions::{Role, Spot};
use std::io;

pub(crate) use html::html;
pub(crate) use json::json;
pub(crate) use junit::junit;
pub(crate) use sarif::sarif;
pub(crate) use text::text;

/// A form of report. Every method returns the error of the write that failed.
pub(crate) trait CompatReport {
    /// Two versions of a schema have been compared; `texts` are theirs.
    fn schema(&mut self, compared: &Compared, texts: &Texts) -> io::Result<()>;

    /// All have.
    fn finish(&mut self) -> io::Result<()>;
}

/// Which version is meant, in a word.
fn word(role: Role) -> &'static str {
    match role {
        Role::Old => "old",
        Role::New => "new",
    }
}

/// The other version.
fn other(role: Role) -> Role {
    match role {
        Role::Old => Role::New,
        Role::New => Role::Old,
    }
}

/// Where a place is: file, and pointer or path in it.
fn at(spot: Option<&Spot>) -> String {
    spot.map_or(String::new(), |spot| format!("{}#{}", spot.place.source, spot.place.at))
}
