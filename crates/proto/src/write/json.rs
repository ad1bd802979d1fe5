//! The JSON mapping, written canonically: lowerCamelCase names, 64-bit integers and bytes as text, enums by name.

use super::{entry, ordered};
use crate::check::MAX_ANY;
use crate::rules::limits;
use crate::schema::{Field, Schema, Shape, Type, WellKnown};
use crate::tree::{NodeId, Stored, Tree};
use crate::value::Scalar;
use mervik_document::edit::quoted;

const SECOND: i128 = 1_000_000_000;

/// How JSON is written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Names {
    /// Names as the `.proto` has them.
    pub(crate) original: bool,
}

struct Writer<'w> {
    schema: &'w Schema,
    tree: &'w Tree,
    source: &'w [u8],
    names: Names,
    out: String,
    /// Why something could not be written.
    fault: Option<String>,
    any: usize,
}

/// The JSON of a tree, on one line.
///
/// # Errors
///
/// What has no form in JSON: an Any of a message that the schema does not know, a time outside of its range, a path of a FieldMask
/// that does not come back.
pub(crate) fn write(schema: &Schema, tree: &Tree, source: &[u8], names: Names) -> Result<String, String> {
    let mut writer = Writer { schema, tree, source, names, out: String::new(), fault: None, any: 0 };
    writer.message(NodeId::ROOT);
    match writer.fault {
        Some(fault) => Err(fault),
        None => Ok(writer.out),
    }
}

/// The JSON of one message within a tree; what has no form in JSON is `null`.
pub(crate) fn value_text(schema: &Schema, tree: &Tree, source: &[u8], id: NodeId) -> String {
    let mut writer = Writer { schema, tree, source, names: Names::default(), out: String::new(), fault: None, any: 0 };
    writer.message(id);
    writer.out
}

