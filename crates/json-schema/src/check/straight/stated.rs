//! Rules between fields on the straight way: they read the text itself.

use super::object::{Known, Member, member_of};
use super::{Asked, End, Step, Straight, Walk, verdict};
use crate::schema::Stated;
use mervik_document::Decimal;
use mervik_document::json::{Cursor, Text};
use mervik_rules::{Name, Node, Plain, Raw, Sort};
use std::borrow::Cow;
use std::cell::Cell;

/// Among so many members that rules read one is looked for.
const MAX_AHEAD: usize = 16;

/// So many bytes are gone over for one step of work.
const BYTES_A_STEP: usize = 8;

/// What rules are told of the text.
struct Looking<'w, 's, 't> {
    text: &'t str,
    /// Where the document starts.
    document: usize,
    known: Option<&'w Known<'s>>,
    memory: &'w Straight,
    /// What is left to be done.
    work: Cell<u64>,
}

impl Looking<'_, '_, '_> {
    /// Where a member of an object is, as far as it has been met.
    #[inline]
    fn member(&self, name: &Name, start: usize) -> Member {
        if let (Some(slot), Some(known)) = (name.slot, self.known.filter(|known| known.is_of(start)))
            && let Some(member) = known.member(slot, &self.memory.found)
        {
            return member;
        }
        match member_of(self.known, &self.memory.found, &name.text, name.hash, start) {
            Member::Unknown => self.asked(name, start).map_or(Member::Unknown, Member::At),
            known => known,
        }
    }

    /// The same among the members that rules read: those of an object stand after where it starts, with those of others in between.
    fn asked(&self, name: &Name, start: usize) -> Option<usize> {
        let all = &self.memory.asked;
        // The first may be the object itself, as a member of another one.
        let first = if all.len() <= MAX_AHEAD { 0 } else { all.partition_point(|asked| asked.value <= start) };
        let after = all.get(first..)?.iter().take(MAX_AHEAD);
        let is_it = |asked: &&Asked| asked.object == start && asked.hash == name.hash;
        after.into_iter().find(is_it).map(|asked| asked.value)
    }

    /// Where an item of a list ends that starts here, and which of the noted ones it is, if it has been noted. It may be
    /// the one at `near`.
    #[inline]
    fn item(&self, start: usize, near: usize) -> Option<(usize, usize)> {
        let items = &self.memory.items;
        if let Some((_, end)) = items.get(near).filter(|(at, _)| *at == start) {
            return Some((near, *end));
        }
        let index = items.binary_search_by_key(&start, |(start, _)| *start).ok()?;
        items.get(index).map(|(_, end)| (index, *end))
    }

    fn charge(&self, bytes: usize) {
        self.work.set(self.work.get().saturating_sub((bytes / BYTES_A_STEP) as u64 + 1));
    }
}

/// A value of the text: where it starts, with what stands before it.
struct Spot<'w, 's, 't> {
    at: usize,
    looking: &'w Looking<'w, 's, 't>,
}

impl Clone for Spot<'_, '_, '_> {
    fn clone(&self) -> Self {
        *self
    }
}

impl Copy for Spot<'_, '_, '_> {}

impl<'s> Walk<'s, '_, '_> {
    /// Asks a rule of the value at `start`, which has been gone through. Leaves the cursor where it is.
    pub(super) fn stated(&mut self, stated: &'s Stated, start: usize) -> Step {
        let Some(that) = &stated.that else { return Ok(()) };
        let when = stated.when.as_ref();
        // What lies around the value has not been gone through to its end. What is read there is as good as the rest of the text,
        // which is found out.
        let looking = Looking {
            text: self.cursor.text(),
            document: self.start,
            known: self.known.as_ref(),
            memory: self.memory,
            work: Cell::new(self.work),
        };
        let here = Spot { at: start, looking: &looking };
        let holds = mervik_rules::holds(that, when, here, self.schema.now.as_ref());
        self.work = looking.work.get();
        // A warning lets the document pass, and is to be told.
        let unclear = self.work == 0 || (stated.warns && !holds);
        if unclear { Err(End::Unclear) } else { verdict(holds) }
    }
}

impl<'w, 's, 't> Spot<'w, 's, 't> {
    fn cursor(self) -> Cursor<'t> {
        let mut cursor = Cursor::new(self.looking.text);
        cursor.go(self.at);
        cursor
    }

    fn at(self, at: usize) -> Self {
        Spot { at, ..self }
    }
}

impl<'w, 's, 't> Spot<'w, 's, 't> {
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
        found.then(|| self.at(cursor.place()))
    }
}

