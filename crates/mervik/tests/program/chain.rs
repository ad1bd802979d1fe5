//! What the commands say of one another: a draft takes its samples, a fitted schema takes what it took before and what was refused, and
//! `compat` agrees; cases that are suggested are refused for their reason.

use crate::support::Folder;
use proptest::prelude::*;

/// A schema that is drafted from samples and fitted to other documents, each a file.
struct Chain {
    folder: Folder,
    schema: &'static str,
    samples: Vec<String>,
    others: Vec<String>,
}

impl Chain {
    fn new(schema: &'static str, ending: &str, samples: &[String], others: &[String]) -> Chain {
        let named = |kind: &str, all: &[String]| -> Vec<String> {
            (0..all.len()).map(|number| format!("{kind}{number}.{ending}")).collect()
        };
        let (sample_names, other_names) = (named("sample", samples), named("other", others));
        let texts = samples.iter().chain(others);
        let folder = sample_names
            .iter()
            .chain(&other_names)
            .zip(texts)
            .fold(Folder::new(), |folder, (name, text)| folder.with(name, text));
        Chain { folder, schema, samples: sample_names, others: other_names }
    }

    /// The options for a draft that lets in little; elements of an XML Schema are closed anyway.
    fn strict(&self) -> &'static [&'static str] {
        if self.schema.ends_with("xsd") { &["--bounds", "observed"] } else { &["--bounds", "observed", "--closed"] }
    }

    fn run(&self, arguments: &[&str], documents: &[String]) -> Result<i32, TestCaseError> {
        let all: Vec<&str> = arguments.iter().copied().chain(documents.iter().map(String::as_str)).collect();
        let outcome = self.folder.run(&all);
        prop_assert!(outcome.status != 101 && !outcome.err.contains("panicked"), "{all:?}: {outcome:?}");
        Ok(outcome.status)
    }

    fn holds_together(&self, strict: bool) -> Result<(), TestCaseError> {
        let Chain { folder, schema, samples, others } = self;
        let mut draft = vec!["infer", "--output", schema, "--format-from", "1", "--enum-repeats", "1"];
        if strict {
            draft.extend(self.strict());
        }
        prop_assert_eq!(self.run(&draft, samples)?, 0);
        let first = folder.read(schema);
        prop_assert_eq!(self.run(&["check", "--schema", schema], samples)?, 0, "a draft takes its samples: {}", first);
        prop_assert!(self.run(&["vet", schema], &[])? < 2, "a draft is a schema: {}", first);
        let refused = self.run(&["check", "--schema", schema], others)?;
        let fitted = self.run(&["fit", "--schema", schema, "--apply"], others)?;
        let second = folder.read(schema);
        if refused == 0 {
            prop_assert_eq!((fitted, &second), (0, &first), "where nobody is refused nothing is changed");
        }
        if fitted == 0 {
            prop_assert_eq!(self.run(&["check", "--schema", schema], others)?, 0, "{}", second);
        }
        prop_assert_eq!(self.run(&["check", "--schema", schema], samples)?, 0, "{} became {}", first, second);
        let before = format!("before-{schema}");
        std::fs::write(folder.path(&before), &first)?;
        let broken = self.run(&["compat", &before, schema], &[])?;
        prop_assert!(broken == 0 || broken == 3, "{}: {} became {}", broken, first, second);
        Ok(())
    }

    /// A schema that other samples are added to takes its own as before, and the others where nothing contradicts it.
    fn can_be_added_to(&self) -> Result<(), TestCaseError> {
        let Chain { folder, schema, samples, others } = self;
        prop_assert_eq!(self.run(&["infer", "--output", schema], samples)?, 0);
        let first = folder.read(schema);
        let added = self.run(&["infer", "--into", schema, "--output", schema], others)?;
        let second = folder.read(schema);
        prop_assert!(added < 2, "{} became {}", first, second);
        prop_assert_eq!(self.run(&["check", "--schema", schema], samples)?, 0, "{} became {}", first, second);
        if added == 0 {
            prop_assert_eq!(self.run(&["check", "--schema", schema], others)?, 0, "{} became {}", first, second);
            prop_assert_eq!(self.run(&["infer", "--into", schema, "--output", schema], others)?, 0);
            prop_assert_eq!(folder.read(schema), second.clone(), "what is there already is not added again");
        }
        prop_assert!(self.run(&["vet", schema], &[])? < 2, "{} became {}", first, second);
        Ok(())
    }

    /// Cases of which the samples are the good ones, and what is suggested the bad ones.
    fn can_be_tried(&self) -> Result<(), TestCaseError> {
        let Chain { folder, schema, samples, .. } = self;
        prop_assert_eq!(self.run(&[&["infer", "--output", schema], self.strict()].concat(), samples)?, 0);
        std::fs::create_dir_all(folder.path("cases/good"))?;
        for sample in samples {
            std::fs::copy(folder.path(sample), folder.path(&format!("cases/good/{sample}")))?;
        }
        prop_assert_eq!(self.run(&["trial", "--cases", "cases", "--suggest", schema], &[])?, 0);
        prop_assert_eq!(self.run(&["trial", "--cases", "cases", schema], &[])?, 0, "{}", folder.read(schema));
        let bad = std::fs::read_dir(folder.path("cases/bad")).into_iter().flatten().flatten();
        for case in bad.map(|entry| entry.path()).filter(|path| path.extension().is_none_or(|end| end != "reason")) {
            let case = case.to_string_lossy().into_owned();
            prop_assert_eq!(self.run(&["check", "--schema", schema], &[case])?, 1);
        }
        Ok(())
    }
}

