//! The formats that data comes in: each is read to JSON text with the place of every value in its source, and can be
//! written back from JSON.
//!
//! A schema speaks of JSON values, so whatever is checked becomes JSON first; [`Origins`] leads back from there to the
//! bytes that a person wrote. Numbers keep their digits on the way, members their order.

pub mod compressed;
pub mod encoding;
pub mod env;
mod fault;
pub mod form;
mod nest;
mod phrases;
mod reading;
pub mod table;
pub mod toml;
pub mod write;
pub mod yaml;

pub use fault::Fault;
pub use reading::{Builder, Mark, Origins, Reading, json_number};
