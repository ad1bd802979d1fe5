//! The smallest change of an XML Schema that lets a document in which one of its rules refuses.

use crate::Refusal;
use mervik_xml::escaped_value;
use mervik_xml::tree::{Node, NodeId, Tree};
use mervik_xsd::is_value_of;
use std::ops::Range;

/// A change of a schema document.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct XmlChange {
    /// What it does, as a phrase: `raise the bound to 31`.
    pub words: String,
    /// The change as an operation of RFC 5261.
    pub patch: String,
    /// The document with the change made; layout, order and all that is not touched are kept.
    pub text: String,
    /// Whether a bound is moved, so that a later move of it takes the place of this one.
    pub moves: bool,
}

/// The smallest change of the schema document `schema` that ends a refusal; `None` when none is known, or either text is no
/// XML. The rule is the one that the finding names, its places are XPaths.
///
/// What other rules say of the same document is not looked at.
pub fn change_xsd(schema: &str, refusal: &Refusal<'_>, found: &str) -> Option<XmlChange> {
    let schema_tree = Tree::read(schema).ok()?;
    let document = Tree::read(refusal.document).ok()?;
    let (at, _) = schema_tree.find(refusal.schema_at)?;
    let node = schema_tree.node(at)?;
    let widen = Widen { schema, tree: &schema_tree, at, node, path: refusal.schema_at };
    let met = document.find(refusal.at);
    let value = || {
        let (id, attribute) = met?;
        let node = document.node(id)?;
        let text = match attribute {
            Some(name) => &node.attributes.iter().find(|attribute| attribute.name == name)?.value,
            None => &node.text,
        };
        Some(text.split_ascii_whitespace().collect::<Vec<_>>().join(" "))
    };
    match refusal.rule {
        "cvc-maxInclusive-valid" | "cvc-minInclusive-valid" => widen.bound(&value()?),
        "cvc-maxExclusive-valid" => widen.inclusive(&value()?, "maxInclusive"),
        "cvc-minExclusive-valid" => widen.inclusive(&value()?, "minInclusive"),
        "cvc-maxLength-valid" | "cvc-minLength-valid" => widen.bound(&value()?.chars().count().to_string()),
        "cvc-totalDigits-valid" => widen.bound(&digits(&value()?).0.to_string()),
        "cvc-fractionDigits-valid" => widen.bound(&digits(&value()?).1.to_string()),
        "cvc-enumeration-valid" => widen.beside("enumeration", &value()?, |value| format!("allow `{value}`")),
        "cvc-pattern-valid" => {
            widen.beside("pattern", &form(&value()?), |form| format!("allow the form `{form}` besides"))
        }
        "cvc-complex-type.4" => widen.attribute("use", "optional", format!("make `{}` optional", widen.name())),
        "cvc-attribute.4" => widen.fixed(),
        "cvc-complex-type.3.2.1" | "cvc-complex-type.3.2.2" => {
            let (id, attribute) = met?;
            let attribute = document.node(id)?.attributes.iter().find(|one| Some(one.name.as_str()) == attribute)?;
            widen.new_attribute(&attribute.local, &attribute.namespace, &attribute.value)
        }
        rule if rule.starts_with("cvc-complex-type.2.4") && node.local == "element" => {
            if found == "none" || rule.ends_with(".b") {
                return widen.attribute("minOccurs", "0", format!("make `<{}>` optional", widen.name()));
            }
            let (id, _) = met?;
            let element = document.node(id)?;
            if element.local == widen.name() {
                return widen.attribute("maxOccurs", "unbounded", format!("allow several `<{}>`", element.local));
            }
            let root = schema_tree.node(schema_tree.root()?)?;
            let target = root.attribute("targetNamespace").map_or("", |target| target.value.trim());
            let is_plain = document.children(id).is_empty() && element.attributes.is_empty();
            (element.namespace == target).then(|| widen.new_element(element, is_plain)).flatten()
        }
        _ => None,
    }
}

/// Digits in all, and after the point, without zeros that carry nothing.
fn digits(value: &str) -> (usize, usize) {
    let bare = value.trim_start_matches(['+', '-']);
    let (whole, fraction) = bare.split_once('.').unwrap_or((bare, ""));
    let (whole, fraction) = (whole.trim_start_matches('0'), fraction.trim_end_matches('0'));
    ((whole.len() + fraction.len()).max(1), fraction.len())
}

