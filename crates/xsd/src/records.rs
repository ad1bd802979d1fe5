//! Elements of a document as records, each with a verdict of its own.

use crate::check::{Checker, Found, MAX_FINDINGS, Options};
use crate::schema::Schema;
use mervik_document::Place;
use mervik_document::finding::keep_first;
use mervik_xml::names::is_ncname;
use mervik_xml::{Config, Element as Tag, Handler, Namespaces, Outcome, Spot};
use std::io::{self, Read};
use std::ops::ControlFlow;

/// Where the records of a document are: a path of child steps, `/` from the root, `//` or nothing from anywhere.
///
/// A step is `*`, a local name (in whatever namespace), `prefix:local` with a prefix of the schema, or `{namespace}local`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RecordPath {
    from_root: bool,
    steps: Vec<Step>,
}

#[derive(Clone, Debug, PartialEq, Eq)]
struct Step {
    /// `None` is any.
    namespace: Option<String>,
    local: Option<String>,
}

impl RecordPath {
    /// Reads a path.
    ///
    /// # Errors
    ///
    /// What is wrong with it, in words.
    pub fn parse(schema: &Schema, text: &str) -> Result<RecordPath, String> {
        let trimmed = text.trim();
        let (from_root, rest) = if let Some(rest) = trimmed.strip_prefix(".//").or(trimmed.strip_prefix("//")) {
            (false, rest)
        } else if let Some(rest) = trimmed.strip_prefix('/') {
            (true, rest)
        } else {
            (false, trimmed.strip_prefix("./").unwrap_or(trimmed))
        };
        let mut steps = Vec::new();
        let mut rest = Some(rest);
        while let Some(now) = rest {
            // A namespace may have slashes.
            let end = match now.strip_prefix('{') {
                Some(_) => now.find('}').and_then(|close| now.get(close..)?.find('/').map(|at| close + at)),
                None => now.find('/'),
            };
            let (step, after) = match end {
                Some(end) => (now.get(..end).unwrap_or(""), now.get(end + 1..)),
                None => (now, None),
            };
            steps.push(Step::parse(schema, step)?);
            rest = after;
        }
        Ok(RecordPath { from_root, steps })
    }

    /// Whether the elements from the root to some element, as namespace and local name, end in a record.
    fn matches<'n>(
        &self,
        open: impl ExactSizeIterator<Item = (Option<&'n str>, &'n str)> + DoubleEndedIterator,
    ) -> bool {
        let depth = open.len();
        let right = if self.from_root { depth == self.steps.len() } else { depth >= self.steps.len() };
        right
            && self.steps.iter().rev().zip(open.rev()).all(|(step, (namespace, local))| {
                step.local.as_deref().is_none_or(|wanted| wanted == local)
                    && step.namespace.as_deref().is_none_or(|wanted| namespace == Some(wanted))
            })
    }
}

impl Step {
    fn parse(schema: &Schema, text: &str) -> Result<Step, String> {
        let no_step = || format!("`{text}` is no step: `*`, a local name, `prefix:local` or `{{namespace}}local`");
        let name = |local: &str| match local {
            "*" => Ok(None),
            local if is_ncname(local) => Ok(Some(local.to_owned())),
            _ => Err(no_step()),
        };
        if let Some((namespace, local)) = text.strip_prefix('{').and_then(|rest| rest.split_once('}')) {
            return Ok(Step { namespace: Some(namespace.to_owned()), local: name(local)? });
        }
        match text.split_once(':') {
            Some((prefix, local)) => {
                let bound = schema.documents.iter().find_map(|document| {
                    let root = document.tree.root()?;
                    document.tree.resolve(root, prefix).map(str::to_owned)
                });
                let namespace = bound
                    .ok_or_else(|| format!("the schema has no prefix `{prefix}`; `{{namespace}}local` needs none"))?;
                Ok(Step { namespace: Some(namespace), local: name(local)? })
            }
            None => Ok(Step { namespace: None, local: name(text)? }),
        }
    }
}

