//! Where schemas come from: files below folders that may be read, and nothing else.

use crate::args::{AssertMode, DialectName, DirectionName, LanguageOptions};
use crate::catalogues;
use crate::project::{self, Entry, Project};
use crate::proto_files;
use crate::report::excerpt;
use crate::report::vetting::Told;
use crate::status::Trouble;
use crate::style::{Paint, Tone};
use crate::xsd_files;
use mervik_document::{LineIndex, Place, Severity};
use mervik_formats::{Reading, yaml};
use mervik_json_schema::{
    Dialect, Direction, Fetch, FetchError, Fetched, Options, Schema, SchemaErrors, SchemaText, Written, compile,
};
use mervik_rules::Now;
use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, percent_decode_str, percent_encode};
use std::borrow::Cow;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// A schema's text, and what it takes to understand it.
pub(crate) struct Source {
    /// The name that the user knows the file by.
    pub(crate) name: String,
    /// The file, however it was named.
    pub(crate) path: PathBuf,
    pub(crate) uri: String,
    pub(crate) text: SchemaText,
    /// Which part of it is meant.
    pub(crate) fragment: String,
    pub(crate) folders: Folders,
    pub(crate) options: Options,
}

/// Reads the schema that `named` names: a path, the name of a schema of the project, or one of these and a fragment.
pub(crate) fn read(named: &str, options: &LanguageOptions, project: Option<&Project>) -> Result<Source, Trouble> {
    let (path, fragment) = split_fragment(named);
    if path == Path::new(project::SCHEMA_URI) {
        let (text, uri) = (project::SCHEMA.to_owned().into(), project::SCHEMA_URI.to_owned());
        let (name, folders, options) = (uri.clone(), Folders::none(), language_options(options, None));
        return Ok(Source { name, path, uri, text, fragment: fragment.to_owned(), folders, options: options? });
    }
    let entry = project.and_then(|project| Some((project, project.schema(path.to_str()?)?)));
    let (path, fragment) = match &entry {
        Some((project, entry)) => {
            let (path, within) = entry.path.rsplit_once('#').unwrap_or((&entry.path, ""));
            (project.path(Path::new(path)), if fragment.is_empty() { within } else { fragment })
        }
        None => (path, fragment),
    };
    let entry = entry.map(|(_, entry)| entry);
    if proto_files::is_proto(named, project) {
        let message = format!("`{}` is a `.proto`; this command takes JSON Schemas and XML Schemas", path.display());
        return Err(Trouble::new(message).hint("`check`, `coerce`, `vet`, `trial`, `fit` and `infer` take it"));
    }
    if xsd_files::is_xsd(named, project) {
        let message = format!("`{}` is an XML Schema; this command takes JSON Schemas alone so far", path.display());
        return Err(Trouble::new(message).hint("`mervik check` and `mervik vet` take both"));
    }
    let text = text_at(&path).map_err(|trouble| {
        match project.filter(|_| !path.exists()).and_then(|project| project.near(path.to_str()?)) {
            Some(near) => trouble.hint(format!("`{near}` of `{}` is near", project::NAME)),
            None => trouble,
        }
    })?;
    let found = std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot read the schema", &path, &error))?;
    let folders = Folders::new(&path, &found, options, project)?;
    let (name, uri, fragment) = (path.display().to_string(), file_uri(&found), fragment.to_owned());
    Ok(Source { name, uri, path: found, text, fragment, folders, options: language_options(options, entry)? })
}

/// What time it is for rules between fields, as the call says.
///
/// # Errors
///
/// A `--now` that is no moment.
pub(crate) fn now(options: &LanguageOptions) -> Result<Option<Now>, Trouble> {
    let Some(text) = &options.now else { return Ok(None) };
    let trouble = || Trouble::new(format!("`--now {text}` is no moment"));
    let hint = "a moment is written as RFC 3339 has it, with its zone: 2026-04-02T06:00:00Z";
    Now::parse(text).map(Some).ok_or_else(|| trouble().hint(hint))
}

