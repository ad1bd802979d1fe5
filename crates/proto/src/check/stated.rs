//! What is told of a rule between fields that does not hold.

use super::Check;
use crate::failure::{Failure, FieldTold, Told, rule};
use crate::phrases::Phrases as _;
use crate::schema::{Field, Message};
use crate::stated::{At, Place, Stated};
use crate::tree::NodeId;
use mervik_document::tongue::{Common as _, Noun};
use mervik_document::{Severity, Span, edit, shown};
use mervik_messages::{ABSENT, Arguments, identifier};
use mervik_rules::{Condition, Node, Now, Outcome, Raw, Read};

/// How many fields are told that a rule has read.
const MAX_READS: usize = 12;

/// The failure of a rule, with all that it has read.
pub(super) fn told(
    check: &Check<'_>,
    (id, span): (NodeId, Span),
    message: &Message,
    stated: &Stated,
    at: Place<'_>,
    now: Option<&Now>,
) -> Failure {
    let tongue = check.schema.tongue();
    let (outcome, reads) = mervik_rules::explain(&stated.that, stated.when.as_ref(), at, now);
    let field = stated.field.and_then(|index| message.fields.get(index as usize));
    let mut failure = Failure::new(rule::REFUSED, id, span, stated.text.to_string());
    failure.rule = stated.id.to_string().into();
    failure.place = Some(stated.place);
    if let Some(field) = field {
        failure = failure.of(field.number, None);
        match at.at {
            At::Node(node) => {
                failure.node = node;
                failure.span = check.tree.node(node).map_or(span, |node| node.span);
            }
            _ => failure.step = Some(field.step()),
        }
    }
    if stated.warns {
        failure.severity = Severity::Warning;
    }
    let all: Vec<FieldTold> = reads.iter().take(MAX_READS).map(|read| of_field(check, read)).collect();
    let found: Vec<String> = all.iter().map(|read| tongue.field_is(&read.path, &read.found)).collect();
    let text = shown::text(&stated.text);
    let arguments = arguments(check, stated, at, field, &all);
    let filled = arguments.iter().fold(Arguments::default(), |all, (name, value)| all.number(name, value.clone()));
    let own = stated.message.as_ref().and_then(|message| message.render(&filled));
    let message = match outcome {
        Outcome::Trouble(trouble) => tongue.no_answer(text, trouble.words(tongue)),
        _ => own.unwrap_or_else(|| tongue.must_keep(text)),
    };
    let is_broken = !matches!(outcome, Outcome::Trouble(_));
    failure.stated = Some(Box::new(Told { message, is_broken, arguments, reads: all }));
    failure.found(found.join(", "))
}

fn of_field(check: &Check<'_>, read: &Read<Place<'_>>) -> FieldTold {
    let step = |index: u32, message: NodeId| {
        let of = check.tree.message_of(message).map(|of| check.schema.message(of));
        of.and_then(|of| of.fields.get(index as usize)).map(Field::step)
    };
    let (node, step) = match read.node.at {
        At::Node(node) => (node, None),
        At::List(message, index) | At::Default(message, index) => (message, step(index, message)),
    };
    let tongue = check.schema.tongue();
    let secret = check.tree.field(node, check.schema).is_some_and(|field| field.secret);
    let found = match read.node.raw() {
        _ if secret => "•••".to_owned(),
        Raw::Nothing => tongue.nothing(),
        Raw::Truth(value) => value.to_string(),
        Raw::Number(number) => number.to_string(),
        Raw::Text(text) => shown::text(&edit::quoted(&text)),
        Raw::List => tongue.counted(read.node.items().count() as u64, Noun::Item),
        Raw::Object => tongue.a_message(),
    };
    FieldTold { path: read.path.clone(), node, step, found }
}

/// What is filled in for the placeholders of a rule's message.
fn arguments(
    check: &Check<'_>,
    stated: &Stated,
    at: Place<'_>,
    field: Option<&Field>,
    reads: &[FieldTold],
) -> Vec<(String, String)> {
    let plain = |text: &str| text.trim_matches('"').to_owned();
    let own = of_field(check, &Read { path: String::new(), node: at });
    let title = field.map_or_else(String::new, |field| {
        let title = field.directives.as_deref().and_then(|directives| directives.title.clone());
        title.unwrap_or_else(|| field.name.to_string())
    });
    let place = field.map_or_else(String::new, Field::step);
    let mut all =
        vec![("value".to_owned(), plain(&own.found)), ("title".to_owned(), title), ("place".to_owned(), place)];
    let conditions = [Some(&stated.that), stated.when.as_ref()].into_iter().flatten();
    let fields: Vec<String> = conditions.flat_map(Condition::spelled).collect();
    let value = |path: &str| {
        let values: Vec<String> =
            reads.iter().filter(|read| read.path == path).map(|read| plain(&read.found)).collect();
        if values.is_empty() { ABSENT.to_owned() } else { values.join(", ") }
    };
    all.extend(fields.iter().filter_map(|path| Some((identifier(path)?, value(path)))));
    let stands = stated.bound.iter().flat_map(|bound| bound.stands(&fields));
    all.extend(stands.map(|(name, stands)| (name.to_owned(), stands.map_or_else(str::to_owned, value))));
    all
}
