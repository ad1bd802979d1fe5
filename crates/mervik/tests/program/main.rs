//! The built program, run on files in a temporary folder.

#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    reason = "tests may fail loudly"
)]

mod across;
mod around;
mod bad_input;
mod chain;
mod check;
mod coerce;
mod compat;
mod demo;
mod fit;
mod formats;
mod formats_chain;
mod help;
mod infer;
mod items;
mod languages;
mod options;
mod project;
mod protobuf;
mod references;
mod release;
mod rescue;
mod rules;
mod stream;
mod support;
mod trial;
mod vet;
mod xml;
mod yaml_schemas;
