//! Whether messages of one version of a schema are understood by another one: on the wire, in the JSON mapping, by the rules.
//!
//! Every message type that both versions have is compared with its counterpart, and so are the messages that fields of both lead to.
//! What might break becomes a [`Claim`]: a value for one field, and what the other version is said to make of it. A message is
//! put together around that value ([`witness`]) and run through both versions; a claim that does not prove true is no break.

mod names;
mod rules;
mod stated;
mod value;
mod wire;
mod witness;

use crate::check::{Options, Unknown};
use crate::checker::{Checker, Form};
use crate::schema::{Field, MessageId, PlaceId, Schema, Shape};
use mervik_document::{Document, Finding, Tape, json, pointer, shown};
use mervik_versions::{Break, Comparison, Kind, Role, Spot};
use std::cell::Cell;
use std::collections::hash_map::Entry;
use std::collections::{HashMap, HashSet};

/// A way to compare two versions.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum View {
    /// Bytes written with one version are read with the other without loss or misreading.
    Wire,
    /// Whatever the JSON mapping of one version takes, that of the other takes.
    Json,
    /// Whatever keeps the rules of one version keeps those of the other.
    Rules,
}

impl View {
    /// All of them.
    pub const ALL: [View; 3] = [View::Wire, View::Json, View::Rules];

    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            View::Wire => "wire",
            View::Json => "json",
            View::Rules => "rules",
        }
    }
}

/// How deep messages of a witness lie in each other.
const MAX_DEPTH: usize = 20;

/// What might break.
#[derive(Clone, Debug)]
struct Claim {
    pair: Pair,
    kind: Kind,
    /// Places of the accepting side and of the other one.
    inner: Option<PlaceId>,
    outer: Option<PlaceId>,
    message: String,
    /// The field, as a path names it.
    at: String,
    /// Members that the witness has, by the index of their field in the accepting side's message, and their JSON.
    members: Vec<(usize, String)>,
    outcome: Outcome,
    /// Whether it is known that the claim is true, so that it is undecided when no message proves it.
    certain: bool,
}

/// What the other version is said to make of a witness.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Outcome {
    /// It refuses it.
    Refused,
    /// It reads another value from the field of this number, or none.
    Misread(u32),
    /// It takes what it reads for something else.
    Mistaken,
}

/// A message that has been run through both versions, and what became of it.
struct Proof {
    witness: String,
    refusal: Vec<Finding>,
    notes: Vec<(&'static str, String)>,
}

/// Two message types that are compared: one that accepts, and its counterpart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
struct Pair {
    inner: MessageId,
    outer: MessageId,
}

/// Compares two versions: what `inner` accepts is to be accepted by `outer`. `role` says which of the two is the older one.
///
/// With `root`, messages of that name and those within them alone are compared.
pub fn compare(
    inner: &Schema,
    outer: &Schema,
    role: Role,
    views: &[View],
    root: Option<(MessageId, MessageId)>,
) -> Comparison {
    let mut comparison = Comparison::default();
    let mut told = HashSet::new();
    for view in views {
        let mut compare = Compare {
            inner,
            outer,
            role,
            view: *view,
            pairs: Vec::new(),
            seen: HashMap::new(),
            claims: Vec::new(),
            blocked: Cell::new(false),
            undecided: Vec::new(),
        };
        match root {
            Some((inner, outer)) => compare.pair(inner, outer, None),
            None => compare.all(&mut comparison),
        }
        compare.run(&mut comparison, &mut told);
    }
    comparison
}

struct Compare<'s> {
    inner: &'s Schema,
    outer: &'s Schema,
    role: Role,
    view: View,
    pairs: Vec<Pair>,
    /// All pairs so far, each with the pair that led to it and the index of the field there.
    seen: HashMap<Pair, Option<(Pair, usize)>>,
    claims: Vec<Claim>,
    /// Whether rules between fields alone were in the way of the last message.
    blocked: Cell<bool>,
    undecided: Vec<String>,
}

