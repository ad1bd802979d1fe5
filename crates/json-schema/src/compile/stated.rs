//! Rules between fields, as `x-mervik` states them: read here, and checked against the fields once all schemas are compiled.

use super::Compiler;
use super::fields::{Described, of_nodes};
use super::keywords::Here;
use super::sets::USE;
use crate::error::Breach;
use crate::file::{FileId, Location};
use crate::labels;
use crate::schema::{Kinds, Rule, SchemaId, Stated, Test};
use mervik_document::{Span, Value};
use mervik_messages::Message;
use mervik_rules::syntax::Expr;
use mervik_rules::{Arguments, Bound, Checked, Fault};
use std::collections::HashSet;

/// The directive.
pub(super) const RULES: &str = "rules";

/// The members of a rule.
const KNOWN: [&str; 5] = ["id", "that", "when", "severity", "message"];

/// A rule that has been read: its conditions and its message, each with the place where it stands.
#[derive(Debug)]
pub(super) struct Draft {
    pub(super) id: String,
    that: (Expr, Location),
    when: Option<(Expr, Location)>,
    message: Option<(Message, Location)>,
    warns: bool,
}

impl Draft {
    fn into_stated(self) -> Stated {
        let Draft { id, that: (that, that_at), when, message, warns } = self;
        let (guard_read, when_at) = when.unzip();
        let (message, message_at) = message.unzip();
        Stated {
            id: id.into(),
            text: Box::default(),
            message,
            message_at,
            warns,
            read: Some(that),
            guard_read,
            that_at,
            when_at,
            that: None,
            when: None,
            bound: None,
        }
    }

    /// The rule with these arguments, used at a place.
    pub(super) fn with(&self, arguments: &Arguments, at: Location) -> Result<Stated, Fault> {
        let bound = |(condition, _): &(Expr, Location)| Ok((mervik_rules::bound(condition, arguments)?, at));
        let message = self.message.as_ref();
        let draft = Draft {
            id: self.id.clone(),
            that: bound(&self.that)?,
            when: self.when.as_ref().map(bound).transpose()?,
            // It has been read before without a fault.
            message: message.and_then(|(message, at)| Some((Message::parse(message.source()).ok()?, *at))),
            warns: self.warns,
        };
        Ok(Stated { bound: Some(Bound::to(arguments)), ..draft.into_stated() })
    }
}

