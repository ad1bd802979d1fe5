//! The well-known types: what their values mean, and the rules that only they have.

use super::{Check, MAX_ANY, Options, now};
use crate::failure::{Failure, rule};
use crate::phrases::Phrases as _;
use crate::rules::{Test, limits};
use crate::schema::{Field, Message, WellKnown};
use crate::tree::{NodeId, Paths, Tree};
use crate::value::Scalar;
use mervik_document::{Document, Span, Tape, json};

const SECOND: i128 = 1_000_000_000;

/// Checks a message of a well-known type; `field` has the rules of the place, if any are asked there. Where it is `quiet`, none
/// is asked of what lies within either.
pub(super) fn check(
    check: &mut Check<'_>,
    id: NodeId,
    known: WellKnown,
    message: &Message,
    field: Option<&Field>,
    quiet: bool,
) {
    let span = check.tree.node(id).map_or(Span::default(), |node| node.span);
    match known {
        WellKnown::Timestamp | WellKnown::Duration => times(check, id, span, known, field),
        WellKnown::Wrapper => {
            let (Some(field), Some(inner)) = (field, message.fields.first()) else { return };
            let value = check.tree.get(id, 1, check.schema, check.source).unwrap_or(Scalar::default_of(inner.ty));
            check.scalar(id, span, value, inner.ty, field, &field.rules);
        }
        WellKnown::Any => any(check, id, span, field, quiet),
        WellKnown::FieldMask => {
            let allowed = field.into_iter().flat_map(|field| &field.rules.checks);
            let allowed: Vec<_> = allowed
                .filter_map(|one| match &one.test {
                    Test::Paths(paths) => Some((one, paths)),
                    _ => None,
                })
                .collect();
            for (child, node) in check.tree.children(id) {
                let Some(Scalar::Text(path)) = check.tree.scalar(node.value, check.source) else { continue };
                for (one, paths) in &allowed {
                    let below = |allowed: &str| {
                        path.strip_prefix(allowed).is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
                    };
                    if !paths.iter().any(|allowed| below(allowed)) {
                        let mut failure =
                            Failure::new("paths", child, node.span, one.test.expected(check.schema.tongue()));
                        failure.place = Some(one.place);
                        failure.number = field.map(|field| field.number);
                        check.failures.push(failure.found(format!("`{path}`")));
                    }
                }
            }
        }
        WellKnown::Struct | WellKnown::Value | WellKnown::ListValue => {
            let Some(field) = field else { return };
            for one in &field.rules.checks {
                let Test::Schema(schema, _) = &one.test else { continue };
                let text = crate::write::json::value_text(check.schema, check.tree, check.source, id);
                let mut tape = Tape::new();
                if let Err(error) = json::read(&text, &mut tape) {
                    let words = error.words(&text, check.schema.tongue());
                    let mut failure = Failure::new(error.rule(), id, span, words.expected).found(words.found);
                    failure.number = Some(field.number);
                    failure.place = Some(one.place);
                    check.failures.push(failure);
                    continue;
                }
                let document = Document::new(&text, &tape);
                let mut checker = mervik_json_schema::Checker::new(schema);
                if checker.accepts(&document) {
                    continue;
                }
                for finding in checker.findings(&document) {
                    let mut failure =
                        Failure::new("schema", id, span, finding.expected.clone()).found(finding.found.clone());
                    failure.number = Some(field.number);
                    failure.place = Some(one.place);
                    failure.severity = finding.severity;
                    failure.step = json_step(&finding.at);
                    failure.hint = Some(check.schema.tongue().json_schema_asks(&finding.rule));
                    check.failures.push(failure);
                }
            }
        }
        WellKnown::Empty => {}
    }
}

/// A JSON Pointer as a step of a path: `/berth/0` is `["berth"][0]`.
fn json_step(pointer: &str) -> Option<String> {
    let tokens = mervik_document::pointer::tokens(pointer)?;
    let steps = tokens.iter().map(|token| match token.parse::<u32>() {
        Ok(index) => format!("[{index}]"),
        Err(_) => format!("[{}]", mervik_document::edit::quoted(token)),
    });
    Some(steps.collect::<String>()).filter(|steps| !steps.is_empty())
}