/// How a schema is understood: as the call says, else as the project file does.
///
/// # Errors
///
/// A `--now` that is no moment.
fn language_options(options: &LanguageOptions, entry: Option<&Entry>) -> Result<Options, Trouble> {
    let now = now(options)?;
    let asserted = |called: Option<AssertMode>, entered: Option<AssertMode>, usual| {
        called.or(entered).unwrap_or(usual) == AssertMode::Assert
    };
    Ok(Options {
        now,
        dialect: match options.dialect.or(entry.and_then(|entry| entry.dialect)) {
            None | Some(DialectName::Draft202012) => Dialect::Draft202012,
            Some(DialectName::Draft201909) => Dialect::Draft201909,
            Some(DialectName::Draft07) => Dialect::Draft07,
            Some(DialectName::Draft06) => Dialect::Draft06,
            Some(DialectName::Draft04) => Dialect::Draft04,
        },
        assert_formats: asserted(options.formats, entry.and_then(|entry| entry.formats), AssertMode::Assert),
        assert_content: asserted(options.content, entry.and_then(|entry| entry.content), AssertMode::Annotate),
        direction: options.direction.map(|direction| match direction {
            DirectionName::Request => Direction::Request,
            DirectionName::Response => Direction::Response,
        }),
        ..Options::default()
    })
}

/// Reads and compiles the schema that `--schema` names.
///
/// `wanted` says what checks need beyond what the schema's language options say.
pub(crate) fn load(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
    wanted: impl FnOnce(Options) -> Options,
    paint: Paint,
) -> Result<Schema, Trouble> {
    let languages = options.languages.as_deref().map(catalogues::chain).transpose()?;
    let Source { name, uri, text, fragment, mut folders, options, .. } = read(named, options, project)?;
    let options = wanted(options);
    let schema = compile(&name, &uri, text, &fragment, &mut folders, options);
    let schema = schema.map_err(|errors| not_a_schema(&name, &errors, paint))?;
    let Some(languages) = languages else { return Ok(schema) };
    let files: Vec<PathBuf> = schema.files().iter().map(|file| PathBuf::from(&**file.name())).collect();
    let speaker = catalogues::speaker(languages, &files, paint)?;
    Ok(schema.spoken_by(speaker))
}

/// `PATH#FRAGMENT`, unless there is a file that is called so.
pub(crate) fn split_fragment(named: &str) -> (PathBuf, &str) {
    match named.rsplit_once('#') {
        Some((path, fragment)) if !Path::new(named).exists() => (path.into(), fragment),
        _ => (named.into(), ""),
    }
}

/// The fragment that a name of a schema means: its own, or that which the project file has for it.
pub(crate) fn fragment_of<'n>(named: &'n str, project: Option<&'n Project>) -> &'n str {
    let (_, fragment) = split_fragment(named);
    let name = named.strip_suffix(fragment).unwrap_or(named).trim_end_matches('#');
    let entry = project.and_then(|project| project.schema(name)).filter(|_| fragment.is_empty());
    entry.and_then(|entry| entry.path.rsplit_once('#')).map_or(fragment, |(_, within)| within)
}

pub(crate) fn not_a_schema(name: &str, errors: &SchemaErrors, paint: Paint) -> Trouble {
    let told: Vec<Told> = errors
        .iter()
        .map(|error| Told {
            rule: Cow::Borrowed(""),
            severity: Severity::Error,
            source: Arc::clone(error.source()),
            at: error.at().to_owned(),
            place: error.place(),
            line_text: error.line_text().into(),
            width: error.width(),
            message: error.message().to_owned(),
            hint: error.hint().map(str::to_owned),
            fix: None,
        })
        .collect();
    no_schema(name, told.iter(), paint)
}

