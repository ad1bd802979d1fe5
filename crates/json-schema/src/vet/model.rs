//! The profile `model-output`: what services that fill in a schema with a language model usually demand.

use super::conjunction::Conjunction;
use super::{Fix, Raw, Sub, Vetter, rules};
use crate::file::{FileId, Location};
use crate::keyword;
use crate::schema::SchemaId;
use mervik_document::edit::{self, Edit};
use mervik_document::{Kind, Member, NodeId, Value};
use std::collections::HashMap;

/// The keywords that services know.
const SUPPORTED: &[&str] = &[
    "$schema",
    "$id",
    "$ref",
    "$defs",
    "definitions",
    "$comment",
    "title",
    "description",
    "type",
    "properties",
    "required",
    "additionalProperties",
    "items",
    "anyOf",
    "enum",
    "const",
    "pattern",
    "format",
    "multipleOf",
    "minimum",
    "exclusiveMinimum",
    "maximum",
    "exclusiveMaximum",
    "minItems",
    "maxItems",
    "x-mervik",
];

/// The keywords that hold schemas which stay part of what a service is given.
const FOLLOWED: &[&str] = &["properties", "$defs", "definitions", "items", "anyOf", "oneOf", "allOf"];

impl<'v> Vetter<'v> {
    pub(super) fn model_output(&mut self) {
        self.root_is_object();
        let nodes = self.schema().nodes.iter().zip(0..);
        let ids: HashMap<Location, u32> = nodes.map(|(node, id)| (node.at, id)).collect();
        for sub in self.followed(&ids) {
            for member in sub.value.members() {
                self.unsupported(sub, member);
            }
            let properties = sub.keyword("properties").filter(|properties| properties.kind() == Kind::Object);
            let is_object = sub.keyword("type").is_some_and(|types| {
                types.as_str() == Some("object") || types.items().any(|one| one.as_str() == Some("object"))
            });
            if properties.is_some() || is_object {
                self.closed(sub, properties);
            }
            for property in properties.into_iter().flat_map(Value::members) {
                self.property(&ids, sub, property);
            }
        }
    }

    /// The schemas that stay when all that is not supported is gone.
    fn followed(&self, ids: &HashMap<Location, u32>) -> Vec<Sub<'v>> {
        let mut found = Vec::new();
        let mut open = vec![NodeId::ROOT];
        while let Some(at) = open.pop() {
            let Some(id) = ids.get(&Location { file: FileId(0), node: at }).map(|id| SchemaId(*id)) else { continue };
            let Some(node) = self.schema().node(id) else { continue };
            let sub = self.sub(id, node);
            for value in FOLLOWED.iter().filter_map(|name| sub.keyword(name)) {
                match (self.document.name_of(value.id()).map(|name| self.document.text_of(name)), value.kind()) {
                    (Some("items"), Kind::Object | Kind::Bool) => open.push(value.id()),
                    (_, Kind::Array) => open.extend(value.items().map(Value::id)),
                    _ => open.extend(value.members().map(|member| member.value.id())),
                }
            }
            found.push(sub);
        }
        found
    }

    fn root_is_object(&mut self) {
        let root = self.document.root();
        let union = root.members().find(|member| matches!(member.name.text(), "anyOf" | "oneOf" | "allOf" | "$ref"));
        let object = root.get("type").is_some_and(|types| types.as_str() == Some("object"));
        let (node, message) = match union {
            Some(union) => {
                (union.name.id(), format!("the root has `{}`, where services want a plain object", union.name.text()))
            }
            None if !object => (root.id(), "the root is no object".to_owned()),
            None => return,
        };
        let remark = Raw::new(&rules::MODEL_ROOT, node, message);
        self.say(remark.hint("an object with one property can hold whatever it is"));
    }

    fn unsupported(&mut self, sub: Sub<'_>, member: Member<'_>) {
        let (name, document) = (member.name.text(), self.document);
        let unknown = keyword::find(name, sub.language).is_none();
        if unknown || SUPPORTED.contains(&name) {
            return;
        }
        let remark = Raw::new(&rules::MODEL_KEYWORD, member.name.id(), format!("`{name}` is not supported"));
        let remark = match name {
            "oneOf" if sub.keyword("anyOf").is_none() => {
                let rename = edit::replace(document, member.name.id(), edit::quoted("anyOf"));
                remark.fix("write `anyOf`", [Some(rename)])
            }
            "allOf" => match lone_reference(sub, member.value) {
                Some(reference) => {
                    let member = [
                        edit::replace(document, member.name.id(), edit::quoted("$ref")),
                        edit::replace(document, member.value.id(), reference.source()),
                    ];
                    remark.fix("write `$ref`", member.map(Some))
                }
                None => remark.hint("one schema that says it all takes the place of several that must all hold"),
            },
            _ => remark.fix(format!("remove `{name}`"), [edit::remove_from(document, sub.value, member.name.id())]),
        };
        self.say(remark);
    }

    fn closed(&mut self, sub: Sub<'_>, properties: Option<Value<'_>>) {
        let rest = sub.member("additionalProperties");
        if rest.is_some_and(|rest| rest.value.as_bool() == Some(false)) {
            return;
        }
        let node = rest.or(sub.member("properties")).or(sub.member("type")).map_or(sub.value.id(), |one| one.name.id());
        let remark =
            Raw::new(&rules::MODEL_OPEN_OBJECT, node, "the object allows properties that it does not describe");
        if properties.is_none() {
            return self
                .say(remark.hint("a map has no names to fill in; a list of objects with a name and a value has"));
        }
        let edit = match rest {
            Some(rest) => edit::replace(self.document, rest.value.id(), "false"),
            None => edit::add_member(self.document, sub.value, "additionalProperties", "false"),
        };
        self.say(remark.fix("write `additionalProperties: false`", [Some(edit)]));
    }

    fn property(&mut self, ids: &HashMap<Location, u32>, sub: Sub<'_>, property: Member<'_>) {
        let name = property.name.text();
        let required = sub.keyword("required");
        if !required.into_iter().flat_map(Value::items).any(|item| item.as_str() == Some(name)) {
            let message = format!("`{name}` is optional");
            let remark = Raw::new(&rules::MODEL_OPTIONAL_PROPERTY, property.name.id(), message);
            let mut edits = nullable(self, property.value);
            edits.push(match required {
                Some(list) => edit::add_item(self.document, list, &edit::quoted(name)),
                None => edit::add_member(self.document, sub.value, "required", &format!("[{}]", edit::quoted(name))),
            });
            let fix = Fix { says: "require it, and allow null".to_owned(), edits };
            self.say(Raw { fix: Some(fix), ..remark });
        }
        if !self.is_described(ids, property.value) {
            let message = format!("`{name}` has no `description`");
            self.say(Raw::new(&rules::MODEL_NO_DESCRIPTION, property.name.id(), message));
        }
    }

    /// Whether a schema, or one that it refers to, has a description.
    fn is_described(&self, ids: &HashMap<Location, u32>, value: Value<'_>) -> bool {
        if value.get("description").is_some() {
            return true;
        }
        let Some(id) = ids.get(&Location { file: FileId(0), node: value.id() }) else { return true };
        let all = Conjunction::of(self.schema(), SchemaId(*id));
        all.parts.iter().any(|part| {
            let node = self.schema().node(part.id);
            let file = node.and_then(|node| Some((node, self.schema().file(node.at.file)?)));
            file.is_some_and(|(node, file)| file.document().value(node.at.node).get("description").is_some())
        })
    }
}

