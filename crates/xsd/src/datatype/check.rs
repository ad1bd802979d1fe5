//! From text to a value of a type, or to what is amiss.

use super::decimal::Decimal;
use super::facets::Facets;
use super::moment::{Duration, Moment};
use super::primitive::{Facet, Form, Primitive, WhiteSpace};
use super::value::Value;
use crate::component::{Role, SimpleType, Type, TypeId, Variety};
use data_encoding::{BASE64, HEXUPPER};
use mervik_xml::names;
use std::borrow::Cow;
use std::cmp::Ordering;

/// What prefixes stand for where a value is.
pub(crate) trait Scope {
    /// The namespace of a prefix; the empty prefix stands for the default namespace, or for none.
    fn namespace(&self, prefix: &str) -> Option<&str>;
}

impl Scope for mervik_xml::Namespaces {
    fn namespace(&self, prefix: &str) -> Option<&str> {
        self.resolve(prefix).map(|(_, uri)| uri)
    }
}

/// Why a text is no value of a type. Small, for it is made and thrown away for each member of a union that does not fit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Miss {
    /// The type that it misses: the type that was asked for, or the type of an item.
    pub(crate) ty: TypeId,
    pub(crate) what: What,
    /// Which item of a list it is, from 0.
    pub(crate) item: Option<u32>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum What {
    /// It does not have the form of the type.
    Form,
    /// A prefix that is not declared.
    Prefix,
    /// No member of the union takes it.
    Union,
    Facet(Facet),
}

/// Reads values by the types of a schema.
#[derive(Clone, Copy)]
pub(crate) struct Reader<'s> {
    pub(crate) types: &'s [Type],
}

/// How many lists and unions may be inside one another; the compiler refuses more.
pub(crate) const MAX_NESTED_TYPES: usize = 100;

