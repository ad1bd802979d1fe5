//! Schemas that mix every keyword with every other, and documents near to their edge.

use super::formats;
use super::resources::Dialect;
use crate::random::Random;
use crate::tree::Json;

/// A schema that was made.
#[derive(Clone, Debug)]
pub struct Made {
    /// Its dialect.
    pub dialect: Dialect,
    /// The schema.
    pub schema: Json,
}

/// Makes schemas and documents.
pub struct Generator {
    random: Random,
    dialect: Dialect,
    /// Which definitions there are: whether each has an identifier, and an anchor.
    definitions: Vec<(bool, bool)>,
    /// From which definition on others are mostly referred to, so that there are few circles.
    from: usize,
}

const NAMES: &[&str] = &["a", "b", "c", "aa", "x-n", "é", "k\"q"];
const TEXTS: &[&str] = &[
    "",
    "a",
    "b",
    "ab",
    "abc",
    "aab",
    "é",
    "🚢",
    "1",
    "a1",
    "x-n",
    "2026-02-29",
    "2024-02-29",
    "12:30:60Z",
    "23:59:60Z",
    "2026-12-02T10:00:00Z",
    "P1DT2H",
    "P1W",
    "10.0.0.1",
    "10.0.0.256",
    "::1",
    "1::2:3.4.5.6",
    "/a/~01",
    "/a/~2",
    "0#",
    "1/a",
    "550e8400-e29b-41d4-a716-446655440000",
    "line\nend",
];
const NUMBERS: &[&str] = &[
    "0",
    "-0",
    "0.0",
    "1",
    "1.0",
    "10e-1",
    "2",
    "3",
    "-1",
    "-1.5",
    "1.5",
    "0.1",
    "0.3",
    "1e2",
    "100",
    "1e-2",
    "12345678901234567890",
    "12345678901234567890.5",
    "1E+2",
    "-0.0e5",
    "9007199254740993",
    "0.5",
];
const PATTERNS: &[&str] = &[
    "a",
    "^a",
    "b$",
    "^a+b?$",
    "^[^a]*$",
    "^.$",
    "\\d",
    "^x-",
    "^\\w{1,2}$",
    "^(a|ab)(c|bcd)?$",
    "",
    "a+?b",
    "^\\S*$",
    "(?=a)a",
    "^(?!a)",
];

impl Generator {
    /// One for a seed and a dialect.
    pub fn new(seed: u64, dialect: Dialect) -> Self {
        Generator { random: Random::new(seed), dialect, definitions: Vec::new(), from: 0 }
    }

    /// A schema.
    pub fn schema(&mut self) -> Made {
        let modern = self.dialect >= Dialect::Draft201909;
        self.definitions = Vec::new();
        for _ in 0..self.random.below(4) {
            let named = (self.random.one_in(3), modern && self.random.one_in(4));
            self.definitions.push(named);
        }
        self.from = 0;
        let keep = if modern { "$defs" } else { "definitions" };
        let mut root = match self.rules(3) {
            Json::Object(members) => members,
            other => vec![("allOf".to_owned(), Json::Array(vec![other]))],
        };
        let mut definitions = Vec::new();
        for (index, (has_id, has_anchor)) in self.definitions.clone().into_iter().enumerate() {
            self.from = index + 1;
            let mut one = if has_id || has_anchor { self.rules(2) } else { self.one(2) };
            if let Json::Object(members) = &mut one {
                // Beside `$ref` an identifier would be none.
                if has_id && !modern {
                    members.retain(|(name, _)| name != "$ref");
                }
                if has_id {
                    members.insert(0, (self.dialect.id().to_owned(), Json::Text(format!("d{index}"))));
                }
                if self.dialect == Dialect::Draft202012 && self.random.one_in(3) {
                    members.push(("$dynamicAnchor".to_owned(), Json::text("n")));
                }
                if self.dialect == Dialect::Draft201909 && self.random.one_in(3) {
                    members.push(("$recursiveAnchor".to_owned(), Json::Bool(true)));
                }
                if has_anchor {
                    members.push(("$anchor".to_owned(), Json::Text(format!("at{index}"))));
                }
            }
            definitions.push((format!("d{index}"), one));
        }
        if self.dialect == Dialect::Draft202012 && self.random.one_in(2) {
            root.push(("$dynamicAnchor".to_owned(), Json::text("n")));
        }
        if self.dialect == Dialect::Draft201909 && self.random.one_in(3) {
            root.push(("$recursiveAnchor".to_owned(), Json::Bool(true)));
        }
        if !definitions.is_empty() {
            root.push((keep.to_owned(), Json::Object(definitions)));
        }
        root.insert(0, ("$schema".to_owned(), Json::text(self.dialect.uri())));
        Made { dialect: self.dialect, schema: Json::Object(root) }
    }

