//! What a pattern names, and where.

use crate::{Fault, Placeholder};
use fluent_syntax::ast::{CallArguments, Expression, InlineExpression, Pattern, PatternElement};
use fluent_syntax::parser::ParserError;
use mervik_document::Span;

/// How deep braces and parentheses may lie within each other.
const MAX_DEPTH: usize = 20;

/// What a text may hold beyond Fluent's own syntax.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Within {
    /// One text by itself: there is nothing else that it could name.
    Message,
    /// A catalogue.
    Catalogue,
}

/// The first place where braces nest too deep: the parser would follow them with its stack.
pub(crate) fn too_deep(text: &str) -> Option<Fault> {
    // Parentheses count within braces alone, where they are calls; quotes there may hold either.
    let (mut open, mut quoted, mut escaped) = (Vec::new(), false, false);
    for (at, byte) in text.bytes().enumerate() {
        if quoted {
            quoted = (byte != b'"' || escaped) && byte != b'\n';
            escaped = byte == b'\\' && !escaped;
            continue;
        }
        match byte {
            b'"' if !open.is_empty() => (quoted, escaped) = (true, false),
            b'{' => open.push(byte),
            b'(' if !open.is_empty() => open.push(byte),
            b'}' => while open.pop().is_some_and(|last| last == b'(') {},
            b')' if open.last() == Some(&b'(') => {
                open.pop();
            }
            _ => {}
        }
        if open.len() > MAX_DEPTH {
            let span = Span { start: at as u32, end: at as u32 + 1 };
            return Some(Fault {
                span,
                message: format!("more than {MAX_DEPTH} braces lie within each other"),
                hint: None,
            });
        }
    }
    None
}

/// What Fluent's parser says, in our grammar of messages.
pub(crate) fn syntax(error: &ParserError, text: &str) -> Fault {
    let said = error.kind.to_string().replace('"', "`");
    let mut chars = said.chars();
    let first: String = chars.next().into_iter().flat_map(char::to_lowercase).collect();
    let start = error.pos.start.min(text.len());
    let end = text.get(start..).and_then(|rest| rest.chars().next()).map_or(start, |c| start + c.len_utf8());
    Fault {
        span: Span { start: start as u32, end: end.max(start) as u32 },
        message: format!("{first}{}", chars.as_str()),
        hint: Some("a placeholder is written `{ $value }`, a brace that is meant `{\"{\"}`".to_owned()),
    }
}

/// Where a part of a text stands in it.
pub(crate) fn span_of(part: &str, text: &str) -> Span {
    let start = (part.as_ptr() as usize).wrapping_sub(text.as_ptr() as usize).min(text.len());
    Span { start: start as u32, end: (start + part.len()).min(text.len()) as u32 }
}

/// The placeholders of a pattern, each as often as it stands there.
///
/// # Errors
///
/// What a pattern names that is not there: other messages in a text by itself, functions, of which there are none.
pub(crate) fn placeholders(pattern: &Pattern<&str>, text: &str, within: Within) -> Result<Vec<Placeholder>, Fault> {
    let mut gather = Gather { text, within, found: Vec::new() };
    gather.pattern(pattern)?;
    Ok(gather.found)
}

struct Gather<'t> {
    text: &'t str,
    within: Within,
    found: Vec<Placeholder>,
}

impl Gather<'_> {
    /// As deep as braces nest, which is bounded.
    fn pattern(&mut self, pattern: &Pattern<&str>) -> Result<(), Fault> {
        pattern.elements.iter().try_for_each(|element| match element {
            PatternElement::TextElement { .. } => Ok(()),
            PatternElement::Placeable { expression } => self.expression(expression),
        })
    }

    fn expression(&mut self, expression: &Expression<&str>) -> Result<(), Fault> {
        match expression {
            Expression::Inline(inline) => self.inline(inline),
            Expression::Select { selector, variants } => {
                self.inline(selector)?;
                variants.iter().try_for_each(|variant| self.pattern(&variant.value))
            }
        }
    }

    fn inline(&mut self, inline: &InlineExpression<&str>) -> Result<(), Fault> {
        let lost = |name: &str, message: String, hint: String| {
            Err(Fault { span: span_of(name, self.text), message, hint: Some(hint) })
        };
        match inline {
            InlineExpression::StringLiteral { .. } | InlineExpression::NumberLiteral { .. } => Ok(()),
            InlineExpression::VariableReference { id } => {
                self.found.push(Placeholder { name: id.name.to_owned(), span: span_of(id.name, self.text) });
                Ok(())
            }
            InlineExpression::Placeable { expression } => self.expression(expression),
            InlineExpression::FunctionReference { id, .. } => lost(
                id.name,
                format!("there is no function `{}`", id.name),
                "texts are filled in with placeholders alone".to_owned(),
            ),
            InlineExpression::MessageReference { id, .. } if self.within == Within::Message => {
                let message = format!("`{}` is no placeholder", id.name);
                lost(id.name, message, format!("a placeholder is written `{{ ${} }}`", id.name))
            }
            InlineExpression::TermReference { id, .. } if self.within == Within::Message => {
                lost(id.name, format!("there is no term `-{}`", id.name), "terms belong into catalogues".to_owned())
            }
            InlineExpression::TermReference { arguments, .. } => {
                arguments.as_ref().map_or(Ok(()), |arguments| self.arguments(arguments))
            }
            InlineExpression::MessageReference { .. } => Ok(()),
        }
    }

    fn arguments(&mut self, arguments: &CallArguments<&str>) -> Result<(), Fault> {
        let named = arguments.named.iter().map(|argument| &argument.value);
        arguments.positional.iter().chain(named).try_for_each(|argument| self.inline(argument))
    }
}
