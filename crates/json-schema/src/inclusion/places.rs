//! Where a saying stands in its schema.

use super::blame::Blame;
use super::says::{NodeNumber, Say, Says};
use crate::file::{Location, SchemaFile};
use mervik_document::{NodeId, Span, Value, shown};
use mervik_versions::Spot;

impl Says<'_> {
    /// The place of a saying, and what stands there.
    pub(super) fn spot(&self, number: NodeNumber, say: &Say) -> Option<Spot> {
        let (file, at) = self.place_of(number)?;
        let document = file.document();
        Some(spot_at(file, keyword(document.value(at.node), say).unwrap_or(at.node)))
    }

    /// The place of a schema that does not say what the other one says.
    pub(super) fn silent(&self, number: NodeNumber) -> Option<Spot> {
        let (file, at) = self.place_of(number)?;
        Some(Spot { place: file.place(at.node), width: 1, text: String::new() })
    }

    fn place_of(&self, number: NodeNumber) -> Option<(&SchemaFile, Location)> {
        let node = self.get(number)?;
        let schema = self.schema(node.side);
        let at = schema.node(node.id)?.at;
        Some((schema.file(at.file)?, at))
    }
}

impl Blame {
    /// The places of both sides, the inner one's first.
    pub(super) fn spots(&self, says: &Says<'_>) -> (Option<Spot>, Option<Spot>) {
        let inner = match &self.instead {
            Some((node, say)) => says.spot(*node, say),
            None => self.silent.and_then(|node| says.silent(node)),
        };
        (inner, says.spot(self.node, &self.say))
    }
}

/// The keyword that says it: its name, or the item of it that is meant.
/// A value of a schema's file, with its name if it has one.
pub(super) fn spot_at(file: &SchemaFile, node: NodeId) -> Spot {
    let document = file.document();
    let (name, value) = (document.span(node), document.value(node).span());
    let whole = Span { start: name.start, end: value.end.max(name.end) };
    let text = shown::value(document.value(node));
    Spot { place: file.place(node), width: file.seen(whole).width, text }
}

fn keyword(schema: Value<'_>, say: &Say) -> Option<NodeId> {
    let member = |name: &str| schema.members().find(|member| member.name.text() == name);
    let named = |names: &[&str]| names.iter().find_map(|name| Some(member(name)?.name.id()));
    let below = |keyword: &str, name: &str| {
        let entry = member(keyword)?.value.members().find(|member| member.name.text() == name)?;
        Some(entry.name.id())
    };
    use mervik_value_set::numbers::NumberTest;
    match say {
        Say::Never => named(&["readOnly", "writeOnly"]),
        Say::Types(_) => named(&["type"]),
        Say::Among(_) => named(&["enum", "const"]),
        Say::Number(test) => match test {
            NumberTest::AtLeast(_) => named(&["minimum"]),
            NumberTest::MoreThan(_) => named(&["exclusiveMinimum", "minimum"]),
            NumberTest::AtMost(_) => named(&["maximum"]),
            NumberTest::LessThan(_) => named(&["exclusiveMaximum", "maximum"]),
            NumberTest::MultipleOf(_) => named(&["multipleOf", "divisibleBy"]),
        },
        Say::AtLeastChars(_) => named(&["minLength"]),
        Say::AtMostChars(_) => named(&["maxLength"]),
        Say::Text(super::words::TextRule::Pattern(_)) => named(&["pattern"]),
        Say::Text(super::words::TextRule::Format(_)) => named(&["format"]),
        Say::Item(..) => named(&["prefixItems", "items"]),
        Say::ItemsFrom(..) => named(&["items", "additionalItems"]),
        Say::Contains { .. } => named(&["minContains", "maxContains", "contains"]),
        Say::AtLeastItems(_) => named(&["minItems"]),
        Say::AtMostItems(_) => named(&["maxItems"]),
        Say::Unique => named(&["uniqueItems"]),
        Say::Property(name, _) => below("properties", name),
        Say::Named(pattern, _) => below("patternProperties", pattern),
        Say::Rest { .. } => named(&["additionalProperties"]),
        Say::Names(_) => named(&["propertyNames"]),
        Say::Required(name) => {
            let required = member("required")?;
            let item = required.value.items().find(|item| item.as_str() == Some(name));
            Some(item.map_or(required.name.id(), Value::id))
        }
        Say::AtLeastMembers(_) => named(&["minProperties"]),
        Say::AtMostMembers(_) => named(&["maxProperties"]),
        Say::DependentRequired(name, _) => below("dependentRequired", name).or(below("dependencies", name)),
        Say::Dependent(name, _) => below("dependentSchemas", name).or(below("dependencies", name)),
        Say::Same(_) => named(&["$ref", "$dynamicRef", "$recursiveRef"]),
        Say::AllOf(_) => named(&["allOf"]),
        Say::AnyOf(_) => named(&["anyOf"]),
        Say::OneOf(_) => named(&["oneOf"]),
        Say::Not(_) => named(&["not"]),
        Say::If(..) => named(&["if"]),
        Say::UnevaluatedItems(_) => named(&["unevaluatedItems"]),
        Say::UnevaluatedProperties(_) => named(&["unevaluatedProperties"]),
        Say::Opaque(_) => named(&["contentEncoding", "contentMediaType"]),
    }
}
