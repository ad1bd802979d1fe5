//! What may stand in a schema document: the elements, their attributes and their order (Part 1, appendix A).

use crate::component::Origin;
use crate::names::XSD;
use crate::remark::Findings;
use crate::source::Document;
use mervik_document::{near, shown};
use mervik_xml::names;
use mervik_xml::tree::{Node, NodeId};
use std::collections::HashSet;

/// What an attribute of a schema document may say.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Kind {
    Name,
    QName,
    QNames,
    Boolean,
    Count,
    CountOrUnbounded,
    OneOf(&'static [&'static str]),
    /// `#all`, or some of these.
    Methods(&'static [&'static str]),
    /// `##any`, `##other`, or a list of namespaces.
    Namespaces,
    Text,
}

/// One element in one kind of place.
struct Rule {
    attributes: &'static [(&'static str, Kind)],
    required: &'static [&'static str],
    children: Order,
    /// The same in words.
    order: &'static str,
}

const BLOCK: Kind = Kind::Methods(&["extension", "restriction", "substitution"]);
const DERIVE: Kind = Kind::Methods(&["extension", "restriction"]);
const SIMPLE: Kind = Kind::Methods(&["list", "union", "restriction"]);
const SIMPLE_DEFAULT: Kind = Kind::Methods(&["list", "union", "restriction", "extension"]);
const FORM: Kind = Kind::OneOf(&["qualified", "unqualified"]);
const USE: Kind = Kind::OneOf(&["optional", "prohibited", "required"]);
const PROCESS: Kind = Kind::OneOf(&["lax", "skip", "strict"]);
const MIN: (&str, Kind) = ("minOccurs", Kind::Count);
const MAX: (&str, Kind) = ("maxOccurs", Kind::CountOrUnbounded);

/// How often one of some names may come.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Often {
    Once,
    AtMostOnce,
    Any,
    AtLeastOnce,
}
use Often::{Any, AtLeastOnce, AtMostOnce, Once};

/// Names of which one may come, and how often.
type Step = (&'static [&'static str], Often);

/// The ways in which children may come one after the other.
type Order = &'static [&'static [Step]];

const NOTE: Step = (&["annotation"], AtMostOnce);
const MODEL: Step = (&["group", "all", "choice", "sequence"], AtMostOnce);
const ATTRIBUTES: Step = (&["attribute", "attributeGroup"], Any);
const ANY_ATTRIBUTE: Step = (&["anyAttribute"], AtMostOnce);
const ONE_SIMPLE: Step = (&["simpleType"], AtMostOnce);
const FACETS: Step = (
    &[
        "minExclusive",
        "minInclusive",
        "maxExclusive",
        "maxInclusive",
        "totalDigits",
        "fractionDigits",
        "length",
        "minLength",
        "maxLength",
        "enumeration",
        "whiteSpace",
        "pattern",
    ],
    Any,
);
const DERIVED: Step = (&["restriction", "extension"], Once);
const IDENTITIES: Step = (&["unique", "key", "keyref"], Any);
const PARTICLES: Step = (&["element", "group", "choice", "sequence", "any"], Any);

const NOTED: Order = &[&[NOTE]];
const OF_COMPLEX: Order =
    &[&[NOTE, MODEL, ATTRIBUTES, ANY_ATTRIBUTE], &[NOTE, (&["simpleContent", "complexContent"], Once)]];
const OF_ELEMENT: Order = &[&[NOTE, (&["simpleType", "complexType"], AtMostOnce), IDENTITIES]];

const ATTRIBUTES_LAST: &str = "a model, then attributes, then `anyAttribute`";
const NOTE_ONLY: &str = "one `annotation` at most";

