//! Types and values in words (Datatypes, 4.1.4).

use super::{LISTED, Wrong, listed, wrong};
use crate::build::Components;
use crate::component::*;
use crate::datatype::{Facet, Miss, Scope, SimpleWords, What, WhiteSpace, normalized};
use crate::names::XSD;
use crate::phrases::Phrases as _;
use crate::schema::Schema;
use mervik_document::shown;
use mervik_document::tongue::{Common as _, Join, Tongue};

/// A type as people say it: what its values look like.
pub(crate) fn described(schema: &Schema, ty: TypeId) -> String {
    describe(schema.tongue(), &schema.components, ty)
}

fn describe(tongue: Tongue, components: &Components, ty: TypeId) -> String {
    let Some(simple) = components.simple(ty) else { return tongue.text() };
    let built_in = |id: TypeId| {
        let name = components.simple(id)?.name?;
        let local = components.names.local(name);
        (components.names.uri(components.names.namespace_of(name)) == XSD).then_some(local)
    };
    if let Some(local) = built_in(ty) {
        return match crate::datatype::example(local) {
            Some(example) => tongue.such_as(kind_words(tongue, local), local, example),
            None => format!("{} (`xs:{local}`)", kind_words(tongue, local)),
        };
    }
    let own = simple.name.map(|name| format!(" (`{}`)", components.names.local(name))).unwrap_or_default();
    if simple.facets.enumeration.is_some() {
        let words = SimpleWords { tongue, facets: Some(&simple.facets), list: false };
        return format!("{}{own}", words.facet(Facet::Enumeration, "").0);
    }
    match &simple.variety {
        Variety::List(item) => format!("{}{own}", tongue.list_of(describe(tongue, components, *item))),
        Variety::Union(members) if members.len() <= LISTED => {
            let members: Vec<String> = members.iter().map(|member| describe(tongue, components, *member)).collect();
            match simple.name {
                Some(_) if members.len() > 3 => format!("{}{own}", tongue.a_value()),
                _ => listed(tongue, &members, Join::Or),
            }
        }
        Variety::Union(_) => format!("{}{own}", tongue.a_value()),
        _ => {
            let bases =
                std::iter::successors(Some(ty), |id| Some(components.base(*id)).filter(|base| *base != ANY_TYPE));
            let kind =
                bases.take(100).find_map(built_in).map_or_else(|| tongue.text(), |local| kind_words(tongue, local));
            format!("{kind}{own}")
        }
    }
}

fn kind_words(tongue: Tongue, local: &str) -> String {
    match local {
        "boolean" => tongue.true_or_false(),
        "decimal" => tongue.a_decimal(),
        "float" | "double" => tongue.a_number(),
        "duration" => tongue.a_span(),
        "dateTime" => tongue.a_moment(),
        "time" => tongue.a_time_of_day(),
        "date" => tongue.a_day(),
        "gYearMonth" => tongue.month_of_year(),
        "gYear" => tongue.a_year(),
        "gMonthDay" => tongue.day_of_year(),
        "gDay" => tongue.day_of_month(),
        "gMonth" => tongue.a_month(),
        "hexBinary" => tongue.hex_bytes(),
        "base64Binary" => tongue.base64_bytes(),
        "anyURI" => tongue.a_reference(),
        "QName" | "NOTATION" => tongue.prefixed_name(),
        "language" => tongue.language_tag(),
        "Name" | "NCName" | "ID" | "IDREF" | "ENTITY" => tongue.a_name(),
        "NMTOKEN" => tongue.name_token(),
        "NMTOKENS" | "IDREFS" | "ENTITIES" => tongue.list_of_names(),
        "integer" | "long" | "int" | "short" | "byte" => tongue.whole_number(),
        "nonNegativeInteger" | "unsignedLong" | "unsignedInt" | "unsignedShort" | "unsignedByte" => {
            tongue.whole_from_0()
        }
        "positiveInteger" => tongue.whole_from_1(),
        "nonPositiveInteger" => tongue.whole_to_0(),
        "negativeInteger" => tongue.whole_below_0(),
        _ => tongue.text(),
    }
}