/// A schema that cannot be used, with all that is wrong with it.
pub(crate) fn no_schema<'t>(name: &str, errors: impl Iterator<Item = &'t Told>, paint: Paint) -> Trouble {
    unusable("schema", name, errors, paint)
}

/// A schema, or what stands beside it, that cannot be used, with all that is wrong with it.
pub(crate) fn unusable<'t>(what: &str, name: &str, errors: impl Iterator<Item = &'t Told>, paint: Paint) -> Trouble {
    let mut count = 0;
    let mut details = Vec::new();
    for error in errors {
        count += 1;
        let place = format!("{}:{}:{}", error.source, error.place.line, error.place.column);
        let at = if error.at.is_empty() { String::new() } else { format!("   {}", error.at) };
        details.push(String::new());
        details.push(format!("{}{}", paint.tone(Tone::Place, place), paint.tone(Tone::Quiet, at)));
        let rule = if error.rule.is_empty() { String::new() } else { format!("{}: ", error.rule) };
        let message = paint.tone(Tone::Bad, excerpt::printable(&error.message));
        details.push(format!("   {}{message}", paint.tone(Tone::Quiet, rule)));
        // Of what a compiler has made there is no line.
        if !error.line_text.is_empty() {
            let at = excerpt::byte_of(&error.line_text, error.place.column);
            let cut = excerpt::cut(&error.line_text, at, error.width as usize, excerpt::width());
            details.push(format!("   {} {}", paint.tone(Tone::Quiet, format!("{what:<8}")), cut.line));
            details.push(format!("   {} {}", paint.tone(Tone::Quiet, "        "), paint.tone(Tone::Bad, cut.carets)));
        }
        if let Some(hint) = &error.hint {
            details.push(format!("   {}     {hint}", paint.tone(Tone::Help, "hint")));
        }
    }
    let things = if count == 1 { "one thing is wrong" } else { "these things are wrong" };
    Trouble::new(format!("`{name}` is no {what} that can be used: {things}")).details(details)
}

/// The path of a schema that is not JSON, and the folders that it may refer to.
pub(crate) fn located(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
) -> Result<(PathBuf, Folders), Trouble> {
    let entry = project.and_then(|project| Some((project, project.schema(named)?)));
    let path = entry.map_or(PathBuf::from(named), |(project, entry)| project.path(Path::new(&entry.path)));
    let found = std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot read the schema", &path, &error))?;
    let folders = Folders::new(&path, &found, options, project)?;
    Ok((path, folders))
}

/// The files that references may lead to (see `docs/architecture.md`).
pub(crate) struct Folders {
    /// The schema's folder as the user wrote it, and as the system knows it.
    named: PathBuf,
    home: PathBuf,
    maps: Vec<(String, PathBuf)>,
    allowed: Vec<PathBuf>,
}

impl Folders {
    /// No file at all.
    fn none() -> Self {
        Folders { named: PathBuf::new(), home: PathBuf::new(), maps: Vec::new(), allowed: Vec::new() }
    }

    fn new(path: &Path, found: &Path, options: &LanguageOptions, project: Option<&Project>) -> Result<Self, Trouble> {
        let folder = |path: &Path| path.parent().unwrap_or(Path::new("")).to_owned();
        let mut folders =
            Folders { named: folder(path), home: folder(found), maps: Vec::new(), allowed: vec![folder(found)] };
        for map in &options.maps {
            let Some((prefix, dir)) = map.split_once('=') else {
                return Err(Trouble::new(format!("`--map` takes PREFIX=DIR, found `{map}`")));
            };
            let dir = folders.allow(Path::new(dir))?;
            folders.maps.push((prefix.to_owned(), dir));
        }
        for dir in options.allowed.iter().chain(project.map(Project::folder)) {
            folders.allow(dir)?;
        }
        Ok(folders)
    }

