//! What references stand for (XML 1.0, section 4.4): characters, and the text of internal entities.

use super::faults::unread;
use super::{Halt, Handler, MAX_ENTITY_DEPTH, MAX_ENTITY_TEXT, Origin, State, tokens};
use crate::doctype;
use crate::fault::Draft;
use crate::phrases::Phrases as _;
use mervik_document::finding::rule;
use mervik_document::shown;
use mervik_document::tongue::{Common as _, Phrase};
use quick_xml::events::Event;

/// The character that a reference without declaration stands for.
pub(super) fn resolved(name: &str) -> Option<char> {
    doctype::predefined(name).or_else(|| doctype::character(name))
}

impl<H: Handler> State<'_, H> {
    /// Reads what an internal entity stands for, as if it stood in place of the reference.
    #[cold]
    pub(super) fn entity(&mut self, name: &str, origin: &Origin<'_>) -> Result<(), Halt> {
        let text = self.replacement(name, origin)?;
        let floor = self.starts.len();
        let inner = Origin { within: origin.within + 1, floor, ..*origin };
        let mut tokens = tokens(&text);
        loop {
            match tokens.read_event() {
                Ok(Event::Eof) if self.starts.len() == floor => return Ok(()),
                Ok(Event::Eof) => {
                    let expected = Phrase::of(|tongue| tongue.elements_within(format!("&{name};")));
                    return Err(
                        Draft::syntax(origin.at, expected, Phrase::of(|tongue| tongue.one_that_does_not())).into()
                    );
                }
                Ok(event) => self.event(event, &inner)?,
                Err(error) => return Err(unread(&error, origin.at, &text).into()),
            }
        }
    }

    /// What an entity stands for, within the bounds of depth and size.
    pub(super) fn replacement(&mut self, name: &str, origin: &Origin<'_>) -> Result<String, Draft> {
        let reference = format!("`&{};`", shown::text(name));
        if origin.within >= MAX_ENTITY_DEPTH {
            let expected = Phrase::of(|tongue| tongue.entities_inside(MAX_ENTITY_DEPTH));
            return Err(Draft::new(rule::ENTITY, origin.at, expected, reference));
        }
        if let Some(text) = self.entities.internal.get(name) {
            self.expanded += text.len().max(1);
            return match self.expanded > MAX_ENTITY_TEXT {
                true => {
                    let expected = Phrase::of(|tongue| tongue.bytes_of_entities(MAX_ENTITY_TEXT));
                    Err(Draft::new(rule::ENTITY, origin.at, expected, Phrase::of(|tongue| tongue.more())))
                }
                false => Ok(text.clone()),
            };
        }
        let draft = Draft::new(rule::ENTITY, origin.at, Phrase::of(|tongue| tongue.declared_entity()), reference);
        Err(if self.entities.external.iter().any(|known| known == name) {
            draft.hint(Phrase::of(|tongue| tongue.outside()))
        } else if name.starts_with('#') {
            Draft::syntax(origin.at, Phrase::of(|tongue| tongue.allowed_character()), draft.found)
        } else {
            draft.hint(Phrase::of(|tongue| tongue.amp_says_it()))
        })
    }
}
