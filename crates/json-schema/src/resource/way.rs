//! Where a JSON Pointer that leads nowhere breaks off.

use mervik_document::{Kind, Value, near, pointer};

/// Where the way that `tokens` describe breaks off.
pub(super) fn missing_step(root: Value<'_>, tokens: &[String]) -> (String, Option<String>) {
    let mut value = root;
    let mut way = String::new();
    for (depth, token) in tokens.iter().enumerate() {
        let here = if way.is_empty() { "the schema's root".to_owned() } else { format!("`{way}`") };
        let Some(next) = pointer::follow(value, tokens.get(depth..=depth).unwrap_or_default()) else {
            return match value.kind() {
                Kind::Object => {
                    let names: Vec<&str> = value.members().map(|member| member.name.text()).collect();
                    let hint = near::nearest(token, names).map(|name| format!("`{name}` is there"));
                    (format!("{here} has no `{token}`"), hint)
                }
                Kind::Array => (format!("{here} has no item `{token}`"), None),
                kind => (format!("{here} is a {}", kind.word()), None),
            };
        };
        pointer::push_token(&mut way, token);
        value = next;
    }
    (format!("`{way}` is there"), None)
}
