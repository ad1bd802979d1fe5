//! Objects: names that are required and not described, and whether others are allowed.

use super::{Raw, Sub, Vetter, rules};
use crate::pattern::Pattern;
use mervik_document::{Kind, Value, edit, near};

impl Vetter<'_> {
    pub(super) fn objects(&mut self, sub: Sub<'_>) {
        let properties = sub.keyword("properties").filter(|properties| properties.kind() == Kind::Object);
        let Some(properties) = properties.filter(|_| !sub.is_bare_reference()) else { return };
        self.required_names(sub, properties);
        let closing = ["additionalProperties", "unevaluatedProperties", "patternProperties", "propertyNames"];
        let says = closing.iter().any(|name| sub.keyword(name).is_some());
        // Whether a part of a combined schema is open, the whole has to say.
        let combined = ["allOf", "anyOf", "oneOf", "$ref", "if"].iter().any(|name| sub.keyword(name).is_some());
        if !says && !combined && sub.keyword("type").is_some() {
            let keyword = self.document.name_of(properties.id()).unwrap_or(properties.id());
            let message = "the object does not say whether properties other than these are allowed";
            self.say(Raw::new(&rules::OPEN_OBJECT, keyword, message));
        }
    }

    fn required_names(&mut self, sub: Sub<'_>, properties: Value<'_>) {
        let described: Vec<&str> = properties.members().map(|member| member.name.text()).collect();
        let patterns: Vec<Pattern> = sub
            .keyword("patternProperties")
            .into_iter()
            .flat_map(Value::members)
            .filter_map(|member| Pattern::new(member.name.text()).ok())
            .collect();
        let required = sub.keyword("required");
        let names = || required.into_iter().flat_map(Value::items).filter_map(|item| Some((item.id(), item.as_str()?)));
        for (node, name) in names() {
            let known = described.contains(&name) || patterns.iter().any(|pattern| pattern.matches(name) == Some(true));
            if known {
                continue;
            }
            // A property that is required itself is hardly the one that was meant.
            let free = described.iter().copied().filter(|other| !names().any(|(_, name)| name == *other));
            if let Some(near) = near::nearest(name, free) {
                let message = format!("`{name}` is required, and not described by `properties`");
                let remark = Raw::new(&rules::MISSPELLED_REQUIRED, node, message).hint(format!("`{near}` is near"));
                let replace = edit::replace(self.document, node, edit::quoted(near));
                self.say(remark.fix(format!("require `{near}`"), [Some(replace)]));
            } else if sub.keyword("additionalProperties").is_none_or(|rest| rest.as_bool() == Some(true)) {
                let message = format!("`{name}` is required, and may be anything: `properties` does not describe it");
                self.say(Raw::new(&rules::UNDESCRIBED_REQUIRED, node, message));
            }
        }
    }
}
