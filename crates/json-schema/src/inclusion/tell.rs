//! What changed, in words.

use super::blame::{Blame, Family, family};
use super::sample::Sample;
use super::says::Say;
use super::search::Search;
use super::terms::ClassId;
use super::words::TextRule;
use crate::compile::type_words;
use mervik_document::tongue::Tongue;
use mervik_document::{Decimal, shown};
use mervik_value_set::numbers::NumberTest;
use mervik_versions::{Kind, Role};
use rustc_hash::FxHashSet;

/// How many values a message lists.
const MAX_LISTED: usize = 6;

/// What kind of change it is, and what changed from the old version to the new one.
pub(super) fn tell(blame: &Blame, role: Role, search: &Search<'_>) -> (Kind, String) {
    let instead = blame.instead.as_ref().map(|(_, say)| say);
    let (old, new) = match role {
        Role::Old => (instead, Some(&blame.say)),
        Role::New => (Some(&blame.say), instead),
    };
    let kind = kind(&blame.say);
    let message = match (&blame.say, &blame.name) {
        (Say::Required(name), _) => match role {
            Role::Old => format!("`{name}` is required now"),
            Role::New => format!("`{name}` is no longer required"),
        },
        (Say::Rest { .. } | Say::UnevaluatedProperties(_), name) => {
            let listed = matches!(instead, Some(Say::Property(..)));
            match (role, name.as_ref().filter(|_| listed)) {
                (Role::Old, Some(name)) => format!("`{name}` is no property any more, and others are refused"),
                (Role::New, Some(name)) => {
                    format!("`{name}` is a new property; the old version refuses others than its own")
                }
                (Role::Old, None) => "properties that are not listed are refused now".to_owned(),
                (Role::New, None) => "properties that are not listed are no longer refused".to_owned(),
            }
        }
        (Say::DependentRequired(name, others), _) => {
            let others = others.iter().map(|other| format!("`{other}`")).collect::<Vec<_>>().join(", ");
            match role {
                Role::Old => format!("`{name}` asks for {others} now"),
                Role::New => format!("`{name}` no longer asks for {others}"),
            }
        }
        (Say::Among(_), _) => values(old, new),
        (Say::AnyOf(_) | Say::OneOf(_), _) => branches(old, new, search).unwrap_or_else(|| changed(old, new)),
        _ => changed(old, new),
    };
    (kind, message)
}

fn kind(say: &Say) -> Kind {
    match family(say) {
        Family::Type => Kind::Type,
        Family::Values => Kind::Values,
        Family::AtLeast | Family::AtMost | Family::Multiple => Kind::Range,
        Family::LeastLength | Family::MostLength => Kind::Length,
        Family::Pattern | Family::Format | Family::Names => Kind::Text,
        Family::Contains | Family::LeastItems | Family::MostItems | Family::LeastMembers | Family::MostMembers => {
            Kind::Count
        }
        Family::Unique => Kind::Identity,
        Family::Required => Kind::Required,
        Family::Rest | Family::Property => Kind::Unknown,
        Family::Items | Family::Union => Kind::Structure,
        Family::Dependent | Family::Not | Family::If | Family::Other => Kind::Condition,
    }
}

/// A saying as people write it: the keyword and its value.
fn spelled(say: &Say) -> (&'static str, Option<String>) {
    let number = |number: &Decimal| Some(number.to_string());
    let count = |count: u64| Some(count.to_string());
    match say {
        Say::Never => ("false", None),
        Say::Types(types) => ("type", Some(type_words(*types).join(" or "))),
        Say::Number(test) => match test {
            NumberTest::AtLeast(limit) => ("minimum", number(limit)),
            NumberTest::MoreThan(limit) => ("exclusiveMinimum", number(limit)),
            NumberTest::AtMost(limit) => ("maximum", number(limit)),
            NumberTest::LessThan(limit) => ("exclusiveMaximum", number(limit)),
            NumberTest::MultipleOf(limit) => ("multipleOf", number(limit)),
        },
        Say::AtLeastChars(limit) => ("minLength", count(*limit)),
        Say::AtMostChars(limit) => ("maxLength", count(*limit)),
        Say::Text(TextRule::Pattern(pattern)) => ("pattern", Some(format!("`{}`", shown::text(pattern)))),
        Say::Text(TextRule::Format(format)) => ("format", Some(format.words(Tongue::English))),
        Say::Item(..) => ("prefixItems", None),
        Say::ItemsFrom(..) => ("items", None),
        Say::Contains { least, most, .. } => {
            let most = most.map_or(String::new(), |most| format!(" and at most {most}"));
            ("contains", Some(format!("at least {least}{most}")))
        }
        Say::AtLeastItems(limit) => ("minItems", count(*limit)),
        Say::AtMostItems(limit) => ("maxItems", count(*limit)),
        Say::Unique => ("uniqueItems", None),
        Say::Property(..) => ("properties", None),
        Say::Named(pattern, _) => ("patternProperties", Some(format!("`{pattern}`"))),
        Say::Rest { .. } => ("additionalProperties", None),
        Say::Names(_) => ("propertyNames", None),
        Say::Required(name) => ("required", Some(format!("`{name}`"))),
        Say::AtLeastMembers(limit) => ("minProperties", count(*limit)),
        Say::AtMostMembers(limit) => ("maxProperties", count(*limit)),
        Say::DependentRequired(..) => ("dependentRequired", None),
        Say::Dependent(name, _) => ("dependentSchemas", Some(format!("`{name}`"))),
        Say::Among(_) => ("enum", None),
        Say::Same(_) => ("$ref", None),
        Say::AllOf(_) => ("allOf", None),
        Say::AnyOf(_) => ("anyOf", None),
        Say::OneOf(_) => ("oneOf", None),
        Say::Not(_) => ("not", None),
        Say::If(..) => ("if", None),
        Say::UnevaluatedItems(_) => ("unevaluatedItems", None),
        Say::UnevaluatedProperties(_) => ("unevaluatedProperties", None),
        Say::Opaque(_) => ("contentMediaType", None),
    }
}