impl<'w, 's, 't> Node<'t> for Spot<'w, 's, 't> {
    type Items = Items<'w, 's, 't>;

    fn raw(self) -> Raw<'t> {
        let mut cursor = self.cursor();
        match cursor.peek() {
            b'"' => self.text().map_or(Raw::Nothing, Raw::Text),
            b'{' => Raw::Object,
            b'[' => Raw::List,
            b'-' | b'0'..=b'9' => {
                let short = cursor.short_number().map(|(number, _)| number);
                let number = short.or_else(|| Decimal::parse(cursor.number()?.0));
                number.map_or(Raw::Nothing, Raw::Number)
            }
            _ => cursor.literal().flatten().map_or(Raw::Nothing, Raw::Truth),
        }
    }

    #[inline]
    fn sort(self) -> Sort {
        match self.cursor().peek() {
            b'n' => Sort::Nothing,
            b'[' => Sort::List,
            _ => Sort::Other,
        }
    }

    fn member(self, name: &Name) -> Option<Self> {
        // PERF: what is known of the object was found where it starts; a spot that is none of its starts is not known.
        match self.looking.member(name, self.at) {
            Member::At(value) => Some(self.at(value)),
            Member::Absent => None,
            Member::Unknown => self.search(name),
        }
    }

    #[inline]
    fn plain(self) -> Option<Plain<'t>> {
        let mut cursor = self.cursor();
        Some(match cursor.peek() {
            b'"' => Plain::Text(cursor.text_here()?),
            b'{' => Plain::Object,
            b'[' => Plain::List,
            b'-' | b'0'..=b'9' => {
                let (digits, exponent) = cursor.short_number()?.0.small_parts()?;
                Plain::Number(digits, exponent)
            }
            b'n' => Plain::Nothing,
            first => Plain::Truth(first == b't'),
        })
    }

    #[inline]
    fn plain_text(self) -> Option<&'t str> {
        let mut cursor = self.cursor();
        if cursor.peek() == b'"' { cursor.text_here() } else { None }
    }

    #[inline]
    fn is_list(self) -> bool {
        self.cursor().peek() == b'['
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

    fn items(self) -> Items<'w, 's, 't> {
        Items { list: Some(self), last: None, near: 0 }
    }

    fn above(self) -> Option<Self> {
        let mut cursor = self.cursor();
        cursor.peek();
        let around = self.looking.memory.open.iter().rev();
        let outer = around.into_iter().find(|outer| **outer < cursor.place())?;
        Some(self.at(*outer))
    }

    fn document(self) -> Self {
        self.at(self.looking.document)
    }
}

/// The items of a list.
struct Items<'w, 's, 't> {
    /// The list, before its first item.
    list: Option<Spot<'w, 's, 't>>,
    last: Option<Spot<'w, 's, 't>>,
    /// Which of the noted items the last one may be.
    near: usize,
}

impl<'w, 's, 't> Iterator for Items<'w, 's, 't> {
    type Item = Spot<'w, 's, 't>;

    fn next(&mut self) -> Option<Self::Item> {
        let (spot, goes_on) = match self.list.take() {
            Some(list) => {
                let mut cursor = list.cursor();
                let goes_on = cursor.take(b'[') && cursor.peek() != b']';
                (list.at(cursor.place()), goes_on)
            }
            None => {
                let last = self.last?;
                let mut cursor = last.cursor();
                match last.looking.item(last.at, self.near) {
                    Some((index, end)) => {
                        cursor.go(end);
                        self.near = index + 1;
                    }
                    None => {
                        cursor.skip_known();
                        last.looking.charge(cursor.place() - last.at);
                    }
                }
                let goes_on = cursor.take(b',');
                cursor.peek();
                (last.at(cursor.place()), goes_on)
            }
        };
        self.last = goes_on.then_some(spot);
        self.last
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

    fn crates() -> Schema {
        compile("crates", "file:///crates", CRATES, "", &mut Nowhere, Options::default())
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

    proptest! {
        #[test]
        fn what_is_noted_is_what_is_there(texts in prop::collection::vec(any_crate(), 1..4)) {
            let schema = crates();
            let (mut straight, mut other) = (Checker::new(&schema), Checker::new(&schema));
            // One after another, so that nothing is left over from the text before.
            for text in &texts {
                let mut tape = Tape::new();
                json::read(text, &mut tape).unwrap();
                let verdict = other.accepts(&Document::new(text, &tape));
                prop_assert_eq!(straight.accepts_text(text), verdict, "{}", text);
            }
        }
    }
}
