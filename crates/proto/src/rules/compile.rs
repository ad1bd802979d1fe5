//! From rules as they were written to what is asked of values: each against the type of its field.

use super::raw::{Raw, RawValue};
use super::test::{Constant, Test, base_of_decimal};
use super::values::{Side, Wrong, constant, format, limit};
use super::{Check, ListRules, Rules, limits};
use crate::remark::{Remark, rule};
use crate::schema::{Directives, Enum, PlaceId, Shape, Type, WellKnown};
use crate::source::{Fetch, FetchError};
use mervik_document::clean::Clean;
use mervik_document::{SchemaPlace, Severity, near};
use mervik_json_schema::Pattern;
use std::collections::HashMap;
use std::sync::Arc;

/// What a field's rules come to.
#[derive(Debug, Default)]
pub(crate) struct Found {
    pub(crate) value: Rules,
    pub(crate) keys: Rules,
    pub(crate) list: ListRules,
    pub(crate) must: Option<PlaceId>,
    pub(crate) unchecked: bool,
    pub(crate) directives: Directives,
}

/// A field as its rules see it.
#[derive(Clone, Copy)]
pub(crate) struct Typed<'t> {
    pub(crate) shape: Shape,
    pub(crate) value: Valued<'t>,
    /// The keys of a map.
    pub(crate) key: Option<Valued<'t>>,
}

/// The type of a value, with what is known of it.
#[derive(Clone, Copy)]
pub(crate) struct Valued<'t> {
    pub(crate) ty: Type,
    pub(crate) enumeration: Option<&'t Enum>,
    pub(crate) well_known: Option<WellKnown>,
    /// For messages the full name, else the word of the language.
    pub(crate) word: &'t str,
    /// What a wrapper wraps.
    pub(crate) wrapped: Option<Type>,
}

impl Valued<'_> {
    /// The type that rules for scalars are about: of wrappers what they wrap.
    pub(super) fn scalar(self) -> Type {
        self.wrapped.unwrap_or(self.ty)
    }

    fn fits(self, kind: Kind) -> bool {
        let ty = self.scalar();
        match kind {
            Kind::Number => ty.integers().is_some() || matches!(ty, Type::Double | Type::Float),
            Kind::Floating => matches!(ty, Type::Double | Type::Float),
            Kind::Text => ty == Type::String,
            Kind::TextOrBytes => matches!(ty, Type::String | Type::Bytes),
            Kind::Scalar => !matches!(ty, Type::Message(_)),
            Kind::Enum => matches!(ty, Type::Enum(_)),
            Kind::Message => matches!(ty, Type::Message(_)) && self.wrapped.is_none(),
            Kind::Known(known) => known.contains(&self.well_known),
        }
    }
}

/// What a rule is for.
#[derive(Clone, Copy)]
enum Kind {
    Number,
    Floating,
    Text,
    TextOrBytes,
    Scalar,
    Enum,
    Message,
    Known(&'static [Option<WellKnown>]),
}

impl Kind {
    fn words(self) -> &'static str {
        match self {
            Kind::Number => "numbers",
            Kind::Floating => "`float` and `double`",
            Kind::Text => "`string`",
            Kind::TextOrBytes => "`string` and `bytes`",
            Kind::Scalar => "single values",
            Kind::Enum => "enums",
            Kind::Message => "messages",
            Kind::Known([Some(WellKnown::Timestamp)]) => "google.protobuf.Timestamp",
            Kind::Known([Some(WellKnown::Duration)]) => "google.protobuf.Duration",
            Kind::Known([Some(WellKnown::Any)]) => "google.protobuf.Any",
            Kind::Known([Some(WellKnown::FieldMask)]) => "google.protobuf.FieldMask",
            Kind::Known(_) => "google.protobuf.Struct, Value and ListValue",
        }
    }
}

