//! Schema resources, their identifiers and anchors (Core, 8.2 and 9).

use crate::tree::Json;
use fluent_uri::{Uri, UriRef};
use std::collections::HashMap;

/// A dialect of JSON Schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Dialect {
    /// draft-04.
    Draft04,
    /// draft-06.
    Draft06,
    /// draft-07.
    Draft07,
    /// 2019-09.
    Draft201909,
    /// 2020-12.
    Draft202012,
}

impl Dialect {
    /// All of them, the oldest first.
    pub const ALL: [Dialect; 5] =
        [Dialect::Draft04, Dialect::Draft06, Dialect::Draft07, Dialect::Draft201909, Dialect::Draft202012];

    /// The value of `$schema`.
    pub fn uri(self) -> &'static str {
        match self {
            Dialect::Draft04 => "http://json-schema.org/draft-04/schema#",
            Dialect::Draft06 => "http://json-schema.org/draft-06/schema#",
            Dialect::Draft07 => "http://json-schema.org/draft-07/schema#",
            Dialect::Draft201909 => "https://json-schema.org/draft/2019-09/schema",
            Dialect::Draft202012 => "https://json-schema.org/draft/2020-12/schema",
        }
    }

    /// The keyword that gives a schema its identifier.
    pub fn id(self) -> &'static str {
        if self == Dialect::Draft04 { "id" } else { "$id" }
    }
}

/// The number of a resource.
pub(super) type ResourceId = usize;

/// A resource: a schema with an identifier of its own, and what is embedded in it no more.
pub(super) struct Resource<'s> {
    /// Its absolute URI.
    pub(super) uri: String,
    /// Its root.
    pub(super) root: &'s Json,
    /// Its anchors, and whether each is dynamic.
    pub(super) anchors: HashMap<String, (&'s Json, bool)>,
    /// `$recursiveAnchor: true` (2019-09 Core, 8.2.4.2.2).
    pub(super) recursive: bool,
}

/// All resources of one document.
pub(super) struct Resources<'s> {
    /// The dialect of all of them.
    pub(super) dialect: Dialect,
    /// By their numbers; the document's own is the first.
    pub(super) all: Vec<Resource<'s>>,
    by_uri: HashMap<String, ResourceId>,
}

/// Where a schema stands when nothing else says so.
const BASE: &str = "file:///schema.json";

impl<'s> Resources<'s> {
    /// Goes through a document.
    pub(super) fn of(document: &'s Json, dialect: Dialect) -> Self {
        let mut resources = Resources { dialect, all: Vec::new(), by_uri: HashMap::new() };
        let root = resources.add(BASE.to_owned(), document);
        resources.walk(document, root);
        resources
    }

    fn add(&mut self, uri: String, root: &'s Json) -> ResourceId {
        let recursive = matches!(root.get("$recursiveAnchor"), Some(Json::Bool(true)));
        self.all.push(Resource { uri: uri.clone(), root, anchors: HashMap::new(), recursive });
        self.by_uri.insert(uri, self.all.len() - 1);
        self.all.len() - 1
    }

