//! Schema documents: where they come from, and which of them make one schema (Part 1, section 4.2).

use crate::component::{Methods, Origin};
use crate::names::{ABSENT, Names, NsId, XSD};
use crate::remark::Findings;
use fluent_uri::UriRef;
use mervik_document::tongue::Tongue;
use mervik_document::{LineIndex, Severity};
use mervik_xml::tree::{NodeId, Tree};
use std::collections::HashMap;
use std::sync::Arc;

/// Gives the schema documents that others refer to.
pub trait Fetch {
    /// The document at an absolute URI.
    ///
    /// # Errors
    ///
    /// A document that is not there, or may not be read.
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError>;
}

/// A schema document that was found.
#[derive(Clone, Debug)]
pub struct Fetched {
    /// The name that people know it by.
    pub name: String,
    /// Its text.
    pub text: String,
    /// Where it is; two locations that lead to one document have the same.
    pub uri: String,
}

/// Why a schema document was not found.
#[derive(Clone, Debug)]
pub struct FetchError {
    /// A phrase that follows the location: “leads to no file”.
    pub reason: String,
    /// A way out.
    pub hint: Option<String>,
}

/// A schema document, read.
#[derive(Debug)]
pub(crate) struct Document {
    pub(crate) name: Arc<str>,
    pub(crate) uri: String,
    pub(crate) text: String,
    pub(crate) lines: LineIndex,
    pub(crate) tree: Tree,
    /// The target namespace, which a document without one takes from whoever includes it.
    pub(crate) target: NsId,
    /// Whether it took its target namespace from another one.
    pub(crate) chameleon: bool,
    pub(crate) elements_qualified: bool,
    pub(crate) attributes_qualified: bool,
    pub(crate) block: Methods,
    pub(crate) finals: Methods,
    /// The namespaces that it imports.
    pub(crate) imports: Vec<NsId>,
    /// Locations that led nowhere, with the reasons.
    pub(crate) missing: Vec<(String, String)>,
}

/// All documents of a schema.
#[derive(Debug, Default)]
pub(crate) struct Documents {
    pub(crate) all: Vec<Document>,
    /// Elements `xs:redefine`, each with the document that it redefines.
    pub(crate) redefines: Vec<(Origin, Option<u32>)>,
}

/// How many documents one schema may have.
pub const MAX_DOCUMENTS: usize = 2_000;

impl Document {
    /// A document in which nothing stands.
    pub(crate) fn empty() -> Document {
        Document {
            name: "".into(),
            uri: String::new(),
            text: String::new(),
            lines: LineIndex::new(""),
            tree: Tree::default(),
            target: ABSENT,
            chameleon: false,
            elements_qualified: false,
            attributes_qualified: false,
            block: Methods::NONE,
            finals: Methods::NONE,
            imports: Vec::new(),
            missing: Vec::new(),
        }
    }

    /// The XPath of a node, with positions where there are several of a name.
    pub(crate) fn path(&self, id: NodeId) -> String {
        let mut steps = Vec::new();
        let mut current = Some(id);
        while let Some(id) = current {
            let Some(node) = self.tree.node(id) else { break };
            let parent = self.tree.parent(id);
            let named = |other: &&NodeId| self.tree.node(**other).is_some_and(|other| other.name == node.name);
            let siblings = parent.map_or(&[][..], |parent| self.tree.children(parent));
            let same = siblings.iter().filter(named).count();
            let position = siblings.iter().filter(named).position(|other| *other == id).unwrap_or(0) + 1;
            steps.push(if same > 1 { format!("/{}[{position}]", node.name) } else { format!("/{}", node.name) });
            current = parent;
        }
        steps.reverse();
        steps.concat()
    }

    /// What a qualified name in the document means: a namespace and a local name.
    pub(crate) fn qualified<'d>(&'d self, id: NodeId, text: &'d str) -> Option<(&'d str, &'d str)> {
        let (prefix, local) = mervik_xml::names::split(text.trim())?;
        Some((self.tree.resolve(id, prefix)?, local))
    }
}

/// Reads a schema document and all that it includes, imports and redefines.
pub(crate) struct Loader<'f> {
    pub(crate) documents: Documents,
    pub(crate) names: Names,
    pub(crate) findings: Findings,
    fetch: &'f mut dyn Fetch,
    /// Documents by location and target namespace.
    known: HashMap<(String, NsId), u32>,
}

