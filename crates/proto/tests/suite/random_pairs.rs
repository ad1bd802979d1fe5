//! Random pairs of `.proto` files, whose relation is attacked with many small messages.
//!
//! `MERVIK_PAIRS=N` tries so many pairs of each kind, in both directions.

#![allow(clippy::print_stderr, reason = "how much is undecided is for who reads the outcome")]

use super::compat::{is_proved, version};
use data_encoding::BASE64;
use mervik_document::{Document, Tape, json};
use mervik_proto::{Checker, Form, Options, Schema, Unknown, View, compare};
use mervik_versions::{Comparison, Role};
use proptest::prelude::*;
use proptest::test_runner::TestRunner;
use serde_json::Value;
use std::cell::RefCell;
use std::sync::OnceLock;

const STRICT: fn() -> Options = || Options { unknown: Unknown::Refuse, ..Options::default() };

/// Small messages as JSON: each member with each value, and members beside each other.
fn messages() -> &'static [String] {
    static MESSAGES: OnceLock<Vec<String>> = OnceLock::new();
    MESSAGES.get_or_init(|| {
        let values = [
            "0",
            "1",
            "-1",
            "2",
            "3",
            "300",
            "2147483648",
            "4294967296",
            "-2147483649",
            "\"7\"",
            "1.5",
            "true",
            "false",
            "\"\"",
            "\"a\"",
            "\"ab\"",
            "\"abcd\"",
            "\"/w==\"",
            "\"YQ==\"",
            "\"A\"",
            "\"B\"",
            "\"C\"",
            "null",
            "[]",
            "[1]",
            "[1,1]",
            "[2,300]",
            "[-1,0,5]",
            "[\"a\"]",
            "[\"a\",\"a\"]",
            "[\"a\",\"abcd\",\"\"]",
            "[true,false]",
            "[\"A\",\"B\"]",
            "[{}]",
            "[{},{\"x\":1}]",
            "{}",
            "{\"x\":1}",
            "{\"x\":-1}",
            "{\"x\":300}",
            "{\"y\":\"a\"}",
            "{\"x\":\"a\"}",
            "{\"1\":1}",
            "{\"1\":\"a\",\"2\":\"b\"}",
            "{\"a\":{\"x\":1}}",
            "{\"a\":1,\"b\":2}",
            "{\"true\":\"a\"}",
            "\"2026-11-29T06:00:00Z\"",
            "\"1.5s\"",
        ];
        let mut all = vec!["{}".to_owned()];
        for name in ["a", "b", "c", "d"] {
            all.extend(values.map(|value| format!("{{\"{name}\":{value}}}")));
        }
        let few = ["0", "1", "\"a\"", "true", "[1]", "{\"x\":1}", "{}", "\"B\""];
        for (one, other) in [("a", "b"), ("b", "c"), ("a", "c"), ("c", "d"), ("a", "d")] {
            for value in few {
                all.extend(few.map(|second| format!("{{\"{one}\":{value},\"{other}\":{second}}}")));
            }
        }
        all
    })
}

type Both = (String, String);

fn both(of: impl Strategy<Value = String> + Clone + 'static) -> BoxedStrategy<Both> {
    prop_oneof![3 => of.clone().prop_map(|one| (one.clone(), one)), 1 => (of.clone(), of)].boxed()
}

fn word(words: &'static [&'static str]) -> impl Strategy<Value = String> + Clone {
    prop::sample::select(words).prop_map(str::to_owned)
}

const SCALARS: &[&str] = &[
    "int32", "int32", "int64", "uint32", "uint64", "sint32", "sint64", "fixed32", "sfixed32", "fixed64", "double",
    "float", "bool", "string", "string", "bytes", "E",
];

fn any_type() -> impl Strategy<Value = String> + Clone {
    prop_oneof![
        6 => word(SCALARS),
        1 => word(&["N", "N", "M", "google.protobuf.Timestamp", "google.protobuf.Int32Value", "google.protobuf.StringValue", "google.protobuf.Duration"]),
    ]
}

fn field_type() -> impl Strategy<Value = String> + Clone {
    prop_oneof![
        5 => any_type(),
        2 => any_type().prop_map(|ty| format!("repeated {ty}")),
        2 => any_type().prop_map(|ty| format!("optional {ty}")),
        1 => (word(&["int32", "string", "bool", "uint64"]), any_type()).prop_map(|(key, ty)| format!("map<{key}, {ty}>")),
    ]
}

