//! `mervik explain`: what a rule means and how to satisfy it.

mod pages;

use crate::help;
use crate::report::excerpt;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use mervik_document::{Severity, near};
use mervik_json_schema::vet::{Profile, RULES, VetRule};
use mervik_messages::rules::{CATALOGUE_RULES, CatalogueRule};
use mervik_proto::{RULE_DOCS, RuleDoc, SAYINGS, Saying};
use mervik_xsd::Explained;
use pages::Part;
use std::fmt::Write;

/// How wide the text is at most.
const MAX_WIDTH: usize = 100;

/// Runs the command.
pub(crate) fn run(id: Option<&str>, color: ColorChoice) -> Result<Status, Trouble> {
    let paint = Paint::for_stdout(color);
    let text = match id {
        None => list(paint),
        Some(id) => {
            // One name may be told of several things.
            let mut parts: Vec<String> = Vec::new();
            parts.extend(pages::finding(id).map(|says| of_finding(id, says, paint)));
            parts.extend(pages::directive(id).map(|section| of_directive(id, section, paint)));
            parts.extend(VetRule::find(id).map(|rule| explained(rule, paint)));
            parts.extend(CatalogueRule::find(id).map(|rule| of_catalogue(rule, paint)));
            parts.extend(mervik_xsd::explained(id).map(|xsd| of_xml_schema(xsd, paint)));
            parts.extend(RuleDoc::find(id).map(|rule| of_protobuf(rule, paint)));
            parts.extend(Saying::find(id).map(|saying| of_message(saying, paint)));
            if parts.is_empty() {
                let trouble = Trouble::new(format!("there is no rule `{id}`"));
                return Err(match near::nearest(id, names()) {
                    Some(near) => trouble.hint(format!("`{near}` is near")),
                    None => trouble.hint("`mervik explain` lists all that can be explained"),
                });
            }
            parts.join("\n")
        }
    };
    help::print(text.as_bytes())
}

/// All names that can be explained.
fn names() -> impl Iterator<Item = &'static str> {
    let vet = RULES.iter().map(|rule| rule.id).chain(CATALOGUE_RULES.iter().map(|rule| rule.id));
    let xsd = mervik_xsd::EXPLAINED.iter().map(|one| one.rule);
    let fields = RULE_DOCS.iter().map(|rule| rule.name).chain(SAYINGS.iter().map(|one| one.rule));
    let pages = pages::directives().chain(pages::findings()).map(|(name, _)| name);
    vet.chain(xsd).chain(fields).chain(pages)
}

fn list(paint: Paint) -> String {
    type Belongs = fn(&VetRule) -> bool;
    let groups: [(&str, Belongs); 4] = [
        ("what breaks the standard", |rule| rule.severity == Severity::Error),
        ("what is probably a mistake", |rule| rule.severity == Severity::Warning && rule.profile.is_none()),
        ("what could be better (told with `--hints`)", |rule| rule.severity == Severity::Hint),
        ("what `--profile model-output` asks for", |rule| rule.profile == Some(Profile::ModelOutput)),
    ];
    let mut text = String::new();
    for (title, belongs) in groups {
        let _ = writeln!(text, "{}", paint.tone(Tone::Place, title));
        for rule in RULES.iter().filter(|rule| belongs(rule)) {
            let _ = writeln!(text, "   {:<24}{}", rule.id, rule.title);
        }
        text.push('\n');
    }
    let _ = writeln!(text, "{}", paint.tone(Tone::Place, "what is wrong with catalogues of messages"));
    for rule in CATALOGUE_RULES {
        let _ = writeln!(text, "   {:<24}{}", rule.id, rule.title);
    }
    text.push('\n');
    for (title, all) in [
        ("directives: what Mervik adds to schemas", pages::directives().collect::<Vec<_>>()),
        (
            "findings of checks: the keywords of JSON Schema, and what holds for every document",
            pages::findings().collect(),
        ),
    ] {
        let _ = writeln!(text, "{}", paint.tone(Tone::Place, title));
        for (name, says) in all {
            let first = says.split([':', ';', '.', '(']).next().unwrap_or(says).trim();
            let _ = writeln!(text, "   {name:<24}{first}");
        }
        text.push('\n');
    }
    let _ = writeln!(text, "{}", paint.tone(Tone::Place, "XML Schema: rules of documents and of schemas, and advice"));
    for one in mervik_xsd::EXPLAINED {
        let _ = writeln!(text, "   {:<30}{}", one.rule, one.title);
    }
    text.push('\n');
    let _ = writeln!(text, "{}", paint.tone(Tone::Place, "protobuf: field rules, by what they are about"));
    for rule in RULE_DOCS {
        let asks = rule.asks.split(['.', ';', ':']).next().unwrap_or("");
        let _ = writeln!(text, "   {:<24}{asks}", rule.name);
    }
    text.push('\n');
    let _ = writeln!(
        text,
        "{}",
        paint.tone(Tone::Place, "protobuf: messages that are not well formed, and advice on a `.proto`")
    );
    for one in SAYINGS {
        let _ = writeln!(text, "   {:<24}{}", one.rule, one.title);
    }
    text.push('\n');
    text.push_str("`mervik explain RULE` tells more about one of them.\n");
    text
}

