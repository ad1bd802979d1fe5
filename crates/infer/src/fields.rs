//! Field rules for protobuf messages, drafted from samples: a file of rules that stands beside a `.proto`.

use crate::draft::{Rule, rounded, rounded_up};
use crate::evidence::{Context, Seen};
use crate::strings::Strings;
use crate::{Bounds, Settings};
use mervik_document::edit::quoted;
use std::collections::{BTreeMap, HashSet};
use std::fmt::Write;

/// Where the rules of a field's values stand.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Within {
    /// They are the field's own.
    #[default]
    Field,
    /// Under `items`.
    Items,
    /// Under `values`.
    Values,
}

#[derive(Debug, Default)]
struct Field {
    within: Within,
    /// Messages that were seen, and those in which the field was set.
    messages: u64,
    set: u64,
    first_without: Option<Seen>,
    most_items: u64,
    texts: Strings,
    bytes: Option<(u64, u64)>,
    numbers: u64,
    least: f64,
    most: f64,
    /// Numbers that are infinite or NaN, and the first.
    odd: u64,
    first_odd: Option<Seen>,
    enums: u64,
    undefined: u64,
    first_undefined: Option<(Seen, String)>,
}

/// What was seen of the fields of messages, by their full names.
#[derive(Debug, Default)]
pub struct FieldEvidence {
    fields: BTreeMap<String, Field>,
}

impl FieldEvidence {
    /// Nothing seen yet.
    pub fn new() -> FieldEvidence {
        FieldEvidence::default()
    }

    fn of(&mut self, field: &str) -> &mut Field {
        if !self.fields.contains_key(field) {
            self.fields.insert(field.to_owned(), Field::default());
        }
        self.fields.entry(field.to_owned()).or_default()
    }

    /// A message was seen that may have a field, and has `count` values of it.
    pub fn count(&mut self, field: &str, within: Within, count: u64, seen: Seen) {
        let known = self.of(field);
        known.within = within;
        known.messages += 1;
        known.set += u64::from(count > 0);
        known.most_items = known.most_items.max(count);
        if count == 0 {
            known.first_without.get_or_insert(seen);
        }
    }

    /// A text was seen.
    pub fn text(&mut self, field: &str, text: &str, seen: Seen) {
        self.of(field).texts.add(text, Context { seen, text_only: false, elsewhere: None });
    }

    /// So many bytes were seen.
    pub fn bytes(&mut self, field: &str, length: u64) {
        let known = &mut self.of(field).bytes;
        let (least, most) = known.unwrap_or((length, length));
        *known = Some((least.min(length), most.max(length)));
    }

    /// A number was seen.
    pub fn number(&mut self, field: &str, number: f64, seen: Seen) {
        let known = self.of(field);
        if !number.is_finite() {
            known.odd += 1;
            known.first_odd.get_or_insert(seen);
            return;
        }
        let first = known.numbers == 0;
        known.least = if first { number } else { known.least.min(number) };
        known.most = if first { number } else { known.most.max(number) };
        known.numbers += 1;
    }

    /// An enum value was seen, by name or number, which the enum defines or not.
    pub fn enum_value(&mut self, field: &str, name: &str, defined: bool, seen: Seen) {
        let known = self.of(field);
        known.enums += 1;
        if !defined {
            known.undefined += 1;
            known.first_undefined.get_or_insert_with(|| (seen, name.to_owned()));
        }
    }
}

/// A file of rules, and what stands behind each.
#[derive(Clone, Debug, PartialEq)]
pub struct DraftedFields {
    /// TOML, for `--rules`.
    pub text: String,
    /// The evidence, in the order of the file.
    pub rules: Vec<Rule>,
}

/// Drafts rules of what was seen. Rules in `known` (`package.Message.field/rule`) are there already and are left out.
pub fn draft_fields(evidence: &FieldEvidence, settings: &Settings, known: &HashSet<String>) -> DraftedFields {
    let mut drafted = DraftedFields { text: String::new(), rules: Vec::new() };
    for (name, field) in &evidence.fields {
        let mut drafting =
            Drafting { name, field, settings, known, lines: Vec::new(), inner: Vec::new(), rules: Vec::new() };
        drafting.all();
        let Drafting { lines, inner, rules, .. } = drafting;
        drafted.rules.extend(rules);
        if lines.is_empty() && inner.is_empty() {
            continue;
        }
        let _ = writeln!(drafted.text, "\n[fields.{}]", quoted(name));
        for (rule, value, note) in lines {
            let _ = writeln!(drafted.text, "{rule} = {value} # {note}");
        }
        let part = match field.within {
            Within::Items => "items",
            _ => "values",
        };
        for (rule, value, note) in inner {
            let _ = writeln!(drafted.text, "{part}.{rule} = {value} # {note}");
        }
    }
    drafted
}

