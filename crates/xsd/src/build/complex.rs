//! Complex types (Part 1, section 3.4).

use super::attributes::{is_subset, union};
use super::{Builder, order};
use crate::component::*;
use crate::names::NameId;
use crate::source::methods;

impl Builder<'_> {
    pub(super) fn unmade_complex(&self, name: Option<NameId>, origin: Origin) -> ComplexType {
        ComplexType {
            name,
            origin: Some(origin),
            base: ANY_TYPE,
            derivation: Derivation::Restriction,
            is_abstract: false,
            block: Methods::NONE,
            finals: Methods::NONE,
            attributes: Vec::new(),
            any_attribute: None,
            content: Content::Empty,
            model: None,
        }
    }

    /// Makes all complex types, each after its base.
    pub(super) fn complex_types(&mut self) {
        let mut wanted: Vec<(Origin, TypeId)> = self.type_at.iter().map(|(origin, id)| (*origin, *id)).collect();
        wanted.retain(|(_, id)| self.out.complex(*id).is_some());
        wanted.sort_by_key(|(_, id)| *id);
        let index_of: std::collections::HashMap<TypeId, usize> =
            wanted.iter().enumerate().map(|(index, (_, id))| (*id, index)).collect();
        let mut bases = Vec::new();
        for (origin, _) in &wanted {
            let within = self.derivation_within(*origin);
            bases.push(within.and_then(|(within, _)| self.refer_type(within, "base")));
        }
        let (ordered, circles) = order(wanted.len(), |index| {
            let base = bases.get(index).copied().flatten();
            base.and_then(|base| index_of.get(&base).copied()).into_iter().collect()
        });
        for circle in circles {
            if let Some((origin, _)) = wanted.get(circle) {
                self.findings.error("ct-props-correct.3", *origin, "a type must not be derived from itself");
            }
        }
        let mut made = vec![false; wanted.len()];
        for index in ordered {
            let Some((origin, id)) = wanted.get(index).copied() else { continue };
            let base = bases.get(index).copied().flatten();
            // In a circle, the base is not made before; the type has no base then.
            let base = base.filter(|base| index_of.get(base).is_none_or(|at| made.get(*at) == Some(&true)));
            let ty = self.make_complex(origin, id, base);
            if let (Some(slot), Some(done)) = (self.out.types.get_mut(id.0 as usize), made.get_mut(index)) {
                (*slot, *done) = (Type::Complex(ty), true);
            }
        }
    }

    /// The `restriction` or `extension` of a complex type, and whether its content is simple.
    fn derivation_within(&self, origin: Origin) -> Option<(Origin, bool)> {
        let (content, node) = self.child(origin, &["simpleContent", "complexContent"])?;
        let (within, _) = self.child(content, &["restriction", "extension"])?;
        Some((within, node.local == "simpleContent"))
    }

    fn make_complex(&mut self, origin: Origin, id: TypeId, base: Option<TypeId>) -> ComplexType {
        let name = self.out.complex(id).and_then(|complex| complex.name);
        let mut ty = self.unmade_complex(name, origin);
        let document = self.document(origin);
        let derivations = Methods::EXTENSION.with(Methods::RESTRICTION);
        ty.block = self.value(origin, "block").map_or(document.block, methods).and(derivations);
        ty.finals = self.value(origin, "final").map_or(document.finals, methods).and(derivations);
        ty.is_abstract = self.is_true(origin, "abstract");
        let mixed = self.is_true(origin, "mixed");
        let Some((within, simple)) = self.derivation_within(origin) else {
            if self.child(origin, &["simpleContent", "complexContent"]).is_none() {
                (ty.attributes, ty.any_attribute) = self.attribute_uses(origin);
                ty.content = self.explicit_content(origin, mixed);
                self.check_uses(&mut ty.attributes, origin);
            }
            return ty;
        };
        let extends = self.node(within).is_some_and(|node| node.local == "extension");
        ty.derivation = if extends { Derivation::Extension } else { Derivation::Restriction };
        let (uses, any) = self.attribute_uses(within);
        let Some(base) = base else {
            (ty.attributes, ty.any_attribute) = (uses, any);
            self.check_uses(&mut ty.attributes, within);
            if simple {
                ty.content = Content::Simple(ANY_SIMPLE_TYPE);
            }
            return ty;
        };
        ty.base = base;
        self.check_final_base(base, ty.derivation, within);
        if simple {
            ty.content = self.simple_content(base, within, extends);
        } else {
            let holder = self.child(origin, &["complexContent"]).map(|(at, _)| at);
            let said = holder.filter(|at| self.value(*at, "mixed").is_some());
            let mixed = said.map_or(mixed, |at| self.is_true(at, "mixed"));
            let own = self.explicit_content(within, mixed);
            ty.content = match (self.out.ty(base), extends) {
                (Some(Type::Simple(_)), _) => {
                    let message = "`complexContent` must be derived from a complex type, found a simple one";
                    self.findings
                        .error("src-ct.1", within, message)
                        .at("base")
                        .hint("`simpleContent` takes a simple type");
                    own
                }
                (_, true) => self.extended_content(base, own, within),
                _ => own,
            };
        }
        self.derive_attributes(&mut ty, uses, any, within);
        ty
    }

    fn check_final_base(&mut self, base: TypeId, derivation: Derivation, within: Origin) {
        let finals = match self.out.ty(base) {
            Some(Type::Complex(complex)) => complex.finals,
            Some(Type::Simple(simple)) => simple.finals,
            None => return,
        };
        if finals.has(derivation.method()) {
            let rule = match (derivation, self.out.ty(base)) {
                (Derivation::Extension, Some(Type::Complex(_))) => "cos-ct-extends.1.1",
                (Derivation::Extension, _) => "cos-ct-extends.2.2",
                (Derivation::Restriction, _) => "derivation-ok-restriction.1",
            };
            let message =
                format!("`{}` is final: there must be no {} of it", self.out.type_name(base), derivation.word());
            self.findings.error(rule, within, message).at("base");
        }
    }

    /// Joins attributes with those of the base (Part 1, section 3.4.2).
    fn derive_attributes(
        &mut self,
        ty: &mut ComplexType,
        mut uses: Vec<AttributeUse>,
        any: Option<Wildcard>,
        within: Origin,
    ) {
        let (inherited, base_any) = match self.out.ty(ty.base) {
            Some(Type::Complex(base)) => (base.attributes.clone(), base.any_attribute.clone()),
            _ => (Vec::new(), None),
        };
        match ty.derivation {
            Derivation::Extension => {
                let mut all = inherited;
                all.append(&mut uses);
                ty.attributes = all;
                ty.any_attribute = match (any, base_any) {
                    (Some(own), Some(base)) => {
                        Some(Wildcard { namespaces: union(&own.namespaces, &base.namespaces), ..own })
                    }
                    (own, base) => own.or(base),
                };
                self.check_uses(&mut ty.attributes, within);
            }
            Derivation::Restriction => {
                if ty.base != ANY_TYPE {
                    self.check_restricted_attributes(&uses, any.as_ref(), &inherited, base_any.as_ref(), within);
                }
                self.check_twice(&uses, "ct-props-correct.4", within);
                let kept = inherited.into_iter().filter(|base| uses.iter().all(|own| own.name != base.name));
                let kept: Vec<AttributeUse> = kept.collect();
                uses.extend(kept);
                self.check_uses(&mut uses, within);
                (ty.attributes, ty.any_attribute) = (uses, any);
            }
        }
    }

    /// What must hold of the attributes of a type; prohibited ones are taken out.
    fn check_uses(&mut self, uses: &mut Vec<AttributeUse>, origin: Origin) {
        uses.retain(|one| !one.prohibited);
        self.check_twice(uses, "ct-props-correct.4", origin);
        let id_of = |one: &&AttributeUse| {
            let ty = self.out.attribute(one.attribute).and_then(|attribute| self.out.simple(attribute.ty));
            ty.is_some_and(|ty| ty.role == Role::Id)
        };
        if let Some(second) = uses.iter().filter(id_of).nth(1) {
            let message = format!(
                "a type must have one attribute of type `xs:ID`, found `{}` too",
                self.out.names.local(second.name)
            );
            let at = second.origin.filter(|at| self.is_within(*at, origin)).unwrap_or(origin);
            self.findings.error("ct-props-correct.5", at, message);
        }
    }

    /// Part 1, derivation-ok-restriction.2 to 4.
    fn check_restricted_attributes(
        &mut self,
        uses: &[AttributeUse],
        any: Option<&Wildcard>,
        base: &[AttributeUse],
        base_any: Option<&Wildcard>,
        within: Origin,
    ) {
        for own in uses {
            let at = own.origin.filter(|at| self.is_within(*at, within)).unwrap_or(within);
            let local = self.out.names.local(own.name).to_owned();
            let Some(inherited) = base.iter().find(|base| base.name == own.name) else {
                let namespace = self.out.names.namespace_of(own.name);
                if !own.prohibited && !base_any.is_some_and(|any| any.namespaces.allows(Some(namespace))) {
                    let message =
                        format!("a restriction must not add the attribute `{local}`, which the base does not have");
                    self.findings.error("derivation-ok-restriction.2.2", at, message);
                }
                continue;
            };
            if inherited.required && !own.required {
                let (rule, met) = match own.prohibited {
                    true => ("derivation-ok-restriction.3", "prohibited"),
                    false => ("derivation-ok-restriction.2.1.1", "optional"),
                };
                let message = format!("the attribute `{local}` is required in the base and must stay so, found {met}");
                self.findings.error(rule, at, message);
                continue;
            }
            if own.prohibited {
                continue;
            }
            let type_of = |one: &AttributeUse| {
                self.out.attribute(one.attribute).map_or(ANY_SIMPLE_TYPE, |attribute| attribute.ty)
            };
            let (own_type, base_type) = (type_of(own), type_of(inherited));
            if !self.out.simple_derived(own_type, base_type, Methods::NONE) {
                let message = format!(
                    "the type of the attribute `{local}` must be derived from `{}`, found `{}`",
                    self.out.type_name(base_type),
                    self.out.type_name(own_type)
                );
                self.findings.error("derivation-ok-restriction.2.1.2", at, message);
            }
            if let Some(fixed) = inherited.value.as_ref().filter(|value| value.fixed) {
                let same = own
                    .value
                    .as_ref()
                    .is_some_and(|value| value.fixed && self.key_of(base_type, value) == self.key_of(base_type, fixed));
                if !same {
                    let message =
                        format!("the attribute `{local}` is fixed to `{}` in the base and must stay so", fixed.text);
                    self.findings.error("derivation-ok-restriction.2.1.3", at, message);
                }
            }
        }
        let Some(any) = any else { return };
        let at = any.origin.filter(|at| self.is_within(*at, within)).unwrap_or(within);
        match base_any {
            None => {
                let message = "a restriction must not add `anyAttribute`, which the base does not have";
                self.findings.error("derivation-ok-restriction.4.1", at, message);
            }
            Some(base) if !is_subset(&any.namespaces, &base.namespaces) => {
                let message = "`anyAttribute` must let in no more namespaces than that of the base";
                self.findings.error("derivation-ok-restriction.4.2", at, message);
            }
            Some(base) if any.process < base.process => {
                let message = "`anyAttribute` must look no less strictly than that of the base";
                self.findings.error("derivation-ok-restriction.4.3", at, message);
            }
            _ => {}
        }
    }

    /// The content that the models within an element describe (Part 1, section 3.4.2).
    fn explicit_content(&mut self, origin: Origin, mixed: bool) -> Content {
        let model = self.child(origin, &["group", "all", "choice", "sequence"]).map(|(at, _)| at);
        let particle = model.and_then(|model| {
            let particle = self.particle(model)?;
            self.check_all(&particle, model);
            Some(particle)
        });
        // An empty sequence is nothing; an empty choice that must be there can never be.
        let particle = particle.filter(|particle| match &particle.term {
            Term::Group(Compositor::Choice, within) => !within.is_empty() || particle.min > 0,
            Term::Group(_, within) => !within.is_empty(),
            _ => true,
        });
        match (particle, mixed) {
            (None, false) => Content::Empty,
            (particle, mixed) => Content::Elements { mixed, particle },
        }
    }

    fn check_all(&mut self, particle: &Particle, origin: Origin) {
        if matches!(particle.term, Term::Group(Compositor::All, _)) && particle.max != Some(1) {
            let message = "`all` must occur once at most";
            self.findings.error("cos-all-limited.1.2", origin, message);
        }
    }

    fn extended_content(&mut self, base: TypeId, own: Content, within: Origin) -> Content {
        let Some(complex) = self.out.complex(base) else { return own };
        let (base_mixed, base_particle) = match &complex.content {
            Content::Empty => return own,
            Content::Simple(simple) => {
                if !matches!(own, Content::Empty) {
                    let message = "`complexContent` must not extend a type whose content is simple";
                    self.findings
                        .error("cos-ct-extends.1.4.1", within, message)
                        .at("base")
                        .hint("`simpleContent` extends it");
                }
                return Content::Simple(*simple);
            }
            Content::Elements { mixed, particle } => (*mixed, particle.clone()),
        };
        let (own_mixed, own_particle) = match own {
            Content::Elements { mixed, particle } => (mixed, particle),
            // What adds nothing stays as the base is.
            _ => return Content::Elements { mixed: base_mixed, particle: base_particle },
        };
        if own_mixed != base_mixed {
            let words = |mixed| if mixed { "mixed" } else { "elements only" };
            let message =
                format!("an extension must be as its base, {}, found {}", words(base_mixed), words(own_mixed));
            self.findings.error("cos-ct-extends.1.4.2.2.2", within, message);
        }
        let particle = match (base_particle, own_particle) {
            (Some(base), Some(own)) => {
                let is_all = |particle: &Particle| matches!(particle.term, Term::Group(Compositor::All, _));
                if is_all(&base) || is_all(&own) {
                    let message =
                        "`all` must be the whole content of a type: it cannot be extended, and extends nothing";
                    self.findings.error("cos-all-limited.1.2", within, message);
                }
                self.particles += super::particles::size(&base) + super::particles::size(&own);
                let origin = Some(within);
                // A base that is a sequence grows, so that long lines of derivation stay flat.
                let parts = match base {
                    Particle { min: 1, max: Some(1), term: Term::Group(Compositor::Sequence, mut parts), .. } => {
                        parts.push(own);
                        parts
                    }
                    base => vec![base, own],
                };
                Some(Particle { min: 1, max: Some(1), term: Term::Group(Compositor::Sequence, parts), origin })
            }
            (base, own) => base.or(own),
        };
        Content::Elements { mixed: base_mixed, particle }
    }

    fn simple_content(&mut self, base: TypeId, within: Origin, extends: bool) -> Content {
        let inline = self.child(within, &["simpleType"]).and_then(|(at, _)| self.type_at.get(&at).copied());
        let of_base = match self.out.ty(base) {
            Some(Type::Simple(_)) if extends => return Content::Simple(base),
            Some(Type::Simple(_)) => {
                let message = "a restriction with `simpleContent` must be of a complex type, found a simple one";
                self.findings
                    .error("src-ct.2", within, message)
                    .at("base")
                    .hint("`xs:extension` adds attributes to a simple type");
                return Content::Simple(base);
            }
            Some(Type::Complex(complex)) => match &complex.content {
                Content::Simple(simple) => Some(*simple),
                Content::Elements { mixed: true, particle } => {
                    let emptiable = particle.as_ref().is_none_or(crate::content::emptiable);
                    if extends || !emptiable || inline.is_none() {
                        let message = "a base with mixed content must be emptiable, and the restriction must have a `simpleType` within";
                        self.findings.error("src-ct.2", within, message).at("base");
                    }
                    None
                }
                _ => {
                    let message = "`simpleContent` must be derived from a type whose content is simple";
                    self.findings.error("src-ct.2", within, message).at("base");
                    return Content::Simple(ANY_SIMPLE_TYPE);
                }
            },
            None => None,
        };
        if extends {
            return Content::Simple(of_base.unwrap_or(ANY_SIMPLE_TYPE));
        }
        if let (Some(inline), Some(of_base)) = (inline, of_base)
            && !self.out.simple_derived(inline, of_base, Methods::NONE)
        {
            let message = format!("the type within must be derived from `{}`", self.out.type_name(of_base));
            self.findings.error("derivation-ok-restriction.5.1.1", within, message);
        }
        let Some(from) = inline.or(of_base) else { return Content::Simple(ANY_SIMPLE_TYPE) };
        let mut simple = self.unmade_simple(None, within);
        if from == ANY_SIMPLE_TYPE {
            return Content::Simple(from);
        }
        self.restrict(&mut simple, from, within, "base");
        let id = TypeId(self.out.types.len() as u32);
        self.out.types.push(Type::Simple(simple));
        Content::Simple(id)
    }
}
