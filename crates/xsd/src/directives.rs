//! What Mervik adds to a schema: elements of `urn:mervik:directives` in `xs:appinfo`, about the component around them.

use crate::component::Origin;
use crate::names::XSD;
use crate::remark::Findings;
use crate::source::Document;
use mervik_document::clean::Clean;
use mervik_document::{dates, near, shown};
use mervik_xml::tree::{Node, NodeId};
use std::collections::HashMap;

/// The namespace of directives.
pub const DIRECTIVES: &str = "urn:mervik:directives";

/// The name by which remarks tell of a directive that is not understood.
pub const DIRECTIVE: &str = "directive";

const KNOWN: &[&str] = &["aliases", "clean", "parse", "silence"];

/// What one component notes.
#[derive(Debug, Default)]
pub(crate) struct Note {
    /// Other local names of an element or an attribute.
    pub(crate) aliases: Vec<Box<str>>,
    pub(crate) clean: Vec<Clean>,
    /// Patterns of dates and times, in the notation of `strptime` (POSIX).
    pub(crate) parse: Vec<Box<str>>,
    /// Advice that is not to be told of the component and what is in it.
    pub(crate) silence: Vec<Box<str>>,
}

/// The notes of all components that have some.
#[derive(Debug, Default)]
pub(crate) struct Directives {
    notes: HashMap<Origin, Note>,
    pub(crate) has_aliases: bool,
}

impl Directives {
    /// Reads the directives of all documents of a schema. What is not understood is an error: a directive that is passed over
    /// would let wrong documents pass.
    pub(crate) fn read(documents: &[Document], findings: &mut Findings) -> Directives {
        let mut directives = Directives::default();
        for (index, document) in documents.iter().enumerate() {
            for id in document.tree.nodes() {
                let Some(node) = document.tree.node(id).filter(|node| node.namespace == DIRECTIVES) else { continue };
                let Some(about) = component_around(document, id) else { continue };
                let place = |node| Origin { document: index as u32, node };
                let note = directives.notes.entry(place(about)).or_default();
                if let Err((message, hint)) = note.take(node) {
                    findings.error(DIRECTIVE, place(id), message).hint(hint);
                }
            }
        }
        directives.has_aliases = directives.notes.values().any(|note| !note.aliases.is_empty());
        directives
    }

    pub(crate) fn of(&self, origin: Option<Origin>) -> Option<&Note> {
        self.notes.get(&origin?)
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.notes.is_empty()
    }
}

/// The component that a directive is about: what is around `xs:annotation/xs:appinfo`. A directive within another one, or
/// elsewhere, is none.
fn component_around(document: &Document, id: NodeId) -> Option<NodeId> {
    let parent = |id: NodeId, local: &str| {
        let parent = document.tree.parent(id)?;
        let node = document.tree.node(parent)?;
        (node.namespace == XSD && node.local == local).then_some(parent)
    };
    document.tree.parent(parent(parent(id, "appinfo")?, "annotation")?)
}

impl Note {
    fn take(&mut self, node: &Node) -> Result<(), (String, String)> {
        let words = || node.text.split_ascii_whitespace();
        match node.local.as_str() {
            "aliases" => {
                for word in words() {
                    if !mervik_xml::names::is_ncname(word) {
                        let message = format!("`{}` is no local name", shown::text(word));
                        return Err((message, "aliases are local names, in the namespace of the component".to_owned()));
                    }
                    self.aliases.push(word.into());
                }
            }
            "clean" => {
                for word in words() {
                    let known = Clean::ALL.iter().filter(|(_, clean)| is_about_text(*clean)).map(|(name, _)| *name);
                    match Clean::find(word).filter(|clean| is_about_text(*clean)) {
                        Some(clean) => self.clean.push(clean),
                        None => {
                            let known: Vec<&str> = known.collect();
                            let hint = match near::nearest(word, known.iter().copied()) {
                                Some(near) => format!("`{near}` is near"),
                                None => format!("one of {}", known.join(", ")),
                            };
                            return Err((format!("`{}` is no way to clean a value up", shown::text(word)), hint));
                        }
                    }
                }
            }
            "parse" => {
                let pattern = node.text.trim();
                if !dates::is_pattern(pattern) {
                    let message = format!("`{}` is no pattern of dates and times", shown::text(pattern));
                    return Err((message, "the notation is that of `strptime` (POSIX): `%d.%m.%Y`".to_owned()));
                }
                self.parse.push(pattern.into());
            }
            "silence" => self.silence.extend(words().map(Box::from)),
            other => {
                let hint = match near::nearest(other, KNOWN.iter().copied()) {
                    Some(near) => format!("`{near}` is near"),
                    None => {
                        "a rule that is not checked would let wrong documents pass, so the schema is refused".to_owned()
                    }
                };
                return Err((format!("the directive `{}` cannot be checked yet", shown::text(other)), hint));
            }
        }
        Ok(())
    }
}

fn is_about_text(clean: Clean) -> bool {
    !matches!(clean, Clean::EmptyToNull | Clean::StripNulls)
}
