//! One pass over a document.

mod attributes;
mod entities;
mod faults;

use crate::attributes::{Element, Part};
use crate::doctype::{self, Entities};
use crate::fault::{Draft, Fault};
use crate::names;
use crate::namespaces::{Namespaces, XML_NAMESPACE};
use crate::phrases::Phrases as _;
use crate::spot::{Base, Spot};
use crate::window::Window;
use entities::resolved;
use faults::{undeclared, unread};
use mervik_document::finding::rule;
use mervik_document::shown;
use mervik_document::tongue::{Common as _, Phrase};
use quick_xml::Reader as Tokens;
use quick_xml::events::{BytesStart, Event};
use std::io::{self, Read};
use std::ops::ControlFlow;

/// How many elements may be inside one another.
pub const MAX_DEPTH: usize = 1_024;

/// How long one tag, comment or run of text may be, in bytes.
pub const MAX_TOKEN: usize = 128 << 20;

/// How many attributes and declarations of namespaces one element may have.
pub const MAX_ATTRIBUTES: usize = 10_000;

/// How much text the internal entities of a document may stand for in all, in bytes, where they are read at all.
pub const MAX_ENTITY_TEXT: usize = 1 << 20;

/// How many internal entities may be inside one another.
const MAX_ENTITY_DEPTH: usize = 16;

/// What is read besides the standard.
#[derive(Clone, Copy, Debug, Default)]
pub struct Config {
    /// Whether entities are read that the document itself declares. They never lead out of the document. Without this,
    /// a document type that declares entities is a fault.
    pub allow_dtd: bool,
}

/// What is told of a document, in its order. Each method may end the reading with [`ControlFlow::Break`].
pub trait Handler {
    /// The number by which the handler knows a namespace; [`UNKNOWN`](crate::UNKNOWN) for one that it does not know. The empty name is
    /// that of no namespace. Asked once for each declaration.
    fn namespace(&mut self, uri: &str) -> u32;

    /// An element starts.
    fn start(&mut self, element: &Element<'_>, spot: &Spot<'_>) -> ControlFlow<()>;

