//! What a trial asks of a schema, in whatever language it is.

use super::reason::Known;
use crate::args::{InputOptions, MessageOptions};
use crate::check::proto::{self, Telling};
use crate::check::{Judged, XmlTelling, xml_input};
use crate::proto_input::{self, Form};
use crate::records;
use crate::report::excerpt;
use crate::status::Trouble;
use mervik_document::finding::rule;
use mervik_json_schema::{Clause, Schema};
use mervik_proto::{Checker, RULE_DOCS};
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
        Known { rules, prefix: None, paths: false }
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

/// An XML Schema, and how cases are checked by it.
pub(crate) struct Documents {
    pub(crate) schema: mervik_xsd::Schema,
    pub(crate) options: Options,
}

impl Documents {
    /// The rules as coverage counts them.
    pub(super) fn clauses(&self) -> Vec<Clause> {
        let clause = |clause: mervik_xsd::Clause| Clause {
            rule: clause.rule.into_owned(),
            place: clause.place,
            value: clause.says,
        };
        self.schema.clauses().into_iter().map(clause).collect()
    }
}

impl Rules for Documents {
    fn known(&self) -> Known {
        let rules = [rule::SYNTAX, rule::ENCODING, rule::NAMESPACE, rule::ENTITY, rule::NESTING, rule::SIZE];
        let clauses = self.clauses().into_iter().map(|clause| clause.rule);
        // A clause of the standard has parts that a finding names more exactly.
        Known { rules: clauses.chain(rules.map(str::to_owned)).collect(), prefix: Some("cvc-"), paths: false }
    }

    fn judged(&self, path: &Path, input: &InputOptions) -> Result<Vec<Option<Judged>>, Trouble> {
        let failed = |error: std::io::Error| Trouble::file("cannot read", path, &error);
        let Documents { schema, options } = self;
        let found =
            mervik_xsd::check(schema, xml_input(path, input.format).map_err(failed)?, options).map_err(failed)?;
        let telling = XmlTelling { redact: false, tongue: schema.tongue(), width: Some(excerpt::width()) };
        let judged = (!found.is_empty()).then(|| telling.judged(found));
        Ok(vec![judged])
    }

    fn texts(&self, path: &Path, input: &InputOptions) -> Result<Vec<(u64, String)>, Trouble> {
        let mut bytes = Vec::new();
        let read =
            xml_input(path, input.format).and_then(|mut input| std::io::Read::read_to_end(&mut input, &mut bytes));
        read.map_err(|error| Trouble::file("cannot read", path, &error))?;
        Ok(vec![(1, mervik_xml::text(&bytes).unwrap_or_default())])
    }

    fn broken(&self, clause: &Clause, text: &str) -> Option<Broken> {
        break_alone_xml(&self.schema, &clause.place, text)
    }

    fn case_name(&self, clause: &Clause) -> (String, &'static str) {
        let short = clause.rule.trim_start_matches("cvc-").trim_end_matches("-valid");
        let here = self.schema.clauses().into_iter().find(|known| known.place == clause.place);
        let about = here.map_or("document".to_owned(), |here| here.about);
        let name: String = format!("{about}-{short}")
            .chars()
            .map(|c| if c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.') { c } else { '-' })
            .take(60)
            .collect();
        (name.trim_matches(['-', '.']).to_owned(), "xml")
    }
}

/// A `.proto`, and which of its messages cases are.
pub(crate) struct Messages {
    pub(crate) schema: mervik_proto::Schema,
    pub(crate) message: mervik_proto::MessageId,
    pub(crate) options: mervik_proto::Options,
    pub(crate) how: MessageOptions,
}

impl Messages {
    fn checker(&self) -> Checker<'_> {
        Checker::new(&self.schema, self.message, self.options)
    }

    /// The rules as coverage counts them.
    pub(super) fn clauses(&self) -> Vec<Clause> {
        let clause =
            |clause: mervik_proto::Clause| Clause { rule: clause.rule, place: clause.place, value: clause.says };
        self.schema.clauses(self.message).into_iter().map(clause).collect()
    }
}

impl Rules for Messages {
    fn known(&self) -> Known {
        use mervik_proto::message_rule as form;
        let mut rules: Vec<String> = RULE_DOCS.iter().map(|rule| rule.name.to_owned()).collect();
        // Those between fields have names of their own.
        rules.extend(self.clauses().into_iter().map(|clause| clause.rule));
        let of_form = [
            rule::SYNTAX,
            rule::ENCODING,
            rule::NESTING,
            rule::SIZE,
            rule::DUPLICATE_NAME,
            form::TRUNCATED,
            form::VARINT,
            form::WIRE_TYPE,
            form::FIELD_NUMBER,
            form::LENGTH,
            form::GROUP,
            form::UNKNOWN_FIELD,
            form::TYPE,
            form::RANGE,
            form::ENUM_VALUE,
            form::TWICE,
            form::FRAME,
            form::TIME,
        ];
        rules.extend(of_form.map(str::to_owned));
        Known { rules, prefix: None, paths: true }
    }

    fn judged(&self, path: &Path, input: &InputOptions) -> Result<Vec<Option<Judged>>, Trouble> {
        let telling = Telling { width: Some(excerpt::width()), ..Telling::PLAIN };
        let checker = self.checker();
        let pieces = proto_input::pieces(path, input.format, &self.how)?;
        Ok(pieces.iter().map(|piece| telling.piece(&checker, piece)).collect())
    }

    fn texts(&self, path: &Path, input: &InputOptions) -> Result<Vec<(u64, String)>, Trouble> {
        let checker = self.checker();
        let pieces = proto_input::pieces(path, input.format, &self.how)?;
        let texts = pieces.iter().map(|piece| {
            let line = if piece.form == Form::Binary { 1 } else { piece.before + 1 };
            (line, proto::with_message(&checker, piece, |read| read.to_text()).unwrap_or_default())
        });
        Ok(texts.collect())
    }

    fn broken(&self, clause: &Clause, text: &str) -> Option<Broken> {
        let clause =
            mervik_proto::Clause { rule: clause.rule.clone(), place: clause.place.clone(), says: clause.value.clone() };
        let slip = mervik_proto::slip(&self.schema, self.message, &clause, text, &self.options)?;
        Some(Broken { size: slip.text.len().abs_diff(text.len()), text: slip.text, at: slip.at })
    }

    fn case_name(&self, clause: &Clause) -> (String, &'static str) {
        // The field and the rule; of sets the name of the set.
        let (of, way) = clause.place.at.split_once('/').unwrap_or((&clause.place.at, &clause.rule));
        let name = of.rsplit('.').next().unwrap_or(of).to_lowercase();
        let plain = format!("{name}-{way}").replace(['_', '/'], "-");
        (plain, "txtpb")
    }
}
