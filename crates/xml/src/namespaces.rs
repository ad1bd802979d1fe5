//! Which prefix stands for which namespace (Namespaces in XML 1.0).

/// The namespace of the prefix `xml`.
pub const XML_NAMESPACE: &str = "http://www.w3.org/XML/1998/namespace";

/// The namespace of the prefix `xmlns`, which nothing may declare.
pub const XMLNS_NAMESPACE: &str = "http://www.w3.org/2000/xmlns/";

/// The number of a namespace that the handler of a document does not know.
pub const UNKNOWN: u32 = u32::MAX;

/// The bindings in scope at some place of a document.
#[derive(Clone, Debug, Default)]
pub struct Namespaces {
    bindings: Vec<Binding>,
    /// Prefixes and namespaces, one after the other.
    text: String,
}

#[derive(Clone, Copy, Debug)]
struct Binding {
    prefix: (u32, u32),
    uri: (u32, u32),
    /// The number that the handler gave the namespace.
    number: u32,
    /// How many elements are around the one that declares it.
    depth: u32,
}

impl Namespaces {
    /// The namespace that a prefix stands for: its number and its name. The empty prefix stands for the default
    /// namespace, or for none, which has the empty name. `None` for a prefix that nothing declares.
    #[inline]
    pub fn resolve(&self, prefix: &str) -> Option<(u32, &str)> {
        let found = self.bindings.iter().rev().find(|binding| self.part(binding.prefix) == prefix)?;
        Some((found.number, self.part(found.uri)))
    }

    /// All prefixes in scope with their namespaces; a prefix may come twice, the innermost first.
    pub fn in_scope(&self) -> impl Iterator<Item = (&str, &str)> {
        self.bindings.iter().rev().map(|binding| (self.part(binding.prefix), self.part(binding.uri)))
    }

    /// A prefix for a namespace, if one is bound.
    pub fn prefix_of(&self, uri: &str) -> Option<&str> {
        self.in_scope().find(|(_, bound)| *bound == uri).map(|(prefix, _)| prefix)
    }

    /// The number of no namespace, which names without a prefix have in attributes.
    #[inline]
    pub(crate) fn none(&self) -> u32 {
        self.bindings.first().map_or(UNKNOWN, |first| first.number)
    }

    /// Whether the element at `depth` has declared a prefix already.
    pub(crate) fn declared_at(&self, prefix: &str, depth: u32) -> bool {
        let here = self.bindings.iter().rev().take_while(|binding| binding.depth == depth);
        here.into_iter().any(|binding| self.part(binding.prefix) == prefix)
    }

    pub(crate) fn declare(&mut self, prefix: &str, uri: &str, number: u32, depth: u32) {
        let prefix = self.keep(prefix);
        let uri = self.keep(uri);
        self.bindings.push(Binding { prefix, uri, number, depth });
    }

    /// Forgets what elements at `depth` and below declare.
    #[inline]
    pub(crate) fn leave(&mut self, depth: u32) {
        while let Some(binding) = self.bindings.last()
            && binding.depth >= depth
        {
            self.text.truncate(binding.prefix.0 as usize);
            self.bindings.pop();
        }
    }

    #[inline]
    fn part(&self, (start, end): (u32, u32)) -> &str {
        self.text.get(start as usize..end as usize).unwrap_or("")
    }

    fn keep(&mut self, text: &str) -> (u32, u32) {
        let start = self.text.len() as u32;
        self.text.push_str(text);
        (start, self.text.len() as u32)
    }
}
