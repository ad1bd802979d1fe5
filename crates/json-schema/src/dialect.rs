//! The dialects of JSON Schema, and the vocabularies of which they are made.

/// A dialect that Mervik knows, in the order of their age.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Dialect {
    /// draft-04.
    Draft04,
    /// draft-06.
    Draft06,
    /// draft-07.
    Draft07,
    /// 2019-09.
    Draft201909,
    /// 2020-12.
    #[default]
    Draft202012,
}

impl Dialect {
    /// All dialects, the oldest first.
    pub const ALL: [Dialect; 5] =
        [Dialect::Draft04, Dialect::Draft06, Dialect::Draft07, Dialect::Draft201909, Dialect::Draft202012];

    /// The URI of the dialect's metaschema, which is what `$schema` says.
    pub fn uri(self) -> &'static str {
        match self {
            Dialect::Draft04 => "http://json-schema.org/draft-04/schema",
            Dialect::Draft06 => "http://json-schema.org/draft-06/schema",
            Dialect::Draft07 => "http://json-schema.org/draft-07/schema",
            Dialect::Draft201909 => "https://json-schema.org/draft/2019-09/schema",
            Dialect::Draft202012 => "https://json-schema.org/draft/2020-12/schema",
        }
    }

    /// The dialect's name: `2020-12`, `draft-07`.
    pub fn name(self) -> &'static str {
        match self {
            Dialect::Draft04 => "draft-04",
            Dialect::Draft06 => "draft-06",
            Dialect::Draft07 => "draft-07",
            Dialect::Draft201909 => "2019-09",
            Dialect::Draft202012 => "2020-12",
        }
    }

    /// The dialect whose metaschema has this URI; an empty fragment does not matter.
    pub fn find(uri: &str) -> Option<Dialect> {
        let uri = uri.strip_suffix('#').unwrap_or(uri);
        Dialect::ALL.into_iter().find(|dialect| dialect.uri() == uri)
    }
}

/// A vocabulary (Core, 4.3.3 and 8.1.2).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
pub(crate) enum Vocabulary {
    Core,
    Applicator,
    Unevaluated,
    Validation,
    Format,
    FormatAssertion,
    Content,
    MetaData,
}

/// A dialect, with the vocabularies that are in force.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Language {
    pub(crate) dialect: Dialect,
    vocabularies: u8,
    /// Whether it is the one of OpenAPI 3.0 (OpenAPI Specification 3.0.3, 4.7.24): draft-04, but for `nullable`, and with
    /// `readOnly`, `writeOnly` and `deprecated`.
    pub(crate) openapi: bool,
    /// Whether `discriminator` is a keyword, as it is in OpenAPI documents of all versions.
    pub(crate) discriminates: bool,
}

impl Language {
    /// The dialect as its standard defines it.
    pub(crate) fn standard(dialect: Dialect) -> Self {
        Language {
            dialect,
            vocabularies: !(1 << Vocabulary::FormatAssertion as u8),
            openapi: false,
            discriminates: false,
        }
    }

    /// The schemas of an OpenAPI 3.0 document.
    pub(crate) fn openapi() -> Self {
        Language { openapi: true, discriminates: true, ..Language::standard(Dialect::Draft04) }
    }

    /// The dialect with no vocabulary but the core one, which is always in force (Core, 8.1.2).
    pub(crate) fn core(dialect: Dialect) -> Self {
        Language { dialect, vocabularies: 1 << Vocabulary::Core as u8, openapi: false, discriminates: false }
    }

    pub(crate) fn add(&mut self, vocabulary: Vocabulary) {
        self.vocabularies |= 1 << vocabulary as u8;
        // 2019-09 has the unevaluated keywords in its applicator vocabulary.
        if self.dialect == Dialect::Draft201909 && vocabulary == Vocabulary::Applicator {
            self.vocabularies |= 1 << Vocabulary::Unevaluated as u8;
        }
    }

    pub(crate) fn has(self, vocabulary: Vocabulary) -> bool {
        self.vocabularies & (1 << vocabulary as u8) != 0
    }

    /// Whether `$ref` makes all its siblings go unread (draft-07, 8.3).
    pub(crate) fn ref_stands_alone(self) -> bool {
        self.dialect <= Dialect::Draft07
    }
}

/// The vocabulary with this URI, in either of the dialects that have vocabularies.
pub(crate) fn vocabulary(uri: &str) -> Option<Vocabulary> {
    let name = ["https://json-schema.org/draft/2019-09/vocab/", "https://json-schema.org/draft/2020-12/vocab/"]
        .iter()
        .find_map(|prefix| uri.strip_prefix(prefix))?;
    Some(match name {
        "core" => Vocabulary::Core,
        "applicator" => Vocabulary::Applicator,
        "unevaluated" => Vocabulary::Unevaluated,
        "validation" => Vocabulary::Validation,
        "format" | "format-annotation" => Vocabulary::Format,
        "format-assertion" => Vocabulary::FormatAssertion,
        "content" => Vocabulary::Content,
        "meta-data" => Vocabulary::MetaData,
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn dialects_are_found_by_their_uri() {
        for dialect in Dialect::ALL {
            assert_eq!(Dialect::find(dialect.uri()), Some(dialect));
            assert_eq!(Dialect::find(&format!("{}#", dialect.uri())), Some(dialect));
        }
        assert_eq!(Dialect::find("https://json-schema.org/draft/2020-12/schema#/x"), None);
        assert_eq!(Dialect::find("http://json-schema.org/draft-05/schema"), None);
    }

    #[test]
    fn vocabularies_are_in_force_when_they_are_named() {
        let mut language = Language::core(Dialect::Draft201909);
        assert!(language.has(Vocabulary::Core) && !language.has(Vocabulary::Validation));
        language.add(Vocabulary::Applicator);
        assert!(language.has(Vocabulary::Unevaluated));
        assert!(!Language::standard(Dialect::Draft202012).has(Vocabulary::FormatAssertion));
        assert!(vocabulary("https://json-schema.org/draft/2020-12/vocab/tides").is_none());
    }
}
