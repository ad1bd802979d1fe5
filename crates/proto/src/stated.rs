//! Rules between fields, as `(mervik.message).rules` and `(mervik.field).rules` state them.

mod fields;
mod node;
mod noted;
mod sets;

pub(crate) use node::{At, Place};
pub(crate) use noted::{Looking, Met, Notes, Spot};

use crate::build::remark;
use crate::remark::{Remark, rule};
use crate::rules::raw::Raw;
use crate::schema::{MessageId, PlaceId, Places, Schema};
use fields::of_schema;
use mervik_document::{Severity, Span, near};
use mervik_messages::{ALWAYS, Fault as Slip, Message, identifier};
use mervik_rules::syntax::Expr;
use mervik_rules::{Bound, Checked, Condition, Fault};
use sets::Sets;
use std::collections::{BTreeSet, HashMap, HashSet};

/// A rule between fields, ready to be asked.
#[derive(Debug)]
pub(crate) struct Stated {
    pub(crate) id: Box<str>,
    /// The rule as it is printed: the condition, after its guard.
    pub(crate) text: Box<str>,
    /// Whether a message that breaks it holds all the same.
    pub(crate) warns: bool,
    /// What is said instead, where it is broken.
    pub(crate) message: Option<Message>,
    pub(crate) that: Condition,
    pub(crate) when: Option<Condition>,
    /// The field of the message that it stands at, by its index; `None` for the message itself.
    pub(crate) field: Option<u32>,
    pub(crate) place: PlaceId,
    pub(crate) bound: Option<Bound>,
}

/// The rules of one message or field as they were written.
pub(crate) struct Written {
    pub(crate) message: MessageId,
    pub(crate) field: Option<u32>,
    pub(crate) raws: Vec<Raw>,
}