    /// The innermost element ends. `empty` tells an element that is one tag; `scope` is what was in scope within it.
    fn end(&mut self, empty: bool, scope: &Namespaces, spot: &Spot<'_>) -> ControlFlow<()>;

    /// Text within the root. Text that belongs together may come in several pieces.
    fn text(&mut self, text: &str, spot: &Spot<'_>) -> ControlFlow<()>;

    /// A document type, with the entities that it declares and that are no text.
    fn doctype(&mut self, _unparsed: &[String]) {}
}

/// How a reading ended.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// At the end of the document.
    Complete,
    /// Where the handler asked for it.
    Stopped,
    /// At something that cannot be read.
    Fault(Box<Fault>),
}

/// Reads a document and tells a handler of it.
///
/// Memory is bounded by [`MAX_DEPTH`] and [`MAX_TOKEN`], not by the length of the document; time is linear in it.
///
/// # Errors
///
/// A read that fails. What is wrong with the document is an [`Outcome`].
pub fn read<R: Read, H: Handler>(input: R, handler: &mut H, config: Config) -> io::Result<Outcome> {
    let mut window = Window::new(input);
    let mut state = State::new(handler, config);
    loop {
        let before = window.text.len() - window.read;
        window.advance()?;
        let (read, end) = state.pass(&window);
        window.read = read;
        match end {
            Ok(End::More) => {
                let pending = window.text.len() - window.read;
                if pending > MAX_TOKEN {
                    let draft = Draft::new(
                        rule::SIZE,
                        read,
                        Phrase::of(|tongue| tongue.bytes_in_token(MAX_TOKEN)),
                        Phrase::of(|tongue| tongue.more()),
                    );
                    return Ok(Outcome::Fault(placed(draft, &window)));
                }
                debug_assert!(before <= window.text.len());
            }
            Ok(End::Complete) => return Ok(Outcome::Complete),
            Ok(End::Stopped) => return Ok(Outcome::Stopped),
            Err(draft) => return Ok(Outcome::Fault(placed(*draft, &window))),
        }
    }
}

/// Reads a document that is text already, whatever encoding its declaration names. Offsets are those of the text.
pub fn read_text<H: Handler>(text: &str, handler: &mut H, config: Config) -> Outcome {
    // The mark says what the bytes are, and is no part of the text.
    let input = "\u{feff}".as_bytes().chain(text.as_bytes());
    // Reading from memory does not fail.
    read(input, handler, config).unwrap_or(Outcome::Stopped)
}

/// The text of a document, whatever its encoding, without a byte-order mark.
///
/// # Errors
///
/// Bytes that are not of the encoding that the document says, and characters that XML does not allow.
pub fn text(bytes: &[u8]) -> Result<String, Box<Fault>> {
    let mut window = Window::new(bytes);
    while !window.ended {
        // Reading from memory does not fail.
        let _ = window.advance();
    }
    match window.stop.take() {
        Some(stop) => Err(placed(stop, &window)),
        None => Ok(window.text),
    }
}

fn placed<R>(draft: Draft, window: &Window<R>) -> Box<Fault> {
    let spot = Spot { text: &window.text, at: draft.at, base: &window.base };
    let Draft { rule, expected, found, hint, width, .. } = draft;
    let offset = spot.offset();
    let (line, line_at) = spot.line(offset);
    let place = spot.place(offset);
    Box::new(Fault { rule, offset, width, place, line: line.to_owned(), line_at, expected, found, hint })
}

/// How a pass over the window ended, when nothing was wrong.
enum End {
    /// What is left takes more text to be understood.
    More,
    Complete,
    Stopped,
}

/// Why an event was not followed by the next.
enum Halt {
    Stopped,
    Wrong(Box<Draft>),
}

impl From<Draft> for Halt {
    fn from(draft: Draft) -> Self {
        Halt::Wrong(Box::new(draft))
    }
}

impl From<ControlFlow<()>> for Flow {
    fn from(flow: ControlFlow<()>) -> Self {
        Flow(match flow {
            ControlFlow::Continue(()) => Ok(()),
            ControlFlow::Break(()) => Err(Halt::Stopped),
        })
    }
}

struct Flow(Result<(), Halt>);

struct State<'h, H> {
    handler: &'h mut H,
    config: Config,
    /// The names of the open elements, one after the other, and where each starts.
    open: String,
    starts: Vec<u32>,
    namespaces: Namespaces,
    parts: Vec<Part>,
    scratch: String,
    entities: Entities,
    /// How much text entities stood for so far.
    expanded: usize,
    seen_doctype: bool,
    seen_root: bool,
}

/// Where the text of an event stands.
#[derive(Clone, Copy)]
struct Origin<'w> {
    window: &'w str,
    base: &'w Base,
    at: usize,
    /// The names of the entities that the event comes out of; empty for one that stands in the document.
    within: usize,
    /// How many elements were open where the text began.
    floor: usize,
}

impl<'w> Origin<'w> {
    fn spot(&self) -> Spot<'w> {
        Spot { text: self.window, at: self.at, base: self.base }
    }

    /// Where a part of the event stands in the window.
    fn of(&self, part: &str) -> usize {
        match self.within {
            0 => (part.as_ptr() as usize).wrapping_sub(self.window.as_ptr() as usize).min(self.window.len()),
            _ => self.at,
        }
    }
}

impl<'h, H: Handler> State<'h, H> {
    fn new(handler: &'h mut H, config: Config) -> Self {
        let mut namespaces = Namespaces::default();
        for (prefix, uri) in [("", ""), ("xml", XML_NAMESPACE)] {
            namespaces.declare(prefix, uri, handler.namespace(uri), 0);
        }
        State {
            handler,
            config,
            open: String::new(),
            starts: Vec::new(),
            namespaces,
            parts: Vec::new(),
            scratch: String::new(),
            entities: Entities::default(),
            expanded: 0,
            seen_doctype: false,
            seen_root: false,
        }
    }

