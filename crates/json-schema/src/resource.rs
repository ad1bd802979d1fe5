//! Schema resources: what `$id` and `$anchor` identify, and what a reference leads to (Core, 8.2 and 9).

mod identity;
mod way;

use crate::dialect::{self, Dialect, Language};
use crate::error::{Breach, SchemaError};
use crate::file::{FileId, Location, SchemaFile, SchemaText, Seen};
use crate::metaschema;
use fluent_uri::{Uri, UriRef};
use identity::{Anchor, Identity};
use mervik_document::{NodeId, SchemaPlace, Span, Tape, Value, json, near, pointer};
use percent_encoding::percent_decode_str;
use std::collections::HashMap;
use std::sync::Arc;

/// Hands over the text that a URI identifies. The caller's decision what may be read; this crate opens nothing.
pub trait Fetch {
    /// The text of the resource at `uri`, which is absolute and has no fragment.
    ///
    /// # Errors
    ///
    /// Why there is none, in words for the person who wrote the reference.
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError>;
}

/// A text that was fetched.
#[derive(Clone, Debug)]
pub struct Fetched {
    /// The name that people know the file by.
    pub name: String,
    /// The text.
    pub text: SchemaText,
}

/// Why a URI could not be fetched.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FetchError {
    /// What is the matter, as a phrase that follows the URI: `is outside of …`.
    pub reason: String,
    /// A way out, where there is one.
    pub hint: Option<String>,
}

/// Fetches nothing: for schemas that stand alone.
#[derive(Clone, Copy, Debug, Default)]
pub struct Nowhere;

impl Fetch for Nowhere {
    fn fetch(&mut self, _uri: &str) -> Result<Fetched, FetchError> {
        Err(FetchError { reason: "is in no file that may be read".to_owned(), hint: None })
    }
}

/// Index of a schema resource.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct ResourceId(pub(crate) u32);

#[derive(Debug)]
struct Resource {
    root: Location,
    /// Absolute and without fragment.
    uri: Uri<String>,
    language: Language,
    anchors: HashMap<String, NodeId>,
    /// The anchors that a `$dynamicRef` may be led to (Core, 8.2.2); [`RECURSIVE`] is the one of 2019-09.
    dynamic_anchors: HashMap<String, NodeId>,
}

/// What stands for the one nameless dynamic anchor of 2019-09, `$recursiveAnchor`. No name can be empty.
pub(crate) const RECURSIVE: &str = "";

/// All files read so far and the resources in them.
pub(crate) struct Resources<'f> {
    fetch: &'f mut dyn Fetch,
    files: Vec<Arc<SchemaFile>>,
    roots: HashMap<Location, ResourceId>,
    resources: Vec<Resource>,
    by_uri: HashMap<String, Option<ResourceId>>,
    /// Folders of identifiers, and the folders that the files with these identifiers were read from.
    folders: Vec<(String, String)>,
    /// The members of large objects that pointers have led through, by their names.
    members: HashMap<Location, HashMap<String, NodeId>>,
    /// The dialect of files without `$schema`.
    default: Dialect,
    /// The metaschemas that are being read, to find out what language they define.
    reading: Vec<String>,
    errors: Vec<SchemaError>,
}

/// What was read.
pub(crate) struct Parts {
    pub(crate) files: Vec<Arc<SchemaFile>>,
    /// By the numbers of the resources.
    pub(crate) languages: Vec<Language>,
    /// Their roots and URIs.
    pub(crate) resources: Vec<(Location, String)>,
    pub(crate) errors: Vec<SchemaError>,
}

impl<'f> Resources<'f> {
    pub(crate) fn new(fetch: &'f mut dyn Fetch, default: Dialect) -> Self {
        Resources {
            fetch,
            files: Vec::new(),
            roots: HashMap::new(),
            resources: Vec::new(),
            by_uri: HashMap::new(),
            folders: Vec::new(),
            members: HashMap::new(),
            default,
            reading: Vec::new(),
            errors: Vec::new(),
        }
    }

