//! The schema that was seen, and the evidence for each of its rules.

use crate::evidence::{Arrays, Evidence, Node, Numbers, Seen};
use crate::objects::{Group, Objects};
use crate::output::Json;
use crate::shapes::{self, Shapes};
use crate::strings::Strings;
use crate::{Bounds, Settings};
use mervik_document::{Kind, pointer};
use mervik_json_schema::looks_secret;

/// A schema that was drafted.
#[derive(Clone, Debug)]
pub struct Drafted {
    /// Its text: JSON Schema 2020-12.
    pub schema: String,
    /// What stands behind each rule of it, and what was nearly one, in the order of the text.
    pub rules: Vec<Rule>,
}

/// A rule, or what was nearly one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rule {
    /// The JSON Pointer of the schema that it stands in.
    pub at: String,
    /// The keyword.
    pub keyword: &'static str,
    /// What it says, in short: `integer`, `date-time`, the name of a property.
    pub says: String,
    /// How many values agree with it,
    pub behind: u64,
    /// of how many.
    pub of: u64,
    /// Whether it is a rule of the schema.
    pub stated: bool,
    /// What speaks against it, or against saying more: a value, and where it was seen.
    pub against: Option<(String, Seen)>,
}

/// A property that was there in so many of a hundred objects was nearly always there.
const NEARLY: u64 = 90;

/// So many objects must be seen before properties that were in some of them are worth a remark.
const ENOUGH: u64 = 10;

/// Drafts the schema of what was seen.
pub fn draft(evidence: Evidence, settings: &Settings) -> Drafted {
    let Shapes { root, root_anchor, definitions } = shapes::shapes(evidence);
    let mut references: Vec<(usize, String)> = Vec::new();
    references.extend(root_anchor.map(|anchor| (anchor, "#".to_owned())));
    references.extend(definitions.iter().map(|one| (one.anchor, format!("#/$defs/{}", one.name))));
    let mut drafter = Drafter { settings: *settings, references, rules: Vec::new() };
    let mut members = vec![("$schema".to_owned(), Json::text("https://json-schema.org/draft/2020-12/schema"))];
    if let Json::Object(own) = drafter.node(&root, "", false) {
        members.extend(own);
    }
    if !definitions.is_empty() {
        let defined = definitions.iter().map(|one| {
            let at = format!("/$defs/{}", one.name);
            (one.name.clone(), Json::Object(drafter.objects(&one.objects, &at)))
        });
        let defined = defined.collect();
        members.push(("$defs".to_owned(), Json::Object(defined)));
    }
    Drafted { schema: Json::Object(members).pretty(), rules: drafter.rules }
}

struct Drafter {
    settings: Settings,
    /// Where nodes that refer to an anchor lead.
    references: Vec<(usize, String)>,
    rules: Vec<Rule>,
}

/// One kind of the values in a place.
struct Part {
    /// The word for `type`; `None` for a reference.
    word: Option<&'static str>,
    first: Option<Seen>,
    keywords: Vec<(String, Json)>,
}

/// A kind of values, as far as a draft tells them apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum What {
    Reference,
    Objects,
    Array,
    String,
    Number,
    Boolean,
    Null,
}

/// The kinds of values in a place, and how often each was seen: the most frequent first, `null` last.
fn kinds(node: &Node) -> Vec<(What, u64)> {
    let objects = if node.refers.is_some() { What::Reference } else { What::Objects };
    let all = [
        (objects, node.object_count()),
        (What::Array, node.arrays.as_ref().map_or(0, |arrays| arrays.count)),
        (What::String, node.strings.as_ref().map_or(0, |strings| strings.count)),
        (What::Number, node.numbers.count),
        (What::Boolean, node.booleans),
        (What::Null, node.nulls),
    ];
    let mut kinds: Vec<(What, u64)> = all.into_iter().filter(|(_, count)| *count > 0).collect();
    kinds.sort_by_key(|(what, count)| (*what == What::Null, std::cmp::Reverse(*count)));
    kinds
}

type Keywords = Vec<(String, Json)>;

