//! From a document to its JSON form.

use super::*;
use crate::check::{Checker, Mode, Options};
use crate::datatype::{Primitive, Reader, Scope, Value, normalized};
use mervik_document::edit::quoted;
use mervik_xml::{Attribute as Written, Config, Element as Tag, Handler, Namespaces, Spot, UNKNOWN};
use std::ops::ControlFlow;
use std::rc::Rc;

/// The JSON form of a document that is valid. Defaults and fixed values are in it, comments and the white space between
/// elements are not. Linear in the document, which is held in memory.
pub fn to_json(schema: &Schema, text: &str, options: &Options) -> String {
    let mut writer = Writer {
        schema,
        checker: Checker::new(schema, options),
        open: Vec::new(),
        children: HashMap::new(),
        attributes: HashMap::new(),
        out: String::new(),
    };
    mervik_xml::read_text(text, &mut writer, Config { allow_dtd: options.allow_dtd });
    writer.out
}

/// One child of an open element.
struct Child {
    name: Full,
    json: String,
}

/// A part of mixed content.
enum Part {
    Text(String),
    /// The index of a child.
    Child(usize),
}

struct Open {
    name: Full,
    /// Members that are known at the start: `type()`, attributes.
    members: Vec<(String, String)>,
    children: Vec<Child>,
    parts: Vec<Part>,
    text: String,
}

struct Writer<'s> {
    schema: &'s Schema,
    checker: Checker<'s>,
    open: Vec<Open>,
    children: HashMap<TypeId, Rc<Labels>>,
    attributes: HashMap<TypeId, Rc<Labels>>,
    out: String,
}

impl Writer<'_> {
    /// The type that says what is in the innermost element; for what nothing declares, that of anything.
    fn ty(&self) -> TypeId {
        match self.checker.innermost_frame().map(|frame| frame.mode) {
            Some(Mode::Typed(ty)) => ty,
            _ => ANY_TYPE,
        }
    }

    fn attribute(&self, ty: TypeId, written: &Written<'_>, tag: &Tag<'_>) -> (String, String) {
        let schema = self.schema;
        let name = Full { namespace: tag.namespace_of(written).to_owned(), local: written.local.to_owned() };
        let known = (written.number != UNKNOWN).then(|| name.known(schema).0).flatten();
        let declared = known.and_then(|known| {
            let used = schema.components.complex(ty)?.attributes.iter().find(|one| one.name == known);
            let id = used.map(|one| one.attribute).or_else(|| schema.components.global_attribute(known))?;
            schema.components.attribute(id)
        });
        let json = match declared {
            Some(declared) => value(schema.components.reader(), declared.ty, written.value, tag.scope),
            None => quoted(written.value),
        };
        let label = self.attributes.get(&ty).map_or_else(|| name.expanded(), |labels| labels.label(schema, &name));
        (format!("@{label}"), json)
    }

    /// The attributes that are not there and have a value all the same.
    fn filled(&self, ty: TypeId, tag: &Tag<'_>) -> Vec<(String, String)> {
        let schema = self.schema;
        let Some(complex) = schema.components.complex(ty) else { return Vec::new() };
        let mut filled = Vec::new();
        for one in complex.attributes.iter().filter(|one| !one.prohibited) {
            let Some(constraint) = &one.value else { continue };
            let name = Full::of(schema, one.name);
            let there = tag
                .attributes()
                .any(|written| written.local == name.local && tag.namespace_of(&written) == name.namespace);
            if there {
                continue;
            }
            let ty_of = schema.components.attribute(one.attribute).map_or(ANY_SIMPLE_TYPE, |declared| declared.ty);
            let json = value(schema.components.reader(), ty_of, &constraint.text, tag.scope);
            let label = self.attributes.get(&ty).map_or_else(|| name.expanded(), |labels| labels.label(schema, &name));
            filled.push((format!("@{label}"), json));
        }
        filled
    }

    /// The members of an element's object, its children among them.
    fn members(&mut self, ty: TypeId, open: Open) -> Vec<(String, String)> {
        let schema = self.schema;
        let Open { mut members, mut children, parts, .. } = open;
        let labels = Rc::clone(self.children.entry(ty).or_insert_with(|| Rc::new(Labels::of_children(schema, ty))));
        if is_mixed(schema, ty) {
            let list: Vec<String> = parts
                .into_iter()
                .map(|part| match part {
                    Part::Text(text) => quoted(&text),
                    Part::Child(at) => children.get_mut(at).map_or_else(String::new, |child| {
                        format!(
                            "{{{}:{}}}",
                            quoted(&labels.label(schema, &child.name)),
                            std::mem::take(&mut child.json)
                        )
                    }),
                })
                .collect();
            members.push((NODES.to_owned(), format!("[{}]", list.join(","))));
            return members;
        }
        let mut index: HashMap<Full, usize> = HashMap::new();
        let mut groups: Vec<(Full, Vec<String>)> = Vec::new();
        let mut order = Vec::with_capacity(children.len());
        for Child { name, json } in children {
            let at = *index.entry(name.clone()).or_insert_with(|| {
                groups.push((name, Vec::new()));
                groups.len() - 1
            });
            if let Some((_, group)) = groups.get_mut(at) {
                group.push(json);
            }
            order.push(at);
        }
        let counts: Vec<(Full, usize)> = groups.iter().map(|(name, group)| (name.clone(), group.len())).collect();
        if arranged(schema, ty, &counts).is_none_or(|arranged| arranged != order) && groups.len() > 1 {
            let names = order.iter().filter_map(|at| groups.get(*at));
            let list: Vec<String> = names.map(|(name, _)| quoted(&labels.label(schema, name))).collect();
            members.push((ORDER.to_owned(), format!("[{}]", list.join(","))));
        }
        for (name, mut group) in groups {
            let json = match (is_repeatable(schema, ty, name.known(schema).0), group.as_mut_slice()) {
                (false, [one]) => std::mem::take(one),
                _ => format!("[{}]", group.join(",")),
            };
            members.push((labels.label(schema, &name), json));
        }
        members
    }
}