    fn one(&mut self, depth: usize) -> Json {
        if self.dialect >= Dialect::Draft06 && self.random.one_in(if depth == 0 { 3 } else { 12 }) {
            return Json::Bool(!self.random.one_in(3));
        }
        self.rules(depth)
    }

    fn many(&mut self, depth: usize, least: usize, most: usize) -> Json {
        let count = least + self.random.below(most - least + 1);
        Json::Array((0..count).map(|_| self.one(depth)).collect())
    }

    fn named(&mut self, depth: usize, names: &[&str]) -> Json {
        let count = 1 + self.random.below(3);
        let mut members: Vec<(String, Json)> = Vec::new();
        for _ in 0..count {
            let name = self.random.word(names).to_owned();
            if members.iter().all(|(known, _)| *known != name) {
                members.push((name, self.one(depth)));
            }
        }
        Json::Object(members)
    }

    fn some_names(&mut self) -> Json {
        let count = usize::from(self.dialect == Dialect::Draft04) + self.random.below(3);
        let mut names: Vec<Json> = Vec::new();
        for _ in 0..count {
            let name = self.random.word(NAMES);
            if names.iter().all(|known| known.as_text() != Some(name)) {
                names.push(Json::text(name));
            }
        }
        Json::Array(names)
    }

    fn count(&mut self) -> Json {
        Json::number(self.random.word(&["0", "1", "1", "2", "2", "3"]))
    }

    fn limit(&mut self) -> Json {
        Json::number(self.random.word(NUMBERS))
    }

    /// An object of keywords, each with a value that is meant for it.
    fn rules(&mut self, depth: usize) -> Json {
        let count = 1 + self.random.below(if depth == 0 { 2 } else { 4 });
        let mut members: Vec<(String, Json)> = Vec::new();
        for _ in 0..count {
            for (name, value) in self.keyword(depth) {
                if members.iter().all(|(known, _)| *known != name) {
                    members.push((name, value));
                }
            }
        }
        Json::Object(members)
    }

