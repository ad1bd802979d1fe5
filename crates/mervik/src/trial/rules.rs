//! What a trial asks of a schema, in whatever language it is.

use super::reason::Known;
use crate::args::InputOptions;
use crate::check::{Judged, xml_input, xml_judged};
use crate::records;
use crate::report::excerpt;
use crate::status::Trouble;
use mervik_document::finding::rule;
use mervik_json_schema::{Clause, Schema};
use mervik_trial::{Broken, break_alone, break_alone_xml, file_name};
use mervik_xsd::Options;
use std::path::Path;

/// A schema whose cases are run.
pub(crate) trait Rules {
    /// The rules that a reason may name.
    fn known(&self) -> Known;

    /// What is said of each record of a case's file; `None` of one that holds.
    ///
    /// # Errors
    ///
    /// A file that cannot be read.
    fn judged(&self, path: &Path, input: &InputOptions) -> Result<Vec<Option<Judged>>, Trouble>;

    /// The records of a case's file as the schema's language has them, and the lines on which they start.
    ///
    /// # Errors
    ///
    /// A file that cannot be read.
    fn texts(&self, path: &Path, input: &InputOptions) -> Result<Vec<(u64, String)>, Trouble>;

    /// A good case with a slip that one rule alone refuses.
    fn broken(&self, clause: &Clause, text: &str) -> Option<Broken>;

    /// A name for the file of a case that breaks a rule, without its extension, and the extension.
    fn case_name(&self, clause: &Clause) -> (String, &'static str);
}

impl Rules for Schema {
    fn known(&self) -> Known {
        let mut rules: Vec<String> = self.clauses().into_iter().map(|clause| clause.rule).collect();
        rules.extend([rule::SYNTAX, rule::DUPLICATE_NAME, rule::ENCODING, rule::ROW_LENGTH].map(str::to_owned));
        Known { rules, prefix: None }
    }

    fn judged(&self, path: &Path, input: &InputOptions) -> Result<Vec<Option<Judged>>, Trouble> {
        records::judged(self, path, input)
    }

    fn texts(&self, path: &Path, input: &InputOptions) -> Result<Vec<(u64, String)>, Trouble> {
        records::texts(self, path, input)
    }

    fn broken(&self, clause: &Clause, text: &str) -> Option<Broken> {
        break_alone(self, clause, text)
    }

    fn case_name(&self, clause: &Clause) -> (String, &'static str) {
        (file_name(clause), "json")
    }
}

impl Rules for mervik_xsd::Schema {
    fn known(&self) -> Known {
        let rules = [rule::SYNTAX, rule::ENCODING, rule::NAMESPACE, rule::ENTITY, rule::NESTING, rule::SIZE];
        let clauses = self.clauses().into_iter().map(|clause| clause.rule.to_owned());
        // A clause of the standard has parts that a finding names more exactly.
        Known { rules: clauses.chain(rules.map(str::to_owned)).collect(), prefix: Some("cvc-") }
    }

    fn judged(&self, path: &Path, _input: &InputOptions) -> Result<Vec<Option<Judged>>, Trouble> {
        let failed = |error: std::io::Error| Trouble::file("cannot read", path, &error);
        let found = mervik_xsd::check(self, xml_input(path).map_err(failed)?, &Options::default()).map_err(failed)?;
        let judged = (!found.is_empty()).then(|| xml_judged(found, false, Some(excerpt::width())));
        Ok(vec![judged])
    }

    fn texts(&self, path: &Path, _input: &InputOptions) -> Result<Vec<(u64, String)>, Trouble> {
        let mut bytes = Vec::new();
        let read = xml_input(path).and_then(|mut input| std::io::Read::read_to_end(&mut input, &mut bytes));
        read.map_err(|error| Trouble::file("cannot read", path, &error))?;
        Ok(vec![(1, mervik_xml::text(&bytes).unwrap_or_default())])
    }

    fn broken(&self, clause: &Clause, text: &str) -> Option<Broken> {
        break_alone_xml(self, &clause.place, text)
    }

    fn case_name(&self, clause: &Clause) -> (String, &'static str) {
        let short = clause.rule.trim_start_matches("cvc-").trim_end_matches("-valid");
        let here = self.clauses().into_iter().find(|known| known.place == clause.place);
        let about = here.map_or("document".to_owned(), |here| here.about);
        let name: String = format!("{about}-{short}")
            .chars()
            .map(|c| if c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.') { c } else { '-' })
            .take(60)
            .collect();
        (name.trim_matches(['-', '.']).to_owned(), "xml")
    }
}

/// The rules of an XML Schema, as coverage counts them.
pub(super) fn xml_clauses(schema: &mervik_xsd::Schema) -> Vec<Clause> {
    let clause =
        |clause: mervik_xsd::Clause| Clause { rule: clause.rule.to_owned(), place: clause.place, value: clause.says };
    schema.clauses().into_iter().map(clause).collect()
}
