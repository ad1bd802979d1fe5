//! Simple types: their values, their order and their facets (XML Schema 1.0, Part 2).

mod canonical;
mod check;
mod decimal;
mod facets;
mod moment;
mod primitive;
mod value;
mod words;

pub use check::is_value_of;
pub(crate) use check::{MAX_NESTED_TYPES, Miss, Reader, Scope, What, normalized};
pub(crate) use facets::{Bound, Enumeration, Facets};
pub(crate) use primitive::{DERIVED, Form};
pub(crate) use primitive::{Facet, Primitive, WhiteSpace};
pub(crate) use value::Value;
pub(crate) use words::{SimpleWords, example, form_hint};
