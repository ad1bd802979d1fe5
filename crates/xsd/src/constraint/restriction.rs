//! Whether one particle is a restriction of another (Part 1, section 3.9.6, “Particle Valid (Restriction)”).

use crate::build::Components;
use crate::build::attributes::is_subset;
use crate::component::*;
use crate::content::emptiable;
use std::borrow::Cow;

/// Why a particle is no restriction of another.
#[derive(Debug)]
pub(super) struct Misfit {
    pub(super) rule: &'static str,
    pub(super) origin: Option<Origin>,
    pub(super) message: String,
}

type Outcome = Result<(), Misfit>;

/// Whether what one particle takes is taken by another in the ways that the standard knows.
///
/// Recursion is bounded by the nesting of models, which the builder bounds.
pub(super) fn restricts(components: &Components, own: &Particle, base: &Particle) -> Outcome {
    let (own, base) = (simple(own), simple(base));
    Comparison { components }.particle(&own, &base)
}

struct Comparison<'c> {
    components: &'c Components,
}

impl Comparison<'_> {
    fn particle(&self, own: &Particle, base: &Particle) -> Outcome {
        use Compositor::{All, Choice, Sequence};
        if let (Term::Element(a), Term::Element(b)) = (&own.term, &base.term)
            && (a == b || self.members(*b).is_empty())
        {
            return self.element(*a, own, *b, base);
        }
        // Who may stand in a place is a choice (clause 2.1).
        if let Term::Element(id) = &base.term
            && !self.members(*id).is_empty()
        {
            return self.in_group(own, *id, base);
        }
        if let Term::Element(id) = &own.term
            && matches!(base.term, Term::Group(..))
            && !self.members(*id).is_empty()
            && matches!(&base.term, Term::Group(Choice, _))
        {
            let whole = self.particle(&group(own, Choice), base);
            return whole.or_else(|_| self.particle(&self.as_choice(*id, own), base));
        }
        match (&own.term, &base.term) {
            (Term::Element(id), Term::Any(wildcard)) => self.element_in_wildcard(*id, own, wildcard, base),
            (Term::Element(_), Term::Group(compositor, _)) => self.particle(&group(own, *compositor), base),
            (Term::Any(own_any), Term::Any(base_any)) => self.wildcards(own_any, own, base_any, base),
            (Term::Group(_, within), Term::Any(wildcard)) => self.group_in_wildcard(within, own, wildcard, base),
            (Term::Group(All, own_parts), Term::Group(All, base_parts))
            | (Term::Group(Sequence, own_parts), Term::Group(Sequence, base_parts)) => {
                self.occurs(own, base, "rcase-Recurse.1")?;
                self.in_order(own_parts, base_parts, own)
            }
            (Term::Group(Choice, own_parts), Term::Group(Choice, base_parts)) => {
                self.occurs(own, base, "rcase-RecurseLax.1")?;
                let mut rest = base_parts.iter();
                for part in own_parts {
                    if !rest.any(|base| self.particle(part, base).is_ok()) {
                        let message =
                            format!("{} must be one of the choices of the base, in their order", self.said(part));
                        return Err(misfit("rcase-RecurseLax.2", part, own, message));
                    }
                }
                Ok(())
            }
            (Term::Group(Sequence, own_parts), Term::Group(All, base_parts)) => {
                self.occurs(own, base, "rcase-RecurseUnordered.1")?;
                self.in_any_order(own_parts, base_parts, own)
            }
            (Term::Group(Sequence, own_parts), Term::Group(Choice, base_parts)) => {
                for part in own_parts {
                    if !base_parts.iter().any(|base| self.particle(part, base).is_ok()) {
                        let message = format!("{} must be one of the choices of the base", self.said(part));
                        return Err(misfit("rcase-MapAndSum.1", part, own, message));
                    }
                }
                let count = own_parts.len() as u32;
                let total = (own.min.saturating_mul(count), own.max.map(|max| max.saturating_mul(count)));
                self.range(total, base, own, "rcase-MapAndSum.2")
            }
            _ => {
                let message = format!("{} must restrict {} of the base, and cannot", self.said(own), self.said(base));
                Err(misfit("cos-particle-restrict.2", own, own, message))
            }
        }
    }

    fn members(&self, id: ElementId) -> &[ElementId] {
        self.components.element(id).map_or(&[], |element| &element.members)
    }

    fn as_choice(&self, id: ElementId, particle: &Particle) -> Particle {
        let all = std::iter::once(id).chain(self.members(id).iter().copied());
        let one = |id| Particle { min: 1, max: Some(1), term: Term::Element(id), origin: particle.origin };
        // Members are told as themselves: a head among them would be taken apart again.
        let parts = all.map(one).collect();
        Particle {
            min: particle.min,
            max: particle.max,
            term: Term::Group(Compositor::Choice, parts),
            origin: particle.origin,
        }
    }

    /// Whether a particle restricts a head that others may stand in the place of.
    fn in_group(&self, own: &Particle, head: ElementId, base: &Particle) -> Outcome {
        match &own.term {
            Term::Element(id) => {
                let mut all = std::iter::once(head).chain(self.members(head).iter().copied());
                match all.find(|one| self.name(*one) == self.name(*id)) {
                    Some(one) => self.element(*id, own, one, base),
                    None => {
                        let message =
                            format!("{} must be able to stand in the place of {}", self.said(own), self.said(base));
                        Err(misfit("rcase-RecurseLax.2", own, own, message))
                    }
                }
            }
            Term::Group(Compositor::Choice, parts) => {
                let free = Particle { min: 0, max: None, term: base.term.clone(), origin: base.origin };
                parts.iter().try_for_each(|part| self.in_group(part, head, &free))?;
                self.range(total(own), base, own, "rcase-RecurseLax.1")
            }
            _ => {
                let message = format!("{} must restrict {} of the base, and cannot", self.said(own), self.said(base));
                Err(misfit("cos-particle-restrict.2", own, own, message))
            }
        }
    }

    /// Part 1, rcase-NameAndTypeOK.
    fn element(&self, a: ElementId, own: &Particle, b: ElementId, base: &Particle) -> Outcome {
        let (Some(one), Some(of_base)) = (self.components.element(a), self.components.element(b)) else {
            return Ok(());
        };
        let local = self.components.names.local(one.name);
        let wrong = |rule, message: String| Err(misfit(rule, own, own, message));
        if one.name != of_base.name {
            let message = format!("`{local}` must be `{}`, as in the base", self.components.names.local(of_base.name));
            return wrong("rcase-NameAndTypeOK.1", message);
        }
        self.occurs(own, base, "rcase-NameAndTypeOK.3")?;
        if a == b {
            return Ok(());
        }
        if one.nillable && !of_base.nillable {
            return wrong(
                "rcase-NameAndTypeOK.2",
                format!("`{local}` is not nillable in the base and must not become so"),
            );
        }
        if let Some(fixed) = of_base.value.as_ref().filter(|value| value.fixed)
            && !one.value.as_ref().is_some_and(|value| value.fixed && value.key == fixed.key)
        {
            return wrong(
                "rcase-NameAndTypeOK.4",
                format!("`{local}` is fixed to `{}` in the base and must stay so", fixed.text),
            );
        }
        if one.identities.iter().any(|id| !of_base.identities.contains(id)) {
            return wrong(
                "rcase-NameAndTypeOK.5",
                format!("`{local}` must not have identity constraints that the base does not have"),
            );
        }
        if of_base.block.and(one.block) != of_base.block {
            return wrong("rcase-NameAndTypeOK.6", format!("`{local}` must block all that it blocks in the base"));
        }
        let without = Methods::EXTENSION.with(Methods::LIST).with(Methods::UNION);
        let simple = self.components.simple(one.ty).is_some();
        let fits = match simple {
            true => self.components.derived_ok(one.ty, of_base.ty, Methods::NONE),
            false => self.components.derived_ok(one.ty, of_base.ty, without),
        };
        match fits {
            true => Ok(()),
            false => wrong(
                "rcase-NameAndTypeOK.7",
                format!(
                    "the type of `{local}` must be a restriction of `{}`, found `{}`",
                    self.components.type_name(of_base.ty),
                    self.components.type_name(one.ty)
                ),
            ),
        }
    }

    /// Part 1, rcase-NSCompat.
    fn element_in_wildcard(&self, id: ElementId, own: &Particle, wildcard: &Wildcard, base: &Particle) -> Outcome {
        self.element_in_namespaces(id, own, wildcard)?;
        self.occurs(own, base, "rcase-NSCompat.2")
    }

    fn element_in_namespaces(&self, id: ElementId, own: &Particle, wildcard: &Wildcard) -> Outcome {
        let Some(element) = self.components.element(id) else { return Ok(()) };
        let namespace = self.components.names.namespace_of(element.name);
        match wildcard.namespaces.allows(Some(namespace)) {
            true => Ok(()),
            false => {
                let message = format!(
                    "`{}` must be of a namespace that the base lets in",
                    self.components.names.local(element.name)
                );
                Err(misfit("rcase-NSCompat.1", own, own, message))
            }
        }
    }

    /// Part 1, rcase-NSSubset.
    fn wildcards(&self, own_any: &Wildcard, own: &Particle, base_any: &Wildcard, base: &Particle) -> Outcome {
        self.occurs(own, base, "rcase-NSSubset.1")?;
        if !is_subset(&own_any.namespaces, &base_any.namespaces) {
            let message = "`any` must let in no more namespaces than that of the base".to_owned();
            return Err(misfit("rcase-NSSubset.2", own, own, message));
        }
        if own_any.process < base_any.process {
            let message = "`any` must look no less strictly than that of the base".to_owned();
            return Err(misfit("rcase-NSSubset.3", own, own, message));
        }
        Ok(())
    }

    /// Part 1, rcase-NSRecurseCheckCardinality.
    fn group_in_wildcard(&self, within: &[Particle], own: &Particle, wildcard: &Wildcard, base: &Particle) -> Outcome {
        for part in within {
            match &part.term {
                Term::Element(id) => self.element_in_namespaces(*id, part, wildcard)?,
                Term::Any(any) => {
                    let free = Particle { min: 0, max: None, term: base.term.clone(), origin: None };
                    self.wildcards(any, part, wildcard, &free)?;
                }
                Term::Group(_, parts) => {
                    let free = Particle { min: 0, max: None, term: base.term.clone(), origin: None };
                    self.group_in_wildcard(parts, part, wildcard, &free)?;
                }
            }
        }
        self.range(total(own), base, own, "rcase-NSRecurseCheckCardinality.2")
    }

    /// Each part restricts one of the base, in the same order; what is passed over may be left out.
    fn in_order(&self, own_parts: &[Particle], base_parts: &[Particle], own: &Particle) -> Outcome {
        let mut rest = base_parts.iter();
        for part in own_parts {
            let mut closest = None;
            loop {
                let Some(base) = rest.next() else {
                    let message = format!("{} must restrict a part of the base, in its order", self.said(part));
                    return Err(closest.unwrap_or(misfit("rcase-Recurse.2", part, own, message)));
                };
                match self.particle(part, base) {
                    Ok(()) => break,
                    Err(misfit) if !emptiable(base) => return Err(misfit),
                    // Of the parts that it may pass over, the one of the same name says most.
                    Err(misfit) => {
                        let same = matches!((&part.term, &base.term), (Term::Element(a), Term::Element(b)) if self.name(*a) == self.name(*b));
                        closest = closest.or(same.then_some(misfit));
                    }
                }
            }
        }
        match rest.find(|base| !emptiable(base)) {
            None => Ok(()),
            Some(base) => {
                let message = format!("{} must be there, as in the base", self.said(base));
                Err(misfit("rcase-Recurse.2.2", own, own, message))
            }
        }
    }

    fn in_any_order(&self, own_parts: &[Particle], base_parts: &[Particle], own: &Particle) -> Outcome {
        let mut free: Vec<&Particle> = base_parts.iter().collect();
        for part in own_parts {
            match free.iter().position(|base| self.particle(part, base).is_ok()) {
                Some(at) => _ = free.remove(at),
                None => {
                    let message = format!("{} must restrict a part of the base of its own", self.said(part));
                    return Err(misfit("rcase-RecurseUnordered.2", part, own, message));
                }
            }
        }
        match free.iter().find(|base| !emptiable(base)) {
            None => Ok(()),
            Some(base) => {
                let message = format!("{} must be there, as in the base", self.said(base));
                Err(misfit("rcase-RecurseUnordered.2.3", own, own, message))
            }
        }
    }

    fn name(&self, id: ElementId) -> Option<crate::names::NameId> {
        self.components.element(id).map(|element| element.name)
    }

    /// Part 1, range-ok.
    fn occurs(&self, own: &Particle, base: &Particle, rule: &'static str) -> Outcome {
        self.range((own.min, own.max), base, own, rule)
    }

    fn range(&self, (min, max): (u32, Option<u32>), base: &Particle, own: &Particle, rule: &'static str) -> Outcome {
        let most = match (max, base.max) {
            (_, None) => true,
            (None, Some(_)) => false,
            (Some(max), Some(of_base)) => max <= of_base,
        };
        if min >= base.min && most {
            return Ok(());
        }
        let said = |min: u32, max: Option<u32>| match max {
            Some(max) if max == min => format!("{min}"),
            Some(max) => format!("{min} to {max}"),
            None => format!("{min} or more"),
        };
        let message = format!(
            "{} must occur no more and no less often than in the base, {} times, found {}",
            self.said(own),
            said(base.min, base.max),
            said(min, max)
        );
        Err(misfit(rule, own, own, message))
    }

    fn said(&self, particle: &Particle) -> String {
        match &particle.term {
            Term::Element(id) => format!("`{}`", self.name(*id).map_or("", |name| self.components.names.local(name))),
            Term::Any(_) => "`any`".to_owned(),
            Term::Group(compositor, _) => format!("a `{}`", compositor.word()),
        }
    }
}

