//! Rules between fields: one that is new or was changed is broken by some document, or nobody knows.
//!
//! The search knows of a rule only whether both sides state it alike. Where they do not, documents are made up in which the fields
//! that the rule reads have values near its own constants; what is found is run through both schemas.

use super::breaks::refusal;
use super::places::spot_at;
use super::sample::{Name, Sample};
use super::says::{Cut, Cuts, Say};
use super::search::Found;
use super::{accepts, apart, findings, prepared};
use crate::compile::{Options, compile};
use crate::resource::Nowhere;
use crate::schema::{Schema, SchemaId, Stated, Test};
use mervik_document::edit::quoted;
use mervik_document::{Decimal, Document, Tape, json};
use mervik_rules::{Asked, Kind};
use mervik_versions::{Break, Comparison, Kind as Change, Role};
use num_bigint::BigInt;
use std::collections::HashSet;

/// How many documents are made up to break one rule.
const MAX_TRIED: usize = 150;

/// A rule, the schema that states it, and the names that lead to its place in documents.
pub(super) struct StatedAt<'s> {
    id: SchemaId,
    stated: &'s Stated,
    way: Vec<String>,
    /// What it is taken for in a search.
    taken: &'s str,
}

/// What a rule is taken for when it is held against the rules of `before`: one that it follows from refuses whatever it refuses.
pub(super) fn taken<'s>(before: &'s Schema, stated: &'s Stated) -> &'s str {
    let own = || {
        before.rules.iter().filter_map(|rule| match &rule.test {
            Test::Stated(own) if own.id == stated.id && !own.warns => Some(&*own.text),
            _ => None,
        })
    };
    let same = own().any(|own| own == &*stated.text);
    let mut stronger = own().filter(|own| !same && mervik_rules::follows(own, &stated.text));
    stronger.next().unwrap_or(&stated.text)
}

/// The rules that refuse documents, wherever the root leads to them.
pub(super) fn all<'s>(schema: &'s Schema, before: &'s Schema) -> Vec<StatedAt<'s>> {
    let mut found = Vec::new();
    if !schema.has_stated {
        return found;
    }
    let mut seen = HashSet::from([schema.root]);
    // Each with what leads to it, and under which name.
    let mut open: Vec<(SchemaId, Option<usize>, Option<&str>)> = vec![(schema.root, None, None)];
    let mut at = 0;
    while let Some((id, ..)) = open.get(at).copied() {
        for rule in schema.rules_of(id) {
            let mut next = |to: SchemaId, name: Option<&'s str>| {
                if seen.insert(to) {
                    open.push((to, Some(at), name));
                }
            };
            match &rule.test {
                Test::Stated(stated) if !stated.warns => {
                    let steps = std::iter::successors(open.get(at), |(_, from, _)| open.get((*from)?));
                    let mut way: Vec<String> = steps.filter_map(|(.., name)| name.map(str::to_owned)).collect();
                    way.reverse();
                    found.push(StatedAt { id, stated, way, taken: taken(before, stated) });
                }
                Test::Members(test) => {
                    for (name, entry) in test.table.names().zip(&test.entries) {
                        entry.schema.into_iter().for_each(|to| next(to, Some(name)));
                    }
                }
                Test::Items(test) => test.prefix.iter().copied().chain(test.rest).for_each(|to| next(to, None)),
                Test::Contains(test) => next(test.schema, None),
                Test::Ref(to) => next(*to, None),
                Test::AllOf(all) => all.iter().for_each(|to| next(*to, None)),
                Test::AnyOf(union) | Test::OneOf(union) => union.branches.iter().for_each(|to| next(*to, None)),
                Test::If(test) => test.then.into_iter().chain(test.otherwise).for_each(|to| next(to, None)),
                Test::DependentSchemas(all) => all.iter().for_each(|(_, to)| next(*to, None)),
                _ => {}
            }
        }
        at += 1;
    }
    found
}