/// A value of a simple type as JSON: numbers as numbers, lists as arrays, names with their namespaces.
fn value(reader: Reader<'_>, ty: TypeId, text: &str, scope: &dyn Scope) -> String {
    let Some(simple) = reader.simple(ty) else { return quoted(text) };
    match &simple.variety {
        Variety::Any => quoted(text),
        Variety::List(item) => {
            let items = text.split(mervik_xml::names::is_space).filter(|part| !part.is_empty());
            let items: Vec<String> = items.map(|part| value(reader, *item, part, scope)).collect();
            format!("[{}]", items.join(","))
        }
        Variety::Union(members) => match members.iter().find(|member| reader.read(**member, text, scope).is_ok()) {
            Some(member) => value(reader, *member, text, scope),
            None => quoted(text),
        },
        Variety::Atomic(primitive) => match reader.read(ty, text, scope) {
            Ok(Value::Boolean(value)) => value.to_string(),
            Ok(Value::Decimal(value)) => value.canonical(),
            Ok(Value::Float(value)) if value.is_finite() => format!("{value}"),
            Ok(Value::Double(value)) if value.is_finite() => number(value),
            Ok(Value::Name(Primitive::QName | Primitive::Notation, namespace, local)) => {
                quoted(&format!("{{{namespace}}}{local}"))
            }
            _ if matches!(primitive, Primitive::Float | Primitive::Double) => {
                quoted(normalized(text, simple.white_space).trim())
            }
            _ => quoted(&normalized(text, simple.white_space)),
        },
    }
}

/// The shortest spelling that is read as the same number; with an exponent where that is shorter.
fn number(value: f64) -> String {
    let (plain, scientific) = (format!("{value}"), format!("{value:e}"));
    if plain.len() <= scientific.len() + 4 { plain } else { scientific }
}

fn object(members: &[(String, String)]) -> String {
    let mut out =
        String::with_capacity(members.iter().map(|(name, json)| name.len() + json.len() + 4).sum::<usize>() + 2);
    out.push('{');
    for (index, (name, json)) in members.iter().enumerate() {
        if index > 0 {
            out.push(',');
        }
        out.push_str(&quoted(name));
        out.push(':');
        out.push_str(json);
    }
    out.push('}');
    out
}