/// A text that is no value of its type.
pub(crate) fn missed(schema: &Schema, miss: &Miss, text: &str, _ty: Option<TypeId>, scope: &dyn Scope) -> Wrong {
    let tongue = schema.tongue();
    let components = &schema.components;
    let simple = components.simple(miss.ty);
    let white_space = simple.map_or(WhiteSpace::Collapse, |simple| simple.white_space);
    let normal = normalized(text, white_space);
    let item = miss.item.and_then(|at| normal.split_whitespace().nth(at as usize));
    let value = item.unwrap_or(&normal);
    let found = match value {
        "" => tongue.nothing(),
        value => format!("`{}`", shown::text(value)),
    };
    let of_item = miss.item.map(|at| tongue.item_of_list(at + 1));
    let origin = simple.and_then(|simple| simple.origin);
    match miss.what {
        What::Form => {
            let rule = if miss.item.is_some() { "cvc-datatype-valid.1.2.2" } else { "cvc-datatype-valid.1.2.1" };
            let hint = form_hint(tongue, components, miss.ty, value).or(of_item);
            wrong(tongue, rule, describe(tongue, components, miss.ty), found, origin).maybe(hint)
        }
        What::Prefix => {
            let prefix = value.split(':').next().unwrap_or("");
            wrong(tongue, "cvc-datatype-valid.1.2.1", tongue.name_with_prefix(), found, origin)
                .hint(tongue.declares_it(format!("xmlns:{prefix}=\"…\"")))
        }
        What::Union => {
            let near = near_member(tongue, components, simple, value, scope);
            wrong(tongue, "cvc-datatype-valid.1.2.3", describe(tongue, components, miss.ty), found, origin)
                .maybe(near)
                .maybe(of_item)
        }
        What::Facet(facet) => {
            let facets = simple.map(|simple| &simple.facets);
            let origin = facets.and_then(|facets| facets.origin(facet)).or(origin);
            let words = SimpleWords {
                tongue,
                facets,
                list: simple.is_some_and(|simple| matches!(simple.variety, Variety::List(_))),
            };
            let (expected, hint) = words.facet(facet, value);
            let found = match (facet, value) {
                (Facet::Length | Facet::MinLength | Facet::MaxLength, value) if !value.is_empty() => {
                    tongue.with_count(found, words.count(value))
                }
                _ => found,
            };
            wrong(tongue, facet.rule(), expected, found, origin).maybe(hint).maybe(of_item)
        }
    }
}

/// The member of a union whose form a text has, and what it asks besides.
fn near_member(
    tongue: Tongue,
    components: &Components,
    simple: Option<&SimpleType>,
    value: &str,
    scope: &dyn Scope,
) -> Option<String> {
    let Variety::Union(members) = &simple?.variety else { return None };
    members.iter().find_map(|member| {
        let miss = components.reader().read(*member, value, scope).err()?;
        let What::Facet(facet) = miss.what else { return None };
        let of_member = components.simple(miss.ty)?;
        if facet == Facet::Enumeration {
            return None;
        }
        let words = SimpleWords {
            tongue,
            facets: Some(&of_member.facets),
            list: matches!(of_member.variety, Variety::List(_)),
        };
        let name = components.type_name(*member);
        let name = if name.starts_with("an ") { name } else { format!("`{name}`") };
        Some(tongue.takes(name, words.facet(facet, value).0))
    })
}

/// Why a text does not have a form, where that can be told.
fn form_hint(tongue: Tongue, components: &Components, ty: TypeId, value: &str) -> Option<String> {
    let simple = components.simple(ty)?;
    let Variety::Atomic(primitive) = simple.variety else { return None };
    crate::datatype::form_hint(tongue, primitive, value)
}

/// Why a text is no value, in a few words.
pub(crate) fn short_miss(components: &Components, miss: &Miss) -> String {
    match miss.what {
        What::Form | What::Union => format!("expected {}", describe(Tongue::English, components, miss.ty)),
        What::Prefix => "its prefix is not declared".to_owned(),
        What::Facet(facet) => format!("the `{facet}` of `{}` does not allow it", components.type_name(miss.ty)),
    }
}
