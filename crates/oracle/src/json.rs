//! JSON Schema: draft-04 to 2020-12.

pub mod ask;
mod evaluate;
mod formats;
mod generate;
mod resources;
mod shrink;

pub use evaluate::{Evaluator, Stop};
pub use generate::{Generator, Made};
pub use resources::Dialect;
