//! A small document as a tree, for those who look at it more than once: schema documents, patches, samples.

use crate::attributes::Element;
use crate::fault::Fault;
use crate::namespaces::Namespaces;
use crate::reader::{Config, Handler, Outcome, read_text};
use crate::spot::Spot;
use std::ops::ControlFlow;

/// The index of a node in its [`Tree`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct NodeId(u32);

impl NodeId {
    /// The number of the node in the order of its document, from 0.
    pub fn index(self) -> u32 {
        self.0
    }
}

/// The elements of a document, in its order. Text is kept with the element that it stands in.
#[derive(Clone, Debug, Default)]
pub struct Tree {
    nodes: Vec<Node>,
    scopes: Vec<Vec<(String, String)>>,
}

/// An element of a tree.
#[derive(Clone, Debug)]
pub struct Node {
    /// The name as it is written.
    pub name: String,
    /// The name without its prefix.
    pub local: String,
    /// The namespace; empty for none.
    pub namespace: String,
    /// The attributes in their order, without declarations of namespaces.
    pub attributes: Vec<Attribute>,
    /// The text directly within the element, all pieces together.
    pub text: String,
    /// Offset of the element's `<`, in bytes.
    pub offset: u32,
    /// Offset after the element's `>`, or after its end tag.
    pub end: u32,
    scope: u32,
    parent: Option<NodeId>,
    children: Vec<NodeId>,
}

/// An attribute of a node.
#[derive(Clone, Debug)]
pub struct Attribute {
    /// The name as it is written.
    pub name: String,
    /// The name without its prefix.
    pub local: String,
    /// The namespace; empty for none.
    pub namespace: String,
    /// The normalised value.
    pub value: String,
    /// Offset of the name, in bytes.
    pub offset: u32,
    /// Offset of the value within its quotes, and how long it is there.
    pub value_offset: u32,
    /// How many bytes the value has as it is written.
    pub value_length: u32,
}

impl Node {
    /// The value of an attribute without namespace.
    pub fn attribute(&self, local: &str) -> Option<&Attribute> {
        self.attributes.iter().find(|attribute| attribute.namespace.is_empty() && attribute.local == local)
    }
}

impl Tree {
    /// Reads a document. Offsets are those of `text`, which must be UTF-8 whatever its declaration says.
    ///
    /// # Errors
    ///
    /// What makes it no well-formed XML with namespaces.
    pub fn read(text: &str) -> Result<Tree, Box<Fault>> {
        let mut builder = Builder { tree: Tree::default(), open: Vec::new(), scopes: vec![0], text };
        builder.tree.scopes.push(Vec::new());
        // Schemas of the time declare entities for their own namespaces; they stay within the document and its bounds.
        match read_text(text, &mut builder, Config { allow_dtd: true }) {
            Outcome::Fault(fault) => Err(fault),
            // Nothing here stops the reading.
            Outcome::Complete | Outcome::Stopped => Ok(builder.tree),
        }
    }

    /// The root; `None` only for the tree of no document.
    pub fn root(&self) -> Option<NodeId> {
        (!self.nodes.is_empty()).then_some(NodeId(0))
    }

    /// A node of this tree.
    pub fn node(&self, id: NodeId) -> Option<&Node> {
        self.nodes.get(id.0 as usize)
    }

    /// The elements directly within a node.
    pub fn children(&self, id: NodeId) -> &[NodeId] {
        self.node(id).map_or(&[], |node| &node.children)
    }

    /// The element around a node.
    pub fn parent(&self, id: NodeId) -> Option<NodeId> {
        self.node(id)?.parent
    }

    /// The namespace that a prefix stands for at a node; the empty one for no prefix and no default.
    pub fn resolve(&self, id: NodeId, prefix: &str) -> Option<&str> {
        if prefix == "xml" {
            return Some(crate::XML_NAMESPACE);
        }
        let found = self.scope(id).iter().find(|(bound, _)| bound == prefix);
        found.map(|(_, uri)| uri.as_str()).or(prefix.is_empty().then_some(""))
    }