/// A pattern of the form that a value has: runs of digits and of letters, and the rest as it is.
fn form(value: &str) -> String {
    let class = |c: char| match c {
        '0'..='9' => Some("[0-9]"),
        'A'..='Z' => Some("[A-Z]"),
        'a'..='z' => Some("[a-z]"),
        _ => None,
    };
    let mut form = String::new();
    let mut chars = value.chars().peekable();
    while let Some(c) = chars.next() {
        match class(c) {
            Some(name) => {
                let mut count = 1;
                while chars.next_if(|next| class(*next) == Some(name)).is_some() {
                    count += 1;
                }
                form.push_str(name);
                if count > 1 {
                    form.push_str(&format!("{{{count}}}"));
                }
            }
            None => {
                if "\\|.?*+(){}[]^-$".contains(c) {
                    form.push('\\');
                }
                form.push(c);
            }
        }
    }
    form
}

/// The built-in type that a value looks like.
fn type_of(value: &str) -> &'static str {
    let known = [("integer", "integer"), ("decimal", "decimal"), ("dateTime", "dateTime"), ("date", "date")];
    known.iter().find(|(name, _)| is_value_of(name, value)).map_or("string", |(_, ty)| ty)
}

struct Widen<'s> {
    schema: &'s str,
    tree: &'s Tree,
    at: NodeId,
    node: &'s Node,
    path: &'s str,
}

