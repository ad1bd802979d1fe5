//! Rules between fields on the straight way: they read the text itself.

use super::notes::{Member, Met, NONE, Notes, Read};
use super::{End, Step, Walk};
use crate::schema::{Rule, Test};
use mervik_document::Decimal;
use mervik_document::json::{Cursor, Text};
use mervik_rules::notes::Inside;
use mervik_rules::{Name, Node, Plain, Raw, Sort};
use std::borrow::Cow;
use std::cell::Cell;

/// So many bytes are gone over for one step of work.
const BYTES_A_STEP: usize = 8;

/// What rules are told of the text.
struct Looking<'w, 't> {
    text: &'t str,
    notes: &'w Notes,
    /// Where the objects start that are open, with their notes.
    open: &'w [(usize, u32)],
    /// What is left to be done.
    work: Cell<u64>,
}

impl Looking<'_, '_> {
    fn charge(&self, bytes: usize) {
        self.work.set(self.work.get().saturating_sub((bytes / BYTES_A_STEP) as u64 + 1));
    }
}

/// A value of the text.
///
/// PERF: two words, so that one that may not be there comes back in registers.
struct Spot<'w, 't> {
    looking: &'w Looking<'w, 't>,
    /// The number of its note; if it has none, where it starts, with what stands before it, beyond all such numbers.
    place: u64,
}

/// Where places in the text begin.
const IN_TEXT: u64 = 1 << 32;

impl Clone for Spot<'_, '_> {
    fn clone(&self) -> Self {
        *self
    }
}

impl Copy for Spot<'_, '_> {}

impl<'s> Walk<'s, '_, '_> {
    /// Asks the rules between fields among rules of the value at `start`, which has been gone through and has this note. Leaves the
    /// cursor where it is.
    pub(super) fn stated(&mut self, rules: &'s [Rule], start: usize, note: u32) -> Step {
        // What lies around the value has not been gone through to its end. What is read there is as good as the rest of the text,
        // which is found out.
        let looking = Looking {
            text: self.cursor.text(),
            notes: &self.memory.notes,
            open: &self.memory.open,
            work: Cell::new(self.work),
        };
        let place = if note == NONE { IN_TEXT + start as u64 } else { u64::from(note) };
        let here = Spot { looking: &looking, place };
        for rule in rules {
            let Test::Stated(stated) = &rule.test else { continue };
            let Some(that) = &stated.that else { continue };
            if !mervik_rules::holds(that, stated.when.as_ref(), here, self.schema.now.as_ref()) {
                // A warning lets the document pass, and is to be told.
                return Err(if stated.warns { End::Unclear } else { End::Fails });
            }
        }
        self.work = looking.work.get();
        if self.work == 0 { Err(End::Unclear) } else { Ok(()) }
    }
}

impl<'w, 't> Spot<'w, 't> {
    fn cursor(self) -> Cursor<'t> {
        let mut cursor = Cursor::new(self.looking.text);
        cursor.go(self.read().map_or((self.place & (IN_TEXT - 1)) as usize, |met| met.at as usize));
        cursor
    }

    /// A value that has no note.
    fn found(self, at: usize) -> Self {
        Spot { place: IN_TEXT + at as u64, ..self }
    }

    /// A value that has one.
    #[inline]
    fn noted(self, note: u32) -> Self {
        Spot { place: u64::from(note), ..self }
    }

    /// What has been read of it.
    #[inline]
    fn read(self) -> Option<&'w Met> {
        self.looking.notes.get(self.place).map(|note| &note.met)
    }

    /// The first item of a list of which not all have a note.
    fn first(self) -> Option<Self> {
        let mut cursor = self.cursor();
        (cursor.take(b'[') && cursor.peek() != b']').then(|| self.found(cursor.place()))
    }

    /// The item after one of those.
    fn following(self) -> Option<Self> {
        let mut cursor = self.cursor();
        let start = cursor.place();
        cursor.skip_known();
        self.looking.charge(cursor.place() - start);
        let goes_on = cursor.take(b',');
        cursor.peek();
        goes_on.then(|| self.found(cursor.place()))
    }

    #[inline(never)] // PERF: what has been noted is read in little code
    fn sort_in_text(self) -> Sort {
        match self.cursor().peek() {
            b'n' => Sort::Nothing,
            b'[' => Sort::List,
            _ => Sort::Other,
        }
    }

    #[inline(never)]
    fn plain_in_text(self) -> Option<Plain<'t>> {
        let mut cursor = self.cursor();
        Some(match cursor.peek() {
            b'"' => Plain::Text(cursor.text_here()?),
            b'{' => Plain::Object,
            b'[' => Plain::List,
            b'-' | b'0'..=b'9' => {
                let (digits, fraction) = cursor.short_number()?;
                Plain::Number(digits, -i64::from(fraction))
            }
            b'n' => Plain::Nothing,
            first => Plain::Truth(first == b't'),
        })
    }

    /// A member that is not the last one of its kind.
    #[inline(never)]
    fn other_member(self, name: &Name) -> Option<Self> {
        match self.looking.notes.other_member(self.place, name) {
            Member::Noted(note) => Some(self.noted(note)),
            Member::Absent => None,
            Member::Unknown => self.search(name),
        }
    }

    /// A member that nobody has noted.
    #[cold]
    fn search(self, name: &Name) -> Option<Self> {
        let mut cursor = self.cursor();
        let start = cursor.place();
        if !cursor.take(b'{') {
            return None;
        }
        let found = loop {
            let is_it = match cursor.string() {
                Some(Text::Plain(text)) => *text == *name.text,
                Some(escaped) => *escaped.decoded() == *name.text,
                None => break false,
            };
            cursor.take(b':');
            if is_it {
                break true;
            }
            cursor.peek();
            cursor.skip_known();
            if !cursor.take(b',') {
                break false;
            }
        };
        self.looking.charge(cursor.place() - start);
        found.then(|| self.found(cursor.place()))
    }
}