impl<'s> Reader<'s> {
    pub(crate) fn simple(&self, id: TypeId) -> Option<&'s SimpleType> {
        match self.types.get(id.0 as usize)? {
            Type::Simple(simple) => Some(simple),
            Type::Complex(_) => None,
        }
    }

    /// Reads a text that is not normalised yet.
    ///
    /// # Errors
    ///
    /// What is amiss first.
    #[inline]
    pub(crate) fn read<'t>(&self, id: TypeId, text: &'t str, scope: &dyn Scope) -> Result<Value<'t>, Miss> {
        let Some(ty) = self.simple(id) else { return Ok(Value::Text(Primitive::String, Cow::Borrowed(text))) };
        // Each member of a union normalises for itself.
        if matches!(ty.variety, Variety::Union(_)) {
            return self.read_normal(id, ty, text, scope);
        }
        match normalized(text, ty.white_space) {
            Cow::Borrowed(text) => self.read_normal(id, ty, text, scope),
            Cow::Owned(text) => self.read_normal(id, ty, &text, scope).map(Value::into_owned),
        }
    }

    /// Tells the role of each value in a text that is one of the type: identifiers and references to them.
    pub(crate) fn roles(&self, id: TypeId, text: &str, scope: &dyn Scope, tell: &mut dyn FnMut(Role, &str)) {
        let Some(ty) = self.simple(id) else { return };
        match &ty.variety {
            Variety::Atomic(_) if ty.role != Role::None => tell(ty.role, &normalized(text, ty.white_space)),
            Variety::List(item) => {
                for part in text.split(names::is_space).filter(|part| !part.is_empty()) {
                    self.roles(*item, part, scope, tell);
                }
            }
            Variety::Union(members) => {
                if let Some(member) = members.iter().find(|member| self.read(**member, text, scope).is_ok()) {
                    self.roles(*member, text, scope, tell);
                }
            }
            _ => {}
        }
    }

    /// Whether values of a type may be identifiers or refer to something.
    pub(crate) fn has_roles(&self, id: TypeId) -> bool {
        let mut waiting = vec![id];
        let mut seen = 0;
        while let Some(id) = waiting.pop() {
            let Some(ty) = self.simple(id) else { continue };
            seen += 1;
            match &ty.variety {
                Variety::Atomic(_) if ty.role != Role::None => return true,
                Variety::List(item) => waiting.push(*item),
                Variety::Union(members) if seen < 10_000 => waiting.extend(members),
                _ => {}
            }
        }
        false
    }

    fn read_normal<'t>(
        &self,
        id: TypeId,
        ty: &SimpleType,
        text: &'t str,
        scope: &dyn Scope,
    ) -> Result<Value<'t>, Miss> {
        let miss = |what| Miss { ty: id, what, item: None };
        match &ty.variety {
            Variety::Any => Ok(Value::Text(Primitive::String, Cow::Borrowed(text))),
            Variety::Atomic(primitive) => {
                if !has_form(ty.form, text) {
                    return Err(miss(What::Form));
                }
                let value = atomic(*primitive, text, scope).map_err(miss)?;
                if !ty.facets.is_empty() {
                    atomic_facets(&ty.facets, *primitive, &value, text).map_err(|facet| miss(What::Facet(facet)))?;
                }
                Ok(value)
            }
            Variety::List(item) => {
                let mut items = Vec::new();
                for (at, part) in text.split(names::is_space).filter(|part| !part.is_empty()).enumerate() {
                    let value = self.read(*item, part, scope);
                    items.push(value.map_err(|miss| Miss { item: Some(miss.item.unwrap_or(at as u32)), ..miss })?);
                }
                let count = items.len() as u64;
                let value = Value::List(items);
                if !ty.facets.is_empty() {
                    let facets = &ty.facets;
                    let wrong =
                        lengths(facets, count).or_else(|| patterns(facets, text)).or_else(|| listed(facets, &value));
                    if let Some(facet) = wrong {
                        return Err(miss(What::Facet(facet)));
                    }
                }
                Ok(value)
            }
            Variety::Union(members) => {
                let value = members.iter().find_map(|member| self.read(*member, text, scope).ok());
                let value = value.ok_or(miss(What::Union))?;
                if !ty.facets.is_empty() {
                    // Patterns look at the text as the member's white space leaves it; collapsing is the usual one.
                    let member = members.iter().find(|member| self.read(**member, text, scope).is_ok());
                    let white_space = member.and_then(|member| self.simple(*member)).map(|member| member.white_space);
                    let normal = normalized(text, white_space.unwrap_or(WhiteSpace::Preserve));
                    let wrong = patterns(&ty.facets, &normal).or_else(|| listed(&ty.facets, &value));
                    if let Some(facet) = wrong {
                        return Err(miss(What::Facet(facet)));
                    }
                }
                Ok(value)
            }
        }
    }
}

/// A text as a facet `whiteSpace` makes it (Part 2, section 4.3.6). Allocates only where it changes within.
#[inline]
pub(crate) fn normalized(text: &str, white_space: WhiteSpace) -> Cow<'_, str> {
    match white_space {
        WhiteSpace::Preserve => Cow::Borrowed(text),
        WhiteSpace::Replace => match text.contains(['\t', '\n', '\r']) {
            false => Cow::Borrowed(text),
            true => Cow::Owned(text.replace(['\t', '\n', '\r'], " ")),
        },
        // PERF: most values have no white space at all.
        WhiteSpace::Collapse if text.bytes().all(|byte| byte > b' ') => Cow::Borrowed(text),
        WhiteSpace::Collapse => {
            let trimmed = text.trim_matches(names::is_space);
            let mut before = false;
            let collapsed = trimmed.bytes().all(|byte| {
                let space = byte <= b' ';
                let fine = byte > b' ' || (byte == b' ' && !before);
                before = space;
                fine
            });
            match collapsed {
                true => Cow::Borrowed(trimmed),
                false => {
                    let mut out = String::with_capacity(trimmed.len());
                    for word in trimmed.split(names::is_space).filter(|word| !word.is_empty()) {
                        if !out.is_empty() {
                            out.push(' ');
                        }
                        out.push_str(word);
                    }
                    Cow::Owned(out)
                }
            }
        }
    }
}