/// The reference in an `allOf` that holds nothing else, when there is room for it.
fn lone_reference<'v>(sub: Sub<'_>, all: Value<'v>) -> Option<Value<'v>> {
    let mut items = all.items();
    let (one, None) = (items.next()?, items.next()) else { return None };
    let mut members = one.members();
    let (member, None) = (members.next()?, members.next()) else { return None };
    (member.name.text() == "$ref" && sub.keyword("$ref").is_none()).then_some(member.value)
}

/// Whether a value of `type` names null.
fn may_be_null(types: Value<'_>) -> bool {
    types.as_str() == Some("null") || types.items().any(|one| one.as_str() == Some("null"))
}

/// The branches of a schema that is a union.
fn union(schema: Value<'_>) -> Option<Value<'_>> {
    let union = schema.get("anyOf").or(schema.get("oneOf"))?;
    (union.kind() == Kind::Array && schema.get("const").is_none() && schema.get("enum").is_none()).then_some(union)
}

/// The edits that let a schema accept null.
fn nullable(vetter: &Vetter<'_>, schema: Value<'_>) -> Vec<Edit> {
    let document = vetter.document;
    let types = schema.get("type");
    let listed = schema.get("enum");
    let plain = schema.get("const").is_none() && schema.get("$ref").is_none() && schema.get("anyOf").is_none();
    let mut edits = Vec::new();
    match types {
        Some(types) if plain && may_be_null(types) => {}
        Some(types) if plain && types.kind() == Kind::String => {
            edits.push(edit::replace(document, types.id(), format!("[{}, \"null\"]", types.source())));
        }
        Some(types) if plain && types.kind() == Kind::Array => edits.push(edit::add_item(document, types, "\"null\"")),
        None if plain && listed.is_some() => {}
        None if schema.get("$ref").is_none() && union(schema).is_some() => {
            edits.extend(union(schema).map(|union| edit::add_item(document, union, "{ \"type\": \"null\" }")));
        }
        // Whatever else it is, it stays as it is, beside null.
        _ if schema.kind() == Kind::Object => {
            let description = schema.get("description").map(|text| format!("\"description\": {}, ", text.source()));
            let whole = format!(
                "{{ {}\"anyOf\": [{}, {{ \"type\": \"null\" }}] }}",
                description.unwrap_or_default(),
                schema.source()
            );
            return vec![edit::replace(document, schema.id(), whole)];
        }
        _ => {}
    }
    if let Some(listed) =
        listed.filter(|listed| listed.kind() == Kind::Array && !listed.items().any(|one| one.kind() == Kind::Null))
    {
        edits.push(edit::add_item(document, listed, "null"));
    }
    edits
}
