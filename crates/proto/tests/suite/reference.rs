//! Every rule of the reference, beyond what its example says: bad cases out of good ones, and rules loosened for bad ones.

use crate::compiled;
use mervik_proto::{Checker, Form, Nowhere, Options, RULE_DOCS, RuleDoc, Source, compile, loosen, slip};

fn options() -> Options {
    Options { now: 1_775_109_600 * 1_000_000_000, ..Options::default() }
}

#[test]
fn a_good_message_becomes_a_bad_one_for_one_rule_alone() {
    // What is said about another field, or about what is inside of a message, has no slip of its own; nor do more entries of a map,
    // which would need keys that nobody knows.
    let without = ["use", "unchecked", "items", "keys", "values", "schema", "max_items"];
    for rule in RULE_DOCS {
        let schema = compiled(&rule.proto()).schema;
        let message = schema.find("harbour.M").unwrap();
        let clauses = schema.clauses(message);
        let made: Vec<String> = clauses
            .iter()
            .filter(|clause| clause.rule == rule.name)
            .filter_map(|clause| {
                let slip = slip(&schema, message, clause, rule.good, &options())?;
                let read = Checker::new(&schema, message, options());
                let read = read.read(Form::Text(&slip.text));
                let told: Vec<String> = read.findings(0).iter().map(|one| format!("{} {}", one.rule, one.at)).collect();
                assert_eq!(told, [format!("{} {}", rule.name, slip.at)], "{}", slip.text);
                Some(slip.text)
            })
            .collect();
        assert_eq!(made.is_empty(), without.contains(&rule.name), "{}: {made:?} of {clauses:?}", rule.name);
    }
}

#[test]
fn what_a_rule_refuses_is_let_in_by_a_change_of_that_rule() {
    for rule in RULE_DOCS {
        let RuleDoc { bad, .. } = rule;
        let mut text = rule.proto();
        for _ in 0..3 {
            let source = Source::Text { name: "m.proto".into(), import: "m.proto".into(), text: text.clone() };
            let compiled = compile(source, &[], &mut Nowhere);
            assert!(!compiled.is_broken(), "{}: {text}\n{:?}", rule.name, compiled.remarks);
            let schema = &compiled.schema;
            let findings =
                Checker::new(schema, schema.find("harbour.M").unwrap(), options()).read(Form::Text(bad)).findings(0);
            let Some(finding) = findings.first() else { break };
            let loosened = loosen(schema, finding, &text).unwrap_or_else(|| panic!("{}: {finding:?}", rule.name));
            assert_ne!(loosened.text, text, "{}", rule.name);
            assert!(loosened.words.starts_with('`') && text.contains(&loosened.before), "{loosened:?}");
            text = loosened.text;
        }
        let schema = compiled(&text).schema;
        let checker = Checker::new(&schema, schema.find("harbour.M").unwrap(), options());
        assert!(checker.read(Form::Text(bad)).holds(), "{}: {text}", rule.name);
        // What held still does.
        assert!(checker.read(Form::Text(rule.good)).holds(), "{}: {text}", rule.name);
    }
}

#[test]
fn rules_count_once_and_have_names_of_their_own() {
    for rule in RULE_DOCS {
        let schema = compiled(&rule.proto()).schema;
        let clauses = schema.clauses(schema.find("harbour.M").unwrap());
        let mut names: Vec<&str> = clauses.iter().map(|clause| clause.place.at.as_str()).collect();
        assert!(!names.is_empty(), "{}", rule.name);
        assert!(names.iter().all(|name| name.starts_with("harbour.") && name.contains('/')), "{names:?}");
        assert!(clauses.iter().all(|clause| !clause.says.is_empty() && clause.place.place.line > 3), "{clauses:?}");
        names.sort_unstable();
        let all = names.len();
        names.dedup();
        assert_eq!(names.len(), all, "{}", rule.name);
    }
}
