//! Notes of the values that are met on a way through a document, for rules that read them again.
//!
//! They stand in the order of the document, those of what lies inside of a value after its own. What a note says of a value is for
//! whoever goes the way.

/// The note of what has none.
pub const NONE: u32 = u32::MAX;

/// So many values are noted at most.
pub const MAX_NOTES: usize = 1 << 20;

/// In the note that a value lies in: it is an item of that list.
const ITEM: u32 = 1 << 31;

/// Among so many values within one another one is looked for.
const MAX_AHEAD: usize = 16;

/// A value that has been met.
#[derive(Debug)]
pub struct Note<M> {
    /// Whose it is.
    id: Id,
    /// The note after those of what lies inside; [`NONE`] while that is being gone through.
    next: u32,
    /// What is known of it.
    pub met: M,
}

/// The note of the value that another one lies in, of an item with [`ITEM`], and above it what tells it from the others there; an item
/// has no key.
///
/// PERF: one word, so that one comparison tells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Id(u64);

impl Id {
    #[inline]
    fn new(within: u32, key: u32) -> Id {
        Id(u64::from(within) | u64::from(key) << 32)
    }
}

impl<M> Note<M> {
    /// Whether it is of a value with a key within another one.
    #[inline]
    pub fn is(&self, within: u64, key: u32) -> bool {
        within <= u64::from(NONE) && self.id == Id::new(within as u32, key)
    }

    /// What tells it from the others there.
    #[inline]
    pub fn key(&self) -> u32 {
        (self.id.0 >> 32) as u32
    }

    /// The note of what it lies in; an item lies in its list.
    #[inline]
    pub fn around(&self) -> u32 {
        let within = self.id.0 as u32;
        if within == NONE { NONE } else { within & !ITEM }
    }
}

/// All notes of a document.
#[derive(Debug)]
pub struct Notes<M> {
    all: Vec<Note<M>>,
}

impl<M> Default for Notes<M> {
    fn default() -> Self {
        Notes { all: Vec::new() }
    }
}

impl<M> Notes<M> {
    /// How many there are.
    pub fn len(&self) -> usize {
        self.all.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.all.is_empty()
    }

    /// Forgets all, so that notes of another document can be taken in the same memory.
    pub fn emptied<N>(mut self) -> Notes<N> {
        self.all.clear();
        // PERF: collected in place, as notes of both are of one size.
        Notes { all: self.all.into_iter().map_while(|_| None).collect() }
    }

    /// Forgets all but so many.
    #[inline]
    pub fn truncate(&mut self, len: usize) {
        self.all.truncate(len);
    }

    /// A note by its number.
    #[inline]
    pub fn get(&self, note: u64) -> Option<&Note<M>> {
        self.all.get(note as usize)
    }

    /// What is known of a value.
    #[inline]
    pub fn met(&mut self, note: u32) -> Option<&mut M> {
        self.all.get_mut(note as usize).map(|note| &mut note.met)
    }

    /// Notes a value within another one, by its key there; gives its number, or [`NONE`] when there are too many.
    #[inline]
    pub fn add(&mut self, within: u32, key: u32, met: M) -> u32 {
        let note = self.all.len();
        if note >= MAX_NOTES {
            return NONE;
        }
        let note = note as u32;
        self.all.push(Note { id: Id::new(within, key), next: note + 1, met });
        note
    }

    /// The same of an item of a list.
    #[inline]
    pub fn add_item(&mut self, list: u32, met: M) -> u32 {
        self.add(list | ITEM, 0, met)
    }

    /// Says that what lies inside of a value is about to be gone through.
    #[inline]
    pub fn open(&mut self, note: u32) {
        if let Some(note) = self.all.get_mut(note as usize) {
            note.next = NONE;
        }
    }

    /// Says that all of it has been gone through.
    #[inline]
    pub fn close(&mut self, note: u32) {
        let next = self.all.len() as u32;
        if let Some(note) = self.all.get_mut(note as usize) {
            note.next = next;
        }
    }

    /// The first value with a key within another one, among the first few there.
    #[inline]
    pub fn find(&self, within: u64, key: u32) -> Option<u32> {
        self.get(within)?;
        let mut at = within as u32 + 1;
        for _ in 0..MAX_AHEAD {
            match self.get(at.into()) {
                Some(note) if note.is(within, key) => return Some(at),
                Some(other) => at = other.next,
                None => break,
            }
        }
        None
    }

