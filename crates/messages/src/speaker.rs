//! Who says what, in which language.

use crate::{Arguments, Catalogue, Languages, Message};
use mervik_document::tongue::Tongue;
use std::sync::Arc;

/// Where a text stands in catalogues.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Key<'k> {
    /// The message.
    pub id: &'k str,
    /// Its attribute; `None` for its own text.
    pub attribute: Option<&'k str>,
}

/// A text that may be said.
#[derive(Clone, Copy, Debug)]
pub struct Candidate<'c> {
    /// The number of the schema's file that it belongs to.
    pub file: usize,
    /// Its key in the catalogues; `None` where it has none.
    pub key: Option<Key<'c>>,
    /// What the schema itself says.
    pub text: Option<&'c Message>,
}

/// The catalogues beside the files of a schema, and the languages that are wanted. Cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Speaker {
    languages: Arc<Languages>,
    tongue: Tongue,
    /// Those of each file of the schema; the first one's help out.
    catalogues: Arc<Vec<Vec<Catalogue>>>,
}

impl Speaker {
    /// Someone who speaks these languages, with the catalogues of each file of a schema, in the order of the files.
    pub fn new(languages: Languages, catalogues: Vec<Vec<Catalogue>>) -> Speaker {
        let tongue = languages.tongue();
        Speaker { languages: Arc::new(languages), tongue, catalogues: Arc::new(catalogues) }
    }

    /// The language that Mervik speaks itself: the first that is wanted and that it knows, or English.
    pub fn tongue(&self) -> Tongue {
        self.tongue
    }

    /// The languages that are wanted.
    pub fn languages(&self) -> &Languages {
        &self.languages
    }

    /// Whether there is nothing that could be translated.
    pub fn is_silent(&self) -> bool {
        self.languages.is_empty() || self.catalogues.iter().all(Vec::is_empty)
    }

    /// The first text that can be said: in the first language that has one of the candidates, else as the schema has it. Candidates that
    /// come first are taken first.
    pub fn say(&self, candidates: &[Candidate<'_>], arguments: &Arguments) -> Option<String> {
        let translated = self.languages.iter().find_map(|language| {
            candidates.iter().find_map(|candidate| {
                let key = candidate.key?;
                let own = self.catalogues.get(candidate.file).into_iter().flatten();
                let first = self.catalogues.first().filter(|_| candidate.file > 0).into_iter().flatten();
                let mut speaking = own.chain(first).filter(|catalogue| catalogue.language() == language);
                speaking.find_map(|catalogue| catalogue.render(key.id, key.attribute, arguments))
            })
        });
        translated.or_else(|| candidates.iter().find_map(|candidate| candidate.text?.render(arguments)))
    }
}
