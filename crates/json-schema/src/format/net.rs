//! Host names and email addresses.

/// RFC 1123, section 2.1: labels of letters, digits and inner hyphens, 63 characters each and 253 in all.
pub(super) fn is_hostname(text: &str) -> bool {
    // The length of the label so far, and whether it would end in a hyphen.
    let (mut length, mut hyphen) = (0, false);
    for byte in text.bytes() {
        match byte {
            b'.' if length > 0 && !hyphen => length = 0,
            b'-' if length > 0 => (length, hyphen) = (length + 1, true),
            byte if byte.is_ascii_alphanumeric() => (length, hyphen) = (length + 1, false),
            _ => return false,
        }
        if length > 63 {
            return false;
        }
    }
    length > 0 && !hyphen && text.len() <= 253
}

/// Whether `text` is a URI of the plainest form: a scheme, `://`, a host and a path of unreserved characters. Others may
/// be URIs as well (RFC 3986, section 3).
pub(super) fn is_plain_url(text: &str) -> bool {
    let rest = text.strip_prefix("http").and_then(|rest| rest.strip_prefix("s://").or(rest.strip_prefix("://")));
    let plain = |byte: u8| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'.' | b'_' | b'~' | b'/');
    rest.is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_alphanumeric()) && rest.bytes().all(plain))
}

/// RFC 5321, section 4.1.2: `Mailbox`.
pub(super) fn is_email(text: &str) -> bool {
    text.is_ascii() && is_mailbox(text, is_hostname)
}

/// The same, with what RFC 6531, section 3.3, adds: any character that is not ASCII, and internationalised host names.
pub(super) fn is_idn_email(text: &str) -> bool {
    is_mailbox(text, super::idn::is_hostname)
}

fn is_mailbox(text: &str, is_host: fn(&str) -> bool) -> bool {
    // Bytes, not characters: `@` is never part of a longer one.
    let Some(at) = text.bytes().rposition(|byte| byte == b'@') else { return false };
    let (Some(local), Some(domain)) = (text.get(..at), text.get(at + 1..)) else { return false };
    if local.len() > 64 {
        return false;
    }
    let local = match local.strip_prefix('"') {
        Some(quoted) => quoted.strip_suffix('"').is_some_and(is_quoted),
        None => is_dot_string(local.as_bytes()),
    };
    let domain = match domain.strip_prefix('[').and_then(|literal| literal.strip_suffix(']')) {
        Some(literal) => match literal.strip_prefix("IPv6:") {
            Some(address) => address.parse::<std::net::Ipv6Addr>().is_ok(),
            None => literal.parse::<std::net::Ipv4Addr>().is_ok(),
        },
        None => is_host(domain),
    };
    local && domain
}

/// RFC 5321, section 4.1.2: `Dot-string`, atoms of `atext` (RFC 5322, section 3.2.3) with dots between them.
fn is_dot_string(bytes: &[u8]) -> bool {
    let mut after_dot = true;
    bytes.iter().all(|byte| {
        let dot = *byte == b'.';
        let right = if dot {
            !after_dot
        } else {
            byte.is_ascii_alphanumeric() || !byte.is_ascii() || b"!#$%&'*+-/=?^_`{|}~".contains(byte)
        };
        after_dot = dot;
        right
    }) && !after_dot
}

/// RFC 5321, section 4.1.2: `*QcontentSMTP`, without the quotes.
fn is_quoted(text: &str) -> bool {
    let mut bytes = text.bytes();
    while let Some(byte) = bytes.next() {
        let right = match byte {
            b'\\' => bytes.next().is_some_and(|byte| (32..=126).contains(&byte)),
            b'"' => false,
            byte => (32..=126).contains(&byte) || !byte.is_ascii(),
        };
        if !right {
            return false;
        }
    }
    true
}
