//! What is wrong, in words: the standard's rule, the need, what was met, and a way out.

mod keys;
mod values;

use crate::check::Wrong;
use crate::component::*;
use crate::content::{Expected, Model, State};
use crate::names::NameId;
use crate::phrases::Phrases as _;
use crate::schema::Schema;
pub(crate) use keys::{field_missing, field_nillable, field_not_simple, field_twice, key_missing, key_twice};
use mervik_document::tongue::{Common as _, Join, Tongue};
use mervik_document::{Severity, near, shown};
use mervik_xml::{Attribute, Element as Tag, Namespaces};
use values::described;
pub(crate) use values::{missed, short_miss};

/// How many names a message lists.
const LISTED: usize = 6;

fn wrong(
    tongue: Tongue,
    rule: &'static str,
    expected: impl Into<String>,
    found: impl Into<String>,
    origin: Option<Origin>,
) -> Wrong {
    let (expected, found) = (expected.into(), found.into());
    let message = tongue.expected_found(&expected, &found);
    Wrong { rule, expected, found, message, hint: None, origin, severity: Severity::Error }
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

fn namespace_words(tongue: Tongue, uri: &str) -> String {
    if uri.is_empty() { tongue.no_namespace() } else { tongue.namespace(shown::text(uri)) }
}

/// One, two or some of a list.
fn listed(tongue: Tongue, all: &[String], join: Join) -> String {
    match all.len() {
        0 => String::new(),
        count if count <= LISTED => tongue.some(all.to_vec(), join, LISTED),
        _ => tongue.some(all.to_vec(), join, LISTED - 1),
    }
}

/// A root that the schema does not declare.
pub(crate) fn no_root(schema: &Schema, tag: &Tag<'_>, wanted: Option<&str>) -> Wrong {
    let tongue = schema.tongue();
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
        (true, Some(wanted)) => tongue.root_not_declared(wanted),
        (true, None) => tongue.no_root(),
        _ => tongue.as_root(listed(tongue, &all, Join::Or)),
    };
    let hint = match (same, near) {
        (Some(same), _) => Some(other_namespace(tongue, names.uri(names.namespace_of(same.name)), tag)),
        (None, Some(near)) => Some(tongue.is_near(format!("`{near}`"))),
        _ => None,
    };
    let origin = same.and_then(|element| element.origin);
    wrong(tongue, "cvc-elt.1", expected, format!("`<{}>`", tag.name), origin).maybe(hint)
}