    fn keyword(&mut self, depth: usize) -> Vec<(String, Json)> {
        let one = |name: &str, value: Json| vec![(name.to_owned(), value)];
        let d = self.dialect;
        let deep = depth > 0;
        let below = depth.saturating_sub(1);
        match self.random.below(44) {
            0..=3 => one("type", self.types()),
            4 => {
                let count = 1 + self.random.below(3);
                let mut values: Vec<Json> = Vec::new();
                for _ in 0..count {
                    let value = self.value(1);
                    if !values.iter().any(|known| known.equals(&value)) {
                        values.push(value);
                    }
                }
                one("enum", Json::Array(values))
            }
            5 if d >= Dialect::Draft06 => one("const", self.value(1)),
            6 => one("multipleOf", Json::number(self.random.word(&["1", "0.1", "2", "1.5", "0.01", "1e1"]))),
            7 if d == Dialect::Draft04 => {
                let mut both = one("maximum", self.limit());
                if self.random.one_in(2) {
                    both.push(("exclusiveMaximum".to_owned(), Json::Bool(self.random.one_in(2))));
                }
                both
            }
            7 => one(self.random.word(&["maximum", "exclusiveMaximum"]), self.limit()),
            8 if d == Dialect::Draft04 => one("minimum", self.limit()),
            8 => one(self.random.word(&["minimum", "exclusiveMinimum"]), self.limit()),
            9 => one(self.random.word(&["maxLength", "minLength"]), self.count()),
            10 => one("pattern", Json::text(self.random.word(PATTERNS))),
            11 => one("format", Json::text(self.random.word(formats::KNOWN))),
            12 => one(self.random.word(&["maxItems", "minItems"]), self.count()),
            13 => one("uniqueItems", Json::Bool(!self.random.one_in(6))),
            14 => one(self.random.word(&["maxProperties", "minProperties"]), self.count()),
            15 | 16 => one("required", self.some_names()),
            17 if d >= Dialect::Draft201909 => {
                let name = self.random.word(NAMES).to_owned();
                one("dependentRequired", Json::Object(vec![(name, self.some_names())]))
            }
            17 => {
                let name = self.random.word(NAMES).to_owned();
                let value = if deep && self.random.one_in(2) { self.one(below) } else { self.some_names() };
                one("dependencies", Json::Object(vec![(name, value)]))
            }
            18 if deep && d >= Dialect::Draft201909 => one("dependentSchemas", self.named(below, NAMES)),
            19..=22 if deep => one("properties", self.named(below, NAMES)),
            23 if deep => one("patternProperties", self.named(below, PATTERNS)),
            24 => one("additionalProperties", self.closing(below)),
            25 if d >= Dialect::Draft06 => one("propertyNames", self.one(below.min(1))),
            26 if deep && d == Dialect::Draft202012 => one("prefixItems", self.many(below, 1, 3)),
            26 if deep => {
                let mut both = one("items", self.many(below, 1, 3));
                if self.random.one_in(2) {
                    both.push(("additionalItems".to_owned(), self.closing(below)));
                }
                both
            }
            27 if d == Dialect::Draft04 => one("items", self.rules(below)),
            27 => one("items", self.one(below)),
            28 if d >= Dialect::Draft06 => {
                let mut all = one("contains", self.one(below));
                if self.random.one_in(2) && d >= Dialect::Draft201909 {
                    all.push(("minContains".to_owned(), self.count()));
                }
                if self.random.one_in(3) && d >= Dialect::Draft201909 {
                    all.push(("maxContains".to_owned(), self.count()));
                }
                all
            }
            29 | 30 if deep => one("allOf", self.many(below, 1, 3)),
            31 | 32 if deep => one("anyOf", self.branches(below)),
            33 | 34 if deep => one("oneOf", self.branches(below)),
            35 => one("not", self.one(below)),
            36 if deep && d >= Dialect::Draft07 => {
                let mut all = one("if", self.one(below));
                for branch in ["then", "else"] {
                    if self.random.one_in(2) {
                        all.push((branch.to_owned(), self.one(below)));
                    }
                }
                all
            }
            37..=39 => self.reference(),
            40 if d >= Dialect::Draft201909 => one("unevaluatedProperties", self.closing(below)),
            41 if d >= Dialect::Draft201909 => one("unevaluatedItems", self.closing(below)),
            // What is no keyword, and keywords that need another one.
            42 => one(self.random.word(&["default", "then", "minContains", "x-note"]), Json::number("2")),
            _ => one("type", self.types()),
        }
        .into_iter()
        .filter(|(name, value)| name != "then" || !matches!(value, Json::Number(..)))
        .collect()
    }

    /// What is said of what nothing else speaks of: mostly no.
    fn closing(&mut self, depth: usize) -> Json {
        if self.random.one_in(2) { Json::Bool(false) } else { self.one(depth.min(1)) }
    }

    /// Branches, some of them with a property that tells them apart.
    fn branches(&mut self, depth: usize) -> Json {
        if !self.random.one_in(3) {
            return self.many(depth, 1, 3);
        }
        let tag = if self.dialect >= Dialect::Draft06 { "const" } else { "enum" };
        let branches = ["a", "b", "ab"].iter().take(2 + self.random.below(2)).map(|text| {
            let value = if tag == "const" { Json::text(text) } else { Json::Array(vec![Json::text(text)]) };
            let kind = Json::Object(vec![(tag.to_owned(), value)]);
            let mut properties = vec![("a".to_owned(), kind)];
            if self.random.one_in(2) {
                properties.push(("b".to_owned(), self.one(depth.min(1))));
            }
            let mut branch = vec![("properties".to_owned(), Json::Object(properties))];
            if self.random.one_in(2) {
                branch.push(("required".to_owned(), Json::Array(vec![Json::text("a")])));
            }
            if self.random.one_in(3) {
                branch.push(("additionalProperties".to_owned(), Json::Bool(false)));
            }
            Json::Object(branch)
        });
        Json::Array(branches.collect())
    }

