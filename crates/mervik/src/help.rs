//! Help in the order in which people work, shell completions and manual pages: all made from the argument definitions.

use crate::args::Arguments;
use crate::language::Given;
use crate::status::{Status, Trouble};
use clap::{CommandFactory, FromArgMatches};
use clap_complete::Shell;
use std::fmt::Write as _;
use std::io::Write as _;

/// The commands in groups, in the order in which people work.
const GROUPS: &[(&str, &[&str])] = &[
    ("write", &["infer", "vet", "trial", "fit", "rules-proto"]),
    ("check", &["check", "coerce", "rescue", "prompt"]),
    ("evolve", &["compat", "release", "ledger"]),
    ("learn", &["explain", "demo", "completions", "man", "help"]),
];

/// Parses the command line.
pub(crate) fn parse() -> Result<Arguments, clap::Error> {
    let mut command = command();
    let matches = command.try_get_matches_from_mut(std::env::args_os())?;
    let mut arguments = Arguments::from_arg_matches(&matches).map_err(|error| error.format(&mut command))?;
    if let (Some(language), Some((name, matches))) = (arguments.command.language(), matches.subcommand()) {
        language.given = command.find_subcommand(name).map(|own| Given::of(own, matches)).unwrap_or_default();
    }
    Ok(arguments)
}

fn command() -> clap::Command {
    let mut command = Arguments::command();
    command.build();
    let groups = groups(&command);
    command.help_template(format!(
        "{{about-with-newline}}\n{{usage-heading}} {{usage}}\n\n{groups}\nOptions:\n{{options}}\n\n\
         `mervik help COMMAND` tells more about one of them.\n"
    ))
}

fn groups(command: &clap::Command) -> String {
    let mut text = String::new();
    for (group, names) in GROUPS {
        for (at, name) in names.iter().enumerate() {
            let about = command.find_subcommand(name).and_then(clap::Command::get_about);
            let about = about.map(ToString::to_string).unwrap_or_default();
            let _ = writeln!(text, "  {:<8}{name:<14}{about}", if at == 0 { group } else { "" });
        }
    }
    text
}

/// `mervik completions SHELL`.
pub(crate) fn completions(shell: Shell) -> Result<Status, Trouble> {
    let mut script = Vec::new();
    clap_complete::generate(shell, &mut Arguments::command(), "mervik", &mut script);
    print(&script)
}

/// `mervik man [COMMAND]`.
pub(crate) fn man(name: Option<&str>) -> Result<Status, Trouble> {
    let mut all = Arguments::command().disable_help_subcommand(true);
    all.build();
    let page = match name {
        None => all,
        Some(name) => match all.find_subcommand(name) {
            // A page is named after the whole call: mervik-check.
            Some(one) => one.clone().name(format!("mervik-{name}")),
            None => return Err(Trouble::new(format!("there is no command `{name}`"))),
        },
    };
    let mut roff = Vec::new();
    clap_mangen::Man::new(page)
        .render(&mut roff)
        .map_err(|error| Trouble::new(format!("cannot write the manual page: {error}")))?;
    print(&roff)
}

/// Writes bytes to standard output; a reader that went away has had enough.
pub(crate) fn print(bytes: &[u8]) -> Result<Status, Trouble> {
    match std::io::stdout().lock().write_all(bytes) {
        Ok(()) => Ok(Status::Holds),
        Err(error) if error.kind() == std::io::ErrorKind::BrokenPipe => Ok(Status::Holds),
        Err(error) => Err(Trouble::new(format!("cannot write to standard output: {error}"))),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    #[test]
    fn every_command_stands_in_one_group_and_has_help() {
        let command = command();
        let grouped: Vec<&str> = GROUPS.iter().flat_map(|(_, names)| names.iter().copied()).collect();
        let known: BTreeSet<&str> = command.get_subcommands().map(clap::Command::get_name).collect();
        assert_eq!(grouped.iter().copied().collect::<BTreeSet<_>>(), known);
        assert_eq!(grouped.len(), known.len());
        for one in command.get_subcommands() {
            assert!(one.get_about().is_some(), "{}", one.get_name());
            for argument in one.get_arguments() {
                assert!(argument.get_help().is_some(), "{} {}", one.get_name(), argument.get_id());
            }
        }
    }

    #[test]
    fn definitions_are_consistent() {
        Arguments::command().debug_assert();
    }
}
