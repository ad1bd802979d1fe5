//! What is filled in for placeholders.

use fluent_bundle::types::FluentNumber;
use fluent_bundle::{FluentArgs, FluentValue};

/// Up to so many digits a number is one for plural rules; with more it is a text.
const MAX_DIGITS: usize = 15;

/// What is filled in for the placeholders of a text.
#[derive(Debug, Default)]
pub struct Arguments(FluentArgs<'static>);

impl Arguments {
    /// Adds a text.
    #[must_use]
    pub fn text(self, name: &str, text: impl Into<String>) -> Self {
        self.set(name, FluentValue::from(text.into()))
    }

    /// Adds a number, by its digits, which are said as they are; plural rules know what it is.
    #[must_use]
    pub fn number(self, name: &str, digits: impl Into<String>) -> Self {
        let digits = digits.into();
        // What cannot be told from the digits alone goes in as a text: binary fractions would change it.
        let plain = digits.len() <= MAX_DIGITS
            && digits.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'.' | b'-'));
        let number = plain.then(|| digits.parse::<FluentNumber>().ok()).flatten();
        match number.filter(|number| number.as_string() == digits) {
            Some(number) => self.set(name, FluentValue::Number(number)),
            None => self.text(name, digits),
        }
    }

    fn set(mut self, name: &str, value: FluentValue<'static>) -> Self {
        self.0.set(name.to_owned(), value);
        self
    }

    /// Whether there is something for a placeholder.
    pub fn has(&self, name: &str) -> bool {
        self.0.get(name).is_some()
    }

    pub(crate) fn fluent(&self) -> &FluentArgs<'static> {
        &self.0
    }
}