/// The rule for an element in its place; `None` for an element that has no place there.
fn rule(parent: &str, local: &str, node: &Node) -> Option<Rule> {
    let top = matches!(parent, "schema" | "redefine");
    let rule = |attributes, required, children, order| Some(Rule { attributes, required, children, order });
    match local {
        "schema" if parent.is_empty() => rule(
            &[
                ("targetNamespace", Kind::Text),
                ("version", Kind::Text),
                ("finalDefault", SIMPLE_DEFAULT),
                ("blockDefault", BLOCK),
                ("attributeFormDefault", FORM),
                ("elementFormDefault", FORM),
            ],
            &[],
            &[&[
                (&["include", "import", "redefine", "annotation"], Any),
                (
                    &[
                        "simpleType",
                        "complexType",
                        "group",
                        "attributeGroup",
                        "element",
                        "attribute",
                        "notation",
                        "annotation",
                    ],
                    Any,
                ),
            ]],
            "`include`, `import` and `redefine` first, then declarations",
        ),
        "include" => rule(&[("schemaLocation", Kind::Text)], &["schemaLocation"], NOTED, NOTE_ONLY),
        "redefine" => rule(
            &[("schemaLocation", Kind::Text)],
            &["schemaLocation"],
            &[&[(&["annotation", "simpleType", "complexType", "group", "attributeGroup"], Any)]],
            "types, groups and attribute groups",
        ),
        "import" => rule(&[("namespace", Kind::Text), ("schemaLocation", Kind::Text)], &[], NOTED, NOTE_ONLY),
        "annotation" => rule(&[], &[], &[&[(&["appinfo", "documentation"], Any)]], "`appinfo` and `documentation`"),
        "notation" => {
            rule(&[("name", Kind::Name), ("public", Kind::Text), ("system", Kind::Text)], &["name"], NOTED, NOTE_ONLY)
        }
        "element" if top => rule(
            &[
                ("name", Kind::Name),
                ("type", Kind::QName),
                ("substitutionGroup", Kind::QName),
                ("nillable", Kind::Boolean),
                ("default", Kind::Text),
                ("fixed", Kind::Text),
                ("abstract", Kind::Boolean),
                ("final", DERIVE),
                ("block", BLOCK),
            ],
            &["name"],
            OF_ELEMENT,
            "one type, then identity constraints",
        ),
        "element" if parent == "all" => rule(
            &[
                ("name", Kind::Name),
                ("ref", Kind::QName),
                ("type", Kind::QName),
                ("nillable", Kind::Boolean),
                ("default", Kind::Text),
                ("fixed", Kind::Text),
                ("form", FORM),
                ("block", BLOCK),
                ("minOccurs", Kind::OneOf(&["0", "1"])),
                ("maxOccurs", Kind::OneOf(&["0", "1"])),
            ],
            &[],
            OF_ELEMENT,
            "one type, then identity constraints",
        ),
        "element" => rule(
            &[
                ("name", Kind::Name),
                ("ref", Kind::QName),
                ("type", Kind::QName),
                ("nillable", Kind::Boolean),
                ("default", Kind::Text),
                ("fixed", Kind::Text),
                ("form", FORM),
                ("block", BLOCK),
                MIN,
                MAX,
            ],
            &[],
            OF_ELEMENT,
            "one type, then identity constraints",
        ),
        "attribute" if top => rule(
            &[("name", Kind::Name), ("type", Kind::QName), ("default", Kind::Text), ("fixed", Kind::Text)],
            &["name"],
            &[&[NOTE, ONE_SIMPLE]],
            "one `simpleType`",
        ),
        "attribute" => rule(
            &[
                ("name", Kind::Name),
                ("ref", Kind::QName),
                ("type", Kind::QName),
                ("use", USE),
                ("default", Kind::Text),
                ("fixed", Kind::Text),
                ("form", FORM),
            ],
            &[],
            &[&[NOTE, ONE_SIMPLE]],
            "one `simpleType`",
        ),
        "complexType" if top => rule(
            &[
                ("name", Kind::Name),
                ("mixed", Kind::Boolean),
                ("abstract", Kind::Boolean),
                ("final", DERIVE),
                ("block", DERIVE),
            ],
            &["name"],
            OF_COMPLEX,
            ATTRIBUTES_LAST,
        ),
        "complexType" => rule(&[("mixed", Kind::Boolean)], &[], OF_COMPLEX, ATTRIBUTES_LAST),
        "simpleContent" => rule(&[], &[], &[&[NOTE, DERIVED]], "a `restriction` or an `extension`"),
        "complexContent" => {
            rule(&[("mixed", Kind::Boolean)], &[], &[&[NOTE, DERIVED]], "a `restriction` or an `extension`")
        }
        "extension" if parent == "simpleContent" => rule(
            &[("base", Kind::QName)],
            &["base"],
            &[&[NOTE, ATTRIBUTES, ANY_ATTRIBUTE]],
            "attributes, then `anyAttribute`",
        ),
        "extension" => {
            rule(&[("base", Kind::QName)], &["base"], &[&[NOTE, MODEL, ATTRIBUTES, ANY_ATTRIBUTE]], ATTRIBUTES_LAST)
        }
        "restriction" if parent == "complexContent" => {
            rule(&[("base", Kind::QName)], &["base"], &[&[NOTE, MODEL, ATTRIBUTES, ANY_ATTRIBUTE]], ATTRIBUTES_LAST)
        }
        "restriction" if parent == "simpleContent" => rule(
            &[("base", Kind::QName)],
            &["base"],
            &[&[NOTE, ONE_SIMPLE, FACETS, ATTRIBUTES, ANY_ATTRIBUTE]],
            "a `simpleType`, then facets, then attributes",
        ),
        "restriction" => {
            rule(&[("base", Kind::QName)], &[], &[&[NOTE, ONE_SIMPLE, FACETS]], "a `simpleType`, then facets")
        }
        "simpleType" if top => rule(
            &[("name", Kind::Name), ("final", SIMPLE)],
            &["name"],
            &[&[NOTE, (&["restriction", "list", "union"], Once)]],
            "a `restriction`, a `list` or a `union`",
        ),
        "simpleType" => rule(
            &[],
            &[],
            &[&[NOTE, (&["restriction", "list", "union"], Once)]],
            "a `restriction`, a `list` or a `union`",
        ),
        "list" => rule(&[("itemType", Kind::QName)], &[], &[&[NOTE, ONE_SIMPLE]], "one `simpleType`"),
        "union" => rule(&[("memberTypes", Kind::QNames)], &[], &[&[NOTE, (&["simpleType"], Any)]], "`simpleType`s"),
        "group" if top => rule(
            &[("name", Kind::Name)],
            &["name"],
            &[&[NOTE, (&["all", "choice", "sequence"], Once)]],
            "one model: `all`, `choice` or `sequence`",
        ),
        "group" => rule(&[("ref", Kind::QName), MIN, MAX], &["ref"], NOTED, NOTE_ONLY),
        "attributeGroup" if top => rule(
            &[("name", Kind::Name)],
            &["name"],
            &[&[NOTE, ATTRIBUTES, ANY_ATTRIBUTE]],
            "attributes, then `anyAttribute`",
        ),
        "attributeGroup" => rule(&[("ref", Kind::QName)], &["ref"], NOTED, NOTE_ONLY),
        "all" if parent == "group" => rule(&[], &[], &[&[NOTE, (&["element"], Any)]], "elements"),
        "all" => rule(
            &[("minOccurs", Kind::OneOf(&["0", "1"])), ("maxOccurs", Kind::OneOf(&["1"]))],
            &[],
            &[&[NOTE, (&["element"], Any)]],
            "elements",
        ),
        "choice" | "sequence" if parent == "group" && node.attribute("ref").is_none() => {
            rule(&[], &[], &[&[NOTE, PARTICLES]], "elements, groups and models, but not `all`")
        }
        "choice" | "sequence" => {
            rule(&[MIN, MAX], &[], &[&[NOTE, PARTICLES]], "elements, groups and models, but not `all`")
        }
        "any" => {
            rule(&[("namespace", Kind::Namespaces), ("processContents", PROCESS), MIN, MAX], &[], NOTED, NOTE_ONLY)
        }
        "anyAttribute" => rule(&[("namespace", Kind::Namespaces), ("processContents", PROCESS)], &[], NOTED, NOTE_ONLY),
        "unique" | "key" => rule(
            &[("name", Kind::Name)],
            &["name"],
            &[&[NOTE, (&["selector"], Once), (&["field"], AtLeastOnce)]],
            "a `selector`, then `field`s",
        ),
        "keyref" => rule(
            &[("name", Kind::Name), ("refer", Kind::QName)],
            &["name", "refer"],
            &[&[NOTE, (&["selector"], Once), (&["field"], AtLeastOnce)]],
            "a `selector`, then `field`s",
        ),
        "selector" | "field" => rule(&[("xpath", Kind::Text)], &["xpath"], NOTED, NOTE_ONLY),
        "length" | "minLength" | "maxLength" | "fractionDigits" => {
            rule(&[("value", Kind::Count), ("fixed", Kind::Boolean)], &["value"], NOTED, NOTE_ONLY)
        }
        "totalDigits" => rule(&[("value", Kind::Count), ("fixed", Kind::Boolean)], &["value"], NOTED, NOTE_ONLY),
        "minInclusive" | "minExclusive" | "maxInclusive" | "maxExclusive" => {
            rule(&[("value", Kind::Text), ("fixed", Kind::Boolean)], &["value"], NOTED, NOTE_ONLY)
        }
        "whiteSpace" => rule(
            &[("value", Kind::OneOf(&["preserve", "replace", "collapse"])), ("fixed", Kind::Boolean)],
            &["value"],
            NOTED,
            NOTE_ONLY,
        ),
        "pattern" | "enumeration" => rule(&[("value", Kind::Text)], &["value"], NOTED, NOTE_ONLY),
        _ => None,
    }
}

