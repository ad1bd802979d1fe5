//! Real documents that are run through both versions, beside what is reasoned about them.

use super::versions::Pair;
use super::{Asked, Compared};
use crate::args::{LanguageOptions, MessageOptions};
use crate::language::Language;
use crate::project::Project;
use crate::status::Trouble;
use crate::style::Paint;
use crate::{proto_files, proto_input, schema_files, xsd_files};
use mervik_document::{Document, Finding, Tape, json};
use mervik_formats::yaml;
use mervik_proto::Unknown;
use mervik_versions::{Break, Kind, Role};
use std::path::{Path, PathBuf};

/// Both versions, ready to check documents.
enum Checks {
    Json(Box<[mervik_json_schema::Schema; 2]>),
    Xsd(Box<[mervik_xsd::Schema; 2]>, mervik_xsd::Options),
    Proto(Box<[mervik_proto::Schema; 2]>, [mervik_proto::MessageId; 2], mervik_proto::Options),
}

/// The text of a document, and what each version says of it.
type Run = (String, [Vec<Finding>; 2]);

/// How many files of a folder are run.
const MAX_FILES: usize = 100_000;

/// Runs the documents of a folder through both versions; each that the promise is broken for is a break of its own.
pub(super) fn add(
    folder: &Path,
    pair: &Pair,
    asked: &Asked<'_>,
    project: Option<&Project>,
    paint: Paint,
    compared: &mut Compared,
) -> Result<(), Trouble> {
    let usual = LanguageOptions::default();
    let options = asked.language.unwrap_or(&usual);
    let names = [&pair.old, &pair.new];
    let checks = match Language::of(&pair.new, project) {
        Language::Json => {
            let [old, new] = names.map(|named| schema_files::load(named, options, project, |options| options, paint));
            Checks::Json(Box::new([old?, new?]))
        }
        Language::Xsd => {
            let [old, new] = names.map(|named| xsd_files::load(named, options, project, paint));
            Checks::Xsd(Box::new([old?, new?]), xsd_files::check_options(options, asked.root)?)
        }
        Language::Proto => {
            let [old, new] = names.map(|named| proto_files::load(named, options, project, paint));
            let schemas = [old?, new?];
            let message = |schema: &mervik_proto::Schema| match asked.root {
                Some(name) => schema.find(name),
                None => schema.only_message(),
            };
            let [Some(old), Some(new)] = schemas.each_ref().map(message) else {
                return Err(Trouble::new("`--samples` needs to know which message the documents are")
                    .hint("`--type NAME` says it"));
            };
            let how = proto_input::options(&MessageOptions::default(), options.now.as_deref(), Unknown::Keep)?;
            Checks::Proto(Box::new(schemas), [old, new], how)
        }
    };
    for path in files(folder)? {
        let Some((text, found)) = checks.run(&path)? else { continue };
        for (role, promised) in
            [(Role::Old, compared.promise.is_backward()), (Role::New, compared.promise.is_forward())]
        {
            let (accepting, refusing) = match role {
                Role::Old => (&found[0], &found[1]),
                Role::New => (&found[1], &found[0]),
            };
            let refuses = |found: &[Finding]| found.iter().any(Finding::refuses);
            if !promised || refuses(accepting) || !refuses(refusing) {
                continue;
            }
            let refusing: Vec<Finding> = refusing.iter().filter(|finding| finding.refuses()).cloned().collect();
            let at = refusing.first().map_or(String::new(), |finding| finding.at.clone());
            let broken = Break {
                kind: Kind::Condition,
                old: None,
                new: None,
                at,
                message: format!("the sample `{}` is refused", path.display()),
                witness: text.clone(),
                refusal: refusing.into_iter().take(3).collect(),
                view: None,
                notes: Vec::new(),
            };
            compared.breaks.push((role, broken));
        }
    }
    Ok(())
}

impl Checks {
    /// The text of a document, and what each version says of it; `None` for a file that is no document of the language.
    fn run(&self, path: &Path) -> Result<Option<Run>, Trouble> {
        let bytes = std::fs::read(path).map_err(|error| Trouble::file("cannot read", path, &error))?;
        let Ok(text) = String::from_utf8(bytes) else { return Ok(None) };
        let extension = path.extension().and_then(|extension| extension.to_str()).unwrap_or("");
        let as_json = |text: String| match extension {
            "yaml" | "yml" => yaml::read(&text).0.pop().map(|reading| reading.json),
            "json" => Some(text),
            _ => None,
        };
        let (text, found) = match self {
            Checks::Xsd(schemas, options) => {
                if extension != "xml" {
                    return Ok(None);
                }
                let found = schemas.each_ref().map(|schema| {
                    let found = mervik_xsd::check(schema, text.as_bytes(), options).unwrap_or_default();
                    found.into_iter().map(|found| found.finding).collect()
                });
                (text, found)
            }
            Checks::Json(schemas) => {
                let Some(json_text) = as_json(text) else { return Ok(None) };
                let mut tape = Tape::new();
                if json::read(&json_text, &mut tape).is_err() {
                    return Ok(None);
                }
                let document = Document::new(&json_text, &tape);
                let found =
                    schemas.each_ref().map(|schema| mervik_json_schema::Checker::new(schema).findings(&document));
                (json_text.clone(), found)
            }
            Checks::Proto(schemas, messages, options) => {
                let Some(json_text) = as_json(text) else { return Ok(None) };
                let mut tape = Tape::new();
                if json::read(&json_text, &mut tape).is_err() {
                    return Ok(None);
                }
                let document = Document::new(&json_text, &tape);
                let [old, new] = schemas.each_ref();
                let found = [(old, messages[0]), (new, messages[1])].map(|(schema, message)| {
                    let checker = mervik_proto::Checker::new(schema, message, *options);
                    checker.read(mervik_proto::Form::Json(&document)).findings(0)
                });
                (json_text.clone(), found)
            }
        };
        Ok(Some((text, found)))
    }
}

/// The files in a folder and below, in the order of their paths.
fn files(folder: &Path) -> Result<Vec<PathBuf>, Trouble> {
    let mut found = Vec::new();
    let mut open = vec![folder.to_owned()];
    while let Some(at) = open.pop() {
        let trouble = |error: std::io::Error| Trouble::file("cannot read the samples", &at, &error);
        for entry in std::fs::read_dir(&at).map_err(trouble)? {
            let path = entry.map_err(trouble)?.path();
            if path.is_dir() {
                open.push(path)
            } else {
                found.push(path)
            }
            if found.len() > MAX_FILES {
                return Err(Trouble::new(format!("`{}` has more than {MAX_FILES} files", folder.display())));
            }
        }
    }
    found.sort();
    Ok(found)
}