    /// Reads what the window has; gives how far.
    fn pass<R>(&mut self, window: &Window<R>) -> (usize, Result<End, Box<Draft>>) {
        let text = window.text.as_str();
        let rest = text.get(window.read..).unwrap_or("");
        let mut tokens = tokens(rest);
        loop {
            let before = tokens.buffer_position() as usize;
            let at = window.read + before;
            let event = tokens.read_event();
            let at_end = tokens.buffer_position() as usize >= rest.len();
            // The window may end anywhere; what touches its end is looked at again with more text.
            let short = rest.len() - before < SHORTEST;
            let incomplete = match &event {
                Ok(Event::Text(_)) => at_end,
                Ok(Event::Eof) => true,
                Ok(_) => false,
                Err(_) => at_end || short,
            };
            if incomplete && !window.ended {
                return (at, Ok(End::More));
            }
            let origin = Origin { window: text, base: &window.base, at, within: 0, floor: 0 };
            let halt = match event {
                Ok(Event::Eof) => {
                    let end = match &window.stop {
                        Some(stop) => Err(Box::new(again(stop))),
                        None => self.finish(at).map(|()| End::Complete).map_err(Box::new),
                    };
                    return (at, end);
                }
                Ok(event) => match self.event(event, &origin) {
                    Ok(()) => continue,
                    Err(halt) => halt,
                },
                Err(error) => match &window.stop {
                    Some(stop) => again(stop).into(),
                    None => unread(&error, at, rest.get(before..).unwrap_or("")).into(),
                },
            };
            return match halt {
                Halt::Stopped => (at, Ok(End::Stopped)),
                Halt::Wrong(draft) => (at, Err(draft)),
            };
        }
    }

    fn finish(&self, at: usize) -> Result<(), Draft> {
        if let Some(name) = self.innermost() {
            return Err(Draft::syntax(at, format!("`</{name}>`"), Phrase::of(|tongue| tongue.end_of_document()))
                .hint(Phrase::of(|tongue| tongue.cut_off())));
        }
        match self.seen_root {
            true => Ok(()),
            false => Err(Draft::syntax(
                at,
                Phrase::of(|tongue| tongue.a_root()),
                Phrase::of(|tongue| tongue.end_of_document()),
            )),
        }
    }

    fn innermost(&self) -> Option<&str> {
        self.open.get(*self.starts.last()? as usize..)
    }

    #[inline]
    fn event(&mut self, event: Event<'_>, origin: &Origin<'_>) -> Result<(), Halt> {
        match event {
            Event::Start(tag) => self.start(&tag, origin),
            Event::Empty(tag) => {
                self.start(&tag, origin)?;
                self.end(tag.name().as_ref(), true, origin)
            }
            Event::End(tag) => self.end(tag.name().as_ref(), false, origin),
            Event::Text(text) => self.text(&text, origin),
            Event::CData(data) => self.data(&data, origin),
            Event::GeneralRef(reference) => self.reference(&reference, origin),
            Event::Comment(text) => match text.ends_with('-') {
                true => Err(Draft::syntax(origin.at, Phrase::of(|tongue| tongue.after_comment()), "`--->`").into()),
                false => Ok(()),
            },
            Event::PI(instruction) => {
                let target = instruction.target();
                match names::is_ncname(target) && !target.eq_ignore_ascii_case("xml") {
                    true => Ok(()),
                    false => {
                        let found = format!("`{}`", shown::text(target));
                        Err(Draft::syntax(origin.at, Phrase::of(|tongue| tongue.target()), found).into())
                    }
                }
            }
            Event::Decl(declaration) => {
                let at_start = origin.at == 0 && origin.base.offset == 0 && origin.within == 0;
                if !at_start {
                    let draft = Draft::syntax(
                        origin.at,
                        Phrase::of(|tongue| tongue.declaration_at_start()),
                        Phrase::of(|tongue| tongue.one_further_on()),
                    );
                    return Err(draft.hint(Phrase::of(|tongue| tongue.nothing_before())).into());
                }
                match declaration.version() {
                    Ok(version) if version.starts_with("1.") => Ok(()),
                    Ok(version) => Err(Draft::syntax(
                        origin.at,
                        Phrase::of(|tongue| tongue.version_1()),
                        format!("`{}`", shown::text(&version)),
                    )
                    .into()),
                    Err(_) => Err(Draft::syntax(
                        origin.at,
                        Phrase::of(|tongue| tongue.a_version()),
                        Phrase::of(|tongue| tongue.none()),
                    )
                    .into()),
                }
            }
            Event::DocType(doctype) => self.doctype(&doctype, origin),
            Event::Eof => Ok(()),
        }
    }

