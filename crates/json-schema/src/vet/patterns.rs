//! Patterns that match more than was meant, and patterns that may take long.

use super::{Raw, Sub, Vetter, rules};
use crate::pattern::{Anchors, Pattern, anchors};
use mervik_document::{Value, edit, shown};

impl Vetter<'_> {
    pub(super) fn patterns(&mut self, sub: Sub<'_>) {
        let Some(member) = sub.member("pattern").filter(|_| !sub.is_bare_reference()) else { return };
        let Some(source) = member.value.as_str() else { return };
        let Ok(pattern) = Pattern::new(source) else { return };
        if pattern.goes_back() {
            let message = "the pattern has look-around or a back-reference".to_owned();
            self.say(Raw::new(&rules::SLOW_PATTERN, member.value.id(), message));
            return;
        }
        let Some(anchors) = anchors(source) else { return };
        if anchors.start && anchors.end {
            return;
        }
        let Some(meant) = tied(source, anchors).and_then(|text| Some((Pattern::new(&text).ok()?, text))) else {
            return;
        };
        let samples: Vec<&str> = samples(sub).collect();
        let whole = !samples.is_empty() && samples.iter().all(|text| meant.0.matches(text) == Some(true));
        // `^` before one alternative only: hardly ever meant.
        let half = (!anchors.start && source.starts_with('^')) || (!anchors.end && ends_with_anchor(source));
        if !whole && !half {
            return;
        }
        let ends = match (anchors.start, anchors.end) {
            (true, false) => "goes on after its match",
            (false, true) => "begins before its match",
            _ => "has its match anywhere",
        };
        let message = format!("the pattern `{}` accepts a text that {ends}", shown::text(source));
        let hint = match half {
            true => "`^` and `$` belong to the nearest alternative alone; a group lets them count for all",
            false => "the examples match from start to end",
        };
        let replace = edit::replace(self.document, member.value.id(), edit::quoted(&meant.1));
        let remark = Raw::new(&rules::LOOSE_PATTERN, member.value.id(), message).hint(hint);
        self.say(remark.fix(format!("write `{}`", shown::text(&meant.1)), [Some(replace)]));
    }
}

/// The pattern with both ends tied; `None` when there is nothing to tie.
fn tied(source: &str, anchors: Anchors) -> Option<String> {
    let alternatives = source.contains('|');
    let inner = match alternatives {
        false => source,
        true => {
            let inner = source.strip_prefix('^').unwrap_or(source);
            inner.strip_suffix('$').filter(|_| ends_with_anchor(inner)).unwrap_or(inner)
        }
    };
    match (alternatives, anchors.start, anchors.end) {
        (_, true, true) => None,
        (true, ..) => Some(format!("^(?:{inner})$")),
        (false, start, end) => Some(format!("{}{inner}{}", if start { "" } else { "^" }, if end { "" } else { "$" })),
    }
}

/// Whether a pattern ends with a `$` that is not escaped.
fn ends_with_anchor(source: &str) -> bool {
    source.strip_suffix('$').is_some_and(|rest| (rest.len() - rest.trim_end_matches('\\').len()).is_multiple_of(2))
}

/// The texts that a schema gives as its own.
fn samples<'v>(sub: Sub<'v>) -> impl Iterator<Item = &'v str> {
    let lists = ["examples", "enum"].into_iter().filter_map(move |name| sub.keyword(name)).flat_map(Value::items);
    let single = ["default", "const"].into_iter().filter_map(move |name| sub.keyword(name));
    lists.chain(single).filter_map(Value::as_str)
}
