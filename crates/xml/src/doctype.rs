//! What a document type declares, as far as this reader looks at it (XML 1.0, section 2.8 and 4.2).

use crate::names;
use crate::phrases::Phrases as _;
use crate::reader::MAX_ENTITY_TEXT;
use mervik_document::tongue::Phrase;
use std::collections::HashMap;

/// The entities that a document type declares in the document itself.
#[derive(Debug, Default)]
pub(crate) struct Entities {
    /// The replacement text of each internal general entity.
    pub(crate) internal: HashMap<String, String>,
    /// Entities that stand for something outside of the document.
    pub(crate) external: Vec<String>,
    /// Entities that are no text (`NDATA`).
    pub(crate) unparsed: Vec<String>,
}

/// What stands in a document type where it should not: the offset, what was expected, what was there.
pub(crate) type Wrong = (usize, Phrase, Phrase);

/// Whether a document type declares an entity; gives the offset of the declaration.
pub(crate) fn declares_entity(doctype: &str) -> Option<usize> {
    doctype.find("<!ENTITY")
}

/// Reads the entities that a document type declares.
///
/// # Errors
///
/// Declarations of entities that are malformed, and parameter entities that are used.
pub(crate) fn entities(doctype: &str) -> Result<Entities, Wrong> {
    let mut entities = Entities::default();
    let Some(mut at) = doctype.find('[').map(|open| open + 1) else { return Ok(entities) };
    loop {
        let rest = doctype.get(at..).unwrap_or("");
        let Some(next) = rest.find(['<', '%', ']']) else { return Ok(entities) };
        at += next;
        let rest = doctype.get(at..).unwrap_or("");
        if rest.starts_with(']') {
            return Ok(entities);
        } else if rest.starts_with('%') {
            return Err((
                at,
                Phrase::of(|tongue| tongue.declarations()),
                Phrase::of(|tongue| tongue.parameter_reference()),
            ));
        } else if rest.starts_with("<!--") {
            at += rest.find("-->").map_or(rest.len(), |end| end + 3);
        } else if rest.starts_with("<?") {
            at += rest.find("?>").map_or(rest.len(), |end| end + 2);
        } else if let Some(declaration) = rest.strip_prefix("<!ENTITY") {
            let start = at + "<!ENTITY".len();
            at = start + entity(declaration, &mut entities).map_err(|(off, need, met)| (start + off, need, met))?;
        } else {
            at += past_markup(rest);
        }
    }
}

/// How long a declaration is; `>` in quotes does not end it.
fn past_markup(text: &str) -> usize {
    let mut quote = None;
    for (at, byte) in text.bytes().enumerate() {
        match (quote, byte) {
            (None, b'>') => return at + 1,
            (None, b'"' | b'\'') => quote = Some(byte),
            (Some(open), _) if open == byte => quote = None,
            _ => {}
        }
    }
    text.len()
}

/// Reads what stands after `<!ENTITY`; gives its length.
fn entity(text: &str, entities: &mut Entities) -> Result<usize, Wrong> {
    let mut words = Words { text, at: 0 };
    words.space();
    let parameter = words.takes("%");
    words.space();
    let name = words.word();
    if !names::is_ncname(name) {
        return Err((words.at - name.len(), Phrase::of(|tongue| tongue.name_of_entity()), format!("`{name}`").into()));
    }
    words.space();
    if let Some(value) = words.quoted() {
        if !parameter && !entities.internal.contains_key(name) {
            let replaced = characters(value).ok_or((
                words.at,
                Phrase::of(|tongue| tongue.proper_references()),
                Phrase::of(|tongue| tongue.others()),
            ))?;
            if replaced.len() > MAX_ENTITY_TEXT {
                return Err((
                    words.at,
                    Phrase::of(|tongue| tongue.short_value()),
                    Phrase::of(|tongue| tongue.beyond_budget()),
                ));
            }
            entities.internal.insert(name.to_owned(), replaced);
        }
    } else if !parameter {
        let rest = words.text.get(words.at..).unwrap_or("");
        let declaration = rest.get(..past_markup(rest)).unwrap_or("");
        let target = if declaration.contains("NDATA") { &mut entities.unparsed } else { &mut entities.external };
        target.push(name.to_owned());
    }
    let rest = words.text.get(words.at..).unwrap_or("");
    Ok(words.at + past_markup(rest))
}