    /// The prefixes in scope at a node and their namespaces, the innermost first.
    pub fn scope(&self, id: NodeId) -> &[(String, String)] {
        self.node(id).and_then(|node| self.scopes.get(node.scope as usize)).map_or(&[], Vec::as_slice)
    }

    /// The element that a path leads to, and the attribute if it ends in one. A path has the names as they are written, each
    /// with its position among its like where there are several: `/a/p:b[2]/@c`.
    pub fn find<'p>(&self, path: &'p str) -> Option<(NodeId, Option<&'p str>)> {
        let mut found: Option<NodeId> = None;
        for step in path.strip_prefix('/')?.split('/') {
            if let Some(attribute) = step.strip_prefix('@') {
                return Some((found?, Some(attribute)));
            }
            let (name, position) = match step.strip_suffix(']').and_then(|step| step.split_once('[')) {
                Some((name, position)) => (name, position.parse::<usize>().ok()?.checked_sub(1)?),
                None => (step, 0),
            };
            let named = |id: &&NodeId| self.node(**id).is_some_and(|node| node.name == name);
            found = match found {
                None => self.root().filter(|root| named(&root)),
                Some(around) => self.children(around).iter().filter(named).nth(position).copied(),
            };
            found?;
        }
        Some((found?, None))
    }

    /// All nodes in the order of the document.
    pub fn nodes(&self) -> impl Iterator<Item = NodeId> + use<> {
        (0..self.nodes.len() as u32).map(NodeId)
    }
}

struct Builder<'t> {
    tree: Tree,
    open: Vec<NodeId>,
    scopes: Vec<u32>,
    text: &'t str,
}

