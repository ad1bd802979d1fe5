//! What a schema lists: values, types, formats, defaults and examples.

use super::{Raw, Sub, Vetter, rules};
use crate::check::Checker;
use crate::compile::{Options, type_words};
use crate::format::{self, Format};
use crate::schema::Kinds;
use mervik_document::tape::{equal, hash_value};
use mervik_document::{Decimal, Kind, NodeId, Value, edit, near, shown};
use std::collections::HashMap;
use std::hash::RandomState;

/// So many texts are suspected to be no enumeration, when half of them have so many words.
const MANY_TEXTS: usize = 12;
const WORDS_OF_TEXT: usize = 3;

/// So many of the six types are nearly all.
const NEARLY_ALL_TYPES: u32 = 5;

/// Up to here, floating point of 64 bits holds every integer.
const SAFE: u64 = 1 << 53;

impl Vetter<'_> {
    /// `enum`: values that stand twice, and lists that are none.
    pub(super) fn listed_values(&mut self, sub: Sub<'_>) {
        let Some(list) = sub.keyword("enum").filter(|_| !sub.is_bare_reference()) else { return };
        let state = RandomState::new();
        let mut seen: HashMap<u64, Vec<NodeId>> = HashMap::new();
        for item in list.items() {
            let same = seen.entry(hash_value(item, &state)).or_default();
            if same.iter().any(|earlier| equal(self.document.value(*earlier), item)) {
                let message = format!("{} stands in `enum` twice", shown::value(item));
                let remark = Raw::new(&rules::DUPLICATE_VALUE, item.id(), message);
                self.say(remark.fix("remove the second", [edit::remove(self.document, item.id())]));
            }
            same.push(item.id());
        }
        let texts: Vec<&str> = list.items().filter_map(Value::as_str).collect();
        let wordy = texts.iter().filter(|text| text.split_whitespace().count() >= WORDS_OF_TEXT).count();
        if texts.len() >= MANY_TEXTS && wordy * 2 >= texts.len() {
            let message = format!("`enum` lists {} values that look like free text", texts.len());
            let keyword = self.document.name_of(list.id()).unwrap_or(list.id());
            let remark = Raw::new(&rules::FREE_TEXT_VALUES, keyword, message);
            self.say(remark.hint("`type: string` with `maxLength` takes whatever people write"));
        }
    }

    pub(super) fn types_and_formats(&mut self, sub: Sub<'_>) {
        if sub.is_bare_reference() {
            return;
        }
        if let Some(list) = sub.member("type").filter(|member| member.value.kind() == Kind::Array) {
            let types = sub.node.types;
            let count = types.reach().0.count_ones();
            if count >= NEARLY_ALL_TYPES {
                let missing = Kinds(Kinds::ALL.0 & !types.reach().0);
                let missing = crate::schema::Types { kinds: missing, integer: false, plain: false };
                let left = match type_words(missing).as_slice() {
                    [] => "anything at all".to_owned(),
                    words => format!("everything but {}", words.join(" and ")),
                };
                let message = format!("`type` lists {} types: it accepts {left}", list.value.items().count());
                self.say(Raw::new(&rules::LOOSE_TYPE, list.name.id(), message));
            }
        }
        if let Some(format) = sub.keyword("format")
            && let Some(name) = format.as_str()
            && Format::find(name).is_none()
            && !format::is_note(name)
        {
            let message = format!("the format `{name}` is not known, and refuses nothing");
            let remark = Raw::new(&rules::UNKNOWN_FORMAT, format.id(), message);
            self.say(match near::nearest(name, Format::names()) {
                Some(near) => remark.hint(format!("`{near}` is near")).fix(
                    format!("write `{near}`"),
                    [Some(edit::replace(self.document, format.id(), edit::quoted(near)))],
                ),
                None => remark.hint("`pattern` states a form that every program checks"),
            });
        }
        self.unsafe_integer(sub);
    }

    fn unsafe_integer(&mut self, sub: Sub<'_>) {
        let types = sub.node.types;
        if !types.integer || types.kinds.meets(Kinds::NUMBERS) {
            return;
        }
        let safe = Decimal::from(SAFE);
        for name in ["minimum", "exclusiveMinimum", "maximum", "exclusiveMaximum"] {
            let Some(bound) = sub.keyword(name) else { continue };
            if bound.as_decimal().is_some_and(|bound| bound.magnitude() > safe) {
                let message =
                    format!("`{name}` {} lies beyond 2^53: many programs round such integers", bound.source());
                let remark = Raw::new(&rules::UNSAFE_INTEGER, bound.id(), message);
                self.say(remark.hint("a string with a `pattern` keeps every digit"));
            }
        }
    }

    /// `default` and `examples`, against the schema that they stand in.
    pub(super) fn stated_values(&mut self, sub: Sub<'_>, options: Options) {
        if sub.is_bare_reference() {
            return;
        }
        let schema = self.schema();
        // A field that only the owner writes may well have a default.
        if options.direction.is_some() {
            return;
        }
        let mut checker = Checker::new(schema);
        let default = sub.keyword("default");
        let examples = sub.keyword("examples").into_iter().flat_map(Value::items);
        let default = default.map(|value| (&rules::REFUSED_DEFAULT, "the default", value));
        for (rule, what, value) in
            default.into_iter().chain(examples.map(|value| (&rules::REFUSED_EXAMPLE, "the example", value)))
        {
            let findings = checker.findings_at(sub.id, value);
            let Some(first) = findings.first() else { continue };
            let more = match findings.len() - 1 {
                0 => String::new(),
                more => format!(", and {more} more"),
            };
            let message = format!("{what} {} is refused: {}{more}", shown::value(value), first.message);
            self.say(Raw::new(rule, value.id(), message));
        }
    }
}