/// Looks at all of a document.
pub(crate) fn check(index: u32, document: &Document, findings: &mut Findings) {
    let Some(root) = document.tree.root() else { return };
    let mut ids: HashSet<String> = HashSet::new();
    let is_schema = document.tree.node(root).is_some_and(|node| node.namespace == XSD && node.local == "schema");
    if !is_schema {
        let found = document.tree.node(root).map_or("nothing", |node| node.name.as_str());
        let origin = Origin { document: index, node: root };
        findings.error(
            "cvc-elt.1",
            origin,
            format!("a schema document must start with `schema` of XML Schema, found `{found}`"),
        );
        return;
    }
    let mut waiting = vec![(root, "")];
    while let Some((id, parent)) = waiting.pop() {
        let Some(node) = document.tree.node(id) else { continue };
        let origin = Origin { document: index, node: id };
        let local = known(&node.local);
        let rule = local.filter(|_| node.namespace == XSD).and_then(|local| rule(parent, local, node));
        let (Some(rule), Some(local)) = (rule, local) else { continue };
        attributes(origin, node, &rule, findings, &mut ids);
        let children = document.tree.children(id);
        if let Some(at) = misfit(document, children, rule.children) {
            tell_misfit(document, origin, children.get(at).copied(), &rule, local, findings);
        }
        if !node.text.trim_matches(names::is_space).is_empty() {
            let text = shown::text(node.text.trim());
            findings.error(
                "cvc-complex-type.2.3",
                origin,
                format!("no text may stand in `{}`, found `{text}`", node.name),
            );
            findings.hint("`xs:annotation` with `xs:documentation` holds text");
        }
        if local != "annotation" {
            waiting.extend(children.iter().rev().map(|child| (*child, local)));
        }
    }
}

