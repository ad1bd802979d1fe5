//! From evidence to the text of an XML Schema.

use super::texts::{Kind, Texts};
use super::{ANY, ChildSeen, MAX_CHILDREN, Name, Place, XmlEvidence};
use crate::draft::{rounded, rounded_up};
use crate::{Bounds, Rule, Settings};
use mervik_xml::escaped_value;
use std::collections::{HashMap, HashSet};
use std::fmt::Write;

/// A draft.
#[derive(Clone, Debug)]
pub struct DraftedXsd {
    /// The schema.
    pub schema: String,
    /// What stands behind each of its rules; places are XPaths of elements and attributes.
    pub rules: Vec<Rule>,
}

/// An element that was there in so many of a hundred was nearly always there.
const NEARLY: u64 = 90;

/// Drafts the schema of what was seen; `Err` tells of samples whose roots are of several namespaces, by these.
///
/// # Errors
///
/// The namespaces: one schema document describes one.
pub fn draft_xsd(evidence: &XmlEvidence, settings: &Settings) -> Result<DraftedXsd, Vec<String>> {
    let mut namespaces: Vec<String> = evidence.roots.iter().map(|(name, _)| name.namespace.to_string()).collect();
    namespaces.sort();
    namespaces.dedup();
    let [target] = namespaces.as_slice() else { return Err(namespaces) };
    let mut drafter = Drafter { evidence, settings, target, named: HashMap::new(), rules: Vec::new() };
    // First everything in its place; then what came out alike, and what refers to itself, gets a name.
    let inline = drafter.all();
    let definitions = drafter.share(&inline);
    let texts = drafter.all();
    let mut schema = String::from(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<xs:schema xmlns:xs=\"http://www.w3.org/2001/XMLSchema\"",
    );
    if !target.is_empty() {
        let uri = escaped_value(target);
        let space = "\n           ";
        let _ = write!(
            schema,
            "{space}xmlns:t=\"{uri}\"{space}targetNamespace=\"{uri}\"{space}elementFormDefault=\"qualified\""
        );
    }
    schema.push_str(">\n");
    let mut put = |lines: Vec<String>| {
        schema.push('\n');
        lines.iter().for_each(|line| _ = writeln!(schema, "  {line}"));
    };
    for (name, place) in &evidence.roots {
        put(drafter.element(name, *place, "", &texts));
    }
    for place in definitions {
        let Some(name) = drafter.named.get(&place) else { continue };
        put(texts.get(&place).cloned().unwrap_or_default().lines(Some(name)));
    }
    schema.push_str("\n</xs:schema>\n");
    drafter.tell_all();
    Ok(DraftedXsd { schema, rules: drafter.rules })
}

/// A type, as it stands in a schema.
#[derive(Clone, Debug, Default)]
struct TypeText {
    /// The name of a built-in type; then there are no lines.
    built_in: Option<&'static str>,
    complex: bool,
    mixed: bool,
    within: Vec<String>,
}

impl TypeText {
    /// The definition, with a name or without.
    fn lines(&self, name: Option<&str>) -> Vec<String> {
        let kind = if self.complex { "xs:complexType" } else { "xs:simpleType" };
        let name = name.map_or(String::new(), |name| format!(" name=\"{name}\""));
        let mixed = if self.mixed { " mixed=\"true\"" } else { "" };
        match (self.built_in, self.within.is_empty()) {
            // Only what refers to itself has a name, and that has elements.
            (Some(base), _) => {
                vec![format!("<{kind}{name}>"), format!("  <xs:restriction base=\"{base}\"/>"), format!("</{kind}>")]
            }
            (None, true) => vec![format!("<{kind}{name}{mixed}/>")],
            (None, false) => wrapped(format!("<{kind}{name}{mixed}>"), &self.within, &format!("</{kind}>")),
        }
    }
}

fn wrapped(open: String, within: &[String], close: &str) -> Vec<String> {
    let inner = within.iter().map(|line| format!("  {line}"));
    std::iter::once(open).chain(inner).chain(std::iter::once(close.to_owned())).collect()
}

struct Drafter<'e> {
    evidence: &'e XmlEvidence,
    settings: &'e Settings,
    target: &'e str,
    /// The types that have names, by place.
    named: HashMap<usize, String>,
    rules: Vec<Rule>,
}