impl Compiler<'_> {
    /// The rules that a schema states.
    pub(super) fn stated(&mut self, here: Here<'_>, directives: Value<'_>) -> Vec<Rule> {
        let Some(list) = directives.get(RULES) else { return Vec::new() };
        if list.kind() != mervik_document::Kind::Array {
            let message = "`rules` must be a list of rules".to_owned();
            let hint = r#"`[{ "id": "leaves-later", "that": "departure is after arrival" }]`"#.to_owned();
            self.resources.error(Breach::Value, here.at(list.id()), message, Some(hint));
            return Vec::new();
        }
        let mut seen = HashSet::new();
        let mut rules = Vec::new();
        for item in list.items() {
            let at = here.at(item.id());
            let all = match item.get(USE) {
                Some(_) => self.used(here, item),
                None => self.draft(at.file, item).map(Draft::into_stated).into_iter().collect(),
            };
            for stated in all {
                if !seen.insert(stated.id.clone()) {
                    let message = format!("the rule `{}` is stated twice here", stated.id);
                    let hint = "an `id` beside `use` stands before those of the set's rules".to_owned();
                    let hint = stated.bound.is_some().then_some(hint);
                    self.resources.error(Breach::RepeatedName, at, message, hint);
                }
                rules.push(Rule { kinds: Kinds::ALL, test: Test::Stated(Box::new(stated)), at });
            }
        }
        rules
    }

    /// Reads a rule; `None` after an error.
    pub(super) fn draft(&mut self, file: FileId, item: Value<'_>) -> Option<Draft> {
        let at = |value: Value<'_>| Location { file, node: value.id() };
        let mut refuse = |value: Value<'_>, message: String, hint: Option<String>| {
            self.resources.error(Breach::Value, at(value), message, hint);
        };
        if item.kind() != mervik_document::Kind::Object {
            let hint = r#"`{ "id": "leaves-later", "that": "departure is after arrival" }`"#.to_owned();
            refuse(item, "a rule must be an object".to_owned(), Some(hint));
            return None;
        }
        let mut text = |name: &str| match item.get(name) {
            Some(value) => match value.as_str() {
                Some(text) => Some((value, text.to_owned())),
                None => {
                    refuse(value, format!("`{name}` of a rule must be a text"), None);
                    None
                }
            },
            None => None,
        };
        let (id, that, when, message) = (text("id"), text("that"), text("when"), text("message"));
        let severity = text("severity");
        for member in item.members().filter(|member| !KNOWN.contains(&member.name.text())) {
            self.no_member(file, "a rule", member.name.as_value(), KNOWN);
        }
        let mut refuse = |value: Value<'_>, message: String, hint: Option<String>| {
            self.resources.error(Breach::Value, at(value), message, hint);
        };
        let (Some((_, id)), Some((that, condition))) = (id, that) else {
            let message = "a rule must have an `id` and a condition in `that`".to_owned();
            refuse(item, message, Some("the `id` names it in findings and in cases".to_owned()));
            return None;
        };
        if let Some((value, word)) = severity.as_ref().filter(|(_, word)| word != "error" && word != "warning") {
            refuse(*value, format!("`{word}` is no severity"), Some("`error` or `warning`".to_owned()));
        }
        let when = match when {
            Some((value, text)) => Some((self.condition_of(at(value), &text)?, at(value))),
            None => None,
        };
        let message = match message {
            Some((value, text)) => Some((self.message(at(value), &text)?, at(value))),
            None => None,
        };
        Some(Draft {
            id,
            that: (self.condition_of(at(that), &condition)?, at(that)),
            when,
            message,
            warns: severity.is_some_and(|(_, word)| word == "warning"),
        })
    }

    fn condition_of(&mut self, at: Location, text: &str) -> Option<mervik_rules::syntax::Expr> {
        match mervik_rules::parse(text) {
            Ok(condition) => Some(condition),
            Err(fault) => {
                self.fault(at, fault);
                None
            }
        }
    }

    /// Refuses placeholders of messages for which a rule has nothing.
    fn check_placeholders(&mut self) {
        let mut strange = Vec::new();
        for rule in &self.rules {
            let Test::Stated(stated) = &rule.test else { continue };
            let (Some(message), Some(at)) = (&stated.message, stated.message_at) else { continue };
            let known = labels::placeholders_of(stated);
            let unknown = message.placeholders().iter().filter(|one| !known.contains(&one.name));
            strange.extend(unknown.map(|one| (at, one.clone(), known.clone())));
        }
        for (at, placeholder, known) in strange {
            self.strange(at, &placeholder, &known);
        }
    }

    /// Tells what is wrong with a condition, at the part of its text that is meant.
    fn fault(&mut self, at: Location, Fault { span, message, hint }: Fault) {
        self.resources.error_within(Breach::Value, at, span, message, hint);
    }

    /// Checks the conditions of all rules against what the schemas say of fields, from the root down. A rule that several ways
    /// lead to is checked on each, as far as what lies above it differs.
    pub(super) fn check_stated(&mut self, root: SchemaId) {
        if !self.rules.iter().any(|rule| matches!(rule.test, Test::Stated(_))) {
            return;
        }
        // The place of a condition, and the rule's name where it is one of a set.
        let at = |rule: usize, is_guard: bool| match &self.rules.get(rule)?.test {
            Test::Stated(stated) => {
                let at = if is_guard { stated.when_at? } else { stated.that_at };
                Some((at, stated.bound.as_ref().map(|_| stated.id.clone())))
            }
            _ => None,
        };
        let checked = {
            let fields = of_nodes(&self.nodes, &self.rules);
            mervik_rules::check_all(&fields, vec![Described::of(root)], |rule| {
                match self.rules.get(rule).map(|rule| &rule.test) {
                    Some(Test::Stated(stated)) => (stated.read.as_ref(), stated.guard_read.as_ref()),
                    _ => (None, None),
                }
            })
        };
        let checked: Vec<_> = checked.into_iter().filter_map(|one| Some((at(one.rule, one.is_guard)?, one))).collect();
        let mut faulty: HashSet<Location> = HashSet::new();
        for ((at, used), Checked { rule, is_guard, outcome }) in checked {
            match (outcome, used) {
                (Err(fault), None) => {
                    faulty.insert(at);
                    self.fault(at, fault);
                }
                (Err(fault), Some(id)) => {
                    faulty.insert(at);
                    self.resources.error(Breach::Value, at, mervik_rules::unfit(&id, &fault), fault.hint);
                }
                (Ok(condition), _) => {
                    if let Some(Test::Stated(stated)) = self.rules.get_mut(rule).map(|rule| &mut rule.test) {
                        let into = if is_guard { &mut stated.when } else { &mut stated.that };
                        *into = Some(condition);
                    }
                }
            }
        }
        let lost = self.rules.iter().filter_map(|rule| match &rule.test {
            Test::Stated(stated) if stated.that.is_none() && !faulty.contains(&stated.that_at) => Some(stated.that_at),
            _ => None,
        });
        for at in lost.collect::<Vec<_>>() {
            let message = "no rule can stand here: it is not known what its fields are".to_owned();
            let hint =
                "not within `not`, `propertyNames`, `unevaluatedProperties`, `unevaluatedItems` or `contentSchema`"
                    .to_owned();
            self.resources.error(Breach::Value, at, message, Some(hint));
        }
        self.check_placeholders();
        for rule in &mut self.rules {
            if let Test::Stated(stated) = &mut rule.test {
                let guard = stated.guard_read.take().map(|guard| format!("if {guard} then "));
                let text = stated.read.take().map(|condition| format!("{}{condition}", guard.unwrap_or_default()));
                stated.text = text.unwrap_or_default().into();
            }
        }
    }
}

/// The bytes of a part of a text that is written between quotes in JSON, as far as no escape stands before it.
pub(crate) fn within(literal: &str, part: Span) -> Span {
    let mut at = 1u32;
    let mut decoded = 0u32;
    let mut start = None;
    let mut chars = literal.get(1..).unwrap_or("").chars();
    while let Some(c) = chars.next() {
        if decoded >= part.start && start.is_none() {
            start = Some(at);
        }
        if decoded >= part.end {
            break;
        }
        let (written, read) = match c {
            '"' => break,
            '\\' => match chars.next() {
                Some('u') => {
                    let digits: String = chars.by_ref().take(4).collect();
                    let unit = u32::from_str_radix(&digits, 16).ok().and_then(char::from_u32);
                    (6, unit.map_or(3, char::len_utf8))
                }
                _ => (2, 1),
            },
            c => (c.len_utf8(), c.len_utf8()),
        };
        at += written as u32;
        decoded += read as u32;
    }
    let start = start.unwrap_or(at);
    Span { start, end: at.max(start + 1) }
}
