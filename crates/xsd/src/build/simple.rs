//! Simple types, built in and declared (Part 1, section 3.14; Part 2, section 4).

use super::{Builder, order};
use crate::component::*;
use crate::datatype::{Bound, DERIVED, Facets, Form, MAX_NESTED_TYPES, Primitive, Scope, WhiteSpace};
use crate::names::{NameId, NsId};
use crate::source::methods;
use mervik_xml::tree::Tree;
use std::sync::Arc;

/// The prefixes of a node of a schema document.
pub(crate) struct NodeScope<'t> {
    pub(crate) tree: &'t Tree,
    pub(crate) node: mervik_xml::tree::NodeId,
}

impl Scope for NodeScope<'_> {
    fn namespace(&self, prefix: &str) -> Option<&str> {
        self.tree.resolve(self.node, prefix)
    }
}

impl Builder<'_> {
    pub(super) fn unmade_simple(&self, name: Option<NameId>, origin: Origin) -> SimpleType {
        SimpleType {
            name,
            origin: Some(origin),
            base: ANY_SIMPLE_TYPE,
            variety: Variety::Any,
            form: Form::Any,
            role: Role::None,
            white_space: WhiteSpace::Preserve,
            facets: Facets::default(),
            finals: Methods::NONE,
        }
    }

    pub(super) fn built_in_types(&mut self, xsd: NsId) {
        let push = |builder: &mut Self, name: &str, ty: Type| {
            let id = builder.out.types.len() as u32;
            let name = builder.out.names.intern(xsd, name);
            builder.out.types.push(ty);
            builder.out.globals.insert((super::Kind::Type, name), id);
            (name, TypeId(id))
        };
        let any = Wildcard { namespaces: Allowed::Any, process: Process::Lax, origin: None };
        let every = Particle { min: 0, max: None, term: Term::Any(any.clone()), origin: None };
        let content =
            Particle { min: 1, max: Some(1), term: Term::Group(Compositor::Sequence, vec![every]), origin: None };
        let any_type = ComplexType {
            name: None,
            origin: None,
            base: ANY_TYPE,
            derivation: Derivation::Restriction,
            is_abstract: false,
            block: Methods::NONE,
            finals: Methods::NONE,
            attributes: Vec::new(),
            any_attribute: Some(any),
            content: Content::Elements { mixed: true, particle: Some(content) },
            model: None,
        };
        let (name, id) = push(self, "anyType", Type::Complex(any_type));
        if let Some(Type::Complex(complex)) = self.out.types.get_mut(id.0 as usize) {
            complex.name = Some(name);
        }
        let simple = |base, variety, form, role, white_space, facets| {
            Type::Simple(SimpleType {
                name: None,
                origin: None,
                base,
                variety,
                form,
                role,
                white_space,
                facets,
                finals: Methods::NONE,
            })
        };
        let mut named = Vec::new();
        let ty = simple(ANY_TYPE, Variety::Any, Form::Any, Role::None, WhiteSpace::Preserve, Facets::default());
        named.push(push(self, "anySimpleType", ty));
        for primitive in Primitive::ALL {
            let white_space = if primitive == Primitive::String { WhiteSpace::Preserve } else { WhiteSpace::Collapse };
            let variety = Variety::Atomic(primitive);
            let ty = simple(ANY_SIMPLE_TYPE, variety, Form::Any, Role::None, white_space, Facets::default());
            named.push(push(self, primitive.name(), ty));
        }
        for derived in &DERIVED {
            let base = self.out.names.find(xsd, derived.base).and_then(|name| self.out.global_type(name));
            let Some((base, known)) = base.and_then(|base| Some((base, self.out.simple(base)?))) else { continue };
            let mut facets = known.facets.clone();
            let bound = |text: &str| {
                let value = self.out.reader().read(base, text, &NoScope).ok()?.into_owned();
                Some(Arc::new(Bound { text: text.into(), value }))
            };
            facets.min_inclusive = derived.bounds.0.and_then(bound).or(facets.min_inclusive);
            facets.max_inclusive = derived.bounds.1.and_then(bound).or(facets.max_inclusive);
            let form = if derived.form == Form::Any { known.form } else { derived.form };
            let role = match derived.name {
                "ID" => Role::Id,
                "IDREF" => Role::IdRef,
                "ENTITY" => Role::Entity,
                _ => Role::None,
            };
            let white_space = derived.white_space.unwrap_or(known.white_space);
            let ty = match derived.list {
                true => {
                    let facets = Facets { min_length: Some(1), ..Facets::default() };
                    simple(ANY_SIMPLE_TYPE, Variety::List(base), Form::Any, Role::None, WhiteSpace::Collapse, facets)
                }
                false => {
                    if derived.form == Form::Integer {
                        facets.fraction_digits = Some(0);
                    }
                    simple(base, known.variety.clone(), form, role, white_space, facets)
                }
            };
            named.push(push(self, derived.name, ty));
        }
        for (name, id) in named {
            if let Some(Type::Simple(simple)) = self.out.types.get_mut(id.0 as usize) {
                simple.name = Some(name);
            }
        }
    }

    /// Makes all simple types that are declared, each after those that it is made of.
    pub(super) fn simple_types(&mut self) {
        let mut wanted: Vec<(Origin, TypeId)> = self.type_at.iter().map(|(origin, id)| (*origin, *id)).collect();
        wanted.retain(|(_, id)| self.out.simple(*id).is_some());
        wanted.sort_by_key(|(_, id)| *id);
        let index_of: std::collections::HashMap<TypeId, usize> =
            wanted.iter().enumerate().map(|(index, (_, id))| (*id, index)).collect();
        let mut needed: Vec<Vec<TypeId>> = Vec::new();
        for (origin, _) in &wanted {
            needed.push(self.simple_needs(*origin));
        }
        let (ordered, circles) = order(wanted.len(), |index| {
            let needs = needed.get(index).map_or(&[][..], Vec::as_slice);
            needs.iter().filter_map(|id| index_of.get(id).copied()).collect()
        });
        for circle in circles {
            let Some((origin, id)) = wanted.get(circle) else { continue };
            let message = format!("{} must not be made of itself", self.quoted_type(*id));
            self.findings.error("st-props-correct.2", *origin, message);
        }
        let mut made = vec![false; wanted.len()];
        for index in ordered {
            let Some((origin, id)) = wanted.get(index).copied() else { continue };
            if let Some(done) = made.get_mut(index) {
                *done = true;
            }
            let unmade =
                |needed: &TypeId| index_of.get(needed).is_some_and(|at| made.get(*at) != Some(&true) || *at == index);
            // What is in a circle stays a type of any text.
            if needed.get(index).is_some_and(|needs| needs.iter().any(unmade)) {
                continue;
            }
            let ty = self.make_simple(origin, id);
            if let Some(slot) = self.out.types.get_mut(id.0 as usize) {
                *slot = Type::Simple(ty);
            }
        }
    }

    pub(super) fn quoted_type(&self, id: TypeId) -> String {
        let name = self.out.type_name(id);
        if name.starts_with("an ") { "a type".to_owned() } else { format!("the type `{name}`") }
    }

    /// The types that a simple type is made of; references are told here, and once.
    fn simple_needs(&mut self, origin: Origin) -> Vec<TypeId> {
        let mut needs = Vec::new();
        let Some((within, node)) = self.child(origin, &["restriction", "list", "union"]) else { return needs };
        let attribute = match node.local.as_str() {
            "restriction" => "base",
            "list" => "itemType",
            _ => "memberTypes",
        };
        if attribute == "memberTypes" {
            needs.extend(self.members(within));
        } else if node.attribute(attribute).is_some() {
            needs.extend(self.refer_simple(within, attribute));
        }
        let inline: Vec<Origin> = self
            .children(within)
            .into_iter()
            .filter(|(_, node)| node.local == "simpleType")
            .map(|(at, _)| at)
            .collect();
        needs.extend(inline.iter().filter_map(|at| self.type_at.get(at).copied()));
        needs
    }

    fn members(&mut self, within: Origin) -> Vec<TypeId> {
        let text = self.value(within, "memberTypes").unwrap_or("");
        let words: Vec<&str> = text.split(mervik_xml::names::is_space).filter(|word| !word.is_empty()).collect();
        let mut members = Vec::new();
        for word in words {
            let Some(name) = self.refer_to(within, "memberTypes", word, super::Kind::Type) else { continue };
            let Some(id) = self.type_named(within, name) else { continue };
            if self.out.simple(id).is_some() {
                members.push(id);
            } else {
                let message = format!("`{word}` must be a simple type, found a complex one");
                self.findings.error("src-resolve", within, message).at("memberTypes");
            }
        }
        members
    }

    fn make_simple(&mut self, origin: Origin, id: TypeId) -> SimpleType {
        let name = self.out.simple(id).and_then(|simple| simple.name);
        let mut ty = self.unmade_simple(name, origin);
        ty.finals = match self.value(origin, "final") {
            Some(text) => methods(text),
            None => self.document(origin).finals,
        };
        let Some((within, node)) = self.child(origin, &["restriction", "list", "union"]) else { return ty };
        let inline: Vec<TypeId> = self
            .children(within)
            .iter()
            .filter(|(_, node)| node.local == "simpleType")
            .filter_map(|(at, _)| self.type_at.get(at).copied())
            .collect();
        match node.local.as_str() {
            "restriction" => {
                let named = node.attribute("base").is_some();
                if named != inline.is_empty() {
                    let message = "a restriction must have either `base` or a `simpleType` within".to_owned();
                    self.findings.error("src-simple-type.2", within, message);
                }
                let base = if named { self.again(within, "base") } else { inline.first().copied() };
                let Some(base) = base else { return ty };
                if base == ANY_SIMPLE_TYPE {
                    let message = "`xs:anySimpleType` has no form that could be restricted";
                    self.findings
                        .error("cos-st-restricts.1.1", within, message)
                        .at("base")
                        .hint("`xs:string` takes any text");
                    return ty;
                }
                self.restrict(&mut ty, base, within, "base");
            }
            "list" => {
                if node.attribute("itemType").is_some() != inline.is_empty() {
                    let message = "a list must have either `itemType` or a `simpleType` within";
                    self.findings.error("src-simple-type.3", within, message);
                }
                let item = self.again(within, "itemType").or(inline.first().copied());
                let Some(item) = item else { return ty };
                if self.has_list(item) {
                    let message = format!("the items of a list must not be lists, found {}", self.quoted_type(item));
                    self.findings.error("cos-st-restricts.2.1", within, message);
                    return ty;
                }
                self.check_final(item, Methods::LIST, within, "cos-st-restricts.2.3.1.1", "a list");
                (ty.variety, ty.white_space) = (Variety::List(item), WhiteSpace::Collapse);
            }
            _ => {
                let mut members = self.members_again(within);
                members.extend(inline);
                if node.attribute("memberTypes").is_none() && members.is_empty() {
                    let message = "a union must have `memberTypes`, or `simpleType`s within";
                    self.findings.error("src-simple-type.4", within, message);
                }
                for member in &members {
                    self.check_final(*member, Methods::UNION, within, "cos-st-restricts.3.3.1.1", "a union");
                }
                if self.nesting(&members) > MAX_NESTED_TYPES {
                    let message = "too many unions and lists are inside one another";
                    self.findings.error("cos-st-restricts.3.1", within, message);
                    return ty;
                }
                // A union takes whatever its members make of white space.
                (ty.variety, ty.white_space) = (Variety::Union(members), WhiteSpace::Collapse);
            }
        }
        ty
    }

    /// How many unions and lists are inside one another in the deepest of some types.
    fn nesting(&self, members: &[TypeId]) -> usize {
        let mut level: Vec<TypeId> = members.to_vec();
        let mut depth = 0;
        while !level.is_empty() && depth < 1_000 {
            depth += 1;
            let within = level.iter().filter_map(|id| self.out.simple(*id)).flat_map(|ty| match &ty.variety {
                Variety::List(item) => vec![*item],
                Variety::Union(members) => members.clone(),
                _ => Vec::new(),
            });
            level = within.collect();
            level.sort_unstable();
            level.dedup();
        }
        depth
    }

    /// A reference that was told about before.
    fn again(&mut self, origin: Origin, attribute: &str) -> Option<TypeId> {
        let text = self.value(origin, attribute)?;
        let name = self.name_in(origin, text)?;
        self.type_named(origin, name).filter(|id| self.out.simple(*id).is_some())
    }

    fn members_again(&mut self, within: Origin) -> Vec<TypeId> {
        let text = self.value(within, "memberTypes").unwrap_or("");
        let words: Vec<&str> = text.split(mervik_xml::names::is_space).filter(|word| !word.is_empty()).collect();
        let mut members = Vec::new();
        for word in words {
            let id = self.name_in(within, word).and_then(|name| self.type_named(within, name));
            members.extend(id.filter(|id| self.out.simple(*id).is_some()));
        }
        members
    }

    fn has_list(&self, id: TypeId) -> bool {
        let mut waiting = vec![id];
        let mut seen = std::collections::HashSet::new();
        while let Some(id) = waiting.pop() {
            match self.out.simple(id).map(|ty| &ty.variety) {
                Some(Variety::List(_)) => return true,
                Some(Variety::Union(members)) => waiting.extend(members.iter().filter(|member| seen.insert(**member))),
                _ => {}
            }
        }
        false
    }

    fn check_final(&mut self, id: TypeId, method: Methods, origin: Origin, rule: &'static str, word: &str) {
        if self.out.simple(id).is_some_and(|ty| ty.finals.has(method)) {
            let message = format!("{} is final: {word} must not be made of it", self.quoted_type(id));
            self.findings.error(rule, origin, message);
        }
    }
}

/// Where no prefix stands for anything.
pub(crate) struct NoScope;

impl Scope for NoScope {
    fn namespace(&self, prefix: &str) -> Option<&str> {
        prefix.is_empty().then_some("")
    }
}