impl StatedAt<'_> {
    /// The fields that the rule reads, by the names that lead to them, and their kinds.
    fn asked(&self) -> Vec<(Vec<String>, Kind)> {
        let conditions = self.stated.conditions();
        let asked: Vec<Asked> = conditions.flat_map(|condition| condition.asked()).collect();
        let way = |asked: &Asked| {
            let start = asked.above.map_or(0, |levels| self.way.len().saturating_sub(levels));
            self.way.iter().take(start).chain(&asked.steps).cloned().collect()
        };
        asked.iter().map(|asked| (way(asked), asked.kind)).collect()
    }

    /// Values of a kind that the rule may tell apart.
    fn values(&self, kind: Kind) -> Vec<String> {
        let conditions = self.stated.conditions();
        values(kind, &conditions.flat_map(|condition| condition.constants()).collect::<Vec<_>>())
    }

    /// What leaves the rule out of a search.
    pub(super) fn cut(&self) -> (SchemaId, Cut) {
        (self.id, Cut::Say(Say::Opaque(self.taken.into()).key()))
    }
}

/// Tells the rules of `outer` that break; `cuts` leaves out all other causes, and the rules.
pub(super) fn compare(
    (inner, outer): (&Schema, &Schema),
    rules: &[StatedAt<'_>],
    cuts: &Cuts,
    role: Role,
    comparison: &mut Comparison,
) {
    let found = |kept: &mut dyn Iterator<Item = &StatedAt<'_>>| {
        let mut cuts = cuts.clone();
        kept.for_each(|rule| {
            cuts.remove(&rule.cut());
        });
        let (mut search, roots) = prepared(inner, outer, &cuts, None);
        let goal = apart(&mut search, &roots, [false, true, false]);
        search.find(goal)
    };
    if matches!(found(&mut rules.iter()), Found::Nothing) {
        return;
    }
    let before = all(inner, inner);
    for rule in rules {
        let sample = match found(&mut std::iter::once(rule)) {
            Found::Nothing => continue,
            Found::Value(sample) => Some(sample.text()),
            Found::Unknown(_) => None,
        };
        let was = before.iter().find(|one| one.stated.id == rule.stated.id && one.way == rule.way);
        // The same rule at the same place: what is not known is not known for another reason, which has been told.
        let same = was.is_some_and(|was| was.stated.text == rule.stated.text);
        if same && !comparison.undecided.is_empty() {
            continue;
        }
        let (one, other) = match role {
            Role::Old => (was.map(|was| &*was.stated.text), Some(&*rule.stated.text)),
            Role::New => (Some(&*rule.stated.text), was.map(|was| &*was.stated.text)),
        };
        let id = &rule.stated.id;
        let message = match (one, other) {
            (None, _) => format!("the rule `{id}` is new"),
            (_, None) => format!("the rule `{id}` is gone"),
            (Some(one), Some(other)) if one == other => {
                format!("the rule `{id}` may stand at other places than before")
            }
            (Some(one), Some(other)) => format!("the rule `{id}` was `{one}`, and is `{other}`"),
        };
        let witness = sample.into_iter().find(|text| breaks(inner, outer, rule, text));
        let Some(witness) = witness.or_else(|| probe(inner, outer, rule)) else {
            comparison.undecided.push(format!("{message}, and no document was found that shows what that means"));
            continue;
        };
        let spot = |schema: &Schema, rule: &StatedAt<'_>| {
            let at = rule.stated.that_at;
            Some(spot_at(schema.file(at.file)?, at.node))
        };
        let (accepting, refusing) = (was.and_then(|was| spot(inner, was)), spot(outer, rule));
        let (old, new) = if role == Role::Old { (accepting, refusing) } else { (refusing, accepting) };
        let refusal = refusal(outer, &witness);
        let at = rule.way.iter().map(|name| format!("/{name}")).collect();
        comparison.breaks.push(Break {
            kind: Change::Condition,
            old,
            new,
            at,
            message,
            witness,
            refusal,
            view: None,
            notes: Vec::new(),
        });
    }
}

/// Whether a document is refused because of the rule, and accepted by the other schema.
fn breaks(inner: &Schema, outer: &Schema, rule: &StatedAt<'_>, text: &str) -> bool {
    accepts(inner, text) && findings(outer, text).iter().any(|finding| *finding.rule == *rule.stated.id)
}

