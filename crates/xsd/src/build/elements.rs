//! Element declarations and substitution groups (Part 1, section 3.3).

use super::{Builder, Kind};
use crate::component::*;
use crate::names::{ABSENT, NameId};
use crate::source::methods;

impl Builder<'_> {
    pub(super) fn elements(&mut self) {
        let registered = self.registered(Kind::Element);
        for (name, origin) in &registered {
            let id = self.out.elements.len() as u32;
            self.out.globals.insert((Kind::Element, *name), id);
            self.out.elements.push(unmade(*name, *origin, true));
        }
        for (index, (name, origin)) in registered.iter().enumerate() {
            let made = self.make_element(*name, *origin, true);
            if let Some(slot) = self.out.elements.get_mut(index) {
                *slot = made;
            }
        }
        self.inherit_types(registered.len());
    }

    fn make_element(&mut self, name: NameId, origin: Origin, global: bool) -> Element {
        let mut element = unmade(name, origin, global);
        let inline =
            self.child(origin, &["simpleType", "complexType"]).and_then(|(at, _)| self.type_at.get(&at).copied());
        let named = self.value(origin, "type").is_some();
        if named && inline.is_some() {
            let message = "an element must have either `type` or a type within, found both";
            self.findings.error("src-element.3", origin, message).at("type");
        }
        let ty = if named { self.refer_type(origin, "type") } else { inline };
        element.ty = ty.unwrap_or(ANY_TYPE);
        element.nillable = self.is_true(origin, "nillable");
        element.is_abstract = self.is_true(origin, "abstract");
        element.value = self.value_constraint(origin, "src-element.1");
        let document = self.document(origin);
        element.block = self.value(origin, "block").map_or(document.block, methods);
        element.finals = self.value(origin, "final").map_or(document.finals, methods);
        if global && self.value(origin, "substitutionGroup").is_some() {
            let head = self.refer(origin, "substitutionGroup", Kind::Element);
            element.head = head.and_then(|head| self.out.global_element(head));
        }
        element
    }

    /// An element with a head and without a type has the type of its head.
    fn inherit_types(&mut self, count: usize) {
        let heads: Vec<Option<ElementId>> = self.out.elements.iter().take(count).map(|element| element.head).collect();
        let (ordered, circles) = super::order(count, |index| {
            heads.get(index).copied().flatten().map(|head| head.0 as usize).into_iter().collect()
        });
        for circle in circles {
            let Some(origin) = self.out.elements.get(circle).and_then(|element| element.origin) else { continue };
            let message = "an element must not stand in its own place, however far around";
            self.findings.error("e-props-correct.6", origin, message).at("substitutionGroup");
            if let Some(element) = self.out.elements.get_mut(circle) {
                element.head = None;
            }
        }
        for index in ordered {
            let Some(element) = self.out.elements.get(index) else { continue };
            let (Some(origin), Some(head)) = (element.origin, element.head) else { continue };
            let told =
                self.value(origin, "type").is_some() || self.child(origin, &["simpleType", "complexType"]).is_some();
            let ty = self.out.element(head).map(|head| head.ty);
            if let (false, Some(ty), Some(element)) = (told, ty, self.out.elements.get_mut(index)) {
                element.ty = ty;
            }
        }
    }

    /// The declaration that an element within a model stands for.
    pub(super) fn local_element(&mut self, origin: Origin) -> Option<ElementId> {
        let has = |builder: &Self, name: &str| builder.value(origin, name).is_some();
        if has(self, "name") == has(self, "ref") {
            let message = "an element within a model must have either `name` or `ref`";
            self.findings.error("src-element.2.1", origin, message);
            return None;
        }
        if has(self, "ref") {
            const NOT: [&str; 6] = ["nillable", "default", "fixed", "form", "block", "type"];
            let within = ["complexType", "simpleType", "key", "keyref", "unique"];
            if let Some(not) = NOT.into_iter().find(|name| has(self, name)) {
                let message = format!("a reference to an element must not have `{not}`");
                self.findings.error("src-element.2.2", origin, message).at(not);
            } else if let Some((_, node)) = self.child(origin, &within) {
                let message = format!("a reference to an element must not have a `{}` within", node.local);
                self.findings.error("src-element.2.2", origin, message);
            }
            let name = self.refer(origin, "ref", Kind::Element)?;
            return self.out.global_element(name);
        }
        let local = self.value(origin, "name")?;
        let document = self.document(origin);
        let form = self.value(origin, "form");
        let qualified = form.map_or(document.elements_qualified, |form| form == "qualified");
        let name = self.out.names.intern(if qualified { document.target } else { ABSENT }, local);
        let made = self.make_element(name, origin, false);
        let id = ElementId(self.out.elements.len() as u32);
        self.out.elements.push(made);
        Some(id)
    }

    /// Tells each head who may stand in its place, however far away (Part 1, section 3.3.6).
    pub(super) fn substitution_groups(&mut self) {
        let mut members: std::collections::HashMap<ElementId, Vec<ElementId>> = std::collections::HashMap::new();
        for (index, element) in self.out.elements.iter().enumerate() {
            if let Some(head) = element.head {
                members.entry(head).or_default().push(ElementId(index as u32));
            }
        }
        for head in members.keys().copied().collect::<Vec<_>>() {
            let (mut all, mut waiting) = (Vec::new(), vec![head]);
            let mut seen = std::collections::HashSet::from([head]);
            while let Some(next) = waiting.pop() {
                for member in members.get(&next).into_iter().flatten() {
                    if seen.insert(*member) {
                        all.push(*member);
                        waiting.push(*member);
                    }
                }
            }
            all.sort_unstable();
            let Some((block, ty)) = self.out.element(head).map(|head| (head.block, head.ty)) else { continue };
            // A head that blocks substitution, or the way in which a member's type is derived, keeps its place.
            let around = self.blocks_of_types(ty);
            all.retain(|member| {
                let ty_of_member = self.out.element(*member).map_or(ANY_TYPE, |member| member.ty);
                let methods = self.out.derivation(ty_of_member, ty);
                !block.has(Methods::SUBSTITUTION)
                    && (methods.is_some_and(|methods| {
                        !methods.has(block.with(around).and(Methods::EXTENSION.with(Methods::RESTRICTION)))
                    }) || (methods.is_none() && self.out.derived_ok(ty_of_member, ty, block)))
            });
            if let Some(head) = self.out.elements.get_mut(head.0 as usize) {
                head.members = all;
            }
        }
    }

    fn blocks_of_types(&self, ty: TypeId) -> Methods {
        self.out.complex(ty).map_or(Methods::NONE, |complex| complex.block)
    }
}

fn unmade(name: NameId, origin: Origin, global: bool) -> Element {
    Element {
        name,
        origin: Some(origin),
        ty: ANY_TYPE,
        global,
        nillable: false,
        is_abstract: false,
        value: None,
        identities: Vec::new(),
        block: Methods::NONE,
        finals: Methods::NONE,
        head: None,
        members: Vec::new(),
    }
}
