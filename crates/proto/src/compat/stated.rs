//! Rules between fields: unchanged ones cancel; of others a message is looked for that breaks them.

use super::{Claim, Compare, Outcome, Pair};
use crate::schema::{Field, Message, Shape, Type};
use crate::stated::Stated;
use mervik_document::edit::quoted;
use mervik_rules::Kind as Of;
use mervik_versions::Kind;

/// How many messages are tried for one rule.
const MAX_TRIED: usize = 600;

/// How many values of one field are tried.
const MAX_VALUES: usize = 9;

impl Compare<'_> {
    pub(super) fn stated(&mut self, pair: Pair, one: &Message, other: &Message) {
        for rule in other.stated.iter().filter(|rule| !rule.warns) {
            let number = |message: &Message, rule: &Stated| {
                rule.field.map(|index| message.fields.get(index as usize).map(|field| field.number))
            };
            let here = number(other, rule);
            let keeps = |own: &Stated| own.text == rule.text || mervik_rules::follows(&own.text, &rule.text);
            if one.stated.iter().any(|own| !own.warns && number(one, own) == here && keeps(own)) {
                continue;
            }
            let before = one.stated.iter().find(|own| own.id == rule.id && number(one, own) == here);
            let message = match before {
                Some(before) => format!(
                    "the rule `{}` {}",
                    rule.id,
                    self.was(&format!("`{}`", before.text), &format!("`{}`", rule.text))
                ),
                None => format!("the rule `{}` (`{}`) {}", rule.id, rule.text, self.said("is new", "is gone")),
            };
            let inner = before.map(|before| before.place);
            let claim = |members: Vec<(usize, String)>, certain: bool| Claim {
                pair,
                kind: Kind::Values,
                inner,
                outer: Some(rule.place),
                message: message.clone(),
                at: String::new(),
                members,
                outcome: Outcome::Refused,
                certain,
            };
            let mut tried = trials(one, rule, before);
            // The last one stands for all: nothing was found.
            let last = tried.pop().unwrap_or_default();
            let claims = tried.into_iter().map(|members| claim(members, false)).collect::<Vec<_>>();
            self.claims.extend(claims);
            self.claims.push(claim(last, true));
        }
    }
}

/// Values for the fields that a rule reads where it stands, each with the index of its field.
fn trials(message: &Message, rule: &Stated, before: Option<&Stated>) -> Vec<Vec<(usize, String)>> {
    let conditions = || [Some(&rule.that), rule.when.as_ref()].into_iter().flatten();
    let earlier = before.iter().flat_map(|own| [Some(&own.that), own.when.as_ref()]).flatten();
    let constants: Vec<(Of, String)> =
        conditions().chain(earlier).flat_map(|condition| condition.constants()).collect();
    let mut fields: Vec<(usize, Vec<String>)> = Vec::new();
    for asked in conditions().flat_map(|condition| condition.asked()) {
        let [name] = asked.steps.as_slice() else { continue };
        let Some((index, field)) = message.named(name).filter(|_| asked.above == Some(0)) else { continue };
        if fields.iter().all(|(known, _)| *known != index as usize) {
            fields.push((index as usize, values(field, asked.kind, &constants)));
        }
    }
    if let Some(index) = rule.field
        && let Some(field) = message.fields.get(index as usize)
        && fields.iter().all(|(known, _)| *known != index as usize)
    {
        fields.push((index as usize, values(field, Of::Text, &constants)));
    }
    let mut all: Vec<Vec<(usize, String)>> = vec![Vec::new()];
    for (index, values) in fields {
        let mut longer = Vec::new();
        for members in &all {
            for value in &values {
                longer.push(members.iter().cloned().chain([(index, value.clone())]).collect());
            }
        }
        longer.extend(all);
        longer.truncate(MAX_TRIED);
        all = longer;
    }
    all
}

/// Values of a field, as JSON, near what a rule names.
fn values(field: &Field, kind: Of, constants: &[(Of, String)]) -> Vec<String> {
    let kind = match field.ty {
        Type::Bool => Of::Truth,
        Type::String | Type::Enum(_) => kind,
        Type::Message(_) | Type::Bytes => kind,
        _ => Of::Number,
    };
    let plain = matches!(kind, Of::Number | Of::Truth);
    let as_seconds = kind == Of::Duration && matches!(field.ty, Type::Message(_));
    let all = mervik_rules::near(kind, constants).into_iter().filter_map(|text| match as_seconds {
        // As the JSON mapping has durations.
        true => Some(format!("\"{}s\"", text.strip_prefix("PT")?.strip_suffix('S')?)),
        false if plain => Some(text),
        false => Some(quoted(&text)),
    });
    let mut all: Vec<String> = all.collect();
    all.truncate(MAX_VALUES);
    if field.shape == Shape::Repeated {
        all = all
            .iter()
            .map(|value| format!("[{value}]"))
            .chain(all.iter().map(|value| format!("[{value}, {value}]")))
            .collect();
    }
    all
}
