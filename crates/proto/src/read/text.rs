//! The text format (“Text Format Language Specification”).

mod token;

use crate::check::MAX_ANY;
use crate::failure::{Failure, rule};
use crate::phrases::Phrases as _;
use crate::schema::{Field, MessageId, Schema, Shape, Type, WellKnown};
use crate::tree::{NodeId, Paths, Stored, Tree};
use crate::value::Scalar;
use mervik_document::finding::rule as shared;
use mervik_document::tongue::Common as _;
use mervik_document::{Span, near, shown};
use std::collections::HashMap;
use token::{Kind, Token, Tokens, unescaped};

/// Reads a text as a message of a type; gives what is wrong with it. Spans are those of the text.
///
/// After something that is not of the format nothing more is read; values of the wrong type are told all. Recursion ends at
/// `max_depth` messages inside one another.
pub(crate) fn read(schema: &Schema, message: MessageId, text: &str, max_depth: usize, tree: &mut Tree) -> Vec<Failure> {
    tree.reset(message, Span { start: 0, end: text.len() as u32 });
    if let Some(failure) = super::too_large(schema, text.as_bytes()) {
        return vec![failure];
    }
    let mut reader = Reader { schema, text, tokens: Tokens::new(text), max_depth, tree, failures: Vec::new(), any: 0 };
    // What stopped the reader stands among the failures.
    let _ = reader.body(NodeId::ROOT, message, None, 1);
    let mut failures = reader.failures;
    super::settle(schema, tree, text.as_bytes());
    failures.sort_by_key(|failure| failure.span.start);
    failures
}

struct Reader<'r, 't> {
    schema: &'r Schema,
    text: &'r str,
    tokens: Tokens<'r>,
    max_depth: usize,
    tree: &'t mut Tree,
    failures: Vec<Failure>,
    /// How many Any messages are around.
    any: usize,
}

/// Nothing more can be read; what is wrong has been noted.
struct Stopped;

impl Reader<'_, '_> {
    fn stop(&mut self, node: NodeId, rule: &'static str, token: Token, expected: impl Into<String>) -> Stopped {
        let found = match token.kind {
            Kind::End => self.schema.tongue().the_end(),
            _ => format!("`{}`", shown::text(token.of(self.text))),
        };
        self.failures.push(Failure::new(rule, node, token.span(), expected).found(found));
        Stopped
    }

    fn take(&mut self, sign: &str) -> bool {
        let fits = self.tokens.peek().of(self.text) == sign;
        if fits {
            self.tokens.next();
        }
        fits
    }

