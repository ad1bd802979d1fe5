//! From the JSON form to a document.

use super::*;
use crate::datatype::Primitive;
use crate::text::{escaped, escaped_value};
use mervik_document::{Decimal, Document, Finding, Kind, LineIndex, NodeId, Severity, Value, pointer, shown};
use mervik_xml::names::is_ncname;

/// A document that was written from its JSON form.
#[derive(Clone, Debug)]
pub struct Written {
    /// The document; whether it is valid is for a check to say.
    pub text: String,
    /// Where the tag of each element starts in the text, in order, and the JSON value that it comes from.
    pub places: Vec<(usize, NodeId)>,
}

/// The name of findings about what is no JSON form of a document.
pub const JSON_FORM: &str = "json-form";

/// What is no JSON form of a document.
pub type Misread = Vec<Finding>;

/// Writes a document from its JSON form, with the schema's own prefixes. Linear in the text.
///
/// # Errors
///
/// What has no meaning in XML, with its place in the JSON text: names that are none, values where an element is needed.
pub fn from_json(schema: &Schema, json: &Document<'_>) -> Result<Written, Misread> {
    let mut reader = Read {
        schema,
        json,
        out: String::new(),
        places: Vec::new(),
        prefixes: prefixes(schema),
        used: Vec::new(),
        found: Vec::new(),
        lines: LineIndex::new(json.text()),
        declarations: 0,
    };
    reader.document(json.root());
    if !reader.found.is_empty() {
        return Err(reader.found);
    }
    let Read { mut out, mut places, used, declarations, .. } = reader;
    let declared: String =
        used.iter().map(|(prefix, uri)| format!(" xmlns:{prefix}=\"{}\"", escaped_value(uri))).collect();
    out.insert_str(declarations, &declared);
    for (at, _) in places.iter_mut().filter(|(at, _)| *at >= declarations) {
        *at += declared.len();
    }
    Ok(Written { text: out, places })
}

impl Written {
    /// The JSON value that the element or attribute at a line and column of the text comes from; `at` is its XPath.
    pub fn origin(
        &self,
        json: &Document<'_>,
        lines: &LineIndex,
        place: mervik_document::Place,
        at: &str,
    ) -> Option<NodeId> {
        let place_of = |offset: usize| lines.place(&self.text, offset as u32);
        let after = self.places.partition_point(|(offset, _)| place_of(*offset) <= place);
        let (_, node) = self.places.get(after.checked_sub(1)?)?;
        let name = at.rsplit('/').next().filter(|last| last.starts_with('@'));
        let attribute = name.and_then(|name| json.value(*node).get(name));
        Some(attribute.map_or(*node, |value| value.id()))
    }
}

/// The prefixes that the schema's own documents have for namespaces.
fn prefixes(schema: &Schema) -> HashMap<String, String> {
    let mut prefixes = HashMap::from([
        (mervik_xml::XML_NAMESPACE.to_owned(), "xml".to_owned()),
        (crate::names::XSI.to_owned(), "xsi".to_owned()),
    ]);
    for document in &schema.documents {
        let Some(root) = document.tree.root() else { continue };
        for (prefix, uri) in document.tree.scope(root) {
            let taken = prefix.is_empty() || uri.is_empty() || prefixes.values().any(|known| known == prefix);
            if !taken {
                prefixes.entry(uri.clone()).or_insert_with(|| prefix.clone());
            }
        }
    }
    prefixes
}

struct Read<'s, 'j> {
    schema: &'s Schema,
    json: &'j Document<'j>,
    out: String,
    places: Vec<(usize, NodeId)>,
    prefixes: HashMap<String, String>,
    /// The prefixes that the root must declare, with their namespaces.
    used: Vec<(String, String)>,
    found: Misread,
    lines: LineIndex,
    /// Where they go.
    declarations: usize,
}

/// How an element stands in what is around it.
#[derive(Clone, Copy)]
struct Around<'a> {
    /// The namespace of names without prefix.
    default: &'a str,
    depth: usize,
    /// Whether white space may be added.
    layout: bool,
}

