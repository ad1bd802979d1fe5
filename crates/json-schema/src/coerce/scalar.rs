//! Values that are no containers.

use super::notes::Clean;
use super::walk::{Layers, Walk};
use super::{Level, Reason, dates};
use crate::format::Format;
use crate::schema::{Kinds, Test, Types, Values};
use mervik_document::edit::quoted;
use mervik_document::json::Cursor;
use mervik_document::{Decimal, Kind, Value};

/// What a value could be turned into.
#[derive(Clone, Debug)]
enum Turned<'t> {
    Null,
    Bool(bool),
    /// As it is spelled.
    Number(&'t str),
    Text(&'t str),
}

impl Turned<'_> {
    fn kind(&self) -> Kind {
        match self {
            Turned::Null => Kind::Null,
            Turned::Bool(_) => Kind::Bool,
            Turned::Number(_) => Kind::Number,
            Turned::Text(_) => Kind::String,
        }
    }
}

impl Walk<'_, '_> {
    /// The new source of a value that is no container.
    pub(super) fn scalar(&mut self, layers: Layers, value: Value<'_>) -> Option<String> {
        let types = self.types(layers);
        match value.as_str() {
            Some(text) => self.text(layers, types, value, text),
            None => self.other(layers, types, value),
        }
    }

    fn text(&mut self, layers: Layers, types: Types, value: Value<'_>, text: &str) -> Option<String> {
        let (cleaned, now_null) = self.cleaned(layers, text);
        if now_null {
            return Some("null".to_owned());
        }
        let now = cleaned.as_deref().unwrap_or(text);
        if self.fits(layers, types, &Turned::Text(now)) {
            let respelled = self.date(layers, now);
            return respelled.or_else(|| cleaned.as_deref().map(quoted));
        }
        let source = cleaned.as_deref().map(quoted);
        let from = source.as_deref().unwrap_or(value.source());
        let trimmed = now.trim();
        let meant = match self.coercion.level {
            Level::Exact => None,
            Level::Lossless => meant(now),
            Level::Generous => meant(trimmed).or_else(|| generous(trimmed)),
        };
        // Where no text is wanted at all, what was meant is plain even if it is none of the values that are listed.
        let no_text = !types.kinds.meets(Kinds::STRINGS);
        if let Some((turned, reason)) = meant
            && (self.fits(layers, types, &turned) || (no_text && allows(types, &turned)))
        {
            let new = spelled(&turned, types);
            self.replaced(from, &new, Reason::Type(reason));
            return Some(new);
        }
        let generous = self.coercion.level == Level::Generous;
        if generous && trimmed != now && self.fits(layers, types, &Turned::Text(trimmed)) {
            let new = quoted(trimmed);
            self.replaced(from, &new, Reason::Type("space around the value"));
            return Some(new);
        }
        if self.is_to_be_wrapped(layers, Kind::String) {
            return Some(match source {
                Some(source) => {
                    let new = format!("[{source}]");
                    self.replaced(&source, &new, Reason::Type("one value for a list"));
                    new
                }
                None => self.wrapped(value),
            });
        }
        source
    }

    fn other(&mut self, layers: Layers, types: Types, value: Value<'_>) -> Option<String> {
        let source = value.source();
        let met = match value.kind() {
            Kind::Number => Turned::Number(source),
            Kind::Bool => Turned::Bool(value.as_bool() == Some(true)),
            _ => Turned::Null,
        };
        let integers_only = types.integer && !types.kinds.meets(Kinds::NUMBERS);
        if self.coercion.level != Level::Exact && value.kind() == Kind::Number && integers_only {
            let whole = value.is_integer() && !value.is_plain_integer();
            let plain = spelled(&met, types);
            if whole && plain != source && !plain.contains('e') {
                self.replaced(source, &plain, Reason::Type("a whole number"));
                return Some(plain);
            }
        }
        if self.fits(layers, types, &met) {
            return None;
        }
        let generous = self.coercion.level == Level::Generous;
        if generous && value.kind() == Kind::Number && self.fits(layers, types, &Turned::Text(source)) {
            let new = quoted(source);
            self.replaced(source, &new, Reason::Type("a number for text"));
            return Some(new);
        }
        self.is_to_be_wrapped(layers, value.kind()).then(|| self.wrapped(value))
    }

    /// Cleans a string up as the schemas ask; tells whether it is `null` now.
    fn cleaned(&mut self, layers: Layers, text: &str) -> (Option<String>, bool) {
        let mut now: Option<String> = None;
        for clean in self.cleaning(layers).collect::<Vec<_>>() {
            let before = now.as_deref().unwrap_or(text);
            if clean == Clean::EmptyToNull && before.is_empty() {
                self.replaced("\"\"", "null", Reason::Clean(clean.name()));
                return (None, true);
            }
            if let Some(after) = clean.apply(before) {
                let (from, to) = (quoted(before), quoted(&after));
                self.replaced(&from, &to, Reason::Clean(clean.name()));
                now = Some(after);
            }
        }
        (now, false)
    }