    /// The fields of a message up to the sign that closes it, or to the end.
    fn body(&mut self, node: NodeId, id: MessageId, close: Option<&str>, depth: usize) -> Result<(), Stopped> {
        let message = self.schema.message(id);
        if depth > self.max_depth {
            let token = self.tokens.peek();
            let expected = self.schema.tongue().messages_inside(self.max_depth);
            return Err(self.stop(node, shared::NESTING, token, expected));
        }
        let mut taken: HashMap<u32, Span> = HashMap::new();
        let mut chosen: HashMap<u32, String> = HashMap::new();
        loop {
            let token = self.tokens.next();
            match (token.kind, close) {
                (Kind::End, None) => return Ok(()),
                (Kind::End, Some(close)) => {
                    return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().ends_message(close)));
                }
                (Kind::Sign, Some(close)) if token.of(self.text) == close => return Ok(()),
                (Kind::Sign, _) if token.of(self.text) == "[" => {
                    self.bracketed(node, id, depth)?;
                    self.separator();
                    continue;
                }
                (Kind::Word, _) => {}
                (Kind::Broken(expected), _) => return Err(self.stop(node, shared::SYNTAX, token, expected)),
                _ => return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().name_of_field())),
            }
            let name = token.of(self.text);
            let found = message.named(name).filter(|(_, field)| *field.name == *name).or_else(|| {
                // A group is called by the name of its message.
                let mut groups = (0..).zip(&message.fields).filter(|(_, field)| field.delimited);
                groups.find(|(_, field)| self.group_name(field) == name)
            });
            let Some((index, field)) = found else {
                let hint = near::nearest(name, message.fields.iter().map(|field| &*field.name));
                let mut failure = Failure::new(
                    rule::UNKNOWN_FIELD,
                    node,
                    token.span(),
                    self.schema.tongue().fields_of(&message.name),
                );
                failure.step = Some(name.to_owned());
                failure.hint = hint.map(|near| self.schema.tongue().is_near(format!("`{near}`")));
                self.failures.push(failure.found(format!("`{name}`")));
                self.skip_value(node)?;
                self.separator();
                continue;
            };
            if field.shape == Shape::Single {
                let again = taken.insert(index, token.span()).is_some();
                let other =
                    field.oneof.and_then(|oneof| chosen.insert(oneof, name.to_owned())).filter(|other| other != name);
                if again || other.is_some() {
                    let expected = match other {
                        Some(other) => self.schema.tongue().one_of_oneof(other),
                        None => self.schema.tongue().single_once(),
                    };
                    let failure = Failure::new(rule::TWICE, node, token.span(), expected);
                    self.failures.push(failure.found(self.schema.tongue().it_again()).of(field.number, field.step()));
                    self.skip_value(node)?;
                    self.separator();
                    continue;
                }
            }
            self.values(node, index, field, depth)?;
            self.separator();
        }
    }

    fn group_name<'f>(&'f self, field: &Field) -> &'f str {
        match field.ty {
            Type::Message(id) => self.schema.name_of(id).rsplit('.').next().unwrap_or(""),
            _ => "",
        }
    }

    fn separator(&mut self) {
        let _ = self.take(",") || self.take(";");
    }

    /// An extension, or what is inside of an Any: after `[`.
    fn bracketed(&mut self, node: NodeId, id: MessageId, depth: usize) -> Result<(), Stopped> {
        let first = self.tokens.peek();
        let mut name = String::new();
        loop {
            let token = self.tokens.next();
            match (token.kind, token.of(self.text)) {
                (_, "]") => break,
                (Kind::Word | Kind::Number, part) | (Kind::Sign, part @ ("." | "/" | "-")) => name.push_str(part),
                (Kind::End, _) => {
                    return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().bracket_after_name()));
                }
                _ => return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().name_in_brackets())),
            }
        }
        let span = Span { start: first.start as u32, end: first.start as u32 + name.len() as u32 };
        let message = self.schema.message(id);
        if name.contains('/') && message.well_known == Some(WellKnown::Any) {
            return self.any(node, id, &name, span, depth);
        }
        match message.named(&format!("[{name}]")) {
            Some((index, field)) => self.values(node, index, field, depth),
            None => {
                let expected = self.schema.tongue().extensions_of(&message.name);
                let mut failure = Failure::new(rule::UNKNOWN_FIELD, node, span, expected);
                failure.step = Some(format!("[{name}]"));
                self.failures.push(failure.found(format!("`{name}`")));
                self.skip_value(node)
            }
        }
    }

    fn any(&mut self, node: NodeId, id: MessageId, url: &str, span: Span, depth: usize) -> Result<(), Stopped> {
        let name = crate::check::type_name(url);
        let Some(inner) = self.schema.by_name.get(name).copied().filter(|_| self.any < MAX_ANY) else {
            let mut failure = Failure::new(rule::TYPE, node, span, self.schema.tongue().known_message());
            failure.hint = Some(self.schema.tongue().to_be_imported(name));
            self.failures.push(failure.found(format!("`{name}`")));
            return self.skip_value(node);
        };
        self.take(":");
        let open = self.tokens.next();
        let close = match open.of(self.text) {
            "{" => "}",
            "<" => ">",
            _ => return Err(self.stop(node, shared::SYNTAX, open, self.schema.tongue().brace_and_fields())),
        };
        let mut tree = Tree::new(inner, open.span());
        let mut reader = Reader {
            schema: self.schema,
            text: self.text,
            tokens: self.tokens,
            max_depth: self.max_depth,
            tree: &mut tree,
            failures: Vec::new(),
            any: self.any + 1,
        };
        let outcome = reader.body(NodeId::ROOT, inner, Some(close), depth + 1);
        self.tokens = reader.tokens;
        let failures = std::mem::take(&mut reader.failures);
        let mut paths =
            Paths::new(&tree, self.schema, self.text.as_bytes(), failures.iter().map(|failure| failure.node));
        for failure in failures {
            let path = paths.below(failure.node, failure.step.as_deref());
            let step = format!("[{name}].{path}");
            self.failures.push(Failure { node, step: Some(step), ..failure });
        }
        super::settle(self.schema, &mut tree, self.text.as_bytes());
        let bytes = crate::write::wire::write(self.schema, &tree, self.text.as_bytes());
        let fields = self.schema.message(id);
        for (number, value) in [(1, Scalar::Text(url)), (2, Scalar::Bytes(&bytes))] {
            let Some((index, _)) = fields.field(number) else { continue };
            let stored = self.tree.store(value);
            self.tree.add(node, index, span, stored);
        }
        outcome
    }

    /// What follows the name of a field: one value, or a list of them.
    fn values(&mut self, node: NodeId, index: u32, field: &Field, depth: usize) -> Result<(), Stopped> {
        let colon = self.take(":");
        let next = self.tokens.peek();
        if !(colon || matches!(field.ty, Type::Message(_)) && matches!(next.of(self.text), "{" | "<" | "[")) {
            return Err(self.stop(node, shared::SYNTAX, next, self.schema.tongue().colon_after(&field.name)));
        }
        if next.of(self.text) != "[" {
            return self.value(node, index, field, depth);
        }
        self.tokens.next();
        if field.shape == Shape::Single {
            return Err(self.stop(node, rule::TYPE, next, self.schema.tongue().one_value(&field.name)));
        }
        if self.take("]") {
            return Ok(());
        }
        loop {
            self.value(node, index, field, depth)?;
            if self.take("]") {
                return Ok(());
            }
            let token = self.tokens.next();
            if token.of(self.text) != "," {
                return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().comma_or_bracket()));
            }
        }
    }

    fn value(&mut self, node: NodeId, index: u32, field: &Field, depth: usize) -> Result<(), Stopped> {
        let first = self.tokens.peek();
        if let Type::Message(inner) = field.ty {
            self.tokens.next();
            let close = match first.of(self.text) {
                "{" => "}",
                "<" => ">",
                _ => {
                    return Err(self.stop(
                        node,
                        rule::TYPE,
                        first,
                        self.schema.tongue().brace_and_fields_of(self.schema.name_of(inner)),
                    ));
                }
            };
            let child = self.tree.add(node, index, first.span(), Stored::Message(inner));
            self.body(child, inner, Some(close), depth + 1)?;
            let end = self.tokens.last_end() as u32;
            if let Some(node) = self.tree.node_mut(child) {
                node.span.end = end;
            }
            return Ok(());
        }
        let (stored, span) = self.scalar(node, field)?;
        if let Some(stored) = stored {
            self.tree.add(node, index, span, stored);
        }
        Ok(())
    }

    fn scalar(&mut self, node: NodeId, field: &Field) -> Result<(Option<Stored>, Span), Stopped> {
        let first = self.tokens.next();
        if let Kind::Broken(expected) = first.kind {
            return Err(self.stop(node, shared::SYNTAX, first, expected));
        }
        if first.kind == Kind::Text {
            let mut bytes = Vec::new();
            let mut last = first;
            unescaped(first.of(self.text), &mut bytes);
            while self.tokens.peek().kind == Kind::Text {
                last = self.tokens.next();
                unescaped(last.of(self.text), &mut bytes);
            }
            let span = Span { start: first.start as u32, end: last.end as u32 };
            let stored = match field.ty {
                Type::String if std::str::from_utf8(&bytes).is_err() && field.utf8 => {
                    let failure = Failure::new(shared::ENCODING, node, span, self.schema.tongue().text_in_utf8());
                    self.failures
                        .push(failure.found(self.schema.tongue().other_bytes()).of(field.number, field.step()));
                    None
                }
                Type::String => Some(Stored::Text(self.tree.keep(&bytes))),
                Type::Bytes => Some(Stored::Bytes(self.tree.keep(&bytes))),
                _ => {
                    self.mismatch(node, field, span);
                    None
                }
            };
            return Ok((stored, span));
        }
        let negative = first.of(self.text) == "-";
        let token = if negative { self.tokens.next() } else { first };
        let span = Span { start: first.start as u32, end: token.end as u32 };
        if !matches!(token.kind, Kind::Word | Kind::Number) {
            return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().a_value()));
        }
        let stored = self.plain(field.ty, token, negative);
        if stored.is_none() {
            self.mismatch(node, field, span);
        }
        Ok((stored, span))
    }

    fn mismatch(&mut self, node: NodeId, field: &Field, span: Span) {
        let text = self.text.get(span.start as usize..span.end as usize).unwrap_or("");
        let (rule, expected, hint) = match field.ty {
            Type::Enum(id) => {
                let known = self.schema.enumeration(id);
                let names = known.into_iter().flat_map(|known| &known.values).map(|value| &*value.name);
                let hint = near::nearest(text, names).map(|near| self.schema.tongue().is_near(format!("`{near}`")));
                let name = known.map_or("", |known| &*known.name);
                (rule::ENUM_VALUE, self.schema.tongue().value_of_enum(name), hint)
            }
            Type::String => (rule::TYPE, self.schema.tongue().quoted_text(), None),
            Type::Bytes => (rule::TYPE, self.schema.tongue().quoted_bytes(), None),
            Type::Bool => (rule::TYPE, self.schema.tongue().either_truth(), None),
            ty => match ty.integers() {
                Some((least, most)) => {
                    let whole = token::integer(text.trim_start_matches(['-', ' '])).is_some();
                    let rule = if whole { rule::RANGE } else { rule::TYPE };
                    (rule, self.schema.tongue().integer_between(least, most, ty.word()), None)
                }
                None => (rule::TYPE, self.schema.tongue().number_of(ty.word()), None),
            },
        };
        let mut failure =
            Failure::new(rule, node, span, expected).found(text).of(field.number, field.step()).hint(hint);
        failure.secret = field.secret;
        self.failures.push(failure);
    }

    /// A value that is no text.
    fn plain(&mut self, ty: Type, token: Token, negative: bool) -> Option<Stored> {
        let text = token.of(self.text);
        let signed = |number: i128| if negative { -number } else { number };
        match ty {
            Type::Bool => match text {
                _ if negative => None,
                "true" | "True" | "t" | "1" => Some(Stored::Bool(true)),
                "false" | "False" | "f" | "0" => Some(Stored::Bool(false)),
                _ => None,
            },
            Type::Float | Type::Double => {
                let number = token::floating(text)?;
                let number = if negative { -number } else { number };
                Some(if ty == Type::Float { Stored::Float(number as f32) } else { Stored::Double(number) })
            }
            Type::Enum(id) => {
                let known = self.schema.enumeration(id)?;
                if token.kind == Kind::Word {
                    return known.named(text).filter(|_| !negative).map(|value| Stored::Enum(value.number));
                }
                let number = i32::try_from(signed(token::integer(text)?)).ok()?;
                (!known.closed || known.value(number).is_some()).then_some(Stored::Enum(number))
            }
            Type::String | Type::Bytes | Type::Message(_) => None,
            ty => {
                let (least, most) = ty.integers()?;
                let number = signed(token::integer(text)?);
                let scalar = super::json::number_scalar(ty, number);
                (least..=most).contains(&number).then(|| self.tree.store(scalar))
            }
        }
    }

    /// Goes past the value of a field that is not known.
    fn skip_value(&mut self, node: NodeId) -> Result<(), Stopped> {
        self.take(":");
        let mut open = 0usize;
        loop {
            let token = self.tokens.next();
            match (token.kind, token.of(self.text)) {
                (Kind::End, _) if open == 0 => {
                    return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().a_value()));
                }
                (Kind::End, _) => {
                    return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().end_of_value()));
                }
                (Kind::Broken(expected), _) => return Err(self.stop(node, shared::SYNTAX, token, expected)),
                (_, "{" | "<" | "[") => open += 1,
                (_, "}" | ">" | "]") => match open {
                    0 => return Err(self.stop(node, shared::SYNTAX, token, self.schema.tongue().a_value())),
                    1 => return Ok(()),
                    _ => open -= 1,
                },
                (_, "-") if open == 0 => continue,
                (Kind::Text, _) if open == 0 && self.tokens.peek().kind == Kind::Text => continue,
                _ if open == 0 => return Ok(()),
                _ => {}
            }
        }
    }
}
