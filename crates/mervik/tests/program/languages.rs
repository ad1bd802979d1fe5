//! Mervik's own messages in English, German, Spanish and Japanese: findings of all three languages of schemas, what is wrong with texts
//! themselves, and the reports around them.

use super::support::Folder;

const SCHEMA: &str = r#"{ "type": "object", "required": ["ship"], "additionalProperties": false, "properties": {
    "ship": { "type": "string", "minLength": 2 }, "count": { "type": "integer", "maximum": 9 }, "day": { "format": "date" } } }"#;

const XSD: &str = r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"><xs:element name="visit"><xs:complexType><xs:sequence>
    <xs:element name="ship" type="xs:token"/><xs:element name="count" type="xs:positiveInteger"/></xs:sequence></xs:complexType></xs:element></xs:schema>"#;

const PROTO: &str = r#"syntax = "proto3"; import "mervik/rules.proto"; message Visit {
    string ship = 1 [(mervik.field).min_length = 2]; int32 count = 2 [(mervik.field).maximum = 9]; }"#;

/// What is met: the document, by the schema of which language, and what each language says of it.
const TABLE: &[(&str, &str, &str, [&str; 4])] = &[
    (
        "s.schema.json",
        "d.json",
        r#"{ "ship": "A", "count": "7" }"#,
        [
            "must have at least 2 characters, found 1 in \"A\"",
            "muss mindestens 2 Zeichen haben, gefunden: 1 in \"A\"",
            "debe tener como mínimo 2 caracteres; se encontró 1 en \"A\"",
            "2文字以上が必要です（実際は\"A\"は1）",
        ],
    ),
    (
        "s.schema.json",
        "d.json",
        r#"{ "ship": "Anna", "count": 10 }"#,
        [
            "must be at most 9, found 10",
            "muss höchstens 9 sein, gefunden: 10",
            "debe ser como máximo 9; se encontró 10",
            "9以下でなければなりません（実際は10）",
        ],
    ),
    (
        "s.schema.json",
        "d.json",
        r#"{ "shop": "Anna" }"#,
        [
            "hint     `shop` is there: a misspelling?",
            "Hinweis  `shop` ist da: ein Schreibfehler?",
            "pista     está `shop`: ¿un error de escritura?",
            "ヒント   `shop`があります。書き間違いではありませんか",
        ],
    ),
    (
        "s.schema.json",
        "d.json",
        r#"{ "ship": "Anna", }"#,
        [
            "a comma must not stand before the closing bracket",
            "vor der schließenden Klammer darf kein Komma stehen",
            "no debe haber una coma antes del cierre",
            "閉じ括弧の前にコンマは置けません",
        ],
    ),
    (
        "s.schema.json",
        "d.yaml",
        "ship: Anna\ncount: .inf\n",
        [
            "expected a number that JSON has, found `.inf`",
            "erwartet: eine Zahl, die JSON hat; gefunden: `.inf`",
            "se esperaba un número que JSON tenga; se encontró `.inf`",
            "JSONにある数値が必要です（実際は`.inf`）",
        ],
    ),
    (
        "s.xsd",
        "d.xml",
        "<visit><ship>Anna</ship><count>0</count></visit>",
        [
            "expected at least 1, found `0`",
            "erwartet: mindestens 1; gefunden: `0`",
            "se esperaba como mínimo 1; se encontró `0`",
            "1以上が必要です（実際は`0`）",
        ],
    ),
    (
        "s.xsd",
        "d.xml",
        "<visit><ship>Anna</ship></visit>",
        [
            "expected `<count>` before the end of `visit`",
            "erwartet: `<count>` vor dem Ende von `visit`",
            "se esperaba `<count>` antes del final de `visit`",
            "`visit`の終わりの前に`<count>`が必要です",
        ],
    ),
    (
        "s.xsd",
        "d.xml",
        "<visit><ship>Anna</ship>",
        [
            "expected `</visit>`, found the end of the document",
            "erwartet: `</visit>`; gefunden: das Ende des Dokuments",
            "se esperaba `</visit>`; se encontró el final del documento",
            "`</visit>`が必要です（実際は文書の終わり）",
        ],
    ),
    (
        "s.proto",
        "d.json",
        r#"{ "ship": "Anna", "count": 10 }"#,
        [
            "expected at most 9, found 10",
            "erwartet: höchstens 9; gefunden: 10",
            "se esperaba como máximo 9; se encontró 10",
            "9以下が必要です（実際は10）",
        ],
    ),
    (
        "s.proto",
        "d.json",
        r#"{ "ship": "Anna", "count": "many" }"#,
        [
            "expected an integer (`int32`), found \"many\"",
            "erwartet: eine ganze Zahl (`int32`); gefunden: \"many\"",
            "se esperaba un entero (`int32`); se encontró \"many\"",
            "整数（`int32`）が必要です（実際は\"many\"）",
        ],
    ),
];

