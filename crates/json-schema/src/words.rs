//! Failures put into words: the need, the value met, and the nearest way to comply.

mod describe;
mod own;
mod way;

use crate::check::{Bound, Details, MAX_FRAMES};
use crate::failure::{BranchNote, Choice, Detail, Failure};
use crate::file::Location;
use crate::keyword::{self, Holds};
use crate::pattern::MAX_STEPS;
use crate::phrases::Phrases as _;
use crate::schema::{Rule, Schema, SchemaId, Stated, Test};
pub(crate) use describe::branch_name;
use describe::{constants, schema_in_words, types_in_words};
use mervik_document::finding::rule;
use mervik_document::pointer::{self, Step};
use mervik_document::tongue::{Common as _, Join, Noun, Tongue};
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
    let mut words = Words { tongue: schema.tongue(), schema, document, details, secrets, ways: Ways::default() };
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
    tongue: Tongue,
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
    fn schema_in_words(&self, id: SchemaId) -> Option<String> {
        schema_in_words(self.tongue, self.schema, id)
    }

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
        let tongue = self.tongue;
        let must_be = |expected: String, found: String, hint: Option<String>| {
            let message = tongue.must_be(&expected, &found);
            Said { at: here, look: here, expected, found, message, hint }
        };
        let must_have = |expected: String, found: String| {
            let message = tongue.must_have(&expected, &found);
            Said { at: here, look: here, expected, found, message, hint: None }
        };
        match (&rule.test, &failure.detail) {
            (_, Detail::Missing(name)) => self.missing(here, value, name),
            (_, Detail::MissingWith { missing, present }) => {
                let mut said = self.missing(here, value, missing);
                said.message = tongue.must_have_since(missing, present);
                said
            }
            (_, Detail::EqualItems { first, second, at }) => {
                let (expected, found) = (tongue.items_that_differ(), tongue.equal_items(first, second));
                let message = tongue.must_differ(&found);
                Said { at: here, look: *at, expected, found, message, hint: None }
            }
            (Test::Contains(test), Detail::Contains { matching, items, .. }) => {
                let what = self.schema_in_words(test.schema).unwrap_or_else(|| tongue.as_contains());
                let expected = match test.max {
                    Some(max) if *matching > max => tongue.at_most(tongue.counted(max, Noun::Item)),
                    _ => tongue.at_least(tongue.counted(test.min, Noun::Item)),
                };
                must_have(tongue.items_that_are(expected, what), tongue.so_many_of(matching, items))
            }
            (Test::AnyOf(union) | Test::OneOf(union), Detail::UnknownTag(tag)) => {
                let name = union.choosing().map_or("", |tag| &tag.name.text);
                let known: Vec<&str> = union.choosing().into_iter().flat_map(|tag| tag.values.names()).collect();
                let value = self.document.value(*tag);
                let expected = describe::list(tongue, known.iter().map(|text| format!("{text:?}")), Join::Or);
                let found = self.shown(value);
                let message = tongue.chooses(name, &expected, &found);
                let hint =
                    value.as_str().filter(|_| !self.is_hidden(value)).and_then(|word| near::nearest(word, known));
                let hint = hint.map(|near| tongue.is_near(format!("{near:?}")));
                Said { at: *tag, look: *tag, expected, found, message, hint }
            }
            (Test::OneOf(union), Detail::Matching(branches)) => {
                let name = |index: &usize| {
                    let tongue = self.tongue;
                    let name = branch_name(tongue, self.schema, union, *index);
                    let what = union.branches.get(*index).and_then(|branch| self.schema_in_words(*branch));
                    what.map_or(name.clone(), |what| tongue.named_so(name, what))
                };
                let matching = describe::list(tongue, branches.iter().map(name), Join::And);
                let (expected, found) = (tongue.one_branch(), tongue.all_match(matching));
                let message = tongue.must_match_one(&found);
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            (Test::AnyOf(union) | Test::OneOf(union), _) => {
                let words = union.branches.iter().enumerate().map(|(index, branch)| {
                    self.schema_in_words(*branch).unwrap_or_else(|| branch_name(tongue, self.schema, union, index))
                });
                must_be(describe::list(tongue, words, Join::Or), found, self.number_in_string(value))
            }
            (Test::Type(types), _) => must_be(types_in_words(tongue, *types), found, self.number_in_string(value)),
            (Test::OneOfValues(values), _) => {
                let near = value.as_str().filter(|_| open).and_then(|word| near::nearest(word, values.strings.names()));
                must_be(
                    constants(tongue, self.schema, values),
                    found,
                    near.map(|near| tongue.is_near(format!("{near:?}"))),
                )
            }
            (Test::MultipleOf(by), _) => must_be(tongue.multiple_of(by), found, None),
            (Test::Maximum(bound), _) => must_be(tongue.at_most(bound), found, None),
            (Test::ExclusiveMaximum(bound), _) => must_be(tongue.less_than(bound), found, None),
            (Test::Minimum(bound), _) => must_be(tongue.at_least(bound), found, None),
            (Test::ExclusiveMinimum(bound), _) => must_be(tongue.more_than(bound), found, None),
            (Test::MaxLength(bound), _) => {
                must_have(tongue.at_most(tongue.counted(*bound, Noun::Character)), self.length(value))
            }
            (Test::MinLength(bound), _) => {
                must_have(tongue.at_least(tongue.counted(*bound, Noun::Character)), self.length(value))
            }
            (Test::Pattern(pattern), _) => {
                let source = shown::text(pattern.source());
                let (expected, message) = (tongue.matching_string(&source), tongue.must_match(&source, &found));
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            (Test::Format(format), _) => {
                let hint = match value.as_str().filter(|_| open) {
                    Some(text) => format.hint(text, tongue),
                    None => tongue.for_example(format.example()),
                };
                let hint = Some(hint);
                must_be(format.words(tongue), found, hint)
            }
            (Test::MaxItems(bound), _) => {
                must_have(tongue.at_most(tongue.counted(*bound, Noun::Item)), self.size(value))
            }
            (Test::MinItems(bound), _) => {
                must_have(tongue.at_least(tongue.counted(*bound, Noun::Item)), self.size(value))
            }
            (Test::MaxProperties(bound), _) => {
                must_have(tongue.at_most(tongue.counted(*bound, Noun::Member)), self.size(value))
            }
            (Test::MinProperties(bound), _) => {
                must_have(tongue.at_least(tongue.counted(*bound, Noun::Member)), self.size(value))
            }
            (Test::Not(schema), _) => {
                let what = self.schema_in_words(*schema).unwrap_or_else(|| tongue.as_not());
                let (expected, message) = (tongue.anything_but(&what), tongue.must_not_be(&what, &found));
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            (Test::Content(test), _) => {
                let expected = describe::content(tongue, test);
                let message = tongue.must_hold(&expected, &found);
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            (Test::Stated(stated), Detail::Broken(outcome, reads)) => self.stated(here, stated, *outcome, reads),
            (Test::Deprecated, _) => {
                let message = tongue.deprecated();
                Said { at: here, look: here, expected: tongue.nothing_here(), found, message, hint: None }
            }
            (_, Detail::Unevaluated(names)) => {
                let mut said = self.not_allowed(rule, value, found);
                said.message = tongue.undescribed(&said.message);
                let names: Vec<&str> = names.iter().map(|name| self.document.text_of(*name)).collect();
                let words = || describe::list(tongue, names.iter().map(|name| format!("`{name}`")), Join::And);
                said.expected = match names.is_empty() {
                    true => tongue.only_described(),
                    false => tongue.none_but(words()),
                };
                said.hint = (!names.is_empty()).then(|| tongue.described_here(words()));
                said
            }
            (Test::WrongDirection, _) => {
                let (way, message) = match rule_name(self.schema, rule.at).as_ref() {
                    "readOnly" => (tongue.request(), tongue.owner_writes(tongue.request())),
                    _ => (tongue.response(), tongue.owner_keeps(tongue.response())),
                };
                let expected = tongue.nothing_in(way);
                Said { at: here, look: here, expected, found, message, hint: None }
            }
            _ => self.not_allowed(rule, value, found),
        }
    }

    /// A rule between fields: what it says, and what the fields are that it has read, each with its place.
    fn stated(&self, here: NodeId, stated: &Stated, outcome: Outcome, reads: &[(String, NodeId)]) -> Said {
        let tongue = self.tongue;
        let each = reads
            .iter()
            .take(MAX_READS)
            .map(|(path, node)| tongue.field_is(path, self.shown(self.document.exactly(*node))));
        let mut found = describe::list(tongue, each, Join::And);
        if reads.len() > MAX_READS {
            found = tongue.and_more(found, reads.len() - MAX_READS);
        }
        let rule = if stated.text.len() <= MAX_RULE { stated.text.to_string() } else { shown::text(&stated.text) };
        // A message of its own takes the place of this one.
        let message = match outcome {
            Outcome::Trouble(trouble) => tongue.no_answer(&rule, trouble.words(tongue)),
            _ => tongue.must_keep(&rule),
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
        let tongue = self.tongue;
        let present: Vec<&str> = value.members().map(|member| member.name.text()).collect();
        let near = near::nearest(name, present.iter().copied());
        let found = match near {
            Some(near) => tongue.no_such_but(near),
            None => tongue.no_such_property(),
        };
        Said {
            at: here,
            look: here,
            expected: tongue.property(name),
            found,
            message: tongue.must_have_property(name),
            hint: near.map(|near| tongue.misspelled(near)),
        }
    }

    /// The schema `false`: mostly that of `additionalProperties` or `items`.
    fn not_allowed(&self, rule: &Rule, value: Value<'_>, found: String) -> Said {
        let (here, tongue) = (value.id(), self.tongue);
        let Some(name) = self.document.name_of(here).map(|name| self.document.text_of(name)) else {
            let message = tongue.no_value_here(&found);
            return Said { at: here, look: here, expected: tongue.no_value(), found, message, hint: None };
        };
        let known: Vec<String> = self.known_names(rule.at);
        let expected = match known.as_slice() {
            [] => tongue.no_such_property(),
            names if names.len() <= describe::MAX_LISTED => {
                let names = names.iter().map(|name| format!("`{name}`"));
                tongue.one_of_properties(describe::list(tongue, names, Join::And))
            }
            names => tongue.one_of_known(names.len()),
        };
        let hint =
            near::nearest(name, known.iter().map(String::as_str)).map(|near| tongue.is_near(format!("`{near}`")));
        let message = tongue.not_allowed(name);
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
        let tongue = self.tongue;
        let name = branch_name(tongue, self.schema, union, note.branch);
        match (note.how, union.choosing()) {
            (Choice::Tag(node), Some(tag)) if self.is_hidden(self.document.value(node)) => {
                tongue.in_chosen(name, &tag.name.text)
            }
            (Choice::Tag(node), Some(tag)) => {
                tongue.in_chosen_by(name, &tag.name.text, self.shown(self.document.value(node)))
            }
            (Choice::Other, _) => tongue.in_branch(name),
            _ => tongue.in_nearest(name),
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
            return shown::value_in(self.tongue, value);
        }
        let tongue = self.tongue;
        let kind = match value.kind() {
            Kind::Null => tongue.null(),
            Kind::Bool => tongue.a_boolean(),
            Kind::Number => tongue.a_number(),
            Kind::Array => tongue.an_array(),
            Kind::Object => tongue.an_object(),
            Kind::String | Kind::Name => tongue.a_string(),
        };
        tongue.not_shown(kind)
    }

    fn length(&self, value: Value<'_>) -> String {
        match self.is_hidden(value) {
            true => self.shown(value),
            false => {
                self.tongue.length_in(value.as_str().unwrap_or("").chars().count(), shown::value_in(self.tongue, value))
            }
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
        mervik_document::Decimal::parse(text).map(|_| self.tongue.quotes_make_string())
    }

    fn span(&self, node: NodeId) -> Span {
        let span = self.document.span(node);
        let container = matches!(self.document.value(node).kind(), Kind::Array | Kind::Object);
        // Of a container, its opening bracket is enough to look at.
        if container && !self.document.is_name(node) { Span { start: span.start, end: span.start + 1 } } else { span }
    }

    /// The keyword at a location of the schema; for a boolean schema, the keyword that holds it.
    fn duplicate_names<'w>(&'w self, mut firsts: place::Places<'w>) -> impl Iterator<Item = (NodeId, Finding)> + 'w {
        let tongue = self.tongue;
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
                message: tongue.twice(name),
                expected: tongue.each_name_once(),
                found: tongue.again(format!("`{name}`")),
                hint: Some(tongue.first_or_last(above(tongue, first, here))),
                way: None,
                title: None,
                reads: Vec::new(),
                wire: None,
            };
            (duplicate.name, finding)
        })
    }

    fn bound(&self, bound: Bound) -> Finding {
        let tongue = self.tongue;
        let (expected, hint) = match bound {
            Bound::Frames => (tongue.schemas_inside(MAX_FRAMES), tongue.endless()),
            Bound::Pattern => (tongue.steps_of_pattern(MAX_STEPS), tongue.slow_pattern()),
            Bound::Findings => (tongue.so_many_findings(MAX_FINDINGS), tongue.untold()),
        };
        Finding {
            rule: Cow::Borrowed(rule::CHECK_LIMIT),
            at: String::new(),
            span: Span { start: 0, end: 1 },
            place: LATER,
            schema: None,
            severity: Severity::Error,
            message: match bound {
                Bound::Findings => tongue.first_findings(MAX_FINDINGS),
                Bound::Frames | Bound::Pattern => tongue.too_much(&expected),
            },
            expected,
            found: tongue.more(),
            hint: Some(hint),
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        }
    }
}

/// Where an earlier place is, seen from a later one: the document may start anywhere in its file.
fn above(tongue: Tongue, first: Place, here: Place) -> String {
    match here.line - first.line {
        0 => tongue.in_column(first.column),
        lines => tongue.lines_above(tongue.counted(lines, Noun::Line), first.column),
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
