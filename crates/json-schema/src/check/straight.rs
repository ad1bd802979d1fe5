//! The straight way: a text is checked as it is read, and nothing is kept.
//!
//! Most documents hold, and of those nobody wants to know more. For them the way over the tape costs more than the
//! check: every value is written down only to be looked at once. Here the schema is followed along the text itself. A
//! rule that needs a second look at a value, such as a union, goes back to where the value starts.
//!
//! The answer is "it holds" or "take a closer look": malformed text, repeated names, and whatever is not worth the trouble
//! here are left to the tape. So this way can be quick without being complete, and whatever it says "no" to is asked
//! again.
//!
//! PERF: records of one source name their members in the same order, mostly. For each `properties`, what came after what
//! is remembered, and the next name is compared with the one expected, quotes and colon included, before it is looked
//! up. `cargo bench -p mervik-json-schema` states what this way costs beside the other.

mod array;
mod notes;
mod object;
mod stated;

use super::scalars;
use crate::format::Format;
use crate::pattern::Pattern;
use crate::schema::{Kinds, Node, Schema, SchemaId, Test, Union};
use mervik_document::json::{Cursor, MAX_BYTES, Text};
use mervik_document::{Decimal, Kind, calendar};
use notes::{NONE, Notes, Read};
use object::Known;

/// How deep values, and schemas applied to one of them, may lie within each other.
const MAX_DEPTH: u32 = 400;

/// Up to so many names that no `properties` has are compared with each other; and so many items.
const FEW: usize = 32;

/// How much may be done for each byte of the text, and besides.
const WORK_A_BYTE: u64 = 4;
const WORK_BESIDES: u64 = 4_000;

/// After so many texts it is given up, if more than a quarter of them had to be looked at closer.
const PROBATION: u32 = 64;

/// What the straight way keeps from text to text.
#[derive(Debug, Default)]
pub(super) struct Straight {
    /// For each `properties`, after each of its names: the name that came next, the last time.
    next: Box<[u16]>,
    /// For each name of each `properties`, the last object that had it and where its value starts there.
    found: Box<[(usize, usize)]>,
    /// Hashes of names that no `properties` has, of all objects that are open.
    others: Vec<u32>,
    /// Where the objects start that are open, with their notes, for rules that look up.
    open: Vec<(usize, u32)>,
    /// What rules between fields read.
    notes: Notes,
    tried: u32,
    lost: u32,
    /// What was met in the last text that held, for who would change something of it.
    pub(super) met: Met,
}

/// What a coercion may have to change although the document holds.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Met {
    /// A whole number that is spelled with a point or an exponent, a default that is absent, a value of which a directive
    /// speaks.
    pub(super) stirring: bool,
    /// A name that no `properties` has.
    pub(super) strange: bool,
}

/// Why the straight way ended.
enum End {
    /// The value does not hold.
    Fails,
    /// It takes a closer look.
    Unclear,
}

type Step = Result<(), End>;

/// How a value is gone through.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Look {
    /// Nobody has gone through it yet: it must be found well-formed, its names included.
    First,
    /// It has been gone through, and the cursor goes past it once more.
    Again,
    /// It has been gone through, and the cursor may be left anywhere.
    Aside,
}

impl Look {
    #[inline]
    fn is_first(self) -> bool {
        self == Look::First
    }

    /// The look at what lies within a value that is looked at like this: reading goes on behind each part of it.
    #[inline]
    fn within(self) -> Look {
        if self.is_first() { Look::First } else { Look::Again }
    }
}

impl Straight {
    pub(super) fn accepts(&mut self, schema: &Schema, text: &str) -> bool {
        let hopeless = self.tried >= PROBATION && self.lost > self.tried / 4;
        if schema.straight.is_none() || hopeless || text.len() > MAX_BYTES {
            return false;
        }
        let places = schema.straight.unwrap_or(0) as usize;
        if self.next.len() != places {
            (self.next, self.found) = (vec![0; places].into(), vec![(0, 0); places].into());
        }
        self.others.clear();
        self.open.clear();
        self.met = Met::default();
        let work = text.len() as u64 * WORK_A_BYTE + WORK_BESIDES;
        let mut cursor = Cursor::new(text);
        cursor.peek();
        let start = cursor.place();
        self.notes.clear(places);
        // The document has the first note.
        let note = if schema.has_stated { self.notes.add(start) } else { NONE };
        let mut walk = Walk { schema, cursor, memory: self, depth: 0, work, known: None, note };
        let holds = walk.value(schema.root, Look::First).is_ok() && walk.cursor.peek() == 0 && walk.cursor.is_at_end();
        self.tried = self.tried.saturating_add(1);
        self.lost = self.lost.saturating_add(u32::from(!holds));
        holds
    }
}

