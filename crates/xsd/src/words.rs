//! Words.
use crate::build::Components;
use crate::datatype::Miss;
pub(crate) fn short_miss(_c: &Components, _m: &Miss) -> String { String::new() }