impl<'s> Compare<'s> {
    /// All messages that both files define, and what services send.
    fn all(&mut self, comparison: &mut Comparison) {
        let mut gone = Vec::new();
        for id in &self.inner.own {
            match self.outer.by_name.get(&self.inner.message(*id).name) {
                Some(other) => self.pair(*id, *other, None),
                None => gone.push(*id),
            }
        }
        for method in &self.inner.methods {
            let Some(other) = self.outer.methods.iter().find(|other| other.name == method.name) else {
                if self.view == View::Wire {
                    let said = self.said("is gone", "is new");
                    comparison.breaks.push(self.service(
                        Kind::Unknown,
                        format!("the method `{}` {said}", method.name),
                        &method.request,
                    ));
                }
                continue;
            };
            for (one, other) in [(&method.request, &other.request), (&method.response, &other.response)] {
                let ids = self.inner.by_name.get(&**one).zip(self.outer.by_name.get(&**other));
                if let Some((one, other)) = ids {
                    self.pair(*one, *other, None);
                }
            }
            if method.streams != other.streams && self.view == View::Wire {
                let words = |[sent, back]: [bool; 2]| match (sent, back) {
                    (false, false) => "without streams",
                    (true, false) => "with a stream of what is sent",
                    (false, true) => "with a stream of what comes back",
                    (true, true) => "with streams both ways",
                };
                let changed = self.was(words(method.streams), words(other.streams));
                comparison.breaks.push(self.service(
                    Kind::Structure,
                    format!("the method `{}` {changed}", method.name),
                    &method.request,
                ));
            }
        }
        // A message under another name is no loss when fields or methods lead to its counterpart.
        self.follow();
        for id in gone {
            let message = self.inner.message(id);
            let led = self.seen.keys().any(|pair| pair.inner == id) || message.map_entry;
            if !led && self.view == View::Wire {
                let said = self.said("is gone", "is new");
                let name = message.name.to_string();
                comparison.breaks.push(self.service(Kind::Unknown, format!("the message `{name}` {said}"), &name));
            }
        }
    }

    /// A break of what is no value of a field: its witness is a message that the other version has no place for.
    fn service(&self, kind: Kind, message: String, name: &str) -> Break {
        let id = self.inner.by_name.get(name).copied();
        let witness = id.and_then(|id| witness::of(self.inner, id, &[], MAX_DEPTH)).unwrap_or_else(|| "{}".to_owned());
        Break {
            kind,
            old: None,
            new: None,
            at: name.to_owned(),
            message,
            witness,
            refusal: Vec::new(),
            view: Some(self.view.word()),
            notes: Vec::new(),
        }
    }

    /// Two messages to compare, and the field that leads to them, if one does.
    fn pair(&mut self, inner: MessageId, outer: MessageId, from: Option<(Pair, usize)>) {
        let pair = Pair { inner, outer };
        if let Entry::Vacant(entry) = self.seen.entry(pair) {
            entry.insert(from);
            self.pairs.push(pair);
        }
    }

    /// Compares the pairs that are open, and those that they lead to.
    fn follow(&mut self) {
        while let Some(pair) = self.pairs.pop() {
            match self.view {
                View::Wire => self.wire(pair),
                View::Json => self.names(pair),
                View::Rules => self.rules(pair),
            }
        }
    }

    fn run(mut self, comparison: &mut Comparison, told: &mut HashSet<(Kind, String, String)>) {
        self.follow();
        let mut proven = HashSet::new();
        for claim in std::mem::take(&mut self.claims) {
            // One value is enough, of the many that may be tried for one cause.
            let cause = (claim.pair, claim.at.clone(), claim.message.clone());
            if proven.contains(&cause) {
                continue;
            }
            self.blocked.set(false);
            let Some(one) = self.proved(&claim) else {
                if claim.certain || self.blocked.get() {
                    let name = &self.inner.message(claim.pair.inner).name;
                    let why =
                        format!("`{name}.{}`: {}, but no message was found that proves it", claim.at, claim.message);
                    // Of one cause several messages may have been tried.
                    if !self.undecided.contains(&why) {
                        self.undecided.push(why);
                    }
                }
                continue;
            };
            proven.insert(cause);
            // What is told of one view is not told of the next.
            if told.insert((one.kind, one.at.clone(), one.message.clone())) {
                comparison.breaks.push(one);
            }
        }
        comparison.undecided.append(&mut self.undecided);
    }

