//! `x-mervik`: what Mervik adds to a schema.

use super::Compiler;
use crate::error::Breach;
use crate::file::{FileId, Location};
use mervik_document::{Value, near};

/// Identifiers of `vet`'s rules that are not to be told of the schema and all that is in it.
pub(crate) const SILENCE: &str = "silence";

/// The directives that are understood.
const KNOWN: &[&str] = &[SILENCE];

impl Compiler<'_> {
    /// Refuses directives that are not understood: one that is passed over would let wrong documents pass.
    pub(super) fn directives(&mut self, file: FileId, value: Value<'_>) -> Option<()> {
        self.is_object(file, "x-mervik", value).then_some(())?;
        for member in value.members() {
            let name = member.name.text();
            if name == SILENCE {
                self.names(file, SILENCE, member.value);
                continue;
            }
            let hint = match near::nearest(name, KNOWN.iter().copied()) {
                Some(near) => format!("`{near}` is near"),
                None => {
                    "a rule that is not checked would let wrong documents pass, so the schema is refused".to_owned()
                }
            };
            let at = Location { file, node: member.name.id() };
            let message = format!("the directive `{name}` (in `x-mervik`) cannot be checked yet");
            self.resources.error(Breach::Unsupported, at, message, Some(hint));
        }
        Some(())
    }
}
