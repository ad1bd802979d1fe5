//! Protocol Buffers with field rules: what a `.proto` says about types, and Mervik's rules about values.
//!
//! ```
//! use mervik_proto::{Checker, Form, Nowhere, Options, Source, compile};
//!
//! let text = r#"
//!     syntax = "proto3";
//!     import "mervik/rules.proto";
//!     message Reading { double load_kn = 1 [(mervik.field).maximum = 900]; }
//! "#;
//! let source = Source::Text { name: "reading.proto".into(), import: "reading.proto".into(), text: text.into() };
//! let compiled = compile(source, &[], &mut Nowhere);
//! assert!(!compiled.is_broken());
//!
//! let schema = &compiled.schema;
//! let checker = Checker::new(schema, schema.find("Reading").unwrap(), Options::default());
//! let read = checker.read(Form::Text("load_kn: 911.5"));
//! let findings = read.findings(0);
//! assert_eq!(findings[0].message, "expected at most 900, found 911.5");
//! assert_eq!((findings[0].at.as_str(), findings[0].place.column), ("load_kn", 10));
//! ```
//!
//! The way of a schema: `source` reads files and links them, `build` makes the flat tables of a [`Schema`], `rules` compiles what fields
//! must hold. The way of a message: `read` makes a tree of whatever form it has, `check` goes through the tree, `failure` puts what is wrong
//! into words, `write` writes the tree in any form. A binary message that holds needs no tree: `verdict` checks it as it is read.
//! Nothing here opens files.

mod build;
mod change;
mod check;
mod checker;
mod clauses;
mod compat;
mod failure;
mod framing;
mod loosen;
mod own;
mod phrases;
mod read;
mod remark;
mod rules;
mod sayings;
mod schema;
mod slips;
mod source;
mod stated;
mod tree;
mod value;
mod verdict;
mod wire;
mod write;

pub use build::{Compiled, compile};
pub use change::Reason;
pub use check::{MAX_DEPTH, Options, Unknown};
pub use checker::{Changed, Checker, Coercion, Form, Place, Plain, Read, Seen};
pub use clauses::Clause;
pub use compat::{View, compare};
pub use failure::rule as message_rule;
pub use framing::{Framed, Framing};
pub use loosen::{Loosened, loosen};
pub use own::known_messages;
pub use read::MAX_BYTES;
pub use read::json::Level;
pub use remark::{Remark, rule};
pub use rules::file::RuleText;
pub use rules::table::{RULES as RULE_DOCS, RuleDoc, reference};
pub use sayings::{SAYINGS, Saying};
pub use schema::{MessageId, Method, Schema};
pub use slips::{Slip, slip};
pub use source::{Fetch, FetchError, Fetched, Nowhere, RULES_NAME, RULES_TEXT, Source, inline_schema};