type Line = (&'static str, String, String);

struct Drafting<'d> {
    name: &'d str,
    field: &'d Field,
    settings: &'d Settings,
    known: &'d HashSet<String>,
    /// Rules of the field, and those of its items or values: name, value, evidence.
    lines: Vec<Line>,
    inner: Vec<Line>,
    rules: Vec<Rule>,
}

impl Drafting<'_> {
    fn all(&mut self) {
        let (field, settings) = (self.field, self.settings);
        let enough = field.messages >= settings.format_from;
        if field.messages > 0 && enough {
            let always = field.set == field.messages;
            let against = field.first_without.map(|seen| ("not set".to_owned(), seen));
            // What is set in nearly all messages is worth a remark.
            if always || field.set * 10 >= field.messages * 9 {
                let what = (field.set, field.messages);
                self.say("required", "true", what, always, against, false);
            }
        }
        if field.within != Within::Field && settings.bounds != Bounds::None && field.set > 0 {
            let most = match settings.bounds {
                Bounds::Rounded => rounded_up(field.most_items),
                _ => field.most_items,
            };
            self.say("max_items", &most.to_string(), (field.set, field.set), true, None, false);
        }
        self.texts();
        if field.enums > 0 {
            let against = field.first_undefined.as_ref().map(|(seen, name)| (name.clone(), *seen));
            let agree = (field.enums - field.undefined, field.enums);
            self.say("defined", "true", agree, field.undefined == 0, against, true);
        }
        if field.odd + field.numbers > 0 {
            let against = field.first_odd.map(|seen| ("infinite or NaN".to_owned(), seen));
            self.numbers(against);
        }
        if let Some((least, most)) = field.bytes.filter(|_| settings.bounds != Bounds::None) {
            let all = (field.set, field.set);
            let (least, most) = match settings.bounds {
                Bounds::Rounded => (least.min(1), rounded_up(most)),
                _ => (least, most),
            };
            if least > 0 {
                self.say("min_bytes", &least.to_string(), all, true, None, true);
            }
            self.say("max_bytes", &most.to_string(), all, true, None, true);
        }
    }

    fn texts(&mut self) {
        let (texts, settings) = (&self.field.texts, self.settings);
        if texts.count == 0 {
            return;
        }
        let all = (texts.count, texts.count);
        if let Some(format) = texts.format(settings) {
            // What has a format has its lengths from there.
            return self.say("format", &quoted(format), all, true, None, true);
        } else if let Some(near) = texts.nearly() {
            let (seen, text) = near.first_without;
            let against = Some((quoted(text), *seen));
            self.say("format", &quoted(near.format), (near.have, texts.count), false, against, true);
        } else if let Some(values) = texts.list(settings) {
            let listed: Vec<String> = values.into_iter().map(quoted).collect();
            return self.say("enum", &format!("[{}]", listed.join(", ")), all, true, None, true);
        }
        let (shortest, longest) = (texts.shortest as u64, texts.longest as u64);
        let (least, most) = match settings.bounds {
            Bounds::None => return,
            Bounds::Observed => (shortest, longest),
            Bounds::Rounded => (shortest.min(1), rounded_up(longest)),
        };
        if least > 0 {
            self.say("min_length", &least.to_string(), all, true, None, true);
        }
        self.say("max_length", &most.to_string(), all, true, None, true);
    }

    fn numbers(&mut self, odd: Option<(String, Seen)>) {
        let field = self.field;
        let count = field.numbers + field.odd;
        if let Some(odd) = odd {
            self.say("finite", "true", (field.numbers, count), false, Some(odd), true);
            return;
        }
        let (least, most) = match self.settings.bounds {
            Bounds::None => return,
            Bounds::Observed => (field.least.to_string(), field.most.to_string()),
            Bounds::Rounded => (rounded(field.least, -1.0), rounded(field.most, 1.0)),
        };
        self.say("minimum", &least, (count, count), true, None, true);
        self.say("maximum", &most, (count, count), true, None, true);
    }

    /// A rule that is stated, or why it is not.
    fn say(
        &mut self,
        rule: &'static str,
        value: &str,
        (behind, of): (u64, u64),
        stated: bool,
        against: Option<(String, Seen)>,
        of_value: bool,
    ) {
        let part = match (of_value, self.field.within) {
            (false, _) | (_, Within::Field) => "",
            (_, Within::Items) => "items/",
            (_, Within::Values) => "values/",
        };
        if self.known.contains(&format!("{}/{part}{rule}", self.name)) {
            return;
        }
        let says = value.to_owned();
        let at = self.name.to_owned();
        self.rules.push(Rule { at, keyword: rule, says, behind, of, stated, against });
        if stated {
            let note = match of_value {
                true => format!("{behind} of {of} values"),
                false => format!("{behind} of {of} messages"),
            };
            let lines = if part.is_empty() { &mut self.lines } else { &mut self.inner };
            lines.push((rule, value.to_owned(), note));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seen(line: u64) -> Seen {
        Seen { sample: 0, line }
    }

    fn evidence() -> FieldEvidence {
        let mut evidence = FieldEvidence::new();
        for line in 1..=20 {
            evidence.count("h.M.id", Within::Field, 1, seen(line));
            evidence.text("h.M.id", &format!("7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f{line:02}"), seen(line));
            evidence.count("h.M.note", Within::Field, u64::from(line != 7), seen(line));
            evidence.text("h.M.note", &format!("line {line} is slack"), seen(line));
            evidence.count("h.M.side", Within::Field, u64::from(line % 2 == 0), seen(line));
            evidence.text("h.M.side", if line % 2 == 0 { "port" } else { "starboard" }, seen(line));
            evidence.count("h.M.loads", Within::Items, line % 4, seen(line));
            evidence.number("h.M.loads", line as f64 * 7.5, seen(line));
            evidence.number("h.M.wind", if line == 9 { f64::NAN } else { 3.0 }, seen(line));
            evidence.enum_value("h.M.kind", if line == 5 { "9" } else { "BOW" }, line != 5, seen(line));
            evidence.bytes("h.M.raw", line);
        }
        evidence
    }

    #[test]
    fn rules_are_drafted_with_their_evidence() {
        let drafted = draft_fields(&evidence(), &Settings::default(), &HashSet::new());
        assert_eq!(
            drafted.text,
            "\n[fields.\"h.M.id\"]\nrequired = true # 20 of 20 messages\nformat = \"uuid\" # 20 of 20 values\n\
             \n[fields.\"h.M.side\"]\nenum = [\"port\", \"starboard\"] # 20 of 20 values\n"
        );
        let against: Vec<(String, &str, Option<u64>)> = drafted
            .rules
            .iter()
            .filter(|rule| !rule.stated)
            .map(|rule| (rule.at.clone(), rule.keyword, rule.against.as_ref().map(|(_, seen)| seen.line)))
            .collect();
        assert_eq!(
            against,
            [
                ("h.M.kind".to_owned(), "defined", Some(5)),
                ("h.M.note".to_owned(), "required", Some(7)),
                ("h.M.wind".to_owned(), "finite", Some(9))
            ]
        );
    }

    #[test]
    fn bounds_are_for_those_who_ask_and_known_rules_are_left_out() {
        let settings = Settings { bounds: Bounds::Rounded, ..Settings::default() };
        let known: HashSet<String> =
            ["h.M.id/required", "h.M.id/format", "h.M.loads/items/maximum"].map(str::to_owned).into();
        let drafted = draft_fields(&evidence(), &settings, &known);
        assert!(
            drafted.text.contains(
                "[fields.\"h.M.loads\"]\nmax_items = 5 # 15 of 15 messages\nitems.minimum = 0 # 20 of 20 values\n"
            ),
            "{}",
            drafted.text
        );
        assert!(!drafted.text.contains("uuid") && !drafted.text.contains("items.maximum"), "{}", drafted.text);
        assert!(drafted.text.contains("[fields.\"h.M.raw\"]\nmin_bytes = 1"), "{}", drafted.text);
        let observed = Settings { bounds: Bounds::Observed, ..Settings::default() };
        let drafted = draft_fields(&evidence(), &observed, &HashSet::new());
        assert!(drafted.text.contains("items.maximum = 150 #"), "{}", drafted.text);
        // Free text is no list of values, however few samples there are.
        let mut evidence = FieldEvidence::new();
        for line in 1..=30 {
            evidence.text("h.M.remark", ["all is well", "wind from the east", "fog"][line as usize % 3], seen(line));
        }
        assert_eq!(draft_fields(&evidence, &Settings::default(), &HashSet::new()).text, "");
    }
}
