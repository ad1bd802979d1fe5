//! What schemas and their catalogues say in place of Mervik's own messages, and the titles of fields.

use super::Words;
use crate::failure::{Detail, Failure};
use crate::labels::Label;
use crate::schema::{SchemaId, Test};
use mervik_document::{Finding, Kind, NodeId, Value, pointer, shown};
use mervik_messages::{ABSENT, ANY, Arguments, Candidate, Key, identifier};
use mervik_rules::Outcome;

/// What is filled in for a value that is not to be shown, in whatever language.
const HIDDEN: &str = "…";

/// How many values of one field are filled in.
const MAX_VALUES: usize = 8;

/// A schema that speaks of a place.
struct Site<'s> {
    file: usize,
    /// The name under which catalogues have it.
    key: Option<String>,
    label: Option<&'s Label>,
}

impl Words<'_> {
    /// Gives a finding the title of its field, and what was to be said instead of Mervik's own message. `finding.at` is known, as seen
    /// from where `start` applies.
    pub(super) fn own(&self, finding: &mut Finding, failure: Option<&Failure>, start: SchemaId) {
        let labels = &self.schema.labels;
        let rule = failure.and_then(|failure| Some((failure, self.schema.rule(failure.rule)?)));
        let has_own =
            rule.is_some_and(|(_, rule)| matches!(&rule.test, Test::Stated(stated) if stated.message.is_some()));
        if labels.is_empty() && self.schema.speaker.is_silent() && !has_own {
            return;
        }
        let path: Vec<String> = pointer::tokens(&finding.at).unwrap_or_default();
        let names = || path.iter().map(String::as_str);
        let applied = labels.at(self.schema, start, names());
        finding.title = self.title(&self.sites(&applied, path.last()));
        let Some((failure, rule)) = rule else { return };
        let name = finding.rule.to_string();
        let owner = self.schema.owner_of(failure.rule);
        let reaches =
            |id: &SchemaId| owner.is_some_and(|owner| labels.applied(self.schema, vec![*id]).contains(&owner));
        let saying: Vec<SchemaId> = applied.iter().copied().filter(reaches).collect();
        let mut sites = self.sites(&saying, path.last());
        let mut arguments = self.arguments(failure, &rule.test).text("place", finding.at.clone());
        let mut title = finding.title.clone().or_else(|| path.last().cloned());
        let mut candidates = Vec::new();
        let missing = match &failure.detail {
            Detail::Missing(missing) | Detail::MissingWith { missing, .. } => Some(missing.to_string()),
            _ => None,
        };
        let missing_sites = missing.as_ref().map(|missing| {
            let of = labels.step(self.schema, &applied, missing);
            title = self.title(&self.sites(&of, Some(missing))).or_else(|| Some(missing.clone()));
            self.sites(&of, Some(missing))
        });
        if let Some(missing) = &missing {
            arguments = arguments.text("missing", title.clone().unwrap_or_else(|| missing.clone()));
            let mut place = finding.at.clone();
            pointer::push_token(&mut place, missing);
            arguments = arguments.text("place", place);
        }
        // What must not be there is told by the object around it.
        let around = matches!(rule.test, Test::Never) || matches!(failure.detail, Detail::Unevaluated(_));
        if around && let Some((_, outer)) = path.split_last() {
            let outer_applied = labels.at(self.schema, start, outer.iter().map(String::as_str));
            sites.extend(self.sites(&outer_applied, outer.last()));
        }
        let arguments = arguments.text("title", title.unwrap_or_default());
        // That a rule has no answer is another thing than that it is broken.
        if matches!(failure.detail, Detail::Broken(Outcome::Trouble(_), _)) {
            return;
        }
        let file = rule.at.file.0 as usize;
        let rule_key = identifier(&name);
        if let Test::Stated(stated) = &rule.test {
            let key = rule_key.as_deref().map(|id| Key { id, attribute: None });
            candidates.push(Candidate { file, key, text: stated.message.as_ref() });
        }
        for (sites, name, attribute) in [
            (missing_sites.as_deref().unwrap_or_default(), name.as_str(), rule_key.as_deref()),
            (&sites, name.as_str(), rule_key.as_deref()),
            (&sites, ANY, Some(ANY)),
        ] {
            candidates.extend(sites.iter().map(|site| Candidate {
                file: site.file,
                key: site.key.as_deref().zip(attribute).map(|(id, attribute)| Key { id, attribute: Some(attribute) }),
                text: site.label.and_then(|label| label.text(name)),
            }));
        }
        if let Some(message) = self.schema.speaker.say(&candidates, &arguments) {
            finding.message = message;
        }
    }

    /// Schemas as those who speak of a place, and last the name that leads to it.
    fn sites(&self, applied: &[SchemaId], name: Option<&String>) -> Vec<Site<'_>> {
        let file = |id: SchemaId| self.schema.node(id).map_or(0, |node| node.at.file.0 as usize);
        let by_name = name.and_then(|name| identifier(name));
        let labelled = applied.iter().filter_map(|id| {
            let label = self.schema.labels.of(*id)?;
            Some(Site { file: file(*id), key: label.key.as_deref().map(str::to_owned), label: Some(label) })
        });
        let around = applied.first().map_or(0, |id| file(*id));
        labelled.chain(by_name.map(|key| Site { file: around, key: Some(key), label: None })).collect()
    }

    /// The title of a field: as a catalogue has it, else as the schema.
    fn title(&self, sites: &[Site<'_>]) -> Option<String> {
        let spoken: Vec<Candidate<'_>> = sites
            .iter()
            .filter_map(|site| {
                let key = Key { id: site.key.as_deref()?, attribute: None };
                Some(Candidate { file: site.file, key: Some(key), text: None })
            })
            .collect();
        let spoken = self.schema.speaker.say(&spoken, &Arguments::default());
        spoken.or_else(|| sites.iter().find_map(|site| site.label?.title.as_deref().map(str::to_owned)))
    }

    /// What is met, and what the limit is.
    fn arguments(&self, failure: &Failure, test: &Test) -> Arguments {
        let value = self.document.exactly(failure.value);
        let mut arguments = self.argument(Arguments::default(), "value", value);
        let number = |arguments: Arguments, bound: &dyn std::fmt::Display| arguments.number("limit", bound.to_string());
        arguments = match test {
            Test::Maximum(bound)
            | Test::ExclusiveMaximum(bound)
            | Test::Minimum(bound)
            | Test::ExclusiveMinimum(bound) => number(arguments, bound),
            Test::MultipleOf(by) => number(arguments, by),
            Test::MaxLength(bound)
            | Test::MinLength(bound)
            | Test::MaxItems(bound)
            | Test::MinItems(bound)
            | Test::MaxProperties(bound)
            | Test::MinProperties(bound) => number(arguments, bound),
            Test::Pattern(pattern) => arguments.text("limit", pattern.source()),
            Test::Format(format) => arguments.text("limit", format.name()),
            Test::OneOfValues(values) => {
                let each = values.all.iter().filter_map(|at| {
                    let file = self.schema.file(at.file)?;
                    Some(plain(file.document().value(at.node)))
                });
                arguments.text("limit", each.collect::<Vec<_>>().join(", "))
            }
            _ => arguments,
        };
        let count = match test {
            Test::MaxLength(_) | Test::MinLength(_) => value.as_str().map(|text| text.chars().count()),
            Test::MaxItems(_) | Test::MinItems(_) => Some(value.items().count()),
            Test::MaxProperties(_) | Test::MinProperties(_) => Some(value.members().count()),
            _ => None,
        };
        arguments = match count {
            Some(_) if self.is_hidden(value) => arguments.text("count", ABSENT),
            Some(count) => arguments.number("count", count.to_string()),
            None => arguments,
        };
        match (test, &failure.detail) {
            (Test::Stated(stated), Detail::Broken(_, reads)) => {
                let fields: Vec<String> = stated.conditions().flat_map(|condition| condition.spelled()).collect();
                let names = fields.iter().filter_map(|field| Some((identifier(field)?, field.as_str())));
                let arguments = names.fold(arguments, |all, (name, field)| self.field(all, &name, field, reads));
                let stands = stated.bound.iter().flat_map(|bound| bound.stands(&fields));
                stands.fold(arguments, |all, (name, stands)| match stands {
                    Ok(field) => self.field(all, name, field, reads),
                    Err(constant) => all.text(name, constant),
                })
            }
            _ => arguments,
        }
    }

    /// The values of a field that a rule has read.
    fn field(&self, arguments: Arguments, name: &str, field: &str, reads: &[(String, NodeId)]) -> Arguments {
        let mut values = reads.iter().filter(|(path, _)| path == field).map(|(_, node)| self.document.exactly(*node));
        match (values.next(), values.next()) {
            (None, _) => arguments.text(name, ABSENT),
            (Some(one), None) => self.argument(arguments, name, one),
            (Some(one), Some(two)) => {
                let mut all: Vec<String> =
                    [one, two].into_iter().chain(values).map(|value| self.spoken(value)).collect();
                if all.len() > MAX_VALUES {
                    all.truncate(MAX_VALUES);
                    all.push("…".to_owned());
                }
                arguments.text(name, all.join(", "))
            }
        }
    }

    fn argument(&self, arguments: Arguments, name: &str, value: Value<'_>) -> Arguments {
        match value.kind() {
            Kind::Number if !self.is_hidden(value) => arguments.number(name, value.source()),
            _ => arguments.text(name, self.spoken(value)),
        }
    }

    /// A value as people would say it: a text without its quotes.
    fn spoken(&self, value: Value<'_>) -> String {
        if self.is_hidden(value) { HIDDEN.to_owned() } else { plain(value) }
    }
}

fn plain(value: Value<'_>) -> String {
    value.as_str().map_or_else(|| shown::value(value), shown::text)
}
