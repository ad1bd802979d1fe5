//! Host names and email addresses.

/// RFC 1123, section 2.1: labels of letters, digits and inner hyphens, 63 characters each and 253 in all.
pub(super) fn is_hostname(text: &str) -> bool {
    !text.is_empty() && text.len() <= 253 && text.split('.').all(|label| is_label(label.as_bytes()))
}

fn is_label(label: &[u8]) -> bool {
    (1..=63).contains(&label.len())
        && label.iter().all(|byte| byte.is_ascii_alphanumeric() || *byte == b'-')
        && !label.starts_with(b"-")
        && !label.ends_with(b"-")
}

/// RFC 5321, section 4.1.2: `Mailbox`.
pub(super) fn is_email(text: &str) -> bool {
    let Some((local, domain)) = text.rsplit_once('@') else { return false };
    if local.len() > 64 || !text.is_ascii() {
        return false;
    }
    let local = match local.strip_prefix('"') {
        Some(quoted) => quoted.strip_suffix('"').is_some_and(is_quoted),
        None => local.split('.').all(|atom| !atom.is_empty() && atom.bytes().all(is_atom_text)),
    };
    let domain = match domain.strip_prefix('[').and_then(|literal| literal.strip_suffix(']')) {
        Some(literal) => match literal.strip_prefix("IPv6:") {
            Some(address) => address.parse::<std::net::Ipv6Addr>().is_ok(),
            None => literal.parse::<std::net::Ipv4Addr>().is_ok(),
        },
        None => is_hostname(domain),
    };
    local && domain
}

/// RFC 5322, section 3.2.3: `atext`.
fn is_atom_text(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || b"!#$%&'*+-/=?^_`{|}~".contains(&byte)
}

/// RFC 5321, section 4.1.2: `*QcontentSMTP`, without the quotes.
fn is_quoted(text: &str) -> bool {
    let mut bytes = text.bytes();
    while let Some(byte) = bytes.next() {
        let right = match byte {
            b'\\' => bytes.next().is_some_and(|byte| (32..=126).contains(&byte)),
            b'"' => false,
            byte => (32..=126).contains(&byte),
        };
        if !right {
            return false;
        }
    }
    true
}