impl Drafter {
    /// The schema of a node. `secret`: its values are not to be shown.
    fn node(&mut self, node: &Node, at: &str, secret: bool) -> Json {
        if node.count == 0 {
            return Json::Object(Vec::new());
        }
        let kinds = kinds(node);
        let structured = |what: &What| matches!(what, What::Reference | What::Objects | What::Array);
        let others = kinds.iter().filter(|(what, _)| *what != What::Null).count();
        let named = |(what, _): &(What, u64)| match what {
            What::Reference => true,
            What::Objects => node.objects.as_ref().is_some_and(|objects| objects.tag().is_some()),
            _ => false,
        };
        // What is made of parts is kept apart from all else; a reference, and a union, even from `null`.
        let apart = others > 1 && kinds.iter().any(|(what, _)| structured(what));
        if kinds.len() > 1 && (apart || kinds.iter().any(named)) {
            let branches = kinds.iter().enumerate().map(|(index, (what, _))| {
                Json::Object(self.part(node, *what, &format!("{at}/anyOf/{index}"), secret).whole())
            });
            let branches = branches.collect();
            return Json::Object(vec![("anyOf".to_owned(), Json::Array(branches))]);
        }
        let from = self.rules.len();
        let parts: Vec<Part> = kinds.iter().map(|(what, _)| self.part(node, *what, at, secret)).collect();
        let mut words: Vec<&str> = parts.iter().filter_map(|part| part.word).collect();
        words.dedup();
        let mut keywords = Keywords::new();
        if let [word] = words.as_slice() {
            keywords.push(("type".to_owned(), Json::text(word)));
        } else if !words.is_empty() {
            keywords.push(("type".to_owned(), Json::texts(words.iter().copied())));
        }
        let rare = parts.last().filter(|_| parts.len() > 1);
        let against = rare.and_then(|part| Some((part.word?.to_owned(), part.first?)));
        let fraction = node.numbers.fraction.clone().map(|(seen, text)| (text.to_string(), seen));
        let fraction = fraction.filter(|_| !secret && node.numbers.integers > 0);
        if !words.is_empty() {
            let rule = Rule {
                at: at.to_owned(),
                keyword: "type",
                says: words.join(", "),
                behind: kinds.first().map_or(0, |(_, count)| *count),
                of: node.count,
                stated: true,
                against: against.or(fraction),
            };
            // The type comes before what else is said of the values.
            self.rules.insert(from.min(self.rules.len()), rule);
        }
        let nullable = words.contains(&"null");
        for (name, value) in parts.into_iter().flat_map(|part| part.keywords) {
            add_keyword(&mut keywords, name, value);
        }
        if kinds.len() > 1 {
            self.widen_list(&mut keywords, at, kinds.len() == 2 && nullable);
        }
        Json::Object(keywords)
    }

    /// A list of strings says of other kinds of values that they are not allowed: `null` is added to it; where there are
    /// others, there is no list.
    fn widen_list(&mut self, keywords: &mut Keywords, at: &str, nullable: bool) {
        let Some(place) = keywords.iter().position(|(name, _)| name == "enum") else { return };
        match keywords.get_mut(place) {
            Some((_, Json::Array(values))) if nullable => values.push(Json::Raw("null".to_owned())),
            _ => {
                keywords.remove(place);
                let rule = self.rules.iter_mut().rfind(|rule| rule.keyword == "enum" && rule.at == at);
                rule.into_iter().for_each(|rule| rule.stated = false);
            }
        }
    }