impl Handler for Builder<'_> {
    fn namespace(&mut self, _uri: &str) -> u32 {
        crate::UNKNOWN
    }

    fn start(&mut self, element: &Element<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        let id = NodeId(self.tree.nodes.len() as u32);
        let parent = self.open.last().copied();
        let mut scope = self.scopes.last().copied().unwrap_or(0);
        if element.declares {
            scope = self.tree.scopes.len() as u32;
            let bindings = element.scope.in_scope().filter(|(prefix, _)| *prefix != "xml");
            self.tree.scopes.push(bindings.map(|(prefix, uri)| (prefix.to_owned(), uri.to_owned())).collect());
        }
        self.scopes.push(scope);
        let attributes = element.attributes().map(|attribute| Attribute {
            name: attribute.name.to_owned(),
            local: attribute.local.to_owned(),
            namespace: element.namespace_of(&attribute).to_owned(),
            value: attribute.value.to_owned(),
            offset: attribute.offset as u32,
            value_offset: attribute.value_offset as u32,
            value_length: attribute.value_length,
        });
        self.tree.nodes.push(Node {
            name: element.name.to_owned(),
            local: element.local.to_owned(),
            namespace: element.namespace.to_owned(),
            attributes: attributes.collect(),
            text: String::new(),
            offset: spot.offset() as u32,
            end: 0,
            scope,
            parent,
            children: Vec::new(),
        });
        if let Some(parent) = parent.and_then(|parent| self.tree.nodes.get_mut(parent.0 as usize)) {
            parent.children.push(id);
        }
        self.open.push(id);
        ControlFlow::Continue(())
    }

    fn end(&mut self, _empty: bool, _scope: &Namespaces, spot: &Spot<'_>) -> ControlFlow<()> {
        self.scopes.pop();
        if let Some(node) = self.open.pop().and_then(|id| self.tree.nodes.get_mut(id.0 as usize)) {
            let rest = self.text.get(spot.offset() as usize..).unwrap_or("");
            node.end = (spot.offset() as usize + rest.find('>').map_or(rest.len(), |end| end + 1)) as u32;
        }
        ControlFlow::Continue(())
    }

    fn text(&mut self, text: &str, _spot: &Spot<'_>) -> ControlFlow<()> {
        if let Some(node) = self.open.last().and_then(|id| self.tree.nodes.get_mut(id.0 as usize)) {
            node.text.push_str(text);
        }
        ControlFlow::Continue(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_tree_knows_names_text_scopes_and_places() {
        let text = "<a xmlns='urn:a' x='1'>\n  <p:b xmlns:p='urn:p' p:y='2'>t&amp;u<c/></p:b>\n</a>";
        let tree = Tree::read(text).unwrap();
        let told: Vec<(&str, &str, &str)> = tree
            .nodes()
            .filter_map(|id| tree.node(id))
            .map(|node| {
                (
                    node.local.as_str(),
                    node.namespace.as_str(),
                    text.get(node.offset as usize..node.end as usize).unwrap(),
                )
            })
            .collect();
        assert_eq!(told[0], ("a", "urn:a", text));
        assert_eq!(told[1], ("b", "urn:p", "<p:b xmlns:p='urn:p' p:y='2'>t&amp;u<c/></p:b>"));
        assert_eq!(told[2], ("c", "urn:a", "<c/>"));
        let b = tree.children(tree.root().unwrap())[0];
        assert_eq!(tree.node(b).unwrap().text, "t&u");
        assert_eq!(tree.node(b).unwrap().attributes[0].namespace, "urn:p");
        assert_eq!(
            (tree.resolve(b, "p"), tree.resolve(b, ""), tree.resolve(b, "q")),
            (Some("urn:p"), Some("urn:a"), None)
        );
        assert_eq!(tree.resolve(tree.root().unwrap(), "p"), None);
        assert_eq!(tree.parent(b), tree.root());
    }

    #[test]
    fn a_tree_takes_the_entities_that_its_document_declares() {
        let tree = Tree::read("<!DOCTYPE a [<!ENTITY ns 'urn:a'>]><a xmlns='&ns;' b='&ns;#c'/>").unwrap();
        let root = tree.node(tree.root().unwrap()).unwrap();
        assert_eq!((root.namespace.as_str(), root.attributes[0].value.as_str()), ("urn:a", "urn:a#c"));
    }

    #[test]
    fn offsets_are_those_of_the_text_whatever_its_declaration_says() {
        let text = "<?xml version='1.0' encoding='ISO-8859-1'?><a b='größe'>é</a>";
        let tree = Tree::read(text).unwrap();
        let root = tree.node(tree.root().unwrap()).unwrap();
        assert_eq!((root.attributes[0].value.as_str(), root.text.as_str()), ("größe", "é"));
        assert_eq!(text.get(root.offset as usize..root.end as usize), Some("<a b='größe'>é</a>"));
    }

    #[test]
    fn paths_lead_to_elements_and_attributes() {
        let tree = Tree::read("<a><p:b xmlns:p='urn:p'/><p:b xmlns:p='urn:p' c='1'><d/></p:b></a>").unwrap();
        let table = [
            ("/a", Some((0, None))),
            ("/a[1]", Some((0, None))),
            ("/a/p:b", Some((1, None))),
            ("/a/p:b[2]/@c", Some((2, Some("c")))),
            ("/a/p:b[2]/d", Some((3, None))),
            ("/a/b", None),
            ("/a/p:b[3]", None),
            ("/a/p:b[0]", None),
            ("/b", None),
            ("a", None),
            ("/@c", None),
            ("", None),
        ];
        for (path, expected) in table {
            assert_eq!(tree.find(path).map(|(id, name)| (id.index(), name)), expected, "{path}");
        }
    }

    #[test]
    fn what_is_no_document_has_no_tree() {
        for text in ["", "<a>", "<a></b>", "x", "<a/><b/>"] {
            assert!(Tree::read(text).is_err(), "{text}");
        }
    }
}
