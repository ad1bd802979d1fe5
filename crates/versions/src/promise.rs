//! What a version promises.

use std::fmt;
use std::str::FromStr;

/// The compatibility that a schema keeps between versions.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum Promise {
    /// Every document that the old version accepts is accepted by the new one.
    #[default]
    Backward,
    /// Every document that the new version accepts is accepted by the old one.
    Forward,
    /// Both.
    Full,
}

/// Which earlier versions a promise is kept to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum Scope {
    /// The latest one.
    #[default]
    Latest,
    /// All of them.
    All,
}

impl Promise {
    /// Whether what the old version accepts must be accepted by the new one.
    pub fn is_backward(self) -> bool {
        self != Promise::Forward
    }

    /// Whether what the new version accepts must be accepted by the old one.
    pub fn is_forward(self) -> bool {
        self != Promise::Backward
    }

    /// The word for it: `backward`, `forward` or `full`.
    pub fn word(self) -> &'static str {
        match self {
            Promise::Backward => "backward",
            Promise::Forward => "forward",
            Promise::Full => "full",
        }
    }
}

impl fmt::Display for Promise {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.word())
    }
}

impl FromStr for Promise {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let all = [Promise::Backward, Promise::Forward, Promise::Full];
        let found = all.into_iter().find(|promise| promise.word() == text);
        found.ok_or_else(|| format!("`{text}` is no promise: `backward`, `forward` or `full`"))
    }
}

impl Scope {
    /// The word for it: `latest` or `all`.
    pub fn word(self) -> &'static str {
        match self {
            Scope::Latest => "latest",
            Scope::All => "all",
        }
    }
}

impl FromStr for Scope {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let found = [Scope::Latest, Scope::All].into_iter().find(|scope| scope.word() == text);
        found.ok_or_else(|| format!("`{text}` is neither `latest` nor `all`"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn promises_are_read_and_written() {
        for (text, backward, forward) in [("backward", true, false), ("forward", false, true), ("full", true, true)] {
            let promise: Promise = text.parse().unwrap();
            assert_eq!((promise.is_backward(), promise.is_forward()), (backward, forward));
            assert_eq!(promise.to_string(), text);
        }
        for text in ["", "Backward", "both", "backward "] {
            assert!(text.parse::<Promise>().is_err(), "{text}");
        }
    }
}
