//! What is wrong, in words: the standard's rule, the need, what was met, and a way out.

use crate::build::Components;
use crate::check::Wrong;
use crate::component::*;
use crate::content::{Expected, Model, State};
use crate::datatype::{Facet, Miss, Scope, SimpleWords, What, WhiteSpace, normalized};
use crate::names::{NameId, XSD};
use crate::schema::Schema;
use mervik_document::{near, shown};
use mervik_xml::{Attribute, Element as Tag, Namespaces};

/// How many names a message lists.
const LISTED: usize = 6;

fn wrong(rule: &'static str, expected: impl Into<String>, found: impl Into<String>, origin: Option<Origin>) -> Wrong {
    let (expected, found) = (expected.into(), found.into());
    let message = format!("expected {expected}, found {found}");
    Wrong { rule, expected, found, message, hint: None, origin }
}

impl Wrong {
    fn hint(mut self, hint: impl Into<String>) -> Wrong {
        self.hint = Some(hint.into());
        self
    }

    fn maybe(mut self, hint: Option<String>) -> Wrong {
        self.hint = self.hint.or(hint);
        self
    }
}

/// A name by its text: `{namespace}local`, or `local` for the only global element that is called so.
pub(crate) fn find_name(schema: &Schema, text: &str) -> Option<NameId> {
    let names = &schema.components.names;
    if let Some((uri, local)) = text.strip_prefix('{').and_then(|rest| rest.split_once('}')) {
        return names.find(names.namespace(uri)?, local);
    }
    let mut called =
        schema.components.elements.iter().filter(|element| element.global && names.local(element.name) == text);
    let first = called.next()?;
    called.next().is_none().then_some(first.name)
}

/// What tells names apart when children are counted.
#[inline]
pub(crate) fn count_key(known: Option<NameId>, name: &str) -> u64 {
    let hash = |hash: u64, byte: u8| (hash ^ u64::from(byte)).wrapping_mul(0x0100_0000_01b3);
    known.map_or_else(|| name.bytes().fold(0xcbf2_9ce4_8422_2325, hash) | 1 << 63, |known| u64::from(known.0))
}

/// A name as the document would write it.
fn tag_of(schema: &Schema, name: NameId, scope: &Namespaces) -> String {
    let names = &schema.components.names;
    let uri = names.uri(names.namespace_of(name));
    match scope.prefix_of(uri) {
        Some("") | None => format!("`<{}>`", names.local(name)),
        Some(prefix) => format!("`<{prefix}:{}>`", names.local(name)),
    }
}

fn namespace_words(uri: &str) -> String {
    if uri.is_empty() { "no namespace".to_owned() } else { format!("the namespace `{}`", shown::text(uri)) }
}

/// One, two or some of a list.
fn listed(all: &[String], last: &str) -> String {
    match all {
        [] => String::new(),
        [one] => one.clone(),
        [head @ .., end] if all.len() <= LISTED => format!("{} {last} {end}", head.join(", ")),
        _ => format!("{} {last} {} more", all.get(..LISTED - 1).unwrap_or_default().join(", "), all.len() - LISTED + 1),
    }
}

/// A root that the schema does not declare.
pub(crate) fn no_root(schema: &Schema, tag: &Tag<'_>, wanted: Option<&str>) -> Wrong {
    let mut roots: Vec<&Element> =
        schema.components.elements.iter().filter(|element| element.global && !element.is_abstract).collect();
    if let Some(wanted) = wanted {
        let name = find_name(schema, wanted);
        roots.retain(|element| Some(element.name) == name);
    }
    let names = &schema.components.names;
    let near = near::nearest(tag.local, roots.iter().map(|element| names.local(element.name)));
    let same = roots.iter().find(|element| names.local(element.name) == tag.local);
    let mut all: Vec<String> = roots.iter().map(|element| format!("`<{}>`", names.local(element.name))).collect();
    if let Some(near) = near {
        all.sort_by_key(|name| *name != format!("`<{near}>`"));
    }
    let expected = match (all.is_empty(), wanted) {
        (true, Some(wanted)) => format!("the root `{wanted}`, which the schema does not declare"),
        (true, None) => "a root, of which the schema declares none".to_owned(),
        _ => format!("{} as the root", listed(&all, "or")),
    };
    let hint = match (same, near) {
        (Some(same), _) => Some(other_namespace(names.uri(names.namespace_of(same.name)), tag)),
        (None, Some(near)) => Some(format!("`{near}` is near")),
        _ => None,
    };
    let origin = same.and_then(|element| element.origin);
    wrong("cvc-elt.1", expected, format!("`<{}>`", tag.name), origin).maybe(hint)
}