    /// The spelling that a `format` of dates and times asks for.
    fn date(&mut self, layers: Layers, text: &str) -> Option<String> {
        let formats = self.layers(layers).flat_map(|id| self.schema.rules_of(id)).filter_map(|rule| match &rule.test {
            Test::Format(format @ (Format::Date | Format::Time | Format::DateTime)) => Some(*format),
            _ => None,
        });
        let format = formats.into_iter().next().filter(|format| !format.matches(text))?;
        let patterns = self.notes(layers).flat_map(|note| &note.parse).filter(|_| self.coercion.directives);
        let parsed = patterns.into_iter().find_map(|pattern| dates::parsed(text, pattern, format));
        let (new, reason) = match parsed {
            Some(new) => (new, Reason::Parse),
            None if self.coercion.level == Level::Exact => return None,
            None => (dates::respelled(text, format)?, Reason::Type("the date or time as RFC 3339 spells it")),
        };
        let new = quoted(&new);
        self.replaced(&quoted(text), &new, reason);
        Some(new)
    }

    /// Whether the types and the values that the schemas list allow this one.
    fn fits(&self, layers: Layers, types: Types, turned: &Turned<'_>) -> bool {
        allows(types, turned)
            && self.layers(layers).flat_map(|id| self.schema.rules_of(id)).all(|rule| match &rule.test {
                Test::OneOfValues(values) => self.lists(values, turned),
                Test::Never => false,
                _ => true,
            })
    }

    fn lists(&self, values: &Values, turned: &Turned<'_>) -> bool {
        let has = |holds: &dyn Fn(Value<'_>) -> bool| {
            values
                .others
                .iter()
                .any(|at| self.schema.file(at.file).is_some_and(|file| holds(file.document().value(at.node))))
        };
        match turned {
            Turned::Text(text) => values.strings.find(text).is_some(),
            Turned::Number(spelled) => Decimal::parse(spelled).is_some_and(|number| values.numbers.contains(&number)),
            Turned::Bool(met) => has(&|value| value.as_bool() == Some(*met)),
            Turned::Null => has(&|value| value.kind() == Kind::Null),
        }
    }
}

fn allows(types: Types, turned: &Turned<'_>) -> bool {
    match turned {
        Turned::Number(spelled) => {
            types.kinds.meets(Kinds::NUMBERS)
                || (types.integer && Decimal::parse(spelled).is_some_and(|number| number.is_integer()))
        }
        other => types.kinds.meets(Kinds::of(other.kind())),
    }
}

/// What a text is meant for when it is not meant for text, and cannot be misread.
fn meant(text: &str) -> Option<(Turned<'_>, &'static str)> {
    match text {
        "true" => Some((Turned::Bool(true), "text for a boolean")),
        "false" => Some((Turned::Bool(false), "text for a boolean")),
        "null" => Some((Turned::Null, "text for null")),
        _ => {
            let mut cursor = Cursor::new(text);
            let starts = text.starts_with(|c: char| c == '-' || c.is_ascii_digit());
            (starts && cursor.number().is_some() && cursor.is_at_end())
                .then_some((Turned::Number(text), "text for a number"))
        }
    }
}

fn generous(text: &str) -> Option<(Turned<'_>, &'static str)> {
    let is = |words: &[&str]| words.iter().any(|word| text.eq_ignore_ascii_case(word));
    if text.is_empty() {
        Some((Turned::Null, "the empty string for null"))
    } else if is(&["yes", "on", "true"]) {
        Some((Turned::Bool(true), "a word for true"))
    } else if is(&["no", "off", "false"]) {
        Some((Turned::Bool(false), "a word for false"))
    } else {
        None
    }
}

/// As JSON; a whole number without fraction and exponent where only whole ones are allowed.
fn spelled(turned: &Turned<'_>, types: Types) -> String {
    match turned {
        Turned::Null => "null".to_owned(),
        Turned::Bool(value) => value.to_string(),
        Turned::Text(text) => quoted(text),
        Turned::Number(source) => {
            let integers_only = types.integer && !types.kinds.meets(Kinds::NUMBERS);
            let plain = source.bytes().all(|byte| byte.is_ascii_digit() || byte == b'-');
            match Decimal::parse(source) {
                Some(number) if integers_only && !plain => number.to_string(),
                _ => (*source).to_owned(),
            }
        }
    }
}