#[inline]
fn has_form(form: Form, text: &str) -> bool {
    match form {
        Form::Any => true,
        Form::Integer => {
            let digits = text.strip_prefix(['+', '-']).unwrap_or(text);
            !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_digit())
        }
        Form::Name => names::is_name(text),
        Form::NcName => names::is_ncname(text),
        Form::NmToken => names::is_nmtoken(text),
        Form::Language => text.split('-').enumerate().all(|(at, part)| {
            let known = |byte: u8| if at == 0 { byte.is_ascii_alphabetic() } else { byte.is_ascii_alphanumeric() };
            (1..=8).contains(&part.len()) && part.bytes().all(known)
        }),
    }
}

/// Reads a text of a primitive type.
#[inline]
fn atomic<'t>(primitive: Primitive, text: &'t str, scope: &dyn Scope) -> Result<Value<'t>, What> {
    let read = match primitive {
        Primitive::String => Some(Value::Text(primitive, Cow::Borrowed(text))),
        Primitive::AnyUri => is_uri(text).then_some(Value::Text(primitive, Cow::Borrowed(text))),
        Primitive::Boolean => match text {
            "true" | "1" => Some(Value::Boolean(true)),
            "false" | "0" => Some(Value::Boolean(false)),
            _ => None,
        },
        Primitive::Decimal => Decimal::parse(text).map(Value::Decimal),
        Primitive::Float => float(text).map(|text| Value::Float(text.parse().unwrap_or(f32::NAN))),
        Primitive::Double => float(text).map(|text| Value::Double(text.parse().unwrap_or(f64::NAN))),
        Primitive::Duration => Duration::parse(text).map(Value::Duration),
        Primitive::HexBinary => {
            let hex = text.len().is_multiple_of(2) && text.bytes().all(|byte| byte.is_ascii_hexdigit());
            hex.then(|| Value::Bytes(primitive, text.to_ascii_uppercase()))
        }
        Primitive::Base64Binary => base64(text).map(|bytes| Value::Bytes(primitive, HEXUPPER.encode(&bytes))),
        Primitive::QName | Primitive::Notation => {
            let (prefix, local) = names::split(text).ok_or(What::Form)?;
            let namespace = scope.namespace(prefix).ok_or(What::Prefix)?;
            Some(Value::Name(primitive, namespace.to_owned(), Cow::Borrowed(local)))
        }
        moment => Moment::parse(moment, text).map(|value| Value::Moment(moment, value)),
    };
    read.ok_or(What::Form)
}

/// The spelling of a floating-point number for the standard library, which takes more than XML Schema does.
fn float(text: &str) -> Option<&str> {
    match text {
        "INF" => return Some("inf"),
        "-INF" => return Some("-inf"),
        "NaN" => return Some("NaN"),
        _ => {}
    }
    let (mantissa, exponent) = match text.find(['e', 'E']) {
        Some(at) => (text.get(..at)?, text.get(at + 1..)),
        None => (text, None),
    };
    Decimal::parse(mantissa)?;
    exponent.is_none_or(|exponent| has_form(Form::Integer, exponent)).then_some(text)
}

/// Bytes in base 64, with white space between digits (Part 2, section 3.2.16).
fn base64(text: &str) -> Option<Vec<u8>> {
    // The decoder lets several padded runs follow each other.
    if text.trim_end_matches(['=', ' ']).contains('=') {
        return None;
    }
    match text.contains(' ') {
        false => BASE64.decode(text.as_bytes()).ok(),
        true => BASE64.decode(text.replace(' ', "").as_bytes()).ok(),
    }
}

/// Whether a text becomes a reference to a resource when its other characters are escaped (Part 2, section 3.2.17).
fn is_uri(text: &str) -> bool {
    let bytes = text.as_bytes();
    let hex = |at: usize| bytes.get(at).is_some_and(u8::is_ascii_hexdigit);
    let escapes = memchr_iter(bytes, b'%').all(|at| hex(at + 1) && hex(at + 2));
    let fragments = memchr_iter(bytes, b'#').count();
    // What stands before the first colon is a scheme, unless a path, a query or a fragment has begun.
    let colon = text.find(['/', '?', '#', ':']).filter(|at| bytes.get(*at) == Some(&b':'));
    let scheme = colon.is_none_or(|colon| {
        let scheme = bytes.get(..colon).unwrap_or_default();
        let known = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'+' | b'-' | b'.');
        scheme.first().is_some_and(u8::is_ascii_alphabetic) && scheme.iter().all(known)
    });
    escapes && fragments <= 1 && scheme
}

