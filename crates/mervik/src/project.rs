//! The project file, `mervik.toml`: found in the current folder or the nearest one above it.
//!
//! It is checked against a schema of our own before it is understood, so that all that is wrong with it is told at once.

mod files;

use crate::args::{AssertMode, DialectName};
use crate::status::Trouble;
use mervik_document::{Document, Finding, LineIndex, Place, Span, Tape, json, near, pointer};
use mervik_formats::{Fault, Reading, toml};
use mervik_json_schema::{Checker, Nowhere, Options, Schema, compile};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// The name of the project file.
pub(crate) const NAME: &str = "mervik.toml";

/// The URI of the schema for project files, which `--schema` takes.
pub(crate) const SCHEMA_URI: &str = "urn:mervik:project";

/// That schema.
pub(crate) const SCHEMA: &str = include_str!("../schemas/project.schema.json");

/// What a project file says.
#[derive(Debug, Default, PartialEq, Eq)]
pub(crate) struct Project {
    folder: PathBuf,
    /// The rules of `vet` that are not to be told: `silence` in the table `vet`.
    pub(crate) silence: Vec<String>,
    /// The folder of released versions, where it is not the usual one.
    ledger: Option<PathBuf>,
    /// The schemas, in the order of their names.
    schemas: BTreeMap<String, Entry>,
}

/// What a project file says about one schema: a table of `schemas`.
#[derive(Clone, Debug, Default, Deserialize, PartialEq, Eq)]
#[serde(rename_all = "kebab-case", default)]
pub(crate) struct Entry {
    /// A path, or a path and a fragment.
    pub(crate) path: String,
    pub(crate) dialect: Option<DialectName>,
    pub(crate) formats: Option<AssertMode>,
    pub(crate) content: Option<AssertMode>,
    /// Patterns of the documents that it is for.
    pub(crate) documents: Vec<String>,
    /// The folder of its cases.
    pub(crate) cases: Option<PathBuf>,
    /// What its versions promise, and to which earlier ones.
    pub(crate) promise: Option<String>,
    pub(crate) over: Option<String>,
    /// Breaks of the promise that are known and wanted.
    pub(crate) accepted: Vec<Accepted>,
    /// The message or the global element that documents are.
    pub(crate) r#type: Option<String>,
    /// Files of field rules, and folders of imports, for a `.proto`.
    pub(crate) rules: Vec<PathBuf>,
    pub(crate) include: Vec<PathBuf>,
    /// JSON Pointers to values that no two records share.
    pub(crate) unique: Vec<String>,
    in_list: BTreeMap<String, PathBuf>,
    not_in_list: BTreeMap<String, PathBuf>,
}

/// A break of a promise that is known and wanted.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq)]
pub(crate) struct Accepted {
    /// What changed, in the word of reports.
    pub(crate) kind: String,
    /// Where in documents.
    pub(crate) at: String,
    pub(crate) reason: String,
    /// The last day on which it is accepted.
    pub(crate) until: String,
}

#[derive(Default, Deserialize)]
#[serde(default)]
struct Parsed {
    ledger: Option<PathBuf>,
    vet: Vet,
    schemas: BTreeMap<String, Entry>,
}

#[derive(Default, Deserialize)]
#[serde(default)]
struct Vet {
    silence: Vec<String>,
}

impl Project {
    /// The project that the current folder is part of, if it is part of one.
    ///
    /// # Errors
    ///
    /// A project file that cannot be read, that its schema refuses, or that names files which are not there.
    pub(crate) fn around() -> Result<Option<Project>, Trouble> {
        let Ok(here) = std::env::current_dir() else { return Ok(None) };
        let Some(path) = here.ancestors().map(|folder| folder.join(NAME)).find(|path| path.is_file()) else {
            return Ok(None);
        };
        let text = std::fs::read_to_string(&path)
            .map_err(|error| Trouble::file("cannot read the project file", &path, &error))?;
        let folder = path.parent().unwrap_or(Path::new("")).to_owned();
        let there = |named: &str| folder.join(split(named).0).exists();
        let project = parse(&text, &there).map_err(|wrong| {
            let name = path.strip_prefix(&here).unwrap_or(&path).display().to_string();
            trouble(&name, &wrong)
        })?;
        Ok(Some(Project { folder, ..project }))
    }

    /// The folder of the file. Schemas may refer to what lies in it.
    pub(crate) fn folder(&self) -> &PathBuf {
        &self.folder
    }

    /// The names of the schemas.
    pub(crate) fn names(&self) -> impl Iterator<Item = &str> {
        self.schemas.keys().map(String::as_str)
    }

    /// The folder of released versions.
    pub(crate) fn ledger(&self) -> PathBuf {
        self.path(self.ledger.as_deref().unwrap_or(Path::new("ledger")))
    }

    /// The name and the entry of the schema that a name or a path means.
    pub(crate) fn entry_of(&self, named: &str) -> Option<(&str, &Entry)> {
        let same = |entry: &Entry| self.path(Path::new(split(&entry.path).0)) == Path::new(split(named).0);
        let mut all = self.schemas.iter();
        all.find(|(name, entry)| *name == named || same(entry)).map(|(name, entry)| (name.as_str(), entry))
    }

