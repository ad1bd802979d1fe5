//! What governs an element: its declaration, and what it says of itself with `xsi:type` and `xsi:nil` (Part 1, cvc-elt).

use super::{Checker, Mode, Wrong};
use crate::component::{ElementId, Methods, TypeId};
use crate::words;
use mervik_document::Severity;
use mervik_xml::{Element as Tag, Spot};

impl Checker<'_> {
    /// The type that an element names with `xsi:type`, if there is such a type.
    pub(super) fn named_type(&self, tag: &Tag<'_>) -> Option<Result<TypeId, String>> {
        let xsi =
            tag.attributes().find(|attribute| attribute.number == self.schema.xsi && attribute.local == "type")?;
        let text = xsi.value.trim_matches(mervik_xml::names::is_space);
        let found = mervik_xml::names::split(text).and_then(|(prefix, local)| {
            let (number, _) = tag.scope.resolve(prefix)?;
            let name = self.schema.components.names.find(number, local)?;
            self.schema.components.global_type(name)
        });
        Some(found.ok_or_else(|| text.to_owned()))
    }

    /// The type that governs an element: that of its declaration, or one derived from it that it names itself.
    pub(super) fn governing(&mut self, tag: &Tag<'_>, element: Option<ElementId>, mode: Mode, spot: &Spot<'_>) -> Mode {
        if mode == Mode::Skip {
            return mode;
        }
        let schema = self.schema;
        let declared = element.and_then(|id| schema.components.element(id));
        let named = if tag.has_namespace(schema.xsi) { self.named_type(tag) } else { None };
        let mut ty = declared.map(|element| element.ty);
        match named {
            None => {}
            Some(Err(text)) => {
                let mut wrong = words::no_type(schema, tag, &text);
                // An element without a declaration is looked at as far as anything is known of it (cvc-assess-elt).
                if declared.is_none() {
                    wrong.severity = Severity::Warning;
                }
                self.tell_xsi(wrong, "type", tag, spot);
                // What the content is meant for nobody knows.
                return Mode::Lax;
            }
            Some(Ok(named)) => match declared {
                None => ty = Some(named),
                Some(element) => {
                    let block_of_type =
                        schema.components.complex(element.ty).map_or(Methods::NONE, |complex| complex.block);
                    let block = element.block.with(block_of_type).and(Methods::EXTENSION.with(Methods::RESTRICTION));
                    if !schema.components.derived_ok(named, element.ty, block) {
                        let wrong = words::not_derived(schema, named, element);
                        self.tell_xsi(wrong, "type", tag, spot);
                    }
                    // The content is meant for the type that is named, even where that may not stand here.
                    ty = Some(named);
                }
            },
        }
        if let Some(element) = declared.filter(|element| element.is_abstract) {
            let wrong = words::abstract_element(schema, element);
            self.tell_element(wrong, tag.name.len() + 1, spot);
        }
        let Some(ty) = ty else { return Mode::Lax };
        if schema.components.complex(ty).is_some_and(|complex| complex.is_abstract) {
            let wrong = words::abstract_type(schema, ty);
            self.tell_element(wrong, tag.name.len() + 1, spot);
        }
        Mode::Typed(ty)
    }

    fn tell_xsi(&mut self, wrong: Wrong, local: &str, tag: &Tag<'_>, spot: &Spot<'_>) {
        let attribute =
            tag.attributes().find(|attribute| attribute.number == self.schema.xsi && attribute.local == local);
        if let Some(attribute) = attribute {
            let at = format!("{}/@{}", self.path(), attribute.name);
            self.tell(wrong, at, attribute.value_offset, attribute.value_length as usize, spot);
        }
    }

    /// Whether an element says that it is nil, and whether it may.
    pub(super) fn nil(&mut self, tag: &Tag<'_>, element: Option<ElementId>, spot: &Spot<'_>) -> bool {
        let schema = self.schema;
        let Some(nil) = tag.attributes().find(|attribute| attribute.number == schema.xsi && attribute.local == "nil")
        else {
            return false;
        };
        let value = match nil.value.trim_matches(mervik_xml::names::is_space) {
            "true" | "1" => true,
            "false" | "0" => false,
            _ => {
                let wrong = words::nil_value(schema.tongue(), nil.value);
                self.tell_xsi(wrong, "nil", tag, spot);
                return false;
            }
        };
        let Some(declared) = element.and_then(|id| schema.components.element(id)) else { return value };
        if !declared.nillable {
            let wrong = words::not_nillable(schema, declared);
            self.tell_xsi(wrong, "nil", tag, spot);
            // That nothing is in it follows from that.
            if let Some(frame) = self.frames.last_mut() {
                frame.broken |= value;
            }
            return false;
        }
        if value && declared.value.as_ref().is_some_and(|value| value.fixed) {
            let wrong = words::nil_fixed(schema, declared);
            self.tell_xsi(wrong, "nil", tag, spot);
        }
        value
    }
}