    /// What is left when all is read.
    pub(crate) fn into_parts(self) -> Parts {
        let languages = self.resources.iter().map(|resource| resource.language).collect();
        let resources = self.resources.into_iter().map(|resource| (resource.root, resource.uri.into_string()));
        Parts { files: self.files, languages, resources: resources.collect(), errors: self.errors }
    }

    /// Reads a file that was found at `uri` and indexes its resources; `None` after an error, which is noted.
    pub(crate) fn add(&mut self, name: &str, uri: &str, text: SchemaText) -> Option<ResourceId> {
        let mut tape = Tape::new();
        let read = json::read(&text.json, &mut tape);
        let file = FileId(self.files.len() as u32);
        self.files.push(Arc::new(SchemaFile::new(name, text, tape)));
        if let Err(error) = read {
            self.syntax_error(file, &error);
            return None;
        }
        let Ok(uri) = Uri::parse(uri.to_owned()) else {
            self.error(
                Breach::Identity,
                Location { file, node: NodeId::ROOT },
                format!("`{uri}` is not an absolute URI"),
                None,
            );
            return None;
        };
        self.duplicate_names(file);
        let language = self.language_at(Location { file, node: NodeId::ROOT }, Language::standard(self.default));
        Some(self.index(file, uri, language))
    }

    /// A file; shared, so that errors can be noted while it is read.
    pub(crate) fn file(&self, file: FileId) -> Option<Arc<SchemaFile>> {
        self.files.get(file.0 as usize).cloned()
    }