    fn reference(&mut self) -> Vec<(String, Json)> {
        let keep = if self.dialect >= Dialect::Draft201909 { "$defs" } else { "definitions" };
        let from = if self.random.one_in(4) { 0 } else { self.from.min(self.definitions.len()) };
        let index = from + self.random.below(self.definitions.len() - from);
        let target = match self.definitions.get(index) {
            None if self.random.one_in(3) => "#".to_owned(),
            None => return Vec::new(),
            Some((true, _)) if self.random.one_in(2) => format!("d{index}"),
            Some((false, true)) if self.random.one_in(2) => format!("/schema.json#at{index}"),
            Some((true, true)) if self.random.one_in(2) => format!("d{index}#at{index}"),
            Some(_) => format!("/schema.json#/{keep}/d{index}"),
        };
        let keyword = match self.dialect {
            Dialect::Draft202012 if self.random.one_in(4) => {
                return vec![("$dynamicRef".to_owned(), Json::text(self.random.word(&["/schema.json#n", "#n", "#"])))];
            }
            Dialect::Draft201909 if self.random.one_in(4) => {
                return vec![("$recursiveRef".to_owned(), Json::text("#"))];
            }
            _ => "$ref",
        };
        vec![(keyword.to_owned(), Json::Text(target))]
    }

    fn types(&mut self) -> Json {
        const TYPES: &[&str] = &["object", "object", "array", "string", "number", "integer", "boolean", "null"];
        if self.random.one_in(4) {
            let mut names: Vec<&str> = vec![self.random.word(TYPES), self.random.word(TYPES)];
            names.dedup();
            return Json::Array(names.into_iter().map(Json::text).collect());
        }
        Json::text(self.random.word(TYPES))
    }

    /// Any value.
    pub fn value(&mut self, depth: usize) -> Json {
        match self.random.below(if depth == 0 { 6 } else { 14 }) {
            0 => Json::Null,
            1 => Json::Bool(self.random.one_in(2)),
            2 | 3 => Json::number(self.random.word(NUMBERS)),
            4 | 5 => Json::text(self.random.word(TEXTS)),
            6..=8 => {
                let count = self.random.below(4);
                Json::Array((0..count).map(|_| self.value(depth - 1)).collect())
            }
            _ => {
                let count = self.random.below(5);
                let mut members: Vec<(String, Json)> = Vec::new();
                for _ in 0..count {
                    let name = self.random.word(NAMES).to_owned();
                    if members.iter().all(|(known, _)| *known != name) {
                        members.push((name, self.value(depth - 1)));
                    }
                }
                Json::Object(members)
            }
        }
    }

