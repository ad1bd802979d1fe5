//! What Mervik adds to a schema: elements of `urn:mervik:directives` in `xs:appinfo`, about the component around them.

mod sets;

use crate::component::Origin;
use crate::names::XSD;
use crate::remark::Findings;
use crate::source::Document;
use crate::stated::Written;
use mervik_document::clean::Clean;
use mervik_document::{Severity, Span, dates, near, shown};
use mervik_messages::{Message, identifier};
use mervik_xml::tree::{Node, NodeId, Tree};
use sets::Sets;
use std::collections::HashMap;

/// The namespace of directives.
pub const DIRECTIVES: &str = "urn:mervik:directives";

/// The name by which remarks tell of a directive that is not understood.
pub const DIRECTIVE: &str = "directive";

const KNOWN: &[&str] = &["aliases", "clean", "key", "messages", "parse", "rules", "sets", "silence", "title"];

/// The attributes of a rule.
const RULE: [&str; 5] = ["id", "that", "when", "severity", "message"];

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
    /// A name for people.
    pub(crate) title: Option<Box<str>>,
    /// The name under which catalogues have it.
    pub(crate) key: Option<Box<str>>,
    /// What is said of findings, by rule.
    pub(crate) messages: Vec<(Box<str>, Message)>,
    /// Rules between fields, until they are compiled.
    rules: Vec<Written>,
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
        let sets = Sets::read(documents, findings);
        for (index, document) in documents.iter().enumerate() {
            for id in document.tree.nodes() {
                let Some(node) = document.tree.node(id).filter(|node| node.namespace == DIRECTIVES) else { continue };
                let Some(about) = component_around(document, id) else { continue };
                let place = |node| Origin { document: index as u32, node };
                let note = directives.notes.entry(place(about)).or_default();
                let told = match node.local.as_str() {
                    "rules" if node.attribute("use").is_some() => note.used(&sets, &document.tree, id, place(id)),
                    "rules" => note.rule(node, place(id)),
                    // They have been read.
                    "sets" => Ok(()),
                    "messages" => note.message(node),
                    _ => note.take(node).map_err(|(message, hint)| Wrong { message, hint, within: None }),
                };
                if let Err(wrong) = told {
                    wrong.tell(place(id), findings);
                }
            }
        }
        directives.has_aliases = directives.notes.values().any(|note| !note.aliases.is_empty());
        directives
    }

    /// Takes out the rules between fields, each with the component that it is about, in the order of the documents.
    pub(crate) fn take_rules(&mut self) -> Vec<(Origin, Vec<Written>)> {
        let rules = self.notes.iter_mut().map(|(about, note)| (*about, std::mem::take(&mut note.rules)));
        let mut rules: Vec<(Origin, Vec<Written>)> = rules.filter(|(_, rules)| !rules.is_empty()).collect();
        rules.sort_by_key(|(about, _)| (about.document, about.node.index()));
        rules
    }

    /// The names under which catalogues have components.
    pub(crate) fn keys(&self) -> impl Iterator<Item = &str> {
        self.notes.values().filter_map(|note| note.key.as_deref())
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

/// What is wrong with a directive, and in which part of an attribute.
struct Wrong {
    message: String,
    hint: String,
    within: Option<(&'static str, Span)>,
}

impl Wrong {
    fn tell(self, at: Origin, findings: &mut Findings) {
        findings.error(DIRECTIVE, at, self.message);
        if let Some((attribute, part)) = self.within {
            findings.at(attribute).part(part);
        }
        if !self.hint.is_empty() {
            findings.hint(self.hint);
        }
    }
}

fn wrong<T>(message: impl Into<String>, hint: impl Into<String>) -> Result<T, Wrong> {
    Err(Wrong { message: message.into(), hint: hint.into(), within: None })
}

impl Note {
    /// A rule between fields: `<d:rules id="…" that="…"/>`.
    fn rule(&mut self, node: &Node, at: Origin) -> Result<(), Wrong> {
        let written = written(node, at)?;
        self.state(written)
    }

    /// The rules of a set, with what stands for its parameters: `<d:rules use="…"><d:with …/></d:rules>`.
    fn used(&mut self, sets: &Sets, tree: &Tree, id: NodeId, at: Origin) -> Result<(), Wrong> {
        sets.used(tree, id, at)?.into_iter().try_for_each(|written| self.state(written))
    }

    fn state(&mut self, written: Written) -> Result<(), Wrong> {
        if self.rules.iter().any(|rule| rule.id == written.id) {
            return wrong(format!("the rule `{}` is stated twice here", shown::text(&written.id)), "");
        }
        self.rules.push(written);
        Ok(())
    }

    /// What is said of findings: `<d:messages for="maxLength" text="…"/>`.
    fn message(&mut self, node: &Node) -> Result<(), Wrong> {
        let given = |name: &str| node.attribute(name).map(|attribute| attribute.value.as_str());
        let (Some(rule), Some(text)) = (given("for"), given("text")) else {
            return wrong("a message must say what it is `for`, and have a `text`", "`for=\"maxLength\" text=\"…\"`");
        };
        let message = parsed("text", text)?;
        self.messages.push((rule.into(), message));
        Ok(())
    }

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
            "title" => self.title = Some(node.text.trim()).filter(|title| !title.is_empty()).map(Box::from),
            "key" => match identifier(node.text.trim()) {
                Some(key) if key == node.text.trim() => self.key = Some(key.into()),
                _ => {
                    let hint = "letters, digits, `_` and `-`, a letter first: `ship-length`".to_owned();
                    return Err(("`key` must be a name that a catalogue can have".to_owned(), hint));
                }
            },
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

/// Refuses attributes that a directive does not have.
fn only<const N: usize>(node: &Node, what: &str, known: [&'static str; N]) -> Result<(), Wrong> {
    let mut own = node.attributes.iter().filter(|one| one.namespace.is_empty());
    match own.find(|attribute| !known.contains(&attribute.local.as_str())) {
        None => Ok(()),
        Some(attribute) => {
            let near = near::nearest(&attribute.local, known).map(|near| format!("`{near}` is near"));
            wrong(format!("{what} has no `{}`", shown::text(&attribute.local)), near.unwrap_or_default())
        }
    }
}

fn written(node: &Node, at: Origin) -> Result<Written, Wrong> {
    only(node, "a rule", RULE)?;
    let given = |name: &str| node.attribute(name).map(|attribute| attribute.value.as_str());
    let (Some(id), Some(_)) = (given("id"), given("that")) else {
        return wrong(
            "a rule must have an `id` and a condition in `that`",
            "the `id` names it in findings and in cases",
        );
    };
    let condition = |name: &'static str| match given(name) {
        None => Ok(None),
        Some(text) => mervik_rules::parse(text).map(Some).map_err(|fault| Wrong {
            message: fault.message,
            hint: fault.hint.unwrap_or_default(),
            within: Some((name, fault.span)),
        }),
    };
    let severity = match given("severity") {
        None | Some("error") => Severity::Error,
        Some("warning") => Severity::Warning,
        Some(other) => return wrong(format!("`{}` is no severity", shown::text(other)), "`error` or `warning`"),
    };
    let message = given("message").map(|text| parsed("message", text)).transpose()?;
    let (that, when) = (condition("that")?, condition("when")?);
    match that {
        Some(that) => Ok(Written { id: id.to_owned(), that, when, severity, message, at, bound: None }),
        None => wrong("a rule must have a condition in `that`", ""),
    }
}

fn parsed(attribute: &'static str, text: &str) -> Result<Message, Wrong> {
    Message::parse(text).map_err(|fault| Wrong {
        message: fault.message,
        hint: fault.hint.unwrap_or_default(),
        within: Some((attribute, fault.span)),
    })
}

fn is_about_text(clean: Clean) -> bool {
    !matches!(clean, Clean::EmptyToNull | Clean::StripNulls)
}
