//! Messages that nobody will ever read.

use super::{Raw, Sub, Vetter, rules};
use crate::labels::keywords;
use mervik_document::edit;
use mervik_document::near;

impl Vetter<'_> {
    /// Messages for keywords that a schema, and what it refers to, do not have. That a property may be required is said around it.
    pub(super) fn idle_messages(&mut self, sub: Sub<'_>) {
        let schema = self.schema();
        let Some(label) = schema.labels.of(sub.id) else { return };
        let mut known = keywords(schema, &schema.labels.applied(schema, vec![sub.id]));
        known.extend(["required".to_owned(), "dependentRequired".to_owned()]);
        let idle: Vec<String> = label.idle(&known).map(str::to_owned).collect();
        let messages = sub.value.get("x-mervik").and_then(|directives| directives.get("messages"));
        for name in idle {
            let Some(member) = messages.and_then(|all| all.members().find(|member| member.name.text() == name)) else {
                continue;
            };
            let message = format!("the message for `{name}` is never said: there is no such keyword here");
            let near = near::nearest(&name, known.iter().map(String::as_str)).map(|near| format!("`{near}` is near"));
            let raw = Raw::new(&rules::IDLE_MESSAGE, member.name.id(), message);
            let raw = match near {
                Some(near) => raw.hint(near),
                None => raw,
            };
            self.say(raw.fix("remove it", [edit::remove(self.document, member.name.id())]));
        }
    }
}
