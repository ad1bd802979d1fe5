//! `x-mervik`: what Mervik adds to a schema.

use super::Compiler;
use super::messages::{KEY, MESSAGES};
use super::sets::SETS;
use super::stated::RULES;
use crate::coerce::notes::Clean;
use crate::error::Breach;
use crate::file::{FileId, Location};
use mervik_document::dates::is_pattern;
use mervik_document::{Value, near};

/// Identifiers of `vet`'s rules that are not to be told of the schema and all that is in it.
pub(crate) const SILENCE: &str = "silence";

/// Other names of a property.
const ALIASES: &str = "aliases";
/// Ways to clean a value up, in their order.
const CLEAN: &str = "clean";
/// Patterns of dates and times, as `strptime` (POSIX) has them.
const PARSE: &str = "parse";

/// The directives that are understood.
const KNOWN: &[&str] = &[ALIASES, CLEAN, KEY, MESSAGES, PARSE, RULES, SETS, SILENCE];

impl Compiler<'_> {
    /// Refuses directives that are not understood: one that is passed over would let wrong documents pass.
    pub(super) fn directives(&mut self, file: FileId, value: Value<'_>) -> Option<()> {
        self.is_object(file, "x-mervik", value).then_some(())?;
        for member in value.members() {
            let name = member.name.text();
            // Rules are read where they become tests, what is said to people where it is kept.
            if [RULES, MESSAGES, KEY].contains(&name) {
                continue;
            }
            if name == SETS {
                self.sets(file, member.value);
                continue;
            }
            if let Some(known) = KNOWN.iter().find(|known| **known == name) {
                self.names(file, known, member.value);
                self.words(file, known, member.value);
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

    /// Refuses words that a directive does not know.
    fn words(&mut self, file: FileId, directive: &str, list: Value<'_>) {
        for (word, text) in list.items().filter_map(|word| Some((word, word.as_str()?))) {
            let (message, hint) = match directive {
                CLEAN if Clean::find(text).is_none() => {
                    let known: Vec<&str> = Clean::ALL.iter().map(|(name, _)| *name).collect();
                    let hint = match near::nearest(text, known.iter().copied()) {
                        Some(near) => format!("`{near}` is near"),
                        None => format!("one of {}", known.join(", ")),
                    };
                    (format!("`{text}` is no way to clean a value up"), hint)
                }
                PARSE if !is_pattern(text) => (
                    format!("`{text}` is no pattern of dates and times"),
                    "the notation is that of `strptime` (POSIX): `%d.%m.%Y`".to_owned(),
                ),
                _ => continue,
            };
            let at = Location { file, node: word.id() };
            self.resources.error(Breach::Unsupported, at, message, Some(hint));
        }
    }
}