/// The rules of single values, and what they are for. A name is one of these, of a list, or of none.
const VALUES: &[(&str, Kind)] = &[
    ("minimum", Kind::Number),
    ("maximum", Kind::Number),
    ("exclusive_minimum", Kind::Number),
    ("exclusive_maximum", Kind::Number),
    ("multiple_of", Kind::Number),
    ("finite", Kind::Floating),
    ("const", Kind::Scalar),
    ("enum", Kind::Scalar),
    ("min_length", Kind::Text),
    ("max_length", Kind::Text),
    ("min_bytes", Kind::TextOrBytes),
    ("max_bytes", Kind::TextOrBytes),
    ("pattern", Kind::Text),
    ("format", Kind::TextOrBytes),
    ("defined", Kind::Enum),
    ("except", Kind::Enum),
    ("unchecked", Kind::Message),
    ("earliest", Kind::Known(&[Some(WellKnown::Timestamp)])),
    ("latest", Kind::Known(&[Some(WellKnown::Timestamp)])),
    ("shortest", Kind::Known(&[Some(WellKnown::Duration)])),
    ("longest", Kind::Known(&[Some(WellKnown::Duration)])),
    ("types", Kind::Known(&[Some(WellKnown::Any)])),
    ("paths", Kind::Known(&[Some(WellKnown::FieldMask)])),
    ("schema", Kind::Known(&[Some(WellKnown::Struct), Some(WellKnown::Value), Some(WellKnown::ListValue)])),
];

/// Compiles the rules of fields.
pub(crate) struct Compiler<'c> {
    /// Sets of rules by their full names.
    pub(crate) sets: &'c HashMap<String, Vec<Raw>>,
    pub(crate) places: &'c [SchemaPlace],
    pub(crate) remarks: &'c mut Vec<Remark>,
    pub(crate) fetch: &'c mut dyn Fetch,
    /// Full names of all messages.
    pub(crate) messages: &'c [String],
    /// The sets that are being used.
    pub(crate) using: Vec<String>,
}

/// The most sets within sets.
const MAX_USE: usize = 32;