impl Writer<'_> {
    fn fail(&mut self, fault: String) {
        self.out.push_str("null");
        self.fault.get_or_insert(fault);
    }

    fn message(&mut self, id: NodeId) {
        let Some(of) = self.tree.message_of(id) else { return };
        match self.schema.message(of).well_known {
            Some(known) if known != WellKnown::Empty => self.known(id, known),
            _ => {
                self.out.push('{');
                self.members(id, true);
                self.out.push('}');
            }
        }
    }

    /// The members of an object; `first` says whether none has been written.
    fn members(&mut self, id: NodeId, mut first: bool) {
        let Some(of) = self.tree.message_of(id) else { return };
        let fields = &self.schema.message(of).fields;
        let children = ordered(self.schema, self.tree, self.source, id, of);
        let mut rest = children.as_slice();
        while let Some((_, node)) = rest.first() {
            let run = rest.iter().take_while(|(_, other)| other.field == node.field).count();
            let (values, later) = rest.split_at(run);
            rest = later;
            // What the message does not have has no name.
            let Some(field) = fields.get(node.field as usize) else { continue };
            if !std::mem::take(&mut first) {
                self.out.push(',');
            }
            let name = if self.names.original && !field.extension { &field.name } else { &field.json_name };
            self.out.push_str(&quoted(name));
            self.out.push(':');
            let ids: Vec<NodeId> = values.iter().map(|(id, _)| *id).collect();
            self.field(&ids, field);
        }
    }

    fn field(&mut self, values: &[NodeId], field: &Field) {
        match field.shape {
            Shape::Single => {
                if let Some(last) = values.last() {
                    self.one(*last, field.ty);
                }
            }
            Shape::Repeated => {
                self.out.push('[');
                for (index, id) in values.iter().enumerate() {
                    if index > 0 {
                        self.out.push(',');
                    }
                    self.one(*id, field.ty);
                }
                self.out.push(']');
            }
            Shape::Map => {
                self.out.push('{');
                for (index, id) in values.iter().enumerate() {
                    let Some(entry) = entry(self.schema, self.tree, self.source, *id, field) else { continue };
                    if index > 0 {
                        self.out.push(',');
                    }
                    let key = entry.key.plain(Type::Int64, self.schema);
                    self.out.push_str(&quoted(&key));
                    self.out.push(':');
                    match (entry.node, entry.value_type) {
                        (Some(node), ty) => self.one(node, ty),
                        (None, Type::Message(_)) => self.out.push_str("{}"),
                        (None, ty) => self.scalar(Scalar::default_of(ty), ty),
                    }
                }
                self.out.push('}');
            }
        }
    }

    fn one(&mut self, id: NodeId, ty: Type) {
        let Some(node) = self.tree.node(id) else { return };
        match self.tree.scalar(node.value, self.source) {
            Some(Scalar::Bytes(_)) if ty == Type::String => self.fail("text that is not UTF-8 has no JSON".to_owned()),
            Some(value) => self.scalar(value, ty),
            None => self.message(id),
        }
    }

    fn scalar(&mut self, value: Scalar<'_>, ty: Type) {
        let plain = value.plain(ty, self.schema);
        match (value, ty) {
            (Scalar::Text(text), _) => self.out.push_str(&quoted(text)),
            (Scalar::Enum(0), Type::Enum(id))
                if self.schema.enumeration(id).is_some_and(|known| &*known.name == "google.protobuf.NullValue") =>
            {
                self.out.push_str("null");
            }
            (Scalar::Enum(number), Type::Enum(id)) => {
                let known = self.schema.enumeration(id).is_some_and(|known| known.value(number).is_some());
                let text = if known { quoted(&plain) } else { plain };
                self.out.push_str(&text);
            }
            (Scalar::Bytes(_), _) => self.out.push_str(&quoted(&plain)),
            (Scalar::Float(_) | Scalar::Double(_), _) if plain.starts_with(['N', 'I']) || plain.starts_with("-I") => {
                self.out.push_str(&quoted(&plain));
            }
            (_, Type::Int64 | Type::Sint64 | Type::Sfixed64 | Type::Uint64 | Type::Fixed64) => {
                self.out.push_str(&quoted(&plain));
            }
            _ => self.out.push_str(&plain),
        }
    }

    fn part(&self, id: NodeId, number: u32) -> Option<Scalar<'_>> {
        self.tree.get(id, number, self.schema, self.source)
    }

    fn known(&mut self, id: NodeId, known: WellKnown) {
        let Some(of) = self.tree.message_of(id) else { return };
        let whole = |part: Option<Scalar<'_>>| part.and_then(Scalar::integer).unwrap_or(0);
        match known {
            WellKnown::Timestamp | WellKnown::Duration => {
                let total = whole(self.part(id, 1)) * SECOND + whole(self.part(id, 2));
                let text = match known {
                    WellKnown::Timestamp => limits::time_text(total),
                    _ => (total.abs() <= limits::MAX_SECONDS * SECOND).then(|| limits::duration_text(total)),
                };
                match text {
                    Some(text) => self.out.push_str(&quoted(&text)),
                    None => self.fail("a time or duration outside of its range has no JSON".to_owned()),
                }
            }
            WellKnown::Wrapper => {
                let Some(inner) = self.schema.message(of).fields.first() else { return };
                let value = self.part(id, 1).unwrap_or(Scalar::default_of(inner.ty));
                // The borrow of the tree ends before something is written.
                let value: OwnedScalar = value.into();
                self.scalar(value.as_scalar(), inner.ty);
            }
            WellKnown::FieldMask => {
                let paths: Vec<String> = self
                    .tree
                    .children(id)
                    .filter_map(|(_, node)| match self.tree.scalar(node.value, self.source)? {
                        Scalar::Text(path) => Some(camel(path)),
                        _ => None,
                    })
                    .collect();
                self.out.push_str(&quoted(&paths.join(",")));
            }
            WellKnown::Struct | WellKnown::ListValue => {
                let Some(field) = self.schema.message(of).fields.first() else { return };
                let children = ordered(self.schema, self.tree, self.source, id, of);
                let ids: Vec<NodeId> = children.iter().filter(|(_, node)| node.field == 0).map(|(id, _)| *id).collect();
                self.field(&ids, field);
            }
            WellKnown::Value => {
                let last = self.tree.children(id).filter(|(_, node)| !matches!(node.value, Stored::Unknown(..))).last();
                match last.map(|(child, node)| (child, node.value, node.field)) {
                    None | Some((_, Stored::Enum(_), _)) => self.out.push_str("null"),
                    Some((child, _, field)) => {
                        let ty = self.schema.message(of).fields.get(field as usize).map(|field| field.ty);
                        self.one(child, ty.unwrap_or(Type::String));
                    }
                }
            }
            WellKnown::Any => self.any_of(id),
            WellKnown::Empty => self.out.push_str("{}"),
        }
    }

    fn any_of(&mut self, id: NodeId) {
        let url = match self.part(id, 1) {
            Some(Scalar::Text(url)) => url.to_owned(),
            _ => String::new(),
        };
        if url.is_empty() {
            return self.out.push_str("{}");
        }
        let name = crate::check::type_name(&url);
        let Some(inner) = self.schema.by_name.get(name).copied().filter(|_| self.any < MAX_ANY) else {
            return self.fail(format!("an Any of `{name}`, which the schema does not know, has no JSON"));
        };
        let bytes = match self.part(id, 2) {
            Some(Scalar::Bytes(bytes)) => bytes.to_vec(),
            _ => Vec::new(),
        };
        let mut tree = Tree::default();
        crate::read::wire::read(self.schema, inner, &bytes, crate::check::MAX_DEPTH, &mut tree);
        let mut writer = Writer {
            schema: self.schema,
            tree: &tree,
            source: &bytes,
            names: self.names,
            out: String::new(),
            fault: None,
            any: self.any + 1,
        };
        let own_form = self.schema.message(inner).well_known.is_some_and(|known| known != WellKnown::Empty);
        if own_form {
            writer.message(NodeId::ROOT);
        } else {
            writer.members(NodeId::ROOT, true);
        }
        let (inside, fault) = (std::mem::take(&mut writer.out), writer.fault.take());
        self.out.push_str(&format!("{{\"@type\":{}", quoted(&url)));
        if own_form {
            self.out.push_str(&format!(",\"value\":{inside}"));
        } else if !inside.is_empty() {
            self.out.push_str(&format!(",{inside}"));
        }
        self.out.push('}');
        self.fault = self.fault.take().or(fault);
    }
}