    fn allow(&mut self, dir: &Path) -> Result<PathBuf, Trouble> {
        let dir = std::fs::canonicalize(dir).map_err(|error| Trouble::file("cannot read the folder", dir, &error))?;
        self.allowed.push(dir.clone());
        Ok(dir)
    }

    /// The file that a URI leads to; else why there is none, and a way out.
    pub(crate) fn locate(&self, uri: &str) -> Result<PathBuf, (String, Option<String>)> {
        let refuse = |reason: &str, hint: Option<&str>| Err((reason.to_owned(), hint.map(str::to_owned)));
        let mapped = self.maps.iter().find_map(|(prefix, dir)| Some((dir, uri.strip_prefix(prefix.as_str())?)));
        let path = match mapped {
            Some((dir, rest)) => decoded_path(rest).map(|rest| dir.join(rest.trim_start_matches('/'))),
            None => match uri.strip_prefix("file://") {
                Some(path) => decoded_path(path).map(PathBuf::from),
                None => {
                    let hint = "`--map PREFIX=DIR` takes it from a local folder; nothing is fetched from a network";
                    return refuse("is in no folder that is mapped", Some(hint));
                }
            },
        };
        let Some(path) = path else { return refuse("is no path of a file", None) };
        let found = match std::fs::canonicalize(&path) {
            Ok(found) => found,
            Err(_) => return refuse("leads to no file", None),
        };
        if !self.allowed.iter().any(|dir| found.starts_with(dir)) {
            return refuse(
                "lies outside of the schema's folder and the project's",
                Some("`--allow-path DIR` lets references lead there"),
            );
        }
        Ok(found)
    }

    /// The name that the user knows a file by.
    pub(crate) fn name_of(&self, path: &Path) -> String {
        match path.strip_prefix(&self.home) {
            Ok(inside) => self.named.join(inside).display().to_string(),
            Err(_) => path.display().to_string(),
        }
    }
}

impl Fetch for Folders {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        let refuse = |reason: &str, hint: Option<&str>| {
            Err(FetchError { reason: reason.to_owned(), hint: hint.map(str::to_owned) })
        };
        let found = self.locate(uri).map_err(|(reason, hint)| FetchError { reason, hint })?;
        match read_text(&found).and_then(|text| as_json(&found, text)) {
            Err(Unreadable::Yaml(place, message)) => {
                refuse(&format!("cannot be read: line {}, column {}: {message}", place.line, place.column), None)
            }
            Ok(text) => Ok(Fetched { name: self.name_of(&found), text }),
            Err(Unreadable::Io(error)) => refuse(&format!("cannot be read: {error}"), None),
            Err(Unreadable::NotUtf8(at)) => refuse(&format!("is not UTF-8: byte {at} is out of place"), None),
        }
    }
}

enum Unreadable {
    Io(std::io::Error),
    NotUtf8(usize),
    /// No YAML, or not one document.
    Yaml(Place, String),
}

/// The text of a schema's file.
///
/// # Errors
///
/// A file that cannot be read, or is not of its format.
pub(crate) fn text_at(path: &Path) -> Result<SchemaText, Trouble> {
    read_text(path).and_then(|text| as_json(path, text)).map_err(|problem| match problem {
        Unreadable::Yaml(place, message) => {
            let Place { line, column } = place;
            Trouble::new(format!("the schema `{}`, line {line}, column {column}: {message}", path.display()))
        }
        Unreadable::Io(error) => Trouble::file("cannot read the schema", path, &error),
        Unreadable::NotUtf8(at) => {
            Trouble::new(format!("the schema `{}` is not UTF-8: byte {at} is out of place", path.display()))
        }
    })
}

/// A schema's text as JSON: a file in YAML becomes JSON, and keeps its places.
fn as_json(path: &Path, text: String) -> Result<SchemaText, Unreadable> {
    match is_yaml(path) {
        true => yaml_as_json(text).map_err(|(place, message)| Unreadable::Yaml(place, message)),
        false => Ok(text.into()),
    }
}