/// What is told of the records of a document, in their order.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Told {
    /// So many records hold.
    Valid(u64),
    /// A record does not.
    Refused(Vec<Found>),
    /// What is wrong around the records; told once, after them.
    Around(Vec<Found>),
}

/// Checks a document of which each element that a path leads to is a record. A record has as many findings as a document may.
///
/// Records are told as they end, unless the schema has identity constraints or identifiers: then what is wrong with a record
/// may come to light only at the end of the document, and all are told there. Memory is that of a check, and 16 bytes a
/// record in the latter case.
///
/// # Errors
///
/// A read that fails, and whatever `tell` says.
pub fn check_records<R: Read, E: From<io::Error>>(
    schema: &Schema,
    input: R,
    options: &Options,
    path: &RecordPath,
    tell: &mut dyn FnMut(Told) -> Result<(), E>,
) -> Result<(), E> {
    // The first finding of a record must not end the document.
    let all = Options { first: false, ..options.clone() };
    let waits = schema.has_identities || schema.checks.iter().any(|check| check.has_roles);
    let mut walk = Walk {
        schema,
        checker: Checker::new(schema, &all),
        path,
        first: options.first,
        depth: None,
        start: (0, 0),
        known: 0,
        valid: 0,
        waits: waits.then(Vec::new),
        refused: Vec::new(),
        around: Vec::new(),
        tell,
        failed: None,
    };
    let outcome = mervik_xml::read(input, &mut walk, Config { allow_dtd: options.allow_dtd })?;
    let Walk { checker, depth, start, valid, waits, mut refused, mut around, tell, failed, .. } = walk;
    if let Some(error) = failed {
        return Err(error);
    }
    let cut_off = matches!(outcome, Outcome::Fault(_)) && depth.is_some();
    let late = checker.finished(outcome);
    let Some(mut spans) = waits else {
        if valid > 0 {
            tell(Told::Valid(valid))?;
        }
        // The record that the end came in is one, too.
        if cut_off {
            tell(Told::Refused(late))?;
        } else {
            around.extend(late);
        }
        return if around.is_empty() { Ok(()) } else { tell(Told::Around(around)) };
    };
    if cut_off {
        spans.push((start, (u32::MAX, u32::MAX)));
    }
    for found in late {
        let at = numbers(found.finding.place);
        let index = spans.partition_point(|(start, _)| *start <= at).checked_sub(1);
        match index.filter(|index| spans.get(*index).is_some_and(|(_, end)| at <= *end)) {
            Some(index) => refused.push((index as u64, found)),
            None => around.push(found),
        }
    }
    refused.sort_by_key(|(index, found)| (*index, found.finding.place));
    let mut refused = refused.into_iter().peekable();
    let mut next = 0;
    while let Some((index, _)) = refused.peek() {
        let index = *index;
        if index > next {
            tell(Told::Valid(index - next))?;
        }
        let mut found = Vec::new();
        while let Some((_, one)) = refused.next_if(|(at, _)| *at == index) {
            found.push(one);
        }
        if options.first {
            keep_first(&mut found, |found| &found.finding);
        }
        tell(Told::Refused(found))?;
        next = index + 1;
    }
    if spans.len() as u64 > next {
        tell(Told::Valid(spans.len() as u64 - next))?;
    }
    around.sort_by_key(|found| found.finding.place);
    if around.is_empty() { Ok(()) } else { tell(Told::Around(around)) }
}

/// Line and column.
type Numbers = (u32, u32);

fn numbers(place: Place) -> Numbers {
    let number = |number: u64| u32::try_from(number).unwrap_or(u32::MAX);
    (number(place.line), number(place.column))
}

struct Walk<'s, 't, E> {
    schema: &'s Schema,
    checker: Checker<'s>,
    path: &'t RecordPath,
    first: bool,
    /// How many elements are open in the record's parent and the record.
    depth: Option<usize>,
    start: Numbers,
    /// How many findings there were before the record.
    known: usize,
    /// Records that hold and have not been told.
    valid: u64,
    /// Where records start and end, while they wait.
    waits: Option<Vec<(Numbers, Numbers)>>,
    /// What is wrong with records that wait, by their index.
    refused: Vec<(u64, Found)>,
    around: Vec<Found>,
    tell: &'t mut dyn FnMut(Told) -> Result<(), E>,
    failed: Option<E>,
}