fn schemas() -> Folder {
    Folder::new().with("s.schema.json", SCHEMA).with("s.xsd", XSD).with("s.proto", PROTO)
}

#[test]
fn findings_of_all_languages_of_schemas_are_told_in_four_languages() {
    for (schema, name, document, said) in TABLE {
        let folder = schemas().with(name, *document);
        for (language, wanted) in ["en", "de-AT", "fr,es-MX", "ja"].iter().zip(said) {
            let outcome = folder.run(&["check", "--schema", schema, "--language", language, name]);
            assert!(outcome.status == 1 && outcome.out.contains(wanted), "{language} {wanted}\n{outcome:?}");
        }
        // Nobody asked for another language; one that is not spoken is none.
        for more in [&[][..], &["--language", "fr"]] {
            let outcome = folder.run(&[&["check", "--schema", schema, name], more].concat());
            assert!(outcome.out.contains(said[0]), "{outcome:?}");
        }
    }
}

#[test]
fn reports_speak_the_language_of_their_findings() {
    let folder = schemas().with("d.ndjson", "{ \"ship\": \"Anna\" }\n{ \"ship\": 7 }\n");
    let told = |language: &str, report: &str| {
        folder.run(&["check", "--schema", "s.schema.json", "--language", language, "--report", report, "d.ndjson"]).out
    };
    for (language, sums, row, heading, title) in [
        (
            "en",
            "1 document, 2 records: 1 refused, 1 finding",
            "document {",
            "Records with findings",
            "The document is refused",
        ),
        (
            "de",
            "1 Dokument, 2 Datensätze: 1 abgelehnt, 1 Befund",
            "Dokument {",
            "Datensätze mit Befunden",
            "Das Dokument wird abgelehnt",
        ),
        (
            "es",
            "1 documento, 2 registros: 1 rechazado, 1 hallazgo",
            "documento {",
            "Registros con hallazgos",
            "El documento se rechaza",
        ),
        ("ja", "文書1件、レコード2件: 拒否1件、指摘1件", "文書     {", "指摘のあるレコード", "文書は拒否されました"),
    ] {
        let text = told(language, "text");
        assert!(text.contains(sums) && text.contains(row), "{text}");
        let page = told(language, "html");
        assert!(page.contains(heading) && page.contains(&format!("<html lang=\"{language}\">")), "{page}");
        assert!(told(language, "problem").contains(title), "{language}");
        // What programs go by is the same in all languages.
        let json: serde_json::Value = serde_json::from_str(&told(language, "json")).unwrap();
        let finding = &json["documents"][0]["findings"][0];
        assert_eq!((finding["rule"].as_str(), finding["at"].as_str()), (Some("type"), Some("/ship")), "{json}");
    }
}

#[test]
fn nothing_is_betrayed_in_any_language() {
    let folder = schemas().with("d.json", r#"{ "ship": "A", "count": 123456 }"#);
    for language in ["en", "de", "es", "ja"] {
        for schema in ["s.schema.json", "s.proto"] {
            let call =
                ["check", "--schema", schema, "--language", language, "--redact", "--report", "problem", "d.json"];
            let outcome = folder.run(&call);
            assert!(outcome.status == 1 && !outcome.out.contains("123456"), "{outcome:?}");
        }
    }
}