impl Compiler<'_> {
    /// The rules of a field. `scope` is the full name of its message, from where sets are looked for outwards.
    pub(crate) fn field(&mut self, raws: &[Raw], typed: Typed<'_>, scope: &str) -> Found {
        let mut found = Found::default();
        self.take(raws, typed, scope, &mut found);
        self.sense(raws, typed, &found);
        found
    }

    fn take(&mut self, raws: &[Raw], typed: Typed<'_>, scope: &str, found: &mut Found) {
        let mut enumerated: Vec<&Raw> = Vec::new();
        let mut grouped: HashMap<&str, Vec<&Raw>> = HashMap::new();
        for raw in raws {
            match raw.name.as_str() {
                "required" => found.must = raw.is_on().then_some(raw.place).or(found.must),
                "use" => self.used(raw, typed, scope, found),
                "min_items" | "max_items" | "unique_items" | "items" | "keys" | "values" => {
                    self.list(raw, typed, scope, found);
                }
                "title" | "aliases" | "clean" | "parse" => self.directive(raw, typed, &mut found.directives),
                // What is said between fields and to people is read where it is kept.
                "silence" | "rules" | "messages" | "key" | "parameters" => {}
                "enum" => enumerated.push(raw),
                "except" | "types" | "paths" => grouped.entry(raw.name.as_str()).or_default().push(raw),
                _ if typed.shape != Shape::Single => self.misplaced_on_list(raw, typed.shape),
                "unchecked" if typed.value.fits(Kind::Message) => found.unchecked |= raw.is_on(),
                _ => self.value(raw, typed.value, &mut found.value),
            }
        }
        grouped.insert("enum", enumerated);
        for (_, raws) in grouped {
            let Some(first) = raws.first() else { continue };
            match typed.shape {
                Shape::Single => self.several(&raws, typed.value, &mut found.value),
                shape => self.misplaced_on_list(first, shape),
            }
        }
    }

    /// Rules that are written once.
    fn used(&mut self, raw: &Raw, typed: Typed<'_>, scope: &str, found: &mut Found) {
        let name = raw.text();
        let Some(full) = set_named(self.sets, name, scope) else {
            let hint =
                near::nearest(name, self.sets.keys().map(String::as_str)).map(|near| format!("`{near}` is near"));
            let hint = hint.or_else(|| Some("a set is an enum value with `[(mervik.set) = {…}]`".to_owned()));
            return self.tell(
                raw,
                Severity::Error,
                rule::UNKNOWN_NAME,
                format!("there is no set of rules `{name}`"),
                hint,
            );
        };
        if self.using.contains(&full) || self.using.len() >= MAX_USE {
            let message = format!("the set `{full}` uses itself");
            return self.tell(raw, Severity::Error, rule::UNKNOWN_NAME, message, None);
        }
        let raws = self.sets.get(&full).cloned().unwrap_or_default();
        if raws.iter().any(|raw| raw.name == "rules") {
            let message = format!("the set `{full}` has rules between fields");
            let hint = Some(format!("`rules: {{ use: \"{name}\" }}` says what they are about"));
            return self.tell(raw, Severity::Error, rule::VALUE, message, hint);
        }
        // What a set names it names from where it stands.
        let of_set = full.rsplit_once('.').map_or(String::new(), |(scope, _)| scope.to_owned());
        self.using.push(full);
        self.take(&raws, typed, &of_set, found);
        self.using.pop();
    }

    fn list(&mut self, raw: &Raw, typed: Typed<'_>, scope: &str, found: &mut Found) {
        let name = raw.name.as_str();
        let fits = match name {
            "min_items" | "max_items" => typed.shape != Shape::Single,
            "unique_items" | "items" => typed.shape == Shape::Repeated,
            _ => typed.shape == Shape::Map,
        };
        if !fits {
            let on = match name {
                "min_items" | "max_items" => "lists and maps",
                "unique_items" | "items" => "lists (`repeated`)",
                _ => "maps",
            };
            let hint =
                (typed.shape == Shape::Map && name == "items").then(|| "maps have `keys` and `values`".to_owned());
            let message = format!("`{name}` is for {on}, and this is {}", self.shape_words(typed));
            return self.tell(raw, Severity::Error, rule::MISPLACED, message, hint);
        }
        match (name, &raw.value) {
            ("min_items", RawValue::Count(count)) => found.list.min = Some((*count, raw.place)),
            ("max_items", RawValue::Count(count)) => found.list.max = Some((*count, raw.place)),
            ("unique_items", RawValue::Flag(true)) if matches!(typed.value.ty, Type::Message(_)) => {
                let message = "`unique_items` is for lists of single values, and these are messages".to_owned();
                self.tell(raw, Severity::Error, rule::MISPLACED, message, None);
            }
            ("unique_items", RawValue::Flag(true)) => found.list.unique = Some(raw.place),
            ("items" | "values", RawValue::Rules(inner)) => {
                let inside = self.field(inner, Typed { shape: Shape::Single, key: None, ..typed }, scope);
                self.inner(raw, &inside);
                found.value.checks.extend(inside.value.checks);
                found.unchecked |= inside.unchecked;
                found.directives.clean.extend(inside.directives.clean);
                found.directives.parse.extend(inside.directives.parse);
            }
            ("keys", RawValue::Rules(inner)) => {
                let Some(value) = typed.key else { return };
                let inside = self.field(inner, Typed { shape: Shape::Single, key: None, value }, scope);
                self.inner(raw, &inside);
                found.keys.checks.extend(inside.value.checks);
            }
            _ => {}
        }
    }

    /// What has no meaning inside of a list.
    fn inner(&mut self, raw: &Raw, inside: &Found) {
        if inside.must.is_some() {
            let message = format!("what stands in `{}` is there: `required` has no meaning", raw.name);
            self.tell(raw, Severity::Error, rule::MISPLACED, message, None);
        }
    }

    fn directive(&mut self, raw: &Raw, typed: Typed<'_>, directives: &mut Directives) {
        let text = raw.text().to_owned();
        match raw.name.as_str() {
            "title" => directives.title = Some(text),
            "aliases" => directives.aliases.push(text),
            "clean" => match Clean::find(&text) {
                Some(clean) if typed.value.fits(Kind::Text) => directives.clean.push(clean),
                Some(_) => {
                    let message = format!("`clean` is for `string`, and this is {}", self.value_words(typed.value));
                    self.tell(raw, Severity::Error, rule::MISPLACED, message, None);
                }
                None => {
                    let names: Vec<&str> = Clean::ALL.iter().map(|(name, _)| *name).collect();
                    let message = format!("`{text}` is no way to clean text up");
                    self.tell(
                        raw,
                        Severity::Error,
                        rule::VALUE,
                        message,
                        Some(format!("there are {}", names.join(", "))),
                    );
                }
            },
            _ => match mervik_document::dates::is_pattern(&text) {
                true if typed.value.well_known == Some(WellKnown::Timestamp) || typed.value.fits(Kind::Text) => {
                    directives.parse.push(text);
                }
                true => {
                    let message = format!("`parse` is for times, and this is {}", self.value_words(typed.value));
                    self.tell(raw, Severity::Error, rule::MISPLACED, message, None);
                }
                false => {
                    let message = format!("`{text}` is no pattern of dates and times");
                    let hint = "the notation is that of `strptime` (POSIX): `%d.%m.%Y`".to_owned();
                    self.tell(raw, Severity::Error, rule::VALUE, message, Some(hint));
                }
            },
        }
    }

    fn misplaced_on_list(&mut self, raw: &Raw, shape: Shape) {
        let (what, place) = match shape {
            Shape::Map => ("a map", "`values: {…}` or `keys: {…}`"),
            _ => ("a list (`repeated`)", "`items: {…}`"),
        };
        let message = format!("`{}` is about one value, and this is {what}", raw.name);
        self.tell(raw, Severity::Error, rule::MISPLACED, message, Some(format!("it belongs into {place}")));
    }

    fn shape_words(&self, typed: Typed<'_>) -> String {
        match typed.shape {
            Shape::Repeated => "a list (`repeated`)".to_owned(),
            Shape::Map => "a map".to_owned(),
            Shape::Single => self.value_words(typed.value),
        }
    }

    fn value_words(&self, value: Valued<'_>) -> String {
        match value.ty {
            Type::Enum(_) => "an enum".to_owned(),
            _ => format!("`{}`", value.word),
        }
    }

    /// Whether a rule is for such values; else it is told.
    fn fits(&mut self, raw: &Raw, value: Valued<'_>) -> bool {
        let Some((_, kind)) = VALUES.iter().find(|(name, _)| *name == raw.name) else { return false };
        let fits = value.fits(*kind);
        if !fits {
            let message = format!("`{}` is for {}, and this is {}", raw.name, kind.words(), self.value_words(value));
            self.tell(raw, Severity::Error, rule::MISPLACED, message, None);
        }
        fits
    }

    /// A rule of one value.
    fn value(&mut self, raw: &Raw, value: Valued<'_>, rules: &mut Rules) {
        if !self.fits(raw, value) {
            return;
        }
        match self.test(raw, value) {
            Ok(Some((name, test))) => rules.checks.push(Check { name, test, place: raw.place }),
            Ok(None) => {}
            Err((message, hint)) => self.tell(raw, Severity::Error, rule::VALUE, message, hint),
        }
    }

    fn test(&mut self, raw: &Raw, value: Valued<'_>) -> Result<Option<(&'static str, Test)>, Wrong> {
        let ty = value.scalar();
        let text = raw.text();
        let name = raw.name.as_str();
        let wrong = |what: &str| Err((format!("`{text}` is {what}"), None));
        Ok(Some(match (name, &raw.value) {
            ("minimum", RawValue::Number(number, written)) => {
                ("minimum", Test::Minimum(limit(ty, *number, written.as_deref(), Side::Least)?))
            }
            ("maximum", RawValue::Number(number, written)) => {
                ("maximum", Test::Maximum(limit(ty, *number, written.as_deref(), Side::Most)?))
            }
            ("exclusive_minimum", RawValue::Number(number, written)) => {
                ("exclusive_minimum", Test::ExclusiveMinimum(limit(ty, *number, written.as_deref(), Side::Above)?))
            }
            ("exclusive_maximum", RawValue::Number(number, written)) => {
                ("exclusive_maximum", Test::ExclusiveMaximum(limit(ty, *number, written.as_deref(), Side::Below)?))
            }
            ("multiple_of", RawValue::Number(number, written)) => {
                let decimal = base_of_decimal(*number).filter(|_| *number > 0.0 && number.is_finite());
                let Some(decimal) = decimal else {
                    return Err(("`multiple_of` takes a number above zero".to_owned(), None));
                };
                let whole = (number.fract() == 0.0 && *number < 1e18).then_some(*number as i128);
                let text = written.clone().unwrap_or_else(|| crate::value::double(*number));
                ("multiple_of", Test::MultipleOf(decimal, whole, text.into()))
            }
            ("finite", RawValue::Flag(true)) => ("finite", Test::Finite),
            ("const", RawValue::Text(_)) => ("const", Test::Const(constant(text, value)?, text.into())),
            ("min_length", RawValue::Count(count)) => ("min_length", Test::MinLength(*count)),
            ("max_length", RawValue::Count(count)) => ("max_length", Test::MaxLength(*count)),
            ("min_bytes", RawValue::Count(count)) => ("min_bytes", Test::MinBytes(*count)),
            ("max_bytes", RawValue::Count(count)) => ("max_bytes", Test::MaxBytes(*count)),
            ("pattern", RawValue::Text(_)) => match Pattern::new(text) {
                Ok(pattern) => ("pattern", Test::Pattern(pattern)),
                Err(error) => return Err((error.message, error.hint)),
            },
            ("format", RawValue::Text(_)) => ("format", format(text, ty)?),
            ("defined", RawValue::Flag(true)) => match value.enumeration {
                Some(known) => ("defined", Test::Defined(known.by_number.iter().map(|(number, _)| *number).collect())),
                None => return Ok(None),
            },
            ("earliest" | "latest", RawValue::Text(_)) => {
                let Some(moment) = limits::moment(text) else {
                    return wrong("no time: expected RFC 3339, `now`, or `now` with seconds (`now+90s`)");
                };
                match name {
                    "earliest" => ("earliest", Test::Earliest(moment, text.into())),
                    _ => ("latest", Test::Latest(moment, text.into())),
                }
            }
            ("shortest" | "longest", RawValue::Text(_)) => {
                let Some(nanos) = limits::duration(text) else {
                    return wrong("no duration: expected seconds as the JSON mapping spells them (`1.5s`)");
                };
                match name {
                    "shortest" => ("shortest", Test::Shortest(nanos, text.into())),
                    _ => ("longest", Test::Longest(nanos, text.into())),
                }
            }
            ("schema", RawValue::Text(_)) => {
                let from = self.places.get(raw.place.0 as usize).map_or("", |place| &*place.source);
                match self.fetch.json_schema(text, from) {
                    Ok(schema) => {
                        let shown = if text.trim_start().starts_with('{') { "of the rule" } else { text };
                        ("schema", Test::Schema(Box::new(schema), shown.into()))
                    }
                    Err(FetchError { reason, hint }) => {
                        return Err((format!("the JSON Schema {reason}"), hint));
                    }
                }
            }
            _ => return Ok(None),
        }))
    }

    /// Rules with several values.
    fn several(&mut self, raws: &[&Raw], value: Valued<'_>, rules: &mut Rules) {
        let Some(first) = raws.first() else { return };
        if !self.fits(first, value) {
            return;
        }
        let mut texts: Vec<Box<str>> = Vec::new();
        let mut constants = Vec::new();
        for raw in raws {
            let text = raw.text();
            if texts.iter().any(|known| **known == *text) {
                let message = format!("`{text}` stands in `{}` twice", raw.name);
                self.tell(raw, Severity::Warning, rule::NO_EFFECT, message, None);
                continue;
            }
            match first.name.as_str() {
                "enum" | "except" => match constant(text, value) {
                    Ok(constant) => constants.push(constant),
                    Err((message, hint)) => {
                        self.tell(raw, Severity::Error, rule::VALUE, message, hint);
                        continue;
                    }
                },
                "types" if !self.messages.iter().any(|name| name == text) => {
                    let hint = near::nearest(text, self.messages.iter().map(String::as_str));
                    let hint = hint.map(|near| format!("`{near}` is near"));
                    let message = format!("there is no message `{text}` here or in what is imported");
                    self.tell(raw, Severity::Error, rule::UNKNOWN_NAME, message, hint);
                }
                _ => {}
            }
            texts.push(text.into());
        }
        let numbers = || {
            constants.iter().filter_map(|constant| match constant {
                Constant::Integer(number) => Some(*number as i32),
                _ => None,
            })
        };
        let (name, test) = match first.name.as_str() {
            "enum" => ("enum", Test::Enum(constants, texts)),
            "except" => ("except", Test::Except(numbers().collect(), texts)),
            "types" => ("types", Test::Types(texts)),
            _ => ("paths", Test::Paths(texts)),
        };
        rules.checks.push(Check { name, test, place: first.place });
    }

    /// Remarks about a rule.
    pub(super) fn tell(
        &mut self,
        raw: &Raw,
        severity: Severity,
        rule: &'static str,
        message: String,
        hint: Option<String>,
    ) {
        let Some(place) = self.places.get(raw.place.0 as usize) else { return };
        let rest = place.line_text.chars().count().saturating_sub(place.place.column as usize - 1);
        self.remarks.push(Remark {
            rule: rule.into(),
            severity,
            source: place.source.clone(),
            at: place.at.clone(),
            place: place.place,
            line_text: Arc::clone(&place.line_text),
            width: raw.width.min(rest as u32).max(1),
            message,
            hint,
        });
    }
}

/// The full name of a set: by its own name, from the scope outwards (Language Guide, “Packages and Name Resolution”).
pub(crate) fn set_named(sets: &HashMap<String, Vec<Raw>>, name: &str, scope: &str) -> Option<String> {
    let mut within = Some(scope);
    while let Some(scope) = within {
        let full = if scope.is_empty() { name.to_owned() } else { format!("{scope}.{name}") };
        if sets.contains_key(&full) {
            return Some(full);
        }
        within = match scope.rsplit_once('.') {
            Some((outer, _)) => Some(outer),
            None => (!scope.is_empty()).then_some(""),
        };
    }
    None
}