/// Why an element of the right name is not the right one.
fn other_namespace(tongue: Tongue, uri: &str, tag: &Tag<'_>) -> String {
    let way = match (uri.is_empty(), tag.scope.prefix_of(uri)) {
        (true, _) => tongue.default_in_the_way(),
        (false, Some(prefix)) if !prefix.is_empty() => tongue.says_so(format!("<{prefix}:{}>", tag.local)),
        (false, _) => tongue.says_so(format!("xmlns=\"{uri}\"")),
    };
    let (there, here) = (namespace_words(tongue, uri), namespace_words(tongue, tag.namespace));
    tongue.declared_elsewhere(tag.local, there, here, way)
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
    let tongue = schema.tongue();
    let names = &schema.components.names;
    match &wildcard.namespaces {
        Allowed::Any => tongue.any_element(),
        Allowed::Not(not) => match names.uri(*not) {
            "" => tongue.element_of_a_namespace(),
            uri => tongue.element_not_of(uri),
        },
        Allowed::These(these) => {
            let these: Vec<String> =
                these.iter().map(|namespace| namespace_words(tongue, names.uri(*namespace))).collect();
            tongue.element_of(listed(tongue, &these, Join::Or))
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
    let tongue = schema.tongue();
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
        all.push(tongue.end_of_element());
    }
    let found = format!("`<{}>`", tag.name);
    let expected = match met.missing {
        Some(missing) => {
            let missing: Vec<String> = missing.iter().map(|name| tag_of(schema, *name, tag.scope)).collect();
            tongue.before(listed(tongue, &missing, Join::And), &found)
        }
        None if all.is_empty() => tongue.no_more_elements(),
        None => tongue.here(listed(tongue, &all, Join::Or)),
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
        Some(other_namespace(tongue, names.uri(names.namespace_of(same)), tag))
    } else if let Some(near) = near {
        Some(tongue.is_near(format!("`{near}`")))
    } else if met.missing.is_some() && all.len() > 1 {
        Some(tongue.could_come(listed(tongue, &all, Join::Or)))
    } else if met.known && met.missing.is_none() {
        Some(match met.expected.is_empty() && met.complete {
            true => tongue.place_earlier(tag.local),
            false => tongue.place_elsewhere(tag.local),
        })
    } else {
        None
    };
    let rule = match met.missing {
        Some(_) => "cvc-complex-type.2.4.a",
        None if met.expected.is_empty() => "cvc-complex-type.2.4.d",
        None => "cvc-complex-type.2.4.a",
    };
    wrong(tongue, rule, expected, if met.missing.is_some() { tongue.none() } else { found }, origin).maybe(hint)
}

/// Content that ends too early (cvc-complex-type.2.4.b).
pub(crate) fn incomplete(
    schema: &Schema,
    element: Option<ElementId>,
    model: &Model,
    state: &State,
    name: &str,
) -> Wrong {
    let tongue = schema.tongue();
    let expected = model.expected(state);
    let all = expected_words(schema, &expected, model, None, None);
    // What had to come next is the rule that a person looks for, or what could have come.
    let next = needed(schema, model, state, &expected).into_iter().chain(expected.iter()).find_map(|one| match one {
        Expected::Element(name) => schema.components.element(model.declaration(*name)?)?.origin,
        Expected::Any(_) => None,
    });
    let around = element.and_then(|id| schema.components.element(id)).and_then(|element| {
        schema.components.complex(element.ty).and_then(|complex| complex.content.particle()?.origin).or(element.origin)
    });
    let origin = next.or(around);
    let need = if all.is_empty() { tongue.never_comes() } else { listed(tongue, &all, Join::Or) };
    wrong(tongue, "cvc-complex-type.2.4.b", tongue.before_end(need, name), format!("`</{name}>`"), origin)
        .hint(tongue.ends_too_early())
}

/// What has to come of all that could come next: it could still come after each of the others.
fn needed<'e>(schema: &Schema, model: &Model, state: &State, expected: &'e [Expected]) -> Option<&'e Expected> {
    const TRIED: usize = 40;
    let after = |one: &Expected| match one {
        Expected::Element(name) => {
            let mut state = state.clone();
            model.step(&mut state, Some(*name), Some(schema.components.names.namespace_of(*name)))?;
            Some(model.expected(&state))
        }
        Expected::Any(_) => None,
    };
    let after: Vec<Option<Vec<Expected>>> = expected.iter().take(TRIED).map(after).collect();
    expected.iter().take(TRIED).enumerate().find_map(|(index, one)| {
        let mut others = after.iter().enumerate().filter(|(other, _)| *other != index);
        others.all(|(_, after)| after.as_ref().is_some_and(|after| after.contains(one))).then_some(one)
    })
}

/// An element in a place that takes text only, or nothing.
pub(crate) fn no_children(schema: &Schema, ty: TypeId, element: Option<ElementId>, tag: &Tag<'_>) -> Wrong {
    let tongue = schema.tongue();
    let found = format!("`<{}>`", tag.name);
    let origin = element.and_then(|id| schema.components.element(id)).and_then(|element| element.origin);
    match (schema.components.ty(ty), schema.check_of(ty).and_then(|check| check.text)) {
        (Some(Type::Simple(_)), _) => {
            wrong(tongue, "cvc-type.3.1.2", tongue.and_no_elements(described(schema, ty)), found, origin)
        }
        (_, Some(text)) => {
            wrong(tongue, "cvc-complex-type.2.2", tongue.and_no_elements(described(schema, text)), found, origin)
        }
        _ => wrong(tongue, "cvc-complex-type.2.1", tongue.no_content(), found, origin),
    }
}

pub(crate) fn text_between(schema: &Schema, ty: TypeId, text: &str) -> Wrong {
    let tongue = schema.tongue();
    let origin = schema.components.complex(ty).and_then(|complex| complex.origin);
    wrong(tongue, "cvc-complex-type.2.3", tongue.elements_only(), quoted(tongue, text), origin)
}

pub(crate) fn must_be_empty(schema: &Schema, ty: TypeId, text: &str) -> Wrong {
    let tongue = schema.tongue();
    let origin = schema.components.complex(ty).and_then(|complex| complex.origin);
    let found = if text.trim().is_empty() { tongue.white_space() } else { quoted(tongue, text) };
    wrong(tongue, "cvc-complex-type.2.1", tongue.no_content(), found, origin)
}

fn quoted(tongue: Tongue, text: &str) -> String {
    match text.trim() {
        "" if text.is_empty() => tongue.nothing(),
        "" => tongue.white_space(),
        text => format!("`{}`", shown::text(text)),
    }
}

