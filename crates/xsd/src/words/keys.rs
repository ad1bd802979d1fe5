//! Identity constraints in words (Structures, 3.11.4).

use super::{Wrong, listed, wrong};
use crate::component::*;
use crate::phrases::Phrases as _;
use crate::schema::Schema;
use mervik_document::tongue::{Common as _, Join};

fn named(schema: &Schema, identity: &Identity) -> String {
    schema.tongue().key_called(identity.kind.word(), schema.components.names.local(identity.name))
}

fn field_text(identity: &Identity, field: usize) -> String {
    format!("`{}`", identity.field_texts.get(field).map_or("", |text| text))
}

pub(crate) fn field_twice(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let tongue = schema.tongue();
    let expected = tongue.one_field(field_text(identity, field), named(schema, identity));
    wrong(tongue, "cvc-identity-constraint.3", expected, tongue.several(), Some(identity.origin))
}

pub(crate) fn field_not_simple(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let tongue = schema.tongue();
    let expected = tongue.text_alone(field_text(identity, field), named(schema, identity));
    wrong(tongue, "cvc-identity-constraint.3", expected, tongue.elements(), Some(identity.origin))
}

pub(crate) fn field_nillable(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let tongue = schema.tongue();
    let expected = tongue.not_nillable(field_text(identity, field), named(schema, identity));
    wrong(tongue, "cvc-identity-constraint.4.2.3", expected, tongue.one_that_is(), Some(identity.origin))
}

pub(crate) fn field_missing(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let tongue = schema.tongue();
    let expected = tongue.field_for(field_text(identity, field), named(schema, identity));
    wrong(tongue, "cvc-identity-constraint.4.2.1", expected, tongue.none(), Some(identity.origin))
}

pub(crate) fn key_twice(schema: &Schema, identity: &Identity, shown: &str, first: Option<u64>) -> Wrong {
    let tongue = schema.tongue();
    let fields: Vec<String> = (0..identity.fields.len()).map(|field| field_text(identity, field)).collect();
    let rule = if identity.kind == IdentityKind::Key {
        "cvc-identity-constraint.4.2.2"
    } else {
        "cvc-identity-constraint.4.1"
    };
    let expected = tongue.nothing_else_has(listed(tongue, &fields, Join::And), named(schema, identity));
    let line = first.map(|line| tongue.line_has_first(line));
    wrong(tongue, rule, expected, tongue.again(shown), Some(identity.origin)).maybe(line)
}

pub(crate) fn key_missing(schema: &Schema, identity: &Identity, shown: &str) -> Wrong {
    let tongue = schema.tongue();
    let refer = identity.refer.and_then(|id| schema.components.identities.get(id.0 as usize));
    let target = refer.map_or(tongue.what_it_refers_to(), |refer| named(schema, refer));
    let expected = tongue.value_there_for(target, named(schema, identity));
    wrong(tongue, "cvc-identity-constraint.4.3", expected, shown, Some(identity.origin))
}