    /// The items of a list, which has been gone through.
    #[inline]
    pub fn items(&self, list: u64) -> Inside {
        self.inside(list, Id::new(list as u32 | ITEM, 0))
    }

    /// The values with a key within another one, which has been gone through or is open.
    #[inline]
    pub fn all_of(&self, within: u64, key: u32) -> Inside {
        self.inside(within, Id::new(within as u32, key))
    }

    #[inline]
    fn inside(&self, around: u64, id: Id) -> Inside {
        let end = self.get(around).map_or(0, |note| note.next);
        Inside { id, at: (around as u32).wrapping_add(1), end }
    }
}

/// A way along notes within one another.
#[derive(Clone, Copy, Debug)]
pub struct Inside {
    id: Id,
    at: u32,
    end: u32,
}

impl Inside {
    /// The next one.
    #[inline]
    pub fn next<M>(&mut self, notes: &Notes<M>) -> Option<u32> {
        while self.at < self.end {
            let at = self.at;
            let note = notes.get(at.into())?;
            self.at = note.next;
            // There may be others in between, such as those of what has been looked at twice.
            if note.id == self.id {
                return Some(at);
            }
        }
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// `a` and `b` within the first value, a list of three with a value inside of the second between them.
    fn noted() -> (Notes<&'static str>, [u32; 4]) {
        let mut notes = Notes::default();
        let root = notes.add(NONE, 0, "root");
        notes.open(root);
        let a = notes.add(root, 1, "a");
        let list = notes.add(root, 2, "list");
        notes.open(list);
        for item in ["one", "two", "three"] {
            let item = notes.add_item(list, item);
            notes.open(item);
            notes.add(item, 1, "inside");
            notes.close(item);
        }
        notes.close(list);
        let b = notes.add(root, 3, "b");
        (notes, [root, a, list, b])
    }

    fn said(notes: &Notes<&'static str>, mut inside: Inside) -> Vec<&'static str> {
        std::iter::from_fn(|| inside.next(notes)).filter_map(|note| Some(notes.get(note.into())?.met)).collect()
    }

    #[test]
    fn values_are_found_where_they_lie() {
        let (mut notes, [root, a, list, b]) = noted();
        for (within, key, expected) in [
            (root, 1, Some(a)),
            (root, 2, Some(list)),
            (root, 3, Some(b)),
            (root, 4, None),
            (a, 1, None),
            (list, 1, None),
            (list, 0, None),
        ] {
            assert_eq!(notes.find(within.into(), key), expected, "{within} {key}");
        }
        assert_eq!(said(&notes, notes.items(list.into())), ["one", "two", "three"]);
        assert_eq!(said(&notes, notes.items(root.into())), [""; 0]);
        assert_eq!(said(&notes, notes.all_of(root.into(), 3)), ["b"], "the first value is still open");
        notes.close(root);
        notes.add(NONE, 3, "another");
        assert_eq!(said(&notes, notes.all_of(root.into(), 3)), ["b"]);
        assert_eq!(notes.get(b.into()).map(Note::around), Some(root));
        assert_eq!(notes.get(u64::from(list) + 1).map(Note::around), Some(list));
        assert_eq!(notes.get(root.into()).map(Note::around), Some(NONE));
    }

    #[test]
    fn the_memory_of_notes_is_used_again() {
        let (notes, _) = noted();
        let room = notes.all.capacity();
        let mut others: Notes<&str> = notes.emptied();
        assert_eq!((others.len(), others.all.capacity()), (0, room));
        assert_eq!(others.add(NONE, 0, "first"), 0);
    }

    #[test]
    fn what_is_forgotten_is_not_found() {
        let (mut notes, [root, a, list, _]) = noted();
        notes.truncate(list as usize);
        assert_eq!(notes.len(), 2);
        assert_eq!((notes.find(root.into(), 1), notes.find(root.into(), 2)), (Some(a), None));
        assert_eq!(notes.find(u64::from(NONE), 1), None);
        assert_eq!(notes.find(1 << 40, 1), None);
        assert_eq!(notes.add(root, 3, "b"), list, "numbers are given anew");
    }
}