    fn start(&mut self, tag: &BytesStart<'_>, origin: &Origin<'_>) -> Result<(), Halt> {
        let depth = self.starts.len();
        let name = tag.name();
        let name = name.as_ref();
        if depth == 0 && self.seen_root {
            let found = Phrase::of(|tongue| tongue.after_it(format!("<{}>", shown::text(name))));
            return Err(Draft::syntax(origin.at, Phrase::of(|tongue| tongue.one_root()), found).over(name).into());
        }
        if depth >= MAX_DEPTH {
            return Err(Draft::new(
                rule::NESTING,
                origin.at,
                Phrase::of(|tongue| tongue.levels(MAX_DEPTH)),
                Phrase::of(|tongue| tongue.more()),
            )
            .into());
        }
        self.seen_root = true;
        let content: &str = tag;
        let declares = self.attributes(tag, content, depth as u32 + 1, origin)?;
        let (prefix, local) = names::split(name).ok_or_else(|| {
            Draft::syntax(origin.at, Phrase::of(|tongue| tongue.name_of_element()), format!("`<{}`", shown::text(name)))
                .over(name)
        })?;
        let Some((number, namespace)) = self.namespaces.resolve(prefix) else {
            return Err(undeclared(prefix, origin.at, name).into());
        };
        let placed = origin.within == 0;
        let offset = origin.base.offset + origin.of(content) as u64;
        let element = Element {
            name,
            prefix,
            local,
            number,
            namespace,
            scope: &self.namespaces,
            declares,
            parts: &self.parts,
            scratch: &self.scratch,
            tag: content,
            offset,
            placed,
        };
        let flow = self.handler.start(&element, &origin.spot());
        self.starts.push(self.open.len() as u32);
        self.open.push_str(name);
        Flow::from(flow).0
    }

    fn end(&mut self, name: &str, empty: bool, origin: &Origin<'_>) -> Result<(), Halt> {
        match self.innermost() {
            Some(open) if self.starts.len() > origin.floor => {
                if open != name {
                    let found = format!("`</{}>`", shown::text(name));
                    return Err(Draft::syntax(origin.at, format!("`</{open}>`"), found).over(name).into());
                }
            }
            _ => {
                let draft = Draft::syntax(
                    origin.at,
                    Phrase::of(|tongue| tongue.no_end_tag()),
                    format!("`</{}>`", shown::text(name)),
                );
                return Err(draft.hint(Phrase::of(|tongue| tongue.none_open())).into());
            }
        }
        let flow = self.handler.end(empty, &self.namespaces, &origin.spot());
        let start = self.starts.pop().unwrap_or(0);
        self.open.truncate(start as usize);
        self.namespaces.leave(self.starts.len() as u32 + 1);
        Flow::from(flow).0
    }