    /// The break that a claim tells, if its witness proves it.
    fn proved(&mut self, claim: &Claim) -> Option<Break> {
        let inner = claim.pair.inner;
        let witness = witness::of(self.inner, inner, &claim.members, MAX_DEPTH);
        let Some(witness) = witness else {
            // There may be no message at all that the accepting side takes, or none that is found.
            self.undecided.push(format!(
                "`{}`: no message was found that has {}",
                self.inner.message(inner).name,
                claim.at
            ));
            return None;
        };
        let mut proof = self.run_through(claim.pair, witness, Some(claim))?;
        let mut at = claim.at.clone();
        let mut root = claim.pair;
        // A message that has another name on the other side is no message there: it is shown within one that is.
        while self.inner.message(root.inner).name != self.outer.message(root.outer).name {
            let Some(Some((around, index))) = self.seen.get(&root).copied() else { break };
            let Some(field) = self.inner.message(around.inner).fields.get(index) else { break };
            let is_entry = self.inner.message(root.inner).map_entry;
            let value = match field.shape {
                Shape::Map if is_entry => match witness::as_map(self.inner, field, &proof.witness) {
                    Some(value) => value,
                    None => break,
                },
                Shape::Single => proof.witness.clone(),
                Shape::Repeated => witness::list_with(self.inner, field, &proof.witness),
                Shape::Map => match witness::entry(self.inner, field, &proof.witness) {
                    Some(value) => value,
                    None => break,
                },
            };
            let members = [(index, value)];
            let wider = witness::of(self.inner, around.inner, &members, MAX_DEPTH);
            let Some(wider) = wider.and_then(|wider| self.run_through(around, wider, None)) else { break };
            at = format!("{}.{at}", field.step());
            (root, proof) = (around, wider);
        }
        let Proof { witness, refusal, notes } = proof;
        let (one, other) = (self.spot(self.inner, claim.inner), self.spot(self.outer, claim.outer));
        let (old, new) = match self.role {
            Role::Old => (one, other),
            Role::New => (other, one),
        };
        Some(Break {
            kind: claim.kind,
            old,
            new,
            at: format!("{}.{at}", self.inner.message(root.inner).name).trim_end_matches('.').to_owned(),
            message: claim.message.clone(),
            witness,
            refusal,
            view: Some(self.view.word()),
            notes,
        })
    }

    /// Runs a message through both versions; `None` when that proves nothing, be it the claim, or that it is refused where no claim is
    /// given and it is not for the wire.
    fn run_through(&self, pair: Pair, witness: String, claim: Option<&Claim>) -> Option<Proof> {
        let Pair { inner, outer } = pair;
        let mut tape = Tape::new();
        json::read(&witness, &mut tape).ok()?;
        let document = Document::new(&witness, &tape);
        let own = Checker::new(self.inner, inner, Options { unknown: Unknown::Refuse, ..Options::default() });
        let read = own.read(Form::Json(&document));
        if !read.holds() {
            // Another message might keep them.
            self.blocked.set(self.blocked.get() || read.breaks_only_stated());
            return None;
        }
        let bytes = read.to_binary();
        let options = Options { rules: self.view == View::Rules, ..Options::default() };
        let (refusal, notes) = match self.view {
            View::Json => {
                let other = Checker::new(self.outer, outer, Options { unknown: Unknown::Refuse, ..options });
                (other.read(Form::Json(&document)).findings(0), Vec::new())
            }
            View::Wire | View::Rules => {
                let other = Checker::new(self.outer, outer, options);
                let seen = other.read(Form::Binary(&bytes));
                let text = seen.to_json(false).unwrap_or_else(|why| why);
                let refusal = seen.findings(0);
                if let Some(claim @ Claim { outcome: Outcome::Misread(number), .. }) = claim
                    && refusal.is_empty()
                    && self.same_value(claim, *number, &read.to_json(false).ok()?, &text)
                {
                    return None;
                }
                (refusal, vec![("bytes", hex(&bytes)), ("read as", text)])
            }
        };
        let must_refuse = match claim {
            Some(claim) => claim.outcome == Outcome::Refused,
            None => self.view != View::Wire,
        };
        (!must_refuse || !refusal.is_empty()).then_some(Proof { witness, refusal, notes })
    }

