//! The word that somebody probably meant.

/// The candidate that `word` is most likely a misspelling of, if any is near enough.
///
/// Spellings that differ in case or in `_`, `-` and spaces alone are nearest. Otherwise at most a third of the
/// characters may be wrong, missing, extra or swapped, and at least one is allowed from three characters on. `word`
/// itself is never the answer. Words over 64 bytes are not compared. O(candidates × length²).
pub fn nearest<'c>(word: &str, candidates: impl IntoIterator<Item = &'c str>) -> Option<&'c str> {
    let folded = fold(word);
    let length = folded.chars().count();
    if word.len() > MAX_WORD || length == 0 {
        return None;
    }
    let allowed = if length < 3 { 0 } else { (length / 3).max(1) };
    candidates
        .into_iter()
        .filter(|candidate| *candidate != word && candidate.len() <= MAX_WORD)
        .filter_map(|candidate| {
            let distance = strsim::damerau_levenshtein(&folded, &fold(candidate));
            (distance <= allowed).then_some((distance, candidate))
        })
        .min_by_key(|(distance, _)| *distance)
        .map(|(_, candidate)| candidate)
}

/// The candidate that `word` differs from by a slip of the fingers alone: in case or separators, or by one character
/// that is wrong, missing, extra or swapped, by two in words of eight characters or more.
///
/// Stricter than [`nearest`], for words that may well be what they are.
pub fn slip_of<'c>(word: &str, candidates: impl IntoIterator<Item = &'c str>) -> Option<&'c str> {
    let folded = fold(word);
    let allowed = match folded.chars().count() {
        0..4 => 0,
        4..8 => 1,
        _ => 2,
    };
    nearest(word, candidates).filter(|near| strsim::damerau_levenshtein(&folded, &fold(near)) <= allowed)
}

const MAX_WORD: usize = 64;

fn fold(word: &str) -> String {
    word.chars().filter(|c| !matches!(c, '_' | '-' | ' ')).flat_map(char::to_lowercase).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn near_spellings_are_found_and_far_ones_are_not() {
        let names = ["draught_m", "beam_m", "length_m", "imo", "flag"];
        let table = [
            ("draugth_m", Some("draught_m")),
            ("draughtM", Some("draught_m")),
            ("Beam-m", Some("beam_m")),
            ("lenght_m", Some("length_m")),
            ("IMO", Some("imo")),
            ("omi", None),
            ("io", None),
            ("remarks", None),
            ("flag", None),
            ("", None),
        ];
        for (word, expected) in table {
            assert_eq!(nearest(word, names), expected, "{word}");
        }
    }

    #[test]
    fn slips_are_nearer_than_near() {
        let keywords = ["required", "minLength", "title", "not", "examples", "patternProperties"];
        let table = [
            ("requried", Some("required")),
            ("minlength", Some("minLength")),
            ("min_length", Some("minLength")),
            ("tilte", Some("title")),
            ("example", Some("examples")),
            ("patternPropertys", Some("patternProperties")),
            ("title_de", None),
            ("requires_pilot", None),
            ("nt", None),
        ];
        for (word, expected) in table {
            assert_eq!(slip_of(word, keywords), expected, "{word}");
        }
    }

    #[test]
    fn long_words_are_left_alone() {
        let long = "x".repeat(100_000);
        assert_eq!(nearest(&long, ["xx"]), None);
    }
}
