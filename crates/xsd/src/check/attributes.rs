//! The attributes of an element (Part 1, sections 3.2.4, 3.4.4 and 3.10.4).

use super::Checker;
use crate::component::*;
use crate::words;
use mervik_xml::{Attribute, Element as Tag, Spot, UNKNOWN};

impl Checker<'_> {
    /// Checks the attributes of an element by its type.
    #[inline]
    pub(super) fn attributes(&mut self, ty: TypeId, tag: &Tag<'_>, spot: &Spot<'_>) {
        let schema = self.schema;
        let Some(check) = schema.check_of(ty) else { return };
        let uses = schema.components.complex(ty).map_or(&[][..], |complex| &complex.attributes);
        let mut required = 0;
        let mut identified = false;
        for attribute in tag.attributes() {
            if attribute.number == schema.xsi
                && matches!(attribute.local, "type" | "nil" | "schemaLocation" | "noNamespaceSchemaLocation")
            {
                continue;
            }
            let namespace = (attribute.number != UNKNOWN).then_some(attribute.number);
            let name = namespace.and_then(|namespace| schema.components.names.find(namespace, attribute.local));
            let found = name.and_then(|name| {
                let at = check.attributes.binary_search_by_key(&name, |(name, _)| *name).ok()?;
                uses.get(check.attributes.get(at)?.1 as usize)
            });
            match found {
                Some(one) => {
                    required += u32::from(one.required);
                    let declared =
                        schema.components.attribute(one.attribute).map_or(ANY_SIMPLE_TYPE, |attribute| attribute.ty);
                    self.value(declared, one.value.as_ref(), &attribute, tag, spot);
                }
                None => {
                    let any = schema.components.complex(ty).and_then(|complex| complex.any_attribute.as_ref());
                    let any = any.filter(|any| any.namespaces.allows(namespace));
                    let global = name.and_then(|name| schema.components.global_attribute(name));
                    let global = global.and_then(|id| schema.components.attribute(id));
                    match (any.map(|any| any.process), global) {
                        (None, _) => self.stray(ty, &attribute, tag, spot),
                        (Some(Process::Skip), _) | (Some(Process::Lax), None) => {}
                        (Some(Process::Strict), None) => {
                            let wrong = words::undeclared_attribute(schema, &attribute, any.and_then(|any| any.origin));
                            self.tell_attribute(wrong, &attribute, false, spot);
                        }
                        (Some(_), Some(declared)) => {
                            let is_id = schema.components.simple(declared.ty).is_some_and(|ty| ty.role == Role::Id);
                            if is_id && std::mem::replace(&mut identified, true) {
                                let wrong = words::second_id(schema.tongue(), &attribute);
                                self.tell_attribute(wrong, &attribute, false, spot);
                            }
                            self.value(declared.ty, declared.value.as_ref(), &attribute, tag, spot);
                        }
                    }
                }
            }
        }
        if required < check.required {
            self.missing(ty, tag, spot);
        }
        if self.schema.has_identities && self.identities.is_open() {
            self.identity_attributes(ty, tag, spot);
        }
    }

    /// Checks attributes that are declared globally, where nothing else is known.
    pub(super) fn lax_attributes(&mut self, tag: &Tag<'_>, spot: &Spot<'_>) {
        let schema = self.schema;
        for attribute in tag.attributes() {
            if attribute.number == schema.xsi || attribute.number == UNKNOWN {
                continue;
            }
            let name = schema.components.names.find(attribute.number, attribute.local);
            let declared = name.and_then(|name| schema.components.global_attribute(name));
            if let Some(declared) = declared.and_then(|id| schema.components.attribute(id)) {
                self.value(declared.ty, declared.value.as_ref(), &attribute, tag, spot);
            }
        }
    }

    #[inline]
    fn value(
        &mut self,
        ty: TypeId,
        constraint: Option<&ValueConstraint>,
        attribute: &Attribute<'_>,
        tag: &Tag<'_>,
        spot: &Spot<'_>,
    ) {
        let schema = self.schema;
        match self.reader().read(ty, attribute.value, tag.scope) {
            Ok(value) => {
                if let Some(fixed) = constraint.filter(|value| value.fixed && *value.text != *attribute.value)
                    && fixed.key.as_deref() != Some(value.key().as_str())
                {
                    let wrong = words::attribute_not_fixed(schema.tongue(), attribute, fixed);
                    self.tell_attribute(wrong, attribute, true, spot);
                }
                if schema.check_of(ty).is_some_and(|check| check.has_roles) {
                    self.roles(ty, attribute.value, tag.scope, Some(attribute.name), attribute.value_offset, spot);
                }
            }
            Err(miss) => {
                let wrong = words::missed(schema, &miss, attribute.value, Some(ty), tag.scope);
                self.tell_attribute(wrong, attribute, true, spot);
            }
        }
    }

    /// Tells what is wrong with an attribute: with its value, or with its being there.
    fn tell_attribute(&mut self, wrong: super::Wrong, attribute: &Attribute<'_>, value: bool, spot: &Spot<'_>) {
        let at = format!("{}/@{}", self.path(), attribute.name);
        match value && attribute.value_length > 0 {
            true => self.tell(wrong, at, attribute.value_offset, attribute.value_length as usize, spot),
            false => self.tell(wrong, at, attribute.offset, attribute.name.len(), spot),
        }
    }

    #[cold]
    fn stray(&mut self, ty: TypeId, attribute: &Attribute<'_>, tag: &Tag<'_>, spot: &Spot<'_>) {
        let wrong = words::stray_attribute(self.schema, ty, attribute, tag);
        self.tell_attribute(wrong, attribute, false, spot);
    }

    #[cold]
    fn missing(&mut self, ty: TypeId, tag: &Tag<'_>, spot: &Spot<'_>) {
        let schema = self.schema;
        let Some(complex) = schema.components.complex(ty) else { return };
        for one in complex.attributes.iter().filter(|one| one.required) {
            let there = tag.attributes().any(|attribute| {
                attribute.number != UNKNOWN
                    && schema.components.names.find(attribute.number, attribute.local) == Some(one.name)
            });
            if !there {
                let wrong = words::missing_attribute(schema, ty, one, tag);
                self.tell_element(wrong, tag.name.len() + 1, spot);
            }
        }
    }
}