enum Wanted {
    /// Included or redefined: it has the target namespace of the other, or takes it.
    Same(NsId),
    /// Imported for a namespace.
    Other(NsId),
}

impl<'f> Loader<'f> {
    pub(crate) fn new(fetch: &'f mut dyn Fetch) -> Self {
        Loader {
            documents: Documents::default(),
            names: Names::new(),
            findings: Findings::default(),
            fetch,
            known: HashMap::new(),
        }
    }

    /// Adds a document that starts a schema. What is wrong with its text is given back.
    pub(crate) fn main(&mut self, name: &str, uri: &str, text: String) -> Result<(), Box<mervik_xml::Fault>> {
        let tree = Tree::read(&text)?;
        let target = self.declared_target(&tree);
        self.add(name, uri, text, tree, target, false);
        self.follow();
        Ok(())
    }

    fn declared_target(&mut self, tree: &Tree) -> NsId {
        let root = tree.root().and_then(|root| tree.node(root));
        let target = root.and_then(|root| root.attribute("targetNamespace"));
        target.map_or(ABSENT, |target| self.names.intern_namespace(target.value.trim()))
    }

    fn add(&mut self, name: &str, uri: &str, text: String, tree: Tree, target: NsId, chameleon: bool) -> u32 {
        let index = self.documents.all.len() as u32;
        let lines = LineIndex::new(&text);
        let of = |attribute: &str| {
            let root = tree.root().and_then(|root| tree.node(root))?;
            root.attribute(attribute).map(|attribute| attribute.value.trim().to_owned())
        };
        let document = Document {
            name: name.into(),
            uri: uri.to_owned(),
            target,
            chameleon,
            elements_qualified: of("elementFormDefault").as_deref() == Some("qualified"),
            attributes_qualified: of("attributeFormDefault").as_deref() == Some("qualified"),
            block: methods(of("blockDefault").as_deref().unwrap_or("")),
            finals: methods(of("finalDefault").as_deref().unwrap_or("")),
            imports: Vec::new(),
            missing: Vec::new(),
            text,
            lines,
            tree,
        };
        self.known.insert((uri.to_owned(), target), index);
        self.documents.all.push(document);
        index
    }

    /// Follows the references of documents to others, until there are none that are new.
    fn follow(&mut self) {
        let mut next = 0;
        while let Some(document) = self.documents.all.get(next) {
            let index = next as u32;
            next += 1;
            let Some(root) = document.tree.root() else { continue };
            if document.tree.node(root).is_none_or(|node| node.namespace != XSD || node.local != "schema") {
                continue;
            }
            for child in document.tree.children(root).to_vec() {
                self.follow_one(index, child);
            }
        }
    }

    fn follow_one(&mut self, index: u32, child: NodeId) {
        let Some(document) = self.documents.all.get(index as usize) else { return };
        let Some(node) = document.tree.node(child).filter(|node| node.namespace == XSD) else { return };
        let origin = Origin { document: index, node: child };
        let value = |name: &str| node.attribute(name).map(|attribute| attribute.value.trim().to_owned());
        let location = value("schemaLocation");
        let (target, base) = (document.target, document.uri.clone());
        match node.local.as_str() {
            "include" | "redefine" => {
                let redefines = node.local == "redefine";
                let empty = document
                    .tree
                    .children(child)
                    .iter()
                    .all(|id| document.tree.node(*id).is_none_or(|node| node.local == "annotation"));
                let Some(location) = location else { return };
                let found = self.find(origin, &base, &location, Wanted::Same(target));
                if redefines {
                    self.documents.redefines.push((origin, found));
                    if found.is_none() && !empty {
                        let message = format!("nothing to redefine: `{location}` was not read");
                        self.findings.error("src-redefine.2", origin, message).at("schemaLocation");
                    }
                }
            }
            "import" => {
                let namespace = value("namespace");
                let wanted = namespace.as_deref().map_or(ABSENT, |uri| self.names.intern_namespace(uri));
                if wanted == target {
                    let (rule, message) = match namespace {
                        Some(_) => ("src-import.1.1", "an import must be of another namespace than the schema's own"),
                        None => (
                            "src-import.1.2",
                            "an import without `namespace` needs a schema that has a target namespace",
                        ),
                    };
                    self.findings
                        .error(rule, origin, message)
                        .hint("`xs:include` takes in a document of the same namespace");
                    return;
                }
                if let Some(document) = self.documents.all.get_mut(index as usize) {
                    document.imports.push(wanted);
                }
                if let Some(location) = location {
                    self.find(origin, &base, &location, Wanted::Other(wanted));
                }
            }
            _ => {}
        }
    }

