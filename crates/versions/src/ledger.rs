//! The record of released versions: what stands in one, and whether it still holds.
//!
//! A release is a folder with the files of the schema and `release.toml`, which says what they are. Nothing here opens files.

use crate::{Promise, Scope};
use mervik_document::edit::quoted;
use semver::Version;
use serde::Deserialize;
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;
use std::fmt::Write;

/// The name of the file that says what a release is.
pub const RECORD: &str = "release.toml";

/// What is recorded of a release.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq)]
#[serde(deny_unknown_fields)]
pub struct Record {
    /// The schema's name.
    pub name: String,
    /// Its version.
    #[serde(deserialize_with = "parsed")]
    pub version: Version,
    /// The day of the release, as `2026-11-28`.
    pub date: String,
    /// What it promises to earlier versions.
    #[serde(deserialize_with = "parsed")]
    pub promise: Promise,
    /// Which earlier versions it promises that to.
    #[serde(deserialize_with = "parsed")]
    pub over: Scope,
    /// The file of the schema among the files.
    pub schema: String,
    /// What people want to say about it.
    #[serde(default)]
    pub notes: String,
    /// Breaks of the promise that were accepted, each with its reason.
    #[serde(default)]
    pub accepted: Vec<String>,
    /// The digest of all files together.
    pub hash: String,
    /// The digest of each file, by its path in the folder of the release.
    pub files: BTreeMap<String, String>,
}

fn parsed<'d, T, D>(deserializer: D) -> Result<T, D::Error>
where
    T: std::str::FromStr,
    T::Err: std::fmt::Display,
    D: serde::Deserializer<'d>,
{
    String::deserialize(deserializer)?.parse().map_err(serde::de::Error::custom)
}

/// Something that is wrong with a release.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Damage {
    /// A file is not there.
    Missing(String),
    /// A file is another one than was released.
    Changed(String),
    /// A file was not released.
    Added(String),
    /// The record itself is not the one that was written.
    Record(String),
}

impl Damage {
    /// What is wrong, as a phrase.
    pub fn message(&self) -> String {
        match self {
            Damage::Missing(path) => format!("`{path}` is missing"),
            Damage::Changed(path) => format!("`{path}` is not what was released"),
            Damage::Added(path) => format!("`{path}` was not released"),
            Damage::Record(why) => why.clone(),
        }
    }
}

impl Record {
    /// The record of some files, with their digests.
    pub fn of(self, files: &BTreeMap<String, Vec<u8>>) -> Record {
        let files: BTreeMap<String, String> = files.iter().map(|(path, bytes)| (path.clone(), digest(bytes))).collect();
        Record { hash: whole(&files), files, ..self }
    }

    /// The record as TOML.
    pub fn to_toml(&self) -> String {
        let mut out = String::new();
        let mut line = |key: &str, value: &str| {
            let _ = writeln!(out, "{key} = {}", quoted(value));
        };
        line("name", &self.name);
        line("version", &self.version.to_string());
        line("date", &self.date);
        line("promise", self.promise.word());
        line("over", self.over.word());
        line("schema", &self.schema);
        line("notes", &self.notes);
        line("hash", &self.hash);
        if !self.accepted.is_empty() {
            let all: Vec<String> = self.accepted.iter().map(|one| format!("  {},\n", quoted(one))).collect();
            let _ = write!(out, "accepted = [\n{}]\n", all.concat());
        }
        let _ = write!(out, "\n[files]\n");
        for (path, hash) in &self.files {
            let _ = writeln!(out, "{} = {}", quoted(path), quoted(hash));
        }
        out
    }

    /// What is wrong with the files of a release, by their paths in its folder; the record itself is not among them.
    pub fn damage(&self, files: &BTreeMap<String, Vec<u8>>) -> Vec<Damage> {
        let mut found = Vec::new();
        if self.hash != whole(&self.files) {
            found.push(Damage::Record(format!("`{RECORD}` was changed: its digests do not go with its hash")));
        }
        if !self.files.contains_key(&self.schema) {
            found.push(Damage::Record(format!("`{RECORD}` names `{}`, which is none of its files", self.schema)));
        }
        for (path, hash) in &self.files {
            match files.get(path) {
                None => found.push(Damage::Missing(path.clone())),
                Some(bytes) if digest(bytes) != *hash => found.push(Damage::Changed(path.clone())),
                Some(_) => {}
            }
        }
        found.extend(files.keys().filter(|path| !self.files.contains_key(*path)).cloned().map(Damage::Added));
        found
    }
}

