//! XML Schemas: which calls are about one, and where its documents come from.

use crate::args::{FormatName, LanguageOptions};
use crate::catalogues;
use crate::project::Project;
use crate::report::vetting::Told;
use crate::schema_files::{self, Folders};
use crate::status::Trouble;
use crate::style::Paint;
use mervik_document::tongue::Tongue;
use mervik_xsd::{Compiled, Fetch, FetchError, Fetched, Remark, Schema};
use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};

/// How many bytes of a file tell its language.
const HEAD: u64 = 256;

/// Whether a name of a schema leads to an XML Schema: by its content, then by its extension.
pub(crate) fn is_xsd(named: &str, project: Option<&Project>) -> bool {
    let (path, _) = schema_files::split_fragment(named);
    let entry = project.and_then(|project| Some((project, project.schema(path.to_str()?)?)));
    let path = entry.map_or(path, |(project, entry)| project.path(Path::new(&entry.path)));
    let mut head = Vec::new();
    let read = File::open(&path).and_then(|file| file.take(HEAD).read_to_end(&mut head));
    // What starts with a tag is XML, in whatever encoding.
    let first = head.iter().find(|byte| byte.is_ascii_graphic());
    match (read, first) {
        (Ok(_), Some(first)) => *first == b'<',
        _ => path.extension().is_some_and(|extension| extension == "xsd"),
    }
}

/// An XML Schema with all that there is to say about it, or what makes its text no XML; and the name that people know it by.
///
/// # Errors
///
/// A file that cannot be read.
pub(crate) fn read(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
) -> Result<(String, Result<Compiled, Told>), Trouble> {
    let (path, mut folders) = schema_files::located(named, options, project)?;
    let name = path.display().to_string();
    let found = std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot read the schema", &path, &error))?;
    let text = text_at(&path).map_err(Trouble::new)?;
    let compiled = mervik_xsd::compile(&name, &schema_files::file_uri(&found), text, &mut folders);
    let compiled = compiled.map_err(|fault| {
        Told::from(Remark {
            rule: fault.rule,
            severity: mervik_document::Severity::Error,
            source: name.as_str().into(),
            at: String::new(),
            place: fault.place,
            line_text: fault.line.as_str().into(),
            width: fault.width,
            message: fault.message(Tongue::English),
            hint: fault.hint.as_ref().map(ToString::to_string),
        })
    });
    Ok((name, compiled))
}

/// Reads and compiles the XML Schema that `--schema` names.
///
/// # Errors
///
/// A file that cannot be read, and a schema that breaks its standard.
pub(crate) fn load(
    named: &str,
    options: &LanguageOptions,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Schema, Trouble> {
    let (name, compiled) = read(named, options, project)?;
    let compiled = compiled.map_err(|told| schema_files::no_schema(&name, [told].iter(), paint))?;
    let schema = usable(&name, compiled, paint)?;
    let Some(languages) = options.languages.as_deref() else { return Ok(schema) };
    let files: Vec<PathBuf> = schema.sources().map(PathBuf::from).collect();
    let speaker = catalogues::speaker(catalogues::chain(languages)?, &files, paint)?;
    Ok(schema.spoken_by(speaker))
}

fn usable(name: &str, compiled: Compiled, paint: Paint) -> Result<Schema, Trouble> {
    if !compiled.is_broken() {
        return Ok(compiled.schema);
    }
    let errors = compiled.remarks.into_iter().filter(|remark| remark.severity == mervik_document::Severity::Error);
    let errors: Vec<Told> = errors.map(Told::from).collect();
    Err(schema_files::no_schema(name, errors.iter(), paint))
}

/// The schema that an XML document itself points to (`xsi:schemaLocation`, `xsi:noNamespaceSchemaLocation`); `None` when it
/// points to none.
///
/// # Errors
///
/// What it points to is no schema that can be used.
pub(crate) fn hinted(
    document: &Path,
    options: &LanguageOptions,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Option<Schema>, Trouble> {
    let Ok(file) = File::open(document) else { return Ok(None) };
    let hints = mervik_xsd::hints(file);
    if hints.is_empty() {
        return Ok(None);
    }
    let (path, mut folders) = schema_files::located(&document.display().to_string(), options, project)?;
    let found = std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot read", &path, &error))?;
    let name = format!("what {} points to", path.display());
    let text = mervik_xsd::schema_of_hints(&hints);
    let compiled = mervik_xsd::compile(&name, &schema_files::file_uri(&found), text, &mut folders);
    let compiled = compiled.map_err(|fault| Trouble::new(fault.message(Tongue::English)))?;
    let schema = usable(&name, compiled, paint)?;
    if schema.roots().is_empty() {
        let places: Vec<String> = hints.iter().map(|(_, location)| format!("`{location}`")).collect();
        let message = format!("`{}` points to {}, which cannot be had", document.display(), places.join(" and "));
        return Err(Trouble::new(message).hint("`--map PREFIX=DIR` says where it lies, `--schema` names another one"));
    }
    Ok(Some(schema))
}

/// Refuses a format that documents of XML Schemas are not read in.
///
/// # Errors
///
/// A format that is not XML.
pub(crate) fn refuse_other_formats(format: Option<FormatName>) -> Result<(), Trouble> {
    match format {
        None | Some(FormatName::Xml) => Ok(()),
        Some(_) => Err(Trouble::new("`--as`: documents in that format are not checked by an XML Schema")
            .hint("a document is XML; `mervik coerce` reads the JSON form that `--to json` writes, too")),
    }
}

/// How documents are checked by a call that has these options.
///
/// # Errors
///
/// A `--now` that is no moment.
pub(crate) fn check_options(language: &LanguageOptions, root: Option<&str>) -> Result<mervik_xsd::Options, Trouble> {
    let now = schema_files::now(language)?;
    Ok(mervik_xsd::Options { now, root: root.map(str::to_owned), ..mervik_xsd::Options::default() })
}

/// The text of an XML file, whatever its encoding.
pub(crate) fn text_at(path: &Path) -> Result<String, String> {
    let bytes = std::fs::read(path).map_err(|error| format!("cannot read the schema `{}`: {error}", path.display()))?;
    mervik_xml::text(&bytes).map_err(|fault| {
        format!("the schema `{}`, line {}: {}", path.display(), fault.place.line, fault.message(Tongue::English))
    })
}

/// A text whose declaration names another encoding, with UTF-8 in its place: so it is written.
pub(crate) fn as_utf8(text: String) -> String {
    let declaration =
        text.strip_prefix("<?xml").and_then(|rest| rest.split_once("?>")).map_or("", |(inside, _)| inside);
    let Some(at) = declaration.find("encoding") else { return text };
    let value = declaration.get(at + "encoding".len()..).unwrap_or("");
    let Some(quote) = value.find(['"', '\'']) else { return text };
    let start = "<?xml".len() + at + "encoding".len() + quote + 1;
    let Some(length) = text.get(start..).and_then(|rest| rest.find(['"', '\''])) else { return text };
    let label = text.get(start..start + length).unwrap_or("");
    if label.eq_ignore_ascii_case("utf-8") {
        return text;
    }
    format!("{}UTF-8{}", text.get(..start).unwrap_or(""), text.get(start + length..).unwrap_or(""))
}

impl Fetch for Folders {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        let refused = |(reason, hint): (String, Option<String>)| FetchError { reason, hint };
        let found: PathBuf = self.locate(uri).map_err(refused)?;
        let text = text_at(&found).map_err(|reason| FetchError { reason, hint: None })?;
        Ok(Fetched { name: self.name_of(&found), text, uri: schema_files::file_uri(&found) })
    }
}