    /// What is said about the schema of this name.
    pub(crate) fn schema(&self, name: &str) -> Option<&Entry> {
        self.schemas.get(name)
    }

    /// The name that is near to one that is none.
    pub(crate) fn near(&self, name: &str) -> Option<&str> {
        near::nearest(name, self.names())
    }

    /// A path of the project file as a path from the current folder.
    pub(crate) fn path(&self, path: &Path) -> PathBuf {
        let whole = self.folder.join(path);
        match std::env::current_dir() {
            Ok(here) => whole.strip_prefix(&here).map(Path::to_owned).unwrap_or(whole),
            Err(_) => whole,
        }
    }

    /// The lists that values of an entry's records must stand in, or must not: pointers and files.
    pub(crate) fn lists(&self, entry: &Entry) -> [Vec<(String, PathBuf)>; 2] {
        [&entry.in_list, &entry.not_in_list].map(|lists| {
            let found = lists.iter().map(|(pointer, file)| (pointer.clone(), self.path(file)));
            found.collect()
        })
    }
}

/// There is no schema to work with.
pub(crate) fn no_schemas(project: Option<&Project>) -> Trouble {
    Trouble::new(match project {
        Some(_) => format!("no schema is named, and there is none in `{NAME}`"),
        None => format!("no schema is named, and there is no `{NAME}` here or above"),
    })
}

/// A path and a fragment.
fn split(named: &str) -> (&str, &str) {
    named.rsplit_once('#').unwrap_or((named, ""))
}

/// One thing that is wrong with a project file.
#[derive(Debug, PartialEq, Eq)]
struct Wrong {
    place: Place,
    message: String,
    hint: Option<String>,
}

fn trouble(name: &str, wrong: &[Wrong]) -> Trouble {
    let line = |wrong: &Wrong| {
        let Place { line, column } = wrong.place;
        let hint = wrong.hint.as_ref().map_or(String::new(), |hint| format!(" ({hint})"));
        format!("   {name}:{line}:{column}: {}{hint}", wrong.message)
    };
    let things = if wrong.len() == 1 { "one thing is wrong" } else { "these things are wrong" };
    Trouble::new(format!("`{name}` is no project file that can be used: {things}"))
        .details(wrong.iter().map(line).collect())
        .hint(format!("`mervik check --schema {SCHEMA_URI} {name}` shows the lines"))
}

/// The schema for project files.
fn schema() -> Option<Schema> {
    compile(
        NAME,
        SCHEMA_URI,
        SCHEMA.to_owned(),
        "",
        &mut Nowhere,
        Options { assert_formats: true, ..Options::default() },
    )
    .ok()
}