/// Why an element of the right name is not the right one.
fn other_namespace(uri: &str, tag: &Tag<'_>) -> String {
    let way = match (uri.is_empty(), tag.scope.prefix_of(uri)) {
        (true, _) => "a default namespace is in the way: `xmlns=\"\"` takes it off".to_owned(),
        (false, Some(prefix)) if !prefix.is_empty() => format!("`<{prefix}:{}>` says so", tag.local),
        (false, _) => format!("`xmlns=\"{uri}\"` says so"),
    };
    format!(
        "`{}` is declared in {}, and is here in {}; {way}",
        tag.local,
        namespace_words(uri),
        namespace_words(tag.namespace)
    )
}

/// What is known of an element that cannot come where it does.
pub(crate) struct Met<'m> {
    pub(crate) ty: Option<TypeId>,
    pub(crate) expected: &'m [Expected],
    /// Whether the content could end here.
    pub(crate) complete: bool,
    /// Whether the model knows the name in another place.
    pub(crate) known: bool,
    /// What it was taken for.
    pub(crate) meant: Option<NameId>,
    /// What is missing before it.
    pub(crate) missing: Option<&'m [NameId]>,
    pub(crate) model: &'m Model,
}

fn wildcard_words(schema: &Schema, wildcard: &Wildcard) -> String {
    let names = &schema.components.names;
    match &wildcard.namespaces {
        Allowed::Any => "any element".to_owned(),
        Allowed::Not(not) => match names.uri(*not) {
            "" => "an element of a namespace".to_owned(),
            uri => format!("an element of a namespace other than `{uri}`"),
        },
        Allowed::These(these) => {
            let these: Vec<String> = these.iter().map(|namespace| namespace_words(names.uri(*namespace))).collect();
            format!("an element of {}", listed(&these, "or"))
        }
    }
}

/// Whether something may stand in a document: what is abstract may not.
fn is_concrete(schema: &Schema, model: &Model, one: &Expected) -> bool {
    let Expected::Element(name) = one else { return true };
    let declared = model.declaration(*name).and_then(|id| schema.components.element(id));
    declared.is_none_or(|element| !element.is_abstract)
}

/// What could come, in words; near names first.
fn expected_words(
    schema: &Schema,
    expected: &[Expected],
    model: &Model,
    scope: Option<&Namespaces>,
    near: Option<&str>,
) -> Vec<String> {
    let names = &schema.components.names;
    let mut sorted: Vec<&Expected> = expected.iter().filter(|one| is_concrete(schema, model, one)).collect();
    let distance = |one: &&Expected| match (one, near) {
        (Expected::Element(name), Some(near)) => names.local(*name) != near,
        _ => true,
    };
    sorted.sort_by_key(distance);
    let word = |one: &Expected| match one {
        Expected::Element(name) => match scope {
            Some(scope) => tag_of(schema, *name, scope),
            None => format!("`<{}>`", names.local(*name)),
        },
        Expected::Any(index) => {
            model.wildcard(*index).map_or(String::new(), |wildcard| wildcard_words(schema, wildcard))
        }
    };
    sorted.into_iter().map(word).collect()
}

