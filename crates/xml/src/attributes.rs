//! The start of an element, with its attributes.

use crate::namespaces::Namespaces;

/// The start of an element: its name, its attributes without the declarations of namespaces, and what is in scope.
#[derive(Clone, Copy, Debug)]
pub struct Element<'r> {
    /// The name as it is written, with its prefix.
    pub name: &'r str,
    /// The prefix, which may be empty.
    pub prefix: &'r str,
    /// The name without its prefix.
    pub local: &'r str,
    /// The number of the namespace, as the handler gave it.
    pub number: u32,
    /// The namespace; empty for none.
    pub namespace: &'r str,
    /// The bindings in scope, those of this element among them.
    pub scope: &'r Namespaces,
    /// Whether this element declares any.
    pub declares: bool,
    pub(crate) parts: &'r [Part],
    pub(crate) scratch: &'r str,
    /// What stands between `<` and `>`, and where that starts in the document.
    pub(crate) tag: &'r str,
    pub(crate) offset: u64,
    /// Whether places within the tag are places of the document.
    pub(crate) placed: bool,
}

/// Where the parts of an attribute stand in their tag.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Part {
    pub(crate) name: (u32, u32),
    /// Where the local name starts.
    pub(crate) local: u32,
    pub(crate) value: (u32, u32),
    /// Where the normalised value stands in the scratch text, when it is not as it is written.
    pub(crate) made: Option<(u32, u32)>,
    pub(crate) number: u32,
}

/// An attribute.
#[derive(Clone, Copy, Debug)]
pub struct Attribute<'r> {
    /// The name as it is written, with its prefix.
    pub name: &'r str,
    /// The prefix, which may be empty.
    pub prefix: &'r str,
    /// The name without its prefix.
    pub local: &'r str,
    /// The number of the namespace, as the handler gave it.
    pub number: u32,
    /// The value, references resolved and white space normalised as XML 1.0, section 3.3.3, has it.
    pub value: &'r str,
    /// Offset of the name in the document.
    pub offset: u64,
    /// Offset of the value in the document, and how many bytes it has there.
    pub value_offset: u64,
    /// How many bytes the value has as it is written.
    pub value_length: u32,
}

impl<'r> Element<'r> {
    /// The attributes in their order, without the declarations of namespaces.
    #[inline]
    pub fn attributes(&self) -> impl ExactSizeIterator<Item = Attribute<'r>> + use<'r> {
        let Element { tag, scratch, offset, placed, .. } = *self;
        self.parts.iter().map(move |part| {
            let name = slice(tag, part.name);
            let prefix = if part.local == part.name.0 { "" } else { slice(tag, (part.name.0, part.local - 1)) };
            let place = |at: u32| if placed { offset + u64::from(at) } else { offset };
            Attribute {
                name,
                prefix,
                local: slice(tag, (part.local, part.name.1)),
                number: part.number,
                value: part.made.map_or_else(|| slice(tag, part.value), |made| slice(scratch, made)),
                offset: place(part.name.0),
                value_offset: place(part.value.0),
                value_length: part.value.1 - part.value.0,
            }
        })
    }

    /// The same element under another name in the namespace of that number.
    pub fn called<'n>(&self, name: &'n str, local: &'n str, number: u32) -> Element<'n>
    where
        'r: 'n,
    {
        Element { name, local, number, ..*self }
    }

    /// What stands between `<` and `>`, as it is written, without the `/` of an element that is one tag.
    pub fn source(&self) -> &'r str {
        self.tag
    }

    /// Whether there is an attribute of a namespace, by its number.
    #[inline]
    pub fn has_namespace(&self, number: u32) -> bool {
        self.parts.iter().any(|part| part.number == number)
    }

    /// The namespace of an attribute; empty for none.
    pub fn namespace_of(&self, attribute: &Attribute<'_>) -> &'r str {
        match attribute.prefix {
            "" => "",
            prefix => self.scope.resolve(prefix).map_or("", |(_, uri)| uri),
        }
    }
}

#[inline]
fn slice(text: &str, (start, end): (u32, u32)) -> &str {
    text.get(start as usize..end as usize).unwrap_or("")
}