/// Makes up documents that break a rule: the fields that it reads have values near its constants, all else is as the accepting
/// schema wants it.
fn probe(inner: &Schema, outer: &Schema, rule: &StatedAt<'_>) -> Option<String> {
    let asked = rule.asked();
    let fields: Vec<(Vec<String>, Vec<String>)> =
        asked.into_iter().map(|(way, kind)| (way, rule.values(kind))).collect();
    // All fields at their first values, then others, those near the first ones first.
    let mut tried = 0;
    for total in 0..16usize {
        let mut chosen = vec![0usize; fields.len()];
        loop {
            if chosen.iter().sum::<usize>() == total {
                tried += 1;
                if tried > MAX_TRIED {
                    return None;
                }
                let wanted =
                    fields.iter().zip(&chosen).filter_map(|((way, values), at)| Some((way, values.get(*at)?.as_str())));
                let found = accepted(inner, &pinned(wanted.collect()));
                if let Some(text) = found.filter(|text| breaks(inner, outer, rule, text)) {
                    return Some(text);
                }
            }
            // The next choice, as a number whose digits are the choices.
            let next = chosen.iter().zip(&fields).position(|(at, (_, values))| *at < values.len() && *at < total);
            let Some(next) = next else { break };
            chosen.iter_mut().take(next).for_each(|at| *at = 0);
            chosen.get_mut(next).into_iter().for_each(|at| *at += 1);
        }
    }
    None
}

/// A document made of one that `inner` refuses for rules alone, changed where they read until it keeps them all; `outer` must refuse it
/// still. Each change is of one value, and leaves fewer rules broken.
pub(super) fn mended(inner: &Schema, outer: &Schema, sample: &Sample) -> Option<String> {
    let rules = all(inner, inner);
    let broken = |sample: &Sample| -> Option<Vec<String>> {
        let findings = findings(inner, &sample.text());
        let ids: Vec<String> = findings.iter().map(|finding| finding.rule.to_string()).collect();
        let known = |id: &String| rules.iter().any(|rule| *rule.stated.id == **id);
        ids.iter().all(known).then_some(ids)
    };
    let mut current = sample.clone();
    let mut ids = broken(&current)?;
    for _ in 0..MAX_ROUNDS {
        if ids.is_empty() {
            return Some(current.text()).filter(|text| super::tells_apart(inner, outer, text));
        }
        let concerned = rules.iter().filter(|rule| ids.iter().any(|id| **id == *rule.stated.id));
        let mut changes = Vec::new();
        for rule in concerned {
            let asked = rule.asked();
            let sums: Vec<Sample> = asked.iter().filter_map(|(way, kind)| sum(&current, way, *kind)).collect();
            for (way, kind) in asked {
                let mut others = if kind == Kind::Number { sums.clone() } else { Vec::new() };
                leaves(&current, kind, &mut others);
                for value in rule.values(kind).iter().filter_map(|text| scalar(text)).chain(others) {
                    changed(&current, &way, &value, &mut changes);
                }
            }
        }
        let better = changes.into_iter().take(MAX_CHANGES).find_map(|changed| {
            let left = broken(&changed)?;
            (left.len() < ids.len() && !accepts(outer, &changed.text())).then_some((changed, left))
        });
        (current, ids) = better?;
    }
    None
}

/// How many values are changed to mend a document, and how many changes are tried for each.
const MAX_ROUNDS: usize = 20;
const MAX_CHANGES: usize = 400;

/// The value with one place of a way changed, for each place that there is; the last name may be new.
fn changed(sample: &Sample, way: &[String], value: &Sample, out: &mut Vec<Sample>) {
    match (sample, way.split_first()) {
        (Sample::Array(items), _) => {
            for (at, item) in items.iter().enumerate().take(8) {
                let mut inner = Vec::new();
                changed(item, way, value, &mut inner);
                out.extend(inner.into_iter().map(|new| {
                    let each = items
                        .iter()
                        .enumerate()
                        .map(|(index, old)| if index == at { new.clone() } else { old.clone() });
                    Sample::Array(each.collect())
                }));
            }
        }
        (_, None) => out.push(value.clone()),
        (Sample::Object(members), Some((name, rest))) => match members.iter().find(|(known, _)| **known == **name) {
            Some((_, member)) => {
                let mut inner = Vec::new();
                changed(member, rest, value, &mut inner);
                out.extend(inner.into_iter().map(|new| {
                    let each = members
                        .iter()
                        .map(|(known, old)| (known.clone(), if **known == **name { new.clone() } else { old.clone() }));
                    Sample::Object(each.collect())
                }));
            }
            None if rest.is_empty() => {
                let new = (Name::from(name.as_str()), value.clone());
                out.push(Sample::Object(members.iter().cloned().chain([new]).collect()));
            }
            None => {}
        },
        _ => {}
    }
}