/// A rule that has been read.
struct Drafted<'w> {
    raw: &'w Raw,
    id: String,
    that: (Expr, &'w Raw),
    when: Option<(Expr, &'w Raw)>,
    warns: bool,
    message: Option<(Message, &'w Raw)>,
    /// Of a rule of a set that is used here: what stands for its parameters.
    bound: Option<Bound>,
}

/// Reads the rules of all messages, checks them against the fields, and hangs them on their messages.
pub(crate) fn compile(
    schema: &mut Schema,
    written: &[Written],
    sets: &HashMap<String, Vec<Raw>>,
    places: &Places,
    remarks: &mut Vec<Remark>,
) {
    let mut reader = Reader { places, remarks };
    let sets = Sets::read(sets, &mut reader);
    let mut drafted: Vec<Drafted<'_>> = Vec::new();
    let mut stands: Vec<(MessageId, Option<u32>)> = Vec::new();
    for one in written {
        let scope = schema.message(one.message).name.to_string();
        let mut seen = HashSet::new();
        for raw in one.raws.iter().filter(|raw| raw.name == "rules") {
            let all = match raw.member("use") {
                Some(_) => sets.used(raw, &scope, &mut reader),
                None => reader.rule(raw).into_iter().collect(),
            };
            for draft in all {
                if !seen.insert(draft.id.clone()) {
                    reader.tell(raw, format!("the rule `{}` is stated twice here", draft.id), None);
                    continue;
                }
                drafted.push(draft);
                stands.push((one.message, one.field));
            }
        }
    }
    if drafted.is_empty() {
        return;
    }
    let checked = {
        let fields = of_schema(schema, &stands);
        mervik_rules::check_all(&fields, fields.roots(), |rule| {
            let draft = drafted.get(rule);
            (draft.map(|draft| &draft.that.0), draft.and_then(|draft| draft.when.as_ref().map(|(when, _)| when)))
        })
    };
    let mut ready: Vec<(Option<Condition>, Option<Condition>)> = drafted.iter().map(|_| (None, None)).collect();
    let mut faulty = HashSet::new();
    for Checked { rule, is_guard, outcome } in checked {
        let (Some(draft), Some(into)) = (drafted.get(rule), ready.get_mut(rule)) else { continue };
        let raw = if is_guard { draft.when.as_ref().map_or(draft.raw, |(_, raw)| raw) } else { draft.that.1 };
        match outcome {
            Ok(condition) if is_guard => into.1 = Some(condition),
            Ok(condition) => into.0 = Some(condition),
            Err(fault) => {
                faulty.insert(rule);
                match draft.bound {
                    Some(_) => reader.tell(draft.raw, mervik_rules::unfit(&draft.id, &fault), fault.hint),
                    None => reader.fault(raw, fault),
                }
            }
        }
    }
    for (index, ((draft, (that, when)), (message, field))) in drafted.into_iter().zip(ready).zip(stands).enumerate() {
        let Some(that) = that.filter(|_| !faulty.contains(&index) && draft.when.is_some() == when.is_some()) else {
            continue;
        };
        let guard = draft.when.as_ref().map(|(when, _)| format!("if {when} then ")).unwrap_or_default();
        let text = format!("{guard}{}", draft.that.0);
        let stated = Stated {
            id: draft.id.into(),
            text: text.into(),
            warns: draft.warns,
            message: None,
            that,
            when,
            field,
            place: draft.raw.place,
            bound: draft.bound,
        };
        let own = draft.message.map(|(message, raw)| {
            let known = stated.placeholders();
            for one in message.placeholders().iter().filter(|one| !known.contains(&one.name)) {
                let near = near::nearest(&one.name, known.iter().map(String::as_str));
                let message = format!("there is nothing to fill in for `{}`", one.name);
                reader
                    .fault(raw, Fault { span: one.span, message, hint: near.map(|near| format!("`{near}` is near")) });
            }
            message
        });
        if let Some(within) = schema.messages.get_mut(message.0 as usize) {
            within.stated.push(Stated { message: own, ..stated });
        }
    }
    noted::plan(schema);
}

impl Stated {
    /// What can be filled in where it is told.
    pub(crate) fn placeholders(&self) -> BTreeSet<String> {
        let fields = [Some(&self.that), self.when.as_ref()].into_iter().flatten().flat_map(Condition::spelled);
        let always = ALWAYS.iter().map(|name| (*name).to_owned());
        let parameters = self.bound.iter().flat_map(Bound::names).map(str::to_owned);
        fields.filter_map(|field| identifier(&field)).chain(always).chain(parameters).collect()
    }
}

/// Reads rules, and tells what is wrong with them.
struct Reader<'r> {
    places: &'r Places,
    remarks: &'r mut Vec<Remark>,
}

impl Reader<'_> {
    fn tell(&mut self, raw: &Raw, message: String, hint: Option<String>) {
        remark(&self.places.all, self.remarks, (raw.place, raw.width), Severity::Error, rule::VALUE, (message, hint));
    }

    /// Tells what is wrong with a part of a text.
    fn fault(&mut self, raw: &Raw, Fault { span, message, hint }: Fault) {
        self.tell(raw, message, hint);
        narrow(self.remarks, raw, span);
    }

    fn rule<'w>(&mut self, raw: &'w Raw) -> Option<Drafted<'w>> {
        let member = |name: &str| raw.member(name);
        let (Some(id), Some(that)) = (member("id"), member("that")) else {
            let hint = "the `id` names it in findings and in cases".to_owned();
            self.tell(raw, "a rule must have an `id` and a condition in `that`".to_owned(), Some(hint));
            return None;
        };
        let warns = match member("severity") {
            Some(severity) if severity.text() == "warning" => true,
            Some(severity) if severity.text() != "error" => {
                let message = format!("`{}` is no severity", severity.text());
                self.tell(severity, message, Some("`error` or `warning`".to_owned()));
                false
            }
            _ => false,
        };
        let when = match member("when") {
            Some(when) => Some((self.condition(when)?, when)),
            None => None,
        };
        let message = match member("message") {
            Some(message) => Some((self.text(message)?, message)),
            None => None,
        };
        Some(Drafted {
            raw,
            id: id.text().to_owned(),
            that: (self.condition(that)?, that),
            when,
            warns,
            message,
            bound: None,
        })
    }

    fn condition(&mut self, raw: &Raw) -> Option<Expr> {
        match mervik_rules::parse(raw.text()) {
            Ok(condition) => Some(condition),
            Err(fault) => {
                self.fault(raw, fault);
                None
            }
        }
    }

    fn text(&mut self, raw: &Raw) -> Option<Message> {
        match Message::parse(raw.text()) {
            Ok(message) => Some(message),
            Err(Slip { span, message, hint }) => {
                self.fault(raw, Fault { span: Span { start: span.start, end: span.end }, message, hint });
                None
            }
        }
    }
}

/// Makes the last remark, which is about a text, one about a part of it: between its quotes, where nothing is escaped.
pub(crate) fn narrow(remarks: &mut [Remark], raw: &Raw, span: Span) {
    let text = raw.text();
    let chars = |to: u32| text.get(..to as usize).map_or(0, |before| before.chars().count());
    if let Some(last) = remarks.last_mut().filter(|last| last.width as usize == text.chars().count() + 2) {
        let (start, end) = (chars(span.start), chars(span.end));
        if end > start {
            last.place.column += 1 + start as u64;
            last.width = (end - start) as u32;
        }
    }
}
