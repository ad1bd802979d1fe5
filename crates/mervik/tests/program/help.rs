//! Help, version, completions, manual pages.

use crate::support::Folder;

#[test]
fn help_lists_the_commands_in_their_groups() {
    let outcome = Folder::new().run(&["help"]);
    assert_eq!(outcome.status, 0);
    assert!(outcome.out.contains("  check   check         Validates documents\n"), "{}", outcome.out);
    assert!(
        outcome.out.contains("  learn   explain       Tells what a rule means and how to satisfy it\n"),
        "{}",
        outcome.out
    );
    assert_eq!(Folder::new().run(&["--help"]).out, outcome.out);
}

#[test]
fn options_stand_below_their_headings() {
    let help = Folder::new().run(&["help", "check"]).out;
    let place = |text: &str| help.find(text).unwrap_or_else(|| panic!("{text}: {help}"));
    assert!(place("Arguments:") < place("  [DOCUMENT]..."), "{help}");
    assert!(place("  [DOCUMENT]...") < place("--schema <SCHEMA>\n"), "{help}");
    assert!(place("--redact") < place("Input options:") && place("Input options:") < place("--as <FORMAT>"), "{help}");
    assert!(place("Schema options:") < place("--map <PREFIX=DIR>"), "{help}");
}

#[test]
fn every_command_has_its_own_help_and_manual_page() {
    for command in ["vet", "check", "coerce", "explain", "demo", "completions", "man"] {
        let help = Folder::new().run(&["help", command]);
        assert!(help.status == 0 && help.out.contains(&format!("Usage: mervik {command}")), "{help:?}");
        let page = Folder::new().run(&["man", command]);
        assert!(page.status == 0 && page.out.contains(&format!("mervik\\-{command}")), "{page:?}");
    }
    let page = Folder::new().run(&["man"]);
    assert!(page.out.starts_with(".ie") && page.out.contains("mervik\\-check(1)"), "{}", page.out);
    let outcome = Folder::new().run(&["man", "nonsense"]);
    assert_eq!((outcome.status, outcome.out.as_str()), (2, ""));
}

#[test]
fn completions_know_commands_and_options() {
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let outcome = Folder::new().run(&["completions", shell]);
        assert_eq!(outcome.status, 0, "{shell}");
        for word in ["check", "schema", "report", "demo"] {
            assert!(outcome.out.contains(word), "{shell} {word}");
        }
    }
    assert_eq!(Folder::new().run(&["completions", "abacus"]).status, 2);
}

#[test]
fn version_is_that_of_the_package() {
    let outcome = Folder::new().run(&["--version"]);
    assert_eq!(outcome.out, format!("mervik {}\n", env!("CARGO_PKG_VERSION")));
}
