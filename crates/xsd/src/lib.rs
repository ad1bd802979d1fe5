//! XML Schema 1.0.
#![allow(dead_code)]
mod component;
pub mod datatype;
mod names;
mod pattern;
