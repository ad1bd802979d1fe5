//! Conditions with parameters: written once, for fields that are called differently wherever they are used.
//!
//! A parameter stands where a field or a constant would. A condition is bound before it is checked, so whatever its arguments do not go
//! with is found where it is used.

use crate::parse::parse;
use crate::syntax::*;
use crate::{Fault, MAX_LENGTH};
use mervik_document::{Span, near};
use std::collections::BTreeMap;

/// How many bytes an argument may have: it may be put in as often as a parameter is named.
pub const MAX_ARGUMENT: usize = 500;

/// What stands for each parameter.
pub type Arguments = BTreeMap<String, Expr>;

/// What stood for each parameter of a rule of a set: a field by its path, or a constant.
#[derive(Clone, Debug, Default)]
pub struct Bound(Vec<(Box<str>, Box<str>)>);

impl Bound {
    /// The arguments that a rule was bound to.
    pub fn to(arguments: &Arguments) -> Bound {
        Bound(arguments.iter().map(|(name, value)| (name.as_str().into(), value.to_string().into())).collect())
    }

    /// The names of the parameters.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.0.iter().map(|(name, _)| &**name)
    }

    /// Each parameter with what stood for it: the path, if it is one of the fields that the rule reads, or the text of a constant.
    pub fn stands<'b>(&'b self, fields: &'b [String]) -> impl Iterator<Item = (&'b str, Result<&'b str, &'b str>)> {
        self.0.iter().map(|(name, stands)| match fields.iter().any(|field| **field == **stands) {
            true => (&**name, Ok(&**stands)),
            false => (&**name, Err(stands.trim_matches('"'))),
        })
    }
}

/// What is said of a rule of a set that does not go with where it is used.
pub fn unfit(id: &str, fault: &Fault) -> String {
    format!("the rule `{id}` of the set does not fit here: {}", fault.message)
}

/// Whether a parameter can be called so: letters, digits and `_`, a letter first, and no word of the language.
pub fn is_parameter(name: &str) -> bool {
    name.starts_with(|c: char| c.is_ascii_alphabetic())
        && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '_')
        && !RESERVED.contains(&name)
}

/// Reads an argument: a field by its path, or a constant.
///
/// # Errors
///
/// What is neither, or is longer than [`MAX_ARGUMENT`] bytes.
pub fn argument(text: &str) -> Result<Expr, Fault> {
    let whole = Span { start: 0, end: text.len() as u32 };
    if text.len() > MAX_ARGUMENT {
        let message = format!("an argument has {MAX_ARGUMENT} bytes at most");
        return Err(Fault { span: whole, message, hint: None });
    }
    let value = parse(text)?;
    let is_value = match &value.what {
        What::Minus(inner) => matches!(inner.what, What::Number(_) | What::Duration(..)),
        what => matches!(
            what,
            What::Number(_)
                | What::Text(_)
                | What::Truth(_)
                | What::Instant(..)
                | What::Duration(..)
                | What::Now(_)
                | What::Path(_)
        ),
    };
    match is_value {
        true => Ok(value),
        false => Err(Fault::new(
            whole,
            format!("`{value}` is no argument"),
            "an argument is a field by its path, or a constant: `voyage.arrival`, `12 hours`",
        )),
    }
}

/// What is wrong with the names of arguments: of which one, if it is about one, with a hint.
pub fn misnamed(parameters: &[String], given: &[&str]) -> Vec<(Option<usize>, String, Option<String>)> {
    let known = parameters.iter().map(String::as_str);
    let strange = given.iter().enumerate().filter(|(_, name)| !parameters.iter().any(|known| known == *name));
    let mut wrong: Vec<(Option<usize>, String, Option<String>)> = strange
        .map(|(index, name)| {
            let near = near::nearest(name, known.clone()).map(|near| format!("`{near}` is near"));
            (Some(index), format!("the set has no parameter `{name}`"), near)
        })
        .collect();
    let lacking: Vec<String> = known.filter(|name| !given.contains(name)).map(|name| format!("`{name}`")).collect();
    if !lacking.is_empty() {
        let hint = "`with` says which field or constant stands for each parameter".to_owned();
        wrong.push((None, format!("nothing stands for {}", lacking.join(", ")), Some(hint)));
    }
    wrong
}