/// An element that cannot come here (cvc-complex-type.2.4).
pub(crate) fn unexpected(schema: &Schema, tag: &Tag<'_>, met: &Met<'_>) -> Wrong {
    let names = &schema.components.names;
    let locals: Vec<&str> = met
        .expected
        .iter()
        .filter_map(|one| match one {
            Expected::Element(name) => Some(names.local(*name)),
            Expected::Any(_) => None,
        })
        .collect();
    let near = near::nearest(tag.local, locals.iter().copied()).filter(|_| !met.known);
    let mut all = expected_words(schema, met.expected, met.model, Some(tag.scope), near);
    if met.complete {
        all.push("the end of the element".to_owned());
    }
    let found = format!("`<{}>`", tag.name);
    let expected = match met.missing {
        Some(missing) => {
            let missing: Vec<String> = missing.iter().map(|name| tag_of(schema, *name, tag.scope)).collect();
            format!("{} before {found}", listed(&missing, "and"))
        }
        None if all.is_empty() => "no more elements".to_owned(),
        None => format!("{} here", listed(&all, "or")),
    };
    // The declaration of what should have come says more than the model around it.
    let wanted = met.missing.and_then(|missing| missing.first().copied()).or(met.meant).or_else(|| {
        let mut names = met.expected.iter().filter_map(|one| match one {
            Expected::Element(name) => Some(*name),
            Expected::Any(_) => None,
        });
        names.next().filter(|_| names.next().is_none())
    });
    let declared = wanted.and_then(|name| met.model.declaration(name)).and_then(|id| schema.components.element(id));
    let around = met.ty.and_then(|ty| schema.components.complex(ty));
    let origin = declared.and_then(|element| element.origin).or_else(|| {
        around.and_then(|complex| complex.content.particle().and_then(|particle| particle.origin).or(complex.origin))
    });
    let same = met.meant.filter(|name| names.local(*name) == tag.local);
    let hint = if let Some(same) = same {
        Some(other_namespace(names.uri(names.namespace_of(same)), tag))
    } else if let Some(near) = near {
        Some(format!("`{near}` is near"))
    } else if met.missing.is_some() && all.len() > 1 {
        Some(format!("{} could come here", listed(&all, "or")))
    } else if met.known && met.missing.is_none() {
        Some(match met.expected.is_empty() && met.complete {
            true => format!("`{}` has its place earlier, or not so often", tag.local),
            false => format!("`{}` has its place elsewhere in this element", tag.local),
        })
    } else {
        None
    };
    let rule = match met.missing {
        Some(_) => "cvc-complex-type.2.4.a",
        None if met.expected.is_empty() => "cvc-complex-type.2.4.d",
        None => "cvc-complex-type.2.4.a",
    };
    wrong(rule, expected, if met.missing.is_some() { "none".to_owned() } else { found }, origin).maybe(hint)
}

/// Content that ends too early (cvc-complex-type.2.4.b).
pub(crate) fn incomplete(
    schema: &Schema,
    element: Option<ElementId>,
    model: &Model,
    state: &State,
    name: &str,
) -> Wrong {
    let expected = model.expected(state);
    let all = expected_words(schema, &expected, model, None, None);
    // What could have come next is the rule that a person looks for.
    let next = expected.iter().find_map(|one| match one {
        Expected::Element(name) => schema.components.element(model.declaration(*name)?)?.origin,
        Expected::Any(_) => None,
    });
    let around = element.and_then(|id| schema.components.element(id)).and_then(|element| {
        schema.components.complex(element.ty).and_then(|complex| complex.content.particle()?.origin).or(element.origin)
    });
    let origin = next.or(around);
    let need = if all.is_empty() { "something that can never come".to_owned() } else { listed(&all, "or") };
    wrong("cvc-complex-type.2.4.b", format!("{need} before the end of `{name}`"), format!("`</{name}>`"), origin)
        .hint("the content ends too early")
}

/// An element in a place that takes text only, or nothing.
pub(crate) fn no_children(schema: &Schema, ty: TypeId, element: Option<ElementId>, tag: &Tag<'_>) -> Wrong {
    let found = format!("`<{}>`", tag.name);
    let origin = element.and_then(|id| schema.components.element(id)).and_then(|element| element.origin);
    match (schema.components.ty(ty), schema.check_of(ty).and_then(|check| check.text)) {
        (Some(Type::Simple(_)), _) => {
            wrong("cvc-type.3.1.2", format!("{} and no elements", described(schema, ty)), found, origin)
        }
        (_, Some(text)) => {
            wrong("cvc-complex-type.2.2", format!("{} and no elements", described(schema, text)), found, origin)
        }
        _ => wrong("cvc-complex-type.2.1", "no content at all", found, origin),
    }
}

