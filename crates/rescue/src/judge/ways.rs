//! Other ways to take what was read, when it does not hold as it is: documents in a row, a list of one, what stands in an
//! object or in a text.

use super::{Attempt, Rescuer, plain};
use crate::find::Candidate;
use crate::mend::{Mend, MendKind};
use crate::partial::growing;
use crate::read::{Read, span};
use mervik_document::finding::rule;
use mervik_document::{Document, Finding, Kind, Severity, Span, Tape, Value, json, pointer};
use mervik_formats::Reading;

impl Rescuer<'_> {
    /// Documents in a row as a list, if that holds.
    pub(super) fn in_a_row(&mut self, text: &str, candidates: &[Candidate]) -> Option<Attempt> {
        let between = candidates.windows(2).all(|pair| match pair {
            [one, next] => {
                let gap = text.get(one.read.end..next.start).unwrap_or("x");
                one.read.whole && gap.chars().all(|c| c.is_whitespace() || c == ',' || c == ';')
            }
            _ => false,
        });
        let (first, last) = (candidates.first()?, candidates.last()?);
        if !between || !last.read.whole || candidates.iter().any(|one| !one.read.troubles.is_empty()) {
            return None;
        }
        let place = span(first.start, last.read.end);
        let (mut json, mut places) = ("[".to_owned(), vec![(0, place)]);
        let mut mends = vec![Mend { kind: MendKind::Lines, span: place, about: None }];
        for (index, one) in candidates.iter().enumerate() {
            if index > 0 {
                json.push(',');
            }
            // One that is cut off is no item.
            if one.read.cut {
                json.pop();
                mends.push(Mend { kind: MendKind::CutOff, span: one.span(), about: None });
                continue;
            }
            let at = json.len() as u32;
            let reading = if one.read.plain { plain(text, one) } else { one.read.reading.clone() };
            places.extend(reading.origins.places().iter().map(|(offset, place)| (at + offset, *place)));
            json.push_str(&reading.json);
            mends.extend(one.read.mends.iter().cloned());
        }
        json.push(']');
        let reading = Reading { json, origins: places.into() };
        Some(self.attempt(reading, mends, &[], place)).filter(Attempt::holds)
    }

    /// The attempt, or, when it does not hold, what holds of other ways to take it.
    pub(super) fn with_others(&mut self, attempt: Attempt, read: &Read, within: usize) -> Attempt {
        if attempt.holds() || attempt.echo {
            return attempt;
        }
        let alternatives = if is_unfinished(&attempt, read.open) { read.alternatives.as_slice() } else { &[] };
        for reading in alternatives.iter().cloned() {
            if !self.would_hold(&reading.json) {
                continue;
            }
            let other = self.attempt(reading, attempt.mends.clone(), &[], attempt.span);
            if other.holds() && self.has_no_trouble(&attempt) {
                return other;
            }
        }
        if let Some(repaired) = self.repaired(&attempt) {
            return repaired;
        }
        let others = self.other_ways(&attempt, within);
        others.into_iter().find(Attempt::holds).unwrap_or(attempt)
    }

    /// Whether nothing is wrong with the text itself.
    fn has_no_trouble(&self, attempt: &Attempt) -> bool {
        const OF_TEXT: [&str; 5] =
            [rule::SYNTAX, rule::ELISION, rule::GROUPED_NUMBER, rule::NESTING, rule::DUPLICATE_NAME];
        !attempt.findings.iter().any(|finding| OF_TEXT.contains(&&*finding.rule))
    }

    /// The item of a list of one, what stands in a list of its own, what stands in an object around it, what a text holds.
    pub(super) fn other_ways(&mut self, attempt: &Attempt, within: usize) -> Vec<Attempt> {
        if !self.has_no_trouble(attempt) {
            return Vec::new();
        }
        let Reading { json, origins } = &attempt.reading;
        let mut tape = Tape::new();
        if json::read(json, &mut tape).is_err() {
            return Vec::new();
        }
        let document = Document::new(json, &tape);
        let root = document.root();
        let mut others = Vec::new();
        // A schema that does not ask for a kind has nothing against another one, which says nothing about what is wrong.
        let errors = || attempt.findings.iter().filter(|finding| finding.severity == Severity::Error);
        let in_list = attempt.changes.iter().any(|change| change.at.is_empty());
        let of_kind = in_list || errors().any(|finding| finding.at.is_empty() && finding.rule == "type");
        let of_whole = of_kind || errors().any(|finding| finding.at.is_empty());
        let asked = |value: Value<'_>| match value.kind() {
            Kind::Object => true,
            kind => kind == Kind::Array && of_kind,
        };
        let mut part = |rescuer: &mut Self, value: Value<'_>, kind: MendKind| {
            let start = value.span().start;
            let places = origins.places().iter().filter(|(at, _)| (start..value.span().end).contains(at));
            let places: Vec<(u32, Span)> = places.map(|(at, place)| (at - start, *place)).collect();
            let reading = Reading { json: value.source().to_owned(), origins: places.into() };
            if !rescuer.would_hold(&reading.json) {
                return;
            }
            let mends = attempt.mends.iter().cloned().chain([Mend { kind, span: attempt.span, about: None }]).collect();
            others.push(rescuer.attempt(reading, mends, &[], attempt.span));
        };
        match root.kind() {
            Kind::Array if of_kind => {
                let mut items = root.items();
                if let (Some(item), None) = (items.next(), items.next()) {
                    part(self, item, MendKind::ListForItem);
                }
            }
            Kind::Object if of_whole => {
                let mut members = root.members();
                if let (Some(member), None) = (members.next(), members.next())
                    && asked(member.value)
                    && (in_list
                        || errors().all(|finding| finding.at.is_empty() || is_unknown(finding, member.name.text())))
                {
                    part(self, member.value, MendKind::Wrapper);
                }
            }
            Kind::String if within > 0 && of_kind => {
                if let Some(mut inner) = root.as_str().and_then(|text| self.best(text, within - 1)) {
                    // Where in the text something stands is not known any more.
                    inner.reading.origins = inner.reading.origins.map(|_| attempt.span);
                    inner.mends.iter_mut().for_each(|mend| mend.span = attempt.span);
                    inner.span = attempt.span;
                    inner.mends.push(Mend { kind: MendKind::TextOfJson, span: attempt.span, about: None });
                    others.push(inner);
                }
            }
            _ => {}
        }
        let list = format!("[{json}]");
        if of_kind && root.kind() != Kind::Array && self.would_hold(&list) {
            let places = origins.places().iter().map(|(at, place)| (at + 1, *place));
            let places: Vec<(u32, Span)> = std::iter::once((0, attempt.span)).chain(places).collect();
            let reading = Reading { json: list, origins: places.into() };
            let kind = MendKind::ItemForList;
            let mends = attempt.mends.iter().cloned().chain([Mend { kind, span: attempt.span, about: None }]).collect();
            others.push(self.attempt(reading, mends, &[], attempt.span));
        }
        others
    }
}

/// Whether a finding says that a member of the document is not described.
fn is_unknown(finding: &Finding, name: &str) -> bool {
    let mut pointer = String::new();
    pointer::push_token(&mut pointer, name);
    finding.at == pointer && matches!(&*finding.rule, "additionalProperties" | "unevaluatedProperties")
}

/// Whether all that is wrong with what was cut off is that something of it has not been written: in containers that were open.
fn is_unfinished(attempt: &Attempt, open: usize) -> bool {
    const UNFINISHED: [&str; 7] =
        ["required", "minItems", "minProperties", "dependentRequired", "dependencies", "contains", "minContains"];
    let growing = growing(&attempt.reading.json, open);
    let mut errors = attempt.findings.iter().filter(|finding| finding.severity == Severity::Error);
    errors.all(|finding| UNFINISHED.contains(&&*finding.rule) && growing.contains(&finding.at))
}