/// `cargo-item` as `CargoItem`.
fn type_name(local: &str) -> String {
    let words = local.split(['-', '_', '.']).filter(|word| !word.is_empty());
    let mut name = String::new();
    for word in words {
        let mut chars = word.chars();
        name.extend(chars.next().map(|first| first.to_uppercase().collect::<String>()));
        name.push_str(chars.as_str());
    }
    match name.starts_with(|c: char| c.is_alphabetic()) {
        true => name,
        false => format!("Type{name}"),
    }
}

/// How often a particle may come, as attributes.
fn occurs(least: u64, several: bool) -> String {
    let least = if least == 0 { " minOccurs=\"0\"" } else { "" };
    let most = if several { " maxOccurs=\"unbounded\"" } else { "" };
    format!("{least}{most}")
}

impl Drafter<'_> {
    /// The types of all places. What is inside comes later in the list of places, or has a name.
    fn all(&self) -> HashMap<usize, TypeText> {
        let mut texts = HashMap::new();
        for place in (0..self.evidence.nodes.len()).rev() {
            let text = self.type_of(place, &texts);
            texts.insert(place, text);
        }
        texts
    }

    /// Gives names to what refers to itself and to what is the same under the same name in several places; gives the places
    /// by which the named types are defined.
    fn share(&mut self, inline: &HashMap<usize, TypeText>) -> Vec<usize> {
        let mut references = vec![0u32; self.evidence.nodes.len()];
        let mut names: Vec<Option<&Name>> = vec![None; self.evidence.nodes.len()];
        let edges =
            self.evidence.nodes.iter().flat_map(|node| node.children.iter().map(|child| (&child.name, child.place)));
        for (name, place) in self.evidence.roots.iter().map(|(name, place)| (name, *place)).chain(edges) {
            if let (Some(count), Some(known)) = (references.get_mut(place), names.get_mut(place)) {
                *count += 1;
                known.get_or_insert(name);
            }
        }
        let mut alike: HashMap<(&str, String), Vec<usize>> = HashMap::new();
        for (place, name) in names.iter().enumerate() {
            if let (Some(name), Some(text)) = (name, inline.get(&place).filter(|text| text.complex)) {
                alike.entry((&name.local, text.lines(None).join("\n"))).or_default().push(place);
            }
        }
        let mut groups: Vec<(&str, Vec<usize>)> = alike
            .into_iter()
            .filter(|(_, places)| places.len() > 1 || places.iter().any(|place| references.get(*place) > Some(&1)))
            .map(|((local, _), places)| (local, places))
            .collect();
        groups.sort_by_key(|(_, places)| places.first().copied());
        let mut taken = HashSet::new();
        let mut definitions = Vec::new();
        for (local, places) in groups {
            let base = type_name(local);
            let free = std::iter::once(base.clone()).chain((2..).map(|number| format!("{base}{number}")));
            let Some(name) = free.take(100_000).find(|name| taken.insert(name.clone())) else { continue };
            definitions.extend(places.first());
            self.named.extend(places.into_iter().map(|place| (place, name.clone())));
        }
        definitions
    }

    /// An element declaration; `occurs` is what it says of how often it comes.
    fn element(&self, name: &Name, place: usize, occurs: &str, texts: &HashMap<usize, TypeText>) -> Vec<String> {
        let local = &name.local;
        if **local == *ANY {
            let uri = escaped_value(&name.namespace);
            return vec![format!("<xs:any namespace=\"{uri}\" processContents=\"lax\"{occurs}/>")];
        }
        let form = if !self.target.is_empty() && name.namespace.is_empty() { " form=\"unqualified\"" } else { "" };
        let Some(node) = self.evidence.nodes.get(place) else {
            return vec![format!("<xs:element name=\"{local}\"{occurs}{form}/>")];
        };
        let nillable = if node.nil > 0 { " nillable=\"true\"" } else { "" };
        if let Some(named) = self.named.get(&place) {
            let prefix = if self.target.is_empty() { "" } else { "t:" };
            return vec![format!("<xs:element name=\"{local}\" type=\"{prefix}{named}\"{occurs}{nillable}{form}/>")];
        }
        // What refers to itself has no text yet while the names are being looked for.
        let text = texts.get(&place).cloned().unwrap_or_default();
        if let Some(built_in) = text.built_in {
            return vec![format!("<xs:element name=\"{local}\" type=\"{built_in}\"{occurs}{nillable}{form}/>")];
        }
        wrapped(format!("<xs:element name=\"{local}\"{occurs}{nillable}{form}>"), &text.lines(None), "</xs:element>")
    }

    fn type_of(&self, place: usize, texts: &HashMap<usize, TypeText>) -> TypeText {
        let Some(node) = self.evidence.nodes.get(place) else { return TypeText::default() };
        let has_elements = node.with_children > 0;
        let has_attributes = !node.attributes.is_empty() || node.other_attributes > 0;
        if !has_elements && !has_attributes {
            let empty = node.texts.count() == 0 && node.count > node.nil;
            if empty && !node.texts.spaced {
                return TypeText { complex: true, ..TypeText::default() };
            }
            return self.simple(&node.texts);
        }
        let mut within = Vec::new();
        let mixed = has_elements && (node.mixed > 0 || node.texts.count() > 0);
        if has_elements {
            within = self.model(node, texts);
            within.extend(self.attributes(node));
            return TypeText { complex: true, mixed, within, built_in: None };
        }
        let attributes = self.attributes(node);
        if node.texts.count() == 0 {
            return TypeText { complex: true, within: attributes, ..TypeText::default() };
        }
        let simple = self.simple(&node.texts);
        let extension = match simple.built_in {
            Some(base) => wrapped(format!("<xs:extension base=\"{base}\">"), &attributes, "</xs:extension>"),
            // A list of values beside attributes: a restriction of what the extension gives needs names; text will do.
            None => wrapped("<xs:extension base=\"xs:string\">".to_owned(), &attributes, "</xs:extension>"),
        };
        within.extend(wrapped("<xs:simpleContent>".to_owned(), &extension, "</xs:simpleContent>"));
        TypeText { complex: true, within, ..TypeText::default() }
    }

    fn simple(&self, texts: &Texts) -> TypeText {
        let (base, mut facets) = match texts.kind(self.settings) {
            Kind::BuiltIn(name) => (built_in(name), self.range(texts, name)),
            Kind::OneOf(values) => {
                let facets = values.iter().map(|value| format!("<xs:enumeration value=\"{}\"/>", escaped_value(value)));
                ("xs:token", facets.collect())
            }
            Kind::Text { .. } => ("xs:string", self.lengths(texts)),
        };
        if facets.is_empty() {
            return TypeText { built_in: Some(base), ..TypeText::default() };
        }
        facets = wrapped(format!("<xs:restriction base=\"{base}\">"), &facets, "</xs:restriction>");
        TypeText { within: facets, ..TypeText::default() }
    }

    fn range(&self, texts: &Texts, name: &str) -> Vec<String> {
        let numbers = &texts.strings.numbers;
        if !matches!(name, "integer" | "decimal") || numbers.count != texts.count() {
            return Vec::new();
        }
        let ends = [("minInclusive", &numbers.least, -1.0), ("maxInclusive", &numbers.most, 1.0)];
        let bound = |(facet, end, outwards): (&str, &Option<(f64, Box<str>)>, f64)| {
            let (value, text) = end.as_ref()?;
            let bound = match self.settings.bounds {
                Bounds::None => return None,
                Bounds::Observed => text.to_string(),
                Bounds::Rounded => rounded(*value, outwards),
            };
            Some(format!("<xs:{facet} value=\"{bound}\"/>"))
        };
        ends.into_iter().filter_map(bound).collect()
    }

    fn lengths(&self, texts: &Texts) -> Vec<String> {
        // Lengths are those of collapsed texts.
        if texts.count() == 0 || texts.spaced || texts.empty > 0 {
            return Vec::new();
        }
        let (least, most) = (texts.strings.shortest as u64, texts.strings.longest as u64);
        let (least, most) = match self.settings.bounds {
            Bounds::None => return Vec::new(),
            Bounds::Observed => (least, most),
            Bounds::Rounded => (least.min(1), rounded_up(most)),
        };
        vec![format!("<xs:minLength value=\"{least}\"/>"), format!("<xs:maxLength value=\"{most}\"/>")]
    }

    fn attributes(&self, node: &Place) -> Vec<String> {
        let mut lines = Vec::new();
        for (name, seen) in &node.attributes {
            let texts = &seen.texts;
            let always = seen.first_without.is_none();
            let required = if always { " use=\"required\"" } else { "" };
            let text = self.simple(texts);
            match text.built_in {
                Some(ty) => lines.push(format!("<xs:attribute name=\"{}\" type=\"{ty}\"{required}/>", name.local)),
                None => lines.extend(wrapped(
                    format!("<xs:attribute name=\"{}\"{required}>", name.local),
                    &text.lines(None),
                    "</xs:attribute>",
                )),
            }
        }
        if node.other_attributes > 0 {
            lines.push("<xs:anyAttribute namespace=\"##any\" processContents=\"lax\"/>".to_owned());
        }
        lines
    }

    /// The content model: a sequence where an order was kept, choices where it was not.
    fn model(&self, node: &Place, texts: &HashMap<usize, TypeText>) -> Vec<String> {
        let full = node.count - node.nil;
        let line = |child: &ChildSeen, occurs: &str| self.element(&child.name, child.place, occurs, texts);
        let mut lines = Vec::new();
        let mixed = node.mixed > 0 || node.texts.count() > 0;
        if mixed || node.children.len() > MAX_CHILDREN {
            // In prose nothing has an order.
            let within: Vec<String> = node.children.iter().flat_map(|child| line(child, "")).collect();
            return wrapped(format!("<xs:choice{}>", occurs(0, true)), &within, "</xs:choice>");
        }
        let groups = ordered(node);
        let single =
            node.children.len() > 1 && node.children.iter().all(|child| child.most <= 1 && *child.name.local != *ANY);
        if let ([_], true) = (groups.as_slice(), single) {
            for child in &node.children {
                lines.extend(line(child, &occurs(u64::from(child.having == full), false)));
            }
            return wrapped("<xs:all>".to_owned(), &lines, "</xs:all>");
        }
        for group in groups {
            let children = group.iter().filter_map(|index| node.children.get(*index));
            match group.as_slice() {
                [_] => {
                    for child in children {
                        lines.extend(line(child, &occurs(u64::from(child.having == full), child.most > 1)));
                    }
                }
                _ => {
                    let within: Vec<String> = children.flat_map(|child| line(child, "")).collect();
                    lines.extend(wrapped(format!("<xs:choice{}>", occurs(0, true)), &within, "</xs:choice>"));
                }
            }
        }
        wrapped("<xs:sequence>".to_owned(), &lines, "</xs:sequence>")
    }
}