fn memchr_iter(bytes: &[u8], wanted: u8) -> impl Iterator<Item = usize> {
    bytes.iter().enumerate().filter(move |(_, byte)| **byte == wanted).map(|(at, _)| at)
}

fn atomic_facets(facets: &Facets, primitive: Primitive, value: &Value<'_>, text: &str) -> Result<(), Facet> {
    if facets.has_lengths() {
        let count = match value {
            Value::Bytes(_, hex) => Some(hex.len() as u64 / 2),
            // Their lengths say nothing (Part 2, section 4.3.1.3).
            _ if matches!(primitive, Primitive::QName | Primitive::Notation) => None,
            _ => Some(text.chars().count() as u64),
        };
        if let Some(facet) = count.and_then(|count| lengths(facets, count)) {
            return Err(facet);
        }
    }
    if let Value::Decimal(decimal) = value {
        if facets.total_digits.is_some_and(|most| decimal.total_digits() as u64 > most) {
            return Err(Facet::TotalDigits);
        }
        if facets.fraction_digits.is_some_and(|most| decimal.fraction_digits() as u64 > most) {
            return Err(Facet::FractionDigits);
        }
    }
    if let Some(facet) = patterns(facets, text).or_else(|| listed(facets, value)) {
        return Err(facet);
    }
    out_of_bounds(facets, value).map_or(Ok(()), Err)
}

fn lengths(facets: &Facets, count: u64) -> Option<Facet> {
    if facets.length.is_some_and(|length| count != length) {
        Some(Facet::Length)
    } else if facets.min_length.is_some_and(|least| count < least) {
        Some(Facet::MinLength)
    } else if facets.max_length.is_some_and(|most| count > most) {
        Some(Facet::MaxLength)
    } else {
        None
    }
}

fn patterns(facets: &Facets, text: &str) -> Option<Facet> {
    let matches = |step: &[crate::pattern::Pattern]| step.iter().any(|pattern| pattern.matches(text));
    (!facets.patterns.iter().all(|step| matches(step))).then_some(Facet::Pattern)
}

fn listed(facets: &Facets, value: &Value<'_>) -> Option<Facet> {
    facets.enumeration.as_ref().is_some_and(|known| !known.has(value)).then_some(Facet::Enumeration)
}

/// The bound that a value does not keep; values that cannot be compared with a bound do not keep it.
pub(crate) fn out_of_bounds(facets: &Facets, value: &Value<'_>) -> Option<Facet> {
    use Ordering::{Equal, Greater, Less};
    let table: [(Facet, &[Ordering]); 4] = [
        (Facet::MinInclusive, &[Greater, Equal]),
        (Facet::MinExclusive, &[Greater]),
        (Facet::MaxInclusive, &[Less, Equal]),
        (Facet::MaxExclusive, &[Less]),
    ];
    if !facets.has_bounds() {
        return None;
    }
    table.into_iter().find_map(|(facet, allowed)| {
        let bound = facets.bound(facet)?;
        // A number that is none keeps only the bound that is itself one.
        let order = value.compare(&bound.value).or_else(|| value.same(&bound.value).then_some(Equal));
        (!order.is_some_and(|order| allowed.contains(&order))).then_some(facet)
    })
}

/// Nothing is declared where samples stand by themselves.
struct Undeclared;

impl Scope for Undeclared {
    fn namespace(&self, _prefix: &str) -> Option<&str> {
        None
    }
}

/// Whether a text, white space at its ends aside, is a value of a built-in type: `integer` or one of the primitive types by
/// its local name. `false` for other names.
pub fn is_value_of(name: &str, text: &str) -> bool {
    let text = text.trim_matches(names::is_space);
    if name == "integer" {
        return has_form(Form::Integer, text) && Decimal::parse(text).is_some();
    }
    let primitive = Primitive::ALL.iter().find(|primitive| primitive.name() == name);
    primitive.is_some_and(|primitive| atomic(*primitive, text, &Undeclared).is_ok())
}