pub(crate) fn text_between(schema: &Schema, ty: TypeId, text: &str) -> Wrong {
    let origin = schema.components.complex(ty).and_then(|complex| complex.origin);
    wrong("cvc-complex-type.2.3", "elements only, and no text between them", quoted(text), origin)
}

pub(crate) fn must_be_empty(schema: &Schema, ty: TypeId, text: &str) -> Wrong {
    let origin = schema.components.complex(ty).and_then(|complex| complex.origin);
    let found = if text.trim().is_empty() { "white space".to_owned() } else { quoted(text) };
    wrong("cvc-complex-type.2.1", "no content at all", found, origin)
}

fn quoted(text: &str) -> String {
    match text.trim() {
        "" if text.is_empty() => "nothing".to_owned(),
        "" => "white space".to_owned(),
        text => format!("`{}`", shown::text(text)),
    }
}

pub(crate) fn undeclared(schema: &Schema, tag: &Tag<'_>, origin: Option<Origin>) -> Wrong {
    let names = &schema.components.names;
    let globals = schema.components.elements.iter().filter(|element| element.global);
    let near = near::nearest(tag.local, globals.map(|element| names.local(element.name)));
    let expected = format!("an element that the schema declares in {}", namespace_words(tag.namespace));
    wrong("cvc-complex-type.2.4.c", expected, format!("`<{}>`", tag.name), origin)
        .maybe(near.map(|near| format!("`{near}` is near")))
}

pub(crate) fn no_type(schema: &Schema, tag: &Tag<'_>, text: &str) -> Wrong {
    let names = &schema.components.names;
    let (prefix, local) = text.split_once(':').unwrap_or(("", text));
    let all = schema.components.globals.keys().filter(|(kind, _)| *kind == crate::build::Kind::Type);
    let mut all: Vec<&str> = all.map(|(_, name)| names.local(*name)).collect();
    all.sort_unstable();
    let hint = match tag.scope.resolve(prefix) {
        None => Some(format!("the prefix `{prefix}` is not declared")),
        Some((_, uri)) if all.contains(&local) => Some(format!("`{local}` is not a type of {}", namespace_words(uri))),
        _ => near::nearest(local, all).map(|near| format!("`{near}` is near")),
    };
    wrong("cvc-elt.4.2", "the name of a type of the schema", format!("`{}`", shown::text(text)), None).maybe(hint)
}

pub(crate) fn not_derived(schema: &Schema, named: TypeId, element: &Element) -> Wrong {
    let components = &schema.components;
    let base = components.type_name(element.ty);
    let found = format!("`{}`", components.type_name(named));
    let blocked = components.derived_ok(named, element.ty, Methods::NONE);
    let expected = format!("a type derived from `{base}`");
    let mut like: Vec<String> = (0..components.types.len() as u32)
        .map(TypeId)
        .filter(|id| *id != element.ty && element.ty != ANY_TYPE && components.derivation(*id, element.ty).is_some())
        .map(|id| components.type_name(id))
        .filter(|name| !name.starts_with("an "))
        .map(|name| format!("`{name}`"))
        .collect();
    like.sort();
    let hint = match (blocked, like.is_empty()) {
        (true, _) => Some(format!("`{}` blocks the way in which it is derived", components.names.local(element.name))),
        (false, false) => Some(format!("there is {}", listed(&like, "and"))),
        (false, true) => None,
    };
    wrong("cvc-elt.4.3", expected, found, element.origin).maybe(hint)
}

pub(crate) fn abstract_element(schema: &Schema, element: &Element) -> Wrong {
    let names = &schema.components.names;
    let members: Vec<String> = element
        .members
        .iter()
        .filter_map(|id| schema.components.element(*id))
        .filter(|element| !element.is_abstract)
        .map(|element| format!("`<{}>`", names.local(element.name)))
        .collect();
    let local = names.local(element.name);
    let expected = match members.is_empty() {
        true => format!("an element in the place of `{local}`, which is abstract"),
        false => format!("{} in the place of `{local}`, which is abstract", listed(&members, "or")),
    };
    wrong("cvc-elt.2", expected, format!("`<{local}>`"), element.origin)
}