fn yaml_as_json(text: String) -> Result<SchemaText, (Place, String)> {
    let (mut documents, fault) = yaml::read(&text);
    if let Some(fault) = fault {
        let place = LineIndex::new(&text).place(&text, fault.span.start);
        return Err((place, fault.message.to_string()));
    }
    match (documents.pop(), documents.len()) {
        (Some(Reading { json, origins }), 0) => {
            Ok(SchemaText { json, written: Some(Written { text, places: origins.places().to_vec() }) })
        }
        (_, others) => {
            let message = format!("expected one document, found {}", if others == 0 { 0 } else { others + 1 });
            Err((Place { line: 1, column: 1 }, message))
        }
    }
}

/// A schema's text changed so that it is `json`: in YAML where it is written in YAML.
///
/// # Errors
///
/// A YAML text in which the change cannot be made, by the schema's name.
pub(crate) fn rewritten(name: &str, text: &SchemaText, json: String) -> Result<SchemaText, Trouble> {
    let Some(Written { text, .. }) = &text.written else { return Ok(json.into()) };
    let yaml = yaml::rewrite(text, &json).ok_or_else(|| {
        let trouble = Trouble::new(format!("nothing is changed: `{name}` has no room for the change in its YAML"));
        trouble.hint("anchors, tags and several documents are not written to; make the change by hand")
    })?;
    yaml_as_json(yaml).map_err(|(place, message)| Trouble::new(format!("{name}:{}: {message}", place.line)))
}

/// The text of a file as it is to be written.
pub(crate) fn as_written(text: &SchemaText) -> &str {
    text.written.as_ref().map_or(&text.json, |written| &written.text)
}

/// Whether a schema's file is YAML by its name.
fn is_yaml(path: &Path) -> bool {
    let extension = path.extension().and_then(|extension| extension.to_str()).map(str::to_ascii_lowercase);
    matches!(extension.as_deref(), Some("yaml" | "yml"))
}

fn read_text(path: &Path) -> Result<String, Unreadable> {
    let bytes = std::fs::read(path).map_err(Unreadable::Io)?;
    match String::from_utf8(bytes) {
        // A mark at the start says nothing that UTF-8 needs to have said.
        Ok(text) => Ok(text.strip_prefix('\u{feff}').map(str::to_owned).unwrap_or(text)),
        Err(error) => Err(Unreadable::NotUtf8(error.utf8_error().valid_up_to())),
    }
}

/// The `file:` URI of an absolute path (RFC 8089).
pub(crate) fn file_uri(path: &Path) -> String {
    const KEPT: &AsciiSet = &NON_ALPHANUMERIC.remove(b'/').remove(b'-').remove(b'.').remove(b'_').remove(b'~');
    format!("file://{}", percent_encode(path.as_os_str().as_encoded_bytes(), KEPT))
}

/// A path out of a URI; `None` when it hides a separator or is not UTF-8.
fn decoded_path(text: &str) -> Option<String> {
    let lower = text.to_ascii_lowercase();
    let hides = ["%2f", "%5c", "%00", "?"].iter().any(|separator| lower.contains(separator));
    if hides { None } else { percent_decode_str(text).decode_utf8().ok().map(Cow::into_owned) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_become_uris_and_come_back() {
        let path = "/srv/berth plans/ä#1?.json";
        let uri = file_uri(Path::new(path));
        assert_eq!(uri, "file:///srv/berth%20plans/%C3%A4%231%3F.json");
        assert_eq!(decoded_path(uri.strip_prefix("file://").unwrap()).as_deref(), Some(path));
    }

    #[test]
    fn hidden_separators_are_no_path() {
        for text in ["/a%2Fb", "/a%5cb", "/a%00", "/%ff", "/a?b"] {
            assert_eq!(decoded_path(text), None, "{text}");
        }
    }
}
