//! Catalogues of messages: files of Fluent beside the schema's, one for each language.
//!
//! Those of `tow-plan.schema.json` are `tow-plan.de.ftl`, `tow-plan.es.ftl`, and so on.

use crate::args::LanguageOptions;
use crate::report::vetting::Told;
use crate::schema_files::unusable;
use crate::status::Trouble;
use crate::style::Paint;
use mervik_document::tongue::Tongue;
use mervik_document::{LineIndex, Span, near};
use mervik_messages::rules::{self, CatalogueRule};
use mervik_messages::{Catalogue, Fault, Known, Language, Languages, Remark, Speaker, Wrong, review};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// How many messages are named that a language lacks.
const MAX_LACKING: usize = 8;

/// What the files of catalogues end with.
const EXTENSION: &str = "ftl";

/// The languages that `--language` names.
///
/// # Errors
///
/// What is no tag of a language.
pub(crate) fn chain(text: &str) -> Result<Languages, Trouble> {
    Languages::parse(text).map_err(|part| {
        Trouble::new(format!("`--language` names `{part}`, which is no language"))
            .hint("languages are named by their tags, the one that is wanted most first: `de-CH,fr`")
    })
}

/// The language that Mervik speaks itself, of those that `--language` names; what is wrong with the option is told elsewhere.
pub(crate) fn tongue(options: &LanguageOptions) -> Tongue {
    let languages = options.languages.as_deref().and_then(|text| Languages::parse(text).ok());
    languages.map_or(Tongue::English, |languages| languages.tongue())
}

/// The catalogues of a schema's file, with their languages; none where its folder cannot be listed.
pub(crate) fn beside(schema: &Path) -> Vec<(Language, PathBuf)> {
    let name = schema.file_name().and_then(|name| name.to_str()).unwrap_or("");
    let stem = name.split('.').next().unwrap_or(name);
    let folder = match schema.parent() {
        Some(folder) if folder != Path::new("") => folder,
        _ => Path::new("."),
    };
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    let mut found: Vec<(Language, PathBuf)> = entries
        .filter_map(|entry| {
            let name = entry.file_name();
            let tag =
                name.to_str()?.strip_prefix(stem)?.strip_prefix('.')?.strip_suffix(EXTENSION)?.strip_suffix('.')?;
            Some((Language::parse(tag)?, schema.with_file_name(&name)))
        })
        .collect();
    found.sort_by(|(_, one), (_, other)| one.cmp(other));
    found
}

/// Who speaks the languages of a chain about a schema that was read from these files.
///
/// # Errors
///
/// A catalogue that cannot be read, or that has faults; only those are read that the chain asks for.
pub(crate) fn speaker(languages: Languages, files: &[PathBuf], paint: Paint) -> Result<Speaker, Trouble> {
    let mut all = Vec::new();
    for file in files {
        let mut own = Vec::new();
        for (language, path) in beside(file) {
            if languages.iter().any(|wanted| *wanted == language) {
                let text = std::fs::read_to_string(&path)
                    .map_err(|error| Trouble::file("cannot read the catalogue", &path, &error))?;
                let (catalogue, faults) = Catalogue::parse(language, path.clone(), &text);
                if !faults.is_empty() {
                    let faults = faults.into_iter();
                    let told: Vec<Told> = faults
                        .map(|Fault { span, message, hint }| {
                            remark(&rules::BAD_CATALOGUE, &path, &text, span, message, hint)
                        })
                        .collect();
                    return Err(unusable("catalogue", &path.display().to_string(), told.iter(), paint));
                }
                own.push(catalogue);
            }
        }
        all.push(own);
    }
    Ok(Speaker::new(languages, all))
}

/// What there is to say about the catalogues beside a schema's file: `known` are the messages that they may have.
///
/// # Errors
///
/// A catalogue that cannot be read.
pub(crate) fn vetted(schema: &Path, known: &BTreeMap<String, Known>) -> Result<Vec<Told>, Trouble> {
    let mut told = Vec::new();
    let (mut catalogues, mut texts) = (Vec::new(), Vec::new());
    for (language, path) in beside(schema) {
        let text = std::fs::read_to_string(&path)
            .map_err(|error| Trouble::file("cannot read the catalogue", &path, &error))?;
        let (catalogue, faults) = Catalogue::parse(language, path.clone(), &text);
        let faults = faults.into_iter();
        told.extend(
            faults
                .map(|Fault { span, message, hint }| remark(&rules::BAD_CATALOGUE, &path, &text, span, message, hint)),
        );
        catalogues.push(catalogue);
        texts.push((path, text));
    }
    for Remark { catalogue, span, wrong } in review(known, &catalogues) {
        let Some((path, text)) = texts.get(catalogue) else { continue };
        let near = |name: &str| format!("`{name}` is near");
        let (rule, message, hint) = match wrong {
            Wrong::Placeholder(name, filled) => {
                let hint = near::nearest(&name, filled.iter().map(String::as_str)).map(near);
                let all: Vec<String> = filled.iter().map(|name| format!("`{name}`")).collect();
                let all = if all.is_empty() {
                    "nothing is filled in here".to_owned()
                } else {
                    format!("here is {}", all.join(", "))
                };
                (
                    &rules::STRANGE_PLACEHOLDER,
                    format!("there is nothing to fill in for `{name}`"),
                    Some(hint.unwrap_or(all)),
                )
            }
            Wrong::Key(name, close) => {
                (&rules::UNASKED_MESSAGE, format!("nobody asks for the message `{name}`"), close.as_deref().map(near))
            }
            Wrong::Lacks(names) => {
                let all: Vec<String> = names.iter().take(MAX_LACKING).map(|name| format!("`{name}`")).collect();
                let more = names.len().saturating_sub(MAX_LACKING);
                let more = if more > 0 { format!(" and {more} more") } else { String::new() };
                (&rules::LACKING_MESSAGE, format!("other languages have {}{more}", all.join(", ")), None)
            }
        };
        told.push(remark(rule, path, text, span, message, hint));
    }
    Ok(told)
}

fn remark(
    rule: &'static CatalogueRule,
    path: &Path,
    text: &str,
    span: Span,
    message: String,
    hint: Option<String>,
) -> Told {
    let lines = LineIndex::new(text);
    let (line, _) = lines.line(text, span.start);
    let meant = text.get(span.start as usize..span.end as usize).unwrap_or("");
    Told {
        rule: Cow::Borrowed(rule.id),
        severity: rule.severity,
        source: path.display().to_string().into(),
        at: String::new(),
        place: lines.place(text, span.start),
        line_text: line.into(),
        width: meant.chars().count().max(1) as u32,
        message,
        hint,
        fix: None,
    }
}
