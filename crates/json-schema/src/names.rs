//! A table of names that is built once and looked up for every member of every object.

use mervik_document::tape::{name_hash, same_bytes};

/// Maps each of a fixed set of names to its index. A lookup hashes nothing, since tapes carry the hash of every name.
#[derive(Debug, Default)]
pub(crate) struct NameTable {
    names: Box<[Box<str>]>,
    /// Open addressing with a power of two of places, at most half of them taken; an index of `NONE` ends a chain.
    slots: Box<[Slot]>,
}

#[derive(Clone, Copy, Debug)]
struct Slot {
    hash: u32,
    index: u32,
}

const NONE: u32 = u32::MAX;

impl NameTable {
    /// The table of `names`, which must differ from each other.
    pub(crate) fn new(names: impl IntoIterator<Item = Box<str>>) -> Self {
        let names: Box<[Box<str>]> = names.into_iter().collect();
        let size = (names.len() * 2).next_power_of_two().max(2);
        let mut slots = vec![Slot { hash: 0, index: NONE }; size].into_boxed_slice();
        for (index, name) in names.iter().enumerate() {
            let hash = name_hash(name.as_bytes());
            let free = (0..size)
                .map(|step| (hash as usize + step) & (size - 1))
                .find(|at| slots.get(*at).is_some_and(|slot| slot.index == NONE));
            if let Some(slot) = free.and_then(|at| slots.get_mut(at)) {
                *slot = Slot { hash, index: index as u32 };
            }
        }
        NameTable { names, slots }
    }

    /// The index of `name`, whose [`name_hash`] is `hash`. Allocates nothing.
    #[inline]
    pub(crate) fn index(&self, hash: u32, name: &[u8]) -> Option<usize> {
        let mask = self.slots.len().wrapping_sub(1);
        let mut at = hash as usize & mask;
        loop {
            let slot = self.slots.get(at)?;
            if slot.index == NONE {
                return None;
            }
            if slot.hash == hash
                && self.names.get(slot.index as usize).is_some_and(|known| same_bytes(known.as_bytes(), name))
            {
                return Some(slot.index as usize);
            }
            at = (at + 1) & mask;
        }
    }

    /// The index of `name`, hashed here.
    pub(crate) fn find(&self, name: &str) -> Option<usize> {
        self.index(name_hash(name.as_bytes()), name.as_bytes())
    }

    /// The names, in the order of their indices.
    pub(crate) fn names(&self) -> impl ExactSizeIterator<Item = &str> {
        self.names.iter().map(|name| &**name)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_name_is_found_and_no_other() {
        for size in [0, 1, 2, 3, 7, 100, 1_000] {
            let table = NameTable::new((0..size).map(|n| format!("name {n}").into()));
            for n in 0..size {
                assert_eq!(table.find(&format!("name {n}")), Some(n));
            }
            assert_eq!(table.find("other"), None);
            assert_eq!(table.find(""), None);
            assert_eq!(table.names().len(), size);
        }
        assert_eq!(NameTable::default().find("x"), None);
    }

    #[test]
    fn names_that_share_a_hash_are_told_apart() {
        let table = NameTable::new(["a".into(), "b".into()]);
        let hash = name_hash(b"a");
        assert_eq!(table.index(hash, b"a"), Some(0));
        assert_eq!(table.index(hash, b"z"), None);
    }
}