/// A scalar that borrows nothing.
enum OwnedScalar {
    Copied(Scalar<'static>),
    Text(String),
    Bytes(Vec<u8>),
}

impl From<Scalar<'_>> for OwnedScalar {
    fn from(value: Scalar<'_>) -> OwnedScalar {
        OwnedScalar::Copied(match value {
            Scalar::Text(text) => return OwnedScalar::Text(text.to_owned()),
            Scalar::Bytes(bytes) => return OwnedScalar::Bytes(bytes.to_vec()),
            Scalar::Bool(value) => Scalar::Bool(value),
            Scalar::Int(value) => Scalar::Int(value),
            Scalar::Uint(value) => Scalar::Uint(value),
            Scalar::Float(value) => Scalar::Float(value),
            Scalar::Double(value) => Scalar::Double(value),
            Scalar::Enum(value) => Scalar::Enum(value),
        })
    }
}

impl OwnedScalar {
    fn as_scalar(&self) -> Scalar<'_> {
        match self {
            OwnedScalar::Copied(value) => *value,
            OwnedScalar::Text(text) => Scalar::Text(text),
            OwnedScalar::Bytes(bytes) => Scalar::Bytes(bytes),
        }
    }
}

/// A path of a FieldMask in lowerCamelCase.
fn camel(path: &str) -> String {
    let mut out = String::new();
    let mut up = false;
    for c in path.chars() {
        match c {
            '_' => up = true,
            c if std::mem::take(&mut up) => out.push(c.to_ascii_uppercase()),
            c => out.push(c),
        }
    }
    out
}
