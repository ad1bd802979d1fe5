//! Named sets of rules, with parameters: `<d:sets name="…" parameters="…">` with rules in it.

use super::{DIRECTIVES, Wrong, component_around, only, parsed, written, wrong};
use crate::component::Origin;
use crate::remark::Findings;
use crate::source::Document;
use crate::stated::Written;
use mervik_document::{near, shown};
use mervik_rules::{Arguments, Bound};
use mervik_xml::tree::{Node, NodeId, Tree};
use std::collections::{BTreeMap, HashSet};

/// The attributes of a set, and of a use of one.
const OF_SET: [&str; 2] = ["name", "parameters"];
const OF_USE: [&str; 2] = ["use", "id"];

/// A set of rules.
struct Set {
    parameters: Vec<String>,
    rules: Vec<Written>,
}

/// The sets of all documents of a schema, by name; `None` for one with errors.
pub(super) struct Sets(BTreeMap<String, Option<Set>>);

impl Sets {
    /// Reads all sets, and tells what is wrong with them.
    pub(super) fn read(documents: &[Document], findings: &mut Findings) -> Sets {
        let mut sets = BTreeMap::new();
        for (document, index) in documents.iter().zip(0..) {
            let tree = &document.tree;
            for id in tree.nodes() {
                let Some(node) = tree.node(id).filter(|node| node.namespace == DIRECTIVES && node.local == "sets")
                else {
                    continue;
                };
                let at = |node| Origin { document: index, node };
                if component_around(document, id).is_none() {
                    continue;
                }
                let name = node.attribute("name").map_or("", |name| &name.value);
                let read = if sets.contains_key(name) {
                    wrong(format!("there is another set `{}`", shown::text(name)), "").map_err(|wrong| (None, wrong))
                } else {
                    read(tree, id, at)
                };
                let known = sets.entry(name.to_owned()).or_insert(None);
                match read {
                    Ok(set) => *known = Some(set),
                    Err((node, wrong)) => wrong.tell(at(node.unwrap_or(id)), findings),
                }
            }
        }
        Sets(sets)
    }

    /// The rules that a use of a set comes to.
    pub(super) fn used(&self, tree: &Tree, id: NodeId, at: Origin) -> Result<Vec<Written>, Wrong> {
        let Some(node) = tree.node(id) else { return Ok(Vec::new()) };
        only(node, "a use of a set", OF_USE)?;
        let name = node.attribute("use").map_or("", |name| &name.value);
        let set = match self.0.get(name) {
            Some(Some(set)) => set,
            // What is wrong with it is told there.
            Some(None) => return Ok(Vec::new()),
            None => {
                let near = near::nearest(name, self.0.keys().map(String::as_str));
                let hint = near.map(|near| format!("`{near}` is near"));
                return wrong(format!("there is no set `{}`", shown::text(name)), hint.unwrap_or_default());
            }
        };
        let arguments = arguments(tree, id, &set.parameters)?;
        let lead = node.attribute("id").map(|id| format!("{}-", id.value)).unwrap_or_default();
        set.rules.iter().map(|rule| bound(rule, &lead, &arguments, at)).collect()
    }
}

fn read(tree: &Tree, id: NodeId, at: impl Fn(NodeId) -> Origin) -> Result<Set, (Option<NodeId>, Wrong)> {
    let Some(node) = tree.node(id) else { return Ok(Set { parameters: Vec::new(), rules: Vec::new() }) };
    let here = |wrong: Wrong| (None, wrong);
    only(node, "a set", OF_SET).map_err(here)?;
    let parameters: Vec<String> = node
        .attribute("parameters")
        .into_iter()
        .flat_map(|names| names.value.split_ascii_whitespace().map(str::to_owned))
        .collect();
    let mut seen = HashSet::new();
    if !parameters.iter().all(|name| mervik_rules::is_parameter(name) && seen.insert(name)) {
        let hint = "letters, digits and `_`, a letter first, and no word of the language of rules";
        return wrong("`parameters` must be names, each there once", hint).map_err(here);
    }
    let mut rules: Vec<Written> = Vec::new();
    for child in tree.children(id) {
        let Some(node) = tree.node(*child).filter(|node| node.namespace == DIRECTIVES) else { continue };
        let there = |wrong: Wrong| (Some(*child), wrong);
        let rule = match (node.local.as_str(), node.attribute("use")) {
            ("rules", None) => written(node, at(*child)).map_err(there)?,
            ("rules", Some(_)) => return wrong("a set cannot use another one", "").map_err(there),
            (other, _) => {
                let message = format!("a set has no `{}`", shown::text(other));
                return wrong(message, "it has rules alone").map_err(there);
            }
        };
        if rules.iter().any(|other| other.id == rule.id) {
            return wrong(format!("the rule `{}` is stated twice here", shown::text(&rule.id)), "").map_err(there);
        }
        rules.push(rule);
    }
    let has_name = node.attribute("name").is_some_and(|name| !name.value.is_empty());
    if rules.is_empty() || !has_name {
        let hint = "`<d:sets name=\"window\" parameters=\"from until\"><d:rules id=\"…\" that=\"…\"/></d:sets>`";
        return wrong("a set must have a `name` and rules", hint).map_err(here);
    }
    Ok(Set { parameters, rules })
}

/// What stands for the parameters of a set: the attributes of `<d:with>`.
fn arguments(tree: &Tree, id: NodeId, parameters: &[String]) -> Result<Arguments, Wrong> {
    let children = tree.children(id).iter().filter_map(|child| tree.node(*child));
    let with: Vec<&Node> = children.filter(|node| node.namespace == DIRECTIVES && node.local == "with").collect();
    let given: Vec<_> = with.iter().flat_map(|node| &node.attributes).filter(|one| one.namespace.is_empty()).collect();
    let names: Vec<&str> = given.iter().map(|one| one.local.as_str()).collect();
    if let Some((_, message, hint)) = mervik_rules::misnamed(parameters, &names).into_iter().next() {
        return wrong(message, hint.unwrap_or_default());
    }
    let mut arguments = Arguments::new();
    for one in given {
        match mervik_rules::argument(&one.value) {
            Ok(value) => drop(arguments.insert(one.local.clone(), value)),
            Err(fault) => {
                let message = format!("`{}`: {}", one.local, fault.message);
                return wrong(message, fault.hint.unwrap_or_default());
            }
        }
    }
    Ok(arguments)
}

/// A rule of a set where it is used.
fn bound(rule: &Written, lead: &str, arguments: &Arguments, at: Origin) -> Result<Written, Wrong> {
    let bound = |condition| {
        mervik_rules::bound(condition, arguments).map_err(|fault| Wrong {
            message: mervik_rules::unfit(&rule.id, &fault),
            hint: fault.hint.unwrap_or_default(),
            within: None,
        })
    };
    Ok(Written {
        id: format!("{lead}{}", rule.id),
        that: bound(&rule.that)?,
        when: rule.when.as_ref().map(bound).transpose()?,
        severity: rule.severity,
        message: rule.message.as_ref().map(|message| parsed("message", message.source())).transpose()?,
        at,
        bound: Some(Bound::to(arguments)),
    })
}