/// Fields of a message; `rules` follow some of them.
fn message(name: &'static str, fields: &'static [&'static str], rules: bool) -> BoxedStrategy<Both> {
    let field = move |(at, name): (usize, &'static str)| {
        let ty = both(field_type());
        let rule = if rules { both(rule()) } else { Just((String::new(), String::new())).boxed() };
        let there = both(prop_oneof![5 => Just(String::new()), 1 => Just("-".to_owned())]);
        (ty, rule, there).prop_map(move |(ty, rule, there)| {
            let one = |ty: String, rule: String, there: String| match there.as_str() {
                "" => format!("{ty} {name} = {}{rule};", at + 1),
                _ => String::new(),
            };
            (one(ty.0, rule.0, there.0), one(ty.1, rule.1, there.1))
        })
    };
    let fields: Vec<_> = fields.iter().copied().enumerate().map(field).collect();
    let oneof = both(prop_oneof![4 => Just(String::new()), 1 => Just("o".to_owned())]);
    (fields, oneof)
        .prop_map(move |(fields, oneof)| {
            let (one, other): (Vec<String>, Vec<String>) = fields.into_iter().unzip();
            let written = |mut fields: Vec<String>, oneof: String| {
                let fits =
                    |field: &String| !["repeated", "optional", "map<"].iter().any(|word| field.starts_with(word));
                if !oneof.is_empty()
                    && fields.len() > 2
                    && fields.iter().take(2).all(|field| fits(field) && !field.is_empty())
                {
                    let rest = fields.split_off(2);
                    fields = vec![format!("oneof o {{ {} }}", fields.join(" "))];
                    fields.extend(rest);
                }
                format!("message {name} {{ {} }}", fields.join(" "))
            };
            (written(one, oneof.0), written(other, oneof.1))
        })
        .boxed()
}

fn rule() -> impl Strategy<Value = String> + Clone {
    let rule = prop_oneof![
        2 => (word(&["minimum", "maximum", "exclusive_minimum", "exclusive_maximum"]), -1..4).prop_map(|(word, n)| format!("{word} = {n}")),
        1 => word(&["multiple_of = 2", "multiple_of = 3", "const = \"1\"", "const = \"a\"", "finite = true", "defined = true"]),
        2 => (word(&["min_length", "max_length", "max_bytes", "min_items", "max_items"]), 0..4).prop_map(|(word, n)| format!("{word} = {n}")),
        1 => word(&["pattern = \"^a\"", "pattern = \"^[ab]*$\"", "pattern = \"^.{2,}$\""]),
        1 => word(&["unique_items = true", "items.maximum = 3", "items.max_length = 1", "keys.min_length = 1", "values.maximum = 3", "required = true"]),
    ];
    prop_oneof![2 => Just(String::new()), 3 => rule.prop_map(|rule| format!(" [(mervik.field).{rule}]"))]
}

fn any_pair(rules: bool) -> BoxedStrategy<Both> {
    let values = both(word(&["A = 0; B = 1;", "A = 0; B = 1;", "A = 0; B = 1; C = 2;", "A = 0; C = 2;", "A = 0;"]));
    (message("M", &["a", "b", "c", "d"], rules), message("N", &["x", "y"], rules), values)
        .prop_map(|(m, n, e)| {
            (format!("{} {} enum E {{ {} }}", m.0, n.0, e.0), format!("{} {} enum E {{ {} }}", m.1, n.1, e.1))
        })
        .boxed()
}

/// A message in another form.
fn read<T>(
    schema: &Schema,
    options: Options,
    text: &str,
    then: impl FnOnce(&mervik_proto::Read<'_, '_>) -> T,
) -> Option<T> {
    let mut tape = Tape::new();
    json::read(text, &mut tape).ok()?;
    let document = Document::new(text, &tape);
    let read = Checker::new(schema, schema.find("M")?, options).read(Form::Json(&document));
    read.holds().then(|| then(&read))
}

/// Whether two values of JSON are one and the same on the wire: numbers in quotes, names of enums, bytes.
fn same(one: &Value, other: &Value) -> bool {
    let plain = |value: &Value| match value {
        Value::Bool(value) => Some(u8::from(*value).to_string()),
        Value::Number(number) => Some(number.to_string().trim_end_matches(".0").to_owned()),
        Value::String(text) => Some(match text.as_str() {
            "A" => "0".to_owned(),
            "B" => "1".to_owned(),
            "C" => "2".to_owned(),
            text => text.to_owned(),
        }),
        _ => None,
    };
    let is_bytes = |bytes: &str, text: &str| BASE64.encode(text.as_bytes()) == bytes;
    match (one, other) {
        (Value::Array(one), Value::Array(other)) => {
            one.len() == other.len() && one.iter().zip(other).all(|(a, b)| same(a, b))
        }
        (Value::Object(one), Value::Object(other)) => {
            one.iter().all(|(name, value)| other.get(name).is_none_or(|other| same(value, other)))
        }
        // Messages as bytes, and known ones that are built like others.
        (Value::Object(_), _) | (_, Value::Object(_)) => true,
        (Value::Array(one), other) => one.len() == 1 && one.first().is_some_and(|one| same(one, other)),
        (one, Value::Array(other)) => other.len() == 1 && other.first().is_some_and(|other| same(one, other)),
        (one, other) => match (plain(one), plain(other)) {
            (Some(a), Some(b)) => {
                let (one, other) = (one.as_str().unwrap_or(""), other.as_str().unwrap_or(""));
                a == b || is_bytes(one, other) || is_bytes(other, one)
            }
            _ => one == other,
        },
    }
}

/// Whether bytes of one version are read by the other as they were meant, as far as JSON tells. Names go by number in these pairs.
fn is_kept(outer: &Schema, bytes: &[u8], written: &str) -> bool {
    let read = Checker::new(outer, outer.find("M").unwrap(), Options::default()).read(Form::Binary(bytes));
    let Ok(there) = read.to_json(true) else { return false };
    let (one, other): (Value, Value) = (serde_json::from_str(written).unwrap(), serde_json::from_str(&there).unwrap());
    read.holds() && same(&one, &other)
}

fn breaks(inner: &Schema, outer: &Schema, view: View, text: &str) -> bool {
    match view {
        View::Json => read(inner, STRICT(), text, |_| ()).is_some() && read(outer, STRICT(), text, |_| ()).is_none(),
        View::Rules => read(inner, STRICT(), text, |read| read.to_binary()).is_some_and(|bytes| {
            !Checker::new(outer, outer.find("M").unwrap(), Options::default()).read(Form::Binary(&bytes)).holds()
        }),
        View::Wire => read(inner, STRICT(), text, |read| (read.to_binary(), read.to_json(true)))
            .is_some_and(|(bytes, written)| written.is_ok_and(|written| !is_kept(outer, &bytes, &written))),
    }
}

fn attack(rules: bool, views: &[View], undecided: &RefCell<Vec<String>>) {
    let count: u32 = std::env::var("MERVIK_PAIRS").ok().and_then(|count| count.parse().ok()).unwrap_or(12);
    let config = ProptestConfig {
        failure_persistence: None,
        max_global_rejects: count * 200,
        ..ProptestConfig::with_cases(count)
    };
    let held = std::cell::Cell::new(0u32);
    let result = TestRunner::new(config).run(&any_pair(rules), |(one, other)| {
        let (Some(old), Some(new)) = (version(&one), version(&other)) else {
            return Err(TestCaseError::reject("no schema"));
        };
        for (inner, outer, role) in [(&old, &new, Role::Old), (&new, &old, Role::New)] {
            for view in views {
                let Comparison { breaks: told, undecided: unknown } = compare(inner, outer, role, &[*view], None);
                for one in &told {
                    prop_assert!(is_proved(inner, outer, one), "{:#?}", one);
                }
                if !told.is_empty() {
                    continue;
                }
                if !unknown.is_empty() {
                    undecided.borrow_mut().push(format!("{role:?} {} {unknown:?}\n{one}\n{other}", view.word()));
                    continue;
                }
                // What cannot even be read is a matter of the wire.
                if *view == View::Rules && !compare(inner, outer, role, &[View::Wire], None).breaks.is_empty() {
                    continue;
                }
                held.set(held.get() + 1);
                // A message as bytes is the same for the wire, and JSON does not tell.
                let as_bytes = [&one, &other].iter().any(|text| text.contains("google."))
                    && [&one, &other].iter().any(|text| text.contains("bytes "));
                if *view == View::Wire && as_bytes {
                    continue;
                }
                // A negative number is none of the values of the enums here; what is written are those that are declared.
                let enums = *view == View::Wire && (one.contains("E ") || other.contains("E "));
                let mut fit = messages().iter().filter(|text| !(enums && text.contains('-')));
                let found = fit.find(|text| breaks(inner, outer, *view, text));
                prop_assert!(
                    found.is_none(),
                    "{:?} {}: {} breaks\n{}\n{}",
                    role,
                    view.word(),
                    found.unwrap(),
                    one,
                    other
                );
            }
        }
        Ok(())
    });
    eprintln!("{} of {} hold; undecided: {}", held.get(), count as usize * 2 * views.len(), undecided.borrow().len());
    result.unwrap();
    assert!(held.get() > count / 8, "the attack is weak: {}", held.get());
}

#[test]
fn what_is_said_of_random_pairs_is_true() {
    let undecided = RefCell::new(Vec::new());
    attack(false, &[View::Wire, View::Json], &undecided);
    attack(true, &[View::Rules], &undecided);
    for told in undecided.borrow().iter().take(10) {
        eprintln!("{told}\n");
    }
}