pub(crate) fn abstract_type(schema: &Schema, ty: TypeId) -> Wrong {
    let components = &schema.components;
    let mut derived: Vec<String> = (0..components.types.len() as u32)
        .map(TypeId)
        .filter(|id| *id != ty && components.derivation(*id, ty).is_some())
        .filter(|id| components.complex(*id).is_some_and(|complex| !complex.is_abstract && complex.name.is_some()))
        .map(|id| format!("`{}`", components.type_name(id)))
        .collect();
    derived.sort();
    let name = components.type_name(ty);
    let expected = match derived.is_empty() {
        true => format!("a type derived from `{name}`, which is abstract"),
        false => format!("`xsi:type` to name {}, for `{name}` is abstract", listed(&derived, "or")),
    };
    let origin = components.complex(ty).and_then(|complex| complex.origin);
    wrong("cvc-type.2", expected, "none", origin)
}

pub(crate) fn nil_value(text: &str) -> Wrong {
    wrong("cvc-datatype-valid.1.2.1", "`true` or `false`", format!("`{}`", shown::text(text)), None)
}

pub(crate) fn nil_content(found: String) -> Wrong {
    wrong("cvc-elt.3.2.1", "no content, for `xsi:nil` is `true`", found, None)
}

pub(crate) fn not_nillable(schema: &Schema, element: &Element) -> Wrong {
    let local = schema.components.names.local(element.name);
    wrong("cvc-elt.3.1", format!("no `xsi:nil` on `{local}`, which is not nillable"), "`xsi:nil`", element.origin)
}

pub(crate) fn nil_fixed(schema: &Schema, element: &Element) -> Wrong {
    let local = schema.components.names.local(element.name);
    wrong("cvc-elt.3.2.2", format!("a value of `{local}`, which is fixed"), "`xsi:nil`", element.origin)
}

pub(crate) fn not_fixed(schema: &Schema, element: &Element, fixed: &ValueConstraint, text: &str) -> Wrong {
    let local = schema.components.names.local(element.name);
    let expected = format!("`{}`, to which `{local}` is fixed", shown::text(&fixed.text));
    wrong("cvc-elt.5.2.2.2", expected, quoted(text), Some(fixed.origin))
}

pub(crate) fn fixed_children(schema: &Schema, element: &Element, fixed: &ValueConstraint) -> Wrong {
    let local = schema.components.names.local(element.name);
    let expected = format!("`{}` and no elements, for `{local}` is fixed", shown::text(&fixed.text));
    wrong("cvc-elt.5.2.2.1", expected, "elements", Some(fixed.origin))
}

pub(crate) fn id_twice(value: &str) -> Wrong {
    wrong("cvc-id.2", "an identifier that nothing else has", format!("`{}` again", shown::text(value)), None)
}

pub(crate) fn id_missing(value: &str) -> Wrong {
    wrong("cvc-id.1", "a reference to an identifier of the document", format!("`{}`", shown::text(value)), None)
}

pub(crate) fn no_entity(value: &str) -> Wrong {
    wrong(
        "cvc-entity-valid",
        "the name of an unparsed entity of the document",
        format!("`{}`", shown::text(value)),
        None,
    )
}

