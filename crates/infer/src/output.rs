//! JSON text as people write it: short values on one line, long ones over several.

use mervik_document::edit::quoted;

/// A JSON value that is to be written.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Json {
    /// As it is written.
    Raw(String),
    Array(Vec<Json>),
    Object(Vec<(String, Json)>),
}

/// So wide a line may be.
const WIDTH: usize = 100;

impl Json {
    pub(crate) fn text(text: &str) -> Json {
        Json::Raw(quoted(text))
    }

    pub(crate) fn number(number: impl ToString) -> Json {
        Json::Raw(number.to_string())
    }

    pub(crate) fn texts<'t>(texts: impl IntoIterator<Item = &'t str>) -> Json {
        Json::Array(texts.into_iter().map(Json::text).collect())
    }

    /// The text, with a line end. The depth is that of what was built, which is bounded.
    pub(crate) fn pretty(&self) -> String {
        let mut out = String::new();
        self.write(&mut out, 0);
        out.push('\n');
        out
    }

    /// On one line.
    pub(crate) fn flat(&self) -> String {
        let join = |parts: Vec<String>| parts.join(", ");
        match self {
            Json::Raw(text) => text.clone(),
            Json::Array(items) => format!("[{}]", join(items.iter().map(Json::flat).collect())),
            Json::Object(members) if members.is_empty() => "{}".to_owned(),
            Json::Object(members) => {
                let member = |(name, value): &(String, Json)| format!("{}: {}", quoted(name), value.flat());
                format!("{{ {} }}", join(members.iter().map(member).collect()))
            }
        }
    }

    /// How many containers stand in one another.
    fn levels(&self) -> usize {
        match self {
            Json::Raw(_) => 0,
            Json::Array(items) => 1 + items.iter().map(Json::levels).max().unwrap_or(0),
            Json::Object(members) => 1 + members.iter().map(|(_, value)| value.levels()).max().unwrap_or(0),
        }
    }

    fn write(&self, out: &mut String, indent: usize) {
        let column = out.len() - out.rfind('\n').map_or(0, |end| end + 1);
        if self.levels() <= 2 {
            let flat = self.flat();
            if column + flat.chars().count() < WIDTH {
                out.push_str(&flat);
                return;
            }
        }
        let pad = "  ".repeat(indent + 1);
        let (open, close) = if matches!(self, Json::Array(_)) { ('[', ']') } else { ('{', '}') };
        let each = |out: &mut String, index: usize, name: Option<&str>, value: &Json| {
            out.push_str(if index == 0 { "\n" } else { ",\n" });
            out.push_str(&pad);
            if let Some(name) = name {
                out.push_str(&quoted(name));
                out.push_str(": ");
            }
            value.write(out, indent + 1);
        };
        match self {
            Json::Raw(text) => return out.push_str(text),
            Json::Array(items) => {
                out.push(open);
                items.iter().enumerate().for_each(|(index, item)| each(out, index, None, item));
            }
            Json::Object(members) => {
                out.push(open);
                members.iter().enumerate().for_each(|(index, (name, value))| each(out, index, Some(name), value));
            }
        }
        out.push('\n');
        out.push_str(&"  ".repeat(indent));
        out.push(close);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn short_values_stand_on_one_line_and_long_ones_on_several() {
        let word = |name: &str| (name.to_owned(), Json::text("x"));
        let long = "y".repeat(60);
        let table = [
            (Json::Object(Vec::new()), "{}\n".to_owned()),
            (Json::Array(Vec::new()), "[]\n".to_owned()),
            (Json::Array(vec![Json::number(1), Json::text("a\"b")]), "[1, \"a\\\"b\"]\n".to_owned()),
            (Json::Object(vec![word("a"), word("b")]), "{ \"a\": \"x\", \"b\": \"x\" }\n".to_owned()),
            (Json::texts([long.as_str(), long.as_str()]), format!("[\n  \"{long}\",\n  \"{long}\"\n]\n")),
            (
                // What has many levels is spread out, however short it is.
                Json::Object(vec![("a".to_owned(), Json::Array(vec![Json::Object(vec![word("b")])]))]),
                "{\n  \"a\": [{ \"b\": \"x\" }]\n}\n".to_owned(),
            ),
        ];
        for (json, expected) in table {
            assert_eq!(json.pretty(), expected);
            assert_eq!(
                json.flat().split_whitespace().collect::<String>(),
                expected.split_whitespace().collect::<String>()
            );
        }
    }
}