/// Values of one kind, seldom of another.
fn value() -> BoxedStrategy<String> {
    let text = prop_oneof![
        "[a-z]{0,4}".prop_map(|text| format!("\"{text}\"")),
        prop::sample::select(vec!["\"2026-11-29\"", "\"open\"", "\"N7\"", "\"\"", "\"Quay North\"", "null", "true"])
            .prop_map(str::to_owned),
    ];
    let number = prop_oneof![(-20..400i32).prop_map(|n| n.to_string()), (0..90u8).prop_map(|n| format!("{n}.25"))];
    prop_oneof![3 => text, 3 => number].boxed()
}

fn object(inner: BoxedStrategy<String>) -> BoxedStrategy<String> {
    let members = prop::collection::btree_map(prop::sample::select(vec!["id", "kind", "load", "note"]), inner, 0..4);
    members
        .prop_map(|members| {
            let members: Vec<String> = members.iter().map(|(name, value)| format!("{name:?}:{value}")).collect();
            format!("{{{}}}", members.join(","))
        })
        .boxed()
}

fn record() -> BoxedStrategy<String> {
    let list = |inner: BoxedStrategy<String>| {
        prop::collection::vec(inner, 0..3).prop_map(|items| format!("[{}]", items.join(",")))
    };
    let items = prop_oneof![value(), object(value())].boxed();
    object(prop_oneof![4 => value(), 1 => object(value()), 1 => list(items)].boxed())
}

fn element() -> BoxedStrategy<String> {
    let text = || prop::sample::select(vec!["7", "31", "2.5", "N7", "open", "2026-11-29", "Quay North", "true"]);
    let child = || {
        (prop::sample::select(vec!["load", "kind", "note"]), text(), prop::option::of(text())).prop_map(
            |(name, text, unit)| {
                let unit = unit.map_or(String::new(), |unit| format!(" unit=\"{unit}\""));
                format!("<{name}{unit}>{text}</{name}>")
            },
        )
    };
    let item = prop::collection::vec(child(), 0..3).prop_map(|all| format!("<item>{}</item>", all.concat()));
    prop::collection::vec(prop_oneof![child().boxed(), item.boxed()], 0..5)
        .prop_map(|all| format!("<list>{}</list>", all.concat()))
        .boxed()
}

/// A message with rules of most kinds, each of which can be loosened.
const PROTO: &str = r#"edition = "2023";
import "google/protobuf/duration.proto";
import "mervik/rules.proto";
message Line {
  string kind = 1 [(mervik.field) = { enum: ["bow", "stern"] required: true }];
  double load = 2 [(mervik.field) = { minimum: 0 exclusive_maximum: 100 multiple_of: 0.5 }];
}
message Plan {
  string id = 1 [(mervik.field) = { min_length: 2 max_length: 5 pattern: "^[a-z]+$" }];
  repeated Line lines = 2 [(mervik.field) = { min_items: 1 max_items: 2 }];
  repeated int32 marks = 3 [(mervik.field) = { unique_items: true items: { minimum: 1 maximum: 9 } }];
  map<string, int32> health = 4 [(mervik.field) = { keys: { max_length: 3 } values: { maximum: 100 } }];
  google.protobuf.Duration window = 5 [(mervik.field) = { shortest: "1s" longest: "60s" }];
  oneof cause {
    option (mervik.oneof).required = true;
    bool planned = 6;
    string alarm = 7;
  }
}
"#;