/// What one keyword was and is.
fn changed(old: Option<&Say>, new: Option<&Say>) -> String {
    let words = |say: &Say| match spelled(say) {
        (keyword, Some(value)) => format!("`{keyword}` {value}"),
        (keyword, None) => format!("`{keyword}`"),
    };
    match (old, new) {
        (Some(old), Some(new)) => match (spelled(old), spelled(new)) {
            ((one, Some(before)), (other, Some(after))) if one == other => {
                format!("`{one}` was {before}, and is {after}")
            }
            ((one, None), (other, None)) if one == other => format!("`{one}` takes other values than before"),
            _ => format!("{} was there, and is {} now", words(old), words(new)),
        },
        (None, Some(new)) => match new {
            Say::Never => "nothing is accepted here any more".to_owned(),
            Say::Types(_) => format!("{} is asked for now; every type was allowed", words(new)),
            _ => format!("{} is new", words(new)),
        },
        (Some(old), None) => match old {
            Say::Never => "nothing was accepted here".to_owned(),
            Say::Types(_) => format!("{} is no longer asked for", words(old)),
            _ => format!("{} is gone", words(old)),
        },
        (None, None) => "it changed".to_owned(),
    }
}

/// How many branches were taken away, or added; `None` when some changed.
fn branches(old: Option<&Say>, new: Option<&Say>, search: &Search<'_>) -> Option<String> {
    let (old, new) = (old?, new?);
    let classes = |say: &Say| -> Vec<Option<ClassId>> {
        say.children().into_iter().map(|child| search.meanings.classes.class(child)).collect()
    };
    let (before, after) = (classes(old), classes(new));
    let only = |some: &[Option<ClassId>], others: &[Option<ClassId>]| {
        some.iter().filter(|class| !others.contains(class)).count() as u64
    };
    let (keyword, _) = spelled(new);
    match (only(&before, &after), only(&after, &before)) {
        (0, added @ 1..) => {
            Some(format!("`{keyword}` has {} more", shown::counted(added, "branch").replace("branchs", "branches")))
        }
        (lost @ 1.., 0) => {
            Some(format!("`{keyword}` has {} less", shown::counted(lost, "branch").replace("branchs", "branches")))
        }
        _ => None,
    }
}

/// Which values were taken away, or added.
fn values(old: Option<&Say>, new: Option<&Say>) -> String {
    let listed = |say: Option<&Say>| match say {
        Some(Say::Among(values)) => Some(values.clone()),
        _ => None,
    };
    // There may be tens of thousands of texts and numbers.
    let key = |value: &Sample| match value {
        Sample::Text(text) => Some((true, text.to_string())),
        Sample::Number(number, _) => Some((false, number.to_string())),
        _ => None,
    };
    let only = |some: &[Sample], others: &[Sample]| {
        let keys: FxHashSet<(bool, String)> = others.iter().filter_map(key).collect();
        let is_there = |value: &&Sample| key(value).map_or_else(|| others.contains(value), |key| keys.contains(&key));
        some.iter().filter(|value| !is_there(value)).map(|value| shown::text(&value.text())).collect::<Vec<_>>()
    };
    let told = |values: &[String]| {
        let rest = values.len().saturating_sub(MAX_LISTED);
        let mut words = values.iter().take(MAX_LISTED).cloned().collect::<Vec<_>>().join(", ");
        if rest > 0 {
            words.push_str(&format!(" and {}", shown::counted(rest as u64, "other")));
        }
        words
    };
    match (listed(old), listed(new)) {
        (Some(old), Some(new)) => {
            let (lost, added) = (only(&old, &new), only(&new, &old));
            match (lost.is_empty(), added.is_empty()) {
                (false, true) => format!("{} is no longer among the values", told(&lost)),
                (true, false) => format!("{} is a new value", told(&added)),
                _ => format!("{} is no longer among the values; {} is new", told(&lost), told(&added)),
            }
        }
        (None, Some(new)) => format!("only {} is allowed now", told(&only(&new, &[]))),
        (Some(old), None) => format!("more than {} is allowed now", told(&only(&old, &[]))),
        (None, None) => "the values changed".to_owned(),
    }
}
