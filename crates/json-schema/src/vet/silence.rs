//! Rules that a schema has silenced: `"x-mervik": { "silence": ["open-object"] }`, for a schema and all that is in it.

use super::{Raw, Remark, VetRule, Vetter, rules};
use crate::compile::directives::SILENCE;
use mervik_document::{Span, Value, near};

/// A rule that is not to be told of a part of the schema.
pub(super) struct Silence {
    id: String,
    span: Span,
}

impl Silence {
    /// Whether the remark is not to be told; `name` is the vetted file's.
    pub(super) fn covers(&self, remark: &Remark, name: &str) -> bool {
        let inside = self.span.start <= remark.span.start && remark.span.end <= self.span.end;
        *remark.source == *name && remark.rule.id == self.id && inside
    }
}

/// The items of every `silence`, with the schema that it is for.
fn items<'v>(vetter: &Vetter<'v>) -> Vec<(Value<'v>, Value<'v>)> {
    let subschemas = vetter.subschemas().into_iter();
    let lists = subschemas.filter_map(|sub| Some((sub.value, sub.value.get("x-mervik")?.get(SILENCE)?)));
    lists.flat_map(|(schema, list)| list.items().map(move |item| (schema, item))).collect()
}

pub(super) fn silenced(vetter: &Vetter<'_>) -> Vec<Silence> {
    let silence =
        |(schema, item): (Value<'_>, Value<'_>)| Some(Silence { id: item.as_str()?.to_owned(), span: schema.span() });
    items(vetter).into_iter().filter_map(silence).collect()
}

/// Identifiers that are none.
pub(super) fn unknown(vetter: &mut Vetter<'_>) {
    for (_, item) in items(vetter) {
        let Some(id) = item.as_str().filter(|id| VetRule::find(id).is_none()) else { continue };
        let message = format!("`{SILENCE}` names `{id}`, which is no rule of `vet`");
        let near = near::nearest(id, rules::RULES.iter().map(|rule| rule.id)).map(|near| format!("`{near}` is near"));
        let hint = near.unwrap_or_else(|| "`mervik explain` lists the rules".to_owned());
        vetter.say(Raw::new(&rules::KEYWORD_VALUE, item.id(), message).hint(hint));
    }
}
