//! What a language model returned, made into a document of a schema, or into a note that says what is wrong.
//!
//! - `find`: where in a reply documents may stand;
//! - `read`: a reader of JSON that mends what is broken as text, and guesses nothing;
//! - `judge`: coercion and check of each candidate, and the choice among them;
//! - [`rescue_xml`]: the same for documents in XML;
//! - [`note`]: what goes back to the model;
//! - [`prompt`]: what is told to the model in the first place;
//! - [`partial`]: a reply that is still being written.
//!
//! Everything is bounded by the length of the reply; nothing opens files, prints, or runs programs.

mod find;
mod judge;
mod mend;
pub mod note;
pub mod partial;
pub mod prompt;
mod read;
mod xml;

pub use judge::{Rescued, Rescuer};

pub use mend::{Mend, MendKind};
pub use xml::{RescuedXml, rescue_xml};
