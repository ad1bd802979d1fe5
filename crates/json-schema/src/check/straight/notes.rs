//! What rules between fields read, noted as the text is gone through, so that they neither look for it nor read it again.
//!
//! Only values that rules may reach have a note: the document, what has rules itself, and from there on the members with names that
//! rules read, and items of lists. A value without a note is looked for in the text.

use mervik_rules::Name;
use mervik_rules::notes::{self, Inside};

pub(super) use mervik_rules::notes::NONE;

/// A value that has been met.
pub(super) type Note = notes::Note<Met>;

/// What is known of a value.
#[derive(Debug)]
pub(super) struct Met {
    /// Where it starts in the text.
    pub(super) at: u32,
    pub(super) read: Read,
}

/// What has been read of a value.
#[derive(Clone, Copy, Debug)]
pub(super) enum Read {
    /// Nothing: the text must be looked at.
    Unread,
    /// A text without escapes, to its closing quote.
    Text { end: u32 },
    /// The same of a moment in whole seconds since the beginning of 1970.
    Moment { end: u32, seconds: i64 },
    /// An integer times a power of ten.
    Number(i64, i64),
    /// A list of which all items are noted.
    List,
    /// An object. Those of its members that have a slot have the slots from `first` on, and a bit in `seen` says which are there.
    Object { first: u32, count: u32, seen: u64 },
}

/// Where a member is.
pub(super) enum Member {
    /// It has this note.
    Noted(u32),
    Absent,
    /// The object must be searched.
    Unknown,
}

/// All notes of a text. Members are told apart by the hashes of their names.
#[derive(Debug, Default)]
pub(super) struct Notes {
    all: notes::Notes<Met>,
    /// For each name of each `properties`, the last note of a member with it, if of this text.
    slots: Box<[u32]>,
}

impl Notes {
    /// Forgets all; there are so many slots from now on.
    pub(super) fn clear(&mut self, slots: usize) {
        self.all.truncate(0);
        if self.slots.len() != slots {
            self.slots = vec![NONE; slots].into();
        }
    }

    /// The notes themselves.
    #[inline]
    pub(super) fn all(&mut self) -> &mut notes::Notes<Met> {
        &mut self.all
    }

    #[inline]
    pub(super) fn get(&self, note: u64) -> Option<&Note> {
        self.all.get(note)
    }

    /// Notes a value that has rules and that no other one knows; [`NONE`] when there are too many.
    #[inline]
    pub(super) fn add(&mut self, at: usize) -> u32 {
        self.all.add(NONE, 0, Met { at: at as u32, read: Read::Unread })
    }

    /// The same of an item of a list.
    #[inline]
    pub(super) fn add_item(&mut self, list: u32, at: usize) -> u32 {
        self.all.add_item(list, Met { at: at as u32, read: Read::Unread })
    }

    /// The same of a member of an object that has a slot.
    #[inline]
    pub(super) fn add_member(&mut self, object: u32, hash: u32, at: usize, slot: usize) -> u32 {
        let note = self.all.add(object, hash, Met { at: at as u32, read: Read::Unread });
        if let Some(last) = self.slots.get_mut(slot) {
            *last = note;
        }
        note
    }

    /// Says what has been read of a value.
    #[inline]
    pub(super) fn read(&mut self, note: u32, read: Read) {
        if let Some(met) = self.all.met(note) {
            met.read = read;
        }
    }

    /// The note of a member of an object, if it has a slot and is the last one with it.
    #[inline(always)] // PERF: asked for each field that a rule reads
    pub(super) fn member(&self, object: u64, name: &Name) -> Option<u32> {
        let last = self.slots.get(name.slot? as usize).copied()?;
        // There may have been another object of the kind after it.
        self.get(last.into()).filter(|note| note.is(object, name.hash)).map(|_| last)
    }

    /// Where a member of an object is for which [`Notes::member`] has no note.
    #[inline(never)]
    pub(super) fn other_member(&self, object: u64, name: &Name) -> Member {
        match (self.get(object).map(|note| &note.met.read), name.slot) {
            (None, _) => return Member::Unknown,
            (Some(Read::List), _) => return Member::Absent,
            (Some(Read::Object { first, count, seen }), Some(slot)) => {
                let index = slot.wrapping_sub(*first);
                if index < *count && seen >> (index & 63) & 1 == 0 {
                    return Member::Absent;
                }
            }
            _ => {}
        }
        self.all.find(object, name.hash).map_or(Member::Unknown, Member::Noted)
    }

    /// A way along the items of a list, if all have a note.
    #[inline]
    pub(super) fn items(&self, list: u64) -> Option<Inside> {
        matches!(self.get(list)?.met.read, Read::List).then(|| self.all.items(list))
    }

    /// Goes on along such a way.
    #[inline]
    pub(super) fn next(&self, items: &mut Inside) -> Option<u32> {
        items.next(&self.all)
    }
}
