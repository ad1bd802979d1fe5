//! Whether the rules of a field make sense together: contradictions, and rules that never refuse anything.

use super::Check;
use super::compile::{Compiler, Found, Typed, Valued};
use super::raw::Raw;
use super::test::{Constant, Moment, Test};
use crate::remark::rule;
use crate::schema::Type;
use mervik_document::Severity;
use mervik_document::tongue::Tongue;

impl Compiler<'_> {
    /// Remarks about rules of one field that cannot be meant.
    pub(super) fn sense(&mut self, raws: &[Raw], typed: Typed<'_>, found: &Found) {
        let raw_of = |place| raws.iter().find(|raw: &&Raw| raw.place == place).or(raws.first());
        if let (Some((min, _)), Some((max, place))) = (found.list.min, found.list.max)
            && min > max
            && let Some(raw) = raw_of(place)
        {
            self.tell(
                raw,
                Severity::Warning,
                rule::CONTRADICTION,
                format!("`min_items` {min} is above `max_items` {max}: nothing keeps both"),
                None,
            );
        }
        if let Some((0, place)) = found.list.min
            && let Some(raw) = raw_of(place)
        {
            self.tell(raw, Severity::Warning, rule::NO_EFFECT, "`min_items: 0` refuses nothing".to_owned(), None);
        }
        let scalar = typed.value.wrapped.unwrap_or(typed.value.ty);
        for (checks, ty, value) in [
            (&found.value.checks, scalar, Some(typed.value)),
            (&found.keys.checks, typed.key.map_or(scalar, |key| key.ty), typed.key),
        ] {
            self.bounds(checks, ty, &raw_of);
            self.constants(checks, value, raws, &raw_of);
        }
    }

    fn bounds<'r>(&mut self, checks: &[Check], ty: Type, raw_of: &impl Fn(crate::schema::PlaceId) -> Option<&'r Raw>) {
        let (mut low, mut high) = (Vec::new(), Vec::new());
        for check in checks {
            let whole = ty.integers();
            // Both ends of a pair are on one scale; pairs of different scales never meet in one field.
            match &check.test {
                Test::Minimum(limit) => low.push((whole.map_or(limit.floating, |_| limit.integer as f64), check)),
                Test::ExclusiveMinimum(limit) => {
                    low.push((whole.map_or(limit.floating.next_up(), |_| limit.integer as f64), check));
                }
                Test::Maximum(limit) => high.push((whole.map_or(limit.floating, |_| limit.integer as f64), check)),
                Test::ExclusiveMaximum(limit) => {
                    high.push((whole.map_or(limit.floating.next_down(), |_| limit.integer as f64), check));
                }
                Test::Shortest(nanos, _) => low.push((*nanos as f64, check)),
                Test::Longest(nanos, _) => high.push((*nanos as f64, check)),
                Test::Earliest(Moment::At(nanos), _) => low.push((*nanos as f64, check)),
                Test::Latest(Moment::At(nanos), _) => high.push((*nanos as f64, check)),
                _ => {}
            }
        }
        self.pairs(&low, &high, raw_of);
        let length = |pick: fn(&Test) -> Option<u64>| -> Vec<(f64, &Check)> {
            checks.iter().filter_map(|check| Some((pick(&check.test)? as f64, check))).collect()
        };
        let min_length = length(|test| if let Test::MinLength(count) = test { Some(*count) } else { None });
        let max_length = length(|test| if let Test::MaxLength(count) = test { Some(*count) } else { None });
        let min_bytes = length(|test| if let Test::MinBytes(count) = test { Some(*count) } else { None });
        let max_bytes = length(|test| if let Test::MaxBytes(count) = test { Some(*count) } else { None });
        self.pairs(&min_length, &max_length, raw_of);
        self.pairs(&min_bytes, &max_bytes, raw_of);
        // So many characters are at least so many bytes.
        self.pairs(&min_length, &max_bytes, raw_of);
        for (count, check) in min_length.iter().chain(&min_bytes) {
            if *count == 0.0
                && let Some(raw) = raw_of(check.place)
            {
                self.tell(
                    raw,
                    Severity::Warning,
                    rule::NO_EFFECT,
                    format!("`{}: 0` refuses nothing", check.name),
                    None,
                );
            }
        }
        if let Some((least, most)) = ty.integers() {
            for check in checks {
                let (never, always) = match &check.test {
                    Test::Minimum(limit) | Test::ExclusiveMinimum(limit) => {
                        (limit.integer > most, limit.integer <= least)
                    }
                    Test::Maximum(limit) | Test::ExclusiveMaximum(limit) => {
                        (limit.integer < least, limit.integer >= most)
                    }
                    Test::MultipleOf(_, Some(1), _) => (false, true),
                    _ => continue,
                };
                let Some(raw) = raw_of(check.place) else { continue };
                let expected = check.test.expected(Tongue::English);
                if never {
                    let message = format!("no `{}` is {expected}: nothing keeps `{}`", ty.word(), check.name);
                    self.tell(raw, Severity::Warning, rule::CONTRADICTION, message, None);
                } else if always {
                    let message = format!("every `{}` is {expected}: `{}` refuses nothing", ty.word(), check.name);
                    self.tell(raw, Severity::Warning, rule::NO_EFFECT, message, None);
                }
            }
        }
    }

    fn pairs<'r>(
        &mut self,
        low: &[(f64, &Check)],
        high: &[(f64, &Check)],
        raw_of: &impl Fn(crate::schema::PlaceId) -> Option<&'r Raw>,
    ) {
        for (least, below) in low {
            for (most, above) in high {
                if least > most
                    && let Some(raw) = raw_of(above.place)
                {
                    let (below, above) = (
                        (below.name, below.test.expected(Tongue::English)),
                        (above.name, above.test.expected(Tongue::English)),
                    );
                    let message =
                        format!("`{}` wants {} and `{}` {}: nothing keeps both", below.0, below.1, above.0, above.1);
                    self.tell(raw, Severity::Warning, rule::CONTRADICTION, message, None);
                }
            }
        }
    }

    /// Values that a rule names and another one refuses.
    fn constants<'r>(
        &mut self,
        checks: &[Check],
        value: Option<Valued<'_>>,
        raws: &'r [Raw],
        raw_of: &impl Fn(crate::schema::PlaceId) -> Option<&'r Raw>,
    ) {
        let enumeration = value.is_some_and(|value| matches!(value.wrapped.unwrap_or(value.ty), Type::Enum(_)));
        for check in checks {
            let (constants, texts): (&[Constant], Vec<&str>) = match &check.test {
                Test::Const(constant, text) => (std::slice::from_ref(constant), vec![text]),
                Test::Enum(constants, texts) => (constants, texts.iter().map(|text| &**text).collect()),
                _ => continue,
            };
            let others = || checks.iter().filter(|other| !std::ptr::eq(*other, check));
            let refused: Vec<(&str, &Check)> = constants
                .iter()
                .zip(&texts)
                .filter_map(|(constant, text)| {
                    let by = others().find(|other| !other.test.holds(constant.scalar(enumeration)))?;
                    Some((*text, by))
                })
                .collect();
            let Some((text, by)) = refused.first() else { continue };
            // The value itself where it stands here, else the rule that has it.
            let own = raws.iter().find(|raw| raw.name == check.name && raw.text() == *text);
            let Some(raw) = own.or_else(|| raw_of(check.place)) else { continue };
            if refused.len() == constants.len() {
                let message = format!("`{}` and `{}`: nothing keeps both", check.name, by.name);
                self.tell(
                    raw,
                    Severity::Warning,
                    rule::CONTRADICTION,
                    message,
                    Some(format!("`{text}` is not {}", by.test.expected(Tongue::English))),
                );
            } else {
                let message = format!("`{text}` stands in `{}` and `{}` refuses it", check.name, by.name);
                self.tell(raw, Severity::Warning, rule::CONTRADICTION, message, None);
            }
        }
    }
}
