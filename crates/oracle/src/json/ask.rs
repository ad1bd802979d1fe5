//! The question that is put to every way on which a verdict is given.

use super::evaluate::Evaluator;
use super::generate::Generator;
use super::resources::Dialect;
use super::shrink::shrunk;
use crate::find::{Find, Tally};
use crate::tree::Json;
use mervik_document::{Document, Finding, Tape, json};
use mervik_json_schema::{Checker, Coercer, Coercion, Level, Nowhere, Options, Schema, Telling, compile};

/// So many documents are made for a schema.
const DOCUMENTS: usize = 24;

/// So many finds of one run are told; more are mostly the same again.
const MAX_FINDS: usize = 10;

/// The dialect as the crate under test calls it.
fn told(dialect: Dialect) -> mervik_json_schema::Dialect {
    match dialect {
        Dialect::Draft04 => mervik_json_schema::Dialect::Draft04,
        Dialect::Draft06 => mervik_json_schema::Dialect::Draft06,
        Dialect::Draft07 => mervik_json_schema::Dialect::Draft07,
        Dialect::Draft201909 => mervik_json_schema::Dialect::Draft201909,
        Dialect::Draft202012 => mervik_json_schema::Dialect::Draft202012,
    }
}

fn compiled(text: &str, options: Options) -> Option<Schema> {
    compile("schema.json", "file:///schema.json", text, "", &mut Nowhere, options).ok()
}

/// A schema that is ready to be asked, in the forms that it is compiled to.
struct Asked {
    schema: Schema,
    kept: Schema,
}

impl Asked {
    fn new(text: &str, dialect: Dialect) -> Option<Asked> {
        let usual = Options { dialect: told(dialect), coerce: true, ..Options::default() };
        let kept = Options { coerce: false, keep_references: true, ..usual };
        Some(Asked { schema: compiled(text, usual)?, kept: compiled(text, kept)? })
    }
}

/// What every way says of the documents, one after the other: for each document, the ways with their verdicts.
fn verdicts(asked: &Asked, documents: &[String]) -> Vec<Vec<(&'static str, bool)>> {
    let telling = |telling: Telling| Checker::new(&asked.schema).telling(telling);
    let mut straight = Checker::new(&asked.schema);
    let mut tape_only = Checker::new(&asked.schema);
    let mut all = telling(Telling { all_branches: true, ..Telling::default() });
    let mut ways = Checker::new(&asked.kept).telling(Telling { ways: true, ..Telling::default() });
    let coercion = Coercion { level: Level::Exact, ..Coercion::TYPES };
    let mut coercer = Coercer::new(&asked.schema, coercion);
    let refuses = |found: &[Finding]| found.iter().any(Finding::refuses);
    documents
        .iter()
        .map(|text| {
            let mut said = Vec::new();
            let mut tape = Tape::new();
            if json::read(text, &mut tape).is_err() {
                return said;
            }
            let document = Document::new(text, &tape);
            let accepted = tape_only.accepts(&document);
            said.push(("the verdict alone", accepted));
            // It may be unsure, and then the others decide; it is asked twice, once with the order of the names learned.
            for _ in 0..2 {
                if straight.accepts_text(text) {
                    said.push(("the quick way", true));
                }
            }
            said.push(("the findings", !refuses(&tape_only.findings(&document))));
            said.push(("the findings of all branches", !refuses(&all.findings(&document))));
            said.push(("the findings with their ways", !refuses(&ways.findings(&document))));
            said.push(("the verdict with references kept", Checker::new(&asked.kept).accepts(&document)));
            if let Some(items) = tape_only.findings_of_items(text) {
                said.push(("the findings of a large array", !refuses(&items.findings)));
            }
            let coerced = coercer.coerce(text, accepted);
            let is_kept = coerced.text.is_none() && coerced.doubts.is_empty();
            if is_kept && straight.accepts_as_it_is(text, &coercion) {
                said.push(("coercion that finds nothing to do", true));
            }
            said
        })
        .collect()
}

/// What the plain reading says of a document, and what every way says.
///
/// # Panics
///
/// When the texts are none, or the schema cannot be used.
pub fn judge(schema: &str, dialect: Dialect, document: &str) -> (bool, Vec<(&'static str, bool)>) {
    let (schema_tree, tree) = Json::read(schema).zip(Json::read(document)).expect("both are JSON");
    let valid = Evaluator::new(&schema_tree, dialect).is_valid(&tree).expect("there is a verdict");
    let asked = Asked::new(schema, dialect).unwrap_or_else(|| panic!("{schema} is a schema"));
    // Three times, so that what was learned is used.
    let documents = [document, document, document].map(str::to_owned);
    (valid, verdicts(&asked, &documents).into_iter().flatten().collect())
}

/// Makes pairs from a seed and puts them to every way.
pub fn run(seed: u64, schemas: u64) -> Tally {
    let mut tally = Tally::default();
    for round in 0..schemas {
        if tally.finds.len() >= MAX_FINDS {
            break;
        }
        let seed = seed.wrapping_add(round);
        let dialect = Dialect::ALL.get((seed % 5) as usize).copied().unwrap_or(Dialect::Draft202012);
        let mut generator = Generator::new(seed, dialect);
        let made = generator.schema();
        tally.schemas += 1;
        let text = made.schema.write();
        let Some(asked) = Asked::new(&text, dialect) else { continue };
        tally.usable += 1;
        let documents = generator.documents(&made.schema, DOCUMENTS);
        let evaluator = Evaluator::new(&made.schema, dialect);
        let texts: Vec<String> = documents.iter().map(Json::write).collect();
        let said = verdicts(&asked, &texts);
        for (document, said) in documents.iter().zip(said) {
            let Ok(valid) = evaluator.is_valid(document) else { continue };
            tally.pairs += 1;
            tally.valid += u64::from(valid);
            tally.verdicts += said.len() as u64;
            let Some((way, verdict)) = said.into_iter().find(|(_, verdict)| *verdict != valid) else { continue };
            let (schema, least) = least(&made.schema, document, dialect, way).unwrap_or_else(|| {
                // Only what came before it makes it so.
                (made.schema.clone(), document.clone())
            });
            tally.finds.push(Find {
                way: way.to_owned(),
                oracle: valid,
                said: verdict,
                schema: schema.write(),
                document: least.write(),
                seed,
            });
            break;
        }
    }
    tally
}

/// The least pair that shows the same on the same way; `None` when the pair alone does not show it.
fn least(schema: &Json, document: &Json, dialect: Dialect, way: &str) -> Option<(Json, Json)> {
    let shows = |schema: &Json, document: &Json| {
        let schema_text = schema.write();
        let Some(asked) = Asked::new(&schema_text, dialect) else { return false };
        let Ok(valid) = Evaluator::new(schema, dialect).is_valid(document) else { return false };
        let said = verdicts(&asked, &[document.write()]);
        said.iter().flatten().any(|(known, verdict)| *known == way && *verdict != valid)
    };
    shows(schema, document).then(|| shrunk(schema, document, &shows))
}