impl Handler for Writer<'_> {
    fn namespace(&mut self, uri: &str) -> u32 {
        self.checker.namespace(uri)
    }

    fn start(&mut self, tag: &Tag<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        let schema = self.schema;
        if let Some(open) = self.open.last_mut()
            && !open.text.is_empty()
        {
            let text = std::mem::take(&mut open.text);
            open.parts.push(Part::Text(text));
        }
        let flow = self.checker.start(tag, spot);
        let ty = self.ty();
        self.attributes.entry(ty).or_insert_with(|| Rc::new(Labels::of_attributes(schema, ty)));
        let mut members = Vec::new();
        for written in tag.attributes() {
            match (written.number == schema.xsi, written.local) {
                (true, "type") => {
                    let text = written.value.trim_matches(mervik_xml::names::is_space);
                    let (prefix, local) = mervik_xml::names::split(text).unwrap_or(("", text));
                    let uri = tag.scope.resolve(prefix).map_or("", |(_, uri)| uri);
                    members.push((TYPE.to_owned(), quoted(&format!("{{{uri}}}{local}"))));
                }
                (true, "nil") => {
                    if matches!(written.value.trim(), "true" | "1") {
                        members.push((NIL.to_owned(), "true".to_owned()));
                    }
                }
                _ => members.push(self.attribute(ty, &written, tag)),
            }
        }
        members.extend(self.filled(ty, tag));
        let name = Full { namespace: tag.namespace.to_owned(), local: tag.local.to_owned() };
        self.open.push(Open { name, members, children: Vec::new(), parts: Vec::new(), text: String::new() });
        flow
    }

    fn text(&mut self, text: &str, spot: &Spot<'_>) -> ControlFlow<()> {
        if let Some(open) = self.open.last_mut() {
            open.text.push_str(text);
        }
        self.checker.text(text, spot)
    }

    fn end(&mut self, empty: bool, scope: &Namespaces, spot: &Spot<'_>) -> ControlFlow<()> {
        let schema = self.schema;
        let ty = self.ty();
        let (nil, element) = self.checker.innermost_frame().map_or((false, None), |frame| (frame.nil, frame.element));
        let Some(mut open) = self.open.pop() else { return self.checker.end(empty, scope, spot) };
        let simple = schema.check_of(ty).and_then(|check| check.text);
        let text = std::mem::take(&mut open.text);
        let name = open.name.clone();
        let json = match simple {
            Some(text_type) => {
                let constraint =
                    element.and_then(|id| schema.components.element(id)).and_then(|one| one.value.as_ref());
                let text = match constraint {
                    Some(constraint) if text.is_empty() && !nil => &*constraint.text,
                    _ => &text,
                };
                let json =
                    if nil { "null".to_owned() } else { value(schema.components.reader(), text_type, text, scope) };
                let bare = schema.components.complex(ty).is_none() && open.members.iter().all(|(name, _)| name == NIL);
                match bare {
                    true => json,
                    false => {
                        open.members.retain(|(name, _)| name != NIL);
                        open.members.push((TEXT.to_owned(), json));
                        object(&open.members)
                    }
                }
            }
            None => {
                if !text.is_empty() {
                    open.parts.push(Part::Text(text));
                }
                match nil {
                    true => object(&open.members),
                    false => {
                        let members = self.members(ty, open);
                        object(&members)
                    }
                }
            }
        };
        match self.open.last_mut() {
            Some(parent) => {
                parent.parts.push(Part::Child(parent.children.len()));
                parent.children.push(Child { name, json });
            }
            None => {
                let label = Labels::of_roots(schema).label(schema, &name);
                self.out = format!("{{{}:{json}}}", quoted(&label));
            }
        }
        self.checker.end(empty, scope, spot)
    }

    fn doctype(&mut self, unparsed: &[String]) {
        self.checker.doctype(unparsed);
    }
}