pub(crate) fn stray_attribute(schema: &Schema, ty: TypeId, attribute: &Attribute<'_>, tag: &Tag<'_>) -> Wrong {
    let names = &schema.components.names;
    let complex = schema.components.complex(ty);
    let uses = complex.map_or(&[][..], |complex| &complex.attributes);
    let free = uses.iter().filter(|one| {
        tag.attributes().all(|attribute| names.find(attribute.number, attribute.local) != Some(one.name))
    });
    let free: Vec<&AttributeUse> = free.collect();
    let near = near::nearest(attribute.local, free.iter().map(|one| names.local(one.name)));
    let mut all: Vec<String> = free.iter().map(|one| format!("`{}`", names.local(one.name))).collect();
    if let Some(near) = near {
        all.sort_by_key(|name| *name != format!("`{near}`"));
    }
    let (rule, expected) = match (complex, all.is_empty()) {
        (None, _) => ("cvc-type.3.1.1", "no attributes here".to_owned()),
        (Some(complex), none) => {
            let rule = match complex.any_attribute {
                None => "cvc-complex-type.3.2.1",
                Some(_) => "cvc-complex-type.3.2.2",
            };
            let expected =
                if none { "no more attributes here".to_owned() } else { format!("{} here", listed(&all, "or")) };
            (rule, expected)
        }
    };
    let same = uses.iter().any(|one| names.local(one.name) == attribute.local);
    let hint = match (same, near) {
        (true, _) if !attribute.prefix.is_empty() => Some(format!("`{}` has no prefix there", attribute.local)),
        (_, Some(near)) => Some(format!("`{near}` is near")),
        _ => None,
    };
    let origin = complex.and_then(|complex| complex.origin);
    wrong(rule, expected, format!("`{}`", attribute.name), origin).maybe(hint)
}

pub(crate) fn missing_attribute(schema: &Schema, ty: TypeId, one: &AttributeUse, tag: &Tag<'_>) -> Wrong {
    let names = &schema.components.names;
    let local = names.local(one.name);
    let near = near::nearest(
        local,
        tag.attributes().map(|attribute| attribute.local).filter(|met| {
            let uses = schema.components.complex(ty).map_or(&[][..], |complex| &complex.attributes);
            uses.iter().all(|one| names.local(one.name) != *met)
        }),
    );
    let hint = near.map(|near| format!("`{near}` may be meant for it"));
    wrong("cvc-complex-type.4", format!("the attribute `{local}` on `{}`", tag.name), "none", one.origin).maybe(hint)
}

pub(crate) fn attribute_not_fixed(attribute: &Attribute<'_>, fixed: &ValueConstraint) -> Wrong {
    let expected = format!("`{}`, to which `{}` is fixed", shown::text(&fixed.text), attribute.name);
    wrong("cvc-attribute.4", expected, quoted(attribute.value), Some(fixed.origin))
}

pub(crate) fn undeclared_attribute(schema: &Schema, attribute: &Attribute<'_>, origin: Option<Origin>) -> Wrong {
    let _ = schema;
    wrong("cvc-complex-type.3.2.2", "an attribute that the schema declares", format!("`{}`", attribute.name), origin)
}

pub(crate) fn second_id(attribute: &Attribute<'_>) -> Wrong {
    wrong("cvc-complex-type.5.1", "one attribute of type `xs:ID`", format!("`{}` too", attribute.name), None)
}

fn named(schema: &Schema, identity: &Identity) -> String {
    format!("the {} `{}`", identity.kind.word(), schema.components.names.local(identity.name))
}

fn field_text(identity: &Identity, field: usize) -> String {
    format!("`{}`", identity.field_texts.get(field).map_or("", |text| text))
}

pub(crate) fn field_twice(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let expected = format!("one {} for {}", field_text(identity, field), named(schema, identity));
    wrong("cvc-identity-constraint.3", expected, "several", Some(identity.origin))
}

pub(crate) fn field_not_simple(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let expected = format!("text alone in {} for {}", field_text(identity, field), named(schema, identity));
    wrong("cvc-identity-constraint.3", expected, "elements", Some(identity.origin))
}

pub(crate) fn field_nillable(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let expected =
        format!("a field that is not nillable, {}, for {}", field_text(identity, field), named(schema, identity));
    wrong("cvc-identity-constraint.4.2.3", expected, "one that is", Some(identity.origin))
}

pub(crate) fn field_missing(schema: &Schema, identity: &Identity, field: usize) -> Wrong {
    let expected = format!("{} for {}", field_text(identity, field), named(schema, identity));
    wrong("cvc-identity-constraint.4.2.1", expected, "none", Some(identity.origin))
}

