//! Rules between fields: the parts of a document that have some are kept until they end, and then asked.

use super::told::span;
use super::{Checker, Found, Mode};
use crate::phrases::Phrases as _;
use crate::stated::{At, Grove, Place, Planted, Stated, placeholder};
use mervik_document::tongue::{Common as _, Noun};
use mervik_document::{FieldRead, Finding, Severity, edit, shown};
use mervik_messages::{ABSENT, Arguments, Candidate, Key, identifier};
use mervik_rules::{Condition, Node, Outcome, Raw, Read};
use mervik_xml::{Element as Tag, Spot};

/// How many fields are told that a rule has read.
const MAX_READS: usize = 12;

impl Checker<'_> {
    /// An element begins: it is kept where it has rules, or lies in something that has, and rules may read it or something in it.
    pub(super) fn plant(&mut self, tag: &Tag<'_>, spot: &Spot<'_>) {
        let schema = self.schema;
        if self.passed_over > 0 {
            self.passed_over += 1;
            return;
        }
        let Some(frame) = self.frames.last() else { return };
        let (name, element) = (frame.name, frame.element);
        let ty = match frame.mode {
            Mode::Typed(ty) => Some(ty),
            Mode::Lax | Mode::Skip => None,
        };
        let is_ruled = ty.is_some_and(|ty| schema.stated.of(element, ty).next().is_some());
        if self.grove.is_none() && !is_ruled && !schema.stated.looks_up {
            return;
        }
        let reach = &schema.stated.reach;
        if !is_ruled && !reach.reads(name) && !reach.bears(ty) {
            self.passed_over = 1;
            return;
        }
        let position = self.position_told(self.frames.len() - 1);
        if self.grove.is_none() {
            let above = self.path();
            let above = above.get(..above.rfind('/').unwrap_or(0)).unwrap_or("").to_owned();
            self.grove = Some(Box::new(Grove::below(above)));
        }
        // Where nothing has been found so far every value has been read as one of its type.
        let is_sound = self.found.is_empty() && !self.stopped;
        let Some(grove) = self.grove.as_deref_mut() else { return };
        let node = grove.open((name, tag.name), (element, ty), position);
        if is_ruled {
            let (line, start) = spot.line(spot.offset());
            grove.ruled.push(Planted { node, place: spot.place(spot.offset()), line: (line.to_owned(), start) });
        }
        let uses = ty.and_then(|ty| schema.components.complex(ty)).map_or(&[][..], |complex| &complex.attributes);
        for one in uses.iter().filter(|one| reach.reads(Some(one.name))) {
            let names = &schema.components.names;
            let (uri, local) = (names.namespace_of(one.name), names.local(one.name));
            let there = tag.attributes().find(|attribute| attribute.local == local && attribute.number == uri);
            let declared = schema.components.attribute(one.attribute);
            let default = one.value.as_ref().or_else(|| declared.and_then(|declared| declared.value.as_ref()));
            let value = there.map(|attribute| attribute.value).or(default.map(|default| &*default.text));
            if let (Some(declared), Some(value)) = (declared, value) {
                let name = there.map_or(local, |attribute| attribute.name);
                grove.attribute(one.name, name, declared.ty, (value, is_sound));
            }
        }
    }

    /// An element ends. Its rules are asked, unless some look up: then all are, at the end of what is kept.
    pub(super) fn harvest(&mut self) {
        if self.passed_over > 0 {
            self.passed_over -= 1;
            return;
        }
        let schema = self.schema;
        let Some(frame) = self.frames.last() else { return };
        let text = match (frame.mode, frame.nil) {
            (Mode::Typed(ty), false) if self.schema.components.text_type(ty).is_some() => {
                let declared = frame.element.and_then(|id| self.schema.components.element(id));
                let default = declared.and_then(|element| element.value.as_ref()).filter(|_| self.text.is_empty());
                Some(default.map_or(self.text.as_str(), |default| &*default.text))
            }
            _ => None,
        };
        let reads = schema.stated.reach.reads(frame.name);
        let Some(mut grove) = self.grove.take() else { return };
        let Some(node) = grove.close(text, self.found.is_empty() && !self.stopped) else { return };
        if !schema.stated.looks_up || grove.is_whole() {
            let ruled = grove.take_ruled(node);
            self.ask(&grove, &ruled);
        }
        if !grove.is_whole() {
            grove.settle(node, reads);
            self.grove = Some(grove);
        }
    }

    /// Asks all rules of elements that have been read, with all that they may read.
    fn ask(&mut self, grove: &Grove, ruled: &[Planted]) {
        let schema = self.schema;
        let now = self.options.now.as_ref();
        for planted in ruled {
            let here = Place { schema, grove, at: At::Node(planted.node) };
            for stated in grove.rules_of(schema, planted.node).filter_map(|rule| schema.stated.all.get(rule as usize)) {
                if mervik_rules::holds(&stated.that, stated.when.as_ref(), here, now) {
                    continue;
                }
                if self.has_enough() {
                    return;
                }
                let (outcome, reads) = mervik_rules::explain(&stated.that, stated.when.as_ref(), here, now);
                let found = self.told(planted, stated, here, outcome, &reads);
                self.found.push(found);
            }
        }
    }

    fn told(
        &self,
        planted: &Planted,
        stated: &Stated,
        here: Place<'_>,
        outcome: Outcome,
        reads: &[Read<Place<'_>>],
    ) -> Found {
        let tongue = self.schema.tongue();
        let (line, start) = &planted.line;
        let all: Vec<FieldRead> = reads.iter().take(MAX_READS).map(of_field).collect();
        let text = shown::text(&stated.text);
        let key = identifier(&stated.id);
        let key = key.as_deref().map(|id| Key { id, attribute: None });
        let candidate = Candidate { file: stated.at.document as usize, key, text: stated.message.as_ref() };
        let own = self.schema.speaker.say(&[candidate], &arguments(self, stated, here, reads));
        let message = match outcome {
            Outcome::Trouble(trouble) => tongue.no_answer(text, trouble.words(tongue)),
            _ => own.unwrap_or_else(|| tongue.must_keep(text)),
        };
        let found: Vec<String> = all.iter().map(|read| tongue.field_is(&read.path, &read.found)).collect();
        let length = line.get(*start..).and_then(|rest| rest.find(['>', ' ', '/'])).unwrap_or(1).max(1);
        let finding = Finding {
            rule: stated.id.to_string().into(),
            at: here.grove.path(here.at),
            span: span(*start, length),
            place: planted.place,
            schema: self.schema.place(Some(stated.at)),
            severity: if stated.severity == Severity::Error { Severity::Error } else { Severity::Warning },
            message,
            expected: stated.text.to_string(),
            found: found.join(", "),
            hint: None,
            way: None,
            title: None,
            reads: all,
            wire: None,
        };
        Found { finding, line: line.clone() }
    }
}