/// The digest of bytes: SHA-256 (FIPS 180-4) in hexadecimal digits.
pub fn digest(bytes: &[u8]) -> String {
    let mut out = String::from("sha256:");
    for byte in Sha256::digest(bytes) {
        let _ = write!(out, "{byte:02x}");
    }
    out
}

/// One digest for all files: of their paths and digests, a line each.
fn whole(files: &BTreeMap<String, String>) -> String {
    let lines: String = files.iter().map(|(path, hash)| format!("{hash} {path}\n")).collect();
    digest(lines.as_bytes())
}

/// How a version differs from the one before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Change {
    /// It accepts the same.
    Same,
    /// It accepts more.
    More,
    /// It refuses what was accepted, or that is not known.
    Breaking,
}

/// The number of the next version (Semantic Versioning 2.0.0): what breaks users raises the first number that is not zero, what adds the
/// one after it. The first version is 1.0.0.
pub fn proposed(latest: Option<&Version>, change: Change) -> Version {
    let Some(latest) = latest else { return Version::new(1, 0, 0) };
    let (major, minor, patch) = (latest.major, latest.minor, latest.patch);
    match (change, major) {
        (Change::Breaking, 1..) => Version::new(major + 1, 0, 0),
        (Change::Breaking, 0) | (Change::More, 1..) => Version::new(major, minor + 1, 0),
        (Change::More, 0) | (Change::Same, _) => Version::new(major, minor, patch + 1),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn files(all: &[(&str, &str)]) -> BTreeMap<String, Vec<u8>> {
        all.iter().map(|(path, text)| ((*path).to_owned(), text.as_bytes().to_vec())).collect()
    }

    fn record() -> Record {
        let blank = Record {
            name: "berth-request".into(),
            version: Version::new(1, 2, 0),
            date: "2026-04-02".into(),
            promise: Promise::Full,
            over: Scope::All,
            schema: "a.schema.json".into(),
            notes: "says \"more\"\nthan before".into(),
            accepted: vec!["`remarks` is gone: nobody used it".into()],
            hash: String::new(),
            files: BTreeMap::new(),
        };
        blank.of(&files(&[("a.schema.json", "{}"), ("b.schema.json", "true")]))
    }

    #[test]
    fn damage_of_every_kind_is_found() {
        let record = record();
        type Case<'a> = (&'a [(&'a str, &'a str)], &'a [Damage]);
        let table: &[Case<'_>] = &[
            (&[("a.schema.json", "{}"), ("b.schema.json", "true")], &[]),
            (&[("a.schema.json", "{}")], &[Damage::Missing("b.schema.json".into())]),
            (&[("a.schema.json", "{ }"), ("b.schema.json", "true")], &[Damage::Changed("a.schema.json".into())]),
            (&[("a.schema.json", "{}"), ("b.schema.json", "true"), ("c", "")], &[Damage::Added("c".into())]),
        ];
        for (there, expected) in table {
            assert_eq!(record.damage(&files(there)), *expected);
        }
        let good = files(&[("a.schema.json", "{}"), ("b.schema.json", "true")]);
        let mut forged = record.clone();
        forged.files.insert("a.schema.json".into(), digest(b"[]"));
        assert!(matches!(forged.damage(&good)[..], [Damage::Record(_), Damage::Changed(_)]));
        let lost = Record { schema: "z".into(), ..record };
        assert!(matches!(lost.damage(&good)[..], [Damage::Record(_)]));
    }

    #[test]
    fn digests_are_those_of_the_standard() {
        assert_eq!(digest(b"abc"), "sha256:ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
    }

    #[test]
    fn records_are_toml() {
        let text = record().to_toml();
        assert!(text.contains("notes = \"says \\\"more\\\"\\nthan before\"\n"), "{text}");
        assert!(text.contains("\n[files]\n\"a.schema.json\" = \"sha256:"), "{text}");
        assert!(text.contains("accepted = [\n  \"`remarks` is gone: nobody used it\",\n]\n"), "{text}");
    }

    #[test]
    fn numbers_follow_semantic_versioning() {
        let table = [
            (None, Change::Breaking, "1.0.0"),
            (Some("1.2.3"), Change::Same, "1.2.4"),
            (Some("1.2.3"), Change::More, "1.3.0"),
            (Some("1.2.3"), Change::Breaking, "2.0.0"),
            (Some("0.2.3"), Change::More, "0.2.4"),
            (Some("0.2.3"), Change::Breaking, "0.3.0"),
        ];
        for (latest, change, expected) in table {
            let latest = latest.map(|latest| Version::parse(latest).unwrap());
            assert_eq!(proposed(latest.as_ref(), change).to_string(), expected);
        }
    }
}