/// A rule of vetting: what it is, why, and an example without and with it.
fn of_vetting(
    (id, severity, title, why): (&str, Severity, &str, &str),
    [bad, good]: [&str; 2],
    paint: Paint,
) -> String {
    let tone = match severity {
        Severity::Error => Tone::Bad,
        Severity::Warning => Tone::Doubt,
        Severity::Hint => Tone::Help,
    };
    let mut text = String::new();
    let _ = writeln!(text, "{}   {}\n{title}\n", paint.tone(Tone::Place, id), paint.tone(tone, severity.word()));
    for line in wrapped(why, excerpt::line_width().min(MAX_WIDTH)) {
        let _ = writeln!(text, "{line}");
    }
    for (title, tone, example) in [("found in", Tone::Bad, bad), ("mended", Tone::Good, good)] {
        let _ = writeln!(text, "\n{}", paint.tone(tone, title));
        // What is not JSON is shown as it is.
        for line in ordered(example).as_deref().unwrap_or(example).lines() {
            let _ = writeln!(text, "   {line}");
        }
    }
    text
}

fn explained(rule: &VetRule, paint: Paint) -> String {
    let mut text = of_vetting((rule.id, rule.severity, rule.title, rule.why), [rule.bad, rule.good], paint);
    let call = if rule.profile.is_some() { " with `--profile model-output`" } else { "" };
    let _ = writeln!(
        text,
        "\nTold by `mervik vet`{call}. To silence it: `\"x-mervik\": {{ \"silence\": [\"{id}\"] }}` in the schema,\n\
         or `silence = [\"{id}\"]` under `[vet]` in `mervik.toml`.",
        id = rule.id
    );
    text
}

/// What is explained of a finding.
fn of_finding(name: &str, says: &str, paint: Paint) -> String {
    let mut text = String::new();
    let _ = writeln!(text, "{}   {}\n", paint.tone(Tone::Place, name), paint.tone(Tone::Quiet, "a finding of a check"));
    for line in wrapped(says, excerpt::line_width().min(MAX_WIDTH)) {
        let _ = writeln!(text, "{line}");
    }
    text
}

/// What is explained of a directive: its section, with paragraphs in lines of a sensible length.
fn of_directive(name: &str, section: &str, paint: Paint) -> String {
    let mut text = String::new();
    let _ = writeln!(text, "{}   {}\n", paint.tone(Tone::Place, name), paint.tone(Tone::Quiet, "a directive"));
    let width = excerpt::line_width().min(MAX_WIDTH);
    for part in pages::parts(section) {
        let _ = match part {
            Part::Language(language) => writeln!(text, "{}", paint.tone(Tone::Good, language)),
            Part::Code(line) => writeln!(text, "   {line}"),
            Part::Row(name, says) => {
                let mut lines = wrapped(&says, width.saturating_sub(CELL + 3)).into_iter();
                let first = lines.next().unwrap_or_default();
                let rest: String = lines.map(|line| format!("\n{:1$}{line}", "", CELL + 3)).collect();
                writeln!(text, "   {name:<CELL$}{first}{rest}")
            }
            Part::Paragraph(says) => writeln!(text, "{}", wrapped(&says, width).join("\n")),
        };
    }
    text
}

