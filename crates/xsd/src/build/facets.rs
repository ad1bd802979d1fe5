//! Restrictions of simple types by facets (Part 2, section 4.3).

use super::Builder;
use super::simple::NodeScope;
use crate::component::*;
use crate::datatype::{Bound, Enumeration, Facet, Facets, Miss, Primitive, Value, WhiteSpace};
use crate::pattern::Pattern;
use mervik_document::shown;
use std::cmp::Ordering;
use std::sync::Arc;

impl Builder<'_> {
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
