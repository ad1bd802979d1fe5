//! What a schema says about its own identity.

use super::RECURSIVE;
use crate::dialect::Language;
use crate::keyword::{self, Holds};
use mervik_document::{Kind, NodeId, Value};

/// What a subschema says about its own identity, and where its subschemas are.
#[derive(Default)]
pub(super) struct Identity {
    pub(super) id: Option<(NodeId, String)>,
    pub(super) anchors: Vec<Anchor>,
    pub(super) subschemas: Vec<NodeId>,
}

/// A name that a schema has.
pub(super) struct Anchor {
    /// The value of the keyword.
    pub(super) node: NodeId,
    pub(super) name: String,
    /// Whether a `$dynamicRef` may be led to it.
    pub(super) dynamic: bool,
}

impl Identity {
    pub(super) fn of(schema: Value<'_>, language: Language) -> Identity {
        let mut identity = Identity::default();
        let alone = language.ref_stands_alone() && schema.get("$ref").is_some_and(|value| value.as_str().is_some());
        for member in schema.members() {
            let (name, value) = (member.name.text(), member.value);
            let Some(keyword) = keyword::find(name, language) else { continue };
            let anchor =
                |dynamic| value.as_str().map(|text| Anchor { node: value.id(), name: text.to_owned(), dynamic });
            match name {
                "$id" | "id" if !alone => identity.id = value.as_str().map(|text| (value.id(), text.to_owned())),
                "$anchor" => identity.anchors.extend(anchor(false)),
                "$dynamicAnchor" => identity.anchors.extend(anchor(true)),
                "$recursiveAnchor" if value.as_bool() == Some(true) => {
                    identity.anchors.push(Anchor { node: value.id(), name: RECURSIVE.to_owned(), dynamic: true });
                }
                _ => match keyword.holds {
                    Holds::Schema => identity.subschemas.push(value.id()),
                    Holds::List => identity.subschemas.extend(value.items().map(Value::id)),
                    Holds::SchemaOrList if value.kind() == Kind::Array => {
                        identity.subschemas.extend(value.items().map(Value::id));
                    }
                    Holds::SchemaOrList => identity.subschemas.push(value.id()),
                    Holds::Map => identity.subschemas.extend(value.members().map(|member| member.value.id())),
                    Holds::Nothing => {}
                },
            }
        }
        identity
    }
}