pub(crate) fn undeclared(schema: &Schema, tag: &Tag<'_>, origin: Option<Origin>) -> Wrong {
    let tongue = schema.tongue();
    let names = &schema.components.names;
    let globals = schema.components.elements.iter().filter(|element| element.global);
    let near = near::nearest(tag.local, globals.map(|element| names.local(element.name)));
    let expected = tongue.element_declared_in(namespace_words(tongue, tag.namespace));
    wrong(tongue, "cvc-complex-type.2.4.c", expected, format!("`<{}>`", tag.name), origin)
        .maybe(near.map(|near| tongue.is_near(format!("`{near}`"))))
}

pub(crate) fn no_type(schema: &Schema, tag: &Tag<'_>, text: &str) -> Wrong {
    let tongue = schema.tongue();
    let names = &schema.components.names;
    let (prefix, local) = text.split_once(':').unwrap_or(("", text));
    let all = schema.components.globals.keys().filter(|(kind, _)| *kind == crate::build::Kind::Type);
    let mut all: Vec<&str> = all.map(|(_, name)| names.local(*name)).collect();
    all.sort_unstable();
    let hint = match tag.scope.resolve(prefix) {
        None => Some(tongue.prefix_not_declared(prefix)),
        Some((_, uri)) if all.contains(&local) => Some(tongue.no_type_of(local, namespace_words(tongue, uri))),
        _ => near::nearest(local, all).map(|near| tongue.is_near(format!("`{near}`"))),
    };
    wrong(tongue, "cvc-elt.4.2", tongue.name_of_type(), format!("`{}`", shown::text(text)), None).maybe(hint)
}

pub(crate) fn not_derived(schema: &Schema, named: TypeId, element: &Element) -> Wrong {
    let tongue = schema.tongue();
    let components = &schema.components;
    let base = components.type_name(element.ty);
    let found = format!("`{}`", components.type_name(named));
    let blocked = components.derived_ok(named, element.ty, Methods::NONE);
    let expected = tongue.derived_from(base);
    let mut like: Vec<String> = (0..components.types.len() as u32)
        .map(TypeId)
        .filter(|id| *id != element.ty && element.ty != ANY_TYPE && components.derivation(*id, element.ty).is_some())
        .map(|id| components.type_name(id))
        .filter(|name| !name.starts_with("an "))
        .map(|name| format!("`{name}`"))
        .collect();
    like.sort();
    let hint = match (blocked, like.is_empty()) {
        (true, _) => Some(tongue.blocks(components.names.local(element.name))),
        (false, false) => Some(tongue.there_is(listed(tongue, &like, Join::And))),
        (false, true) => None,
    };
    wrong(tongue, "cvc-elt.4.3", expected, found, element.origin).maybe(hint)
}

pub(crate) fn abstract_element(schema: &Schema, element: &Element) -> Wrong {
    let tongue = schema.tongue();
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
        true => tongue.in_place_of(tongue.an_element(), local),
        false => tongue.in_place_of(listed(tongue, &members, Join::Or), local),
    };
    wrong(tongue, "cvc-elt.2", expected, format!("`<{local}>`"), element.origin)
}

pub(crate) fn abstract_type(schema: &Schema, ty: TypeId) -> Wrong {
    let tongue = schema.tongue();
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
        true => tongue.derived_from_abstract(name),
        false => tongue.name_by_type(listed(tongue, &derived, Join::Or), name),
    };
    let origin = components.complex(ty).and_then(|complex| complex.origin);
    wrong(tongue, "cvc-type.2", expected, tongue.none(), origin)
}

pub(crate) fn nil_value(tongue: Tongue, text: &str) -> Wrong {
    wrong(tongue, "cvc-datatype-valid.1.2.1", tongue.either_truth(), format!("`{}`", shown::text(text)), None)
}

pub(crate) fn nil_content(tongue: Tongue, found: String) -> Wrong {
    wrong(tongue, "cvc-elt.3.2.1", tongue.nil_has_none(), found, None)
}

pub(crate) fn not_nillable(schema: &Schema, element: &Element) -> Wrong {
    let tongue = schema.tongue();
    let local = schema.components.names.local(element.name);
    wrong(tongue, "cvc-elt.3.1", tongue.no_nil_on(local), "`xsi:nil`", element.origin)
}

