//! What the pages of the documentation tell of directives and findings.

/// The page of directives, a section for each.
const DIRECTIVES: &str = include_str!("../../../../docs/directives.md");

/// The page of findings, a row of a table for each.
const FINDINGS: &str = include_str!("../../../../docs/findings.md");

/// The names of the directives, in the order of their page, each with the first sentence about it.
pub(super) fn directives() -> impl Iterator<Item = (&'static str, &'static str)> {
    let sections = DIRECTIVES.split("\n## `").skip(1);
    sections.filter_map(|section| {
        let (name, rest) = section.split_once('`')?;
        let first = rest.trim_start().lines().next().unwrap_or("");
        Some((name, first.split_once(". ").map_or(first, |(sentence, _)| sentence)))
    })
}

/// The section of a directive, without its heading.
pub(super) fn directive(name: &str) -> Option<&'static str> {
    let sections = DIRECTIVES.split("\n## `").skip(1);
    let section = sections.filter_map(|section| section.split_once('`')).find(|(known, _)| *known == name)?.1;
    Some(section.split("\n# ").next().unwrap_or(section).trim())
}

/// A part of a section.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Part<'s> {
    /// Lines that belong together; an empty one is a line by itself.
    Paragraph(String),
    /// A row of a table: its first cell, and the others.
    Row(String, String),
    /// The language of the code that follows.
    Language(&'s str),
    /// A line of code.
    Code(&'s str),
}

/// The parts of a section, without the marks that are for pages alone.
pub(super) fn parts(section: &str) -> Vec<Part<'_>> {
    let mut parts = Vec::new();
    let mut code = false;
    for line in section.lines() {
        if let Some(language) = line.strip_prefix("```") {
            code = !code;
            if code {
                parts.push(Part::Language(language));
            }
        } else if code {
            parts.push(Part::Code(line));
        } else if let Some(row) = line.strip_prefix("| ") {
            let mut cells = row.trim_end_matches('|').split(" | ").map(str::trim);
            let first = cells.next().unwrap_or("").to_owned();
            parts.push(Part::Row(first, cells.collect::<Vec<_>>().join("; ")));
        } else if line.starts_with("|--") {
            // The line under the head of a table.
        } else {
            let line = unlinked(line);
            match parts.last_mut() {
                Some(Part::Paragraph(before)) if !before.is_empty() && !line.is_empty() && !line.starts_with('-') => {
                    before.push(' ');
                    before.push_str(&line);
                }
                _ => parts.push(Part::Paragraph(line)),
            }
        }
    }
    parts
}

/// A line without the targets of its links.
fn unlinked(line: &str) -> String {
    let mut out = String::new();
    let mut rest = line;
    while let Some((before, link)) = rest.split_once('[') {
        let Some((text, after)) = link.split_once("](") else { break };
        let Some((_, after)) = after.split_once(')') else { break };
        out.push_str(before);
        out.push_str(text);
        rest = after;
    }
    out.push_str(rest);
    out
}

/// The names of findings, in the order of their page, each with what is said of it.
pub(super) fn findings() -> impl Iterator<Item = (&'static str, &'static str)> {
    let rows = FINDINGS.lines().filter_map(|line| line.strip_prefix("| `"));
    rows.filter_map(|row| {
        let (name, says) = row.split_once("` | ")?;
        Some((name, says.trim_end_matches(" |")))
    })
}

/// What is said of a finding.
pub(super) fn finding(name: &str) -> Option<&'static str> {
    findings().find(|(known, _)| *known == name).map(|(_, says)| says)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_directive_and_finding_is_told() {
        let names: Vec<&str> = directives().map(|(name, _)| name).collect();
        assert_eq!(names, ["rules", "sets", "messages", "key", "title", "aliases", "clean", "parse", "silence"]);
        for name in names {
            let section = directive(name).unwrap();
            for language in ["```json", "```xml", "```proto"] {
                assert!(section.contains(language), "{name}: {section}");
            }
        }
        assert_eq!(
            parts("A [page](x.md)\ngoes on.\n\n| a | b | c |\n|---|---|---|\n```json\n{}\n```"),
            [
                Part::Paragraph("A page goes on.".to_owned()),
                Part::Paragraph(String::new()),
                Part::Row("a".to_owned(), "b; c".to_owned()),
                Part::Language("json"),
                Part::Code("{}"),
            ]
        );
        // The names that the finding itself knows are all there.
        let source = include_str!("../../../document/src/finding.rs");
        for line in source.lines().filter_map(|line| line.trim().strip_prefix("pub const ")) {
            let (_, name) = line.split_once('"').unwrap();
            assert!(finding(name.trim_end_matches("\";")).is_some(), "{line}");
        }
        assert!(finding("maximum").is_some() && finding("maximun").is_none());
    }
}