/// The condition with an argument in the place of each parameter.
///
/// # Errors
///
/// An argument that is a constant where a field of it is asked for; one that begins like a variable of the condition; a condition that
/// becomes too long. O(length of what comes out).
pub fn bound(condition: &Expr, arguments: &Arguments) -> Result<Expr, Fault> {
    let mut bound = condition.clone();
    Binder { arguments, variables: Vec::new() }.bind(&mut bound)?;
    let text = bound.to_string();
    if text.len() > MAX_LENGTH {
        let message = format!("with its arguments it has {} bytes; at most {MAX_LENGTH} are read", text.len());
        return Err(Fault { span: condition.span, message, hint: None });
    }
    // Reading it again keeps to all bounds, and gives places that are of one text.
    parse(&text)
}

struct Binder<'a> {
    arguments: &'a Arguments,
    /// The variables of the quantifiers around.
    variables: Vec<String>,
}

impl Binder<'_> {
    /// As deep as the condition nests, which is bounded.
    fn bind(&mut self, expr: &mut Expr) -> Result<(), Fault> {
        let span = expr.span;
        match &mut expr.what {
            What::Path(path) => {
                if let Some(what) = self.put(path, span)? {
                    expr.what = what;
                }
                Ok(())
            }
            What::Number(_)
            | What::Text(_)
            | What::Truth(_)
            | What::Instant(..)
            | What::Duration(..)
            | What::Now(_) => Ok(()),
            What::Sum(first, terms) => {
                self.bind(first)?;
                terms.iter_mut().try_for_each(|(_, term)| self.bind(term))
            }
            What::Product(first, factors) => {
                self.bind(first)?;
                factors.iter_mut().try_for_each(|(_, factor)| self.bind(factor))
            }
            What::Minus(inner) | What::Call(_, inner) | What::Not(inner) | What::Of(inner, ..) => self.bind(inner),
            What::List(parts) | What::And(parts) | What::Or(parts) => {
                parts.iter_mut().try_for_each(|part| self.bind(part))
            }
            What::If(one, two) | What::Related(one, _, _, two) => {
                self.bind(one)?;
                self.bind(two)
            }
            What::Apart(one, _, _, two, _, three) | What::Between(one, _, two, three) => {
                self.bind(one)?;
                self.bind(two)?;
                self.bind(three)
            }
            What::Quantified(_, variable, list, body) => {
                self.bind(list)?;
                self.variables.push(variable.clone());
                let bound = self.bind(body);
                self.variables.pop();
                bound
            }
        }
    }

    /// What stands for a path, if it begins with a parameter.
    fn put(&self, path: &Path, span: Span) -> Result<Option<What>, Fault> {
        let (Start::Here, Some((name, rest))) = (&path.start, path.steps.split_first()) else { return Ok(None) };
        let Some(argument) = self.arguments.get(name).filter(|_| !self.variables.contains(name)) else {
            return Ok(None);
        };
        let What::Path(start) = &argument.what else {
            return match rest {
                [] => Ok(Some(argument.what.clone())),
                _ => {
                    let message = format!("`{path}` asks for a field of `{argument}`, which is a constant");
                    Err(Fault { span, message, hint: None })
                }
            };
        };
        if let Some(taken) = start.steps.first().filter(|first| self.variables.contains(first)) {
            return Err(Fault::new(
                span,
                format!("the argument `{argument}` begins like the variable `{taken}` of the rule"),
                "another name for the variable tells them apart",
            ));
        }
        let steps = start.steps.iter().chain(rest).cloned().collect();
        Ok(Some(What::Path(Path { start: start.start.clone(), steps })))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A condition, its arguments, and what comes of it.
    type Case = (&'static str, &'static [(&'static str, &'static str)], &'static str);

    fn arguments(all: &[(&str, &str)]) -> Arguments {
        all.iter().map(|(name, text)| ((*name).to_owned(), argument(text).unwrap())).collect()
    }

    #[test]
    fn arguments_stand_for_parameters() {
        let table: &[Case] = &[
            ("until is after from", &[("from", "starts"), ("until", "voyage.ends")], "voyage.ends is after starts"),
            ("until is at most span after from", &[("span", "12 hours")], "until is at most 12 hours after from"),
            ("sum of parts.weight is whole", &[("parts", "above.items")], "sum of above.items.weight is whole"),
            (
                "each x among list: x is less than most",
                &[("list", "here"), ("most", "-3")],
                "each x among here: x is less than -3",
            ),
            // A variable hides a parameter, and is no argument.
            ("each from among stops: from is present", &[("from", "starts")], "each from among stops: from is present"),
            ("whole * 2 is 4", &[("whole", "`is`")], "`is` * 2 is 4"),
            (
                "if a is present then not b is 1",
                &[("a", "x"), ("b", "document.y")],
                "if x is present then not document.y is 1",
            ),
            (
                "length of a is between low and high",
                &[("low", "1"), ("high", "b.c")],
                "length of a is between 1 and b.c",
            ),
            ("x.from is 1", &[("from", "starts")], "x.from is 1"),
        ];
        for (condition, with, wanted) in table {
            let bound = bound(&parse(condition).unwrap(), &arguments(with)).unwrap();
            assert_eq!(bound.to_string(), *wanted, "{condition}");
            assert_eq!(bound, parse(wanted).unwrap(), "{condition}");
        }
    }

    #[test]
    fn what_does_not_go_together_is_refused() {
        let table: &[Case] = &[
            ("a.b is 1", &[("a", "12 hours")], "`a.b` asks for a field of `12 hours`, which is a constant"),
            (
                "each x among list: x is less than most",
                &[("most", "x.y")],
                "the argument `x.y` begins like the variable `x` of the rule",
            ),
        ];
        for (condition, with, wanted) in table {
            let fault = bound(&parse(condition).unwrap(), &arguments(with)).unwrap_err();
            assert_eq!(fault.message, *wanted, "{condition}");
        }
        let long = format!("a is 1{}", " or a is 1".repeat(1_000));
        let wide = arguments(&[("a", &"x".repeat(400))]);
        let fault = bound(&parse(&long).unwrap(), &wide).unwrap_err();
        assert!(fault.message.starts_with("with its arguments it has 40"), "{}", fault.message);
    }

    #[test]
    fn arguments_are_fields_or_constants() {
        for text in
            ["starts", "above.starts", "document", "here", "12 hours", "-2", "\"x\"", "true", "2026-11-29", "today"]
        {
            assert!(argument(text).is_ok(), "{text}");
        }
        for text in ["", "a + b", "a is 1", "count of a", "one of (1)", "-a", "not a", &"x".repeat(501)] {
            assert!(argument(text).is_err(), "{text}");
        }
        for (name, fits) in [("from", true), ("a_1", true), ("1a", false), ("is", false), ("a-b", false), ("", false)] {
            assert_eq!(is_parameter(name), fits, "{name}");
        }
    }

    #[test]
    fn names_of_arguments_are_those_of_parameters() {
        let parameters = ["from".to_owned(), "until".to_owned()];
        assert_eq!(misnamed(&parameters, &["until", "from"]), []);
        let wrong = misnamed(&parameters, &["form", "until"]);
        assert_eq!(
            wrong[0],
            (Some(0), "the set has no parameter `form`".to_owned(), Some("`from` is near".to_owned()))
        );
        assert_eq!((wrong[1].0, wrong[1].1.as_str()), (None, "nothing stands for `from`"));
    }
}