    /// A value that a schema may be meant for: what its keywords name is in it.
    fn fitting(&mut self, schema: &Json, depth: usize) -> Json {
        if depth == 0 || self.random.one_in(8) {
            return self.value(depth.min(1));
        }
        let below = depth - 1;
        for keyword in ["const", "enum"] {
            if let Some(value) = schema.get(keyword) {
                match value.items() {
                    [] if keyword == "const" => return value.clone(),
                    [] => {}
                    items => return self.random.pick(items).clone(),
                }
            }
        }
        let branches: Vec<&Json> =
            ["anyOf", "oneOf", "allOf"].iter().filter_map(|name| schema.get(name)).flat_map(Json::items).collect();
        if !branches.is_empty() && self.random.one_in(2) {
            let branch = (*self.random.pick(&branches)).clone();
            return self.fitting(&branch, depth);
        }
        let kind = schema.get("type").and_then(|types| match types {
            Json::Array(types) => types.first().and_then(Json::as_text),
            one => one.as_text(),
        });
        let kind = kind.unwrap_or_else(|| {
            let about = |names: &[&str]| names.iter().any(|name| schema.get(name).is_some());
            match () {
                () if about(&["properties", "required", "additionalProperties", "unevaluatedProperties"]) => "object",
                () if about(&["items", "prefixItems", "contains", "uniqueItems", "unevaluatedItems"]) => "array",
                () => "any",
            }
        });
        match kind {
            "object" => {
                let mut members: Vec<(String, Json)> = Vec::new();
                let named: Vec<(String, Json)> = schema.get("properties").map_or(&[][..], Json::members).to_vec();
                for (name, one) in named {
                    if !self.random.one_in(4) {
                        let value = self.fitting(&one, below);
                        members.push((name, value));
                    }
                }
                let required: Vec<String> = schema
                    .get("required")
                    .map_or(&[][..], Json::items)
                    .iter()
                    .filter_map(|name| Some(name.as_text()?.to_owned()))
                    .collect();
                for name in required {
                    if members.iter().all(|(known, _)| *known != name) && !self.random.one_in(6) {
                        let value = self.value(below.min(1));
                        members.push((name, value));
                    }
                }
                if self.random.one_in(2) {
                    let name = self.random.word(NAMES).to_owned();
                    if members.iter().all(|(known, _)| *known != name) {
                        let value = self.value(below.min(1));
                        members.push((name, value));
                    }
                }
                self.random.shuffle(&mut members);
                Json::Object(members)
            }
            "array" => {
                let prefix: Vec<Json> = match schema.get("items") {
                    Some(Json::Array(items)) => items.clone(),
                    _ => schema.get("prefixItems").map_or(&[][..], Json::items).to_vec(),
                };
                let rest = schema.get("items").or(schema.get("contains")).cloned();
                let count = self.random.below(4);
                let items = (0..count).map(|index| match prefix.get(index).or(rest.as_ref()) {
                    Some(one) => self.fitting(&one.clone(), below),
                    None => self.value(below.min(1)),
                });
                Json::Array(items.collect())
            }
            "string" => Json::text(self.random.word(TEXTS)),
            "number" | "integer" => Json::number(self.random.word(NUMBERS)),
            "boolean" => Json::Bool(self.random.one_in(2)),
            "null" => Json::Null,
            _ => self.value(depth.min(2)),
        }
    }

    /// Documents for a schema: some that may hold, each with others that are one slip away.
    pub fn documents(&mut self, schema: &Json, count: usize) -> Vec<Json> {
        let mut documents = Vec::new();
        while documents.len() < count {
            let one = if self.random.one_in(5) { self.value(3) } else { self.fitting(schema, 4) };
            for _ in 0..self.random.below(3) {
                documents.push(self.slipped(&one));
            }
            // Again, so that what was learned from the first is used.
            if self.random.one_in(4) {
                documents.push(one.clone());
            }
            documents.push(one);
        }
        documents
    }

    /// The same with one thing changed.
    fn slipped(&mut self, value: &Json) -> Json {
        match value {
            Json::Object(members) if !members.is_empty() => {
                let mut members = members.clone();
                let at = self.random.below(members.len());
                match self.random.below(5) {
                    0 => _ = members.remove(at),
                    1 => self.random.shuffle(&mut members),
                    2 => {
                        let name = self.random.word(NAMES).to_owned();
                        if members.iter().all(|(known, _)| *known != name) {
                            let value = self.value(1);
                            members.insert(at, (name, value));
                        }
                    }
                    _ => {
                        if let Some((_, value)) = members.get_mut(at) {
                            *value = self.slipped(&value.clone());
                        }
                    }
                }
                Json::Object(members)
            }
            Json::Array(items) if !items.is_empty() => {
                let mut items = items.clone();
                let at = self.random.below(items.len());
                match self.random.below(4) {
                    0 => _ = items.remove(at),
                    1 => {
                        if let Some(item) = items.get(at).cloned() {
                            items.push(item);
                        }
                    }
                    _ => {
                        if let Some(value) = items.get_mut(at) {
                            *value = self.slipped(&value.clone());
                        }
                    }
                }
                Json::Array(items)
            }
            _ => self.value(1),
        }
    }
}