fn misfit(rule: &'static str, at: &Particle, around: &Particle, message: String) -> Misfit {
    Misfit { rule, origin: at.origin.or(around.origin), message }
}

/// A particle as a group of it alone (rcase-RecurseAsIfGroup).
fn group(particle: &Particle, compositor: Compositor) -> Particle {
    Particle { min: 1, max: Some(1), term: Term::Group(compositor, vec![particle.clone()]), origin: particle.origin }
}

/// How many elements a group stands for at least and at most (cos-seq-range, cos-choice-range).
fn total(particle: &Particle) -> (u32, Option<u32>) {
    let Term::Group(compositor, within) = &particle.term else { return (particle.min, particle.max) };
    let parts: Vec<(u32, Option<u32>)> = within.iter().map(total).collect();
    let (min, max) = match compositor {
        Compositor::Choice => (
            parts.iter().map(|(min, _)| *min).min().unwrap_or(0),
            parts.iter().map(|(_, max)| *max).try_fold(0, |most: u32, max| max.map(|max| most.max(max))),
        ),
        _ => (
            parts.iter().fold(0u32, |sum, (min, _)| sum.saturating_add(*min)),
            parts.iter().map(|(_, max)| *max).try_fold(0u32, |sum, max| max.map(|max| sum.saturating_add(max))),
        ),
    };
    let most = match (max, particle.max) {
        (Some(0), _) => Some(0),
        (Some(max), Some(times)) => Some(max.saturating_mul(times)),
        _ => None,
    };
    (min.saturating_mul(particle.min), most)
}

/// A particle without groups that say nothing (clause 2.2 of cos-particle-restrict).
fn simple(particle: &Particle) -> Cow<'_, Particle> {
    let Term::Group(compositor, within) = &particle.term else { return Cow::Borrowed(particle) };
    let mut parts: Vec<Particle> = Vec::new();
    for part in within {
        let part = simple(part).into_owned();
        match part {
            // Groups of nothing are nothing, but for a choice, of which there is none to choose.
            Particle { term: Term::Group(Compositor::Sequence | Compositor::All, ref inner), .. }
                if inner.is_empty() => {}
            Particle { min: 1, max: Some(1), term: Term::Group(kind, inner), .. }
                if kind == *compositor && kind != Compositor::All =>
            {
                parts.extend(inner);
            }
            other => parts.push(other),
        }
    }
    if particle.min == 1
        && particle.max == Some(1)
        && parts.len() == 1
        && let Some(only) = parts.pop()
    {
        return Cow::Owned(only);
    }
    Cow::Owned(Particle { term: Term::Group(*compositor, parts), ..particle.clone() })
}