/// The first child that does not fit; the number of children where one is missing at the end.
fn misfit(document: &Document, children: &[NodeId], order: Order) -> Option<usize> {
    let fits = |id: &NodeId, names: &[&str]| {
        document.tree.node(*id).is_some_and(|node| node.namespace == XSD && names.contains(&node.local.as_str()))
    };
    let furthest = |steps: &&[Step]| {
        let mut at = 0;
        for (names, often) in *steps {
            let mut count = 0;
            while children.get(at).is_some_and(|child| fits(child, names))
                && (count == 0 || matches!(often, Any | AtLeastOnce))
            {
                at += 1;
                count += 1;
            }
            if count == 0 && matches!(often, Once | AtLeastOnce) {
                return (false, at);
            }
        }
        (at == children.len(), at)
    };
    let (holds, at) = order.iter().map(furthest).max().unwrap_or((true, 0));
    (!holds).then_some(at)
}

/// Says which child does not fit.
fn tell_misfit(
    document: &Document,
    origin: Origin,
    child: Option<NodeId>,
    rule: &Rule,
    local: &str,
    findings: &mut Findings,
) {
    let Some((child, node)) = child.and_then(|child| Some((child, document.tree.node(child)?))) else {
        let message = format!("`{local}` takes {}; something is missing at its end", rule.order);
        findings.error("cvc-complex-type.2.4.b", origin, message);
        return;
    };
    let origin = Origin { node: child, ..origin };
    if node.namespace != XSD {
        let message = format!("only elements of XML Schema may stand in `{local}`, found `{}`", node.name);
        findings
            .error("cvc-complex-type.2.4.a", origin, message)
            .hint("`xs:appinfo` holds elements of other namespaces");
        return;
    }
    let message = format!("`{}` has no place here in `{local}`, which takes {}", node.name, rule.order);
    findings.error("cvc-complex-type.2.4.a", origin, message);
    let words: Vec<&str> =
        rule.children.iter().flat_map(|steps| steps.iter()).flat_map(|(names, _)| names.iter().copied()).collect();
    if let Some(near) =
        near::nearest(&node.local, words.iter().copied()).filter(|_| !words.contains(&node.local.as_str()))
    {
        findings.hint(format!("`{near}` is near"));
    }
}

