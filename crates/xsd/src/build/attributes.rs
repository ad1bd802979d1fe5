//! Attributes, their uses, their groups and wildcards (Part 1, sections 3.2, 3.5, 3.6 and 3.10).

use super::{Builder, Kind, order};
use crate::component::*;
use crate::names::{ABSENT, NameId, NsId, XSI};
use mervik_document::shown;

impl Builder<'_> {
    /// The attributes that XML itself has, for schemas that import their namespace from nowhere.
    pub(super) fn xml_attributes(&mut self, xml: NsId) {
        for (local, ty) in [("lang", "language"), ("space", "NCName"), ("base", "anyURI"), ("id", "ID")] {
            let xsd = self.out.names.intern_namespace(crate::names::XSD);
            let ty =
                self.out.names.find(xsd, ty).and_then(|name| self.out.global_type(name)).unwrap_or(ANY_SIMPLE_TYPE);
            let name = self.out.names.intern(xml, local);
            self.push_global_attribute(Attribute { name, origin: None, ty, value: None });
        }
        let xsi = self.out.names.intern_namespace(XSI);
        for local in ["type", "nil", "schemaLocation", "noNamespaceSchemaLocation"] {
            let name = self.out.names.intern(xsi, local);
            self.push_global_attribute(Attribute { name, origin: None, ty: ANY_SIMPLE_TYPE, value: None });
        }
    }

    fn push_global_attribute(&mut self, attribute: Attribute) {
        let id = self.out.attributes.len() as u32;
        self.out.globals.insert((Kind::Attribute, attribute.name), id);
        self.out.attributes.push(attribute);
    }

    pub(super) fn global_attributes(&mut self) {
        for (name, origin) in self.registered(Kind::Attribute) {
            let attribute = self.make_attribute(name, origin);
            self.push_global_attribute(attribute);
        }
    }

    /// The definitions of a kind in the order of their documents.
    pub(super) fn registered(&self, kind: Kind) -> Vec<(NameId, Origin)> {
        let known = self.registry.iter().filter(|((known, _), _)| *known == kind);
        let mut all: Vec<(NameId, Origin)> = known.map(|((_, name), definition)| (*name, definition.origin)).collect();
        all.sort_by_key(|(_, origin)| (origin.document, origin.node));
        all
    }

    fn make_attribute(&mut self, name: NameId, origin: Origin) -> Attribute {
        let inline = self.child(origin, &["simpleType"]).and_then(|(at, _)| self.type_at.get(&at).copied());
        let named = self.value(origin, "type").is_some();
        if named && inline.is_some() {
            let message = "an attribute must have either `type` or a `simpleType` within, found both";
            self.findings.error("src-attribute.4", origin, message).at("type");
        }
        let ty = if named { self.refer_simple(origin, "type") } else { inline };
        if self.out.names.local(name) == "xmlns" {
            self.findings.error("no-xmlns", origin, "no attribute must be called `xmlns`").at("name");
        }
        if self.out.names.uri(self.out.names.namespace_of(name)) == XSI {
            self.findings.error("no-xsi", origin, "the attributes of `xsi` must not be declared").at("name");
        }
        let value = self.value_constraint(origin, "src-attribute.1");
        Attribute { name, origin: Some(origin), ty: ty.unwrap_or(ANY_SIMPLE_TYPE), value }
    }

    /// The default or the fixed value that a declaration has.
    pub(super) fn value_constraint(&mut self, origin: Origin, both: &'static str) -> Option<ValueConstraint> {
        let node = self.node(origin)?;
        let (default, fixed) = (node.attribute("default"), node.attribute("fixed"));
        if default.is_some() && fixed.is_some() {
            let message = "`default` and `fixed` must not be told both";
            self.findings.error(both, origin, message).at("fixed").hint("`fixed` alone fills in the value, too");
        }
        let text = fixed.or(default)?.value.as_str().into();
        Some(ValueConstraint { fixed: fixed.is_some(), text, key: None, origin })
    }

    pub(super) fn attribute_groups(&mut self) {
        let groups: Vec<Origin> = self.out.attribute_groups.iter().map(|group| group.origin).collect();
        let mut needed = Vec::new();
        for origin in &groups {
            let mut needs = Vec::new();
            for (at, node) in self.children(*origin) {
                if node.local == "attributeGroup" {
                    needs.extend(self.attribute_group_at_ref(at).map(|id| id.0 as usize));
                }
            }
            needed.push(needs);
        }
        let (ordered, circles) = order(groups.len(), |index| needed.get(index).cloned().unwrap_or_default());
        for circle in circles {
            if let Some(origin) = groups.get(circle) {
                self.findings.error("src-attribute_group.3", *origin, "an attribute group must not be part of itself");
            }
        }
        for index in ordered {
            let Some(origin) = groups.get(index).copied() else { continue };
            let (uses, any) = self.attribute_uses(origin);
            self.check_twice(&uses, "ag-props-correct.2", origin);
            if let Some(group) = self.out.attribute_groups.get_mut(index) {
                (group.uses, group.any) = (uses, any);
            }
        }
    }

    fn attribute_group_at_ref(&mut self, origin: Origin) -> Option<AttributeGroupId> {
        let name = self.refer(origin, "ref", Kind::AttributeGroup)?;
        let definition = self.definition(Kind::AttributeGroup, name, origin)?;
        self.attribute_group_at.get(&definition).copied()
    }

    /// The uses of attributes within an element, those of groups among them, and the wildcard of all together.
    pub(super) fn attribute_uses(&mut self, origin: Origin) -> (Vec<AttributeUse>, Option<Wildcard>) {
        let (mut uses, mut wildcards) = (Vec::new(), Vec::new());
        let mut own = None;
        for (at, node) in self.children(origin) {
            match node.local.as_str() {
                "attribute" => uses.extend(self.attribute_use(at)),
                "attributeGroup" => {
                    let Some(id) = self.attribute_group_at_ref(at) else { continue };
                    let Some(group) = self.out.attribute_groups.get(id.0 as usize) else { continue };
                    uses.extend(group.uses.iter().cloned());
                    wildcards.extend(group.any.clone());
                }
                "anyAttribute" => own = Some(self.wildcard(at)),
                _ => {}
            }
        }
        // The wildcards of groups and the own one let in what all of them let in (Part 1, section 3.4.2).
        let process = own.as_ref().or(wildcards.first()).map(|wildcard| wildcard.process);
        let all = own.into_iter().chain(wildcards);
        let any = all.reduce(|a, b| Wildcard { namespaces: intersection(&a.namespaces, &b.namespaces), ..a });
        (uses, any.zip(process).map(|(any, process)| Wildcard { process, ..any }))
    }

    fn attribute_use(&mut self, origin: Origin) -> Option<AttributeUse> {
        let has = |builder: &Self, name: &str| builder.value(origin, name).is_some();
        let usage = self.value(origin, "use").unwrap_or("optional");
        if has(self, "default") && usage != "optional" {
            let message = format!("an attribute with `default` must be optional, found `{usage}`");
            self.findings.error("src-attribute.2", origin, message).at("use");
        }
        let (required, prohibited) = (usage == "required", usage == "prohibited");
        if has(self, "name") == has(self, "ref") {
            let message = "an attribute must have either `name` or `ref`";
            self.findings.error("src-attribute.3.1", origin, message);
            return None;
        }
        if !has(self, "ref") {
            let local = self.value(origin, "name")?;
            let form = self.value(origin, "form");
            let document = self.document(origin);
            let qualified = form.map_or(document.attributes_qualified, |form| form == "qualified");
            let namespace = if qualified { document.target } else { ABSENT };
            let name = self.out.names.intern(namespace, local);
            let attribute = self.make_attribute(name, origin);
            let value = attribute.value.clone();
            let id = AttributeId(self.out.attributes.len() as u32);
            self.out.attributes.push(attribute);
            return Some(AttributeUse { attribute: id, name, required, prohibited, value, origin: Some(origin) });
        }
        let inline = self.child(origin, &["simpleType"]).is_some();
        if inline || has(self, "type") || has(self, "form") {
            let message = "a reference to an attribute must not have `type`, `form` or a `simpleType` within";
            self.findings.error("src-attribute.3.2", origin, message);
        }
        let name = self.refer(origin, "ref", Kind::Attribute)?;
        let id = self.out.global_attribute(name)?;
        let declared = self.out.attribute(id).and_then(|attribute| attribute.value.clone());
        let own = self.value_constraint(origin, "src-attribute.1");
        if let (Some(declared), Some(own)) = (&declared, &own)
            && declared.fixed
        {
            let ty = self.out.attribute(id).map_or(ANY_SIMPLE_TYPE, |attribute| attribute.ty);
            if !own.fixed || self.key_of(ty, own) != self.key_of(ty, declared) {
                let message =
                    format!("the attribute is fixed to `{}` where it is declared", shown::text(&declared.text));
                self.findings.error("au-props-correct.2", origin, message);
            }
        }
        Some(AttributeUse { attribute: id, name, required, prohibited, value: own.or(declared), origin: Some(origin) })
    }

    /// What the value of a constraint is told from others by.
    pub(super) fn key_of(&self, ty: TypeId, value: &ValueConstraint) -> Option<String> {
        let scope = super::simple::NodeScope { tree: &self.document(value.origin).tree, node: value.origin.node };
        self.out.reader().read(ty, &value.text, &scope).ok().map(|value| value.key())
    }

    /// Tells attributes that are there twice.
    pub(super) fn check_twice(&mut self, uses: &[AttributeUse], rule: &'static str, origin: Origin) {
        let mut seen = std::collections::HashSet::new();
        for one in uses.iter().filter(|one| !one.prohibited) {
            if !seen.insert(one.name) {
                let message = format!("the attribute `{}` must be there once", self.out.names.local(one.name));
                let at = one.origin.filter(|at| self.is_within(*at, origin)).unwrap_or(origin);
                self.findings.error(rule, at, message);
            }
        }
    }

    pub(super) fn wildcard(&mut self, origin: Origin) -> Wildcard {
        let target = self.target(origin);
        let namespaces = match self.value(origin, "namespace").unwrap_or("##any") {
            "##any" => Allowed::Any,
            "##other" => Allowed::Not(target),
            list => {
                let words = list.split(mervik_xml::names::is_space).filter(|word| !word.is_empty());
                let mut these: Vec<NsId> = Vec::new();
                for word in words {
                    let namespace = match word {
                        "##targetNamespace" => target,
                        "##local" => ABSENT,
                        uri => self.out.names.intern_namespace(uri),
                    };
                    if !these.contains(&namespace) {
                        these.push(namespace);
                    }
                }
                Allowed::These(these)
            }
        };
        let process = match self.value(origin, "processContents") {
            Some("lax") => Process::Lax,
            Some("skip") => Process::Skip,
            _ => Process::Strict,
        };
        Wildcard { namespaces, process, origin: Some(origin) }
    }
}

