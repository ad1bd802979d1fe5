//! Contents of strings: encodings and media types (Validation, 8).

use data_encoding::{BASE64, BASE64URL, BASE64URL_NOPAD, HEXUPPER_PERMISSIVE};

/// An encoding that Mervik can check.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Encoding {
    /// RFC 4648, section 4.
    Base64,
    /// RFC 4648, section 5; padding may be absent.
    Base64Url,
    /// RFC 4648, section 8.
    Base16,
}

impl Encoding {
    /// The encoding that `contentEncoding` names; `None` for one that cannot be checked, which is an annotation.
    pub(crate) fn find(name: &str) -> Option<Encoding> {
        match name.to_ascii_lowercase().as_str() {
            "base64" => Some(Encoding::Base64),
            "base64url" => Some(Encoding::Base64Url),
            "base16" => Some(Encoding::Base16),
            _ => None,
        }
    }

    /// The encoding's name in RFC 4648.
    pub(crate) fn word(self) -> &'static str {
        match self {
            Encoding::Base64 => "base64",
            Encoding::Base64Url => "base64url",
            Encoding::Base16 => "base16",
        }
    }

    /// What `text` stands for; `None` when it is not so encoded.
    pub(crate) fn decode(self, text: &str) -> Option<Vec<u8>> {
        let bytes = text.as_bytes();
        // The decoder lets several padded runs follow each other.
        if self != Encoding::Base16 && text.trim_end_matches('=').contains('=') {
            return None;
        }
        match self {
            Encoding::Base64 => BASE64.decode(bytes).ok(),
            Encoding::Base64Url => BASE64URL.decode(bytes).or_else(|_| BASE64URL_NOPAD.decode(bytes)).ok(),
            Encoding::Base16 => HEXUPPER_PERMISSIVE.decode(bytes).ok(),
        }
    }
}

/// Whether a media type is that of JSON text (RFC 6838, RFC 6839).
pub(crate) fn is_json(media_type: &str) -> bool {
    let kind = media_type.split(';').next().unwrap_or("").trim().to_ascii_lowercase();
    kind == "application/json" || kind.ends_with("+json")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_encoded_is_decoded_and_what_is_not_is_refused() {
        for (name, text, decoded) in [
            ("base64", "SGFsdmVubW91dGg=", Some("Halvenmouth")),
            ("base64", "", Some("")),
            ("base64", "UGllcg==", Some("Pier")),
            ("base64", "UGllcg", None),
            ("base64", "UGllcg=", None),
            ("base64", "UGl=lcg=", None),
            ("base64", "UG llcg==", None),
            ("base64", "====", None),
            ("BASE64", "UGllcg==", Some("Pier")),
            ("base64url", "UGllcg", Some("Pier")),
            ("base64url", "UGllcg==", Some("Pier")),
            ("base64url", "a", None),
            ("base16", "5069657A", Some("Piez")),
            ("base16", "506", None),
            ("base16", "5G", None),
        ] {
            let found = Encoding::find(name).unwrap().decode(text);
            assert_eq!(found.as_deref(), decoded.map(str::as_bytes), "{name} {text}");
        }
        assert_eq!(Encoding::find("quoted-printable"), None);
    }

    #[test]
    fn media_types_of_json_are_known() {
        for (media_type, expected) in [
            ("application/json", true),
            ("Application/JSON; charset=utf-8", true),
            ("application/tide+json", true),
            ("text/plain", false),
        ] {
            assert_eq!(is_json(media_type), expected, "{media_type}");
        }
    }
}
