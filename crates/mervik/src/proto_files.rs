//! `.proto` files and descriptor sets: which calls are about one, what they import, and the rules beside them.

use crate::args::{DirectionName, LanguageOptions, MessageOptions};
use crate::catalogues;
use crate::project::{self, Project};
use crate::report::vetting::Told;
use crate::schema_files;
use crate::status::Trouble;
use crate::style::Paint;
use mervik_document::Severity;
use mervik_formats::{Reading, toml, yaml};
use mervik_proto::{Compiled, Fetch, FetchError, Fetched, MessageId, RuleText, Schema, Source};
use std::collections::BTreeMap;
use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};

/// So many messages are named when nobody said which one is meant.
const LISTED: usize = 12;

/// How many bytes of a file tell its language.
const HEAD: u64 = 4096;

/// The words that a `.proto` starts with.
const FIRST: &[&str] = &["syntax", "edition", "package", "import", "option", "message", "enum", "service", "extend"];

/// Whether a name of a schema leads to a `.proto` or a descriptor set: by its content, then by its extension.
pub(crate) fn is_proto(named: &str, project: Option<&Project>) -> bool {
    let (path, _) = entry_path(named, project);
    let extension = path.extension().and_then(|extension| extension.to_str()).unwrap_or("");
    let mut head = Vec::new();
    let read = File::open(&path).and_then(|file| file.take(HEAD).read_to_end(&mut head));
    match (read, extension, std::str::from_utf8(head.get(..whole(&head)).unwrap_or_default())) {
        (Ok(_), ..) if is_set(&head) => true,
        // A schema in YAML may start with `enum:`, and is no `.proto` for that.
        (Ok(_), "json" | "yaml" | "yml" | "xsd" | "xml", _) => false,
        (Ok(_), _, Ok(text)) => {
            let text = first_word(text);
            let word: String = text.chars().take_while(char::is_ascii_alphabetic).collect();
            let after = text.get(word.len()..).unwrap_or("").trim_start();
            let declares = FIRST.contains(&word.as_str()) && !after.starts_with(':');
            declares || (extension == "proto" && !text.starts_with(['{', '<']))
        }
        _ => extension == "proto",
    }
}

/// How much of the head of a file ends with a whole character.
fn whole(head: &[u8]) -> usize {
    match std::str::from_utf8(head) {
        Err(error) if error.error_len().is_none() => error.valid_up_to(),
        _ => head.len(),
    }
}

/// What stands after comments and space.
fn first_word(text: &str) -> &str {
    let mut rest = text.trim_start_matches('\u{feff}');
    loop {
        rest = rest.trim_start();
        rest = match (rest.strip_prefix("//"), rest.strip_prefix("/*")) {
            (Some(comment), _) => comment.split_once('\n').map_or("", |(_, after)| after),
            (_, Some(comment)) => comment.split_once("*/").map_or("", |(_, after)| after),
            _ => return rest,
        };
    }
}

/// Whether bytes are a descriptor set: the field 1 of a message, whose first field is the name of a file.
fn is_set(head: &[u8]) -> bool {
    let Some((b'\x0a', rest)) = head.split_first() else { return false };
    let length = rest.iter().take_while(|byte| **byte >= 0x80).count() + 1;
    // Text has no such bytes; a set has the tags of its fields among them.
    let control = head.iter().any(|byte| *byte < 0x20 && !matches!(byte, b'\t' | b'\n' | b'\r'));
    control
        && rest.get(length) == Some(&0x0a)
        && rest.get(length + 2..).is_some_and(|name| name.windows(6).take(256).any(|part| part == b".proto"))
}

/// The path that a name leads to, and its place in the project file.
fn entry_path<'p>(named: &str, project: Option<&'p Project>) -> (PathBuf, Option<(&'p Project, &'p project::Entry)>) {
    let entry = project.and_then(|project| Some((project, project.schema(named)?)));
    let path = entry.map_or(PathBuf::from(named), |(project, entry)| project.path(Path::new(&entry.path)));
    (path, entry)
}

/// A schema with all that there is to say about it, and the name that people know it by.
///
/// # Errors
///
/// A file that cannot be read.
pub(crate) fn read(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
) -> Result<(String, Compiled), Trouble> {
    read_changed(named, options, project, &BTreeMap::new())
}

