//! The `mervik` program: arguments, files, rendering. What is computed is computed in the library crates.

mod args;
mod catalogues;
mod check;
mod coerce;
mod compat;
mod demo;
mod explain;
mod files;
mod fit;
mod help;
mod infer;
mod input;
mod language;
mod ledger;
mod phrases;
mod progress;
mod project;
mod prompt;
mod proto_files;
mod proto_input;
mod records;
mod release;
mod report;
mod rescue;
mod rules_proto;
mod schema_files;
mod sources;
mod status;
mod style;
mod trial;
mod vet;
mod watch;
mod xsd_files;

use args::{Arguments, Command};
use status::{Status, Trouble};
use std::process::ExitCode;

fn main() -> ExitCode {
    let arguments = match help::parse() {
        Ok(arguments) => arguments,
        Err(error) => {
            // Help and version go to standard output with status 0, misuse to standard error with status 2.
            let _ = error.print();
            return ExitCode::from(u8::try_from(error.exit_code()).unwrap_or(2));
        }
    };
    let choice = arguments.color;
    // Checks may nest deeper than the first thread's stack has room for.
    let stack = mervik_json_schema::Checker::STACK;
    let run = std::thread::Builder::new().stack_size(stack).spawn(move || run(arguments));
    let outcome = match run.map(std::thread::JoinHandle::join) {
        Ok(Ok(outcome)) => outcome,
        Ok(Err(_)) => return ExitCode::from(101),
        Err(error) => Err(Trouble::new(format!("cannot start a thread: {error}"))),
    };
    match outcome {
        Ok(status) => status.into(),
        Err(trouble) => {
            trouble.print(style::Paint::for_stderr(choice));
            Status::NoQuestion.into()
        }
    }
}

fn run(arguments: Arguments) -> Result<Status, Trouble> {
    let color = arguments.color;
    match arguments.command {
        Command::Infer(call) => infer::run(&call, color),
        Command::Check(call) => check::run(&call, color),
        Command::Coerce(call) => coerce::run(&call, color),
        Command::Fit(call) => fit::run(&call, color),
        Command::Trial(call) => trial::run(&call, color),
        Command::Vet(call) => vet::run(&call, color),
        Command::Compat(call) => compat::run(&call, color),
        Command::Release(call) => release::run(&call, color),
        Command::Ledger(call) => ledger::run(&call, color),
        Command::Rescue(call) => rescue::run(&call, color),
        Command::Prompt(call) => prompt::run(&call, color),
        Command::RulesProto { output } => rules_proto::run(output.as_deref()),
        Command::Explain { rule } => explain::run(rule.as_deref(), color),
        Command::Demo(call) => demo::run(&call, color),
        Command::Completions { shell } => help::completions(shell),
        Command::Man { command } => help::man(command.as_deref()),
    }
}
