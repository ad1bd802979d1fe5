//! Ways to clean text up, as directives name them.

/// One way to clean a value up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Clean {
    /// White space at both ends goes.
    Trim,
    /// White space becomes one space each; at the ends it goes.
    CollapseSpace,
    /// Small letters.
    Lowercase,
    /// Capital letters.
    Uppercase,
    /// `""` becomes `null`.
    EmptyToNull,
    /// Members of an object that are `null` go.
    StripNulls,
}

impl Clean {
    /// All of them by the names that schemas have for them.
    pub const ALL: [(&str, Clean); 6] = [
        ("trim", Clean::Trim),
        ("collapse-space", Clean::CollapseSpace),
        ("lowercase", Clean::Lowercase),
        ("uppercase", Clean::Uppercase),
        ("empty-to-null", Clean::EmptyToNull),
        ("strip-nulls", Clean::StripNulls),
    ];

    /// The one of a name.
    pub fn find(name: &str) -> Option<Clean> {
        Clean::ALL.iter().find(|(known, _)| *known == name).map(|(_, clean)| *clean)
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        Clean::ALL.iter().find(|(_, clean)| *clean == self).map_or("", |(name, _)| name)
    }

    /// What it makes of a text; `None` where it changes nothing, or is about other things than text.
    pub fn apply(self, text: &str) -> Option<String> {
        let after = match self {
            Clean::Trim => text.trim().to_owned(),
            Clean::CollapseSpace => text.split_whitespace().collect::<Vec<_>>().join(" "),
            Clean::Lowercase => text.to_lowercase(),
            Clean::Uppercase => text.to_uppercase(),
            Clean::EmptyToNull | Clean::StripNulls => return None,
        };
        (after != text).then_some(after)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn text_is_cleaned_up_and_what_is_clean_stays() {
        let table = [
            ("trim", " a  b ", Some("a  b")),
            ("collapse-space", " a \n b ", Some("a b")),
            ("lowercase", "Ab", Some("ab")),
            ("uppercase", "Ab", Some("AB")),
            ("uppercase", "AB", None),
            ("empty-to-null", "", None),
        ];
        for (name, text, expected) in table {
            assert_eq!(Clean::find(name).unwrap().apply(text).as_deref(), expected, "{name} {text}");
        }
        assert_eq!(Clean::find("shine"), None);
    }
}