fn built_in(name: &str) -> &'static str {
    match name {
        "boolean" => "xs:boolean",
        "integer" => "xs:integer",
        "decimal" => "xs:decimal",
        "double" => "xs:double",
        "dateTime" => "xs:dateTime",
        "date" => "xs:date",
        "time" => "xs:time",
        "duration" => "xs:duration",
        "anyURI" => "xs:anyURI",
        _ => "xs:string",
    }
}

/// A place that is still to be told of, its XPath, and how it was seen in its parent: of how many, and which child.
type Waiting<'e> = (usize, String, Option<(u64, &'e ChildSeen)>);

/// The children of an element in groups, in the order in which the groups come; within a group no order was kept.
fn ordered(node: &Place) -> Vec<Vec<usize>> {
    let count = node.children.len();
    let mut reaches = vec![vec![false; count]; count];
    for (earlier, later) in node.before.keys() {
        if let Some(reached) = reaches.get_mut(*earlier).and_then(|row| row.get_mut(*later)) {
            *reached = true;
        }
    }
    for through in 0..count {
        let from_there = reaches.get(through).cloned().unwrap_or_default();
        for row in reaches.iter_mut().filter(|row| row.get(through) == Some(&true)) {
            row.iter_mut().zip(&from_there).for_each(|(reached, next)| *reached |= next);
        }
    }
    let reach = |from: usize, to: usize| reaches.get(from).and_then(|row| row.get(to)) == Some(&true);
    let mut groups: Vec<Vec<usize>> = Vec::new();
    for index in 0..count {
        let same = groups
            .iter_mut()
            .find(|group| group.first().is_some_and(|first| reach(*first, index) && reach(index, *first)));
        match same {
            Some(group) => group.push(index),
            None => groups.push(vec![index]),
        }
    }
    // Each group comes before those that it reaches; the others stay in the order in which they were seen.
    let mut sorted: Vec<Vec<usize>> = Vec::new();
    while !groups.is_empty() {
        let first = |group: &Vec<usize>| group.first().copied().unwrap_or(0);
        let next = groups.iter().position(|group| {
            groups.iter().all(|other| first(other) == first(group) || !reach(first(other), first(group)))
        });
        sorted.push(groups.remove(next.unwrap_or(0)));
    }
    sorted
}

