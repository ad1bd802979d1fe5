//! The names that a schema knows, as numbers.

/// The number of a namespace in [`Names`]; 0 is that of no namespace.
pub(crate) type NsId = u32;

/// No namespace.
pub(crate) const ABSENT: NsId = 0;

/// The namespace of XML Schema.
pub(crate) const XSD: &str = "http://www.w3.org/2001/XMLSchema";

/// The namespace of `xsi:type` and its like.
pub(crate) const XSI: &str = "http://www.w3.org/2001/XMLSchema-instance";

/// A name with its namespace, as a number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct NameId(pub(crate) u32);

/// All names of a schema. Looking one up hashes its bytes once and allocates nothing.
#[derive(Clone, Debug)]
pub(crate) struct Names {
    namespaces: Vec<Box<str>>,
    names: Vec<(NsId, Box<str>)>,
    /// Indices into `names`, by hash; `u32::MAX` is free. As long as a power of two.
    slots: Vec<u32>,
}

const FREE: u32 = u32::MAX;

impl Names {
    pub(crate) fn new() -> Names {
        Names { namespaces: vec!["".into()], names: Vec::new(), slots: vec![FREE; 64] }
    }

    /// The number of a namespace, if the schema knows it.
    pub(crate) fn namespace(&self, uri: &str) -> Option<NsId> {
        self.namespaces.iter().position(|known| **known == *uri).map(|at| at as NsId)
    }

    /// How many namespaces there are.
    pub(crate) fn namespaces(&self) -> usize {
        self.namespaces.len()
    }

    pub(crate) fn intern_namespace(&mut self, uri: &str) -> NsId {
        self.namespace(uri).unwrap_or_else(|| {
            self.namespaces.push(uri.into());
            self.namespaces.len() as NsId - 1
        })
    }

    /// The name of a namespace; empty for none.
    pub(crate) fn uri(&self, id: NsId) -> &str {
        self.namespaces.get(id as usize).map_or("", |uri| uri)
    }

    #[inline]
    pub(crate) fn find(&self, namespace: NsId, local: &str) -> Option<NameId> {
        let mask = self.slots.len() - 1;
        let mut at = hash(namespace, local) as usize & mask;
        loop {
            let index = *self.slots.get(at)?;
            let (known_namespace, known) = self.names.get(index as usize)?;
            if *known_namespace == namespace && **known == *local {
                return Some(NameId(index));
            }
            at = (at + 1) & mask;
        }
    }

    pub(crate) fn intern(&mut self, namespace: NsId, local: &str) -> NameId {
        if let Some(known) = self.find(namespace, local) {
            return known;
        }
        let index = self.names.len() as u32;
        self.names.push((namespace, local.into()));
        if self.names.len() * 2 > self.slots.len() {
            self.slots = vec![FREE; self.slots.len() * 2];
            for index in 0..index {
                self.place(index);
            }
        }
        self.place(index);
        NameId(index)
    }

    fn place(&mut self, index: u32) {
        let Some((namespace, local)) = self.names.get(index as usize) else { return };
        let mask = self.slots.len() - 1;
        let mut at = hash(*namespace, local) as usize & mask;
        while self.slots.get(at).is_some_and(|slot| *slot != FREE) {
            at = (at + 1) & mask;
        }
        if let Some(slot) = self.slots.get_mut(at) {
            *slot = index;
        }
    }

    /// All of them.
    pub(crate) fn all(&self) -> impl Iterator<Item = NameId> {
        (0..self.names.len() as u32).map(NameId)
    }

    pub(crate) fn local(&self, name: NameId) -> &str {
        self.names.get(name.0 as usize).map_or("", |(_, local)| local)
    }

    pub(crate) fn namespace_of(&self, name: NameId) -> NsId {
        self.names.get(name.0 as usize).map_or(ABSENT, |(namespace, _)| *namespace)
    }

    /// `{namespace}local`, or the local name alone where there is no namespace.
    pub(crate) fn expanded(&self, name: NameId) -> String {
        match self.uri(self.namespace_of(name)) {
            "" => self.local(name).to_owned(),
            uri => format!("{{{uri}}}{}", self.local(name)),
        }
    }
}

#[inline]
fn hash(namespace: NsId, local: &str) -> u64 {
    const K: u64 = 0x517c_c1b7_2722_0a95;
    let mut state = u64::from(namespace).wrapping_mul(K);
    let (words, rest) = local.as_bytes().as_chunks::<8>();
    for word in words {
        state = (state.rotate_left(5) ^ u64::from_le_bytes(*word)).wrapping_mul(K);
    }
    for byte in rest {
        state = (state.rotate_left(5) ^ u64::from(*byte)).wrapping_mul(K);
    }
    state ^ (state >> 32)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_found_by_namespace_and_local_name() {
        let mut names = Names::new();
        let port = names.intern_namespace("urn:port");
        let all: Vec<NameId> = (0..500).map(|index| names.intern(port, &format!("name-{index}"))).collect();
        for (index, id) in all.iter().enumerate() {
            assert_eq!(names.find(port, &format!("name-{index}")), Some(*id));
            assert_eq!(names.intern(port, &format!("name-{index}")), *id);
        }
        assert_eq!(names.find(ABSENT, "name-1"), None);
        assert_eq!(names.find(port, "name-500"), None);
        assert_eq!(names.expanded(all[7]), "{urn:port}name-7");
        assert_eq!((names.namespace("urn:none"), names.namespace("")), (None, Some(ABSENT)));
    }
}