/// A plan in JSON; few of them break no rule.
fn plan() -> BoxedStrategy<String> {
    let optional = |of: BoxedStrategy<String>, name: &'static str| {
        prop::option::weighted(0.8, of.prop_map(move |value| format!("\"{name}\":{value}")))
    };
    let list = |of: BoxedStrategy<String>| {
        prop::collection::vec(of, 0..4).prop_map(|items| format!("[{}]", items.join(","))).boxed()
    };
    let joined =
        |members: Vec<Option<String>>| format!("{{{}}}", members.into_iter().flatten().collect::<Vec<_>>().join(","));
    let text = |all: &[&'static str]| prop::sample::select(all.to_vec()).prop_map(|text| format!("{text:?}")).boxed();
    let number = |of: std::ops::Range<i32>| of.prop_map(|number| number.to_string()).boxed();
    let load = prop_oneof![number(-3..120), Just("7.25".to_owned())].boxed();
    let line = (optional(text(&["bow", "stern", "spring"]), "kind"), optional(load, "load"))
        .prop_map(move |(kind, load)| joined(vec![kind, load]));
    let health = prop::collection::btree_map(text(&["hull", "fog"]), number(90..110), 0..3).prop_map(|entries| {
        format!("{{{}}}", entries.iter().map(|(key, value)| format!("{key}:{value}")).collect::<Vec<_>>().join(","))
    });
    let cause = prop::sample::select(vec!["\"planned\":true", "\"alarm\":\"fog\""]).prop_map(str::to_owned);
    (
        optional(text(&["a", "abc", "abcdefg", "A7", ""]), "id"),
        optional(list(line.boxed()), "lines"),
        optional(list(number(0..12)), "marks"),
        optional(health.boxed(), "health"),
        optional(text(&["0.5s", "30s", "95s"]), "window"),
        prop::option::weighted(0.8, cause),
    )
        .prop_map(move |(id, lines, marks, health, window, cause)| {
            joined(vec![id, lines, marks, health, window, cause])
        })
        .boxed()
}

fn several(of: BoxedStrategy<String>) -> impl Strategy<Value = (Vec<String>, Vec<String>)> {
    (prop::collection::vec(of.clone(), 1..6), prop::collection::vec(of, 1..4))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_json_schema_is_drafted_and_fitted((samples, others) in several(record()), strict in any::<bool>()) {
        Chain::new("s.json", "json", &samples, &others).holds_together(strict)?;
    }

    #[test]
    fn an_xml_schema_is_drafted_and_fitted((samples, others) in several(element()), strict in any::<bool>()) {
        Chain::new("s.xsd", "xml", &samples, &others).holds_together(strict)?;
    }

    #[test]
    fn drafts_can_be_added_to((samples, others) in several(record())) {
        Chain::new("s.json", "json", &samples, &others).can_be_added_to()?;
    }

    #[test]
    fn rules_of_messages_are_fitted((plans, others) in several(plan())) {
        let chain = Chain::new("s.proto", "json", &plans, &others);
        std::fs::write(chain.folder.path("s.proto"), PROTO)?;
        std::fs::write(chain.folder.path("before.proto"), PROTO)?;
        let check = |name: &String| chain.run(&["check", "--schema", "s.proto", "--type", "Plan", name], &[]);
        let before = chain.samples.iter().map(check).collect::<Result<Vec<i32>, _>>()?;
        let fitted = chain.run(&["fit", "--schema", "s.proto", "--type", "Plan", "--apply"], &chain.others)?;
        let text = chain.folder.read("s.proto");
        for name in chain.others.iter().filter(|_| fitted == 0) {
            prop_assert_eq!(check(name)?, 0, "{}: {}", chain.folder.read(name), text);
        }
        for (name, before) in chain.samples.iter().zip(before) {
            prop_assert!(check(name)? <= before, "{}: {}", chain.folder.read(name), text);
        }
        let broken = chain.run(&["compat", "before.proto", "s.proto"], &[])?;
        prop_assert!(broken == 0 || broken == 3, "{}: {}", broken, text);
    }

    #[test]
    fn drafts_can_be_tried((samples, _) in several(record()), (documents, _) in several(element())) {
        Chain::new("s.json", "json", &samples, &[]).can_be_tried()?;
        Chain::new("s.xsd", "xml", &documents, &[]).can_be_tried()?;
    }
}