/// A value with its character references replaced (XML 1.0, section 4.5); other references stay.
fn characters(value: &str) -> Option<String> {
    let mut out = String::new();
    let mut rest = value;
    while let Some(at) = rest.find("&#") {
        out.push_str(rest.get(..at)?);
        let end = at + rest.get(at..)?.find(';')?;
        out.push(character(rest.get(at + 1..end)?)?);
        rest = rest.get(end + 1..)?;
    }
    out.push_str(rest);
    Some(out)
}

/// The character that `#38` or `#x26` refers to.
pub(crate) fn character(reference: &str) -> Option<char> {
    let number = reference.strip_prefix('#')?;
    let code = match number.strip_prefix('x') {
        Some(hex) if hex.bytes().all(|byte| byte.is_ascii_hexdigit()) => u32::from_str_radix(hex, 16).ok()?,
        None if number.bytes().all(|byte| byte.is_ascii_digit()) => number.parse().ok()?,
        _ => return None,
    };
    char::from_u32(code).filter(|c| names::is_char(*c))
}

/// The character that a predefined entity stands for (XML 1.0, section 4.6).
pub(crate) fn predefined(name: &str) -> Option<char> {
    Some(match name {
        "lt" => '<',
        "gt" => '>',
        "amp" => '&',
        "apos" => '\'',
        "quot" => '"',
        _ => return None,
    })
}

struct Words<'t> {
    text: &'t str,
    at: usize,
}

impl<'t> Words<'t> {
    fn rest(&self) -> &'t str {
        self.text.get(self.at..).unwrap_or("")
    }

    fn space(&mut self) {
        let rest = self.rest();
        self.at += rest.len() - rest.trim_start_matches(names::is_space).len();
    }

    fn takes(&mut self, word: &str) -> bool {
        let takes = self.rest().starts_with(word);
        self.at += if takes { word.len() } else { 0 };
        takes
    }

    fn word(&mut self) -> &'t str {
        let rest = self.rest();
        let length = rest.find(|c| names::is_space(c) || matches!(c, '"' | '\'' | '>')).unwrap_or(rest.len());
        self.at += length;
        rest.get(..length).unwrap_or("")
    }

    fn quoted(&mut self) -> Option<&'t str> {
        let rest = self.rest();
        let quote = rest.chars().next().filter(|c| matches!(c, '"' | '\''))?;
        let inner = rest.get(1..)?;
        let length = inner.find(quote)?;
        self.at += length + 2;
        inner.get(..length)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn internal_entities_are_read_and_others_told_apart() {
        let doctype = r#"m [
            <!-- <!ENTITY not "this"> -->
            <!ELEMENT m ANY> <!ATTLIST m a CDATA "x>y">
            <!ENTITY port "Halvenmouth &#38; roads"> <!ENTITY port "the first counts">
            <!ENTITY % internal "no">
            <!ENTITY far SYSTEM "file:///etc/passwd">
            <!ENTITY pic SYSTEM "p.gif" NDATA gif>
        ]"#;
        let entities = entities(doctype).unwrap();
        assert_eq!(entities.internal.get("port").map(String::as_str), Some("Halvenmouth & roads"));
        assert_eq!(
            (entities.internal.len(), entities.external, entities.unparsed),
            (1, vec!["far".into()], vec!["pic".into()])
        );
    }

    #[test]
    fn parameter_entities_are_not_followed_and_bad_names_are_told() {
        assert!(entities("m [ <!ENTITY % a 'b'> %a; ]").is_err());
        assert!(entities("m [ <!ENTITY 1 'b'> ]").is_err());
        assert!(entities("m [ <!ENTITY a '&#0;'> ]").is_err());
        assert!(entities("m").unwrap().internal.is_empty());
    }

    #[test]
    fn references_to_characters() {
        let table =
            [("#65", Some('A')), ("#x1F6A2", Some('🚢')), ("#0", None), ("#xD800", None), ("#", None), ("#+5", None)];
        for (reference, expected) in table {
            assert_eq!(character(reference), expected, "{reference}");
        }
    }
}