    /// One kind of the values in a place, with what is said of it.
    fn part(&mut self, node: &Node, what: What, at: &str, secret: bool) -> Part {
        let first = |kind: Kind| node.first.get(kind as usize).copied().flatten();
        let part = |word, first, keywords| Part { word, first, keywords };
        match what {
            What::Reference => {
                let reference = self.references.iter().find(|(known, _)| Some(*known) == node.refers);
                let reference = reference.map_or("#", |(_, reference)| reference);
                part(None, first(Kind::Object), vec![("$ref".to_owned(), Json::text(reference))])
            }
            What::Objects => {
                let mut keywords = node.objects.as_ref().map(|objects| self.objects(objects, at)).unwrap_or_default();
                // The word for `type` comes first, but for a union.
                let typed = keywords.first().is_some_and(|(name, _)| name == "type");
                if typed {
                    keywords.remove(0);
                }
                part(typed.then_some("object"), first(Kind::Object), keywords)
            }
            What::Array => {
                let keywords = node.arrays.as_ref().map(|arrays| self.array(arrays, at, secret));
                part(Some("array"), first(Kind::Array), keywords.unwrap_or_default())
            }
            What::String => {
                let Some(strings) = &node.strings else { return part(Some("string"), None, Vec::new()) };
                let (word, keywords) = match meaning(strings) {
                    Some(Meaning::Numbers) => self.numbers(&strings.numbers, at, secret),
                    Some(Meaning::Booleans) => ("boolean", Vec::new()),
                    None => ("string", self.strings(strings, at, secret)),
                };
                part(Some(word), first(Kind::String), keywords)
            }
            What::Number => {
                let (word, keywords) = self.numbers(&node.numbers, at, secret);
                part(Some(word), first(Kind::Number), keywords)
            }
            What::Boolean => part(Some("boolean"), first(Kind::Bool), Vec::new()),
            What::Null => part(Some("null"), first(Kind::Null), Vec::new()),
        }
    }

    fn tell(&mut self, rule: Rule) {
        self.rules.push(rule);
    }

    fn strings(&mut self, strings: &Strings, at: &str, secret: bool) -> Keywords {
        let count = strings.count;
        let mut keywords = Keywords::new();
        let rule = |keyword, says: String, behind, stated, against| Rule {
            at: at.to_owned(),
            keyword,
            says,
            behind,
            of: count,
            stated,
            against,
        };
        let shown =
            |(seen, text): &(Seen, Box<str>)| (if secret { "•••".to_owned() } else { format!("{text:?}") }, *seen);
        let format = strings.format(&self.settings);
        if let Some(format) = format {
            keywords.push(("format".to_owned(), Json::text(format)));
            self.tell(rule("format", format.to_owned(), count, true, None));
        }
        if let (None, Some(near)) = (format, strings.nearly()) {
            let against = Some(shown(near.first_without));
            self.tell(rule("format", near.format.to_owned(), near.have, false, against));
        }
        let list = strings.list(&self.settings).filter(|_| format.is_none() && !secret);
        let listed = list.is_some();
        if let Some(list) = list {
            keywords.push(("enum".to_owned(), Json::texts(list.iter().copied())));
            self.tell(rule("enum", list.join(", "), count, true, None));
        } else if format.is_none()
            && !secret
            && count >= ENOUGH
            && let Some(variety) = strings.variety().filter(|variety| *variety as u64 * 2 <= count && *variety > 1)
        {
            let against = strings.prose.clone().or_else(|| strings.rarest());
            self.tell(rule("enum", format!("{variety} values"), count, false, against.as_ref().map(shown)));
        }
        if format.is_none() && !listed {
            self.bounds(
                &mut keywords,
                ["minLength", "maxLength"],
                strings.shortest as u64,
                strings.longest as u64,
                count,
                at,
            );
        }
        if !listed && !secret && !strings.examples.is_empty() {
            keywords.push(("examples".to_owned(), Json::texts(strings.examples.iter().map(|example| &**example))));
        }
        keywords
    }

    /// The word for `type`, and what is said of the numbers.
    fn numbers(&mut self, numbers: &Numbers, at: &str, secret: bool) -> (&'static str, Keywords) {
        let word = if numbers.integers == numbers.count { "integer" } else { "number" };
        let mut keywords = Keywords::new();
        let ends = [("minimum", &numbers.least, -1.0), ("maximum", &numbers.most, 1.0)];
        for (keyword, end, outwards) in ends {
            let (Some((value, text)), false) = (end, secret) else { continue };
            let bound = match self.settings.bounds {
                Bounds::None => continue,
                Bounds::Observed => text.to_string(),
                Bounds::Rounded => rounded(*value, outwards),
            };
            let (at, says) = (at.to_owned(), bound.clone());
            keywords.push((keyword.to_owned(), Json::Raw(bound)));
            self.tell(Rule {
                at,
                keyword,
                says,
                behind: numbers.count,
                of: numbers.count,
                stated: true,
                against: None,
            });
        }
        if !secret && !numbers.examples.is_empty() {
            let examples = numbers.examples.iter().map(|example| Json::Raw(example.to_string()));
            keywords.push(("examples".to_owned(), Json::Array(examples.collect())));
        }
        (word, keywords)
    }

