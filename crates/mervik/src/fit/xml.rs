//! `fit` on XML Schemas: refused documents one after the other, each under the schema as changed so far.

use super::search::{Example, Outcome, Proposal, is_same, leave};
use crate::args::FitCall;
use crate::files;
use crate::project::Project;
use crate::schema_files::{self, Folders};
use crate::status::Trouble;
use crate::style::Paint;
use crate::trial::Documents;
use crate::xsd_files;
use mervik_fit::{Change, Refusal, change_xsd};
use mervik_xsd::{Compiled, Fetch, FetchError, Fetched, Found, Options, Schema};
use std::collections::BTreeMap;
use std::io::Read;
use std::path::{Path, PathBuf};

/// A document asks for so many changes at most, and all of them together for so many.
const MAX_STEPS: usize = 32;
const MAX_CHANGES: usize = 400;

/// The documents of a schema, as changed so far.
struct Texts {
    name: String,
    uri: String,
    text: String,
    folders: Folders,
    /// The documents that have been changed, by the names that they are told by.
    changed: BTreeMap<String, String>,
    /// All that have been read.
    read: BTreeMap<String, String>,
    /// How documents are checked.
    options: Options,
}

impl Fetch for Texts {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        let fetched = self.folders.fetch(uri)?;
        self.read.insert(fetched.name.clone(), fetched.text.clone());
        Ok(match self.changed.get(&fetched.name) {
            Some(text) => Fetched { text: text.clone(), ..fetched },
            None => fetched,
        })
    }
}

impl Texts {
    fn compile(&mut self) -> Option<Compiled> {
        let (name, uri) = (self.name.clone(), self.uri.clone());
        let text = self.changed.get(&name).unwrap_or(&self.text).clone();
        mervik_xsd::compile(&name, &uri, text, self).ok().filter(|compiled| !compiled.is_broken())
    }

    fn text_of(&self, name: &str) -> Option<&String> {
        let original = if name == self.name { Some(&self.text) } else { self.read.get(name) };
        self.changed.get(name).or(original)
    }
}

/// A refused document.
struct Document {
    name: String,
    text: String,
    found: Vec<Found>,
}

/// What has been found, and the texts of the schema documents that were changed.
pub(super) struct Fitted {
    pub(super) outcome: Outcome,
    pub(super) before: Documents,
    pub(super) after: Option<Documents>,
    root: (String, PathBuf),
    changed: BTreeMap<String, String>,
}

impl Fitted {
    /// The place of the schema's own file.
    pub(super) fn root(&self) -> &Path {
        &self.root.1
    }

    /// Writes the files that were changed.
    ///
    /// # Errors
    ///
    /// A file that cannot be written.
    pub(super) fn write(self) -> Result<(), Trouble> {
        let mut ready = Vec::new();
        for (name, text) in self.changed {
            let path = if name == self.root.0 { self.root.1.clone() } else { PathBuf::from(&name) };
            let found = std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot write", &path, &error))?;
            ready.push((found, xsd_files::as_utf8(text)));
        }
        ready.iter().try_for_each(|(path, text)| files::replace(path, text))
    }
}

