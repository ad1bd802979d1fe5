//! `mervik infer`, on samples with known answers.

use crate::support::{Folder, lines};

fn schema(folder: &Folder, arguments: &[&str]) -> (i32, String, String) {
    let outcome = folder.run(&[&["infer"], arguments].concat());
    (outcome.status, outcome.out.split_whitespace().collect(), outcome.err)
}

#[test]
fn samples_of_all_formats_are_read() {
    let folder = Folder::new()
        .with("a.json", r#"{"n":1,"s":"x"}"#)
        .with("a.ndjson", "{\"n\":1,\"s\":\"x\"}\n{\"n\":2.5,\"s\":null}\n")
        .with("a.csv", "n,s,deep.0.t\n1,x,007\n2,,12\n")
        .with("a.yaml", "n: 1\ns: x\n---\nn: 2\ns: y\n")
        .with("a.env", "N=1\nS=x\n")
        .with("a.wrapped.json", r#"{"meta":[1],"items":[{"n":1},{"n":"x"}]}"#);
    let table: &[(&[&str], &[&str])] = &[
        (&["a.json"], &[r#""n":{"type":"integer""#, r#""required":["n","s"]"#]),
        (&["a.ndjson"], &[r#""n":{"type":"number""#, r#""s":{"type":["string","null"]"#]),
        (
            &["a.csv"],
            &[
                r#""n":{"type":"integer""#,
                r#""required":["n","deep"]"#,
                r#""t":{"type":"string","examples":["007","12"]}"#,
            ],
        ),
        (&["a.yaml"], &[r#""n":{"type":"integer","examples":[1,2]}"#]),
        (&["a.env"], &[r#""N":{"type":"integer""#, r#""S":{"type":"string""#]),
        (&["--records", "/items", "a.wrapped.json"], &[r#""n":{"type":["string","integer"]"#]),
        (&["a.json", "a.csv"], &[r#""required":["n"]"#, r#""n":{"type":"integer""#]),
    ];
    for (arguments, parts) in table {
        let (status, found, err) = schema(&folder, arguments);
        assert_eq!((status, err.as_str()), (0, ""), "{arguments:?}");
        for part in *parts {
            // Kinds that were seen equally often may come in either order.
            let other = part.replace(r#"["string","integer"]"#, r#"["integer","string"]"#);
            assert!(found.contains(part) || found.contains(&other), "{arguments:?}: {part}\n{found}");
        }
    }
}

#[test]
fn samples_that_were_cut_are_read_up_to_the_cut() {
    let folder = Folder::new()
        .with("a.json", "[{\"a\":1},\n{\"a\":2},\n{\"b")
        .with("a.ndjson", "{\"a\":1}\n{\"b\":[1,2,{\"c\":")
        .with("one.ndjson", "{\"a\":2,\"b\":[1,2,{\"c\":")
        .with("in.json", "{\"items\":[{\"a\":1},\n{\"a\":2},{\"a\"");
    let table: &[(&[&str], &str, &str)] = &[
        (
            &["a.json"],
            "a.json is cut off; read up to line 2",
            r#""items":{"type":"object","required":["a"],"properties":{"a":{"type":"integer","examples":[1,2]}}}"#,
        ),
        (
            &["a.ndjson"],
            "a.ndjson is cut off; read up to line 1",
            r#""required":["a"],"properties":{"a":{"type":"integer","examples":[1]}}}"#,
        ),
        (
            &["one.ndjson", "--as", "ndjson"],
            "one.ndjson is cut off; read up to line 1",
            r#""b":{"type":"array","items":{"type":"integer","examples":[1,2]}}"#,
        ),
        (&["--records", "/items", "in.json"], "in.json is cut off", r#""required":["a"]"#),
    ];
    for (arguments, said, part) in table {
        let (status, found, err) = schema(&folder, arguments);
        assert!(err.contains(said), "{arguments:?}: {err}");
        assert!(found.contains(part), "{arguments:?}: {found}");
        assert_eq!(status, 0, "{arguments:?}: {err}");
    }
}

#[test]
fn a_long_array_is_drafted_as_a_short_one_is() {
    let items = |count: usize| (0..count).map(|n| format!("{{\"n\":{},\"of\":[{n}]}}", n % 7)).collect::<Vec<_>>();
    let document =
        |count| format!("{{\"port\":\"N\",\"in\":{{\"items\":[{}],\"end\":true}}}}", items(count).join(",\n"));
    let folder = Folder::new()
        .with("short.json", document(700))
        .with("long.json", document(70_000))
        .with("array.json", format!("[{}]", items(70_000).join(",")))
        .with("cut.json", document(70_000).get(..1_200_000).unwrap());
    let bounds = |name: &str| schema(&folder, &["--bounds", "observed", name]).1;
    let short = bounds("short.json");
    let length = |schema: &str, count: usize| {
        let schema = schema.replace(&format!("Items\":{count},"), "Items\":0,");
        schema.replace(&format!("\"maximum\":{},", count - 1), "\"maximum\":0,")
    };
    assert_eq!(length(&bounds("long.json"), 70_000), length(&short, 700));
    assert!(short.contains(r#""required":["items","end"]"#), "{short}");
    assert!(
        bounds("array.json").contains(r#""type":"array","minItems":70000,"maxItems":70000,"items":{"type":"object""#)
    );
    let (status, cut, err) = schema(&folder, &["cut.json"]);
    assert_eq!(status, 0);
    assert!(err.contains("cut.json is cut off; read up to line"), "{err}");
    assert!(cut.contains(r#""required":["port","in"]"#) && cut.contains(r#""required":["n","of"]"#), "{cut}");
}

#[test]
fn what_cannot_be_read_is_told() {
    let folder = Folder::new()
        .with("some.ndjson", "{\"a\":1}\n{\"a\":}\n{\"a\":1,\"a\":2}\n{\"a\":3}\n")
        .with("empty.json", "")
        .with("blank.ndjson", "\n\n")
        .with("names.csv", "a,b\n")
        .with("latin.json", b"{\"a\":\"\xff\"}")
        .with("no.json", "this is no JSON");
    let (status, found, err) = schema(&folder, &["some.ndjson"]);
    assert_eq!(status, 1);
    assert!(found.contains(r#""examples":[1,3]"#), "{found}");
    assert!(
        err.contains("some.ndjson:2") && err.contains("some.ndjson:3   passed over: the name `a` stands twice"),
        "{err}"
    );
    assert!(err.contains("2 records could not be read"), "{err}");
    for name in ["empty.json", "blank.ndjson", "names.csv", "latin.json", "no.json", "gone.json"] {
        let (status, found, err) = schema(&folder, &[name, "--output", "out.json"]);
        assert_eq!((status, found.as_str()), (2, ""), "{name}: {err}");
        assert!(
            err.contains("there is nothing in the samples") || err.contains("there is no such file"),
            "{name}: {err}"
        );
        assert!(!folder.path("out.json").exists());
    }
}

#[test]
fn evidence_names_what_speaks_against_saying_more() {
    let samples: String = (0..20)
        .map(|n| format!("{{\"id\":{n},\"day\":\"{}\"}}\n", if n == 6 { "soon" } else { "2026-04-02" }))
        .collect();
    let folder = Folder::new().with("s.ndjson", samples);
    let outcome = folder.run(&["infer", "s.ndjson", "--evidence", "--output", "out.json"]);
    assert_eq!(outcome.status, 0, "{}", outcome.err);
    let near = outcome.out.lines().find(|line| line.contains("not date")).unwrap();
    assert!(near.contains("19 of 20") && near.contains("\"soon\" (line 7)"), "{near}");
    assert!(folder.path("out.json").exists());
    let outcome = folder.run(&["infer", "s.ndjson", "--evidence", "--report", "ndjson"]);
    let rule = lines(&outcome.err).into_iter().find(|rule| rule["stated"] == false).unwrap();
    assert_eq!(
        (rule["schema_at"].as_str(), rule["rule"].as_str(), rule["agree"].as_u64()),
        (Some("/properties/day"), Some("format"), Some(19))
    );
    assert_eq!(
        (rule["counter_example"]["line"].as_u64(), rule["counter_example"]["document"].as_str()),
        (Some(7), Some("s.ndjson"))
    );
    assert!(outcome.out.starts_with("{\n  \"$schema\""));
}

#[test]
fn a_schema_that_people_edited_keeps_what_it_says() {
    let mine = "{\n    \"type\": \"object\",\n    \"properties\": {\n        \"n\": { \"maximum\": 3 }   \n    }\n}\n";
    let folder =
        Folder::new().with("mine.json", mine).with("s.ndjson", "{\"n\":2,\"new\":true}\n{\"n\":9,\"new\":false}\n");
    let outcome = folder.run(&["infer", "s.ndjson", "--into", "mine.json"]);
    assert_eq!(outcome.status, 1, "{}", outcome.err);
    assert!(outcome.err.contains("added  /properties/new"), "{}", outcome.err);
    assert!(
        outcome.err.contains("1 of 2 records contradict `maximum`, first s.ndjson:2:6: must be at most 3, found 9"),
        "{}",
        outcome.err
    );
    let merged = std::fs::read_to_string(folder.path("mine.json")).unwrap();
    assert_eq!(merged, mine.replace("3 }   ", "3 },\n        \"new\": { \"type\": \"boolean\" }   "));
    // Nothing is new the second time.
    folder.run(&["infer", "s.ndjson", "--into", "mine.json"]);
    assert_eq!(std::fs::read_to_string(folder.path("mine.json")).unwrap(), merged);
    for (arguments, message) in [
        (["infer", "s.ndjson", "--into", "gone.json"], "there is no such file"),
        (["infer", "-", "--into", "mine.json"], "it can be read once only"),
    ] {
        let outcome = folder.run_with_input(&arguments, b"{\"a\":1}");
        assert!(outcome.status == 2 && outcome.err.contains(message), "{arguments:?}: {}", outcome.err);
    }
}
