//! The attributes of a tag, and the namespaces that it declares (Namespaces in XML, sections 3 to 6).

use super::entities::resolved;
use super::faults::{ill_attribute, undeclared};
use super::{Halt, Handler, MAX_ATTRIBUTES, Origin, State};
use crate::attributes::Part;
use crate::fault::Draft;
use crate::names;
use crate::namespaces::{UNKNOWN, XML_NAMESPACE, XMLNS_NAMESPACE};
use crate::phrases::Phrases as _;
use mervik_document::finding::rule;
use mervik_document::shown;
use mervik_document::tongue::{Common as _, Phrase};
use quick_xml::events::BytesStart;
use std::collections::HashSet;

/// From so many attributes on, they are compared by their hashes.
const FEW: usize = 12;

impl<H: Handler> State<'_, H> {
    /// Reads the attributes of a tag into `parts` and the declarations of namespaces into scope; tells whether there are
    /// such declarations.
    pub(super) fn attributes(
        &mut self,
        tag: &BytesStart<'_>,
        content: &str,
        depth: u32,
        origin: &Origin<'_>,
    ) -> Result<bool, Halt> {
        self.parts.clear();
        self.scratch.clear();
        if tag.attributes_raw().is_empty() {
            return Ok(false);
        }
        let mut declares = false;
        let within = |part: &str| (part.as_ptr() as usize).wrapping_sub(content.as_ptr() as usize) as u32;
        for (index, attribute) in tag.attributes().with_checks(false).enumerate() {
            let attribute = attribute.map_err(|error| ill_attribute(&error, content, origin))?;
            let name: &str = attribute.key.0;
            let value: &str = &attribute.value;
            let at = within(name);
            if index >= MAX_ATTRIBUTES {
                let expected = Phrase::of(|tongue| tongue.attributes(MAX_ATTRIBUTES));
                return Err(
                    Draft::new(rule::SIZE, origin.of(name), expected, Phrase::of(|tongue| tongue.more())).into()
                );
            }
            let before = content.as_bytes().get((at as usize).wrapping_sub(1));
            if !before.is_some_and(u8::is_ascii_whitespace) {
                return Err(Draft::syntax(
                    origin.of(name),
                    Phrase::of(|tongue| tongue.space_before_attribute()),
                    format!("`{name}`"),
                )
                .into());
            }
            let Some((prefix, local)) = names::split(name) else {
                let found = format!("`{}`", shown::text(name));
                return Err(Draft::syntax(origin.of(name), Phrase::of(|tongue| tongue.name_of_attribute()), found)
                    .over(name)
                    .into());
            };
            let made = match value.bytes().any(|byte| matches!(byte, b'&' | b'<' | b'\t' | b'\n' | b'\r')) {
                false => None,
                true => {
                    let start = self.scratch.len() as u32;
                    self.normalise(value, origin, origin.of(value))?;
                    Some((start, self.scratch.len() as u32))
                }
            };
            let declared = match (prefix, local) {
                ("xmlns", local) => Some(local),
                ("", "xmlns") => Some(""),
                _ => None,
            };
            if let Some(prefix) = declared {
                declares = true;
                let made =
                    made.map(|(start, end)| self.scratch.get(start as usize..end as usize).unwrap_or("").to_owned());
                self.declare(prefix, made.as_deref().unwrap_or(value), depth, origin.of(name), name)?;
                continue;
            }
            let value_at = within(value);
            self.parts.push(Part {
                name: (at, at + name.len() as u32),
                local: at + (name.len() - local.len()) as u32,
                value: (value_at, value_at + value.len() as u32),
                made,
                number: 0,
            });
        }
        self.resolve_attributes(content, origin)?;
        Ok(declares)
    }

    fn declare(&mut self, prefix: &str, uri: &str, depth: u32, at: usize, name: &str) -> Result<(), Draft> {
        let refuse = |expected: Phrase, found: Phrase| Err(Draft::new(rule::NAMESPACE, at, expected, found).over(name));
        let twice = self.namespaces.declared_at(prefix, depth);
        match (prefix, uri) {
            _ if twice => {
                return refuse(Phrase::of(|tongue| tongue.each_once()), Phrase::of(|tongue| tongue.twice(name)));
            }
            ("xml", XML_NAMESPACE) => {}
            ("xml", _) | (_, XML_NAMESPACE) => {
                return refuse(
                    Phrase::of(|tongue| tongue.xml_for_own()),
                    format!("`{name}=\"{}\"`", shown::text(uri)).into(),
                );
            }
            ("xmlns", _) | (_, XMLNS_NAMESPACE) => {
                return refuse(
                    Phrase::of(|tongue| tongue.no_xmlns()),
                    format!("`{name}=\"{}\"`", shown::text(uri)).into(),
                );
            }
            ("", "") => {}
            (_, "") => {
                return refuse(Phrase::of(|tongue| tongue.namespace_for_prefix()), format!("`{name}=\"\"`").into());
            }
            _ => {}
        }
        let number = self.handler.namespace(uri);
        self.namespaces.declare(prefix, uri, number, depth);
        Ok(())
    }

    /// Finds the namespaces of the attributes, and refuses two of the same name.
    fn resolve_attributes(&mut self, content: &str, origin: &Origin<'_>) -> Result<(), Draft> {
        let none = self.namespaces.none();
        let name_of = |part: &Part| content.get(part.name.0 as usize..part.name.1 as usize).unwrap_or("");
        let local_of = |part: &Part| content.get(part.local as usize..part.name.1 as usize).unwrap_or("");
        let mut prefixed = false;
        for part in &mut self.parts {
            part.number = match part.local == part.name.0 {
                true => none,
                false => {
                    prefixed = true;
                    let prefix = content.get(part.name.0 as usize..part.local as usize - 1).unwrap_or("");
                    let found = self.namespaces.resolve(prefix);
                    found.ok_or_else(|| undeclared(prefix, origin.of(name_of(part)), name_of(part)))?.0
                }
            };
        }
        let uri_of = |part: &Part| match part.local == part.name.0 {
            true => "",
            false => {
                let prefix = content.get(part.name.0 as usize..part.local as usize - 1).unwrap_or("");
                self.namespaces.resolve(prefix).map_or("", |(_, uri)| uri)
            }
        };
        let same = |a: &Part, b: &Part| {
            local_of(a) == local_of(b) && a.number == b.number && (a.number != UNKNOWN || uri_of(a) == uri_of(b))
        };
        let twice = match self.parts.len() {
            0 | 1 => None,
            2..FEW => {
                let parts = self.parts.iter().enumerate();
                let mut before = parts.map(|(index, part)| (part, self.parts.get(..index).unwrap_or_default()));
                before.find(|(part, before)| before.iter().any(|other| same(other, part))).map(|(part, _)| part)
            }
            _ => {
                let mut seen = HashSet::new();
                self.parts.iter().find(|part| !seen.insert((if prefixed { uri_of(part) } else { "" }, local_of(part))))
            }
        };
        match twice {
            None => Ok(()),
            Some(part) => {
                let name = name_of(part);
                Err(Draft::syntax(
                    origin.of(name),
                    Phrase::of(|tongue| tongue.each_once()),
                    Phrase::of(|tongue| tongue.twice(name)),
                )
                .over(name))
            }
        }
    }

    /// Appends an attribute's value to the scratch text, normalised (XML 1.0, section 3.3.3).
    fn normalise(&mut self, value: &str, origin: &Origin<'_>, at: usize) -> Result<(), Draft> {
        let mut rest = value;
        loop {
            let plain = rest.find(['&', '<', '\t', '\n', '\r']).unwrap_or(rest.len());
            self.scratch.push_str(rest.get(..plain).unwrap_or(""));
            rest = rest.get(plain..).unwrap_or("");
            let here = at + (value.len() - rest.len());
            let at = if origin.within == 0 { here } else { origin.at };
            match rest.bytes().next() {
                None => return Ok(()),
                Some(b'<') => {
                    let draft = Draft::syntax(at, Phrase::of(|tongue| tongue.lt_in_value()), "`<`");
                    return Err(draft.hint(Phrase::of(|tongue| tongue.quote_missing())));
                }
                Some(b'&') => {
                    let end = rest.find(';');
                    let name = end.and_then(|end| rest.get(1..end)).filter(|name| !name.is_empty());
                    let Some((name, end)) = name.zip(end) else {
                        return Err(Draft::syntax(at, Phrase::of(|tongue| tongue.ended_reference()), "`&`")
                            .hint(Phrase::of(|tongue| tongue.amp_says_it())));
                    };
                    rest = rest.get(end + 1..).unwrap_or("");
                    match resolved(name) {
                        Some(c) => self.scratch.push(c),
                        None => {
                            let text = self.replacement(name, &Origin { at, ..*origin })?;
                            let inner = Origin { at, within: origin.within + 1, ..*origin };
                            self.normalise(&text, &inner, at)?;
                        }
                    }
                }
                Some(_) => {
                    rest = rest.strip_prefix("\r\n").or_else(|| rest.get(1..)).unwrap_or("");
                    self.scratch.push(' ');
                }
            }
        }
    }
}