/// So many records that hold are told at once.
const BATCH: u64 = 4_096;

impl<E> Walk<'_, '_, E> {
    fn told(&mut self, told: Told) -> ControlFlow<()> {
        match (self.tell)(told) {
            Ok(()) => ControlFlow::Continue(()),
            Err(error) => {
                self.failed = Some(error);
                ControlFlow::Break(())
            }
        }
    }

    fn ends(&mut self, spot: &Spot<'_>) -> ControlFlow<()> {
        let mut found = self.checker.found_since(self.known);
        if self.first {
            keep_first(&mut found, |found| &found.finding);
        }
        found.truncate(MAX_FINDINGS);
        if let Some(spans) = &mut self.waits {
            let index = spans.len() as u64;
            spans.push((self.start, numbers(spot.place(spot.offset()))));
            // What is wrong with many records is told in short, so that memory stays in bounds.
            if self.refused.len() >= MAX_FINDINGS {
                keep_first(&mut found, |found| &found.finding);
            }
            self.refused.extend(found.into_iter().map(|found| (index, found)));
            return ControlFlow::Continue(());
        }
        if found.is_empty() {
            self.valid += 1;
            if self.valid < BATCH {
                return ControlFlow::Continue(());
            }
        }
        let valid = std::mem::take(&mut self.valid);
        if valid > 0 {
            self.told(Told::Valid(valid))?;
        }
        if found.is_empty() { ControlFlow::Continue(()) } else { self.told(Told::Refused(found)) }
    }
}

impl<E> Handler for Walk<'_, '_, E> {
    fn namespace(&mut self, uri: &str) -> u32 {
        self.checker.namespace(uri)
    }

    fn start(&mut self, tag: &Tag<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        let before = self.checker.found_count();
        let flow = self.checker.start(tag, spot);
        if self.depth.is_none() && self.path.matches(self.checker.open_names(self.schema)) {
            let found = self.checker.found_before(before);
            let room = MAX_FINDINGS.saturating_sub(self.around.len());
            self.around.extend(found.into_iter().take(room));
            self.depth = Some(self.checker.depth());
            self.known = 0;
            if self.waits.is_some() {
                self.start = numbers(spot.place(spot.offset()));
            }
        }
        flow
    }

    fn text(&mut self, text: &str, spot: &Spot<'_>) -> ControlFlow<()> {
        self.checker.text(text, spot)
    }

    fn end(&mut self, empty: bool, scope: &Namespaces, spot: &Spot<'_>) -> ControlFlow<()> {
        let ends = self.depth == Some(self.checker.depth());
        let flow = self.checker.end(empty, scope, spot);
        if ends {
            self.depth = None;
            self.ends(spot)?;
        }
        flow
    }