/// Looks for changes until all documents are let in that can be.
///
/// # Errors
///
/// A file that cannot be read, or a schema that breaks its standard.
pub(super) fn search(call: &FitCall, project: Option<&Project>, paint: Paint) -> Result<Fitted, Trouble> {
    xsd_files::refuse_other_formats(call.input.format)?;
    let (path, folders) = schema_files::located(&call.schema, &call.language, project)?;
    let before = xsd_files::load(&call.schema, &call.language, project, paint)?;
    let found = std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot read the schema", &path, &error))?;
    let mut texts = Texts {
        name: path.display().to_string(),
        uri: schema_files::file_uri(&found),
        text: xsd_files::text_at(&path).map_err(Trouble::new)?,
        folders,
        changed: BTreeMap::new(),
        read: BTreeMap::new(),
        options: xsd_files::check_options(&call.language, call.root.as_deref())?,
    };
    let mut outcome = Outcome::default();
    let mut refused = Vec::new();
    for document in &call.documents {
        outcome.records += 1;
        let mut bytes = Vec::new();
        let read =
            crate::check::xml_input(document, call.input.format).and_then(|mut input| input.read_to_end(&mut bytes));
        read.map_err(|error| Trouble::file("cannot read", document, &error))?;
        let text = mervik_xml::text(&bytes).unwrap_or_else(|_| String::from_utf8_lossy(&bytes).into_owned());
        let found = refusals(&before, &text, &texts.options);
        if !found.is_empty() {
            outcome.refused += 1;
            refused.push(Document { name: document.display().to_string(), text, found });
        }
    }
    let mut after = texts.compile().map(|compiled| compiled.schema);
    for document in &refused {
        for _ in 0..MAX_STEPS {
            let found = refusals(after.as_ref().unwrap_or(&before), &document.text, &texts.options);
            if found.is_empty() {
                break;
            }
            // A step changes the texts: beyond the limit none is made.
            let mut asking = found.iter().take_while(|_| outcome.proposals.len() < MAX_CHANGES);
            let step = asking.find_map(|found| step(&mut texts, document, found));
            let Some((proposal, schema, moves)) = step else {
                found.iter().for_each(|found| leave(&mut outcome.left, &found.finding, || example(document, found)));
                break;
            };
            after = Some(schema);
            let same = |known: &&mut Proposal| {
                moves && known.schema_at == proposal.schema_at && known.source == proposal.source
            };
            match outcome.proposals.iter_mut().find(same) {
                Some(known) => *known = proposal,
                None => outcome.proposals.push(proposal),
            }
        }
    }
    for proposal in &mut outcome.proposals {
        let asks = |found: &Found| {
            let place = found.finding.schema.as_ref();
            let here = place.is_some_and(|place| place.at == proposal.schema_at && *place.source == *proposal.source);
            here && (found.finding.rule == proposal.rule)
                && (proposal.example.found == found.finding.found || proposal.moves)
        };
        let count = refused.iter().filter(|document| document.found.iter().any(asks)).count() as u64;
        proposal.records = count.max(1);
    }
    let Texts { changed, options, .. } = texts;
    let after = after.map(|schema| Documents { schema, options: options.clone() });
    let before = Documents { schema: before, options };
    let root = (path.display().to_string(), path);
    Ok(Fitted { outcome, before, after, root, changed })
}

/// What refuses a document.
fn refusals(schema: &Schema, text: &str, options: &Options) -> Vec<Found> {
    // Reading from memory does not fail.
    let found = mervik_xsd::check(schema, text.as_bytes(), options).unwrap_or_default();
    found.into_iter().filter(|found| found.finding.refuses()).collect()
}

/// The change that a finding asks for, made, if what comes out is a schema.
fn step(texts: &mut Texts, document: &Document, found: &Found) -> Option<(Proposal, Schema, bool)> {
    let finding = &found.finding;
    let place = finding.schema.as_ref()?;
    let text = texts.text_of(&place.source)?;
    let refusal = Refusal { rule: &finding.rule, schema_at: &place.at, document: &document.text, at: &finding.at };
    let change = change_xsd(text, &refusal, &finding.found)?;
    let options = texts.options.clone();
    let replaced = texts.changed.insert(place.source.to_string(), change.text);
    let has_effect = |compiled: &Compiled| {
        let after = refusals(&compiled.schema, &document.text, &options);
        !after.iter().any(|other| is_same(finding, &other.finding))
    };
    let Some(compiled) = texts.compile().filter(has_effect) else {
        // What leaves no schema, or leaves all as it was, is no proposal.
        match replaced {
            Some(text) => texts.changed.insert(place.source.to_string(), text),
            None => texts.changed.remove(&*place.source),
        };
        return None;
    };
    // The line is that of the file as it stands, where the rule has been there from the start.
    let mut original = document.found.iter().filter_map(|found| found.finding.schema.as_ref());
    let original = original.find(|known| known.at == place.at && known.source == place.source);
    let proposal = Proposal {
        source: place.source.to_string(),
        schema_line: original.unwrap_or(place).place.line,
        rule: finding.rule.to_string(),
        schema_at: place.at.clone(),
        change: Change { words: change.words, patch: Vec::new(), removes: false },
        xml: Some(change.patch),
        moves: change.moves,
        records: 0,
        example: example(document, found),
    };
    Some((proposal, compiled.schema, change.moves))
}

fn example(document: &Document, found: &Found) -> Example {
    let finding = &found.finding;
    Example {
        document: document.name.clone(),
        record: 1,
        line: finding.place.line,
        at: finding.at.clone(),
        found: finding.found.clone(),
    }
}
