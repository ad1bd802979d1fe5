//! XML Schema 1.0.
#![allow(dead_code)]
mod build;
mod component;
mod constraint;
mod content;
pub mod datatype;
mod names;
mod pattern;
pub mod remark;
pub mod source;
mod syntax;
mod words;