    fn doctype(&mut self, unparsed: &[String]) {
        self.checker.doctype(unparsed);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::coerce::tests::Nothing;
    use crate::schema::compile;

    fn schema(key: &str) -> Schema {
        let text = format!(
            "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' xmlns:t='urn:t' targetNamespace='urn:t' elementFormDefault='qualified'>
            <xs:element name='tally'><xs:complexType><xs:sequence>
              <xs:element name='day' type='xs:date'/>
              <xs:element name='crate' maxOccurs='unbounded'><xs:complexType><xs:sequence>
                <xs:element name='mass' type='xs:int'/></xs:sequence><xs:attribute name='no' type='xs:int'/></xs:complexType></xs:element>
              <xs:element name='clerk' type='xs:token' minOccurs='0'/>
            </xs:sequence></xs:complexType>{key}</xs:element></xs:schema>"
        );
        let compiled = compile("t.xsd", "file:///t.xsd", text, &mut Nothing).unwrap();
        assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
        compiled.schema
    }

    /// What is told: `+` and how many hold, or the rules of what does not, those around in brackets.
    fn told(schema: &Schema, path: &str, text: &str) -> Vec<String> {
        let path = RecordPath::parse(schema, path).unwrap();
        let mut all = Vec::new();
        let rules =
            |found: &[Found]| found.iter().map(|one| one.finding.rule.to_string()).collect::<Vec<_>>().join(" ");
        let outcome: Result<(), io::Error> =
            check_records(schema, text.as_bytes(), &Options::default(), &path, &mut |told| {
                all.push(match told {
                    Told::Valid(count) => format!("+{count}"),
                    Told::Refused(found) => rules(&found),
                    Told::Around(found) => format!("({})", rules(&found)),
                });
                Ok(())
            });
        outcome.unwrap();
        all
    }

    const KEY: &str = "<xs:unique name='no'><xs:selector xpath='t:crate'/><xs:field xpath='@no'/></xs:unique>";

    fn tally(crates: &str) -> String {
        format!("<tally xmlns='urn:t'>\n<day>2026-04-02</day>\n{crates}\n<clerk>Ada</clerk>\n</tally>")
    }

    #[test]
    fn each_record_has_its_own_verdict() {
        let good = "<crate no='1'><mass>5</mass></crate>\n";
        let bad = "<crate no='x'><mass>y</mass></crate>\n";
        let form = "cvc-datatype-valid.1.2.1";
        let table: &[(String, &[&str])] = &[
            (tally(&good.repeat(3)), &["+3"]),
            (tally(&[good, bad, good].concat()), &["+1", &format!("{form} {form}"), "+1"]),
            (tally(bad).replace("2026", "26"), &[&format!("{form} {form}"), &format!("({form})")]),
            (tally(good).replace("clerk", "clark"), &["+1", "(cvc-complex-type.2.4.a)"]),
            (tally(&format!("{good}<crate><mass>5</ma")), &["+1", "syntax"]),
            (tally(&format!("{good}<crate><mass/></crate>")), &["+1", form]),
        ];
        for key in ["", KEY] {
            let schema = schema(key);
            for (text, expected) in table {
                // Numbers that come again are another matter.
                let mut number = 0;
                let text: String = text
                    .split("no='1'")
                    .map(|part| {
                        number += 1;
                        format!("{part}no='{number}'")
                    })
                    .collect();
                let text = text.rsplit_once("no='").map_or(text.as_str(), |(text, _)| text);
                assert_eq!(told(&schema, "crate", text), *expected, "{key} {text}");
            }
        }
    }

    #[test]
    fn what_comes_to_light_later_is_told_of_its_record() {
        let schema = schema(KEY);
        let text = tally(
            "<crate no='1'><mass>5</mass></crate><crate no='2'><mass>5</mass></crate><crate no='1'><mass>5</mass></crate>",
        );
        assert_eq!(told(&schema, "/tally/crate", &text), ["+2", "cvc-identity-constraint.4.1"]);
    }

    #[test]
    fn paths_lead_to_elements() {
        let schema = schema("");
        let text = tally("<crate><mass>5</mass></crate><crate><mass>6</mass></crate>");
        for (path, count) in [
            ("crate", 2),
            ("//t:crate", 2),
            (".//mass", 2),
            ("/tally/crate", 2),
            ("/tally/*", 4),
            ("{urn:t}crate", 2),
            ("{urn:t}tally/{urn:t}crate", 2),
            ("/crate", 0),
            ("{urn:other}crate", 0),
            ("/*", 1),
        ] {
            let expected = if count == 0 { Vec::new() } else { vec![format!("+{count}")] };
            assert_eq!(told(&schema, path, &text), expected, "{path}");
        }
        for path in ["", "/", "a//b", "1st", "x:crate", "crate[1]", "@no", "{urn:t}"] {
            assert!(RecordPath::parse(&schema, path).is_err(), "{path}");
        }
    }
}