impl Drafter<'_> {
    /// Tells what stands behind each rule, place by place in the order of the documents.
    fn tell_all(&mut self) {
        let evidence = self.evidence;
        let mut told = HashSet::new();
        let roots = evidence.roots.iter().rev();
        let mut waiting: Vec<Waiting<'_>> =
            roots.map(|(name, place)| (*place, format!("/{}", name.local), None)).collect();
        while let Some((place, at, child)) = waiting.pop() {
            if let Some((full, child)) = child {
                self.tell_presence(&at, "minOccurs", "1", child.having, full, child.first_without);
                if child.most > 1 {
                    let seen = child.first_several.map(|seen| (format!("{} of them", child.most), seen));
                    self.tell(&at, "maxOccurs", "unbounded".to_owned(), (child.having, child.having), true, seen);
                }
            }
            let Some(node) = evidence.nodes.get(place).filter(|_| told.insert(place)) else { continue };
            if node.with_children == 0 {
                self.tell_texts(&node.texts, &at);
            }
            for (name, seen) in &node.attributes {
                let at = format!("{at}/@{}", name.local);
                let have = seen.texts.count() + seen.texts.empty;
                self.tell_presence(&at, "use", "required", have, node.count, seen.first_without);
                self.tell_texts(&seen.texts, &at);
            }
            if node.with_children > 0 && node.children.len() <= MAX_CHILDREN {
                for group in ordered(node).iter().filter(|group| group.len() > 1) {
                    let names = group.iter().filter_map(|index| node.children.get(*index));
                    let names: Vec<&str> = names.map(|child| &*child.name.local).collect();
                    let says = format!("in any order: {}", names.join(", "));
                    self.tell(&at, "choice", says, (node.with_children, node.with_children), true, None);
                }
            }
            let full = node.count - node.nil;
            let children = node.children.iter().rev();
            waiting
                .extend(children.map(|child| (child.place, format!("{at}/{}", child.name.local), Some((full, child)))));
        }
    }

    fn tell(
        &mut self,
        at: &str,
        keyword: &'static str,
        says: String,
        (behind, of): (u64, u64),
        stated: bool,
        against: Option<(String, crate::Seen)>,
    ) {
        self.rules.push(Rule { at: at.to_owned(), keyword, says, behind, of, stated, against });
    }

    fn tell_presence(
        &mut self,
        at: &str,
        keyword: &'static str,
        says: &str,
        have: u64,
        of: u64,
        without: Option<crate::Seen>,
    ) {
        let always = have == of && without.is_none();
        if always || have * 100 >= of * NEARLY {
            let against = without.filter(|_| !always).map(|seen| ("not there".to_owned(), seen));
            self.tell(at, keyword, says.to_owned(), (have, of), always, against);
        }
    }

    fn tell_texts(&mut self, texts: &Texts, at: &str) {
        let count = texts.count() + texts.empty;
        if count == 0 {
            return;
        }
        let against = |(seen, text): &(crate::Seen, Box<str>)| (text.to_string(), *seen);
        match texts.kind(self.settings) {
            Kind::BuiltIn(name) => self.tell(at, "type", built_in(name).to_owned(), (count, count), true, None),
            Kind::OneOf(values) => {
                let says = format!("{} values: {}", values.len(), values.join(", "));
                self.tell(at, "enumeration", says, (count, count), true, None);
            }
            Kind::Text { .. } => {
                self.tell(at, "type", "xs:string".to_owned(), (count, count), true, None);
                if let Some((name, have, first)) = texts.nearly() {
                    self.tell(at, "type", built_in(name).to_owned(), (have, count), false, Some(against(first)));
                } else if let (Some(seen), true) = (texts.first_empty, texts.count() > 0) {
                    self.tell(
                        at,
                        "minLength",
                        "1".to_owned(),
                        (texts.count(), count),
                        false,
                        Some(("nothing".to_owned(), seen)),
                    );
                }
            }
        }
    }
}
