//! URI templates (RFC 6570, section 2).

/// Literals and expressions in braces.
pub(super) fn is_template(text: &str) -> bool {
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        rest = match c {
            '{' => match rest.get(1..).and_then(|inside| inside.split_once('}')) {
                Some((expression, after)) if is_expression(expression) => after,
                _ => return false,
            },
            '%' => match percent_encoded(rest) {
                Some(after) => after,
                None => return false,
            },
            c if is_literal(c) => rest.get(c.len_utf8()..).unwrap_or(""),
            _ => return false,
        };
    }
    true
}

/// Section 2.1: `literals`, apart from percent-encoded triplets.
fn is_literal(c: char) -> bool {
    match c {
        '"' | '\'' | '%' | '<' | '>' | '\\' | '^' | '`' | '{' | '|' | '}' | ' ' => false,
        c if c.is_ascii() => !c.is_ascii_control(),
        // `ucschar` and `iprivate`: all but controls, surrogates and noncharacters.
        c => !c.is_control() && (c as u32) & 0xFFFE != 0xFFFE && !('\u{FDD0}'..='\u{FDEF}').contains(&c),
    }
}

/// Section 2.2: an operator, perhaps, and variables.
fn is_expression(text: &str) -> bool {
    let variables = text.strip_prefix(['+', '#', '.', '/', ';', '?', '&', '=', ',', '!', '@', '|']).unwrap_or(text);
    variables.split(',').all(is_variable)
}

/// Section 2.3 and 2.4: a name with a modifier, perhaps.
fn is_variable(text: &str) -> bool {
    let name = match text.split_once(':') {
        Some((name, length)) => {
            let digits = length.bytes().all(|byte| byte.is_ascii_digit());
            if !digits || length.is_empty() || length.len() > 4 || length.starts_with('0') {
                return false;
            }
            name
        }
        None => text.strip_suffix('*').unwrap_or(text),
    };
    name.split('.').all(|part| {
        let mut rest = part;
        while let Some(c) = rest.chars().next() {
            rest = match c {
                '%' => match percent_encoded(rest) {
                    Some(after) => after,
                    None => return false,
                },
                c if c.is_ascii_alphanumeric() || c == '_' => rest.get(1..).unwrap_or(""),
                _ => return false,
            };
        }
        !part.is_empty()
    })
}

/// What follows `%` and two hexadecimal digits.
fn percent_encoded(text: &str) -> Option<&str> {
    let digits = text.as_bytes().get(1..3)?;
    digits.iter().all(u8::is_ascii_hexdigit).then(|| text.get(3..).unwrap_or(""))
}
