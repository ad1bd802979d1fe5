//! The forms of a message, each read into a tree.

pub(crate) mod json;
mod settle;
pub(crate) mod text;
pub(crate) mod wire;

pub(crate) use settle::settle;