/// Understands a project file; `there` tells whether a path leads to something.
fn parse(text: &str, there: &dyn Fn(&str) -> bool) -> Result<Project, Vec<Wrong>> {
    let lines = LineIndex::new(text);
    let from_fault = |fault: Fault| {
        let Fault { message, hint, span, .. } = fault;
        vec![Wrong {
            place: lines.place(text, span.start),
            message: message.to_string(),
            hint: hint.map(|hint| hint.to_string()),
        }]
    };
    let Reading { json, origins } = toml::read(text).map_err(from_fault)?;
    let mut tape = Tape::new();
    let place = |span: Span| lines.place(text, origins.source(span).start);
    let nowhere = |message: String| vec![Wrong { place: Place { line: 1, column: 1 }, message, hint: None }];
    json::read(&json, &mut tape).map_err(|error| nowhere(error.to_string()))?;
    let document = Document::new(&json, &tape);
    if let Some(schema) = schema() {
        let findings = Checker::new(&schema).findings(&document);
        let from_finding = |finding: Finding| {
            let Finding { at, message, hint, .. } = finding;
            let at = if at.is_empty() {
                String::new()
            } else {
                format!("`{}`: ", at.trim_start_matches('/').replace('/', "."))
            };
            Wrong { place: place(finding.span), message: format!("{at}{message}"), hint }
        };
        if !findings.is_empty() {
            return Err(findings.into_iter().map(from_finding).collect());
        }
    }
    let Parsed { ledger, vet, schemas } = serde_json::from_str(&json).map_err(|error| nowhere(error.to_string()))?;
    // Where a value stands in the file.
    let place_at = |tokens: &[&str]| {
        let tokens: Vec<String> = tokens.iter().map(|token| (*token).to_owned()).collect();
        place(pointer::follow(document.root(), &tokens).map_or(Span::default(), |value| value.span()))
    };
    let mut wrong = Vec::new();
    for (name, entry) in &schemas {
        let missing = |tokens: &[&str], path: &str| {
            let message = format!("`{}`: there is no `{path}`", tokens.join("."));
            Wrong { place: place_at(tokens), message, hint: None }
        };
        if !there(&entry.path) {
            wrong.push(missing(&["schemas", name, "path"], split(&entry.path).0));
        }
        if let Some(cases) = entry.cases.as_ref().and_then(|cases| cases.to_str()).filter(|cases| !there(cases)) {
            wrong.push(missing(&["schemas", name, "cases"], cases));
        }
        for (key, lists) in [("in-list", &entry.in_list), ("not-in-list", &entry.not_in_list)] {
            let gone = lists.iter().filter(|(_, file)| !file.to_str().is_some_and(there));
            wrong.extend(gone.map(|(at, file)| missing(&["schemas", name, key, at], &file.to_string_lossy())));
        }
        for (index, pattern) in entry.documents.iter().enumerate() {
            if let Err(error) = files::matcher(std::slice::from_ref(pattern)) {
                let place = place_at(&["schemas", name, "documents", &index.to_string()]);
                wrong.push(Wrong { place, message: format!("`{pattern}` is no pattern: {error}"), hint: None });
            }
        }
    }
    match wrong.is_empty() {
        true => Ok(Project { folder: PathBuf::new(), silence: vet.silence, ledger, schemas }),
        false => {
            wrong.sort_by_key(|wrong| wrong.place);
            Err(wrong)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_json_schema::vet::RULES;
    use mervik_messages::rules::CATALOGUE_RULES;

    #[test]
    fn a_project_file_says_what_is_silenced_and_which_schemas_there_are() {
        let text = "# ours\n[vet]\nsilence = [\"open-object\", \"no-dialect\"]\n[schemas.berth]\npath = \"b.json#/x\"\ndialect = \"draft-07\"\nformats = \"annotate\"\n\
                    documents = [\"in/*.json\"]\nunique = [\"/id\"]\nin-list = { \"/flag\" = \"flags.txt\" }\n[schemas.wish]\npath = \"w.json\"\n";
        let project = parse(text, &|_| true).unwrap();
        assert_eq!(project.silence, ["open-object", "no-dialect"]);
        assert_eq!(project.names().collect::<Vec<_>>(), ["berth", "wish"]);
        let berth = project.schema("berth").unwrap();
        assert_eq!((berth.path.as_str(), berth.dialect), ("b.json#/x", Some(DialectName::Draft07)));
        assert_eq!((berth.formats, berth.content), (Some(AssertMode::Annotate), None));
        assert_eq!(project.lists(berth)[0][0].0, "/flag");
        assert_eq!(project.near("berht"), Some("berth"));
        assert_eq!(parse("", &|_| true).unwrap(), Project::default());
    }

    #[test]
    fn what_is_wrong_has_a_place_and_a_way_out() {
        // text, line, column, message, hint
        let table = [
            ("[vet\n", 1, 5, "", ""),
            ("[vte]\n", 1, 2, "vte", "`vet` is near"),
            ("[vet]\nsilent = []\n", 2, 1, "silent", "`silence` is near"),
            ("vet = 7\n", 1, 7, "must be an object", ""),
            ("[vet]\nsilence = true\n", 2, 11, "must be an array", ""),
            (
                "[vet]\nsilence = [\"open-objekt\"]\n",
                2,
                12,
                "`vet.silence.0`: must be one of",
                "\"open-object\" is near",
            ),
            ("[schemas.b]\npath = \"gone.json\"\n", 2, 8, "`schemas.b.path`: there is no `gone.json`", ""),
            ("[schemas.b]\n", 1, 1, "`schemas.b`: must have the property `path`", ""),
            ("[schemas.\"a b\"]\npath = \"b\"\n", 1, 10, "a b", ""),
            ("[schemas.b]\npath = \"b\"\ncases = \"gone\"\n", 3, 9, "`schemas.b.cases`: there is no `gone`", ""),
            ("[schemas.b]\npath = \"b\"\nunique = [\"id\"]\n", 3, 11, "must be a JSON Pointer", ""),
            ("[schemas.b]\npath = \"b\"\ndocuments = [\"a[\"]\n", 3, 14, "`a[` is no pattern", ""),
            ("[schemas.b]\npath = \"b\"\npromise = \"forwards\"\n", 3, 11, "must be one of", "\"forward\" is near"),
        ];
        for (text, line, column, message, hint) in table {
            let wrong = parse(text, &|path| path == "b").unwrap_err();
            let [wrong] = wrong.as_slice() else { panic!("{text}: {wrong:?}") };
            assert!(wrong.message.contains(message), "{text}: {wrong:?}");
            assert!(wrong.hint.as_deref().unwrap_or("").contains(hint), "{text}: {wrong:?}");
            assert_eq!(wrong.place, Place { line, column }, "{text}: {wrong:?}");
        }
        let two = parse("a = 1\n[schemas.b]\npth = \"b\"\n", &|_| true).unwrap_err();
        assert_eq!(two.len(), 3, "{two:?}");
    }

    #[test]
    fn the_schema_knows_all_rules_of_vet() {
        let schema: serde_json::Value = serde_json::from_str(SCHEMA).unwrap();
        let known: Vec<&str> =
            schema["$defs"]["vetRule"]["enum"].as_array().unwrap().iter().filter_map(|id| id.as_str()).collect();
        let catalogues = CATALOGUE_RULES.iter().map(|rule| rule.id);
        assert_eq!(known, RULES.iter().map(|rule| rule.id).chain(catalogues).collect::<Vec<_>>());
    }
}