fn of_field(read: &Read<Place<'_>>) -> FieldRead {
    let tongue = read.node.schema.tongue();
    let found = match read.node.raw() {
        Raw::Nothing => tongue.nothing(),
        Raw::Truth(value) => value.to_string(),
        Raw::Number(number) => number.to_string(),
        Raw::Text(text) => shown::text(&edit::quoted(&text)),
        Raw::List => tongue.counted(read.node.items().count() as u64, Noun::Item),
        Raw::Object => tongue.an_element(),
    };
    FieldRead { path: read.path.clone(), at: read.node.grove.path(read.node.at), found }
}

/// What is filled in for the placeholders of a rule's message.
fn arguments(checker: &Checker<'_>, stated: &Stated, here: Place<'_>, reads: &[Read<Place<'_>>]) -> Arguments {
    let plain = |read: &Read<Place<'_>>| match read.node.raw() {
        Raw::Text(text) => shown::text(&text),
        _ => of_field(read).found,
    };
    let own = plain(&Read { path: String::new(), node: here });
    let title = checker.schema.components.names.local(here.name().unwrap_or(crate::names::NameId(0))).to_owned();
    let place = here.grove.path(here.at);
    let arguments = Arguments::default().text("value", own).text("title", title).text("place", place);
    let filled = |arguments: Arguments, name: &str, path: &str| {
        let all: Vec<String> = reads.iter().filter(|read| read.path == path).map(plain).collect();
        match all.as_slice() {
            [] => arguments.text(name, ABSENT),
            [one] => arguments.number(name, one.clone()),
            all => arguments.text(name, all.join(", ")),
        }
    };
    let fields: Vec<String> = stated.conditions().flat_map(Condition::spelled).collect();
    let arguments = fields.iter().fold(arguments, |all, path| match placeholder(path) {
        Some(name) => filled(all, &name, path),
        None => all,
    });
    let stands = stated.bound.iter().flat_map(|bound| bound.stands(&fields));
    stands.fold(arguments, |all, (name, stands)| match stands {
        Ok(path) => filled(all, name, path),
        Err(constant) => all.text(name, constant),
    })
}