impl Widen<'_> {
    /// The name of the declaration, whether it declares or refers.
    fn name(&self) -> &str {
        let name = self.node.attribute("name").or(self.node.attribute("ref")).map_or("", |name| name.value.trim());
        name.rsplit(':').next().unwrap_or(name)
    }

    /// The prefix that the schema has for XML Schema, with its colon.
    fn prefix(&self) -> &str {
        self.node.name.strip_suffix(self.node.local.as_str()).unwrap_or("")
    }

    fn made(
        &self,
        words: String,
        patch: String,
        moves: bool,
        mut edits: Vec<(Range<usize>, String)>,
    ) -> Option<XmlChange> {
        edits.sort_by_key(|(range, _)| range.start);
        let mut text = String::with_capacity(self.schema.len() + 80);
        let mut at = 0;
        for (range, new) in edits {
            text.push_str(self.schema.get(at..range.start)?);
            text.push_str(&new);
            at = range.end;
        }
        text.push_str(self.schema.get(at..)?);
        Some(XmlChange { words, patch, text, moves })
    }

    /// Gives an attribute of the node a value.
    fn attribute(&self, name: &str, value: &str, words: String) -> Option<XmlChange> {
        self.attribute_moved(name, value, words, false)
    }

    fn attribute_moved(&self, name: &str, value: &str, words: String, moves: bool) -> Option<XmlChange> {
        let path = self.path;
        match self.node.attribute(name) {
            Some(known) => {
                let start = known.value_offset as usize;
                let patch = format!("<replace sel=\"{path}/@{name}\">{}</replace>", escaped_value(value));
                self.made(words, patch, moves, vec![(start..start + known.value_length as usize, escaped_value(value))])
            }
            None => {
                let end = match self.node.attributes.iter().map(|one| one.value_offset + one.value_length + 1).max() {
                    Some(end) => end as usize,
                    None => self.node.offset as usize + 1 + self.node.name.len(),
                };
                let patch = format!("<add sel=\"{path}\" type=\"@{name}\">{}</add>", escaped_value(value));
                self.made(words, patch, moves, vec![(end..end, format!(" {name}=\"{}\"", escaped_value(value)))])
            }
        }
    }

    fn bound(&self, value: &str) -> Option<XmlChange> {
        let word =
            if self.node.local.starts_with("max") || self.node.local.ends_with("Digits") { "raise" } else { "lower" };
        self.attribute_moved("value", value, format!("{word} `{}` to {value}", self.node.local), true)
    }

    /// An exclusive bound becomes an inclusive one at the value.
    fn inclusive(&self, value: &str, local: &str) -> Option<XmlChange> {
        let known = self.node.attribute("value")?;
        let (name, start) = (self.node.offset as usize + 1, known.value_offset as usize);
        let new = format!("{}{local}", self.prefix());
        let patch = format!("<replace sel=\"{}\"><{new} value=\"{}\"/></replace>", self.path, escaped_value(value));
        // An end tag would have to change, too.
        self.schema.get(..self.node.end as usize)?.ends_with("/>").then_some(())?;
        let edits = vec![
            (name..name + self.node.name.len(), new),
            (start..start + known.value_length as usize, escaped_value(value)),
        ];
        self.made(format!("`{local}` {value} instead of `{}`", self.node.local), patch, true, edits)
    }

    /// One facet more beside the node, on a line of its own.
    fn beside(&self, local: &str, value: &str, words: impl Fn(&str) -> String) -> Option<XmlChange> {
        (self.node.local == local).then_some(())?;
        // After the last of its like.
        let parent = self.tree.parent(self.at)?;
        let like = self.tree.children(parent).iter().rev().filter_map(|id| self.tree.node(*id));
        let last = like.into_iter().find(|node| node.local == local)?;
        let facet = format!("<{} value=\"{}\"/>", self.node.name, escaped_value(value));
        let patch = format!("<add sel=\"{}\" pos=\"after\">{facet}</add>", self.path);
        let end = last.end as usize;
        self.made(words(value), patch, false, vec![(end..end, format!("{}{facet}", self.line(last.offset as usize)))])
    }

    /// What makes a new line with the indentation of what starts at an offset; nothing where it shares its line.
    fn line(&self, offset: usize) -> String {
        let before = self.schema.get(..offset).unwrap_or("");
        let indent = before.rsplit('\n').next().unwrap_or("");
        match before.contains('\n') && indent.chars().all(char::is_whitespace) {
            true => format!("\n{indent}"),
            false => String::new(),
        }
    }

    fn fixed(&self) -> Option<XmlChange> {
        let known = self.node.attribute("fixed")?;
        let start = known.offset as usize;
        let patch = format!(
            "<remove sel=\"{0}/@fixed\"/><add sel=\"{0}\" type=\"@default\">{1}</add>",
            self.path,
            escaped_value(&known.value)
        );
        let words = format!("make the fixed value of `{}` its default", self.name());
        self.made(words, patch, false, vec![(start..start + known.name.len(), "default".to_owned())])
    }

    fn new_element(&self, element: &Node, is_plain: bool) -> Option<XmlChange> {
        let parent = self.tree.node(self.tree.parent(self.at)?)?;
        matches!(parent.local.as_str(), "sequence" | "choice").then_some(())?;
        let (local, prefix) = (&element.local, self.prefix());
        let ty = match is_plain {
            true => format!(" type=\"{prefix}{}\"", type_of(element.text.trim())),
            false => String::new(),
        };
        let new = format!("<{prefix}element name=\"{local}\"{ty} minOccurs=\"0\"/>");
        let start = self.node.offset as usize;
        let patch = format!("<add sel=\"{}\" pos=\"before\">{new}</add>", self.path);
        let line = self.line(start);
        // The indentation stands before the node already.
        let text = if line.is_empty() { new } else { format!("{new}{line}") };
        self.made(format!("allow `<{local}>` here"), patch, false, vec![(start..start, text)])
    }

    fn new_attribute(&self, local: &str, namespace: &str, value: &str) -> Option<XmlChange> {
        namespace.is_empty().then_some(())?;
        let child = |id: NodeId, names: &[&str]| {
            let children = self.tree.children(id).iter();
            let mut named =
                children.filter(|id| self.tree.node(**id).is_some_and(|node| names.contains(&node.local.as_str())));
            named.next().copied()
        };
        (self.node.local == "complexType").then_some(())?;
        let holder = child(self.at, &["simpleContent", "complexContent"])
            .and_then(|content| child(content, &["extension", "restriction"]))
            .unwrap_or(self.at);
        let node = self.tree.node(holder)?;
        let prefix = self.prefix();
        let new = format!("<{prefix}attribute name=\"{local}\" type=\"{prefix}{}\"/>", type_of(value));
        let patch = format!("<add sel=\"{}\">{new}</add>", self.path);
        let words = format!("allow the attribute `{local}`");
        if let Some(any) = child(holder, &["anyAttribute"]).and_then(|any| self.tree.node(any)) {
            let start = any.offset as usize;
            return self.made(words, patch, false, vec![(start..start, format!("{new}{}", self.line(start)))]);
        }
        let last = self.tree.children(holder).last().and_then(|last| self.tree.node(*last));
        match last {
            Some(last) => {
                let end = last.end as usize;
                self.made(words, patch, false, vec![(end..end, format!("{}{new}", self.line(last.offset as usize)))])
            }
            None => {
                let end = node.end as usize;
                let text = self.schema.get(node.offset as usize..end)?;
                match text.strip_suffix("/>") {
                    Some(_) => self.made(words, patch, false, vec![(end - 2..end, format!(">{new}</{}>", node.name))]),
                    None => {
                        let close = node.offset as usize + text.rfind("</")?;
                        self.made(words, patch, false, vec![(close..close, new)])
                    }
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_xsd::{Fetch, FetchError, Fetched, Options, check, compile};

    struct Nothing;

    impl Fetch for Nothing {
        fn fetch(&mut self, _uri: &str) -> Result<Fetched, FetchError> {
            Err(FetchError { reason: "not here".to_owned(), hint: None })
        }
    }

    const SCHEMA: &str = r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema">
  <xs:element name="tally">
    <xs:complexType>
      <xs:sequence>
        <xs:element name="crate" type="Crate"/>
        <xs:element name="clerk" type="Name"/>
      </xs:sequence>
      <xs:attribute name="day" type="xs:date" use="required"/>
    </xs:complexType>
  </xs:element>
  <xs:complexType name="Crate">
    <xs:attribute name="mass" type="Mass"/>
    <xs:attribute name="unit" fixed="kg"/>
    <xs:attribute name="mark" type="Mark"/>
  </xs:complexType>
  <xs:simpleType name="Mass">
    <xs:restriction base="xs:decimal">
      <xs:minExclusive value="0"/>
      <xs:maxInclusive value="50"/>
      <xs:totalDigits value="4"/>
    </xs:restriction>
  </xs:simpleType>
  <xs:simpleType name="Mark">
    <xs:restriction base="xs:token"><xs:pattern value="[A-Z]+"/></xs:restriction>
  </xs:simpleType>
  <xs:simpleType name="Name">
    <xs:restriction base="xs:token">
      <xs:enumeration value="Ada"/>
      <xs:enumeration value="Bo"/>
    </xs:restriction>
  </xs:simpleType>
</xs:schema>"#;

    /// What the schema becomes until a document passes, as the lines that are new; `None` when it never does.
    fn fitted(document: &str) -> Option<Vec<String>> {
        let mut schema = SCHEMA.to_owned();
        for _ in 0..6 {
            let compiled = compile("t.xsd", "file:///t.xsd", schema.clone(), &mut Nothing).unwrap();
            assert!(!compiled.is_broken(), "{:?}\n{schema}", compiled.remarks);
            let found = check(&compiled.schema, document.as_bytes(), &Options::default()).unwrap();
            let Some(first) = found.first() else {
                let new = schema.lines().filter(|line| !SCHEMA.lines().any(|known| known == *line));
                return Some(new.map(|line| line.trim().to_owned()).collect());
            };
            let finding = &first.finding;
            let place = finding.schema.as_ref()?;
            let refusal = Refusal { rule: &finding.rule, schema_at: &place.at, document, at: &finding.at };
            schema = change_xsd(&schema, &refusal, &finding.found)?.text;
        }
        None
    }

    #[test]
    fn the_smallest_change_lets_a_document_in() {
        let tally = |crate_of: &str, clerk: &str| format!("<tally day='2026-04-02'><crate{crate_of}/>{clerk}</tally>");
        let ada = "<clerk>Ada</clerk>";
        let table: &[(String, &[&str])] = &[
            (tally("", ada), &[]),
            (tally(" mass='60.5'", ada), &["<xs:maxInclusive value=\"60.5\"/>"]),
            (tally(" mass='-1'", ada), &["<xs:minInclusive value=\"-1\"/>"]),
            (tally(" mass='1.2345'", ada), &["<xs:totalDigits value=\"5\"/>"]),
            (tally(" unit='t'", ada), &["<xs:attribute name=\"unit\" default=\"kg\"/>"]),
            (
                tally(" mark='a-17'", ada),
                &[
                    "<xs:restriction base=\"xs:token\"><xs:pattern value=\"[A-Z]+\"/><xs:pattern value=\"[a-z]\\-[0-9]{2}\"/></xs:restriction>",
                ],
            ),
            (tally("", "<clerk>Cy</clerk>"), &["<xs:enumeration value=\"Cy\"/>"]),
            (tally("", ""), &["<xs:element name=\"clerk\" type=\"Name\" minOccurs=\"0\"/>"]),
            (tally(" hue='7'", ada), &["<xs:attribute name=\"hue\" type=\"xs:integer\"/>"]),
            (
                tally("", &format!("<weather>fog</weather>{ada}")),
                &["<xs:element name=\"weather\" type=\"xs:string\" minOccurs=\"0\"/>"],
            ),
            (
                tally("", ada).replace(" day='2026-04-02'", ""),
                &["<xs:attribute name=\"day\" type=\"xs:date\" use=\"optional\"/>"],
            ),
        ];
        for (document, expected) in table {
            assert_eq!(
                fitted(document).as_deref(),
                Some(*expected).map(|all| all.iter().map(|line| (*line).to_owned()).collect::<Vec<_>>()).as_deref(),
                "{document}"
            );
        }
    }

    #[test]
    fn what_nothing_smaller_is_known_for_has_no_change() {
        for document in ["<tally day='soon'><crate/><clerk>Ada</clerk></tally>", "<other/>", "<tally"] {
            assert_eq!(fitted(document), None, "{document}");
        }
    }
}