/// One walk along a text.
struct Walk<'s, 't, 'm> {
    schema: &'s Schema,
    cursor: Cursor<'t>,
    memory: &'m mut Straight,
    depth: u32,
    work: u64,
    /// The object that was gone through last.
    known: Option<Known<'s>>,
    /// The note of the value at the cursor, which is about to be gone through.
    note: u32,
}

impl<'s, 't> Walk<'s, 't, '_> {
    /// Checks the value at the cursor and goes past it, unless this is a look aside.
    ///
    /// PERF: entered for every value, so it does little itself; what keeps count of depth and work are the containers, and
    /// second looks.
    fn value(&mut self, id: SchemaId, look: Look) -> Step {
        let Some(node) = self.schema.node(id) else { return Err(End::Unclear) };
        match self.cursor.peek() {
            b'"' => {
                allowed(node, Kinds::STRINGS)?;
                // Of many strings nothing more is asked.
                let is_plain = node.rules.is_empty() && self.note == NONE;
                if is_plain && self.cursor.skip_text_here() { Ok(()) } else { self.text(node) }
            }
            b'{' => {
                allowed(node, Kinds::OBJECTS)?;
                self.object(node, look)
            }
            b'[' => {
                allowed(node, Kinds::ARRAYS)?;
                self.array(node, look)
            }
            b'-' | b'0'..=b'9' => self.number(node),
            _ => self.literal(node),
        }
    }

    /// Goes one level deeper, where there is room and work left.
    #[inline]
    fn enter(&mut self) -> Step {
        self.work = self.work.saturating_sub(1);
        if self.depth == MAX_DEPTH || self.work == 0 {
            return Err(End::Unclear);
        }
        self.depth += 1;
        Ok(())
    }

    #[inline(never)]
    fn text(&mut self, node: &'s Node) -> Step {
        let start = self.cursor.place();
        match self.cursor.text_here() {
            Some(text) => {
                if self.note != NONE {
                    self.memory.notes.read(self.note, Read::Text { end: self.cursor.place() as u32 - 1 });
                }
                self.text_rules(node, text, start)
            }
            None => self.odd_string(node, start),
        }
    }

    /// A string with escapes: rare enough to be paid for.
    #[cold]
    fn odd_string(&mut self, node: &'s Node, start: usize) -> Step {
        let text = self.cursor.string().ok_or(End::Unclear)?;
        self.text_rules(node, &text.decoded(), start)
    }

    #[inline]
    fn text_rules(&mut self, node: &'s Node, text: &str, start: usize) -> Step {
        for rule in self.schema.rules(node) {
            if !rule.kinds.meets(Kinds::STRINGS) {
                continue;
            }
            let holds = match &rule.test {
                Test::Pattern(pattern) => self.matches(pattern, text)?,
                Test::Format(Format::DateTime) if self.note != NONE => self.is_moment(text),
                Test::Format(format) => format.matches(text),
                Test::OneOfValues(values) => values.strings.find(text).is_some(),
                Test::MaxLength(bound) => scalars::is_at_most(text, *bound),
                Test::MinLength(bound) => scalars::is_at_least(text, *bound),
                Test::Stated(_) => true,
                other => {
                    self.in_place(other, start)?;
                    true
                }
            };
            verdict(holds)?;
        }
        self.stated_of(node, start)
    }

    /// Whether a text that has a note is a moment; what it says is noted.
    fn is_moment(&mut self, text: &str) -> bool {
        let Some(seconds) = calendar::seconds(text) else { return Format::DateTime.matches(text) };
        self.memory.notes.read(self.note, Read::Moment { end: self.cursor.place() as u32 - 1, seconds });
        true
    }

    #[inline(never)] // PERF: the frame of `value`, which is entered for every value, stays small
    fn number(&mut self, node: &'s Node) -> Step {
        let start = self.cursor.place();
        let Some((digits, fraction)) = self.cursor.short_number() else { return self.long_number(node, start) };
        let exponent = -i64::from(fraction);
        if self.note != NONE {
            self.memory.notes.read(self.note, Read::Number(digits, exponent));
        }
        self.number_rules(node, &Decimal::from_small_parts(digits, exponent), fraction == 0, start)
    }

    /// A number of many digits, with a sign or with an exponent.
    ///
    /// PERF: apart, since a number that may have come on two ways is copied in odd parts, which wait for memory.
    #[cold]
    fn long_number(&mut self, node: &'s Node, start: usize) -> Step {
        let (text, plain) = self.cursor.number().ok_or(End::Unclear)?;
        let number = Decimal::parse(text).ok_or(End::Unclear)?;
        if self.note != NONE
            && let Some((digits, exponent)) = number.small_parts()
        {
            self.memory.notes.read(self.note, Read::Number(digits, exponent));
        }
        self.number_rules(node, &number, plain, start)
    }

    /// Of a number, which is `plain` when it is spelled without fraction and exponent.
    #[inline(always)]
    fn number_rules(&mut self, node: &'s Node, number: &Decimal, plain: bool, start: usize) -> Step {
        let types = node.types;
        if !types.kinds.meets(Kinds::NUMBERS) {
            let integer = plain || (!types.plain && number.is_integer());
            self.memory.met.stirring |= !plain;
            verdict(types.integer && integer)?;
        }
        for rule in self.schema.rules(node) {
            if !rule.kinds.meets(Kinds::NUMBERS) {
                continue;
            }
            let holds = match &rule.test {
                Test::Maximum(bound) => *number <= **bound,
                Test::ExclusiveMaximum(bound) => *number < **bound,
                Test::Minimum(bound) => *number >= **bound,
                Test::ExclusiveMinimum(bound) => *number > **bound,
                Test::MultipleOf(by) => number.is_multiple_of(by),
                Test::OneOfValues(values) => values.numbers.contains(number),
                Test::Stated(_) => true,
                other => {
                    self.in_place(other, start)?;
                    true
                }
            };
            verdict(holds)?;
        }
        self.stated_of(node, start)
    }

    #[inline(never)]
    fn literal(&mut self, node: &'s Node) -> Step {
        let start = self.cursor.place();
        let literal = self.cursor.literal().ok_or(End::Unclear)?;
        let kinds = Kinds::of(if literal.is_some() { Kind::Bool } else { Kind::Null });
        allowed(node, kinds)?;
        for rule in self.schema.rules(node) {
            match &rule.test {
                _ if !rule.kinds.meets(kinds) => {}
                Test::OneOfValues(values) => {
                    let same = values.others.iter().any(|at| {
                        self.schema.file(at.file).is_some_and(|file| {
                            let document = file.document();
                            let value = document.value(at.node);
                            Kinds::of(value.kind()) == kinds && value.as_bool() == literal
                        })
                    });
                    verdict(same)?;
                }
                Test::Stated(_) => {}
                other => self.in_place(other, start)?,
            }
        }
        self.stated_of(node, start)
    }

    /// Rules between fields that stand at a scalar, which has been gone through.
    #[inline]
    fn stated_of(&mut self, node: &'s Node, start: usize) -> Step {
        if node.has_stated { self.stated(self.schema.rules(node), start, self.note) } else { Ok(()) }
    }

    /// The note of the object or the list at the cursor, which is about to be gone through. Whatever has rules has one.
    #[inline]
    fn take_note(&mut self, node: &Node) -> u32 {
        let mut note = std::mem::replace(&mut self.note, NONE);
        if note == NONE && node.has_stated {
            note = self.memory.notes.add(self.cursor.place());
        }
        if note != NONE {
            self.memory.notes.all().open(note);
        }
        note
    }

    /// Goes through a value that has a note.
    fn noted(&mut self, note: u32, value: impl FnOnce(&mut Self) -> Step) -> Step {
        self.note = note;
        value(self)?;
        self.note = NONE;
        Ok(())
    }

    /// Whether the value at `start`, which has been gone through before, holds. Leaves the cursor anywhere.
    fn holds(&mut self, id: SchemaId, start: usize) -> Result<bool, End> {
        self.cursor.go(start);
        let (depth, others, open) = (self.depth, self.memory.others.len(), self.memory.open.len());
        let notes = self.memory.notes.all().len();
        // What is looked at a second time has notes of its own; the look may end in the middle of a value that has one.
        let note = std::mem::replace(&mut self.note, NONE);
        self.enter()?;
        let looked = self.value(id, Look::Aside);
        self.note = note;
        match looked {
            Ok(()) => {
                self.depth = depth;
                Ok(true)
            }
            Err(End::Unclear) => Err(End::Unclear),
            Err(End::Fails) => {
                self.depth = depth;
                self.memory.others.truncate(others);
                self.memory.open.truncate(open);
                self.memory.notes.all().truncate(notes);
                Ok(false)
            }
        }
    }

    fn skip_known(&mut self) {
        let start = self.cursor.place();
        self.cursor.skip_known();
        self.work = self.work.saturating_sub((self.cursor.place() - start) as u64 / 8 + 1).max(1);
    }

    /// Rules that apply schemas to the same value, which starts at `start` and has been gone through. The cursor is left
    /// anywhere.
    fn in_place(&mut self, test: &'s Test, start: usize) -> Step {
        let at = |walk: &mut Self, id: SchemaId| walk.holds(id, start);
        let end = self.cursor.place();
        match test {
            Test::Ref(id) => verdict(at(self, *id)?)?,
            Test::AllOf(all) => {
                for id in all {
                    verdict(at(self, *id)?)?;
                }
            }
            Test::AnyOf(union) | Test::OneOf(union) if union.tag.is_some() => {
                let branch = self.branch(union, start)?;
                verdict(at(self, branch)?)?;
            }
            Test::AnyOf(union) => {
                let mut any = false;
                for id in &union.branches {
                    any = any || at(self, *id)?;
                }
                verdict(any)?;
            }
            Test::OneOf(union) => {
                let mut matching = 0;
                for id in &union.branches {
                    matching += u32::from(at(self, *id)?);
                }
                verdict(matching == 1)?;
            }
            Test::Not(id) => {
                let holds = at(self, *id)?;
                verdict(!holds)?;
            }
            Test::If(test) if test.then.is_none() && test.otherwise.is_none() => {}
            Test::If(test) => {
                let branch = if at(self, test.condition)? { test.then } else { test.otherwise };
                if let Some(branch) = branch {
                    verdict(at(self, branch)?)?;
                }
            }
            Test::DependentRequired(all) => self.dependent_required(all, start)?,
            Test::Never | Test::WrongDirection => return Err(End::Fails),
            Test::Type(_) | Test::Required => {}
            _ => return Err(End::Unclear),
        }
        self.cursor.go(end);
        Ok(())
    }

    /// The branch of a union that the value of its tag chooses.
    fn branch(&mut self, union: &'s Union, start: usize) -> Result<SchemaId, End> {
        let Some(tag) = &union.tag else { return Err(End::Unclear) };
        self.cursor.go(start);
        if self.cursor.peek() != b'{' || !self.find(&tag.name, start)? {
            return Err(End::Unclear);
        }
        let Some(Text::Plain(text)) = self.cursor.string() else { return Err(End::Unclear) };
        let branch = tag.values.find(text).and_then(|index| tag.branch.get(index));
        branch.and_then(|index| union.branches.get(*index as usize)).copied().ok_or(End::Fails)
    }

    #[inline]
    fn matches(&self, pattern: &Pattern, text: &str) -> Result<bool, End> {
        pattern.matches(text).ok_or(End::Unclear)
    }

    /// Goes past the value at the cursor, of which nothing is asked.
    fn any(&mut self, look: Look) -> Step {
        self.cursor.peek();
        if !look.is_first() {
            self.skip_known();
            return Ok(());
        }
        if self.depth == MAX_DEPTH {
            return Err(End::Unclear);
        }
        self.depth += 1;
        let known = match self.cursor.peek() {
            b'"' => self.cursor.string().is_some(),
            b'{' => self.any_members(Look::First).map(|_| true)?,
            b'[' => self.each_item(|walk| walk.any(Look::First)).map(|_| true)?,
            b'-' | b'0'..=b'9' => self.cursor.number().is_some(),
            _ => self.cursor.literal().is_some(),
        };
        self.depth -= 1;
        if known { Ok(()) } else { Err(End::Unclear) }
    }
}

#[inline]
fn verdict(holds: bool) -> Step {
    if holds { Ok(()) } else { Err(End::Fails) }
}

/// Whether `type` allows values of a kind that is no number.
#[inline]
fn allowed(node: &Node, kind: Kinds) -> Step {
    verdict(node.types.kinds.meets(kind))
}