    fn text(&mut self, text: &str, origin: &Origin<'_>) -> Result<(), Halt> {
        if memchr::memchr(b']', text.as_bytes()).is_some()
            && let Some(at) = memchr::memmem::find(text.as_bytes(), b"]]>")
        {
            return Err(Draft::syntax(origin.at + at, Phrase::of(|tongue| tongue.text_without("]]>")), "`]]>`")
                .hint(Phrase::of(|tongue| tongue.says_it("]]&gt;")))
                .into());
        }
        if self.starts.is_empty() {
            let blank = text.len() - text.trim_start_matches(names::is_space).len();
            return match text.get(blank..).unwrap_or("") {
                "" => Ok(()),
                rest => {
                    let seen = self.seen_root;
                    let only =
                        Phrase::of(|tongue| if seen { tongue.only_space_after() } else { tongue.only_space_before() });
                    let found = format!("`{}`", shown::text(rest.trim_end()));
                    Err(Draft::syntax(origin.at + blank, only, found).into())
                }
            };
        }
        self.tell(text, origin)
    }

    fn data(&mut self, text: &str, origin: &Origin<'_>) -> Result<(), Halt> {
        match self.starts.is_empty() {
            true => Err(Draft::syntax(
                origin.at,
                Phrase::of(|tongue| tongue.text_within_root()),
                Phrase::of(|tongue| tongue.cdata_outside()),
            )
            .into()),
            false => self.tell(text, origin),
        }
    }

    /// Tells text with its line ends normalised (XML 1.0, section 2.11).
    #[inline]
    fn tell(&mut self, text: &str, origin: &Origin<'_>) -> Result<(), Halt> {
        let flow = match memchr::memchr(b'\r', text.as_bytes()) {
            None => self.handler.text(text, &origin.spot()),
            Some(_) => {
                self.scratch.clear();
                self.scratch.push_str(text);
                let normal = std::mem::take(&mut self.scratch).replace("\r\n", "\n").replace('\r', "\n");
                self.handler.text(&normal, &origin.spot())
            }
        };
        Flow::from(flow).0
    }

    fn reference(&mut self, name: &str, origin: &Origin<'_>) -> Result<(), Halt> {
        if self.starts.is_empty() {
            return Err(Draft::syntax(
                origin.at,
                Phrase::of(|tongue| tongue.reference_within_root()),
                format!("`&{name};`"),
            )
            .into());
        }
        match resolved(name) {
            Some(c) => Flow::from(self.handler.text(c.encode_utf8(&mut [0; 4]), &origin.spot())).0,
            None => self.entity(name, origin),
        }
    }

    #[cold]
    fn doctype(&mut self, doctype: &str, origin: &Origin<'_>) -> Result<(), Halt> {
        if self.seen_doctype || self.seen_root {
            return Err(Draft::syntax(
                origin.at,
                Phrase::of(|tongue| tongue.one_doctype()),
                Phrase::of(|tongue| tongue.another_one()),
            )
            .into());
        }
        self.seen_doctype = true;
        if let Some(at) = doctype::declares_entity(doctype)
            && !self.config.allow_dtd
        {
            let draft = Draft::new(
                rule::ENTITY,
                origin.of(doctype) + at,
                Phrase::of(|tongue| tongue.no_entities()),
                "`<!ENTITY`",
            );
            return Err(draft.over("<!ENTITY").hint(Phrase::of(|tongue| tongue.allow_dtd())).into());
        }
        self.entities = doctype::entities(doctype)
            .map_err(|(at, expected, found)| Draft::new(rule::ENTITY, origin.of(doctype) + at, expected, found))?;
        self.handler.doctype(&self.entities.unparsed);
        Ok(())
    }
}

/// No start of a token is longer before it is known what it is.
const SHORTEST: usize = 12;

fn tokens(text: &str) -> Tokens<&[u8]> {
    let mut tokens = Tokens::from_str(text);
    let config = tokens.config_mut();
    config.check_end_names = false;
    config.allow_unmatched_ends = true;
    config.check_comments = true;
    tokens
}

fn again(stop: &Draft) -> Draft {
    Draft { expected: stop.expected.clone(), found: stop.found.clone(), hint: stop.hint.clone(), ..*stop }
}

#[cfg(test)]
mod tests;
