//! References by name (Part 1, src-resolve), seen from their place: a redefinition sees what it redefines.

use super::{Builder, Kind};
use crate::component::*;
use crate::names::{NameId, XSD, XSI};
use crate::source::Document;
use mervik_document::{near, shown};

impl<'d> Builder<'d> {
    /// The name that a text means in its place; `None` when its prefix is not declared or it is no name.
    pub(crate) fn name_in(&mut self, origin: Origin, text: &str) -> Option<NameId> {
        let document = self.document(origin);
        let (uri, local) = document.qualified(origin.node, text)?;
        let namespace = match uri {
            "" if document.chameleon => document.target,
            uri => self.out.names.intern_namespace(uri),
        };
        Some(self.out.names.intern(namespace, local))
    }

    /// The component that an attribute refers to; what leads nowhere is told (Part 1, src-resolve).
    pub(crate) fn refer(&mut self, origin: Origin, attribute: &'static str, kind: Kind) -> Option<NameId> {
        let text = self.value(origin, attribute)?;
        self.refer_to(origin, attribute, text, kind)
    }

    pub(crate) fn refer_to(
        &mut self,
        origin: Origin,
        attribute: &'static str,
        text: &str,
        kind: Kind,
    ) -> Option<NameId> {
        let document = self.document(origin);
        // What is no name has been told with the syntax.
        mervik_xml::names::split(text)?;
        let Some(name) = self.name_in(origin, text) else {
            let prefix = text.split(':').next().unwrap_or("");
            let message = format!("the prefix of `{}` must be declared", shown::text(text));
            self.findings.error("src-resolve", origin, message).at(attribute);
            self.findings.hint(format!("`xmlns:{prefix}=\"…\"` on `schema` declares it"));
            return None;
        };
        self.out.referred.insert((kind, name));
        let namespace = self.out.names.namespace_of(name);
        let uri = self.out.names.uri(namespace).to_owned();
        let visible = namespace == document.target
            || uri == XSD
            || document.imports.contains(&namespace)
            || (uri == XSI && kind == Kind::Attribute);
        if !visible {
            let (message, hint) = match uri.as_str() {
                "" => (
                    format!(
                        "`{}` must be in the target namespace or in one that is imported, found none",
                        shown::text(text)
                    ),
                    "a prefix for the target namespace is missing, or `<xs:import/>`".to_owned(),
                ),
                _ => (
                    format!("the namespace of `{}`, `{uri}`, must be imported here", shown::text(text)),
                    format!("`<xs:import namespace=\"{uri}\" schemaLocation=\"…\"/>` imports it"),
                ),
            };
            self.findings.error("src-resolve.4", origin, message).at(attribute).hint(hint);
            return None;
        }
        if self.registry.contains_key(&(kind, name)) || self.out.globals.contains_key(&(kind, name)) {
            return Some(name);
        }
        let message = format!("`{}` must be the name of a declared {}", shown::text(text), self.describe(kind));
        let hint = self.why_unknown(kind, name, document);
        self.findings.error("src-resolve", origin, message).at(attribute);
        if let Some(hint) = hint {
            self.findings.hint(hint);
        }
        None
    }

    fn describe(&self, kind: Kind) -> &'static str {
        kind.word()
    }

    fn why_unknown(&self, kind: Kind, name: NameId, document: &Document) -> Option<String> {
        let names = &self.out.names;
        let local = names.local(name);
        let other = Kind::ALL.into_iter().find(|other| {
            *other != kind
                && (self.registry.contains_key(&(*other, name)) || self.out.globals.contains_key(&(*other, name)))
        });
        if let Some(other) = other {
            return Some(format!("there is no {} of that name, but a {}", kind.word(), other.word()));
        }
        let known = self.registry.keys().chain(self.out.globals.keys());
        let known = known.filter(|(other, _)| *other == kind);
        let mut all: Vec<&str> = known.clone().map(|(_, name)| names.local(*name)).collect();
        all.sort_unstable();
        if all.contains(&local) {
            let elsewhere = known.clone().find(|(_, known)| names.local(*known) == local).map(|(_, known)| *known);
            let uri = elsewhere.map_or("", |known| names.uri(names.namespace_of(known)));
            let within = if uri.is_empty() { "no namespace".to_owned() } else { format!("the namespace `{uri}`") };
            return Some(format!("there is one in {within}"));
        }
        if let Some(near) = near::nearest(local, all) {
            return Some(format!("`{near}` is near"));
        }
        let (location, reason) = document.missing.first()?;
        Some(format!("`{location}` was not read: it {reason}"))
    }

    /// The type that an attribute refers to.
    pub(crate) fn refer_type(&mut self, origin: Origin, attribute: &'static str) -> Option<TypeId> {
        let name = self.refer(origin, attribute, Kind::Type)?;
        self.type_named(origin, name)
    }

    /// The type of a name, seen from a place: a redefinition sees what it redefines.
    pub(super) fn type_named(&self, origin: Origin, name: NameId) -> Option<TypeId> {
        if let Some(definition) = self.registry.get(&(Kind::Type, name)) {
            let mut from = definition.origin;
            // Within the redefinition of a name, the name means what was there before.
            while self.is_within(origin, from)
                && let Some(original) = self.originals.get(&from)
            {
                from = *original;
            }
            return self.type_at.get(&from).copied();
        }
        self.out.global_type(name)
    }

    /// Whether a node is another one or stands within it.
    pub(crate) fn is_within(&self, origin: Origin, around: Origin) -> bool {
        let tree = &self.document(origin).tree;
        origin.document == around.document
            && std::iter::successors(Some(origin.node), |id| tree.parent(*id)).any(|id| id == around.node)
    }

    /// The definition that a name leads to, seen from a place.
    pub(crate) fn definition(&self, kind: Kind, name: NameId, origin: Origin) -> Option<Origin> {
        let mut from = self.registry.get(&(kind, name))?.origin;
        while self.is_within(origin, from)
            && let Some(original) = self.originals.get(&from)
        {
            from = *original;
        }
        Some(from)
    }

    /// The simple type that an attribute refers to.
    pub(crate) fn refer_simple(&mut self, origin: Origin, attribute: &'static str) -> Option<TypeId> {
        let id = self.refer_type(origin, attribute)?;
        match self.out.simple(id) {
            Some(_) => Some(id),
            None => {
                let message = format!(
                    "`{}` must be a simple type, found a complex one",
                    self.value(origin, attribute).unwrap_or("")
                );
                self.findings.error("src-resolve", origin, message).at(attribute);
                None
            }
        }
    }
}
