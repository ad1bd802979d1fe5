//! The text format, one field a line.

use super::{entry, ordered};
use crate::check::MAX_ANY;
use crate::schema::{Field, Schema, Shape, Type, WellKnown};
use crate::tree::{NodeId, Tree};
use crate::value::Scalar;
use std::fmt::Write;

struct Writer<'w> {
    schema: &'w Schema,
    tree: &'w Tree,
    source: &'w [u8],
    out: String,
    any: usize,
}

/// The text of a tree. Fields that the message does not have cannot be written: they are left out.
pub(crate) fn write(schema: &Schema, tree: &Tree, source: &[u8]) -> String {
    let mut writer = Writer { schema, tree, source, out: String::new(), any: 0 };
    writer.message(NodeId::ROOT, 0);
    writer.out
}

impl Writer<'_> {
    fn message(&mut self, id: NodeId, indent: usize) {
        let Some(of) = self.tree.message_of(id) else { return };
        if self.schema.message(of).well_known == Some(WellKnown::Any) && self.any_of(id, indent) {
            return;
        }
        let fields = &self.schema.message(of).fields;
        for (child, node) in ordered(self.schema, self.tree, self.source, id, of) {
            let Some(field) = fields.get(node.field as usize) else { continue };
            match field.shape {
                Shape::Map => self.entry(child, field, indent),
                _ => self.value(child, &name(self.schema, field), field.ty, indent),
            }
        }
    }

    fn line(&mut self, indent: usize, name: &str, value: &str) {
        let _ = writeln!(self.out, "{:1$}{name}: {value}", "", indent * 2);
    }

    fn value(&mut self, id: NodeId, name: &str, ty: Type, indent: usize) {
        let Some(node) = self.tree.node(id) else { return };
        match self.tree.scalar(node.value, self.source) {
            Some(value) => {
                let text = self.scalar(value, ty);
                self.line(indent, name, &text);
            }
            None => {
                let _ = writeln!(self.out, "{:1$}{name} {{", "", indent * 2);
                self.message(id, indent + 1);
                let _ = writeln!(self.out, "{:1$}}}", "", indent * 2);
            }
        }
    }

    fn entry(&mut self, id: NodeId, map: &Field, indent: usize) {
        let Some(entry) = entry(self.schema, self.tree, self.source, id, map) else { return };
        let key = self.scalar(entry.key, Type::Int64);
        let _ = writeln!(self.out, "{:1$}{name} {{", "", indent * 2, name = name(self.schema, map));
        self.line(indent + 1, "key", &key);
        match (entry.node, entry.value_type) {
            (Some(node), ty) => self.value(node, "value", ty, indent + 1),
            (None, Type::Message(_)) => {
                let space = " ".repeat((indent + 1) * 2);
                let _ = writeln!(self.out, "{space}value {{\n{space}}}");
            }
            (None, ty) => {
                let text = self.scalar(Scalar::default_of(ty), ty);
                self.line(indent + 1, "value", &text);
            }
        }
        let _ = writeln!(self.out, "{:1$}}}", "", indent * 2);
    }

    fn scalar(&self, value: Scalar<'_>, ty: Type) -> String {
        match value {
            Scalar::Text(text) => escaped(text.as_bytes(), true),
            Scalar::Bytes(bytes) => escaped(bytes, false),
            Scalar::Float(_) | Scalar::Double(_) => match value.plain(ty, self.schema).as_str() {
                "NaN" => "nan".to_owned(),
                "Infinity" => "inf".to_owned(),
                "-Infinity" => "-inf".to_owned(),
                plain => plain.to_owned(),
            },
            value => value.plain(ty, self.schema),
        }
    }

    /// What is inside of an Any, when the schema knows it.
    fn any_of(&mut self, id: NodeId, indent: usize) -> bool {
        let Some(Scalar::Text(url)) = self.tree.get(id, 1, self.schema, self.source) else { return false };
        let known = self.schema.by_name.get(crate::check::type_name(url)).copied();
        let Some(inner) = known.filter(|_| self.any < MAX_ANY && url.contains('/')) else { return false };
        let bytes = match self.tree.get(id, 2, self.schema, self.source) {
            Some(Scalar::Bytes(bytes)) => bytes.to_vec(),
            _ => Vec::new(),
        };
        let mut tree = Tree::default();
        if !crate::read::wire::read(self.schema, inner, &bytes, crate::check::MAX_DEPTH, &mut tree).is_empty() {
            return false;
        }
        let mut writer =
            Writer { schema: self.schema, tree: &tree, source: &bytes, out: String::new(), any: self.any + 1 };
        writer.message(NodeId::ROOT, indent + 1);
        let inside = writer.out;
        let _ = writeln!(self.out, "{:2$}[{url}] {{\n{inside}{:2$}}}", "", "", indent * 2);
        true
    }
}

/// The name of a field: of extensions in brackets, of groups that of the message.
fn name(schema: &Schema, field: &Field) -> String {
    match field.ty {
        Type::Message(id) if field.delimited && !field.extension => {
            let group = schema.name_of(id).rsplit('.').next().unwrap_or("");
            // Only where the field is named after it, which groups are.
            if group.eq_ignore_ascii_case(&field.name) { group.to_owned() } else { field.step() }
        }
        _ => field.step(),
    }
}

fn escaped(bytes: &[u8], text: bool) -> String {
    let mut out = String::from("\"");
    let put = |c: char, out: &mut String| match c {
        '"' => out.push_str("\\\""),
        '\\' => out.push_str("\\\\"),
        '\n' => out.push_str("\\n"),
        '\r' => out.push_str("\\r"),
        '\t' => out.push_str("\\t"),
        c if (c as u32) < 0x20 || c as u32 == 0x7f => out.push_str(&format!("\\{:03o}", c as u32)),
        c => out.push(c),
    };
    match std::str::from_utf8(bytes) {
        Ok(valid) if text => valid.chars().for_each(|c| put(c, &mut out)),
        _ => {
            for byte in bytes {
                if byte.is_ascii() {
                    put(char::from(*byte), &mut out);
                } else {
                    out.push_str(&format!("\\{byte:03o}"));
                }
            }
        }
    }
    out.push('"');
    out
}
