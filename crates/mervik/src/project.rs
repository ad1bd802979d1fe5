//! The project file, `mervik.toml`: found in the current folder or the nearest one above it.

use crate::status::Trouble;
use mervik_document::{LineIndex, Place, near};
use mervik_json_schema::vet::{RULES, VetRule};
use std::ops::Range;
use std::path::{Path, PathBuf};
use toml_edit::{Document, Item};

/// The name of the project file.
pub(crate) const NAME: &str = "mervik.toml";

/// What a project file says.
#[derive(Debug, Default, PartialEq, Eq)]
pub(crate) struct Project {
    folder: PathBuf,
    /// The rules of `vet` that are not to be told: `silence` in the table `vet`.
    pub(crate) silence: Vec<String>,
}

impl Project {
    /// The project that the current folder is part of, if it is part of one.
    pub(crate) fn around() -> Result<Option<Project>, Trouble> {
        let Ok(here) = std::env::current_dir() else { return Ok(None) };
        let Some(path) = here.ancestors().map(|folder| folder.join(NAME)).find(|path| path.is_file()) else {
            return Ok(None);
        };
        let text = std::fs::read_to_string(&path)
            .map_err(|error| Trouble::file("cannot read the project file", &path, &error))?;
        let project = parse(&text).map_err(|wrong| {
            let Place { line, column } = wrong.place(&text);
            let name = path.strip_prefix(&here).unwrap_or(&path).display().to_string();
            let trouble = Trouble::new(format!("{name}:{line}:{column}: {}", wrong.message));
            match wrong.hint {
                Some(hint) => trouble.hint(hint),
                None => trouble,
            }
        })?;
        let folder = path.parent().unwrap_or(Path::new("")).to_owned();
        Ok(Some(Project { folder, ..project }))
    }

    /// The folder of the file. Schemas may refer to what lies in it.
    pub(crate) fn folder(&self) -> &PathBuf {
        &self.folder
    }
}

/// What is wrong with a project file.
#[derive(Debug)]
struct Wrong {
    span: Option<Range<usize>>,
    message: String,
    hint: Option<String>,
}

impl Wrong {
    fn place(&self, text: &str) -> Place {
        let start = self.span.as_ref().map_or(0, |span| span.start);
        LineIndex::new(text).place(text, u32::try_from(start).unwrap_or(u32::MAX))
    }
}

fn parse(text: &str) -> Result<Project, Wrong> {
    let document = Document::parse(text).map_err(|error| Wrong {
        span: error.span(),
        message: format!("not TOML: {}", error.message().lines().collect::<Vec<_>>().join(", ")),
        hint: None,
    })?;
    let mut project = Project::default();
    for (name, item) in document.as_table() {
        match name {
            "vet" => project.silence = vet(item)?,
            other => return Err(unknown(document.as_table().key(other).and_then(|key| key.span()), other, &["vet"])),
        }
    }
    Ok(project)
}

fn vet(item: &Item) -> Result<Vec<String>, Wrong> {
    let wrong = |item: &Item, message: &str| Wrong { span: item.span(), message: message.to_owned(), hint: None };
    let table = item.as_table_like().ok_or_else(|| wrong(item, "`vet` must be a table"))?;
    let mut silence = Vec::new();
    for (name, item) in table.iter() {
        if name != "silence" {
            return Err(unknown(table.key(name).and_then(|key| key.span()), name, &["silence"]));
        }
        let list = item.as_array().ok_or_else(|| wrong(item, "`silence` must be an array of rules"))?;
        for value in list {
            let id = value.as_str().ok_or_else(|| wrong(item, "`silence` must be an array of rules"))?;
            if VetRule::find(id).is_none() {
                let near = near::nearest(id, RULES.iter().map(|rule| rule.id));
                return Err(Wrong {
                    span: value.span(),
                    message: format!("`silence` names `{id}`, which is no rule of `vet`"),
                    hint: Some(
                        near.map_or("`mervik explain` lists the rules".to_owned(), |near| format!("`{near}` is near")),
                    ),
                });
            }
            silence.push(id.to_owned());
        }
    }
    Ok(silence)
}

fn unknown(span: Option<Range<usize>>, name: &str, known: &[&str]) -> Wrong {
    let hint = match near::nearest(name, known.iter().copied()) {
        Some(near) => format!("`{near}` is near"),
        None => format!("known are {}", known.iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ")),
    };
    Wrong { span, message: format!("the key `{name}` is not known"), hint: Some(hint) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_project_file_says_what_is_silenced() {
        let project = parse("# ours\n[vet]\nsilence = [\"open-object\", \"no-dialect\"]\n").unwrap();
        assert_eq!(project.silence, ["open-object", "no-dialect"]);
        assert_eq!(parse("").unwrap(), Project::default());
    }

    #[test]
    fn what_is_wrong_has_a_place_and_a_way_out() {
        // text, line, column, message, hint
        let table = [
            ("[vet\n", 1, 5, "not TOML", ""),
            ("[vte]\n", 1, 2, "the key `vte` is not known", "`vet` is near"),
            ("[vet]\nsilent = []\n", 2, 1, "the key `silent` is not known", "`silence` is near"),
            ("[vet]\ntide = []\n", 2, 1, "the key `tide` is not known", "known are `silence`"),
            ("vet = 7\n", 1, 7, "`vet` must be a table", ""),
            ("[vet]\nsilence = true\n", 2, 11, "`silence` must be an array", ""),
            ("[vet]\nsilence = [\"open-objekt\"]\n", 2, 12, "which is no rule of `vet`", "`open-object` is near"),
        ];
        for (text, line, column, message, hint) in table {
            let wrong = parse(text).unwrap_err();
            assert!(wrong.message.contains(message), "{text}: {wrong:?}");
            assert!(wrong.hint.as_deref().unwrap_or("").contains(hint), "{text}: {wrong:?}");
            assert_eq!(wrong.place(text), Place { line, column }, "{text}: {wrong:?}");
        }
    }
}
