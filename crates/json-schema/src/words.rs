//! Failures put into words: the need, the value met, and the nearest way to comply.

mod describe;
mod own;
mod way;

use crate::check::{Bound, Details, MAX_FRAMES};
use crate::failure::{BranchNote, Choice, Detail, Failure};
use crate::file::Location;
use crate::keyword::{self, Holds};
use crate::pattern::MAX_STEPS;
use crate::schema::{Rule, Schema, SchemaId, Stated, Test};
pub(crate) use describe::branch_name;
use describe::{constants, schema_in_words, types_in_words};
use mervik_document::finding::rule;
use mervik_document::pointer::{self, Step};
use mervik_document::{
    Document, FieldRead, Finding, Kind, NodeId, Place, SchemaPlace, Severity, Span, Value, near, place, shown,
};
use mervik_rules::Outcome;
use std::borrow::Cow;
use std::collections::HashMap;
use way::Ways;

/// Keywords of schemas that have been looked up before: the name of the rule, and its place.
pub(crate) type Places = HashMap<Location, (Cow<'static, str>, SchemaPlace)>;

/// What one failure comes to.
struct Said {
    /// Where in the document the finding is.
    at: NodeId,
    /// Where a person should look.
    look: NodeId,
    expected: String,
    found: String,
    message: String,
    hint: Option<String>,
}

/// How many findings of one document are told.
pub(crate) const MAX_FINDINGS: usize = 10_000;

/// The findings of a run, in the order of the document's values, then of the schema's rules.
///
/// Linear in the document and the findings: pointers and places are found in one walk each. `start` is the schema that the document was
/// held against; `at` finds the places, comes from the document's text, and goes on.
pub(crate) fn findings(
    schema: &Schema,
    (start, document): (SchemaId, &Document<'_>),
    details: &Details,
    exhausted: Option<Bound>,
    places: &mut Places,
    at: &mut place::Places<'_>,
) -> Vec<Finding> {
    let secrets = schema.secrets.spans(document);
    let mut words = Words { schema, document, details, secrets, ways: Ways::default() };
    let mut findings: Vec<(NodeId, Finding, Option<&Failure>)> =
        words.duplicate_names(at.clone()).map(|(at, finding)| (at, finding, None)).collect();
    for failure in &details.failures {
        findings.extend(words.finding(failure, places).map(|(at, finding)| (at, finding, Some(failure))));
    }
    findings.sort_by_key(|(at, ..)| *at);
    let mut pointers = pointer::Ways::new(document);
    for (at, finding, failure) in &mut findings {
        finding.at = pointers.pointer(*at);
        words.own(finding, *failure, start);
    }
    findings.sort_by_key(|(_, finding, _)| finding.span.start);
    for (_, finding, _) in &mut findings {
        finding.place = at.at(finding.span.start);
    }
    let mut findings: Vec<Finding> = findings.into_iter().map(|(_, finding, _)| finding).collect();
    findings.dedup();
    let bound = exhausted.or((details.failures.len() >= MAX_FINDINGS).then_some(Bound::Findings));
    if let Some(bound) = bound {
        // What is not told stands after the last that is.
        let last = findings.last().filter(|_| bound == Bound::Findings).cloned();
        let mut told = words.bound(bound);
        if let Some(Finding { at, span, place, .. }) = last {
            (told.at, told.span, told.place) = (at, span, place);
        }
        findings.push(told);
    }
    findings
}

struct Words<'r> {
    schema: &'r Schema,
    document: &'r Document<'r>,
    details: &'r Details,
    /// Values that are not to be shown, in the order of the document.
    secrets: Vec<Span>,
    ways: Ways,
}

/// How many bytes a rule may have to be shown whole.
const MAX_RULE: usize = 300;

/// How many fields are shown that a rule has read.
const MAX_READS: usize = 12;

/// What is filled in when all findings are known.
const LATER: Place = Place { line: 1, column: 1 };

impl Words<'_> {
    /// The finding of a failure, and the node that its pointer is to name.
    fn finding(&mut self, failure: &Failure, places: &mut Places) -> Option<(NodeId, Finding)> {
        let rule = self.schema.rule(failure.rule)?;
        let value = self.document.exactly(failure.value);
        let keyword = match &failure.detail {
            Detail::Contains { keyword: Some(at), .. } => *at,
            _ => rule.at,
        };
        let Said { at, look, expected, found, mut message, hint } = self.said(failure, rule, value);
        if let Some(note) = failure.branch.and_then(|note| self.details.notes.get(note as usize)) {
            message.push_str(&self.branch(*note));
        }
        let (name, place) = match places.get(&keyword) {
            Some(known) => known.clone(),
            None => {
                let place = self.schema.file(keyword.file)?.place(keyword.node);
                let uri = way::uri(self.schema, failure.rule, keyword);
                let known = (rule_name(self.schema, keyword), SchemaPlace { uri, ..place });
                places.insert(keyword, known.clone());
                known
            }
        };
        let finding = Finding {
            rule: match &rule.test {
                Test::Stated(stated) => Cow::Owned(stated.id.to_string()),
                _ => name,
            },
            at: String::new(),
            span: self.span(look),
            place: LATER,
            schema: Some(SchemaPlace { rule_index: failure.rule.0, ..place }),
            severity: match &rule.test {
                Test::Deprecated => Severity::Warning,
                Test::Stated(stated) if stated.warns => Severity::Warning,
                _ => Severity::Error,
            },
            message,
            expected,
            found,
            hint,
            way: self.details.telling.ways.then(|| self.ways.of(self.schema, failure, keyword)),
            title: None,
            reads: self.reads(failure),
            wire: None,
        };
        Some((at, finding))
    }

    fn said(&self, failure: &Failure, rule: &Rule, value: Value<'_>) -> Said {
        let here = failure.value;
        let found = self.shown(value);
        // What is near a value tells of the value.
        let open = !self.is_hidden(value);
        let must_be = |expected: String, found: String, hint: Option<String>| {
            let message = format!("must be {expected}, found {found}");
            Said { at: here, look: here, expected, found, message, hint }
        };
        let must_have = |expected: String, found: String| {
            let message = format!("must have {expected}, found {found}");
            Said { at: here, look: here, expected, found, message, hint: None }
        };
        match (&rule.test, &failure.detail) {
            (_, Detail::Missing(name)) => self.missing(here, value, name),
            (_, Detail::MissingWith { missing, present }) => {
                let mut said = self.missing(here, value, missing);
                said.message = format!("must have the property `{missing}`, since `{present}` is there");
                said
            }
            (_, Detail::EqualItems { first, second, at }) => {
                let (expected, found) = ("items that differ", format!("items {first} and {second} are equal"));
                let message = format!("must have {expected}, but {found} (counted from 0)");
                Said { at: here, look: *at, expected: expected.to_owned(), found, message, hint: None }
            }
            (Test::Contains(test), Detail::Contains { matching, items, .. }) => {
                let what = schema_in_words(self.schema, test.schema).unwrap_or("as `contains` describes".to_owned());
                let expected = match test.max {
                    Some(max) if *matching > max => format!("at most {}", shown::counted(max, "item")),
                    _ => format!("at least {}", shown::counted(test.min, "item")),
                };
                must_have(format!("{expected} that is {what}"), format!("{matching} of {items}"))
            }
            (Test::AnyOf(union) | Test::OneOf(union), Detail::UnknownTag(tag)) => {
                let name = union.choosing().map_or("", |tag| &tag.name.text);
                let known: Vec<&str> = union.choosing().into_iter().flat_map(|tag| tag.values.names()).collect();
                let value = self.document.value(*tag);
                let expected = describe::list(known.iter().map(|text| format!("{text:?}")), "or");
                let found = self.shown(value);
                let message = format!("`{name}` chooses the branch and must be {expected}, found {found}");
                let hint =
                    value.as_str().filter(|_| !self.is_hidden(value)).and_then(|word| near::nearest(word, known));
                let hint = hint.map(|near| format!("{near:?} is near"));
                Said { at: *tag, look: *tag, expected, found, message, hint }
            }
            (Test::OneOf(union), Detail::Matching(branches)) => {
                let name = |index: &usize| {
                    let name = branch_name(self.schema, union, *index);
                    let what = union.branches.get(*index).and_then(|branch| schema_in_words(self.schema, *branch));
                    what.map_or(name.clone(), |what| format!("{name} ({what})"))
                };
                let matching = describe::list(branches.iter().map(name), "and");
                let (expected, found) = ("one branch of `oneOf` alone to match", format!("{matching} match"));
                let message = format!("must match one branch of `oneOf` alone, but {found}");
                Said { at: here, look: here, expected: expected.to_owned(), found, message, hint: None }
            }
            (Test::AnyOf(union) | Test::OneOf(union), _) => {
                let words = union.branches.iter().enumerate().map(|(index, branch)| {
                    schema_in_words(self.schema, *branch).unwrap_or_else(|| branch_name(self.schema, union, index))
                });
                must_be(describe::list(words, "or"), found, self.number_in_string(value))
            }
            (Test::Type(types), _) => must_be(types_in_words(*types), found, self.number_in_string(value)),
            (Test::OneOfValues(values), _) => {
                let near = value.as_str().filter(|_| open).and_then(|word| near::nearest(word, values.strings.names()));
                must_be(constants(self.schema, values), found, near.map(|near| format!("{near:?} is near")))
            }
            (Test::MultipleOf(by), _) => must_be(format!("a multiple of {by}"), found, None),
            (Test::Maximum(bound), _) => must_be(format!("at most {bound}"), found, None),
            (Test::ExclusiveMaximum(bound), _) => must_be(format!("less than {bound}"), found, None),
            (Test::Minimum(bound), _) => must_be(format!("at least {bound}"), found, None),
            (Test::ExclusiveMinimum(bound), _) => must_be(format!("more than {bound}"), found, None),
            (Test::MaxLength(bound), _) => {
                must_have(format!("at most {}", shown::counted(*bound, "character")), self.length(value))
            }
            (Test::MinLength(bound), _) => {
                must_have(format!("at least {}", shown::counted(*bound, "character")), self.length(value))
            }
            (Test::Pattern(pattern), _) => {
                let expected = format!("a string that matches `{}`", shown::text(pattern.source()));
                let message = format!("must match `{}`, found {found}", shown::text(pattern.source()));
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            (Test::Format(format), _) => {
                let hint = match value.as_str().filter(|_| open) {
                    Some(text) => format.hint(text),
                    None => format!("for example `{}`", format.example()),
                };
                let hint = Some(hint);
                must_be(format.words().to_owned(), found, hint)
            }
            (Test::MaxItems(bound), _) => {
                must_have(format!("at most {}", shown::counted(*bound, "item")), self.size(value))
            }
            (Test::MinItems(bound), _) => {
                must_have(format!("at least {}", shown::counted(*bound, "item")), self.size(value))
            }
            (Test::MaxProperties(bound), _) => {
                must_have(format!("at most {}", shown::counted(*bound, "member")), self.size(value))
            }
            (Test::MinProperties(bound), _) => {
                must_have(format!("at least {}", shown::counted(*bound, "member")), self.size(value))
            }
            (Test::Not(schema), _) => {
                let what = schema_in_words(self.schema, *schema).unwrap_or("as `not` describes".to_owned());
                let (expected, message) =
                    (format!("anything but {what}"), format!("must not be {what}, found {found}"));
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            (Test::Content(test), _) => {
                let expected = describe::content(test);
                let message = format!("must hold {expected}, found {found}");
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            (Test::Stated(stated), Detail::Broken(outcome, reads)) => self.stated(here, stated, *outcome, reads),
            (Test::Deprecated, _) => {
                let message = "is deprecated: it may go in a later version".to_owned();
                Said { at: here, look: here, expected: "no value here".to_owned(), found, message, hint: None }
            }
            (_, Detail::Unevaluated(names)) => {
                let mut said = self.not_allowed(rule, value, found);
                said.message.push_str(": nothing that holds here describes it");
                let names: Vec<&str> = names.iter().map(|name| self.document.text_of(*name)).collect();
                let words = || describe::list(names.iter().map(|name| format!("`{name}`")), "and");
                said.expected = match names.is_empty() {
                    true => "no property that nothing describes".to_owned(),
                    false => format!("no property but {}", words()),
                };
                said.hint = (!names.is_empty()).then(|| format!("described here: {}", words()));
                said
            }
            (Test::WrongDirection, _) => {
                let (way, owner) = match rule_name(self.schema, rule.at).as_ref() {
                    "readOnly" => ("a request", "alone writes it"),
                    _ => ("a response", "keeps it to himself"),
                };
                let expected = format!("nothing here in {way}");
                let message = format!("must not be in {way}: the owner of the data {owner}");
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            _ => self.not_allowed(rule, value, found),
        }
    }

    /// A rule between fields: what it says, and what the fields are that it has read, each with its place.
    fn stated(&self, here: NodeId, stated: &Stated, outcome: Outcome, reads: &[(String, NodeId)]) -> Said {
        let each = reads
            .iter()
            .take(MAX_READS)
            .map(|(path, node)| format!("`{path}` is {}", self.shown(self.document.exactly(*node))));
        let mut found = describe::list(each, "and");
        if reads.len() > MAX_READS {
            found.push_str(&format!("; and {} more", reads.len() - MAX_READS));
        }
        let rule = if stated.text.len() <= MAX_RULE { stated.text.to_string() } else { shown::text(&stated.text) };
        // A message of its own takes the place of this one.
        let message = match outcome {
            Outcome::Trouble(trouble) => format!("the rule `{rule}` has no answer: {}", trouble.words()),
            _ => format!("must keep the rule `{rule}`"),
        };
        Said { at: here, look: here, expected: rule, found, message, hint: None }
    }

    /// The fields that a rule between fields has read.
    fn reads(&self, failure: &Failure) -> Vec<FieldRead> {
        let Detail::Broken(_, reads) = &failure.detail else { return Vec::new() };
        let one = |(path, node): &(String, NodeId)| FieldRead {
            path: path.clone(),
            at: pointer::of(self.document, *node),
            found: self.shown(self.document.exactly(*node)),
        };
        reads.iter().take(MAX_READS).map(one).collect()
    }

    fn missing(&self, here: NodeId, value: Value<'_>, name: &str) -> Said {
        let present: Vec<&str> = value.members().map(|member| member.name.text()).collect();
        let near = near::nearest(name, present.iter().copied());
        let found = match near {
            Some(near) => format!("no such property, but `{near}`"),
            None => "no such property".to_owned(),
        };
        Said {
            at: here,
            look: here,
            expected: format!("the property `{name}`"),
            found,
            message: format!("must have the property `{name}`"),
            hint: near.map(|near| format!("`{near}` is there: a misspelling?")),
        }
    }

    /// The schema `false`: mostly that of `additionalProperties` or `items`.
    fn not_allowed(&self, rule: &Rule, value: Value<'_>, found: String) -> Said {
        let here = value.id();
        let Some(name) = self.document.name_of(here).map(|name| self.document.text_of(name)) else {
            let message = format!("no value is allowed here, found {found}");
            return Said { at: here, look: here, expected: "no value".to_owned(), found, message, hint: None };
        };
        let known: Vec<String> = self.known_names(rule.at);
        let expected = match known.as_slice() {
            [] => "no such property".to_owned(),
            names if names.len() <= describe::MAX_LISTED => {
                format!("one of the properties {}", describe::list(names.iter().map(|name| format!("`{name}`")), "and"))
            }
            names => format!("one of the {} known properties", names.len()),
        };
        let hint = near::nearest(name, known.iter().map(String::as_str)).map(|near| format!("`{near}` is near"));
        let message = format!("the property `{name}` is not allowed");
        let look = self.document.name_of(here).unwrap_or(here);
        Said { at: here, look, expected, found: format!("`{name}`"), message, hint }
    }

    /// The names in `properties` beside the keyword that holds the schema `false` at `at`.
    fn known_names(&self, at: Location) -> Vec<String> {
        let Some(file) = self.schema.file(at.file) else { return Vec::new() };
        let document = file.document();
        let properties = document.value(document.parent(at.node)).get("properties");
        properties.into_iter().flat_map(|map| map.members()).map(|member| member.name.text().to_owned()).collect()
    }

    /// ` (in the branch …)`.
    fn branch(&self, note: BranchNote) -> String {
        let union = match self.schema.rule(note.rule).map(|rule| &rule.test) {
            Some(Test::AnyOf(union) | Test::OneOf(union)) => union,
            _ => return String::new(),
        };
        let name = branch_name(self.schema, union, note.branch);
        match (note.how, union.choosing()) {
            (Choice::Tag(node), Some(tag)) if self.is_hidden(self.document.value(node)) => {
                format!(" (in {name}, chosen by `{}`)", tag.name.text)
            }
            (Choice::Tag(node), Some(tag)) => {
                format!(" (in {name}, chosen by `{}` {})", tag.name.text, self.shown(self.document.value(node)))
            }
            (Choice::Other, _) => format!(" (in {name})"),
            _ => format!(" (in {name}, the nearest)"),
        }
    }

    /// Whether a value, or a part of it, is not to be shown.
    fn is_hidden(&self, value: Value<'_>) -> bool {
        let span = value.span();
        let after = self.secrets.partition_point(|secret| secret.end <= span.start);
        self.details.telling.redact || self.secrets.get(after).is_some_and(|secret| secret.start < span.end)
    }

    /// The value, or what may be told of it.
    fn shown(&self, value: Value<'_>) -> String {
        if !self.is_hidden(value) {
            return shown::value(value);
        }
        let kind = match value.kind() {
            Kind::Null => "null",
            Kind::Bool => "a boolean",
            Kind::Number => "a number",
            Kind::Array => "an array",
            Kind::Object => "an object",
            Kind::String | Kind::Name => "a string",
        };
        format!("{kind} (not shown)")
    }

    fn length(&self, value: Value<'_>) -> String {
        match self.is_hidden(value) {
            true => self.shown(value),
            false => format!("{} in {}", value.as_str().unwrap_or("").chars().count(), shown::value(value)),
        }
    }

    /// How many items or members a value has.
    fn size(&self, value: Value<'_>) -> String {
        match self.details.telling.redact {
            true => self.shown(value),
            false => (value.items().count() + value.members().count()).to_string(),
        }
    }

    fn number_in_string(&self, value: Value<'_>) -> Option<String> {
        let text = value.as_str().filter(|_| !self.is_hidden(value))?;
        mervik_document::Decimal::parse(text).map(|_| "the quotes make it a string".to_owned())
    }

    fn span(&self, node: NodeId) -> Span {
        let span = self.document.span(node);
        let container = matches!(self.document.value(node).kind(), Kind::Array | Kind::Object);
        // Of a container, its opening bracket is enough to look at.
        if container && !self.document.is_name(node) { Span { start: span.start, end: span.start + 1 } } else { span }
    }

    /// The keyword at a location of the schema; for a boolean schema, the keyword that holds it.
    fn duplicate_names<'w>(&'w self, mut firsts: place::Places<'w>) -> impl Iterator<Item = (NodeId, Finding)> + 'w {
        let told = self.document.tape().duplicates().iter().take(MAX_FINDINGS);
        told.map(move |duplicate| {
            let name = self.document.text_of(duplicate.name);
            let first = firsts.at(self.document.span(duplicate.first).start);
            let here = firsts.at(self.document.span(duplicate.name).start);
            let finding = Finding {
                rule: Cow::Borrowed(rule::DUPLICATE_NAME),
                at: String::new(),
                span: self.document.span(duplicate.name),
                place: LATER,
                schema: None,
                severity: Severity::Error,
                message: format!("the name `{name}` stands twice in one object"),
                expected: "each name once".to_owned(),
                found: format!("`{name}` again"),
                hint: Some(format!("readers keep the first or the last of them; the first is {}", above(first, here))),
                way: None,
                title: None,
                reads: Vec::new(),
                wire: None,
            };
            (duplicate.name, finding)
        })
    }

    fn bound(&self, bound: Bound) -> Finding {
        let needs = |bound: &str| format!("the check needs more than it may take: {bound}");
        let (expected, hint) = match bound {
            Bound::Frames => (
                format!("at most {MAX_FRAMES} schemas inside one another"),
                "the schema may recurse without end, or the document nest too deep for it",
            ),
            Bound::Pattern => (
                format!("at most {MAX_STEPS} steps for a pattern"),
                "a pattern with look-around or back-references may take very long on a text that nearly matches",
            ),
            Bound::Findings => {
                (format!("at most {MAX_FINDINGS} findings in one document"), "there are more, which are not told")
            }
        };
        Finding {
            rule: Cow::Borrowed(rule::CHECK_LIMIT),
            at: String::new(),
            span: Span { start: 0, end: 1 },
            place: LATER,
            schema: None,
            severity: Severity::Error,
            message: match bound {
                Bound::Findings => format!("only the first {MAX_FINDINGS} findings are told"),
                Bound::Frames | Bound::Pattern => needs(&expected),
            },
            expected,
            found: "more".to_owned(),
            hint: Some(hint.to_owned()),
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        }
    }
}

/// Where an earlier place is, seen from a later one: the document may start anywhere in its file.
fn above(first: Place, here: Place) -> String {
    match here.line - first.line {
        0 => format!("in column {}", first.column),
        lines => {
            format!("{} above, in column {}", shown::counted(lines, "line"), first.column)
        }
    }
}

/// The keyword at a place: the standard's own name for the rule.
pub(crate) fn rule_name(schema: &Schema, at: Location) -> Cow<'static, str> {
    let Some(file) = schema.file(at.file) else { return Cow::Borrowed("") };
    let document = file.document();
    let steps = pointer::steps(&document, at.node);
    let names = steps.iter().rev().filter_map(|step| match step {
        Step::Name(name) => keyword::find_any(name),
        Step::Index(_) => None,
    });
    let mut keywords = names.filter(|keyword| document.is_name(at.node) || keyword.holds != Holds::Nothing);
    keywords.next().map_or(Cow::Borrowed("false"), |keyword| Cow::Borrowed(keyword.name))
}

#[cfg(test)]
mod tests;
