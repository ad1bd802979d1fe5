//! Named sets of rules, with parameters: `(mervik.set)` with `parameters` and `rules`, and `rules: { use: … }`.

use super::{Drafted, Reader};
use crate::rules::raw::Raw;
use crate::rules::set_named;
use mervik_document::near;
use mervik_messages::Message;
use mervik_rules::{Arguments, Bound};
use std::collections::{BTreeMap, HashMap, HashSet};

/// A set of rules.
struct Set<'s> {
    parameters: Vec<String>,
    rules: Vec<Drafted<'s>>,
}

/// The sets that have rules between fields, by their full names; `None` for those with errors.
pub(super) struct Sets<'s> {
    all: &'s HashMap<String, Vec<Raw>>,
    read: BTreeMap<&'s str, Option<Set<'s>>>,
}

impl<'s> Sets<'s> {
    /// Reads all sets, and tells what is wrong with them.
    pub(super) fn read(all: &'s HashMap<String, Vec<Raw>>, reader: &mut Reader<'_>) -> Sets<'s> {
        let sorted: BTreeMap<&str, &Vec<Raw>> = all.iter().map(|(name, raws)| (name.as_str(), raws)).collect();
        let has_rules = |raws: &[Raw]| raws.iter().any(|raw| ["rules", "parameters"].contains(&raw.name.as_str()));
        let ruled = sorted.into_iter().filter(|(_, raws)| has_rules(raws));
        Sets { all, read: ruled.map(|(name, raws)| (name, read(raws, reader))).collect() }
    }

    /// The rules that a use of a set comes to.
    pub(super) fn used<'w>(&self, raw: &'w Raw, scope: &str, reader: &mut Reader<'_>) -> Vec<Drafted<'w>> {
        let Some(target) = raw.member("use") else { return Vec::new() };
        if let Some(other) = raw.members().find(|member| !["use", "with", "id"].contains(&member.name.as_str())) {
            reader.tell(other, format!("a use of a set has no `{}`", other.name), None);
        }
        let full = set_named(self.all, target.text(), scope);
        let Some(known) = full.and_then(|full| self.read.get(full.as_str())) else {
            let near = near::nearest(target.text(), self.read.keys().copied());
            let hint = near.map_or_else(
                || "a set is an enum value with `[(mervik.set) = { parameters: … rules: … }]`".to_owned(),
                |near| format!("`{near}` is near"),
            );
            reader.tell(target, format!("there is no set of rules between fields `{}`", target.text()), Some(hint));
            return Vec::new();
        };
        let (Some(set), Some(arguments)) = (known, known.as_ref().and_then(|set| arguments(raw, set, reader))) else {
            return Vec::new();
        };
        let lead = raw.member("id").map(|id| format!("{}-", id.text())).unwrap_or_default();
        let mut rules = Vec::new();
        for rule in &set.rules {
            match bound(rule, &lead, &arguments, raw) {
                Ok(rule) => rules.push(rule),
                Err(fault) => reader.tell(raw, mervik_rules::unfit(&rule.id, &fault), fault.hint),
            }
        }
        rules
    }
}

fn read<'s>(raws: &'s [Raw], reader: &mut Reader<'_>) -> Option<Set<'s>> {
    let mut parameters: Vec<String> = Vec::new();
    for raw in raws.iter().filter(|raw| raw.name == "parameters") {
        let name = raw.text();
        if !mervik_rules::is_parameter(name) || parameters.iter().any(|other| other == name) {
            let hint = "letters, digits and `_`, a letter first, and no word of the language of rules".to_owned();
            reader.tell(raw, "`parameters` must be names, each there once".to_owned(), Some(hint));
            return None;
        }
        parameters.push(name.to_owned());
    }
    let mut ids = HashSet::new();
    let mut rules = Vec::new();
    for raw in raws.iter().filter(|raw| raw.name == "rules") {
        if raw.member("use").is_some() {
            reader.tell(raw, "a set of rules between fields cannot use another one".to_owned(), None);
            return None;
        }
        let rule = reader.rule(raw)?;
        if !ids.insert(rule.id.clone()) {
            reader.tell(raw, format!("the rule `{}` is stated twice here", rule.id), None);
            return None;
        }
        rules.push(rule);
    }
    Some(Set { parameters, rules })
}

/// What stands for the parameters of a set; `None` after an error.
fn arguments(raw: &Raw, set: &Set<'_>, reader: &mut Reader<'_>) -> Option<Arguments> {
    let with: Vec<&Raw> = raw.members().filter(|member| member.name == "with").collect();
    let name = |one: &Raw| one.member("parameter").map_or("", Raw::text).to_owned();
    let names: Vec<String> = with.iter().map(|one| name(one)).collect();
    let given: Vec<&str> = names.iter().map(String::as_str).collect();
    let wrong = mervik_rules::misnamed(&set.parameters, &given);
    let mut sound = wrong.is_empty();
    for (index, message, hint) in wrong {
        let at = index.and_then(|index| with.get(index)).map_or(raw, |one| one.member("parameter").unwrap_or(one));
        reader.tell(at, message, hint);
    }
    let mut arguments = Arguments::new();
    for (one, name) in with.iter().zip(names) {
        let value = one.member("value").unwrap_or(one);
        match mervik_rules::argument(value.text()) {
            Ok(argument) => drop(arguments.insert(name, argument)),
            Err(fault) => {
                sound = false;
                reader.fault(value, fault);
            }
        }
    }
    sound.then_some(arguments)
}

/// A rule of a set where it is used.
fn bound<'w>(
    rule: &Drafted<'_>,
    lead: &str,
    arguments: &Arguments,
    raw: &'w Raw,
) -> Result<Drafted<'w>, mervik_rules::Fault> {
    let bound = |(condition, _): &(mervik_rules::syntax::Expr, &Raw)| {
        mervik_rules::bound(condition, arguments).map(|condition| (condition, raw))
    };
    Ok(Drafted {
        raw,
        id: format!("{lead}{}", rule.id),
        that: bound(&rule.that)?,
        when: rule.when.as_ref().map(bound).transpose()?,
        warns: rule.warns,
        // It has been read before without a fault.
        message: rule.message.as_ref().and_then(|(message, _)| Some((Message::parse(message.source()).ok()?, raw))),
        bound: Some(Bound::to(arguments)),
    })
}
