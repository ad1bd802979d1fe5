//! The languages of schemas, and which options of a call mean something for which of them.
//!
//! An option that a language has no use for is refused, not passed over: who gives it believes that it does something.

use crate::project::Project;
use crate::status::Trouble;
use crate::{proto_files, xsd_files};
use clap::ArgMatches;
use clap::parser::ValueSource;

/// The language of a schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Language {
    Json,
    Xsd,
    Proto,
}

impl Language {
    /// The language of the schema that a name or path leads to.
    pub(crate) fn of(named: &str, project: Option<&Project>) -> Language {
        match (proto_files::is_proto(named, project), xsd_files::is_xsd(named, project)) {
            (true, _) => Language::Proto,
            (false, true) => Language::Xsd,
            (false, false) => Language::Json,
        }
    }

    fn documents(self) -> &'static str {
        match self {
            Language::Json => "JSON Schema",
            Language::Xsd => "XML Schema",
            Language::Proto => "protobuf messages",
        }
    }
}

/// The command of a call, and the options that it was given.
#[derive(Clone, Debug, Default)]
pub(crate) struct Given {
    command: String,
    options: Vec<String>,
}

/// Options that some languages have no use for.
struct Odd {
    options: &'static [&'static str],
    /// The commands of which this is so; all of them when none is named.
    commands: &'static [&'static str],
    languages: &'static [Language],
    /// The way out.
    hint: &'static str,
}

use Language::{Json, Proto, Xsd};

#[rustfmt::skip]
const ODD: &[Odd] = &[
    Odd { options: &["at"], commands: &[], languages: &[Xsd],
        hint: "it leads with a JSON Pointer; `check --records PATH` takes elements of XML documents one by one" },
    Odd { options: &["at"], commands: &[], languages: &[Proto],
        hint: "it leads with a JSON Pointer, which messages do not have; `--type NAME` names another message" },
    Odd { options: &["records"], commands: &[], languages: &[Proto],
        hint: "`--as protobuf-stream` or `--as ndjson` reads one message after the other" },
    Odd { options: &["records"], commands: &["coerce", "trial", "fit", "infer"], languages: &[Xsd],
        hint: "`mervik check --records PATH` takes elements of XML documents one by one" },
    Odd { options: &["unique", "in-list", "not-in-list"], commands: &[], languages: &[Xsd],
        hint: "it leads with a JSON Pointer; `xs:unique` and `xs:key` compare parts of XML documents" },
    Odd { options: &["unique", "in-list", "not-in-list"], commands: &[], languages: &[Proto],
        hint: "it leads with a JSON Pointer; `unique_items` and rules for items say the same of lists in the `.proto`" },
    Odd { options: &["delimiter", "quote", "prefix", "environment"], commands: &[], languages: &[Xsd, Proto],
        hint: "tables and variables are read by JSON Schemas" },
    Odd { options: &["environment"], commands: &["trial", "fit", "infer"], languages: &[Json],
        hint: "documents in files are taken; `mervik check --environment` checks the variables of the process" },
    Odd { options: &["dialect"], commands: &[], languages: &[Xsd, Proto], hint: "dialects are those of JSON Schema" },
    Odd { options: &["dialect", "formats", "content", "map", "allow-path", "now", "language", "direction"],
        commands: &["infer"], languages: &[Json], hint: "it says how the schema of `--into` is read" },
    Odd { options: &["map", "allow-path", "now", "language", "direction", "formats", "content"],
        commands: &["infer"], languages: &[Xsd], hint: "samples in XML are read without a schema" },
    Odd { options: &["now", "language"], commands: &["infer"], languages: &[Proto],
        hint: "samples are taken as they are: no rule is asked" },
    Odd { options: &["formats", "content"], commands: &[], languages: &[Xsd],
        hint: "it is about keywords of JSON Schema; what a type says of a text always refuses" },
    Odd { options: &["formats", "content"], commands: &[], languages: &[Proto],
        hint: "it is about keywords of JSON Schema; the field rule `format` always refuses" },
    Odd { options: &["direction"], commands: &[], languages: &[Xsd],
        hint: "no XML Schema says which way documents go" },
    Odd { options: &["direction"], commands: &["vet", "compat"], languages: &[Json, Proto],
        hint: "it says which way documents go, and here are none" },
    Odd { options: &["now"], commands: &["vet", "prompt"], languages: &[Json, Xsd, Proto],
        hint: "it is asked for documents, and here are none" },
    Odd { options: &["language"], commands: &["vet", "compat", "fit", "prompt"], languages: &[Json, Xsd, Proto],
        hint: "what this command says is said in English; `check`, `coerce` and `rescue` speak other languages" },
    Odd { options: &["include", "rules"], commands: &[], languages: &[Json, Xsd],
        hint: "it is for schemas in `.proto`" },
    Odd { options: &["service", "types-only", "encoding", "max-depth"], commands: &[], languages: &[Json, Xsd],
        hint: "it is for messages of a `.proto`" },
    Odd { options: &["type"], commands: &[], languages: &[Json],
        hint: "`--schema PATH#POINTER` names a part of a JSON Schema" },
    Odd { options: &["unknown"], commands: &["check"], languages: &[Json],
        hint: "`additionalProperties` says it in a JSON Schema; `mervik coerce` has the option for all" },
    Odd { options: &["unknown"], commands: &["check"], languages: &[Xsd],
        hint: "an XML Schema says itself what may come besides, with `xs:any`" },
    Odd { options: &["allow-dtd"], commands: &[], languages: &[Json, Proto], hint: "it is for documents in XML" },
    Odd { options: &["warn"], commands: &[], languages: &[Xsd, Proto],
        hint: "`deprecated` is a keyword of JSON Schema" },
    Odd { options: &["all-branches"], commands: &[], languages: &[Xsd, Proto],
        hint: "it is for `anyOf` and `oneOf` of JSON Schemas" },
    Odd { options: &["keep-valid-parts"], commands: &["coerce"], languages: &[Xsd, Proto],
        hint: "it takes away properties, which a JSON Schema describes one by one" },
    Odd { options: &["original-names"], commands: &["coerce"], languages: &[Json, Xsd],
        hint: "it is for messages of a `.proto`" },
    Odd { options: &["into"], commands: &["infer"], languages: &[Xsd, Proto], hint: "it adds to a JSON Schema" },
    Odd { options: &["closed"], commands: &["infer"], languages: &[Xsd],
        hint: "an XML Schema lets in nothing that it does not name" },
    Odd { options: &["closed"], commands: &["infer"], languages: &[Proto],
        hint: "`--unknown refuse` of a check keeps out fields that a message does not have" },
    Odd { options: &["view"], commands: &["compat"], languages: &[Json, Xsd], hint: "it is for schemas in `.proto`" },
    Odd { options: &["profile", "fix"], commands: &["vet"], languages: &[Xsd, Proto], hint: "it is for JSON Schemas" },
    Odd { options: &["ask", "partial", "field"], commands: &["rescue"], languages: &[Xsd],
        hint: "documents in XML are taken out of whole replies" },
];

