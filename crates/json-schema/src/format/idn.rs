//! Internationalised host names (RFC 5890 to 5893).
//!
//! The `idna` crate maps and checks by UTS #46, which lets more pass than IDNA 2008 does. What is left, the code points that
//! are disallowed and those that need a certain context (RFC 5892, section 2.6 and appendix A), is checked here.

use idna::AsciiDenyList;
use idna::uts46::{DnsLength, Hyphens, Uts46};
use regex::Regex;
use std::sync::OnceLock;

pub(super) fn is_hostname(text: &str) -> bool {
    if text.is_ascii() && !text.to_ascii_lowercase().contains("xn--") {
        return super::net::is_hostname(text) && text.split('.').all(|label| label.get(2..4) != Some("--"));
    }
    let uts46 = Uts46::new();
    let length = DnsLength::Verify;
    if uts46.to_ascii(text.as_bytes(), AsciiDenyList::STD3, Hyphens::Check, length).is_err() {
        return false;
    }
    let (name, sound) = uts46.to_unicode(text.as_bytes(), AsciiDenyList::STD3, Hyphens::Check);
    sound.is_ok() && name.split('.').all(|label| is_label(&label.chars().collect::<Vec<char>>()))
}

fn is_label(label: &[char]) -> bool {
    let at = |index: Option<usize>| index.and_then(|index| label.get(index)).copied();
    label.iter().enumerate().all(|(index, c)| {
        let (before, after) = (at(index.checked_sub(1)), at(index.checked_add(1)));
        match c {
            // Section 2.6: exceptions that are disallowed.
            '\u{0640}' | '\u{07FA}' | '\u{302E}' | '\u{302F}' | '\u{3031}'..='\u{3035}' | '\u{303B}' => false,
            // Section 2.6: exceptions that are allowed.
            '\u{00DF}' | '\u{03C2}' | '\u{06FD}' | '\u{06FE}' | '\u{0F0B}' | '\u{3007}' | '-' => true,
            // Appendix A.1 and A.2: joiners, which `idna` has checked.
            '\u{200C}' | '\u{200D}' => true,
            // A.3: middle dot.
            '\u{00B7}' => before == Some('l') && after == Some('l'),
            // A.4: Greek lower numeral sign.
            '\u{0375}' => after.is_some_and(|c| is_of(&GREEK, r"\p{Greek}", c)),
            // A.5 and A.6: Hebrew punctuation.
            '\u{05F3}' | '\u{05F4}' => before.is_some_and(|c| is_of(&HEBREW, r"\p{Hebrew}", c)),
            // A.7: Katakana middle dot.
            '\u{30FB}' => {
                label.iter().any(|c| *c != '\u{30FB}' && is_of(&KANA, r"[\p{Hiragana}\p{Katakana}\p{Han}]", *c))
            }
            // A.8 and A.9: digits of two kinds do not mix.
            '\u{0660}'..='\u{0669}' => !label.iter().any(|c| ('\u{06F0}'..='\u{06F9}').contains(c)),
            '\u{06F0}'..='\u{06F9}' => !label.iter().any(|c| ('\u{0660}'..='\u{0669}').contains(c)),
            // Section 2.1: letters, digits and marks.
            c => c.is_ascii_alphanumeric() || is_of(&LETTERS, r"[\p{Ll}\p{Lo}\p{Lm}\p{Mn}\p{Mc}\p{Nd}]", *c),
        }
    })
}

static GREEK: OnceLock<Option<Regex>> = OnceLock::new();
static HEBREW: OnceLock<Option<Regex>> = OnceLock::new();
static KANA: OnceLock<Option<Regex>> = OnceLock::new();
static LETTERS: OnceLock<Option<Regex>> = OnceLock::new();

/// Whether a character is in a class, which is built once.
fn is_of(cell: &OnceLock<Option<Regex>>, class: &str, c: char) -> bool {
    let regex = cell.get_or_init(|| Regex::new(&format!("^{class}$")).ok());
    regex.as_ref().is_some_and(|regex| regex.is_match(c.encode_utf8(&mut [0; 4])))
}