pub(crate) fn key_twice(schema: &Schema, identity: &Identity, shown: &str, first: Option<u64>) -> Wrong {
    let fields: Vec<String> = (0..identity.fields.len()).map(|field| field_text(identity, field)).collect();
    let rule = if identity.kind == IdentityKind::Key {
        "cvc-identity-constraint.4.2.2"
    } else {
        "cvc-identity-constraint.4.1"
    };
    let expected = format!("{} that nothing else has, for {}", listed(&fields, "and"), named(schema, identity));
    let line = first.map(|line| format!("line {line} has it first"));
    wrong(rule, expected, format!("{shown} again"), Some(identity.origin)).maybe(line)
}

pub(crate) fn key_missing(schema: &Schema, identity: &Identity, shown: &str) -> Wrong {
    let refer = identity.refer.and_then(|id| schema.components.identities.get(id.0 as usize));
    let target = refer.map_or("what it refers to".to_owned(), |refer| named(schema, refer));
    let expected = format!("a value that is there for {target}, as {} asks", named(schema, identity));
    wrong("cvc-identity-constraint.4.3", expected, shown, Some(identity.origin))
}

/// A type as people say it: what its values look like.
pub(crate) fn described(schema: &Schema, ty: TypeId) -> String {
    describe(&schema.components, ty)
}

fn describe(components: &Components, ty: TypeId) -> String {
    let Some(simple) = components.simple(ty) else { return "text".to_owned() };
    let built_in = |id: TypeId| {
        let name = components.simple(id)?.name?;
        let local = components.names.local(name);
        (components.names.uri(components.names.namespace_of(name)) == XSD).then_some(local)
    };
    if let Some(local) = built_in(ty) {
        return match crate::datatype::example(local) {
            Some(example) => format!("{} (`xs:{local}`), such as `{example}`", kind_words(local)),
            None => format!("{} (`xs:{local}`)", kind_words(local)),
        };
    }
    let own = simple.name.map(|name| format!(" (`{}`)", components.names.local(name))).unwrap_or_default();
    if simple.facets.enumeration.is_some() {
        let words = SimpleWords { facets: Some(&simple.facets), list: false };
        return format!("{}{own}", words.facet(Facet::Enumeration, "").0);
    }
    match &simple.variety {
        Variety::List(item) => format!("a list of items, each {}{own}", describe(components, *item)),
        Variety::Union(members) if members.len() <= LISTED => {
            let members: Vec<String> = members.iter().map(|member| describe(components, *member)).collect();
            match simple.name {
                Some(_) if members.len() > 3 => format!("a value{own}"),
                _ => listed(&members, "or"),
            }
        }
        Variety::Union(_) => format!("a value{own}"),
        _ => {
            let bases =
                std::iter::successors(Some(ty), |id| Some(components.base(*id)).filter(|base| *base != ANY_TYPE));
            let kind = bases.take(100).find_map(built_in).map_or("text", kind_words);
            format!("{kind}{own}")
        }
    }
}

fn kind_words(local: &str) -> &'static str {
    match local {
        "boolean" => "true or false",
        "decimal" => "a decimal number",
        "float" | "double" => "a number",
        "duration" => "a span of time",
        "dateTime" => "a date and a time",
        "time" => "a time of day",
        "date" => "a date",
        "gYearMonth" => "a month of a year",
        "gYear" => "a year",
        "gMonthDay" => "a day of the year",
        "gDay" => "a day of the month",
        "gMonth" => "a month",
        "hexBinary" => "bytes in hexadecimal digits",
        "base64Binary" => "bytes in base 64",
        "anyURI" => "a reference to a resource",
        "QName" | "NOTATION" => "a name with a declared prefix",
        "language" => "the tag of a language",
        "Name" | "NCName" | "ID" | "IDREF" | "ENTITY" => "a name",
        "NMTOKEN" => "a token of name characters",
        "NMTOKENS" | "IDREFS" | "ENTITIES" => "a list of names",
        "integer" | "long" | "int" | "short" | "byte" => "a whole number",
        "nonNegativeInteger" | "unsignedLong" | "unsignedInt" | "unsignedShort" | "unsignedByte" => {
            "a whole number from 0"
        }
        "positiveInteger" => "a whole number from 1",
        "nonPositiveInteger" => "a whole number up to 0",
        "negativeInteger" => "a whole number below 0",
        _ => "text",
    }
}