    /// Whether both versions read the same from a field: their JSON is the same, and it is there on both sides or on none.
    fn same_value(&self, claim: &Claim, number: u32, one: &str, other: &str) -> bool {
        let of = |schema: &Schema, id: MessageId, text: &str| {
            let (_, field) = schema.message(id).field(number)?;
            let mut tape = Tape::new();
            json::read(text, &mut tape).ok()?;
            let document = Document::new(text, &tape);
            let value = pointer::follow(document.root(), &[field.json_name.to_string()])?;
            Some(value.source().to_owned())
        };
        let value = of(self.inner, claim.pair.inner, one);
        value == of(self.outer, claim.pair.outer, other)
    }

    fn spot(&self, schema: &Schema, place: Option<PlaceId>) -> Option<Spot> {
        let place = place?;
        let width = schema.widths.get(place.0 as usize).copied().unwrap_or(0);
        let place = schema.place(place)?.clone();
        let rest: String = place.line_text.chars().skip(place.place.column as usize - 1).collect();
        let width = if width == 0 { rest.trim_end().chars().count() as u32 } else { width };
        Some(Spot { text: shown::text(rest.trim()), width: width.max(1), place })
    }

    /// Words for a change from the old version to the new one, whichever of them accepts.
    fn was(&self, inner: &str, outer: &str) -> String {
        let (old, new) = self.in_order(inner, outer);
        format!("was {old}, and is {new}")
    }

    /// The first of two phrases when the new version has less, the second when it has more.
    fn said(&self, less: &'static str, more: &'static str) -> &'static str {
        match self.role {
            Role::Old => less,
            Role::New => more,
        }
    }

    fn in_order<T>(&self, inner: T, outer: T) -> (T, T) {
        match self.role {
            Role::Old => (inner, outer),
            Role::New => (outer, inner),
        }
    }

    #[expect(clippy::too_many_arguments, reason = "a claim has that many parts, and each call has others")]
    fn claim(
        &mut self,
        pair: Pair,
        (one, field): (usize, &Field),
        other: Option<&Field>,
        kind: Kind,
        message: String,
        value: String,
        outcome: Outcome,
    ) {
        self.claims.push(Claim {
            pair,
            kind,
            inner: Some(field.place),
            outer: other.map(|other| other.place),
            message,
            at: field.step(),
            members: vec![(one, value)],
            outcome,
            certain: false,
        });
    }

    /// Moves the claim that was made last to other places.
    fn placed(&mut self, places: Option<(PlaceId, Option<PlaceId>)>) {
        if let (Some((inner, outer)), Some(claim)) = (places, self.claims.last_mut()) {
            claim.inner = Some(inner);
            claim.outer = outer.or(claim.outer);
        }
    }
}

/// Bytes as pairs of digits.
fn hex(bytes: &[u8]) -> String {
    const MOST: usize = 64;
    let mut text: Vec<String> = bytes.iter().take(MOST).map(|byte| format!("{byte:02x}")).collect();
    if bytes.len() > MOST {
        text.push("…".to_owned());
    }
    text.join(" ")
}
