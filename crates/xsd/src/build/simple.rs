//! Simple types, built in and declared (Part 1, section 3.14; Part 2, section 4).

use super::{Builder, order};
use crate::component::*;
use crate::datatype::{
    Bound, DERIVED, Enumeration, Facet, Facets, Form, MAX_NESTED_TYPES, Miss, Primitive, Scope, Value, WhiteSpace,
};
use crate::names::{NameId, NsId};
use crate::pattern::Pattern;
use crate::source::methods;
use mervik_document::shown;
use mervik_xml::tree::Tree;
use std::cmp::Ordering;
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

    fn quoted_type(&self, id: TypeId) -> String {
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

    /// Makes a type a restriction of another one by the facets within an element.
    pub(super) fn restrict(&mut self, ty: &mut SimpleType, base: TypeId, within: Origin, attribute: &'static str) {
        let Some(known) = self.out.simple(base) else { return };
        ty.base = base;
        ty.variety = known.variety.clone();
        (ty.form, ty.role, ty.white_space) = (known.form, known.role, known.white_space);
        ty.facets = known.facets.clone();
        if known.finals.has(Methods::RESTRICTION) {
            let message = format!("{} is final: it must not be restricted", self.quoted_type(base));
            self.findings.error("st-props-correct.3", within, message).at(attribute);
        }
        self.facets(ty, base, within);
    }

    fn facets(&mut self, ty: &mut SimpleType, base: TypeId, within: Origin) {
        let base_facets = ty.facets.clone();
        let base_space = ty.white_space;
        let (mut patterns, mut texts, mut values) = (Vec::new(), Vec::new(), Vec::new());
        let mut seen: Vec<Facet> = Vec::new();
        let mut enumerated = false;
        let children = self.children(within);
        for (origin, node) in children {
            let Some(facet) = Facet::named(&node.local) else { continue };
            let Some(attribute) = node.attribute("value") else { continue };
            let text = attribute.value.as_str();
            let applies = match &ty.variety {
                Variety::Any => true,
                Variety::Atomic(primitive) => primitive.takes(facet),
                Variety::List(_) => !facet.is_bound() && !matches!(facet, Facet::TotalDigits | Facet::FractionDigits),
                Variety::Union(_) => matches!(facet, Facet::Pattern | Facet::Enumeration),
            };
            if !applies {
                let kind = match &ty.variety {
                    Variety::Atomic(primitive) => format!("`xs:{}`", primitive.name()),
                    Variety::List(_) => "a list".to_owned(),
                    _ => "a union".to_owned(),
                };
                let message = format!("`{facet}` says nothing about {kind}");
                self.findings.error("cos-applicable-facets", origin, message);
                continue;
            }
            if !matches!(facet, Facet::Pattern | Facet::Enumeration) {
                if seen.contains(&facet) {
                    self.findings.error("src-single-facet-value", origin, format!("`{facet}` must be there once"));
                    continue;
                }
                seen.push(facet);
            }
            ty.facets.origins.push((facet, origin));
            if self.is_true(origin, "fixed") {
                ty.facets.fixed.push(facet);
            }
            let count = text.trim().trim_start_matches('+').trim_start_matches('0');
            let count = if count.is_empty() { Some(0) } else { count.parse::<u64>().ok().or(Some(u64::MAX)) };
            match facet {
                Facet::Pattern => match Pattern::new(text) {
                    Ok(pattern) => patterns.push(pattern),
                    Err(error) => {
                        let place = text.chars().take(error.at).collect::<String>();
                        let message = format!(
                            "`{}` must be a regular expression of XML Schema, found {}",
                            shown::text(text),
                            error.message
                        );
                        self.findings.error("src-pattern", origin, message).at("value");
                        let hint = error.hint.unwrap_or_else(|| format!("after `{}`", shown::text(&place)));
                        self.findings.hint(hint);
                    }
                },
                Facet::Enumeration => {
                    enumerated = true;
                    if let Some(value) = self.base_value(base, text, origin, "enumeration-valid-restriction", facet) {
                        if let Value::Name(Primitive::Notation, namespace, local) = &value {
                            self.check_notation(namespace.clone(), local.to_string(), origin);
                        }
                        texts.push(Box::from(text));
                        values.push(value);
                    }
                }
                Facet::WhiteSpace => {
                    let wanted = match text.trim() {
                        "preserve" => WhiteSpace::Preserve,
                        "replace" => WhiteSpace::Replace,
                        _ => WhiteSpace::Collapse,
                    };
                    if wanted < base_space {
                        let message = format!(
                            "`whiteSpace` must be `{}` or stricter, found `{}`",
                            base_space.name(),
                            wanted.name()
                        );
                        self.findings.error("whiteSpace-valid-restriction", origin, message).at("value");
                    } else {
                        ty.white_space = wanted;
                    }
                    if base_facets.fixed.contains(&facet) && wanted != base_space {
                        self.changed_fixed(facet, origin);
                    }
                }
                Facet::Length => ty.facets.length = count,
                Facet::MinLength => ty.facets.min_length = count,
                Facet::MaxLength => ty.facets.max_length = count,
                Facet::TotalDigits => {
                    if count == Some(0) {
                        self.findings
                            .error("cvc-attribute.3", origin, "`value` must be a whole number from 1, found `0`")
                            .at("value");
                    }
                    ty.facets.total_digits = count;
                }
                Facet::FractionDigits => ty.facets.fraction_digits = count,
                bound => {
                    // A bound is a value of the base, apart from the bounds that the base itself excludes.
                    let rule = bound_rule(bound);
                    let Some(value) = self.bound_value(base, text, origin, rule, bound) else { continue };
                    let value = Some(Arc::new(Bound { text: text.trim().into(), value }));
                    match bound {
                        Facet::MinInclusive => ty.facets.min_inclusive = value,
                        Facet::MinExclusive => ty.facets.min_exclusive = value,
                        Facet::MaxInclusive => ty.facets.max_inclusive = value,
                        _ => ty.facets.max_exclusive = value,
                    }
                }
            }
        }
        if !patterns.is_empty() {
            ty.facets.patterns.push(Arc::new(patterns));
        }
        if enumerated {
            ty.facets.enumeration = Some(Arc::new(Enumeration::new(texts, values)));
        }
        self.check_facets(ty, &base_facets, &seen, within);
    }

    fn changed_fixed(&mut self, facet: Facet, origin: Origin) {
        let rule = match facet {
            Facet::Length => "length-valid-restriction",
            Facet::MinLength => "minLength-valid-restriction",
            Facet::MaxLength => "maxLength-valid-restriction",
            Facet::WhiteSpace => "whiteSpace-valid-restriction",
            Facet::TotalDigits => "totalDigits-valid-restriction",
            Facet::FractionDigits => "fractionDigits-valid-restriction",
            bound => bound_rule(bound),
        };
        let message = format!("`{facet}` is fixed in the base and must not be changed");
        self.findings.error(rule, origin, message).at("value");
    }

    fn check_notation(&mut self, namespace: String, local: String, origin: Origin) {
        let id = self.out.names.intern_namespace(&namespace);
        let name = self.out.names.intern(id, &local);
        if !self.out.notations.contains(&name) {
            let message = format!("`{local}` must be the name of a declared notation");
            self.findings.error("enumeration-valid-restriction", origin, message).at("value");
        }
    }

    /// A text as a value of a type, told when it is none.
    fn base_value(
        &mut self,
        base: TypeId,
        text: &str,
        origin: Origin,
        rule: &'static str,
        facet: Facet,
    ) -> Option<Value<'static>> {
        let scope = NodeScope { tree: &self.document(origin).tree, node: origin.node };
        match self.out.reader().read(base, text, &scope) {
            Ok(value) => Some(value.into_owned()),
            Err(miss) => {
                let why = crate::words::short_miss(&self.out, &miss);
                let message =
                    format!("`{facet}` must be a value of {}, found `{}`", self.quoted_type(base), shown::text(text));
                self.findings.error(rule, origin, message).at("value").hint(why);
                None
            }
        }
    }

    fn bound_value(
        &mut self,
        base: TypeId,
        text: &str,
        origin: Origin,
        rule: &'static str,
        facet: Facet,
    ) -> Option<Value<'static>> {
        let scope = NodeScope { tree: &self.document(origin).tree, node: origin.node };
        let read = self.out.reader().read(base, text, &scope);
        match read {
            Ok(value) => Some(value.into_owned()),
            // An exclusive bound may repeat one of the base, which excludes that very value.
            Err(Miss { what: crate::datatype::What::Facet(missed), .. }) if missed.is_bound() && missed == facet => {
                let mut top = base;
                while self.out.simple(top).is_some_and(|ty| ty.facets.has_bounds())
                    && self.out.base(top) != ANY_SIMPLE_TYPE
                {
                    top = self.out.base(top);
                }
                let value = self.out.reader().read(top, text, &scope).ok()?.into_owned();
                let same = self.out.simple(base)?.facets.bound(facet)?.value.same(&value);
                if same { Some(value) } else { self.base_value(base, text, origin, rule, facet) }
            }
            Err(_) => self.base_value(base, text, origin, rule, facet),
        }
    }

    /// What facets must hold among one another and against those of the base (Part 2, section 4.3).
    fn check_facets(&mut self, ty: &mut SimpleType, base: &Facets, seen: &[Facet], within: Origin) {
        let own = ty.facets.clone();
        let at = |facet: Facet| own.origin(facet).unwrap_or(within);
        let mut wrong: Vec<(&'static str, Facet, String)> = Vec::new();
        let has = |facet: Facet| seen.contains(&facet);
        let counts: [CountRule; 5] = [
            (Facet::Length, "length-valid-restriction", own.length, base.length, |own, base| own == base, "stay"),
            (
                Facet::MinLength,
                "minLength-valid-restriction",
                own.min_length,
                base.min_length,
                |own, base| own >= base,
                "be at least",
            ),
            (
                Facet::MaxLength,
                "maxLength-valid-restriction",
                own.max_length,
                base.max_length,
                |own, base| own <= base,
                "be at most",
            ),
            (
                Facet::TotalDigits,
                "totalDigits-valid-restriction",
                own.total_digits,
                base.total_digits,
                |own, base| own <= base,
                "be at most",
            ),
            (
                Facet::FractionDigits,
                "fractionDigits-valid-restriction",
                own.fraction_digits,
                base.fraction_digits,
                |own, base| own <= base,
                "be at most",
            ),
        ];
        for (facet, rule, own, base_count, fits, word) in counts {
            if let (true, Some(own), Some(base_count)) = (has(facet), own, base_count) {
                if base.fixed.contains(&facet) && own != base_count {
                    wrong.push((rule, facet, format!("`{facet}` is fixed in the base and must not be changed")));
                } else if !fits(own, base_count) {
                    wrong.push((
                        rule,
                        facet,
                        format!("`{facet}` must {word} {base_count}, as the base has it, found {own}"),
                    ));
                }
            }
        }
        if let (Some(least), Some(most)) = (own.min_length, own.max_length)
            && least > most
        {
            let facet = if has(Facet::MinLength) { Facet::MinLength } else { Facet::MaxLength };
            let message = format!("`minLength` must not be above `maxLength`, found {least} and {most}");
            wrong.push(("minLength-less-than-equal-to-maxLength", facet, message));
        }
        if let Some(length) = own.length {
            let beside = [
                (Facet::MinLength, own.min_length, base.min_length),
                (Facet::MaxLength, own.max_length, base.max_length),
            ];
            for (facet, value, of_base) in beside {
                let Some(value) = value else { continue };
                let fits = if facet == Facet::MinLength { value <= length } else { value >= length };
                // Beside a length, the other two may only repeat what a base says.
                if !fits || (has(facet) && of_base.is_none() && base.length.is_none()) {
                    let facet_at = if has(facet) { facet } else { Facet::Length };
                    let message = format!("`length` and `{facet}` must not be told both, found {length} and {value}");
                    wrong.push(("length-minLength-maxLength", facet_at, message));
                }
            }
        }
        if let (Some(fraction), Some(total)) = (own.fraction_digits, own.total_digits)
            && fraction > total
        {
            let facet = if has(Facet::FractionDigits) { Facet::FractionDigits } else { Facet::TotalDigits };
            let message = format!("`fractionDigits` must not be above `totalDigits`, found {fraction} and {total}");
            wrong.push(("fractionDigits-totalDigits", facet, message));
        }
        for (inclusive, exclusive, rule) in [
            (Facet::MinInclusive, Facet::MinExclusive, "minInclusive-minExclusive"),
            (Facet::MaxInclusive, Facet::MaxExclusive, "maxInclusive-maxExclusive"),
        ] {
            match (has(inclusive), has(exclusive)) {
                (true, true) => {
                    wrong.push((rule, exclusive, format!("`{inclusive}` and `{exclusive}` must not be told both")));
                }
                // What is said here takes the place of what the base says; it is no wider.
                (true, false) if base.bound(exclusive).is_some() => clear(&mut ty.facets, exclusive),
                (false, true) if base.bound(inclusive).is_some() => clear(&mut ty.facets, inclusive),
                _ => {}
            }
        }
        let own = ty.facets.clone();
        for facet in [Facet::MinInclusive, Facet::MinExclusive, Facet::MaxInclusive, Facet::MaxExclusive] {
            if let (true, Some(own), Some(base_bound)) = (has(facet), own.bound(facet), base.bound(facet)) {
                let order = own.value.compare(&base_bound.value);
                if base.fixed.contains(&facet) && order != Some(Ordering::Equal) {
                    wrong.push((
                        bound_rule(facet),
                        facet,
                        format!("`{facet}` is fixed in the base and must not be changed"),
                    ));
                }
            }
        }
        for (low, high, rule, equal) in [
            (Facet::MinInclusive, Facet::MaxInclusive, "minInclusive-less-than-equal-to-maxInclusive", true),
            (Facet::MinExclusive, Facet::MaxExclusive, "minExclusive-less-than-equal-to-maxExclusive", true),
            (Facet::MinInclusive, Facet::MaxExclusive, "minInclusive-less-than-maxExclusive", false),
            (Facet::MinExclusive, Facet::MaxInclusive, "minExclusive-less-than-maxInclusive", false),
        ] {
            let (Some(least), Some(most)) = (own.bound(low), own.bound(high)) else { continue };
            if !has(low) && !has(high) {
                continue;
            }
            let order = least.value.compare(&most.value);
            if !(order == Some(Ordering::Less)
                || (equal && order == Some(Ordering::Equal))
                || (order.is_none() && least.value.same(&most.value)))
            {
                let facet = if has(low) { low } else { high };
                let message = format!("`{low}` must be below `{high}`, found `{}` and `{}`", least.text, most.text);
                wrong.push((rule, facet, message));
            }
        }
        for (rule, facet, message) in wrong {
            self.findings.error(rule, at(facet), message).at("value");
        }
    }
}

/// A facet that counts: its rule, its own count and the base's, how they must compare, and that in words.
type CountRule = (Facet, &'static str, Option<u64>, Option<u64>, fn(u64, u64) -> bool, &'static str);

fn bound_rule(facet: Facet) -> &'static str {
    match facet {
        Facet::MinInclusive => "minInclusive-valid-restriction",
        Facet::MinExclusive => "minExclusive-valid-restriction",
        Facet::MaxInclusive => "maxInclusive-valid-restriction",
        _ => "maxExclusive-valid-restriction",
    }
}

fn clear(facets: &mut Facets, facet: Facet) {
    match facet {
        Facet::MinInclusive => facets.min_inclusive = None,
        Facet::MinExclusive => facets.min_exclusive = None,
        Facet::MaxInclusive => facets.max_inclusive = None,
        _ => facets.max_exclusive = None,
    }
}

/// Where no prefix stands for anything.
pub(crate) struct NoScope;

impl Scope for NoScope {
    fn namespace(&self, prefix: &str) -> Option<&str> {
        prefix.is_empty().then_some("")
    }
}