    fn array(&mut self, arrays: &Arrays, at: &str, secret: bool) -> Keywords {
        let mut keywords = Keywords::new();
        let ends = (arrays.least as u64, arrays.most as u64);
        self.bounds(&mut keywords, ["minItems", "maxItems"], ends.0, ends.1, arrays.count, at);
        if arrays.items.count > 0 {
            keywords.push(("items".to_owned(), self.node(&arrays.items, &format!("{at}/items"), secret)));
        }
        keywords
    }

    /// Lower and upper bounds of a length.
    fn bounds(
        &mut self,
        keywords: &mut Keywords,
        names: [&'static str; 2],
        least: u64,
        most: u64,
        count: u64,
        at: &str,
    ) {
        let (least, most) = match self.settings.bounds {
            Bounds::None => return,
            Bounds::Observed => (least, most),
            Bounds::Rounded => (least.min(1), rounded_up(most)),
        };
        for (keyword, bound) in names.into_iter().zip([least, most]) {
            if keyword.starts_with("min") && bound == 0 {
                continue;
            }
            keywords.push((keyword.to_owned(), Json::number(bound)));
            let (at, says) = (at.to_owned(), bound.to_string());
            self.tell(Rule { at, keyword, says, behind: count, of: count, stated: true, against: None });
        }
    }

    /// What is said of objects, `type` first, unless they are the branches of a union.
    fn objects(&mut self, objects: &Objects, at: &str) -> Keywords {
        if let Some(map) = &objects.map {
            let mut keywords = vec![("type".to_owned(), Json::text("object"))];
            let pattern = shapes::key_pattern(map);
            let (keyword, says, value_at) = match &pattern {
                Some(pattern) => {
                    let mut value_at = format!("{at}/patternProperties");
                    pointer::push_token(&mut value_at, pattern);
                    ("patternProperties", pattern.clone(), value_at)
                }
                None => ("additionalProperties", "a map".to_owned(), format!("{at}/additionalProperties")),
            };
            let (of, at) = (map.all_keys, at.to_owned());
            self.tell(Rule { at, keyword, says, behind: of, of, stated: true, against: None });
            let values = self.node(&map.values, &value_at, false);
            match pattern {
                Some(pattern) => {
                    keywords.push((keyword.to_owned(), Json::Object(vec![(pattern, values)])));
                    if self.settings.closed {
                        keywords.push(("additionalProperties".to_owned(), Json::Raw("false".to_owned())));
                    }
                }
                None => keywords.push((keyword.to_owned(), values)),
            }
            return keywords;
        }
        match (objects.tag(), objects.groups.as_slice()) {
            (Some(tag), groups) => {
                let says = format!("{} branches by `{tag}`", groups.len());
                let of = objects.count;
                let rule =
                    Rule { at: at.to_owned(), keyword: "oneOf", says, behind: of, of, stated: true, against: None };
                self.tell(rule);
                let branch = |(index, group): (usize, &Group)| {
                    Json::Object(self.object(group, Some(tag), &format!("{at}/oneOf/{index}")))
                };
                let branches = groups.iter().enumerate().map(branch).collect();
                vec![("oneOf".to_owned(), Json::Array(branches))]
            }
            (None, [group]) => self.object(group, None, at),
            (None, _) => vec![("type".to_owned(), Json::text("object"))],
        }
    }

    fn object(&mut self, group: &Group, tag: Option<&str>, at: &str) -> Keywords {
        let mut keywords = vec![("type".to_owned(), Json::text("object"))];
        let required = group.members.iter().filter(|member| group.requires(member));
        let required: Vec<&str> = required.map(|member| &*member.name).collect();
        for member in &group.members {
            let (behind, of) = (member.node.count, group.count);
            let stated = behind == of;
            if stated || (of >= ENOUGH && behind * 100 >= of * NEARLY) {
                let against = member.missing.filter(|_| !stated).map(|seen| ("absent".to_owned(), seen));
                let (at, says) = (at.to_owned(), member.name.to_string());
                self.tell(Rule { at, keyword: "required", says, behind, of, stated, against });
            }
        }
        if !required.is_empty() {
            keywords.push(("required".to_owned(), Json::texts(required)));
        }
        let properties = group.members.iter().map(|member| {
            let mut at = format!("{at}/properties");
            pointer::push_token(&mut at, &member.name);
            let schema = match tag.filter(|tag| *tag == &*member.name) {
                Some(_) => self.tag(group, &at),
                None => self.node(&member.node, &at, looks_secret(&member.name)),
            };
            (member.name.to_string(), schema)
        });
        let properties: Keywords = properties.collect();
        if !properties.is_empty() {
            keywords.push(("properties".to_owned(), Json::Object(properties)));
        }
        if self.settings.closed {
            keywords.push(("additionalProperties".to_owned(), Json::Raw("false".to_owned())));
            let (at, of) = (at.to_owned(), group.count);
            let says = "no others".to_owned();
            self.tell(Rule { at, keyword: "additionalProperties", says, behind: of, of, stated: true, against: None });
        }
        keywords
    }

    /// The property that chooses a branch.
    fn tag(&mut self, group: &Group, at: &str) -> Json {
        let mut values: Vec<&str> = group.tags.iter().map(|tag| &**tag).collect();
        values.sort_unstable();
        let (keyword, value) = match values.as_slice() {
            [one] => ("const", Json::text(one)),
            _ => ("enum", Json::texts(values.iter().copied())),
        };
        let (at, of) = (at.to_owned(), group.count);
        let says = values.join(", ");
        self.tell(Rule { at, keyword, says, behind: of, of, stated: true, against: None });
        Json::Object(vec![(keyword.to_owned(), value)])
    }
}

/// Adds a keyword; the examples of all kinds stand together.
fn add_keyword(keywords: &mut Keywords, name: String, value: Json) {
    match (keywords.iter_mut().find(|(known, _)| *known == name), value) {
        (Some((_, Json::Array(known))), Json::Array(more)) if name == "examples" => known.extend(more),
        (Some(_), _) => {}
        (None, value) => keywords.push((name, value)),
    }
}

impl Part {
    /// All that is said of it, `type` first.
    fn whole(self) -> Keywords {
        let word = self.word.map(|word| ("type".to_owned(), Json::text(word)));
        word.into_iter().chain(self.keywords).collect()
    }
}

enum Meaning {
    Numbers,
    Booleans,
}

/// What texts mean in formats that know nothing else, when all of them mean the same.
fn meaning(strings: &Strings) -> Option<Meaning> {
    match (strings.wordy.is_none(), strings.numbers.count, strings.booleans) {
        (true, numbers, 0) if numbers > 0 => Some(Meaning::Numbers),
        (true, 0, booleans) if booleans > 0 => Some(Meaning::Booleans),
        _ => None,
    }
}

/// A number, away from zero or towards it, to the next of 1, 2 and 5 times a power of ten.
pub(crate) fn rounded(value: f64, outwards: f64) -> String {
    if value == 0.0 || (value > 0.0 && outwards < 0.0) {
        return "0".to_owned();
    }
    if value < 0.0 && outwards > 0.0 {
        return "0".to_owned();
    }
    let size = value.abs();
    let power = 10f64.powf(size.log10().floor());
    let step = [1.0, 2.0, 5.0, 10.0].into_iter().find(|step| step * power >= size).unwrap_or(10.0);
    let bound = step * power * value.signum();
    if bound.fract() == 0.0 && bound.abs() < 1e15 { format!("{bound:.0}") } else { format!("{bound}") }
}

pub(crate) fn rounded_up(length: u64) -> u64 {
    let steps = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1_000, 2_000, 5_000, 10_000];
    steps.into_iter().find(|step| *step >= length).unwrap_or(length.div_ceil(10_000) * 10_000)
}
