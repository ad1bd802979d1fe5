//! The schemas that a document itself points to (Part 1, section 4.3.2).

use crate::names::{XSD, XSI};
use mervik_xml::{Config, Element, Handler, Namespaces, Spot, UNKNOWN, escaped_value};
use std::io::Read;
use std::ops::ControlFlow;

/// A schema that a document points to: a namespace, which is empty for none, and a location.
pub type Hint = (String, String);

/// The hints on the root of a document. What cannot be read has none.
pub fn hints(document: impl Read) -> Vec<Hint> {
    let mut root = Root::default();
    // Whatever is wrong with the document is told when it is checked.
    let _ = mervik_xml::read(document, &mut root, Config::default());
    root.hints
}

/// A schema document that takes in all that some hints point to.
pub fn schema_of_hints(hints: &[Hint]) -> String {
    let mut text = format!("<xs:schema xmlns:xs=\"{XSD}\"");
    // It is of no namespace, so that any other can be imported; what has none is included.
    text.push_str(">\n");
    for (namespace, location) in hints {
        let location = escaped_value(location);
        text.push_str(&match namespace.as_str() {
            "" => format!("  <xs:include schemaLocation=\"{location}\"/>\n"),
            namespace => {
                format!("  <xs:import namespace=\"{}\" schemaLocation=\"{location}\"/>\n", escaped_value(namespace))
            }
        });
    }
    text.push_str("</xs:schema>\n");
    text
}

#[derive(Default)]
struct Root {
    hints: Vec<Hint>,
}

impl Handler for Root {
    fn namespace(&mut self, uri: &str) -> u32 {
        if uri == XSI { 1 } else { UNKNOWN }
    }

    fn start(&mut self, element: &Element<'_>, _spot: &Spot<'_>) -> ControlFlow<()> {
        for attribute in element.attributes().filter(|attribute| attribute.number == 1) {
            let mut words = attribute.value.split_ascii_whitespace();
            match attribute.local {
                "schemaLocation" => {
                    while let (Some(namespace), Some(location)) = (words.next(), words.next()) {
                        self.hints.push((namespace.to_owned(), location.to_owned()));
                    }
                }
                "noNamespaceSchemaLocation" => {
                    self.hints.extend(words.next().map(|location| (String::new(), location.to_owned())));
                }
                _ => {}
            }
        }
        ControlFlow::Break(())
    }

    fn text(&mut self, _text: &str, _spot: &Spot<'_>) -> ControlFlow<()> {
        ControlFlow::Continue(())
    }

    fn end(&mut self, _empty: bool, _scope: &Namespaces, _spot: &Spot<'_>) -> ControlFlow<()> {
        ControlFlow::Continue(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hints_are_read_from_the_root_alone() {
        let text =
            "<a xmlns:x='http://www.w3.org/2001/XMLSchema-instance' x:schemaLocation='urn:a a.xsd urn:b\n b.xsd urn:c'
            x:noNamespaceSchemaLocation=' n.xsd '><b x:noNamespaceSchemaLocation='m.xsd'/></a>";
        let pair = |namespace: &str, location: &str| (namespace.to_owned(), location.to_owned());
        assert_eq!(hints(text.as_bytes()), [pair("urn:a", "a.xsd"), pair("urn:b", "b.xsd"), pair("", "n.xsd")]);
        for none in ["<a/>", "", "<a", "<a schemaLocation='urn:a a.xsd'/>"] {
            assert!(hints(none.as_bytes()).is_empty(), "{none}");
        }
    }
}
