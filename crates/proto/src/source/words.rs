//! What the parser and the reflection library say, in the words that Mervik uses.

/// Phrases of theirs, and ours.
const PHRASES: &[(&str, &str)] = &[
    (", but found ", ", found "),
    (", but reached end of file", ", found the end of the file"),
    ("invalid token", "expected a word, a number, text or punctuation of the language, found something else"),
    ("name '", "'"),
    ("the first value for proto3 enums must be 0", "the first value of an open enum must be 0"),
    (
        "fields must have a label with proto2 syntax (expected one of ",
        "with `syntax = \"proto2\"` a field needs a label (",
    ),
    ("default values are not allowed in proto3", "with `syntax = \"proto3\"` a field has no default value of its own"),
    ("groups are not allowed in proto3 syntax", "with `syntax = \"proto3\"` there are no groups"),
    ("required fields are not allowed in proto3 syntax", "with `syntax = \"proto3\"` no field is `required`"),
    ("message numbers must be between ", "the number of a field is between "),
    ("is not defined", "is defined neither here nor in what is imported"),
    ("invalid group name", "the name is not well formed"),
];

/// A complaint in our words.
pub(super) fn ours(theirs: &str) -> String {
    let mut text = theirs.to_owned();
    // What a name was taken for is the name itself, with its package.
    if let Some((name, _)) = text.split_once(" resolves to ") {
        text = format!("{name} is not defined");
    }
    for (phrase, better) in PHRASES {
        text = text.replace(phrase, better);
    }
    // Text in single quotes is what stands in the file.
    let mut parts = text.split('\'');
    let mut quoted = parts.next().unwrap_or("").to_owned();
    let rest: Vec<&str> = parts.collect();
    if rest.len().is_multiple_of(2) {
        for part in rest {
            quoted.push('`');
            quoted.push_str(part);
        }
        return quoted;
    }
    text
}

/// A way out of a complaint in our words.
pub(super) fn hint(message: &str) -> Option<String> {
    if !message.contains("mervik.") {
        return None;
    }
    if message.contains("is defined neither") {
        return Some(format!("`import \"{}\";` brings Mervik's rules", super::RULES_NAME));
    }
    let text = message.contains("of type `string`") || message.contains("of type `repeated string`");
    text.then(|| "values are text here, spelled as the JSON mapping does without quotes: `\"3\"`".to_owned())
}
