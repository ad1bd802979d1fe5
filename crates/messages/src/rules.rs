//! What vetting looks for in catalogues: one record each.

use mervik_document::Severity;

/// One thing that vetting looks for in catalogues.
#[derive(Debug)]
pub struct CatalogueRule {
    /// The identifier, which stays the same from version to version.
    pub id: &'static str,
    /// How much it weighs.
    pub severity: Severity,
    /// What is the matter, as one phrase.
    pub title: &'static str,
    /// Why it matters, and what to do about it.
    pub why: &'static str,
    /// A catalogue that has it.
    pub bad: &'static str,
    /// The same catalogue without it.
    pub good: &'static str,
}

impl CatalogueRule {
    /// The rule with this identifier.
    pub fn find(id: &str) -> Option<&'static CatalogueRule> {
        CATALOGUE_RULES.iter().copied().find(|rule| rule.id == id)
    }
}

/// A catalogue that Fluent cannot read.
pub static BAD_CATALOGUE: CatalogueRule = CatalogueRule {
    id: "bad-catalogue",
    severity: Severity::Error,
    title: "a catalogue of messages cannot be read",
    why: "Catalogues are files of Fluent. `--language` refuses one that has faults, so that nobody gets half a translation without knowing.",
    bad: "length_m = Länge\n    .maximum = { $limit m sind das Meiste.",
    good: "length_m = Länge\n    .maximum = { $limit } m sind das Meiste.",
};

/// A placeholder that nobody fills in.
pub static STRANGE_PLACEHOLDER: CatalogueRule = CatalogueRule {
    id: "strange-placeholder",
    severity: Severity::Warning,
    title: "a message has a placeholder that nobody fills in",
    why: "Filled in are `value`, `title` and `place`, what the keyword has (`limit`, `count`, `missing`), and the fields that a rule reads, with hyphens for points. A message with another placeholder is passed over, and the next language of the chain is asked.",
    bad: "length_m = Länge\n    .maximum = { $most } m sind das Meiste.",
    good: "length_m = Länge\n    .maximum = { $limit } m sind das Meiste.",
};

/// A key that nobody asks for.
pub static UNASKED_MESSAGE: CatalogueRule = CatalogueRule {
    id: "unasked-message",
    severity: Severity::Warning,
    title: "a catalogue has a message that nobody asks for",
    why: "Messages are asked for by the identifier of a rule, by the name of a property or its `key`, and there by keyword, as attributes. The rule may have gone, or the name is misspelled.",
    bad: "lenght_m = Länge",
    good: "length_m = Länge",
};

/// A language that lacks what another one has.
pub static LACKING_MESSAGE: CatalogueRule = CatalogueRule {
    id: "lacking-message",
    severity: Severity::Warning,
    title: "a catalogue lacks messages that another language has",
    why: "Whoever asks for that language gets the message in the next one of the chain, or in the schema's own words.",
    bad: "# tow-plan.es.ftl, while tow-plan.de.ftl has `length_m` and `pilot`\nlength_m = Eslora",
    good: "length_m = Eslora\npilot = Práctico",
};

/// All of them.
pub static CATALOGUE_RULES: &[&CatalogueRule] =
    &[&BAD_CATALOGUE, &STRANGE_PLACEHOLDER, &UNASKED_MESSAGE, &LACKING_MESSAGE];
