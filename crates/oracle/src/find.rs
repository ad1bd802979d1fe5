//! What the oracles find: a verdict that is wrong, with the least that shows it.

use std::fmt;

/// A verdict that differs from the plain reading.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Find {
    /// On which way it was given.
    pub way: String,
    /// What the plain reading says.
    pub oracle: bool,
    /// What was said.
    pub said: bool,
    /// The schema, as small as it could be made.
    pub schema: String,
    /// The document, as small as it could be made.
    pub document: String,
    /// The seed of the pair.
    pub seed: u64,
}

impl fmt::Display for Find {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let word = |holds: bool| if holds { "valid" } else { "invalid" };
        let Find { way, oracle, said, schema, document, seed } = self;
        writeln!(f, "{way} says {}, the standard says {} (seed {seed})", word(*said), word(*oracle))?;
        writeln!(f, "  schema   {schema}")?;
        write!(f, "  document {document}")
    }
}

/// What came of a run.
#[derive(Clone, Debug, Default)]
pub struct Tally {
    /// Schemas that were made, and those among them that could be used.
    pub schemas: u64,
    /// Those among them that could be used.
    pub usable: u64,
    /// Pairs of a schema and a document.
    pub pairs: u64,
    /// Pairs that hold, by the oracle.
    pub valid: u64,
    /// Verdicts that were compared.
    pub verdicts: u64,
    /// What was found.
    pub finds: Vec<Find>,
}

impl Tally {
    /// Adds another run.
    pub fn add(&mut self, other: Tally) {
        self.schemas += other.schemas;
        self.usable += other.usable;
        self.pairs += other.pairs;
        self.valid += other.valid;
        self.verdicts += other.verdicts;
        self.finds.extend(other.finds);
    }
}

impl fmt::Display for Tally {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Tally { schemas, usable, pairs, valid, verdicts, finds } = self;
        write!(
            f,
            "{schemas} schemas ({usable} usable), {pairs} pairs ({valid} valid), {verdicts} verdicts, {} finds",
            finds.len()
        )
    }
}