fn read_changed(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
    changed: &BTreeMap<String, String>,
) -> Result<(String, Compiled), Trouble> {
    let (path, entry) = entry_path(named, project);
    let name = path.display().to_string();
    let bytes = std::fs::read(&path).map_err(|error| Trouble::file("cannot read the schema", &path, &error))?;
    let mut rule_paths: Vec<PathBuf> = options.rules.clone();
    let mut include_paths: Vec<PathBuf> = options.includes.clone();
    if let Some((project, entry)) = entry {
        rule_paths.extend(entry.rules.iter().map(|path| project.path(path)));
        include_paths.extend(entry.include.iter().map(|path| project.path(path)));
    }
    let rules: Vec<RuleText> = rule_paths.iter().map(|path| rule_text(path)).collect::<Result<_, _>>()?;
    let mut imports = Imports::new(&path, &include_paths, options, project)?;
    imports.changed = changed.clone();
    let source = match is_set(&bytes) {
        true => Source::Set { name: name.clone(), bytes },
        false => {
            let text = String::from_utf8(bytes).map_err(|error| {
                let at = error.utf8_error().valid_up_to();
                Trouble::new(format!("the schema `{name}` is not UTF-8: byte {at} is out of place"))
            })?;
            let text = changed.get(&name).cloned().unwrap_or(text);
            Source::Text { name: name.clone(), import: imports.own_name(&path), text }
        }
    };
    Ok((name, mervik_proto::compile(source, &rules, &mut imports)))
}

/// The path that a name of a schema leads to.
pub(crate) fn path_of(named: &str, project: Option<&Project>) -> PathBuf {
    entry_path(named, project).0
}

/// The same as [`load`], of files whose texts have been changed, by the names that they are told by.
///
/// # Errors
///
/// As [`load`].
pub(crate) fn load_changed(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
    changed: &BTreeMap<String, String>,
    paint: Paint,
) -> Result<Schema, Trouble> {
    let (name, compiled) = read_changed(named, options, project, changed)?;
    usable(&name, compiled, paint)
}