/// A text that is no value of its type.
pub(crate) fn missed(schema: &Schema, miss: &Miss, text: &str, _ty: Option<TypeId>, scope: &dyn Scope) -> Wrong {
    let components = &schema.components;
    let simple = components.simple(miss.ty);
    let white_space = simple.map_or(WhiteSpace::Collapse, |simple| simple.white_space);
    let normal = normalized(text, white_space);
    let item = miss.item.and_then(|at| normal.split_whitespace().nth(at as usize));
    let value = item.unwrap_or(&normal);
    let found = match value {
        "" => "nothing".to_owned(),
        value => format!("`{}`", shown::text(value)),
    };
    let of_item = miss.item.map(|at| format!("it is item {} of the list", at + 1));
    let origin = simple.and_then(|simple| simple.origin);
    match miss.what {
        What::Form => {
            let rule = if miss.item.is_some() { "cvc-datatype-valid.1.2.2" } else { "cvc-datatype-valid.1.2.1" };
            let hint = form_hint(components, miss.ty, value).or(of_item);
            wrong(rule, describe(components, miss.ty), found, origin).maybe(hint)
        }
        What::Prefix => {
            let prefix = value.split(':').next().unwrap_or("");
            wrong("cvc-datatype-valid.1.2.1", "a name whose prefix is declared", found, origin)
                .hint(format!("`xmlns:{prefix}=\"…\"` declares it"))
        }
        What::Union => {
            let near = near_member(components, simple, value, scope);
            wrong("cvc-datatype-valid.1.2.3", describe(components, miss.ty), found, origin).maybe(near).maybe(of_item)
        }
        What::Facet(facet) => {
            let facets = simple.map(|simple| &simple.facets);
            let origin = facets.and_then(|facets| facets.origin(facet)).or(origin);
            let words =
                SimpleWords { facets, list: simple.is_some_and(|simple| matches!(simple.variety, Variety::List(_))) };
            let (expected, hint) = words.facet(facet, value);
            let found = match (facet, value) {
                (Facet::Length | Facet::MinLength | Facet::MaxLength, value) if !value.is_empty() => {
                    format!("{found}, {}", words.count(value))
                }
                _ => found,
            };
            wrong(facet.rule(), expected, found, origin).maybe(hint).maybe(of_item)
        }
    }
}

/// The member of a union whose form a text has, and what it asks besides.
fn near_member(components: &Components, simple: Option<&SimpleType>, value: &str, scope: &dyn Scope) -> Option<String> {
    let Variety::Union(members) = &simple?.variety else { return None };
    members.iter().find_map(|member| {
        let miss = components.reader().read(*member, value, scope).err()?;
        let What::Facet(facet) = miss.what else { return None };
        let of_member = components.simple(miss.ty)?;
        if facet == Facet::Enumeration {
            return None;
        }
        let words =
            SimpleWords { facets: Some(&of_member.facets), list: matches!(of_member.variety, Variety::List(_)) };
        let name = components.type_name(*member);
        Some(format!(
            "{} takes {}",
            if name.starts_with("an ") { name } else { format!("`{name}`") },
            words.facet(facet, value).0
        ))
    })
}

/// Why a text does not have a form, where that can be told.
fn form_hint(components: &Components, ty: TypeId, value: &str) -> Option<String> {
    let simple = components.simple(ty)?;
    let Variety::Atomic(primitive) = simple.variety else { return None };
    crate::datatype::form_hint(primitive, value)
}

/// Why a text is no value, in a few words.
pub(crate) fn short_miss(components: &Components, miss: &Miss) -> String {
    match miss.what {
        What::Form | What::Union => format!("expected {}", describe(components, miss.ty)),
        What::Prefix => "its prefix is not declared".to_owned(),
        What::Facet(facet) => format!("the `{facet}` of `{}` does not allow it", components.type_name(miss.ty)),
    }
}
