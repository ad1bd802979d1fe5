//! Advice.
use crate::remark::Remark;
use crate::schema::Compiled;
/// Advice on a schema.
pub fn advise(_c: &Compiled) -> Vec<Remark> {
    Vec::new()
}
