//! Languages by their tags, and what to fall back to.

use mervik_document::tongue::Tongue;
use std::fmt;
use unic_langid::LanguageIdentifier;

/// How many languages a chain may name.
const MAX_NAMED: usize = 20;

/// A language by its tag (BCP 47): `de`, `pt-BR`.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Language(LanguageIdentifier);

impl Language {
    /// A language by its tag; `None` for what is no tag.
    pub fn parse(tag: &str) -> Option<Language> {
        let language: LanguageIdentifier = tag.parse().ok()?;
        (language.language.as_str() != "und").then_some(Language(language))
    }

    pub(crate) fn identifier(&self) -> &LanguageIdentifier {
        &self.0
    }

    /// The language without its last part: `de` of `de-CH`.
    fn shorter(&self) -> Option<Language> {
        let mut less = self.0.clone();
        let varies = less.variants().len() > 0;
        match (varies, less.region.is_some(), less.script.is_some()) {
            (true, ..) => less.clear_variants(),
            (_, true, _) => less.region = None,
            (.., true) => less.script = None,
            _ => return None,
        }
        Some(Language(less))
    }
}

impl fmt::Display for Language {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.fmt(f)
    }
}

/// Languages in the order in which they are tried.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Languages(Vec<Language>);

impl Languages {
    /// A chain of tags with commas between them. Each is followed by itself without its last part, again and again: `de-CH, fr` is
    /// `de-CH`, `de`, `fr`.
    ///
    /// # Errors
    ///
    /// The part that is no tag of a language; the whole text, where it names more than twenty.
    pub fn parse(text: &str) -> Result<Languages, String> {
        let tags: Vec<&str> = text.split(',').map(str::trim).collect();
        if tags.len() > MAX_NAMED {
            return Err(text.to_owned());
        }
        let mut all = Vec::new();
        for tag in tags {
            let mut next = Some(Language::parse(tag).ok_or_else(|| tag.to_owned())?);
            while let Some(language) = next {
                next = language.shorter();
                if !all.contains(&language) {
                    all.push(language);
                }
            }
        }
        Ok(Languages(all))
    }

    /// The languages, the first one first.
    pub fn iter(&self) -> impl Iterator<Item = &Language> {
        self.0.iter()
    }

    /// The first of them that Mervik speaks itself, or English.
    pub fn tongue(&self) -> Tongue {
        self.iter().find_map(|language| Tongue::find(&language.to_string())).unwrap_or_default()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}

#[cfg(test)]
mod tests {
    use super::Languages;

    #[test]
    fn a_chain_falls_back_part_by_part() {
        for (text, chain) in [
            ("de", "de"),
            ("de-CH", "de-CH de"),
            ("de-CH,fr", "de-CH de fr"),
            ("de-ch, de-AT", "de-CH de de-AT"),
            ("zh-Hant-TW", "zh-Hant-TW zh-Hant zh"),
            ("ca-valencia", "ca-valencia ca"),
        ] {
            let languages = Languages::parse(text).unwrap();
            let all: Vec<String> = languages.iter().map(ToString::to_string).collect();
            assert_eq!(all.join(" "), chain, "{text}");
        }
    }

    #[test]
    fn what_is_no_tag_is_refused() {
        let many = ["de"; 21].join(",");
        for (text, part) in [
            ("", ""),
            ("de,", ""),
            ("german language", "german language"),
            ("de,?", "?"),
            ("und", "und"),
            (&many, &many),
        ] {
            assert_eq!(Languages::parse(text), Err(part.to_owned()));
        }
    }
}