    fn with<R>(&self, at: Location, read: impl FnOnce(Value<'_>) -> R) -> Option<R> {
        self.files.get(at.file.0 as usize).map(|file| read(file.document().value(at.node)))
    }

    /// Notes an error at a location of the schema.
    pub(crate) fn error(&mut self, breach: Breach, at: Location, message: String, hint: Option<String>) {
        let Some(file) = self.files.get(at.file.0 as usize) else { return };
        let SchemaPlace { source, at: pointer, place, line_text, .. } = file.place(at.node);
        let span = file.document().span(at.node);
        let Seen { width, .. } = file.seen(span);
        self.errors.push(SchemaError { breach, source, at: pointer, span, place, line_text, width, message, hint });
    }

    /// The same for a part of a text: `part` counts its bytes once it is read.
    pub(crate) fn error_within(
        &mut self,
        breach: Breach,
        at: Location,
        part: Span,
        message: String,
        hint: Option<String>,
    ) {
        let Some(file) = self.files.get(at.file.0 as usize) else { return };
        let SchemaPlace { source, at: pointer, .. } = file.place(at.node);
        let whole = file.document().span(at.node);
        let literal = file.document().text().get(whole.start as usize..whole.end as usize).unwrap_or("");
        let part = crate::compile::within(literal, part);
        let span = Span { start: whole.start + part.start, end: whole.start + part.end };
        let Seen { place, line, width } = file.seen(span);
        let line_text = line;
        self.errors.push(SchemaError { breach, source, at: pointer, span, place, line_text, width, message, hint });
    }

    fn syntax_error(&mut self, file: FileId, error: &json::SyntaxError) {
        let Some(file) = self.files.get(file.0 as usize) else { return };
        let Seen { place, line, .. } = file.seen(error.span());
        self.errors.push(SchemaError {
            breach: Breach::Syntax,
            span: error.span(),
            source: file.name().clone(),
            at: error.at().to_owned(),
            place,
            line_text: line,
            width: 1,
            message: format!("not JSON: {error}"),
            hint: error.hint().map(str::to_owned),
        });
    }

    fn duplicate_names(&mut self, file: FileId) {
        let Some(shared) = self.file(file) else { return };
        let document = shared.document();
        for duplicate in document.tape().duplicates() {
            let message = format!("the name `{}` stands twice in one object", document.text_of(duplicate.name));
            self.error(Breach::RepeatedName, Location { file, node: duplicate.name }, message, None);
        }
    }

    /// The language that `$schema` at the root of a resource chooses, or else `otherwise`.
    fn language_at(&mut self, at: Location, otherwise: Language) -> Language {
        let said = self.with(at, |schema| {
            let keyword = schema.members().find(|member| member.name.text() == "$schema")?;
            Some((keyword.value.id(), keyword.value.as_str()?.to_owned()))
        });
        let Some(Some((node, uri))) = said else { return self.openapi_at(at).unwrap_or(otherwise) };
        match Dialect::find(&uri) {
            Some(dialect) => Language::standard(dialect),
            None => self.custom_language(&uri, Location { file: at.file, node }).unwrap_or(otherwise),
        }
    }

    /// The language of the schemas in an OpenAPI document: a dialect of its own until 3.0, and from 3.1 on the one that
    /// `jsonSchemaDialect` names, or 2020-12.
    fn openapi_at(&self, at: Location) -> Option<Language> {
        self.with(at, |document| {
            let version = document.get("openapi")?.as_str()?;
            if version.starts_with("3.0") {
                return Some(Language::openapi());
            }
            let stated = document.get("jsonSchemaDialect").and_then(Value::as_str).and_then(Dialect::find);
            let mut language = Language::standard(stated.unwrap_or_default());
            language.discriminates = true;
            Some(language)
        })?
    }

    /// The language that a metaschema of somebody else defines (Core, 8.1.2).
    fn custom_language(&mut self, uri: &str, at: Location) -> Option<Language> {
        let uri = uri.strip_suffix('#').unwrap_or(uri);
        if Uri::parse(uri).is_err() {
            self.error(Breach::Value, at, format!("`$schema` must be an absolute URI, found `{uri}`"), None);
            return None;
        }
        if self.reading.iter().any(|reading| reading == uri) {
            return None; // it describes itself
        }
        self.reading.push(uri.to_owned());
        let metaschema = self.resource_at(uri, at);
        self.reading.pop();
        let root = self.resources.get(metaschema?.0 as usize)?.root;
        let base = self.resources.get(metaschema?.0 as usize)?.language;
        let file = self.file(root.file)?;
        let document = file.document();
        let Some(vocabularies) = document.value(root.node).get("$vocabulary") else { return Some(base) };
        let mut language = Language::core(base.dialect);
        for member in vocabularies.members() {
            match dialect::vocabulary(member.name.text()) {
                Some(vocabulary) => language.add(vocabulary),
                None if member.value.as_bool() == Some(false) => {}
                None => {
                    let message = format!("the vocabulary `{}` is required and not known", member.name.text());
                    self.error(Breach::Vocabulary, Location { file: root.file, node: member.name.id() }, message, None);
                }
            }
        }
        Some(language)
    }

    /// The language of a resource.
    pub(crate) fn language(&self, id: ResourceId) -> Language {
        self.resources.get(id.0 as usize).map_or(Language::standard(self.default), |resource| resource.language)
    }

    /// Indexes the resources of a file that was found at `uri`; gives the one of its root.
    fn index(&mut self, file: FileId, uri: Uri<String>, language: Language) -> ResourceId {
        let root = self.add_resource(Location { file, node: NodeId::ROOT }, uri, language);
        let mut open = vec![(NodeId::ROOT, root)];
        while let Some((node, mut resource)) = open.pop() {
            let at = Location { file, node };
            let language = self.language(resource);
            let Some(Identity { id, anchors, subschemas }) = self.with(at, |schema| Identity::of(schema, language))
            else {
                continue;
            };
            if let Some((id_node, id)) = id {
                resource = self.identify(Location { file, node: id_node }, at, &id, resource);
            }
            for anchor in anchors {
                self.add_anchor(file, node, anchor, resource);
            }
            open.extend(subschemas.into_iter().rev().map(|node| (node, resource)));
        }
        root
    }

    /// Notes a resource under its URI. The first one keeps the URI.
    fn add_resource(&mut self, root: Location, uri: Uri<String>, language: Language) -> ResourceId {
        let id = ResourceId(self.resources.len() as u32);
        self.by_uri.entry(uri.as_str().to_owned()).or_insert(Some(id));
        let (anchors, dynamic_anchors) = Default::default();
        self.resources.push(Resource { root, uri, language, anchors, dynamic_anchors });
        self.roots.insert(root, id);
        id
    }

    /// `$id` (Core, 8.2.1), or the older forms of it.
    fn identify(&mut self, keyword: Location, at: Location, id: &str, parent: ResourceId) -> ResourceId {
        let language = self.language(parent);
        // Before 2019-09, a fragment names a place within the schema (draft-07 Core, 8.2.3).
        if language.dialect <= Dialect::Draft07
            && let Some((base, name)) = id.split_once('#')
            && !name.is_empty()
            && !name.starts_with('/')
        {
            let resource = if base.is_empty() { parent } else { self.identify(keyword, at, base, parent) };
            if let Some(resource) = self.resources.get_mut(resource.0 as usize) {
                resource.anchors.insert(name.to_owned(), at.node);
            }
            return resource;
        }
        let Some(uri) = self.resolve_uri(parent, id, keyword) else { return parent };
        if language.dialect >= Dialect::Draft201909 && uri.fragment().is_some_and(|fragment| !fragment.is_empty()) {
            let hint = "`$anchor` names a place within a schema".to_owned();
            self.error(Breach::Identity, keyword, format!("`$id` must have no fragment, found `{id}`"), Some(hint));
            return parent;
        }
        let uri = uri.strip_fragment().to_owned();
        if at.node == NodeId::ROOT {
            // The file is also known by where it was found.
            let found = self.uri_of(parent).unwrap_or_default();
            self.folders.push((folder(uri.as_str()).to_owned(), folder(&found).to_owned()));
            self.by_uri.insert(uri.as_str().to_owned(), Some(parent));
            if let Some(resource) = self.resources.get_mut(parent.0 as usize) {
                resource.uri = uri;
            }
            return parent;
        }
        if let Some(Some(other)) = self.by_uri.get(uri.as_str())
            && self.resources.get(other.0 as usize).is_some_and(|other| other.root != at)
        {
            self.error(Breach::Identity, keyword, format!("two schemas have the `$id` `{uri}`"), None);
        }
        let language = self.language_at(at, language);
        self.add_resource(at, uri, language)
    }

    fn add_anchor(&mut self, file: FileId, node: NodeId, anchor: Anchor, resource: ResourceId) {
        let Anchor { node: keyword, name, dynamic } = anchor;
        let keyword = Location { file, node: keyword };
        let well_formed = name.chars().enumerate().all(|(at, c)| {
            c.is_ascii_alphabetic() || c == '_' || (at > 0 && (c.is_ascii_digit() || matches!(c, '-' | '.' | ':')))
        });
        let recursive = dynamic && name == RECURSIVE;
        if !recursive && (!well_formed || name.is_empty()) {
            let word = if dynamic { "$dynamicAnchor" } else { "$anchor" };
            let message =
                format!("`{word}` must be a letter or `_`, then letters, digits, `-`, `_`, `.`, found `{name}`");
            return self.error(Breach::Identity, keyword, message, None);
        }
        let Some(resource) = self.resources.get_mut(resource.0 as usize) else { return };
        // `$recursiveAnchor` speaks of the root of its resource, and says nothing elsewhere (2019-09 Core, 8.2.4.2.2).
        if dynamic && (!recursive || resource.root == (Location { file, node })) {
            resource.dynamic_anchors.insert(name.clone(), node);
        }
        // A dynamic anchor is an anchor as well; the nameless one is none.
        if !recursive && resource.anchors.insert(name.clone(), node).is_some_and(|other| other != node) {
            self.error(Breach::Identity, keyword, format!("two schemas have the anchor `{name}`"), None);
        }
    }

    /// Whether the schema at `at`, of that resource, is its dynamic anchor `name`.
    pub(crate) fn is_dynamic_anchor(&self, resource: ResourceId, name: &str, at: Location) -> bool {
        self.resources.get(resource.0 as usize).is_some_and(|resource| {
            resource.root.file == at.file && resource.dynamic_anchors.get(name) == Some(&at.node)
        })
    }

    /// The schemas that the dynamic anchor `name` names, one for each resource that has it.
    pub(crate) fn dynamic_anchors(&self, name: &str) -> Vec<(ResourceId, Location)> {
        let resources = self.resources.iter().zip(0..);
        let named = resources.filter_map(|(resource, id)| {
            let node = *resource.dynamic_anchors.get(name)?;
            Some((ResourceId(id), Location { file: resource.root.file, node }))
        });
        named.collect()
    }

    /// The root of a resource.
    pub(crate) fn root_of(&self, id: ResourceId) -> Option<Location> {
        self.resources.get(id.0 as usize).map(|resource| resource.root)
    }

    /// What `reference`, found in `from` at the location `at`, leads to. `None` after an error, which is noted.
    pub(crate) fn resolve(
        &mut self,
        from: ResourceId,
        reference: &str,
        at: Location,
    ) -> Option<(Location, ResourceId)> {
        let (target, fragment) = match reference.strip_prefix('#') {
            Some(fragment) => (from, fragment.to_owned()),
            None => {
                let uri = self.resolve_uri(from, reference, at)?;
                let fragment = uri.fragment().map(|fragment| fragment.as_str().to_owned()).unwrap_or_default();
                (self.resource_at(uri.strip_fragment().as_str(), at)?, fragment)
            }
        };
        let Ok(fragment) = percent_decode_str(&fragment).decode_utf8() else {
            self.error(Breach::Reference, at, format!("the fragment of `{reference}` is not UTF-8"), None);
            return None;
        };
        let root = self.resources.get(target.0 as usize)?.root;
        if fragment.is_empty() {
            return Some((root, target));
        }
        if fragment.starts_with('/') {
            return self.resolve_pointer(root, target, &fragment, reference, at);
        }
        let anchors = &self.resources.get(target.0 as usize)?.anchors;
        if let Some(node) = anchors.get(&*fragment) {
            return Some((Location { file: root.file, node: *node }, target));
        }
        let hint =
            near::nearest(&fragment, anchors.keys().map(String::as_str)).map(|name| format!("`#{name}` is there"));
        self.error(
            Breach::Reference,
            at,
            format!("`{reference}` leads nowhere: there is no `$anchor` `{fragment}`"),
            hint,
        );
        None
    }

    fn resolve_pointer(
        &mut self,
        root: Location,
        resource: ResourceId,
        fragment: &str,
        reference: &str,
        at: Location,
    ) -> Option<(Location, ResourceId)> {
        let Some(tokens) = pointer::tokens(fragment) else {
            self.error(Breach::Reference, at, format!("`{reference}` does not end in a JSON Pointer"), None);
            return None;
        };
        let found = tokens.iter().try_fold(root, |at, token| self.step(at, token));
        match found {
            Some(location) => Some((location, self.resource_of(location).unwrap_or(resource))),
            None => {
                let (message, hint) = self.with(root, |root| way::missing_step(root, &tokens))?;
                self.error(Breach::Reference, at, format!("`{reference}` leads nowhere: {message}"), hint);
                None
            }
        }
    }

    /// One step of a pointer. The members of a large object are sorted by name once, since a schema may refer to each of
    /// its definitions.
    fn step(&mut self, at: Location, token: &str) -> Option<Location> {
        let node = match self.members.get(&at) {
            Some(members) => *members.get(token)?,
            None => {
                let file = self.file(at.file)?;
                let document = file.document();
                let value = document.value(at.node);
                if value.members().nth(FEW_MEMBERS).is_some() {
                    let members = value.members().map(|member| (member.name.text().to_owned(), member.value.id()));
                    self.members.insert(at, members.collect());
                }
                pointer::follow(value, std::slice::from_ref(&token.to_owned()))?.id()
            }
        };
        Some(Location { file: at.file, node })
    }

    /// The resource with the absolute `uri`, fetched when it is not known yet.
    fn resource_at(&mut self, uri: &str, at: Location) -> Option<ResourceId> {
        if let Some(known) = self.by_uri.get(uri) {
            return *known;
        }
        if let Some(text) = metaschema::text(uri) {
            return self.add(uri, uri, text.into());
        }
        let fetched = self.fetch.fetch(uri).map(|fetched| (uri.to_owned(), fetched)).or_else(|error| {
            // A file that names itself `https://…/a.json` has its neighbours beside it, under either name.
            let beside = self.folders.iter().find_map(|(identified, found)| {
                uri.strip_prefix(identified.as_str()).map(|rest| format!("{found}{rest}"))
            });
            match beside.filter(|beside| beside != uri) {
                Some(beside) => match self.by_uri.get(&beside) {
                    Some(Some(_)) => Err(error),
                    _ => self.fetch.fetch(&beside).map(|fetched| (beside, fetched)),
                },
                None => Err(error),
            }
        });
        let resource = match fetched {
            Ok((found, Fetched { name, text })) => self.add(&name, &found, text),
            Err(FetchError { reason, hint }) => {
                self.error(Breach::Reference, at, format!("`{uri}` {reason}"), hint);
                None
            }
        };
        // Asked once: an error is told once.
        self.by_uri.insert(uri.to_owned(), resource);
        resource
    }

    fn resolve_uri(&mut self, from: ResourceId, reference: &str, at: Location) -> Option<Uri<String>> {
        let base = &self.resources.get(from.0 as usize)?.uri;
        let resolved = match UriRef::parse(reference) {
            Ok(parsed) => parsed.resolve_against(base).map_err(|error| error.to_string()),
            Err(error) => Err(error.to_string()),
        };
        match resolved {
            Ok(uri) => Some(uri.normalize()),
            Err(error) => {
                self.error(Breach::Reference, at, format!("`{reference}` is not a URI reference here: {error}"), None);
                None
            }
        }
    }

    fn uri_of(&self, id: ResourceId) -> Option<String> {
        self.resources.get(id.0 as usize).map(|resource| resource.uri.as_str().to_owned())
    }

    /// The resource whose root is at `at`, if one is.
    pub(crate) fn root_at(&self, at: Location) -> Option<ResourceId> {
        self.roots.get(&at).copied()
    }

    /// The innermost resource that holds `at`. O(resources).
    pub(crate) fn resource_of(&self, at: Location) -> Option<ResourceId> {
        let file = self.file(at.file)?;
        let document = file.document();
        let holding =
            self.resources.iter().zip(0..).filter(|(resource, _)| {
                resource.root.file == at.file && document.value(resource.root.node).holds(at.node)
            });
        holding.max_by_key(|(resource, _)| resource.root.node).map(|(_, id)| ResourceId(id))
    }
}

/// Up to this many members, a name is looked for among them each time.
const FEW_MEMBERS: usize = 16;

/// The URI up to its last `/`.
fn folder(uri: &str) -> &str {
    uri.rfind('/').and_then(|at| uri.get(..=at)).unwrap_or(uri)
}

/// A schema's errors in the order of files and places.
pub(crate) fn sorted(mut errors: Vec<SchemaError>, files: &[Arc<SchemaFile>]) -> Vec<SchemaError> {
    let order = |source: &Arc<str>| files.iter().position(|file| file.name() == source);
    errors.sort_by_key(|error| (order(&error.source), error.place));
    errors.dedup();
    errors
}