impl<'j> Read<'_, 'j> {
    fn wrong(&mut self, value: Value<'_>, expected: impl Into<String>, found: impl Into<String>) {
        let (expected, found) = (expected.into(), found.into());
        let span = value.span();
        self.found.push(Finding {
            rule: JSON_FORM.into(),
            at: pointer::of(self.json, value.id()),
            span,
            place: self.lines.place(self.json.text(), span.start),
            schema: None,
            severity: Severity::Error,
            message: format!("expected {expected}, found {found}"),
            expected,
            found,
            hint: None,
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        });
    }

    fn document(&mut self, root: Value<'j>) {
        let mut members = root.members();
        let (Some(member), None) = (members.next(), members.next()) else {
            let found = match root.kind() {
                Kind::Object => shown::counted(root.members().count() as u64, "member"),
                kind => kind.word().to_owned(),
            };
            return self.wrong(root, "an object with one member, the root element", found);
        };
        let schema = self.schema;
        let Some(name) = self.name(&Labels::of_roots(schema), member.name.text(), member.value) else { return };
        let declared = name.known(schema).0.and_then(|name| schema.components.global_element(name));
        let root_namespace = if has_unqualified(schema) { "" } else { name.namespace.as_str() };
        self.out.push_str("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
        let around = Around { default: "", depth: 0, layout: true };
        self.element(&name, declared, member.value, around, Some(root_namespace));
        self.out.push('\n');
    }

    fn name(&mut self, labels: &Labels, label: &str, value: Value<'_>) -> Option<Full> {
        match labels.name(self.schema, label).filter(|name| is_ncname(&name.local)) {
            Some(name) => Some(name),
            None if labels.by_local.contains_key(label) => {
                self.wrong(
                    value,
                    format!("`{{namespace}}{label}`, for several go by that name here"),
                    format!("`{label}`"),
                );
                None
            }
            None => {
                self.wrong(
                    value,
                    "the name of an element, `@` and the name of an attribute, `text()` or `node()`",
                    format!("`{}`", shown::text(label)),
                );
                None
            }
        }
    }

    /// A prefix for a namespace, which the root declares.
    fn prefix(&mut self, uri: &str) -> String {
        let prefix = match self.prefixes.get(uri) {
            Some(prefix) => prefix.clone(),
            None => {
                let mut number = self.prefixes.len();
                let mut prefix = format!("n{number}");
                while self.prefixes.values().any(|known| *known == prefix) {
                    number += 1;
                    prefix = format!("n{number}");
                }
                self.prefixes.insert(uri.to_owned(), prefix.clone());
                prefix
            }
        };
        if prefix != "xml" && !self.used.iter().any(|(known, _)| *known == prefix) {
            self.used.push((prefix.clone(), uri.to_owned()));
        }
        prefix
    }

    fn line(&mut self, depth: usize) {
        self.out.push('\n');
        self.out.extend(std::iter::repeat_n("  ", depth));
    }

    /// Writes an element. `root` is the default namespace that the root declares.
    fn element(
        &mut self,
        name: &Full,
        declared: Option<ElementId>,
        value: Value<'j>,
        around: Around<'_>,
        root: Option<&str>,
    ) {
        let schema = self.schema;
        let mut default = around.default;
        let mut declaration = String::new();
        if let Some(root) = root.filter(|root| !root.is_empty()) {
            declaration = format!(" xmlns=\"{}\"", escaped_value(root));
            default = root;
        }
        let tag = if name.namespace == default {
            name.local.clone()
        } else if name.namespace.is_empty() {
            declaration.push_str(" xmlns=\"\"");
            default = "";
            name.local.clone()
        } else {
            format!("{}:{}", self.prefix(&name.namespace), name.local)
        };
        self.places.push((self.out.len(), value.id()));
        self.out.push('<');
        self.out.push_str(&tag);
        self.out.push_str(&declaration);
        if root.is_some() {
            self.declarations = self.out.len();
        }
        let mut ty = declared.and_then(|id| schema.components.element(id)).map_or(ANY_TYPE, |element| element.ty);
        if let Some(named) = value.get(TYPE) {
            ty = self.named_type(named).unwrap_or(ty);
        }
        let nil = value.kind() == Kind::Null
            || value.get(NIL).is_some_and(|nil| nil.as_bool() == Some(true))
            || value.get(TEXT).is_some_and(|text| text.kind() == Kind::Null);
        if nil {
            let prefix = self.prefix(crate::names::XSI);
            self.out.push_str(&format!(" {prefix}:nil=\"true\""));
        }
        let attributes = Labels::of_attributes(schema, ty);
        for member in value.members() {
            if let Some(label) = member.name.text().strip_prefix('@') {
                self.attribute(ty, &attributes, label, member.value);
            }
        }
        let simple = schema.check_of(ty).and_then(|check| check.text);
        let before = self.out.len();
        self.out.push('>');
        let inner = Around { default, depth: around.depth + 1, layout: around.layout };
        match simple {
            _ if nil => {}
            Some(text_type) => self.text(text_type, value),
            None if value.kind() == Kind::Object => self.children(ty, value, inner),
            // A bare text where anything may be.
            None => match value.as_str().filter(|_| is_mixed(schema, ty)) {
                Some(text) => self.out.push_str(&escaped(text)),
                None => {
                    self.wrong(value, format!("an object, for `<{}>` has elements", name.local), value.kind().word())
                }
            },
        }
        if self.out.len() == before + 1 {
            self.out.truncate(before);
            self.out.push_str("/>");
        } else {
            self.out.push_str(&format!("</{tag}>"));
        }
    }

    fn named_type(&mut self, value: Value<'_>) -> Option<TypeId> {
        let schema = self.schema;
        let Some(text) = value.as_str() else {
            self.wrong(value, "the name of a type", value.kind().word());
            return None;
        };
        let (namespace, local) = match text.strip_prefix('{').and_then(|rest| rest.rsplit_once('}')) {
            Some((namespace, local)) => (namespace.to_owned(), local),
            None => (String::new(), text),
        };
        let full = Full { namespace, local: local.to_owned() };
        let name = self.qualified(&full);
        let prefix = self.prefix(crate::names::XSI);
        self.out.push_str(&format!(" {prefix}:type=\"{}\"", escaped_value(&name)));
        full.known(schema).0.and_then(|name| schema.components.global_type(name))
    }

    /// A name as a value: with a prefix where it has a namespace.
    fn qualified(&mut self, name: &Full) -> String {
        match name.namespace.as_str() {
            "" => name.local.clone(),
            uri => format!("{}:{}", self.prefix(uri), name.local),
        }
    }

    fn attribute(&mut self, ty: TypeId, labels: &Labels, label: &str, value: Value<'_>) {
        let schema = self.schema;
        let Some(name) = self.name(labels, label, value) else { return };
        let known = name.known(schema).0;
        let declared = known.and_then(|known| {
            let used = schema.components.complex(ty)?.attributes.iter().find(|one| one.name == known);
            used.map(|one| one.attribute).or_else(|| schema.components.global_attribute(known))
        });
        let value_type = declared.and_then(|id| schema.components.attribute(id)).map_or(ANY_SIMPLE_TYPE, |one| one.ty);
        if let Some(text) = self.lexical(value_type, value) {
            let name = self.qualified(&name);
            self.out.push_str(&format!(" {name}=\"{}\"", escaped_value(&text)));
        }
    }

    fn text(&mut self, ty: TypeId, value: Value<'_>) {
        let text = match value.kind() {
            Kind::Object => match value.get(TEXT) {
                Some(text) => {
                    self.others(value, |name| name == TEXT);
                    text
                }
                None => return self.wrong(value, "`text()`, the value of the element", "none"),
            },
            _ => value,
        };
        if let Some(text) = self.lexical(ty, text) {
            self.out.push_str(&escaped(&text));
        }
    }

    /// Refuses members that have no meaning where they are.
    fn others(&mut self, value: Value<'_>, known: impl Fn(&str) -> bool) {
        for member in value.members() {
            let name = member.name.text();
            if !name.starts_with('@') && !matches!(name, TYPE | NIL) && !known(name) {
                self.wrong(member.value, "attributes and a value here", format!("`{}`", shown::text(name)));
            }
        }
    }

    /// The text of a value of a simple type.
    fn lexical(&mut self, ty: TypeId, value: Value<'_>) -> Option<String> {
        let schema = self.schema;
        let reader = schema.components.reader();
        match value.kind() {
            Kind::String => {
                let text = value.as_str().unwrap_or("");
                let is_name = reader.simple(ty).is_some_and(|simple| {
                    matches!(simple.variety, Variety::Atomic(Primitive::QName | Primitive::Notation))
                });
                match text.strip_prefix('{').and_then(|rest| rest.rsplit_once('}')).filter(|_| is_name) {
                    Some((namespace, local)) => {
                        Some(self.qualified(&Full { namespace: namespace.to_owned(), local: local.to_owned() }))
                    }
                    None => Some(text.to_owned()),
                }
            }
            Kind::Number => {
                let source = value.source();
                let decimal =
                    reader.simple(ty).is_some_and(|simple| simple.variety == Variety::Atomic(Primitive::Decimal));
                // `xs:decimal` has no exponent.
                let plain = Decimal::parse(source).filter(|_| decimal && source.contains(['e', 'E']));
                Some(plain.map_or_else(|| source.to_owned(), |plain| plain.to_string()))
            }
            Kind::Bool => Some(value.source().to_owned()),
            Kind::Array => {
                let item = match reader.simple(ty).map(|simple| &simple.variety) {
                    Some(Variety::List(item)) => *item,
                    _ => ANY_SIMPLE_TYPE,
                };
                let items: Vec<String> = value.items().filter_map(|value| self.lexical(item, value)).collect();
                Some(items.join(" "))
            }
            kind => {
                self.wrong(value, "a value", kind.word());
                None
            }
        }
    }

    fn children(&mut self, ty: TypeId, value: Value<'j>, around: Around<'_>) {
        let labels = Labels::of_children(self.schema, ty);
        if let Some(nodes) = value.get(NODES) {
            for part in nodes.items() {
                match part.as_str() {
                    Some(text) => self.out.push_str(&escaped(text)),
                    None => {
                        let mut members = part.members();
                        match (members.next(), members.next()) {
                            (Some(member), None) => {
                                if let Some(name) = self.name(&labels, member.name.text(), member.value) {
                                    self.child(ty, &name, member.value, Around { layout: false, ..around });
                                }
                            }
                            _ => self.wrong(part, "a text, or an object with one member", part.kind().word()),
                        }
                    }
                }
            }
            return self.others(value, |name| name == NODES);
        }
        let mut groups: Vec<(Full, usize)> = Vec::new();
        let mut values: Vec<Vec<Value<'j>>> = Vec::new();
        for member in value.members() {
            let label = member.name.text();
            if label.starts_with('@') || matches!(label, TYPE | NIL | ORDER) {
                continue;
            }
            let Some(name) = self.name(&labels, label, member.value) else { continue };
            let all: Vec<Value<'j>> = match member.value.kind() {
                Kind::Array
                    if is_repeatable(self.schema, ty, name.known(self.schema).0) || !self.is_list(ty, &name) =>
                {
                    member.value.items().collect()
                }
                _ => vec![member.value],
            };
            groups.push((name, all.len()));
            values.push(all);
        }
        let told = value.get(ORDER).and_then(|order| self.told_order(order, &labels, &groups));
        let order = told.or_else(|| arranged(self.schema, ty, &groups));
        // What the content model does not take in any order is written as it comes, for the check to say so.
        let as_written =
            || groups.iter().enumerate().flat_map(|(at, (_, count))| std::iter::repeat_n(at, *count)).collect();
        let order: Vec<usize> = order.unwrap_or_else(as_written);
        let mut next = vec![0; groups.len()];
        let any = !order.is_empty();
        for at in order {
            let Some(((name, _), turn)) = groups.get(at).zip(next.get_mut(at)) else { continue };
            let Some(value) = values.get(at).and_then(|values| values.get(*turn)) else { continue };
            *turn += 1;
            if around.layout {
                self.line(around.depth);
            }
            self.child(ty, name, *value, around);
        }
        if any && around.layout {
            self.line(around.depth - 1);
        }
    }

    /// Whether an element's value is a list, so that an array is one value and not several elements.
    fn is_list(&self, ty: TypeId, name: &Full) -> bool {
        let schema = self.schema;
        let known = name.known(schema).0;
        let declared =
            known.and_then(|known| schema.model(ty)?.declaration(known)).and_then(|id| schema.components.element(id));
        let text = declared.and_then(|declared| schema.components.simple(declared.ty));
        text.is_some_and(|text| match &text.variety {
            Variety::List(_) => true,
            Variety::Union(members) => members.iter().any(|member| {
                schema.components.simple(*member).is_some_and(|member| matches!(member.variety, Variety::List(_)))
            }),
            _ => false,
        })
    }

    /// The order that `order()` tells, if it tells of all children and of no others.
    fn told_order(&mut self, value: Value<'_>, labels: &Labels, groups: &[(Full, usize)]) -> Option<Vec<usize>> {
        let mut order = Vec::new();
        let mut left: Vec<usize> = groups.iter().map(|(_, count)| *count).collect();
        for item in value.items() {
            let name = item.as_str().and_then(|label| labels.name(self.schema, label));
            let at = name.and_then(|name| groups.iter().position(|(known, _)| *known == name));
            match at.and_then(|at| left.get_mut(at).filter(|left| **left > 0).map(|left| (at, left))) {
                Some((at, left)) => {
                    *left -= 1;
                    order.push(at);
                }
                None => {
                    self.wrong(item, "the name of a child that is there", shown::text(item.source()));
                    return None;
                }
            }
        }
        if left.iter().any(|left| *left > 0) {
            self.wrong(value, "as many names as there are children", shown::counted(order.len() as u64, "name"));
            return None;
        }
        Some(order)
    }

    fn child(&mut self, ty: TypeId, name: &Full, value: Value<'j>, around: Around<'_>) {
        let schema = self.schema;
        let known = name.known(schema).0;
        let declared = known.and_then(|known| schema.model(ty).and_then(|model| model.declaration(known)));
        let declared = declared.or_else(|| known.and_then(|known| schema.components.global_element(known)));
        self.element(name, declared, value, around, None);
    }
}