/// What two wildcards both let in (Part 1, cos-aw-intersect).
pub(crate) fn intersection(a: &Allowed, b: &Allowed) -> Allowed {
    match (a, b) {
        (Allowed::Any, other) | (other, Allowed::Any) => other.clone(),
        (Allowed::Not(x), Allowed::Not(y)) => match (*x, *y) {
            (ABSENT, other) | (other, ABSENT) => Allowed::Not(other),
            // Two different ones cannot be told; the narrower of what can be said is nothing beyond the first.
            _ => Allowed::Not(*x),
        },
        (Allowed::These(these), other) | (other, Allowed::These(these)) => {
            Allowed::These(these.iter().copied().filter(|namespace| other.allows(Some(*namespace))).collect())
        }
    }
}

/// What either of two wildcards lets in (Part 1, cos-aw-union).
pub(crate) fn union(a: &Allowed, b: &Allowed) -> Allowed {
    match (a, b) {
        (Allowed::Any, _) | (_, Allowed::Any) => Allowed::Any,
        (Allowed::Not(x), Allowed::Not(y)) => Allowed::Not(if x == y { *x } else { ABSENT }),
        (Allowed::These(x), Allowed::These(y)) => {
            let more = y.iter().filter(|namespace| !x.contains(namespace));
            Allowed::These(x.iter().chain(more).copied().collect())
        }
        (Allowed::Not(not), Allowed::These(these)) | (Allowed::These(these), Allowed::Not(not)) => {
            match (these.contains(not), these.contains(&ABSENT)) {
                (true, true) => Allowed::Any,
                (true, false) => Allowed::Not(ABSENT),
                _ => Allowed::Not(*not),
            }
        }
    }
}

/// Whether all that one wildcard lets in is let in by another (Part 1, cos-ns-subset).
pub(crate) fn is_subset(part: &Allowed, whole: &Allowed) -> bool {
    match (part, whole) {
        (_, Allowed::Any) => true,
        (Allowed::Not(x), Allowed::Not(y)) => x == y || *y == ABSENT,
        (Allowed::These(these), whole) => these.iter().all(|namespace| whole.allows(Some(*namespace))),
        _ => false,
    }
}