impl<'w, 't> Node<'t> for Spot<'w, 't> {
    type Items = Items<'w, 't>;

    fn raw(self) -> Raw<'t> {
        let mut cursor = self.cursor();
        match cursor.peek() {
            b'"' => self.text().map_or(Raw::Nothing, Raw::Text),
            b'{' => Raw::Object,
            b'[' => Raw::List,
            b'-' | b'0'..=b'9' => {
                let number = cursor.number().and_then(|(text, _)| Decimal::parse(text));
                number.map_or(Raw::Nothing, Raw::Number)
            }
            _ => cursor.literal().flatten().map_or(Raw::Nothing, Raw::Truth),
        }
    }

    #[inline]
    fn sort(self) -> Sort {
        match self.read() {
            Some(Met { read: Read::List, .. }) => Sort::List,
            None | Some(Met { read: Read::Unread, .. }) => self.sort_in_text(),
            _ => Sort::Other,
        }
    }

    #[inline(always)]
    fn member(self, name: &Name) -> Option<Self> {
        match self.looking.notes.member(self.place, name) {
            Some(note) => Some(self.noted(note)),
            None => self.other_member(name),
        }
    }

    #[inline]
    fn plain(self) -> Option<Plain<'t>> {
        let Some(Met { at, read, .. }) = self.read() else { return self.plain_in_text() };
        match *read {
            Read::Number(digits, exponent) => Some(Plain::Number(digits, exponent)),
            Read::Text { end } | Read::Moment { end, .. } => {
                self.looking.text.get(*at as usize + 1..end as usize).map(Plain::Text)
            }
            Read::List => Some(Plain::List),
            Read::Object { .. } => Some(Plain::Object),
            Read::Unread => self.plain_in_text(),
        }
    }

    #[inline]
    fn plain_text(self) -> Option<&'t str> {
        match self.read() {
            Some(Met { at, read: Read::Text { end } | Read::Moment { end, .. }, .. }) => {
                self.looking.text.get(*at as usize + 1..*end as usize)
            }
            _ => match self.plain_in_text() {
                Some(Plain::Text(text)) => Some(text),
                _ => None,
            },
        }
    }

    #[inline]
    fn digits(self) -> Option<(i64, i64)> {
        match self.read() {
            Some(Met { read: Read::Number(digits, exponent), .. }) => Some((*digits, *exponent)),
            _ => match self.plain_in_text() {
                Some(Plain::Number(digits, exponent)) => Some((digits, exponent)),
                _ => None,
            },
        }
    }

    #[inline]
    fn seconds(self) -> Option<i64> {
        match self.read() {
            Some(Met { read: Read::Moment { seconds, .. }, .. }) => Some(*seconds),
            _ => None,
        }
    }

    fn text(self) -> Option<Cow<'t, str>> {
        let mut cursor = self.cursor();
        if cursor.peek() != b'"' {
            return None;
        }
        match cursor.text_here() {
            Some(text) => Some(Cow::Borrowed(text)),
            None => cursor.string().map(|text| text.decoded()),
        }
    }

    #[inline]
    fn items(self) -> Items<'w, 't> {
        match self.looking.notes.items(self.place) {
            Some(items) => Items::Noted(self, items),
            None => Items::Unread { list: Some(self), last: None },
        }
    }

    #[inline]
    fn each_item<E>(self, mut take: impl FnMut(Self) -> Result<(), E>) -> Result<(), E> {
        let Some(mut items) = self.looking.notes.items(self.place) else {
            return self.items().try_for_each(take);
        };
        while let Some(note) = self.looking.notes.next(&mut items) {
            take(self.noted(note))?;
        }
        Ok(())
    }

    fn above(self) -> Option<Self> {
        let mut cursor = self.cursor();
        cursor.peek();
        let mut around = self.looking.open.iter().rev();
        let (at, note) = *around.find(|(outer, _)| *outer < cursor.place())?;
        Some(if note == NONE { self.found(at) } else { self.noted(note) })
    }

    fn document(self) -> Self {
        // It has the first note.
        self.noted(0)
    }
}

