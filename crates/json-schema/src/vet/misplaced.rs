//! Keywords that stand a level too deep: inside `properties`, or `required` at the property instead of the object.

use super::{Raw, Sub, Vetter, rules};
use crate::keyword;
use crate::schema::Kinds;
use mervik_document::edit::{self, Edit};
use mervik_document::{Kind, Member, Value};

impl Vetter<'_> {
    pub(super) fn misplaced(&mut self, sub: Sub<'_>) {
        let properties = sub.keyword("properties").filter(|properties| properties.kind() == Kind::Object);
        for member in properties.into_iter().flat_map(Value::members) {
            self.keyword_as_property(sub, member);
        }
        if let Some(required) = sub.member("required")
            && let Some(flag) = required.value.as_bool()
        {
            self.required_as_flag(required, flag);
        }
    }

    fn keyword_as_property(&mut self, sub: Sub<'_>, member: Member<'_>) {
        let name = member.name.text();
        let Some(keyword) = keyword::find(name, sub.language) else { return };
        let kind = member.value.kind();
        // Whoever has a property of such a name describes it by a schema. `false` is one, but rarely a description.
        let meant = match kind {
            Kind::Object => false,
            Kind::Bool => matches!(name, "additionalProperties" | "unevaluatedProperties"),
            _ => keyword.takes().meets(Kinds::of(kind)),
        };
        if !meant {
            return;
        }
        let message = format!("`{name}` stands inside `properties`, where it is the name of a property");
        let remark = Raw::new(&rules::MISPLACED_KEYWORD, member.name.id(), message);
        let remark = remark.hint(format!("as a keyword, `{name}` stands beside `properties`"));
        let free = sub.keyword(name).is_none();
        let edits = [
            edit::remove(self.document, member.name.id()),
            free.then(|| edit::add_member(self.document, sub.value, name, member.value.source())),
        ];
        self.say(remark.fix(format!("move `{name}` out of `properties`"), edits));
    }

    /// `required: true` at a property.
    fn required_as_flag(&mut self, required: Member<'_>, flag: bool) {
        let remark = Raw::new(
            &rules::MISPLACED_KEYWORD,
            required.name.id(),
            format!("`required` must be an array of names, found {flag}"),
        );
        let remark = remark.hint("the object that has the properties lists those that must be there");
        let Some(edits) = self.listed_at_the_object(required, flag) else { return self.say(remark) };
        let says = if flag { "name the property in `required` of the object" } else { "remove `required`" };
        self.say(remark.fix(says, edits.into_iter().map(Some)));
    }

    /// The edits that name a property in `required` of its object, when that is what the schema is about.
    fn listed_at_the_object(&self, required: Member<'_>, flag: bool) -> Option<Vec<Edit>> {
        let document = self.document;
        let parent =
            |value: Value<'_>| document.value(document.parent(document.name_of(value.id()).unwrap_or(value.id())));
        let mut edits = vec![edit::remove(document, required.name.id())?];
        if !flag {
            return Some(edits);
        }
        let property = parent(required.value);
        let name = document.text_of(document.name_of(property.id())?);
        let map = parent(property);
        if document.text_of(document.name_of(map.id())?) != "properties" {
            return None;
        }
        let object = parent(map);
        edits.push(match object.get("required") {
            Some(list) if list.kind() == Kind::Array => edit::add_item(document, list, &edit::quoted(name)),
            Some(_) => return None,
            None => edit::add_member(document, object, "required", &format!("[{}]", edit::quoted(name))),
        });
        Some(edits)
    }
}
