//! The values of elements: those with text alone, and fixed ones among mixed content (Part 1, cvc-elt.5 and cvc-type).

use super::Checker;
use crate::component::TypeId;
use crate::words;
use mervik_xml::{Namespaces, Spot};

impl Checker<'_> {
    /// The end of an element with text and nothing else.
    pub(super) fn end_text(
        &mut self,
        ty: TypeId,
        text_type: TypeId,
        has_roles: bool,
        scope: &Namespaces,
        spot: &Spot<'_>,
    ) {
        let schema = self.schema;
        let Some(frame) = self.frames.last() else { return };
        let declared = frame.element.and_then(|id| schema.components.element(id));
        let constraint = declared.and_then(|element| element.value.as_ref());
        // What is left empty has the default.
        let (text, filled) = match constraint {
            Some(constraint) if self.text.is_empty() => (&*constraint.text, true),
            _ => (self.text.as_str(), false),
        };
        let wanted =
            self.identities.is_open() && self.identities.wants_text(&schema.components.identities, &self.frames);
        match self.reader().read(text_type, text, scope) {
            Ok(value) => {
                let fixed = constraint.filter(|constraint| constraint.fixed && !filled && *constraint.text != *text);
                let differs = fixed.filter(|fixed| fixed.key.as_deref() != Some(value.key().as_str()));
                let key = wanted.then(|| {
                    let mut key = std::mem::take(&mut self.identities.key);
                    key.clear();
                    value.write_key(&mut key);
                    key
                });
                if let (Some(fixed), Some(declared)) = (differs, declared) {
                    let wrong = words::not_fixed(schema, declared, fixed, text);
                    let (at, offset, length) = (self.path(), self.text_offset(), self.text.len());
                    self.tell(wrong, at, offset, length, spot);
                }
                if let Some(key) = key {
                    self.identity_text(&key, spot);
                    self.identities.key = key;
                }
                if has_roles {
                    let text = std::mem::take(&mut self.text);
                    let at = self.text_offset();
                    self.roles(text_type, &text, scope, None, at, spot);
                    self.text = text;
                }
            }
            Err(miss) => {
                let text = text.to_owned();
                let wrong = words::missed(schema, &miss, &text, Some(ty), scope);
                let (at, offset) = (self.path(), self.text_offset());
                let length = text.trim_end().len().max(1);
                self.tell(wrong, at, offset, length, spot);
                if wanted {
                    self.identity_no_text();
                }
            }
        }
    }

    pub(super) fn text_offset(&self) -> u64 {
        self.frames.last().map_or(0, |frame| if frame.has_text { frame.text_offset } else { frame.offset })
    }

    /// The fixed value of an element with mixed content (cvc-elt.5.2.2).
    pub(super) fn end_mixed(&mut self, _ty: TypeId, spot: &Spot<'_>) {
        let schema = self.schema;
        let Some(frame) = self.frames.last() else { return };
        let declared = frame.element.and_then(|id| schema.components.element(id));
        let Some((declared, fixed)) =
            declared.and_then(|element| Some((element, element.value.as_ref().filter(|value| value.fixed)?)))
        else {
            return;
        };
        let wrong = if frame.has_children {
            words::fixed_children(schema, declared, fixed)
        } else if frame.has_text && *self.text != *fixed.text {
            words::not_fixed(schema, declared, fixed, &self.text)
        } else {
            return;
        };
        let (at, offset, length) = (self.path(), self.text_offset(), self.text.len().max(1));
        self.tell(wrong, at, offset, length, spot);
    }
}
