//! Schemas made around a document that holds: whatever they say, it is no mistake, and each of their rules can be tripped alone.

use crate::support::Folder;
use proptest::prelude::*;
use serde_json::{Map, Value, json};

/// A supply of choices.
struct Dice<'d>(std::slice::Iter<'d, u8>);

impl Dice<'_> {
    /// A number below `end`; 0 when nothing is left.
    fn below(&mut self, end: u8) -> u8 {
        self.0.next().map_or(0, |choice| choice % end)
    }

    fn chance(&mut self) -> bool {
        self.below(2) == 1
    }
}

fn set(schema: &mut Map<String, Value>, keyword: &str, value: Value) {
    schema.insert(keyword.to_owned(), value);
}

/// A schema that a value holds against.
fn around(value: &Value, dice: &mut Dice<'_>) -> Value {
    let mut schema = Map::new();
    if dice.below(6) == 0 {
        return if dice.chance() {
            json!({ "const": value })
        } else {
            json!({ "enum": [value, "something else", 7.5] })
        };
    }
    match value {
        Value::Null => set(&mut schema, "type", json!(["null", "string"])),
        Value::Bool(_) => set(&mut schema, "type", json!("boolean")),
        Value::Number(number) => {
            let whole = number.as_i64();
            set(&mut schema, "type", json!(if whole.is_some() && dice.chance() { "integer" } else { "number" }));
            let number = number.as_f64().unwrap_or_default();
            if dice.chance() {
                set(&mut schema, "minimum", json!(number - f64::from(dice.below(3))));
            }
            if dice.chance() {
                set(&mut schema, "exclusiveMaximum", json!(number + 1.0 + f64::from(dice.below(9))));
            }
            if whole.is_some_and(|whole| whole % 3 == 0) && dice.chance() {
                set(&mut schema, "multipleOf", json!(3));
            }
        }
        Value::String(text) => {
            let length = text.chars().count();
            set(&mut schema, "type", json!("string"));
            if dice.chance() {
                set(&mut schema, "maxLength", json!(length + usize::from(dice.below(4))));
            }
            if length > 0 && dice.chance() {
                set(&mut schema, "minLength", json!(length.min(2)));
            }
            let of_letters = text.chars().all(|c| c.is_ascii_lowercase());
            if of_letters && dice.chance() {
                set(&mut schema, "pattern", json!("^[a-z]*$"));
            }
        }
        Value::Array(items) => {
            set(&mut schema, "type", json!("array"));
            if dice.chance() {
                set(&mut schema, "maxItems", json!(items.len() + usize::from(dice.below(3))));
            }
            if !items.is_empty() && dice.chance() {
                set(&mut schema, "minItems", json!(1));
            }
            let branches: Vec<Value> = items.iter().map(|item| around(item, dice)).collect();
            match branches.as_slice() {
                [] => {}
                [one] => set(&mut schema, "items", one.clone()),
                _ if dice.chance() => set(&mut schema, "prefixItems", json!(branches)),
                _ => set(&mut schema, "items", json!({ "anyOf": branches })),
            }
        }
        Value::Object(members) => {
            set(&mut schema, "type", json!("object"));
            let properties: Map<String, Value> =
                members.iter().map(|(name, member)| (name.clone(), around(member, dice))).collect();
            set(&mut schema, "properties", Value::Object(properties));
            let required: Vec<&String> = members.keys().filter(|_| dice.chance()).collect();
            if !required.is_empty() {
                set(&mut schema, "required", json!(required));
            }
            if dice.chance() {
                set(&mut schema, "additionalProperties", json!(false));
            }
            if let [first, second, ..] = members.keys().collect::<Vec<_>>().as_slice()
                && dice.chance()
            {
                set(&mut schema, "dependentRequired", json!({ *first: [second] }));
            }
            if let Some((name, member)) = members.iter().next()
                && dice.below(3) == 0
            {
                set(&mut schema, "if", json!({ "required": [name], "properties": { name: { "const": member } } }));
                set(&mut schema, "then", json!({ "minProperties": 1.max(members.len() / 2) }));
            }
        }
    }
    Value::Object(schema)
}

fn document() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        (-9i32..99).prop_map(Value::from),
        (0..40u8).prop_map(|n| json!(f64::from(n) / 4.0)),
        "[a-z]{0,5}".prop_map(Value::from),
        Just(json!("Quay North")),
    ];
    let value = leaf.prop_recursive(2, 12, 3, |inner| {
        let members = prop::collection::btree_map("[a-d]", inner.clone(), 0..3);
        prop_oneof![
            prop::collection::vec(inner, 0..3).prop_map(Value::from),
            members.prop_map(|members| Value::Object(members.into_iter().collect())),
        ]
    });
    prop::collection::btree_map("[a-e]", value, 1..4).prop_map(|members| Value::Object(members.into_iter().collect()))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_holds_is_no_mistake_and_each_rule_can_be_tripped(document in document(), choices in prop::collection::vec(any::<u8>(), 60)) {
        let schema = around(&document, &mut Dice(choices.iter()));
        let folder = Folder::new()
            .with("s.json", format!("{schema:#}"))
            .with("cases/good/one.json", document.to_string())
            .with("one.json", document.to_string());
        let run = |arguments: &[&str]| folder.run(arguments);
        let held = run(&["check", "--schema", "s.json", "one.json"]);
        prop_assert_eq!(held.status, 0, "{}\n{:#}", held.out, schema);
        let vetted = run(&["vet", "--report", "json", "s.json"]);
        let told: Value = serde_json::from_str(&vetted.out).unwrap();
        prop_assert_eq!(&told["counts"]["errors"], &json!(0), "{}\n{:#}", vetted.out, schema);
        let same = run(&["compat", "s.json", "s.json", "--promise", "full"]);
        prop_assert_eq!(same.status, 0, "{}{}\n{:#}", same.out, same.err, schema);
        let handed_on = run(&["coerce", "--schema", "s.json", "one.json"]);
        let value: Value = serde_json::from_str(&handed_on.out).unwrap();
        prop_assert_eq!((handed_on.status, &value), (0, &document), "{:#}", schema);
        let suggested = run(&["trial", "--cases", "cases", "--suggest", "s.json"]);
        prop_assert_eq!(suggested.status, 0, "{}{}\n{:#}", suggested.out, suggested.err, schema);
        let tried = run(&["trial", "--cases", "cases", "s.json"]);
        prop_assert_eq!(tried.status, 0, "{}{}\n{:#}", tried.out, tried.err, schema);
        let bad = std::fs::read_dir(folder.path("cases/bad")).into_iter().flatten().flatten().map(|entry| entry.path());
        let bad: Vec<_> = bad.filter(|path| path.extension().is_some_and(|end| end == "json")).collect();
        prop_assert!(!bad.is_empty(), "{:#}", schema);
        for case in bad {
            let text = std::fs::read_to_string(&case).unwrap();
            let refused = run(&["check", "--schema", "s.json", &case.to_string_lossy()]);
            prop_assert_eq!(refused.status, 1, "{}\n{:#}", text, schema);
        }
    }
}
