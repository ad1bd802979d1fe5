//! What rules between fields read, noted as the text is gone through, so that they neither look for it nor read it again.
//!
//! The notes stand in the order of the text, those of what lies inside of a value after its own. Only values that rules may reach
//! have one: the document, what has rules itself, and from there on the members with names that rules read, and items of lists. A
//! value without a note is looked for in the text.

use mervik_rules::Name;

/// The note of what has none.
pub(super) const NONE: u32 = u32::MAX;

/// In [`Note::within`], of the items of a list.
const ITEM: u32 = 1 << 31;

/// So many values are noted at most, at 40 bytes each.
const MAX_NOTES: usize = 1 << 20;

/// Among so many members of an object one is looked for.
const MAX_AHEAD: usize = 16;

/// A value that has been met.
#[derive(Debug)]
pub(super) struct Note {
    /// The note of the object that it lies in, or of the list with [`ITEM`].
    within: u32,
    /// The hash of its name; an item has none.
    hash: u32,
    /// Where it starts in the text.
    pub(super) at: u32,
    /// The note after those of what lies inside; [`NONE`] while that is being gone through.
    next: u32,
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

/// All notes of a text.
#[derive(Debug, Default)]
pub(super) struct Notes {
    all: Vec<Note>,
    /// For each name of each `properties`, the last note of a member with it, if of this text.
    slots: Box<[u32]>,
}

impl Notes {
    /// Forgets all; there are so many slots from now on.
    pub(super) fn clear(&mut self, slots: usize) {
        self.all.clear();
        if self.slots.len() != slots {
            self.slots = vec![NONE; slots].into();
        }
    }

    pub(super) fn len(&self) -> usize {
        self.all.len()
    }

    pub(super) fn truncate(&mut self, len: usize) {
        self.all.truncate(len);
    }

    #[inline]
    pub(super) fn get(&self, note: u64) -> Option<&Note> {
        self.all.get(note as usize)
    }

    /// Notes a value that is about to be gone through; [`NONE`] when there are too many.
    #[inline]
    pub(super) fn add(&mut self, within: u32, hash: u32, at: usize) -> u32 {
        let note = self.all.len();
        if note >= MAX_NOTES {
            return NONE;
        }
        let note = note as u32;
        self.all.push(Note { within, hash, at: at as u32, next: note + 1, read: Read::Unread });
        note
    }

    /// The same of an item of a list.
    #[inline]
    pub(super) fn add_item(&mut self, list: u32, at: usize) -> u32 {
        self.add(list | ITEM, 0, at)
    }

    /// The same of a member that has a slot.
    #[inline]
    pub(super) fn add_member(&mut self, within: u32, hash: u32, at: usize, slot: usize) -> u32 {
        let note = self.add(within, hash, at);
        if let Some(last) = self.slots.get_mut(slot) {
            *last = note;
        }
        note
    }

    /// Says what has been read of a value.
    #[inline]
    pub(super) fn read(&mut self, note: u32, read: Read) {
        if let Some(note) = self.all.get_mut(note as usize) {
            note.read = read;
        }
    }

    /// Says that what lies inside of a value is about to be gone through.
    #[inline]
    pub(super) fn open(&mut self, note: u32) {
        if let Some(note) = self.all.get_mut(note as usize) {
            note.next = NONE;
        }
    }

    /// Says that all of it has been gone through.
    #[inline]
    pub(super) fn close(&mut self, note: u32) {
        let next = self.all.len() as u32;
        if let Some(note) = self.all.get_mut(note as usize) {
            note.next = next;
        }
    }

    /// Where a member of an object is.
    #[inline]
    pub(super) fn member(&self, object: u64, name: &Name) -> Member {
        let is_it = |note: &Note| u64::from(note.within) == object && note.hash == name.hash;
        if let Some(slot) = name.slot {
            // There may have been another object of the kind after it.
            let last = self.slots.get(slot as usize).copied().unwrap_or(NONE);
            if self.get(last.into()).is_some_and(is_it) {
                return Member::Noted(last);
            }
        }
        match (self.get(object).map(|note| &note.read), name.slot) {
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
        let mut at = object as u32 + 1;
        for _ in 0..MAX_AHEAD {
            match self.get(at.into()) {
                Some(note) if is_it(note) => return Member::Noted(at),
                Some(other) => at = other.next,
                None => break,
            }
        }
        Member::Unknown
    }

    /// The notes of the items of a list, if all have one.
    #[inline]
    pub(super) fn items(&self, list: u64) -> Option<Items> {
        let note = self.get(list)?;
        let list = list as u32;
        matches!(note.read, Read::List).then_some(Items { list, at: list + 1, end: note.next })
    }
}

/// A way along the items of a list.
#[derive(Clone, Copy)]
pub(super) struct Items {
    list: u32,
    at: u32,
    end: u32,
}

impl Items {
    #[inline]
    pub(super) fn next(&mut self, notes: &Notes) -> Option<u32> {
        while self.at < self.end {
            let at = self.at;
            let note = notes.get(at.into())?;
            self.at = note.next;
            // What has been looked at twice has notes of its own in between.
            if note.within == self.list | ITEM {
                return Some(at);
            }
        }
        None
    }
}