fn times(check: &mut Check<'_>, id: NodeId, span: Span, known: WellKnown, field: Option<&Field>) {
    let part = |number| match check.tree.get(id, number, check.schema, check.source) {
        Some(Scalar::Int(value)) => i128::from(value),
        _ => 0,
    };
    let (seconds, nanos) = (part(1), part(2));
    let total = seconds * SECOND + nanos;
    let number = field.map(|field| field.number);
    let valid = match known {
        WellKnown::Timestamp => {
            (i128::from(limits::TIMES.0)..=i128::from(limits::TIMES.1)).contains(&seconds)
                && (0..SECOND).contains(&nanos)
        }
        _ => {
            seconds.abs() <= limits::MAX_SECONDS
                && nanos.abs() < SECOND
                && (seconds == 0 || nanos == 0 || (seconds < 0) == (nanos < 0))
        }
    };
    let tongue = check.schema.tongue();
    if !valid {
        let expected = match known {
            WellKnown::Timestamp => tongue.valid_time(),
            _ => tongue.valid_duration(),
        };
        let mut failure = Failure::new(rule::TIME, id, span, expected);
        failure.number = number;
        check.failures.push(failure.found(tongue.seconds_and_nanos(seconds, nanos)));
        return;
    }
    let Some(field) = field else { return };
    let now = now(check.options);
    for one in &field.rules.checks {
        let holds = match &one.test {
            Test::Earliest(moment, _) => total >= moment.nanos(now),
            Test::Latest(moment, _) => total <= moment.nanos(now),
            Test::Shortest(least, _) => total >= *least,
            Test::Longest(most, _) => total <= *most,
            _ => true,
        };
        if !holds {
            let found = match known {
                WellKnown::Timestamp => limits::time_text(total).unwrap_or_default(),
                _ => limits::duration_text(total),
            };
            let mut expected = one.test.expected(check.schema.tongue());
            // What `now` was is part of the answer.
            if let Test::Earliest(moment, text) | Test::Latest(moment, text) = &one.test
                && text.starts_with("now")
                && let Some(then) = limits::time_text(moment.nanos(now))
            {
                expected.push_str(&format!(" ({then})"));
            }
            let mut failure = Failure::new(one.name, id, span, expected);
            failure.place = Some(one.place);
            failure.number = number;
            failure.secret = field.secret;
            check.failures.push(failure.found(found));
        }
    }
}

/// The message that a type URL names: what comes after the last slash.
pub(crate) fn type_name(url: &str) -> &str {
    url.rsplit_once('/').map_or(url, |(_, name)| name)
}

fn any(check: &mut Check<'_>, id: NodeId, span: Span, field: Option<&Field>, quiet: bool) {
    let url = match check.tree.get(id, 1, check.schema, check.source) {
        Some(Scalar::Text(url)) => url.to_owned(),
        _ => String::new(),
    };
    let name = type_name(&url);
    for one in field.into_iter().flat_map(|field| &field.rules.checks) {
        let Test::Types(names) = &one.test else { continue };
        if !names.iter().any(|allowed| **allowed == *name) {
            let mut failure = Failure::new("types", id, span, one.test.expected(check.schema.tongue()));
            failure.place = Some(one.place);
            failure.number = field.map(|field| field.number);
            check.failures.push(failure.found(if url.is_empty() {
                check.schema.tongue().no_type()
            } else {
                format!("`{url}`")
            }));
            return;
        }
    }
    let Some(inner) = check.schema.by_name.get(name).copied() else { return };
    if check.any >= MAX_ANY {
        let expected = check.schema.tongue().any_inside(MAX_ANY);
        check.failures.push(Failure::new(mervik_document::finding::rule::NESTING, id, span, expected));
        return;
    }
    // Nothing is the empty message.
    let bytes = match check.tree.get(id, 2, check.schema, check.source) {
        Some(Scalar::Bytes(bytes)) => bytes,
        _ => b"",
    };
    let mut tree = Tree::default();
    let mut failures = crate::read::wire::read(check.schema, inner, bytes, check.options.max_depth, &mut tree);
    let options = Options { rules: check.options.rules && !quiet, ..*check.options };
    let found = super::check_read(check.schema, &tree, bytes, &options, check.any + 1, &failures);
    failures.extend(found);
    let mut paths = Paths::new(&tree, check.schema, bytes, failures.iter().map(|failure| failure.node));
    for failure in failures {
        let path = paths.below(failure.node, failure.step.as_deref());
        let step = if path.is_empty() { format!("[{name}]") } else { format!("[{name}].{path}") };
        check.failures.push(Failure { node: id, step: Some(step), span, ..failure });
    }
}