/// How wide the first cell of a table is.
const CELL: usize = 24;

/// What is explained of a rule for catalogues.
fn of_catalogue(rule: &CatalogueRule, paint: Paint) -> String {
    of_vetting((rule.id, rule.severity, rule.title, rule.why), [rule.bad, rule.good], paint)
}

/// What is explained of a rule of XML Schema.
fn of_xml_schema(one: &Explained, paint: Paint) -> String {
    let mut text = String::new();
    let _ = writeln!(
        text,
        "{}   {}\n{}\n",
        paint.tone(Tone::Place, one.rule),
        paint.tone(Tone::Quiet, "XML Schema"),
        one.title
    );
    for line in wrapped(one.why, excerpt::line_width().min(MAX_WIDTH)) {
        let _ = writeln!(text, "{line}");
    }
    text
}

/// What is explained of a field rule.
fn of_protobuf(rule: &RuleDoc, paint: Paint) -> String {
    let mut text = String::new();
    let _ =
        writeln!(text, "{}   {}", paint.tone(Tone::Place, rule.name), paint.tone(Tone::Quiet, "protobuf field rule"));
    let _ = writeln!(text, "For {}.\n", rule.on);
    for line in wrapped(format!("{} {}", rule.asks, rule.more).trim(), excerpt::line_width().min(MAX_WIDTH)) {
        let _ = writeln!(text, "{line}");
    }
    let _ = writeln!(text, "\n{}\n   {}", paint.tone(Tone::Quiet, "for example"), rule.example);
    let bad = if rule.bad.is_empty() { "(the empty message)" } else { rule.bad };
    let _ = writeln!(text, "\n{}\n   {}", paint.tone(Tone::Good, "holds"), rule.good);
    let _ = writeln!(text, "\n{}\n   {bad}\n   {}", paint.tone(Tone::Bad, "refused"), rule.finding.2);
    text
}

/// What is explained of the form of messages, and of advice.
fn of_message(one: &Saying, paint: Paint) -> String {
    let mut text = String::new();
    let kind = paint.tone(Tone::Quiet, "protobuf");
    let _ = writeln!(text, "{}   {kind}\n{}\n", paint.tone(Tone::Place, one.rule), one.title);
    for line in wrapped(one.why, excerpt::line_width().min(MAX_WIDTH)) {
        let _ = writeln!(text, "{line}");
    }
    text
}

/// A JSON text with a line break and an indent for each member and item of containers that do not fit a line.
fn ordered(text: &str) -> Option<String> {
    use mervik_document::{Document, Kind, Tape, Value, json};
    fn write(value: Value<'_>, indent: usize, out: &mut String) {
        let children = value.members().count() + value.items().count();
        if value.source().len() + indent <= 70 || children == 0 {
            out.push_str(value.source());
            return;
        }
        let (open, close) = if value.kind() == Kind::Object { ('{', '}') } else { ('[', ']') };
        out.push(open);
        let names = value.members().map(|member| (Some(member.name.as_value().source()), member.value));
        for (index, (name, value)) in names.chain(value.items().map(|item| (None, item))).enumerate() {
            let comma = if index > 0 { "," } else { "" };
            let _ = write!(out, "{comma}\n{:1$}", "", indent + 2);
            if let Some(name) = name {
                let _ = write!(out, "{name}: ");
            }
            write(value, indent + 2, out);
        }
        let _ = write!(out, "\n{:indent$}{close}", "");
    }
    let mut tape = Tape::new();
    json::read(text, &mut tape).ok()?;
    let mut out = String::new();
    write(Document::new(text, &tape).root(), 0, &mut out);
    Some(out)
}

/// `text` in lines of at most `width` characters.
fn wrapped(text: &str, width: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split(' ') {
        let Some(last) = lines.last_mut() else { continue };
        if !last.is_empty() && last.chars().count() + 1 + word.chars().count() > width {
            lines.push(word.to_owned());
        } else {
            if !last.is_empty() {
                last.push(' ');
            }
            last.push_str(word);
        }
    }
    lines
}
