//! Documents of JSON, and of whatever is read as JSON.

use crate::code::Name;
use crate::node::{Node, Raw, Sort};
use mervik_document::{Document, Kind, NodeId, Value};
use std::borrow::Cow;
use std::cell::{OnceCell, RefCell};

/// What lies around each value of a document; found out once somebody asks. O(values), once. Its memory serves one document after
/// another.
#[derive(Debug, Default)]
pub struct Around {
    around: OnceCell<Vec<NodeId>>,
    /// The memory of the last document, and of values that are open.
    spare: RefCell<(Vec<NodeId>, Vec<NodeId>)>,
}

impl Around {
    /// Forgets one document before the next.
    pub fn clear(&mut self) {
        if let Some(around) = self.around.take() {
            self.spare.get_mut().0 = around;
        }
    }

    /// What lies around a value: the object or the list that has it.
    fn of(&self, document: &Document<'_>, id: NodeId) -> Option<NodeId> {
        let all = self.around.get_or_init(|| {
            let (mut around, mut open) = self.spare.take();
            around.clear();
            around.resize(document.tape().len(), NodeId::ROOT);
            open.push(NodeId::ROOT);
            while let Some(id) = open.pop() {
                let value = document.value(id);
                let members = value.members().map(|member| member.value);
                for child in members.chain(value.items()) {
                    if let Some(around) = around.get_mut(child.id().index()) {
                        *around = id;
                    }
                    if matches!(child.kind(), Kind::Object | Kind::Array) {
                        open.push(child.id());
                    }
                }
            }
            *self.spare.borrow_mut() = (Vec::new(), open);
            around
        });
        all.get(id.index()).copied().filter(|_| id != NodeId::ROOT)
    }
}

/// A value of a document.
#[derive(Clone, Copy, Debug)]
pub struct Json<'d> {
    value: Value<'d>,
    around: &'d Around,
}

impl<'d> Json<'d> {
    /// A value; `around` is the document's own.
    pub fn new(value: Value<'d>, around: &'d Around) -> Self {
        Json { value, around }
    }

    /// The value.
    pub fn value(self) -> Value<'d> {
        self.value
    }
}

impl PartialEq for Json<'_> {
    /// Whether both are the same place of one document.
    fn eq(&self, other: &Self) -> bool {
        self.value.id() == other.value.id()
    }
}

impl<'d> Node<'d> for Json<'d> {
    type Items = Items<'d>;

    fn raw(self) -> Raw<'d> {
        match self.value.kind() {
            Kind::Null => Raw::Nothing,
            Kind::Bool => Raw::Truth(self.value.as_bool() == Some(true)),
            Kind::Number => self.value.as_decimal().map_or(Raw::Nothing, Raw::Number),
            Kind::String => Raw::Text(Cow::Borrowed(self.value.as_str().unwrap_or(""))),
            Kind::Array => Raw::List,
            Kind::Object | Kind::Name => Raw::Object,
        }
    }

    fn sort(self) -> Sort {
        match self.value.kind() {
            Kind::Null => Sort::Nothing,
            Kind::Array => Sort::List,
            _ => Sort::Other,
        }
    }

    fn member(self, name: &Name) -> Option<Self> {
        self.value.get_hashed(&name.text, name.hash).map(|value| Json { value, ..self })
    }

    fn items(self) -> Items<'d> {
        Items { items: self.value.items(), around: self.around }
    }

    fn above(self) -> Option<Self> {
        let document = self.value.document();
        let mut id = self.value.id();
        loop {
            id = self.around.of(document, id)?;
            let value = document.value(id);
            if value.kind() != Kind::Array {
                return Some(Json { value, ..self });
            }
        }
    }

    fn document(self) -> Self {
        Json { value: self.value.document().root(), ..self }
    }
}

/// The items of a list.
#[derive(Clone, Debug)]
pub struct Items<'d> {
    items: mervik_document::Items<'d>,
    around: &'d Around,
}

impl<'d> Iterator for Items<'d> {
    type Item = Json<'d>;

    fn next(&mut self) -> Option<Json<'d>> {
        self.items.next().map(|value| Json { value, around: self.around })
    }
}