pub(crate) fn nil_fixed(schema: &Schema, element: &Element) -> Wrong {
    let tongue = schema.tongue();
    let local = schema.components.names.local(element.name);
    wrong(tongue, "cvc-elt.3.2.2", tongue.fixed_value(local), "`xsi:nil`", element.origin)
}

pub(crate) fn not_fixed(schema: &Schema, element: &Element, fixed: &ValueConstraint, text: &str) -> Wrong {
    let tongue = schema.tongue();
    let local = schema.components.names.local(element.name);
    let expected = tongue.fixed_to(shown::text(&fixed.text), local);
    wrong(tongue, "cvc-elt.5.2.2.2", expected, quoted(tongue, text), Some(fixed.origin))
}

pub(crate) fn fixed_children(schema: &Schema, element: &Element, fixed: &ValueConstraint) -> Wrong {
    let tongue = schema.tongue();
    let local = schema.components.names.local(element.name);
    let expected = tongue.fixed_no_elements(shown::text(&fixed.text), local);
    wrong(tongue, "cvc-elt.5.2.2.1", expected, tongue.elements(), Some(fixed.origin))
}

pub(crate) fn id_twice(tongue: Tongue, value: &str) -> Wrong {
    wrong(tongue, "cvc-id.2", tongue.unique_identifier(), tongue.again(format!("`{}`", shown::text(value))), None)
}

pub(crate) fn id_missing(tongue: Tongue, value: &str) -> Wrong {
    wrong(tongue, "cvc-id.1", tongue.identifier_reference(), format!("`{}`", shown::text(value)), None)
}

pub(crate) fn no_entity(tongue: Tongue, value: &str) -> Wrong {
    wrong(tongue, "cvc-entity-valid", tongue.entity_name(), format!("`{}`", shown::text(value)), None)
}

pub(crate) fn stray_attribute(schema: &Schema, ty: TypeId, attribute: &Attribute<'_>, tag: &Tag<'_>) -> Wrong {
    let tongue = schema.tongue();
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
        (None, _) => ("cvc-type.3.1.1", tongue.no_attributes()),
        (Some(complex), none) => {
            let rule = match complex.any_attribute {
                None => "cvc-complex-type.3.2.1",
                Some(_) => "cvc-complex-type.3.2.2",
            };
            let expected = if none { tongue.no_more_attributes() } else { tongue.here(listed(tongue, &all, Join::Or)) };
            (rule, expected)
        }
    };
    let same = uses.iter().any(|one| names.local(one.name) == attribute.local);
    let hint = match (same, near) {
        (true, _) if !attribute.prefix.is_empty() => Some(tongue.no_prefix(attribute.local)),
        (_, Some(near)) => Some(tongue.is_near(format!("`{near}`"))),
        _ => None,
    };
    let origin = complex.and_then(|complex| complex.origin);
    wrong(tongue, rule, expected, format!("`{}`", attribute.name), origin).maybe(hint)
}

pub(crate) fn missing_attribute(schema: &Schema, ty: TypeId, one: &AttributeUse, tag: &Tag<'_>) -> Wrong {
    let tongue = schema.tongue();
    let names = &schema.components.names;
    let local = names.local(one.name);
    let near = near::nearest(
        local,
        tag.attributes().map(|attribute| attribute.local).filter(|met| {
            let uses = schema.components.complex(ty).map_or(&[][..], |complex| &complex.attributes);
            uses.iter().all(|one| names.local(one.name) != *met)
        }),
    );
    let hint = near.map(|near| tongue.may_be_meant(near));
    wrong(tongue, "cvc-complex-type.4", tongue.attribute_on(local, tag.name), tongue.none(), one.origin).maybe(hint)
}

pub(crate) fn attribute_not_fixed(tongue: Tongue, attribute: &Attribute<'_>, fixed: &ValueConstraint) -> Wrong {
    let expected = tongue.fixed_to(shown::text(&fixed.text), attribute.name);
    wrong(tongue, "cvc-attribute.4", expected, quoted(tongue, attribute.value), Some(fixed.origin))
}

pub(crate) fn undeclared_attribute(schema: &Schema, attribute: &Attribute<'_>, origin: Option<Origin>) -> Wrong {
    let tongue = schema.tongue();
    wrong(tongue, "cvc-complex-type.3.2.2", tongue.declared_attribute(), format!("`{}`", attribute.name), origin)
}

pub(crate) fn second_id(tongue: Tongue, attribute: &Attribute<'_>) -> Wrong {
    wrong(tongue, "cvc-complex-type.5.1", tongue.one_id(), tongue.too(format!("`{}`", attribute.name)), None)
}