    /// The identifier that a schema gives itself, if it is one that changes the base.
    fn own_id(&self, schema: &'s Json) -> Option<&'s str> {
        let id = schema.get(self.dialect.id())?.as_text()?;
        // Beside `$ref` nothing counts (draft-07 Core, 8.3); an `$id` that is a fragment changes no base.
        let hidden = self.dialect <= Dialect::Draft07 && schema.get("$ref").is_some();
        (!hidden && !id.starts_with('#')).then_some(id)
    }

    /// The resource that a schema is in when it is come to from another one.
    pub(super) fn entered(&self, schema: &'s Json, from: ResourceId) -> ResourceId {
        let Some(id) = self.own_id(schema) else { return from };
        let base = self.all.get(from).map_or(BASE, |resource| &resource.uri);
        let (uri, _) = resolved(base, id);
        let own = |id: &ResourceId| self.all.get(*id).is_some_and(|known| std::ptr::eq(known.root, schema));
        self.by_uri.get(&uri).copied().filter(own).unwrap_or(from)
    }

    fn walk(&mut self, schema: &'s Json, resource: ResourceId) {
        let mut here = resource;
        if let Some(id) = self.own_id(schema) {
            let base = self.all.get(resource).map_or(BASE.to_owned(), |resource| resource.uri.clone());
            let (uri, _) = resolved(&base, id);
            here = self.add(uri, schema);
        }
        let anchor = |name: &str| schema.get(name).and_then(Json::as_text);
        let mut named: Vec<(&str, bool)> = Vec::new();
        if self.dialect >= Dialect::Draft201909 {
            named.extend(anchor("$anchor").map(|name| (name, false)));
        } else if schema.get("$ref").is_none() {
            let fragment = anchor(self.dialect.id()).and_then(|id| id.strip_prefix('#'));
            named.extend(fragment.filter(|name| !name.is_empty() && !name.starts_with('/')).map(|name| (name, false)));
        }
        if self.dialect >= Dialect::Draft202012 {
            named.extend(anchor("$dynamicAnchor").map(|name| (name, true)));
        }
        if let Some(resource) = self.all.get_mut(here) {
            for (name, dynamic) in named {
                resource.anchors.insert(name.to_owned(), (schema, dynamic));
            }
        }
        for child in subschemas(schema, self.dialect) {
            self.walk(child, here);
        }
    }

    /// Where a reference leads: a schema and its resource, and the anchor if that is what it is. `None` when it leads nowhere.
    pub(super) fn follow(&self, reference: &str, from: ResourceId) -> Option<(&'s Json, ResourceId, Option<String>)> {
        let base = &self.all.get(from)?.uri;
        let (uri, fragment) = resolved(base, reference);
        let id = *self.by_uri.get(&uri)?;
        let resource = self.all.get(id)?;
        if fragment.is_empty() {
            return Some((resource.root, id, None));
        }
        if !fragment.starts_with('/') {
            let (schema, _) = resource.anchors.get(&fragment)?;
            return Some((schema, id, Some(fragment)));
        }
        let (mut at, mut here) = (resource.root, id);
        for token in fragment.split('/').skip(1) {
            let token = token.replace("~1", "/").replace("~0", "~");
            at = match at {
                Json::Array(items) => items.get(token.parse::<usize>().ok()?)?,
                other => other.get(&token)?,
            };
            here = self.entered(at, here);
        }
        Some((at, here, None))
    }
}

/// The schemas that stand directly in a schema.
fn subschemas(schema: &Json, dialect: Dialect) -> Vec<&Json> {
    let mut found = Vec::new();
    // Beside `$ref` nothing but definitions is a schema (draft-07 Core, 8.3); those are looked at all the same.
    for (name, value) in schema.members() {
        match name.as_str() {
            "properties" | "patternProperties" | "$defs" | "definitions" | "dependentSchemas" | "dependencies" => {
                found.extend(value.members().iter().map(|(_, one)| one).filter(|one| is_schema(one)));
            }
            "allOf" | "anyOf" | "oneOf" | "prefixItems" => found.extend(value.items()),
            "items" => match value {
                Json::Array(items) if dialect < Dialect::Draft202012 => found.extend(items),
                other => found.push(other),
            },
            "additionalItems"
            | "additionalProperties"
            | "contains"
            | "propertyNames"
            | "not"
            | "if"
            | "then"
            | "else"
            | "unevaluatedItems"
            | "unevaluatedProperties" => found.push(value),
            _ => {}
        }
    }
    found.retain(|one| is_schema(one));
    found
}

fn is_schema(value: &Json) -> bool {
    matches!(value, Json::Object(_) | Json::Bool(_))
}

/// A reference against its base (RFC 3986, section 5): the URI without its fragment, and the fragment, decoded.
fn resolved(base: &str, reference: &str) -> (String, String) {
    let (path, fragment) = reference.split_once('#').unwrap_or((reference, ""));
    let fragment = fragment.replace("%25", "%").replace("%22", "\"").replace("%5E", "^").replace("%20", " ");
    if path.is_empty() {
        return (base.to_owned(), fragment);
    }
    let uri = Uri::parse(base).ok().zip(UriRef::parse(path).ok());
    let uri = uri.and_then(|(base, path)| path.resolve_against(&base).ok());
    (uri.map_or_else(|| path.to_owned(), |uri| uri.to_string()), fragment)
}