/// The sum of the numbers that a way leads to, which may be what another field must be.
fn sum(sample: &Sample, way: &[String], kind: Kind) -> Option<Sample> {
    let mut open = vec![(sample, way)];
    let mut total: Option<(BigInt, i64)> = None;
    while let Some((sample, way)) = open.pop() {
        match (sample, way.split_first()) {
            (Sample::Array(items), _) => open.extend(items.iter().map(|item| (item, way))),
            (Sample::Object(members), Some((name, rest))) => {
                open.extend(members.iter().find(|(known, _)| **known == **name).map(|(_, member)| (member, rest)));
            }
            (Sample::Number(number, _), None) if kind == Kind::Number => {
                let (digits, exponent) = number.parts();
                let (sum, at) = total.unwrap_or((BigInt::ZERO, 0));
                let least = at.min(exponent);
                // What is too long to be added up is no value that anybody means.
                let power = |exponent: i64| u32::try_from(exponent - least).ok().filter(|power| *power < 100);
                let raised = |power: u32| BigInt::from(10).pow(power);
                total = Some((sum * raised(power(at)?) + digits * raised(power(exponent)?), least));
            }
            _ => {}
        }
    }
    total.map(|(sum, exponent)| Sample::Number(Decimal::from_parts(&sum, exponent), false))
}

/// The values of a kind that a sample holds.
fn leaves(sample: &Sample, kind: Kind, out: &mut Vec<Sample>) {
    match sample {
        Sample::Array(items) => items.iter().for_each(|item| leaves(item, kind, out)),
        Sample::Object(members) => members.iter().for_each(|(_, member)| leaves(member, kind, out)),
        Sample::Number(..) if kind == Kind::Number => out.push(sample.clone()),
        Sample::Text(_) if kind == Kind::Text => out.push(sample.clone()),
        _ => {}
    }
}

fn scalar(text: &str) -> Option<Sample> {
    let mut tape = Tape::new();
    json::read(text, &mut tape).ok()?;
    Some(Sample::of(Document::new(text, &tape).root(), &mut |members| members.into()))
}

/// Values of a kind, as JSON: absent is what comes after the last.
fn values(kind: Kind, constants: &[(Kind, String)]) -> Vec<String> {
    let plain = matches!(kind, Kind::Number | Kind::Truth);
    let all = mervik_rules::near(kind, constants).into_iter();
    all.map(|text| if plain { text } else { quoted(&text) }).collect()
}

/// A schema of what has these values at these places; lists on the way have them in each of their items.
fn pinned(wanted: Vec<(&Vec<String>, &str)>) -> String {
    let all: Vec<String> = wanted
        .into_iter()
        .map(|(way, value)| {
            way.iter().rev().fold(format!("{{\"const\":{value}}}"), |inner, name| {
                let name = quoted(name);
                let object = format!("{{\"type\":\"object\",\"required\":[{name}],\"properties\":{{{name}:{inner}}}}}");
                format!("{{\"anyOf\":[{object},{{\"type\":\"array\",\"minItems\":1,\"items\":{object}}}]}}")
            })
        })
        .map(|one| format!("{{\"anyOf\":[{one}]}}"))
        .collect();
    format!("{{\"not\":{{\"allOf\":[true{}]}}}}", all.iter().map(|one| format!(",{one}")).collect::<String>())
}

/// A document that the schema accepts and that another one refuses, which is given as text.
fn accepted(inner: &Schema, refusing: &str) -> Option<String> {
    let outer = compile("pinned", "urn:mervik:pinned", refusing, "", &mut Nowhere, Options::default()).ok()?;
    let cuts: Cuts = all(inner, inner).iter().map(StatedAt::cut).collect();
    let (mut search, roots) = prepared(inner, &outer, &cuts, None);
    let goal = apart(&mut search, &roots, [false, true, false]);
    match search.find(goal) {
        Found::Value(sample) => Some(sample.text()),
        Found::Nothing | Found::Unknown(_) => None,
    }
}