    /// The document that a location leads to, read if it is new.
    fn find(&mut self, origin: Origin, base: &str, location: &str, wanted: Wanted) -> Option<u32> {
        let uri = resolve(base, location);
        let fetched = match self.fetch.fetch(&uri) {
            Ok(fetched) => fetched,
            Err(FetchError { reason, hint }) => {
                let message = format!("`{location}` is not read: it {reason}");
                // The standard lets a location lead nowhere; what is missing then is told where it is referred to.
                let well_known = matches!(wanted, Wanted::Other(namespace) if self.names.uri(namespace) == mervik_xml::XML_NAMESPACE);
                if !well_known {
                    self.findings.add("missing-document", Severity::Warning, origin, message).at("schemaLocation");
                    if let Some(hint) = hint {
                        self.findings.hint(hint);
                    }
                }
                if let Some(document) = self.documents.all.get_mut(origin.document as usize) {
                    document.missing.push((location.to_owned(), reason));
                }
                return None;
            }
        };
        let target = match wanted {
            Wanted::Same(target) | Wanted::Other(target) => target,
        };
        if let Some(known) = self.known.get(&(fetched.uri.clone(), target)) {
            return Some(*known);
        }
        if self.documents.all.len() >= MAX_DOCUMENTS {
            self.findings.error("src-include.1", origin, format!("more than {MAX_DOCUMENTS} schema documents"));
            return None;
        }
        let (rule, redefine) = match wanted {
            Wanted::Same(_) => ("src-include.1", true),
            Wanted::Other(_) => ("src-import.2", false),
        };
        let tree = match Tree::read(&fetched.text) {
            Ok(tree) => tree,
            Err(fault) => {
                let message = format!(
                    "`{location}` cannot be read: line {}, column {}: {}",
                    fault.place.line,
                    fault.place.column,
                    fault.message(Tongue::English)
                );
                self.findings.error(rule, origin, message).at("schemaLocation");
                return None;
            }
        };
        let root = tree.root().and_then(|root| tree.node(root));
        if root.is_none_or(|root| root.namespace != XSD || root.local != "schema") {
            let found = root.map_or("nothing".to_owned(), |root| format!("`{}`", root.name));
            let message = format!("`{location}` must be a schema document, found {found}");
            self.findings.error(rule, origin, message).at("schemaLocation");
            return None;
        }
        let declared = self.declared_target(&tree);
        let chameleon = redefine && declared == ABSENT && target != ABSENT;
        if declared != target && !chameleon {
            let said = |uri: &str| if uri.is_empty() { "none".to_owned() } else { format!("`{uri}`") };
            let rule = match (redefine, target) {
                (true, _) => "src-include.2.1",
                (false, ABSENT) => "src-import.3.2",
                (false, _) => "src-import.3.1",
            };
            let message = format!(
                "`{location}` must have the target namespace {}, found {}",
                said(self.names.uri(target)),
                said(self.names.uri(declared))
            );
            self.findings.error(rule, origin, message).at("schemaLocation");
            return None;
        }
        Some(self.add(&fetched.name, &fetched.uri, fetched.text, tree, target, chameleon))
    }
}

/// A location as an absolute URI, seen from the document that names it (RFC 3986, section 5).
fn resolve(base: &str, location: &str) -> String {
    let parsed = UriRef::parse(location).ok();
    let base = fluent_uri::Uri::parse(base).ok();
    match (parsed, base) {
        (Some(reference), Some(base)) => reference
            .resolve_against(&base.strip_fragment())
            .map_or_else(|_| location.to_owned(), |uri| uri.to_string()),
        _ => location.to_owned(),
    }
}

/// The methods that a `block` or a `final` lists.
pub(crate) fn methods(text: &str) -> Methods {
    text.split(mervik_xml::names::is_space).fold(Methods::NONE, |methods, word| {
        methods.with(match word {
            "#all" => Methods::EXTENSION
                .with(Methods::RESTRICTION)
                .with(Methods::SUBSTITUTION)
                .with(Methods::LIST)
                .with(Methods::UNION),
            "extension" => Methods::EXTENSION,
            "restriction" => Methods::RESTRICTION,
            "substitution" => Methods::SUBSTITUTION,
            "list" => Methods::LIST,
            "union" => Methods::UNION,
            _ => Methods::NONE,
        })
    })
}