fn attributes(origin: Origin, node: &Node, rule: &Rule, findings: &mut Findings, ids: &mut HashSet<String>) {
    for attribute in &node.attributes {
        if !attribute.namespace.is_empty() {
            if attribute.namespace == XSD {
                let message = format!("`{}` has no place on `{}`", attribute.name, node.name);
                findings.error("cvc-complex-type.3.2", origin, message).hint("attributes of schemas have no prefix");
            }
            continue;
        }
        if attribute.local == "id" {
            let value = attribute.value.trim();
            if !names::is_ncname(value) {
                findings.error(
                    "cvc-attribute.3",
                    origin,
                    format!("`id` must be a name without colon, found `{}`", shown::text(value)),
                );
            } else if !ids.insert(value.to_owned()) {
                findings.error(
                    "cvc-id.2",
                    origin,
                    format!("`{value}` must be the `id` of one element, found another one"),
                );
            }
            continue;
        }
        let known = rule.attributes.iter().find(|(name, _)| *name == attribute.local);
        let Some((name, kind)) = known else {
            let message = format!("`{}` has no place on this `{}`", attribute.name, node.name);
            findings.error("cvc-complex-type.3.2", origin, message);
            if let Some(near) = near::nearest(&attribute.local, rule.attributes.iter().map(|(name, _)| *name)) {
                findings.hint(format!("`{near}` is near"));
            }
            continue;
        };
        if let Some(need) = ill(*kind, &attribute.value) {
            let message = format!("`{name}` must be {need}, found `{}`", shown::text(&attribute.value));
            findings.error("cvc-attribute.3", origin, message).at(name);
        }
    }
    for required in rule.required {
        if node.attribute(required).is_none() {
            findings.error("cvc-complex-type.4", origin, format!("`{}` needs `{required}`", node.name));
        }
    }
}

/// What an attribute must be, where it is not.
fn ill(kind: Kind, value: &str) -> Option<String> {
    let value = value.trim_matches(names::is_space);
    let (fits, need) = match kind {
        Kind::Name => (names::is_ncname(value), "a name without colon".to_owned()),
        Kind::QName => (names::split(value).is_some(), "a name, with or without a prefix".to_owned()),
        Kind::QNames => (
            value.split(names::is_space).filter(|word| !word.is_empty()).all(|word| names::split(word).is_some()),
            "names".to_owned(),
        ),
        Kind::Boolean => (matches!(value, "true" | "false" | "0" | "1"), "`true` or `false`".to_owned()),
        Kind::Count => (is_count(value), "a whole number from 0".to_owned()),
        Kind::CountOrUnbounded => {
            (value == "unbounded" || is_count(value), "a whole number from 0, or `unbounded`".to_owned())
        }
        Kind::OneOf(words) => {
            (words.contains(&value), words.iter().map(|word| format!("`{word}`")).collect::<Vec<_>>().join(" or "))
        }
        Kind::Methods(words) => (
            value == "#all"
                || value.split(names::is_space).filter(|word| !word.is_empty()).all(|word| words.contains(&word)),
            format!(
                "`#all`, or some of {}",
                words.iter().map(|word| format!("`{word}`")).collect::<Vec<_>>().join(", ")
            ),
        ),
        Kind::Namespaces => {
            let words = || value.split(names::is_space).filter(|word| !word.is_empty());
            let listed = words().all(|word| !word.starts_with("##") || matches!(word, "##targetNamespace" | "##local"));
            (matches!(value, "##any" | "##other") || listed, "`##any`, `##other`, or a list of namespaces".to_owned())
        }
        Kind::Text => (true, String::new()),
    };
    (!fits).then_some(need)
}

fn is_count(value: &str) -> bool {
    let digits = value.strip_prefix('+').unwrap_or(value);
    !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_digit())
}

/// The name of an element of XML Schema, if it is one.
fn known(local: &str) -> Option<&'static str> {
    const ALL: [&str; 44] = [
        "schema",
        "include",
        "redefine",
        "import",
        "annotation",
        "appinfo",
        "documentation",
        "notation",
        "element",
        "attribute",
        "complexType",
        "simpleContent",
        "complexContent",
        "extension",
        "restriction",
        "simpleType",
        "list",
        "union",
        "group",
        "attributeGroup",
        "all",
        "choice",
        "sequence",
        "any",
        "anyAttribute",
        "unique",
        "key",
        "keyref",
        "selector",
        "field",
        "length",
        "minLength",
        "maxLength",
        "fractionDigits",
        "totalDigits",
        "minInclusive",
        "minExclusive",
        "maxInclusive",
        "maxExclusive",
        "whiteSpace",
        "pattern",
        "enumeration",
        "assert",
        "alternative",
    ];
    ALL.into_iter().find(|known| *known == local)
}