impl Given {
    /// The options of a subcommand that stand on the command line.
    pub(crate) fn of(command: &clap::Command, matches: &ArgMatches) -> Self {
        let is_given =
            |argument: &&clap::Arg| matches.value_source(argument.get_id().as_str()) == Some(ValueSource::CommandLine);
        let options = command.get_arguments().filter(is_given).filter_map(clap::Arg::get_long);
        Given { command: command.get_name().to_owned(), options: options.map(str::to_owned).collect() }
    }

    /// Refuses options that mean nothing for any of the languages of the schemas of a call.
    ///
    /// # Errors
    ///
    /// The option, and the way out.
    pub(crate) fn meant_for(&self, languages: &[Language]) -> Result<(), Trouble> {
        for option in &self.options {
            let odd = |language: &Language| odd(&self.command, option, *language);
            let Some(first) = languages.first().copied() else { return Ok(()) };
            if let Some(hint) = odd(&first).filter(|_| languages.iter().all(|language| odd(language).is_some())) {
                let message = format!("`--{option}` has no meaning for {}", first.documents());
                return Err(Trouble::new(message).hint(hint));
            }
        }
        Ok(())
    }

    pub(crate) fn has(&self, option: &str) -> bool {
        self.options.iter().any(|given| given == option)
    }
}

/// Why an option of a command means nothing for a language, if so.
fn odd(command: &str, option: &str, language: Language) -> Option<&'static str> {
    let is = |odd: &&Odd| {
        odd.options.contains(&option)
            && odd.languages.contains(&language)
            && (odd.commands.is_empty() || odd.commands.contains(&command))
    };
    ODD.iter().find(is).map(|odd| odd.hint)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::args::Arguments;
    use clap::CommandFactory;

    #[test]
    fn every_option_of_the_table_is_one_of_its_commands() {
        let all = Arguments::command();
        for odd in ODD {
            for option in odd.options {
                let takes = |command: &clap::Command| {
                    command.get_arguments().any(|argument| argument.get_long() == Some(option))
                };
                match odd.commands {
                    [] => assert!(all.get_subcommands().any(takes), "{option}"),
                    named => {
                        for name in named {
                            assert!(takes(all.find_subcommand(name).unwrap()), "{name} --{option}");
                        }
                    }
                }
            }
        }
    }

    #[test]
    fn of_several_languages_one_that_takes_an_option_is_enough() {
        let given = Given { command: "check".to_owned(), options: vec!["allow-dtd".to_owned()] };
        assert!(given.meant_for(&[Json, Xsd]).is_ok() && given.meant_for(&[]).is_ok());
        assert!(given.meant_for(&[Json, Proto]).is_err());
    }
}