/// Reads and compiles the schema that `--schema` names.
///
/// # Errors
///
/// A file that cannot be read, and a schema that does not compile.
pub(crate) fn load(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Schema, Trouble> {
    let (name, compiled) = read(named, options, project)?;
    let schema = usable(&name, compiled, paint)?;
    let Some(languages) = options.languages.as_deref() else { return Ok(schema) };
    let speaker = catalogues::speaker(catalogues::chain(languages)?, &[PathBuf::from(name)], paint)?;
    Ok(schema.spoken_by(speaker))
}

fn usable(name: &str, compiled: Compiled, paint: Paint) -> Result<Schema, Trouble> {
    if !compiled.is_broken() {
        return Ok(compiled.schema);
    }
    let errors = compiled.remarks.into_iter().filter(|remark| remark.severity == Severity::Error);
    let errors: Vec<Told> = errors.map(Told::from).collect();
    Err(schema_files::no_schema(name, errors.iter(), paint))
}

/// The message that documents are: as `--type` or `--service` says, else the project file, else the only one it can be.
///
/// # Errors
///
/// Names that lead nowhere, and a schema with several messages that nobody chose among.
pub(crate) fn message(
    schema: &Schema,
    named: &str,
    root: Option<&str>,
    messages: &MessageOptions,
    direction: Option<DirectionName>,
    project: Option<&Project>,
) -> Result<MessageId, Trouble> {
    let of_project = entry_path(named, project).1.and_then(|(_, entry)| entry.r#type.as_deref());
    let mut wanted = root.or(of_project).map(str::to_owned);
    if direction.is_some() && messages.service.is_none() {
        return Err(Trouble::new("`--direction` has no meaning for protobuf messages without `--service`")
            .hint("`--service package.Service/Method` names the method whose request or response is meant"));
    }
    if let Some(service) = &messages.service {
        if root.is_some() {
            return Err(Trouble::new("`--type` and `--service` both say what the messages are: one of them is enough"));
        }
        let method = schema.methods().iter().find(|method| method.name == *service);
        let Some(method) = method else {
            let trouble = Trouble::new(format!("there is no method `{service}` in `{named}`"));
            let names: Vec<&str> = schema.methods().iter().map(|method| method.name.as_str()).collect();
            return Err(trouble.hint(match names.as_slice() {
                [] => "the file has no services".to_owned(),
                names => format!("there are {}", names.join(", ")),
            }));
        };
        wanted = Some(match direction {
            Some(DirectionName::Request) => method.request.clone(),
            Some(DirectionName::Response) => method.response.clone(),
            None => {
                let trouble = Trouble::new(format!("`{service}` has a request and a response"));
                return Err(trouble.hint("`--direction request` or `--direction response` says which one is meant"));
            }
        });
    }
    let names: Vec<&str> = schema.own_messages().collect();
    let listed = match names.as_slice() {
        [] => "the file has no messages".to_owned(),
        names => match names.split_at_checked(LISTED) {
            Some((first, more)) if !more.is_empty() => {
                format!("there are {} and {} more", first.join(", "), more.len())
            }
            _ => format!("there are {}", names.join(", ")),
        },
    };
    match wanted {
        Some(wanted) => schema.find(&wanted).ok_or_else(|| {
            let last = |name: &'_ str| name.rsplit('.').next().unwrap_or(name).to_owned();
            let short: Vec<String> = names.iter().map(|name| last(name)).collect();
            let near =
                mervik_document::near::nearest(&wanted, names.iter().copied().chain(short.iter().map(String::as_str)));
            let near = near.map(str::to_owned);
            let hint = near.map_or(listed, |near| format!("`{near}` is near"));
            Trouble::new(format!("there is no message `{wanted}` in `{named}`")).hint(hint)
        }),
        None => schema.only_message().ok_or_else(|| {
            Trouble::new(format!("`{named}` has several messages that documents may be"))
                .hint(format!("`--type NAME` says which: {listed}"))
        }),
    }
}

/// A file of rules, as JSON with its places.
fn rule_text(path: &Path) -> Result<RuleText, Trouble> {
    let name = path.display().to_string();
    let written =
        std::fs::read_to_string(path).map_err(|error| Trouble::file("cannot read the rules", path, &error))?;
    let extension = path.extension().and_then(|extension| extension.to_str()).unwrap_or("");
    let (json, places) = match extension {
        "toml" => toml::read(&written).map(|Reading { json, origins }| (json, origins.places().to_vec())),
        "yaml" | "yml" => match yaml::read(&written) {
            (_, Some(fault)) => Err(fault),
            (mut documents, None) => {
                let Reading { json, origins } = documents.pop().unwrap_or_default();
                Ok((json, origins.places().to_vec()))
            }
        },
        _ => Ok((written.clone(), Vec::new())),
    }
    .map_err(|fault| {
        let place = mervik_document::LineIndex::new(&written).place(&written, fault.span.start);
        Trouble::new(format!("the rules `{name}`, line {}, column {}: {}", place.line, place.column, fault.message))
    })?;
    Ok(RuleText { name, json, written, places })
}

/// Where a `.proto` may import from.
struct Imports {
    folders: Vec<PathBuf>,
    maps: Vec<(String, PathBuf)>,
    /// Whether folders were named.
    named: bool,
    language: LanguageOptions,
    /// Texts that take the place of those of files.
    changed: BTreeMap<String, String>,
}

impl Imports {
    /// The folders that are named; else that of the file and those above it, up to the project's or the current one.
    fn new(
        path: &Path,
        includes: &[PathBuf],
        options: &LanguageOptions,
        project: Option<&Project>,
    ) -> Result<Imports, Trouble> {
        let language =
            LanguageOptions { maps: options.maps.clone(), allowed: options.allowed.clone(), ..Default::default() };
        for dir in includes {
            if !dir.is_dir() {
                return Err(Trouble::new(format!("`--include {}`: there is no such folder", dir.display())));
            }
        }
        let mut folders = includes.to_vec();
        let named = !folders.is_empty();
        if !named {
            let here = std::env::current_dir().ok();
            let top = project.map(|project| project.folder().clone()).or(here).unwrap_or_default();
            let top = std::fs::canonicalize(top).unwrap_or_default();
            for folder in path.ancestors().skip(1) {
                let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
                folders.push(folder.to_owned());
                let found = std::fs::canonicalize(folder).unwrap_or_default();
                // The file's own folder always counts; those above only within the project.
                if found == top || !found.starts_with(&top) {
                    break;
                }
            }
        }
        let maps = options.maps.iter().filter_map(|map| map.split_once('='));
        let maps = maps.map(|(prefix, dir)| (prefix.to_owned(), PathBuf::from(dir))).collect();
        Ok(Imports { folders, maps, named, language, changed: BTreeMap::new() })
    }

    /// The name by which others import a file: its path from the folder that imports come from.
    fn own_name(&self, path: &Path) -> String {
        let within = self.folders.iter().filter(|_| self.named).find_map(|folder| path.strip_prefix(folder).ok());
        let name = within.or_else(|| path.file_name().map(Path::new)).unwrap_or(path);
        name.to_string_lossy().replace('\\', "/")
    }
}

impl Fetch for Imports {
    fn fetch(&mut self, import: &str) -> Result<Fetched, FetchError> {
        let mapped = self
            .maps
            .iter()
            .filter_map(|(prefix, dir)| Some(dir.join(import.strip_prefix(prefix.as_str())?.trim_start_matches('/'))));
        let mut candidates = mapped.chain(self.folders.iter().map(|folder| folder.join(import)));
        let Some(found) = candidates.find(|path| path.is_file()) else {
            let folders: Vec<String> = self.folders.iter().map(|folder| format!("`{}`", folder.display())).collect();
            return Err(FetchError {
                reason: format!("is in none of {}", folders.join(", ")),
                hint: Some("`--include DIR` says where imports are".to_owned()),
            });
        };
        let text = std::fs::read_to_string(&found)
            .map_err(|error| FetchError { reason: format!("cannot be read: {error}"), hint: None })?;
        let name = found.strip_prefix(".").unwrap_or(&found).display().to_string();
        let text = self.changed.get(&name).cloned().unwrap_or(text);
        Ok(Fetched { name, text })
    }

    fn json_schema(&mut self, named: &str, from: &str) -> Result<mervik_json_schema::Schema, FetchError> {
        if named.trim_start().starts_with('{') {
            return mervik_proto::inline_schema(named);
        }
        // Of a set, the files stand in brackets after its own name.
        let from = from.split(" (").next().unwrap_or(from);
        let beside = Path::new(from).parent().unwrap_or(Path::new("")).join(named);
        let refused = |reason: String| FetchError { reason: format!("`{named}` {reason}"), hint: None };
        if !beside.is_file() {
            return Err(refused(format!("is no file: there is no `{}`", beside.display())));
        }
        let path = beside.display().to_string();
        schema_files::load(&path, &self.language, None, |options| options, Paint::plain())
            .map_err(|trouble| refused(format!("cannot be used: {}", trouble.message())))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn schemas_are_told_apart_by_their_content() {
        let folder = tempfile::tempdir().unwrap();
        for (name, content, expected) in [
            ("a.proto", &b"syntax = \"proto3\";"[..], true),
            ("a", b"// note\n/* more */ edition = \"2023\";", true),
            ("b.txt", b"message M {}", true),
            ("c.yaml", b"enum: [a]", false),
            ("c", b"enum: [a]", false),
            ("d.json", b"{\"message\": 1}", false),
            ("d.proto", b"{\"type\": \"object\"}", false),
            ("e.xsd", b"<schema/>", false),
            ("f.proto", b"", true),
            ("f.json", b"", false),
            ("g.binpb", b"\x0a\x20\x0a\x07m.proto\x12\x01p\x22\x03\x0a\x01M", true),
            ("g.json", b"\n{\n  \"a.proto\": 1}", false),
            ("h.proto", "// ä\nsyntax = \"proto3\";".as_bytes(), true),
        ] {
            let path = folder.path().join(name);
            std::fs::write(&path, content).unwrap();
            assert_eq!(is_proto(&path.to_string_lossy(), None), expected, "{name}: {content:?}");
        }
        assert!(is_proto("gone.proto", None) && !is_proto("gone.json", None));
    }
}
