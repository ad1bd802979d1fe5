//! Why a bad case must be refused: a file beside it that says so, a reason a line.
//!
//! `berth-too-deep.json.reason` says it of `berth-too-deep.json`. A line is the rule, and the place if it matters:
//! `maximum /ship/draught_m`; of a file of many records, the number of the record comes first: `3 required /stay`. What
//! follows `#` is for people.

use crate::status::Trouble;
use mervik_document::{Finding, near, pointer};
use std::fmt;
use std::path::{Path, PathBuf};

/// The rules that a reason may name.
pub(crate) struct Known {
    pub(crate) rules: Vec<String>,
    /// How others may begin that are known, too.
    pub(crate) prefix: Option<&'static str>,
    /// Whether places are paths of fields.
    pub(crate) paths: bool,
}

impl Known {
    fn has(&self, rule: &str) -> bool {
        self.rules.iter().any(|known| known == rule) || self.prefix.is_some_and(|prefix| rule.starts_with(prefix))
    }
}

/// What must be among the findings of a record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Reason {
    /// The record; the first when none is named.
    pub(crate) record: Option<u64>,
    pub(crate) rule: String,
    pub(crate) at: Option<String>,
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.at {
            Some(at) => write!(f, "`{}` at `{at}`", self.rule),
            None => write!(f, "`{}`", self.rule),
        }
    }
}

impl Reason {
    /// Whether a finding is the one that is meant.
    pub(crate) fn fits(&self, finding: &Finding) -> bool {
        // `cvc-complex-type.2.4` has the parts `.a`, `.b` and others.
        let part = finding.rule.strip_prefix(self.rule.as_str()).is_some_and(|rest| rest.starts_with('.'));
        (finding.rule == self.rule || part) && self.at.as_ref().is_none_or(|at| *at == finding.at)
    }

    /// The line that says it.
    pub(crate) fn line(&self) -> String {
        let record = self.record.map_or(String::new(), |record| format!("{record} "));
        let at = self.at.as_ref().map_or(String::new(), |at| format!(" {}", if at.is_empty() { "\"\"" } else { at }));
        format!("{record}{}{at}", self.rule)
    }
}

/// The file that says why a case must be refused.
pub(crate) fn path_of(case: &Path) -> PathBuf {
    let mut name = case.as_os_str().to_owned();
    name.push(".reason");
    name.into()
}

/// Reads the reasons of a case; none when nothing is said. `known` are the rules that there are.
///
/// # Errors
///
/// A line that says something else, with its number.
pub(crate) fn read(case: &Path, known: &Known) -> Result<Vec<Reason>, Trouble> {
    let path = path_of(case);
    if !path.exists() {
        return Ok(Vec::new());
    }
    let text = std::fs::read_to_string(&path).map_err(|error| Trouble::file("cannot read", &path, &error))?;
    let mut reasons = Vec::new();
    for (number, line) in (1..).zip(text.lines()) {
        let line = line.split(" #").next().unwrap_or("").trim();
        if line.is_empty() || line.starts_with('#') {
            continue;
        }
        let reason = parse(line, known).map_err(|(message, hint)| {
            let trouble = Trouble::new(format!("{}:{number}: {message}", path.display()));
            match hint {
                Some(hint) => trouble.hint(hint),
                None => trouble,
            }
        })?;
        reasons.push(reason);
    }
    Ok(reasons)
}

fn parse(line: &str, known: &Known) -> Result<Reason, (String, Option<String>)> {
    let mut words = line.split_whitespace().peekable();
    let record = words.next_if(|word| word.bytes().all(|byte| byte.is_ascii_digit()));
    let record = record.and_then(|word| word.parse().ok());
    let shape = "expected a rule, and a JSON Pointer or an XPath if the place matters: `maximum /ship/draught_m`";
    let Some(rule) = words.next().map(str::to_owned) else { return Err((shape.to_owned(), None)) };
    let at = words.next().map(|at| if at == "\"\"" { "" } else { at }.to_owned());
    if words.next().is_some() || at.as_ref().is_some_and(|at| !known.paths && !pointer::is_pointer(at)) {
        return Err((format!("{shape}, found `{line}`"), None));
    }
    if !known.has(&rule) {
        let near = near::nearest(&rule, known.rules.iter().map(String::as_str));
        let hint = near.map(|near| format!("`{near}` is near"));
        return Err((format!("no rule of the schema is called `{rule}`"), hint));
    }
    Ok(Reason { record, rule, at })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_say_which_rule_and_where() {
        let known = Known { rules: vec!["maximum".to_owned(), "required".to_owned()], prefix: None, paths: false };
        let table = [
            ("maximum", Some((None, "maximum", None))),
            ("maximum /ship/draught_m", Some((None, "maximum", Some("/ship/draught_m")))),
            ("3 required \"\"", Some((Some(3), "required", Some("")))),
            ("maximun", None),
            ("maximum ship", None),
            ("maximum /a b", None),
            ("3", None),
        ];
        for (line, expected) in table {
            let found = parse(line, &known);
            let found = found.as_ref().ok().map(|it| (it.record, it.rule.as_str(), it.at.as_deref()));
            assert_eq!(found, expected, "{line}");
            if let Ok(reason) = parse(line, &known) {
                assert_eq!(reason.line(), line);
            }
        }
        assert_eq!(parse("maximun", &known).unwrap_err().1.as_deref(), Some("`maximum` is near"));
    }
}
