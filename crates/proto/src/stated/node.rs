//! The values of a message, for rules between fields.

use crate::rules::limits;
use crate::schema::{MessageId, Schema, Shape, Type, WellKnown};
use crate::tree::{Children, NodeId, Stored, Tree};
use crate::value::Scalar;
use mervik_document::Decimal;
use mervik_rules::{Name, Node, Raw};
use std::borrow::Cow;

/// A place in a message.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum At {
    /// A value that is there.
    Node(NodeId),
    /// All values of a field: of a list, of a map.
    List(NodeId, u32),
    /// The default value of a field without presence, which is not there.
    Default(NodeId, u32),
}

/// A place in a message that has been read.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Place<'t> {
    pub(crate) schema: &'t Schema,
    pub(crate) tree: &'t Tree,
    pub(crate) source: &'t [u8],
    pub(crate) at: At,
}

impl PartialEq for Place<'_> {
    /// Whether both are the same place of one message.
    fn eq(&self, other: &Self) -> bool {
        self.at == other.at
    }
}

impl<'t> Place<'t> {
    fn with(self, at: At) -> Self {
        Place { at, ..self }
    }

    /// A field of a message.
    pub(crate) fn field(self, message: NodeId, index: u32) -> Option<Self> {
        let of = self.tree.message_of(message)?;
        let field = self.schema.message(of).fields.get(index as usize)?;
        if field.shape != Shape::Single {
            return Some(self.with(At::List(message, index)));
        }
        let there = self.tree.children(message).filter(|(_, node)| node.field == index && !node.gone).last();
        match there {
            Some((id, _)) => Some(self.with(At::Node(id))),
            None if field.explicit || matches!(field.ty, Type::Message(_)) => None,
            None => Some(self.with(At::Default(message, index))),
        }
    }

    /// The message that stands at a place, unless it is one that the JSON mapping knows by name.
    fn message(self) -> Option<(NodeId, MessageId)> {
        let At::Node(id) = self.at else { return None };
        let message = self.tree.message_of(id)?;
        self.schema.message(message).well_known.is_none().then_some((id, message))
    }

    fn scalar(self, value: Scalar<'t>, ty: Type) -> Raw<'t> {
        match value {
            Scalar::Bool(value) => Raw::Truth(value),
            Scalar::Text(text) => Raw::Text(Cow::Borrowed(text)),
            Scalar::Bytes(_) => Raw::Nothing,
            Scalar::Enum(_) => Raw::Text(Cow::Owned(value.plain(ty, self.schema))),
            // What is no number, such as an infinite one, is none that could be compared.
            value => Decimal::parse(&value.plain(ty, self.schema)).map_or(Raw::Nothing, Raw::Number),
        }
    }

    fn known(self, id: NodeId, message: MessageId, known: WellKnown) -> Raw<'t> {
        let part = |number: u32| self.tree.get(id, number, self.schema, self.source);
        let whole = |number: u32| part(number).and_then(Scalar::integer).unwrap_or(0);
        match known {
            WellKnown::Timestamp | WellKnown::Duration => {
                let total = whole(1) * 1_000_000_000 + whole(2);
                let text = match known {
                    WellKnown::Timestamp => limits::time_text(total),
                    _ => Some(limits::duration_text(total)),
                };
                text.map_or(Raw::Nothing, |text| Raw::Text(Cow::Owned(text)))
            }
            WellKnown::Wrapper => {
                let Some((_, field)) = self.schema.message(message).field(1) else { return Raw::Nothing };
                self.scalar(part(1).unwrap_or(Scalar::default_of(field.ty)), field.ty)
            }
            _ => Raw::Nothing,
        }
    }
}

impl<'t> Node<'t> for Place<'t> {
    type Items = Items<'t>;

    fn raw(self) -> Raw<'t> {
        match self.at {
            At::List(..) => Raw::List,
            At::Default(message, index) => {
                let of = self.tree.message_of(message).map(|of| self.schema.message(of));
                let field = of.and_then(|of| of.fields.get(index as usize));
                field.map_or(Raw::Nothing, |field| self.scalar(Scalar::default_of(field.ty), field.ty))
            }
            At::Node(id) => {
                let Some(node) = self.tree.node(id) else { return Raw::Nothing };
                match node.value {
                    Stored::Message(message) => match self.schema.message(message).well_known {
                        None => Raw::Object,
                        Some(known) => self.known(id, message, known),
                    },
                    value => match (self.tree.scalar(value, self.source), self.tree.field(id, self.schema)) {
                        (Some(scalar), Some(field)) => self.scalar(scalar, field.ty),
                        _ => Raw::Nothing,
                    },
                }
            }
        }
    }

    fn member(self, name: &Name) -> Option<Self> {
        let (id, message) = self.message()?;
        let (index, _) = self.schema.message(message).named(&name.text)?;
        self.field(id, index)
    }

    fn items(self) -> Items<'t> {
        let (children, field) = match self.at {
            At::List(message, field) => (Some(self.tree.children(message)), field),
            _ => (None, 0),
        };
        Items { place: self, children, field }
    }

    fn above(self) -> Option<Self> {
        match self.at {
            At::Node(NodeId::ROOT) => None,
            At::Node(id) => Some(self.with(At::Node(self.tree.node(id)?.parent))),
            At::List(message, _) | At::Default(message, _) => Some(self.with(At::Node(message))),
        }
    }

    fn document(self) -> Self {
        self.with(At::Node(NodeId::ROOT))
    }

    fn is_set(self) -> bool {
        match self.at {
            At::Default(..) => false,
            // Without presence the default value is none.
            At::Node(id) => {
                let own = self.tree.node(id).zip(self.tree.field(id, self.schema));
                own.is_none_or(|(node, field)| {
                    field.explicit
                        || field.shape != Shape::Single
                        || self.tree.scalar(node.value, self.source).is_none_or(|value| !value.is_default())
                })
            }
            At::List(..) => true,
        }
    }
}

/// The values of a list.
#[derive(Clone, Debug)]
pub(crate) struct Items<'t> {
    place: Place<'t>,
    children: Option<Children<'t>>,
    field: u32,
}

impl<'t> Iterator for Items<'t> {
    type Item = Place<'t>;

    fn next(&mut self) -> Option<Place<'t>> {
        let field = self.field;
        let (id, _) = self.children.as_mut()?.find(|(_, node)| node.field == field && !node.gone)?;
        Some(self.place.with(At::Node(id)))
    }
}
