use super::*;

#[test]
fn patterns_match_the_whole_text() {
    let table: &[(&str, &[&str], &[&str])] = &[
        ("a|bc", &["a", "bc"], &["ac", "abc", ""]),
        ("", &[""], &["a"]),
        ("a||b", &["", "a", "b"], &["ab"]),
        ("(a|)b", &["b", "ab"], &["a"]),
        ("^a$", &["^a$"], &["a"]),
        (".", &["a", "é", "🚢"], &["", "\n", "\r", "ab"]),
        ("[a-z-[aeiou]]", &["b"], &["a", "-"]),
        ("[^a-z-[0-9]]", &["A"], &["a", "5"]),
        ("[a-z-[b-y-[m]]]", &["a", "m"], &["b"]),
        ("[a-]", &["a", "-"], &["b"]),
        ("[-a]", &["a", "-"], &["b"]),
        ("[+--]", &["+", ",", "-"], &["."]),
        ("[\\-x]", &["-", "x"], &["\\"]),
        ("[a^]", &["^"], &["b"]),
        ("[\\^a]", &["^"], &["b"]),
        ("[&&~~-]", &["&", "~", "-"], &["a"]),
        ("x{2}", &["xx"], &["x", "xxx"]),
        ("x{2,}", &["xx", "xxxxx"], &["x"]),
        ("x{0,2}", &["", "xx"], &["xxx"]),
        ("x{0}", &[""], &["x"]),
        ("\\d+", &["12", "٣"], &["a"]),
        ("\\w", &["a", "+", "$"], &["_", "-", "."]),
        ("\\i\\c*", &["a", ":x", "_-.", "é\u{301}"], &["1", "-", ""]),
        ("\\I\\C", &["1 "], &["a "]),
        ("\\p{Lu}\\P{Lu}", &["Aa"], &["aA"]),
        ("\\p{IsBasicLatin}+", &["az"], &["é"]),
        ("\\P{IsGreek}", &["a"], &["α"]),
        ("[\\p{IsThai}\\d]", &["ก", "5"], &["a"]),
        ("a b#c", &["a b#c"], &["ab"]),
        ("(?:a)", &[], &[]),
    ];
    for (pattern, good, bad) in table {
        let Ok(compiled) = Pattern::new(pattern) else {
            assert!(good.is_empty(), "{pattern}: {:?}", Pattern::new(pattern));
            continue;
        };
        for text in *good {
            assert!(compiled.matches(text), "{pattern} {text:?}");
        }
        for text in *bad {
            assert!(!compiled.matches(text), "{pattern} {text:?}");
        }
    }
}

#[test]
fn what_is_no_pattern_is_refused_with_its_place() {
    let table = [
        ("ab)", 2),
        ("(a", 2),
        ("[a", 2),
        ("a]", 1),
        ("*a", 0),
        ("a**", 2),
        ("a+?", 2),
        ("a{", 2),
        ("a{2", 3),
        ("a{2,1}", 6),
        ("a{,2}", 2),
        ("{", 0),
        ("\\y", 1),
        ("(a)\\1", 4),
        ("\\", 1),
        ("\\/", 1),
        ("\\$", 1),
        ("[b-a]", 3),
        ("[]", 1),
        ("[a-\\d]", 5),
        ("\\p", 2),
        ("\\p{Foo}", 3),
        ("\\p{IsKlingon}", 3),
        ("\\p{Lu", 5),
        ("[a[b]]", 2),
        ("[a-z-[b]c]", 9),
        ("(?=a)", 1),
    ];
    for (pattern, at) in table {
        let error = Pattern::new(pattern).map(|_| pattern).expect_err("it is none");
        assert_eq!(error.at, at, "{pattern}: {}", error.message);
    }
    let deep = "(".repeat(100_000);
    assert!(Pattern::new(&deep).is_err());
}

#[test]
fn blocks_are_found_and_near_names_told() {
    assert_eq!(blocks::range("Latin-1Supplement"), Some((0x80, 0xFF)));
    assert_eq!(Pattern::new("\\p{IsCyrilic}").unwrap_err().hint.as_deref(), Some("`IsCyrillic` is near"));
}
