use super::*;
use proptest::prelude::*;

#[test]
fn patterns_match_as_ecma_262_says() {
    // pattern, what it matches, what it does not
    let table: &[(&str, &[&str], &[&str])] = &[
        ("^HMSU[0-9]{7}$", &["HMSU1234567"], &["hmsu1234567", "HMSU123456", "HMSU12345678", "HMSU1234567\n"]),
        ("berth", &["the berth", "berths"], &["Berth", ""]),
        (r"^\d+$", &["0123"], &["٣", "1a", ""]),
        (r"^\w+$", &["a_Z9"], &["é", "a-b"]),
        (r"^\s$", &[" ", "\u{a0}", "\u{feff}", "\u{2029}", "\u{b}"], &["\u{85}", "\u{200b}", "x"]),
        (r"^\S$", &["x", "\u{85}"], &["\u{feff}"]),
        ("^.$", &["x", "🚢", "\u{85}"], &["\n", "\r", "\u{2028}", "ab"]),
        (r"^[\w.+-]+@\w+$", &["a.b+c-d@x"], &["a b@x"]),
        (r"^[^\d\s]$", &["x"], &["1", " "]),
        (r"^[\D]$", &["x"], &["1"]),
        ("^[[&&~~a]$", &["[", "&", "~", "a"], &["b"]),
        ("^[a-]$", &["a", "-"], &["b"]),
        (r"^[\w-z]$", &["-", "z", "a"], &["!"]),
        ("^[^]$", &["\n", "x"], &[""]),
        ("[]", &[], &["", "x"]),
        (r"^\u{1F6A2}\uD83D\uDEA2\u0041\x42\cJ$", &["🚢🚢AB\n"], &["🚢AB\n"]),
        (r"^\p{Lu}\p{Script=Greek}\P{L}$", &["Éλ1"], &["éλ1", "Eλx"]),
        (r"^\-\/\.\$\@$", &["-/.$@"], &["-/x$@"]),
        ("^a{2}b{1,}c{0,1}$", &["aab", "aabbc"], &["ab", "aabcc"]),
        ("^a*?b+?c??$", &["ab", "bc"], &["c"]),
        ("^{a}$", &["{a}"], &["a"]),
        ("^x{a}$", &["x{a}"], &["xa"]),
        ("a#b c", &["a#b c"], &["a"]),
        (r"^\bberth\b$", &["berth"], &["berths"]),
        (r"\Bth", &["berth"], &["th"]),
        (r"^(?:dry|wet)(?<tail>-bulk)?$", &["dry", "wet-bulk"], &["dry-"]),
        (r"^[\b]$", &["\u{8}"], &["b"]),
        (r"^\0$", &["\0"], &["0"]),
        ("^(?!N0)N[0-9]$", &["N1"], &["N0"]),
        ("(?<=N)7", &["N7"], &["S7"]),
        ("(?<!N)7", &["S7"], &["N7"]),
        (r"^(a|b)\1$", &["aa", "bb"], &["ab"]),
        (r"^(?<x>a|b)-\k<x>$", &["a-a"], &["a-b"]),
    ];
    for (source, good, bad) in table {
        let pattern = Pattern::new(source).unwrap_or_else(|error| panic!("{source}: {error:?}"));
        assert_eq!(pattern.source(), *source);
        for text in *good {
            assert_eq!(pattern.matches(text), Some(true), "{source} must match {text:?}");
        }
        for text in *bad {
            assert_eq!(pattern.matches(text), Some(false), "{source} must not match {text:?}");
        }
    }
}

#[test]
fn what_is_no_pattern_is_refused_with_a_reason() {
    for (source, reason) in [
        ("(", "unclosed group"),
        ("a)", "unopened group"),
        ("[a", "a `[` is not closed"),
        ("[z-a]", "the range `z-a` runs backwards"),
        ("*", "there is nothing to repeat before `*`"),
        ("a++", "there is nothing to repeat before `+`"),
        ("a{2}{3}", "there is nothing to repeat before `{`"),
        ("a??*", "there is nothing to repeat before `*`"),
        ("(?:|+)", "there is nothing to repeat before `+`"),
        (r"\", "it ends in a single `\\`"),
        (r"\a", "ECMA-262 has no escape `\\a`"),
        (r"^\Zx", "ECMA-262 has no escape `\\Z`"),
        (r"\u12", "`\\u` must be followed by four hexadecimal digits or a code point in braces"),
        (r"\x1", "`\\x` must be followed by two hexadecimal digits"),
        (r"\c1", "`\\c` must be followed by a letter"),
        (r"\pL", "`\\p` must be followed by a property in braces"),
        (r"\p{Nonsense}", "Unicode property not found"),
        ("(?P<a>b)", "`(?` must be followed by `:`, `=`, `!` or a name in `<>`"),
        ("(?", "`(?` must be followed by `:`, `=`, `!` or a name in `<>`"),
        (r"\k", "`\\k` must be followed by a name in `<>`"),
        (r"\k<a", "`\\k` must be followed by a name in `<>`"),
        ("(a{1000}){1000}", "it takes more than 10485760 bytes when compiled"),
    ] {
        let error = Pattern::new(source).expect_err(source);
        assert_eq!(error.message, reason, "{source}");
    }
}

#[test]
fn a_pattern_that_would_take_too_long_gives_up() {
    let pattern = Pattern::new("^((?!b)a|(?!c)a)+$").unwrap();
    assert_eq!(pattern.matches("aaa"), Some(true));
    assert_eq!(pattern.matches(&format!("{}b", "a".repeat(200))), None);
}

proptest! {
    /// One expectation, every engine: the automaton that is walked here, and the library's own search.
    #[test]
    fn patterns_match_what_the_general_engine_matches(
        source in prop::sample::select(vec![
            "^a", "b$", "^ab$", "a|b$", "^(a|bc)*$", "[^a]b", "^.{2}$", "\\d+$", "^\\w+ \\w+$", "é", "^[^é]$", "", "^$", "a{2,3}",
            "\\bab\\b", "(?:a|b)c?$",
        ]),
        text in "[abc1 é\n]{0,6}",
    ) {
        let pattern = Pattern::new(source).unwrap();
        let general = regex::Regex::new(&translate::translate(source).unwrap().regex).unwrap();
        prop_assert_eq!(pattern.matches(&text), Some(general.is_match(&text)), "{} {:?}", source, text);
    }
}

#[test]
fn anchors_are_those_of_every_alternative() {
    let table = [
        ("^a$", Some((true, true))),
        ("^a", Some((true, false))),
        ("a$", Some((false, true))),
        ("^a|b$", Some((false, false))),
        ("^a|^b", Some((true, false))),
        ("^(?:a|b)$", Some((true, true))),
        ("a", Some((false, false))),
        ("(?=a)a", None),
        ("[", None),
    ];
    for (source, expected) in table {
        let expected = expected.map(|(start, end)| Anchors { start, end });
        assert_eq!(anchors(source), expected, "{source}");
    }
}