/// The items of a list.
enum Items<'w, 't> {
    Noted(Spot<'w, 't>, Inside),
    Unread {
        /// The list, before its first item.
        list: Option<Spot<'w, 't>>,
        last: Option<Spot<'w, 't>>,
    },
}

impl<'w, 't> Iterator for Items<'w, 't> {
    type Item = Spot<'w, 't>;

    #[inline]
    fn next(&mut self) -> Option<Self::Item> {
        match self {
            Items::Noted(list, items) => list.looking.notes.next(items).map(|note| list.noted(note)),
            Items::Unread { list, last } => {
                *last = match list.take() {
                    Some(list) => list.first(),
                    None => last.and_then(Spot::following),
                };
                *last
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::{Checker, Nowhere, Options, Schema, compile};
    use mervik_document::{Document, Tape, json};
    use proptest::prelude::*;

    /// Crates in crates: the same names at every depth, read from below, from above and through lists.
    const CRATES: &str = r##"{"type":"object","properties":{"in":{"$ref":"#/$defs/crate"},"with":{"$ref":"#/$defs/list"},"size":{"type":"number"}},
        "x-mervik":{"rules":[{"id":"whole","that":"in.in.size is not 3"}]},"$defs":{
        "list":{"type":"array","items":{"$ref":"#/$defs/crate"}},
        "crate":{"type":"object","properties":{"in":{"$ref":"#/$defs/crate"},"with":{"$ref":"#/$defs/list"},"size":{"type":"number"},"note":{"type":"string"}},
        "x-mervik":{"rules":[
            {"id":"fits","that":"in.size is at most size"},
            {"id":"fit","that":"sum of with.size is at most size + 6"},
            {"id":"far","when":"in.in is present","that":"in.in.size is less than size + 4"},
            {"id":"differ","that":"with.in.size are distinct"},
            {"id":"within","that":"size is at most document.size + 7"},
            {"id":"noted","when":"note is \"n\"","that":"with is present or in is absent"}]}}}}"##;

    fn compiled(name: &str, text: &str) -> Schema {
        compile(name, &format!("file:///{name}"), text, "", &mut Nowhere, Options::default())
            .unwrap_or_else(|errors| panic!("{errors}"))
    }

    /// Documents of that kind, with their members in any order, some of them without rules' names, and spaces in between.
    fn any_crate() -> impl Strategy<Value = String> {
        let leaf = (0..7u8).prop_map(|size| format!("{{\"size\":{size}}}"));
        leaf.prop_recursive(5, 40, 4, |inner| {
            let list = prop::collection::vec(inner.clone(), 0..4);
            let other =
                prop::sample::select(vec!["\"x\":{\"size\":9}", "\"note\" : \"n\"", "\"note\":\"m\"", "\"y\":[[{}]]"]);
            let parts =
                (prop::option::of(inner), prop::option::of(list), prop::option::of(0..9u8), prop::option::of(other));
            parts.prop_flat_map(|(within, with, size, other)| {
                let members = [
                    within.map(|within| format!("\"in\":{within}")),
                    with.map(|with| format!("\"with\": [{}]", with.join(", "))),
                    size.map(|size| format!("\"size\" :{size}")),
                    other.map(str::to_owned),
                ];
                let members: Vec<String> = members.into_iter().flatten().collect();
                Just(members).prop_shuffle().prop_map(|members| format!("{{ {} }}", members.join(",")))
            })
        })
    }

    /// Berths with calls, of two kinds that only a second look tells apart, with rules on every level.
    const BERTHS: &str = r##"{"allOf":[{"$ref":"#/$defs/base"}],"properties":{"n":{"type":["number","null"]},"calls":{"type":"array","items":{"anyOf":[
        {"$ref":"#/$defs/call"},{"$ref":"#/$defs/stay"}]}}},
        "x-mervik":{"rules":[
            {"id":"sum","that":"sum of calls.n is at most n"},
            {"id":"few","that":"count of calls.t is at most 2 or n is absent"},
            {"id":"apart","that":"calls.t are distinct"},
            {"id":"after","that":"until is at least 1 hour after at"},
            {"id":"named","when":"t is present","that":"t begins with \"A\" or (t is not \"B\" and length of t is less than 3)"}]},
        "$defs":{
        "base":{"type":"object","properties":{"t":{"type":["string","null"]},"at":{"type":"string","format":"date-time"},
            "until":{"type":"string","format":"date-time"}},
            "x-mervik":{"rules":[{"id":"base","that":"at is not after 2026-11-29T07:30:00Z"}]}},
        "call":{"type":"object","required":["t"],"properties":{"t":{"type":"string","maxLength":1},"n":{"type":"number"}},
            "x-mervik":{"rules":[{"id":"call","that":"n is between -3 and 12.5"}]}},
        "stay":{"type":"object","required":["n"],"properties":{"n":{"type":"number"},"at":{"type":"string","format":"date-time"},
            "calls":{"type":"array","items":{"type":"object","properties":{"n":{"type":"number"}}}}},
            "x-mervik":{"rules":[{"id":"stay","that":"at is after document.at"},{"id":"within","that":"sum of calls.n is at least above.n - 2"}]}}}}"##;

    /// An object with some of these members, each with one of its values, in any order.
    fn members(all: &'static [(&'static str, &'static [&'static str])]) -> impl Strategy<Value = Vec<String>> {
        let each: Vec<_> = all
            .iter()
            .map(|(name, values)| {
                prop::option::weighted(0.7, prop::sample::select(*values))
                    .prop_map(move |value| Some(format!("\"{name}\":{}", value?)))
            })
            .collect();
        each.prop_map(|members| members.into_iter().flatten().collect::<Vec<_>>()).prop_shuffle()
    }

    const NUMBERS: &[&str] =
        &["1", "-3", "2.5", "1e1", "12.50", "0", "-0.0", "123456789012345678901234567890", "25e-1"];
    const TEXTS: &[&str] = &[r#""A""#, r#""B""#, r#""\u0041""#, r#""C\n""#, r#""""#, r#""é""#];
    const MOMENTS: &[&str] = &[
        r#""2026-11-29T06:00:00Z""#,
        r#""2026-11-29T07:00:00Z""#,
        r#""2026-11-29T07:00:00.5Z""#,
        r#""2026-11-29T09:00:00+01:00""#,
        r#""2026-11-29T06:59:60Z""#,
    ];

    fn any_berth() -> impl Strategy<Value = String> {
        const CALL: &[(&str, &[&str])] = &[
            ("t", TEXTS),
            ("n", NUMBERS),
            ("at", MOMENTS),
            ("calls", &["[]", "[{}, {\"n\": 4}]", "[{\"n\":1},{\"n\":-2.5}]"]),
        ];
        const BERTH: &[(&str, &[&str])] =
            &[("t", TEXTS), ("n", NUMBERS), ("at", MOMENTS), ("until", MOMENTS), ("x", &["null", "{\"n\":[1]}"])];
        let calls =
            prop::collection::vec(members(CALL).prop_map(|members| format!("{{{}}}", members.join(", "))), 0..4);
        (members(BERTH), prop::option::weighted(0.8, calls), any::<prop::sample::Index>()).prop_map(
            |(mut members, calls, at)| {
                if let Some(calls) = calls {
                    members.insert(at.index(members.len() + 1), format!("\"calls\":[{}]", calls.join(",")));
                }
                format!("{{{}}}", members.join(","))
            },
        )
    }

    proptest! {
        #[test]
        fn what_is_noted_is_what_is_there(texts in prop::collection::vec(any_crate(), 1..4)) {
            on_both_ways_it_is_the_same(&compiled("crates", CRATES), &texts)?;
        }

        #[test]
        fn second_looks_and_odd_values_are_no_matter(texts in prop::collection::vec(any_berth(), 1..4)) {
            on_both_ways_it_is_the_same(&compiled("berths", BERTHS), &texts)?;
        }
    }

    fn on_both_ways_it_is_the_same(schema: &Schema, texts: &[String]) -> Result<(), TestCaseError> {
        let (mut straight, mut other) = (Checker::new(schema), Checker::new(schema));
        // One after another, so that nothing is left over from the text before.
        for text in texts {
            let mut tape = Tape::new();
            json::read(text, &mut tape).unwrap();
            let verdict = other.accepts(&Document::new(text, &tape));
            prop_assert_eq!(straight.accepts_text(text), verdict, "{}", text);
        }
        Ok(())
    }

    #[test]
    fn a_list_of_more_items_than_are_noted_is_read_in_the_text() {
        let schema = compiled(
            "list",
            r#"{"properties":{"l":{"type":"array","items":{"type":"number"}},"n":{"type":"number"}},
            "x-mervik":{"rules":[{"id":"sum","that":"sum of l is n"}]}}"#,
        );
        let items = vec!["1"; (1 << 20) + 5].join(",");
        for (sum, expected) in [((1 << 20) + 5, true), ((1 << 20) - 1, false)] {
            let text = format!("{{\"l\":[{items}],\"n\":{sum}}}");
            assert_eq!(Checker::new(&schema).accepts_text(&text), expected, "{sum}");
        }
    }
}
