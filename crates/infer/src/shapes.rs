//! What is the same in several places: objects within objects of their own kind, and equal objects.

use crate::evidence::{Evidence, Node};
use crate::objects::{Group, Map, Objects};
use std::collections::HashMap;

/// Objects with at least so many properties are described once when they are equal; with fewer, only where they stand
/// under the same name.
const MIN_MEMBERS: usize = 3;

/// A map has at least so many keys when they look like keys; when they look like names, so many.
const MIN_KEYS: usize = 8;
const MIN_NAMES: usize = 40;

/// What was seen, with what is described once for several places.
#[derive(Debug)]
pub(crate) struct Shapes {
    pub(crate) root: Node,
    /// What a reference of the root's own kind is called, if there is one.
    pub(crate) root_anchor: Option<usize>,
    pub(crate) definitions: Vec<Definition>,
}

/// Objects that are described once.
#[derive(Debug)]
pub(crate) struct Definition {
    /// What nodes that refer to it hold.
    pub(crate) anchor: usize,
    pub(crate) name: String,
    pub(crate) objects: Objects,
}

/// Finds what is the same.
pub(crate) fn shapes(evidence: Evidence) -> Shapes {
    let mut root = evidence.root;
    each_objects(&mut root, "", &mut |objects, _| {
        objects.settle();
        if is_map(objects) {
            objects.become_map();
        }
    });
    let mut finding = Finding::default();
    let root_anchor = finding.recursive(&mut root, "", true);
    let mut definitions = finding.definitions;
    let next = finding.anchors;
    take_strays(&mut root, root_anchor, &mut definitions);
    equal(&mut root, &mut definitions, next);
    take_strays(&mut root, root_anchor, &mut definitions);
    name_apart(&mut definitions);
    Shapes { root, root_anchor, definitions }
}

/// Where places were put together of which only some refer to a description, what the others held goes there too.
fn take_strays(root: &mut Node, root_anchor: Option<usize>, definitions: &mut [Definition]) {
    loop {
        let mut strays: Vec<(usize, Objects)> = Vec::new();
        find_strays(root, &mut strays);
        for definition in definitions.iter_mut() {
            children(&mut definition.objects, "", &mut |child, _| find_strays(child, &mut strays));
        }
        if strays.is_empty() {
            return;
        }
        for (anchor, objects) in strays {
            let defined = definitions.iter_mut().find(|definition| definition.anchor == anchor);
            let target = match (defined, root_anchor) {
                (Some(definition), _) => Some(&mut definition.objects),
                (None, Some(own)) if own == anchor => root.objects.as_deref_mut(),
                (None, _) => None,
            };
            if let Some(target) = target {
                target.merge(objects);
                target.settle();
            }
        }
    }
}

fn find_strays(node: &mut Node, strays: &mut Vec<(usize, Objects)>) {
    if let Some(arrays) = &mut node.arrays {
        find_strays(&mut arrays.items, strays);
    }
    if let Some(anchor) = node.refers
        && let Some(objects) = node.objects.take()
    {
        strays.push((anchor, *objects));
    } else if let Some(objects) = &mut node.objects {
        children(objects, "", &mut |child, _| find_strays(child, strays));
    }
}

/// Calls `each` with all objects below a node, outer ones first, and the name under which they stand. The depth is bounded
/// by that of the evidence.
fn each_objects(node: &mut Node, name: &str, each: &mut dyn FnMut(&mut Objects, &str)) {
    if let Some(arrays) = &mut node.arrays {
        each_objects(&mut arrays.items, &singular(name), each);
    }
    if let Some(objects) = &mut node.objects {
        each(objects, name);
        children(objects, name, &mut |child, name| each_objects(child, name, each));
    }
}

/// Calls `each` with the nodes of all properties, and their names.
fn children(objects: &mut Objects, name: &str, each: &mut dyn FnMut(&mut Node, &str)) {
    for group in &mut objects.groups {
        group.members.iter_mut().for_each(|member| each(&mut member.node, &member.name));
    }
    if let Some(map) = &mut objects.map {
        each(&mut map.values, &singular(name));
    }
}

/// Whether objects of one group are maps: many names, which are rarely there together or look like keys, and one kind of
/// values.
fn is_map(objects: &Objects) -> bool {
    let [group] = objects.groups.as_slice() else { return false };
    let names = group.members.len();
    let keyed = group.members.iter().filter(|member| is_key(&member.name)).count() * 10 >= names * 9;
    if names < if keyed { MIN_KEYS } else { MIN_NAMES } {
        return false;
    }
    let met: u64 = group.members.iter().map(|member| member.node.count).sum();
    let sparse = met * 2 < group.count * names as u64;
    let mut kinds = group.members.iter().map(|member| member.node.kinds() & !1).filter(|kinds| *kinds != 0);
    let first = kinds.next().unwrap_or(0);
    let alike = kinds.all(|kinds| kinds == first);
    (keyed || sparse) && alike && same_inside(group)
}

/// Whether those values of a group that are objects have names in common.
fn same_inside(group: &Group) -> bool {
    let mut names: HashMap<&str, usize> = HashMap::new();
    let mut objects = 0;
    for inner in group.members.iter().filter_map(|member| member.node.objects.as_ref()) {
        objects += 1;
        let members = inner.groups.iter().flat_map(|group| &group.members);
        members.for_each(|member| *names.entry(&member.name).or_insert(0) += 1);
    }
    objects == 0 || names.values().any(|count| count * 2 >= objects)
}

/// Whether a name looks like a key: with digits in it, or no word.
fn is_key(name: &str) -> bool {
    name.bytes().any(|byte| byte.is_ascii_digit()) || name.contains([' ', '/', '@', '.', ':']) || name.is_empty()
}

/// The keys of a map as a pattern, when all of them are built alike.
pub(crate) fn key_pattern(map: &Map) -> Option<String> {
    if map.keys.len() < 3 {
        return None;
    }
    let runs = |key: &str| {
        let mut runs: Vec<(char, usize)> = Vec::new();
        for c in key.chars() {
            let class = match c {
                '0'..='9' => '0',
                'a'..='z' => 'a',
                'A'..='Z' => 'A',
                other => other,
            };
            match runs.last_mut() {
                Some((last, count)) if *last == class => *count += 1,
                _ => runs.push((class, 1)),
            }
        }
        runs
    };
    let all: Vec<Vec<(char, usize)>> = map.keys.iter().map(|key| runs(key)).collect();
    let first = all.first()?;
    if first.is_empty() || first.len() > 12 || !first.iter().any(|(class, _)| *class == '0') {
        return None;
    }
    let alike =
        |other: &Vec<(char, usize)>| other.len() == first.len() && other.iter().zip(first).all(|(a, b)| a.0 == b.0);
    if !all.iter().all(alike) {
        return None;
    }
    let mut pattern = String::from("^");
    for (at, (class, count)) in first.iter().enumerate() {
        let same = all.iter().all(|runs| runs.get(at).is_some_and(|(_, other)| other == count));
        match class {
            '0' => pattern.push_str("[0-9]"),
            'a' => pattern.push_str("[a-z]"),
            'A' => pattern.push_str("[A-Z]"),
            other if other.is_alphanumeric() || matches!(other, '-' | '_' | ' ' | ':' | '/' | '@') => {
                pattern.push(*other)
            }
            other => pattern.extend(['\\', *other]),
        }
        match (same, count) {
            (true, 1) => {}
            (true, count) => pattern.push_str(&format!("{{{count}}}")),
            (false, _) => pattern.push('+'),
        }
    }
    pattern.push('$');
    Some(pattern)
}

#[derive(Default)]
struct Finding {
    /// The objects that stand around the one that is looked at, outermost first.
    around: Vec<Around>,
    /// What was found to be of the kind of one of them.
    found: Vec<(usize, Objects)>,
    definitions: Vec<Definition>,
    anchors: usize,
}

struct Around {
    anchor: usize,
    names: Vec<Box<str>>,
}

impl Finding {
    /// Moves objects that stand within objects of their own kind to these. Gives the anchor of the node's own objects when
    /// something refers to them and they stay where they are.
    fn recursive(&mut self, node: &mut Node, via: &str, is_root: bool) -> Option<usize> {
        if let Some(arrays) = &mut node.arrays {
            self.recursive(&mut arrays.items, via, false);
        }
        let objects = node.objects.as_mut()?;
        let names = names(objects);
        if let Some(anchor) = self.around.iter().find(|around| is_same(&around.names, &names, via)).map(|it| it.anchor)
        {
            children(objects, via, &mut |child, name| {
                self.recursive(child, name, false);
            });
            let objects = node.objects.take()?;
            self.found.push((anchor, *objects));
            node.refers = Some(anchor);
            return None;
        }
        let anchor = self.anchors;
        self.anchors += 1;
        self.around.push(Around { anchor, names });
        children(objects, via, &mut |child, name| {
            self.recursive(child, name, false);
        });
        self.around.pop();
        let (mine, others): (Vec<_>, Vec<_>) =
            std::mem::take(&mut self.found).into_iter().partition(|(to, _)| *to == anchor);
        self.found = others;
        if mine.is_empty() {
            return None;
        }
        for (_, same) in mine {
            objects.merge(same);
        }
        objects.settle();
        if is_root {
            return Some(anchor);
        }
        let objects = *node.objects.take()?;
        node.refers = Some(anchor);
        self.definitions.push(Definition { anchor, name: singular(via), objects });
        None
    }
}

fn names(objects: &Objects) -> Vec<Box<str>> {
    let mut names: Vec<Box<str>> =
        objects.groups.iter().flat_map(|group| &group.members).map(|member| member.name.clone()).collect();
    names.sort_unstable();
    names.dedup();
    names
}

/// Whether objects that stand below others, by way of a property, are of the same kind: they have that property too, and
/// most of their names in common.
fn is_same(outer: &[Box<str>], inner: &[Box<str>], via: &str) -> bool {
    let has = |names: &[Box<str>], name: &str| names.iter().any(|known| **known == *name);
    let common = inner.iter().filter(|name| has(outer, name)).count();
    let fewer = outer.len().min(inner.len());
    fewer >= 2 && has(outer, via) && has(inner, via) && common * 10 >= fewer * 6
}

/// What equal objects have in common: their names, and the kinds of the values.
type Key = Vec<(Box<str>, u8, Option<usize>)>;

fn key(objects: &Objects) -> Option<Key> {
    let [group] = objects.groups.as_slice() else { return None };
    if objects.map.is_some() || group.members.len() < 2 {
        return None;
    }
    // `null` besides makes no other kind of thing.
    let part = |member: &crate::objects::Member| (member.name.clone(), member.node.kinds() & !1, member.node.refers);
    let mut key: Key = group.members.iter().map(part).collect();
    key.sort_unstable();
    Some(key)
}

/// Moves objects that are equal to definitions.
fn equal(root: &mut Node, definitions: &mut Vec<Definition>, next: usize) {
    let mut places: HashMap<Key, Vec<String>> = HashMap::new();
    let mut count = |objects: &mut Objects, name: &str| {
        if let Some(key) = key(objects) {
            places.entry(key).or_default().push(singular(name));
        }
    };
    // The root is no definition.
    if let Some(arrays) = &mut root.arrays {
        each_objects(&mut arrays.items, "item", &mut count);
    }
    if let Some(objects) = &mut root.objects {
        children(objects, "", &mut |child, name| each_objects(child, name, &mut count));
    }
    for definition in definitions.iter_mut() {
        children(&mut definition.objects, &definition.name, &mut |child, name| each_objects(child, name, &mut count));
    }
    places.retain(|key, names| {
        let same_name = names.iter().all(|name| Some(name) == names.first());
        names.len() >= 2 && (key.len() >= MIN_MEMBERS || same_name)
    });
    let mut moving = Moving { names: places, moved: HashMap::new(), definitions: Vec::new(), next };
    if let Some(arrays) = &mut root.arrays {
        moving.go(&mut arrays.items, "item");
    }
    if let Some(objects) = &mut root.objects {
        children(objects, "", &mut |child, name| moving.go(child, name));
    }
    for definition in definitions.iter_mut() {
        children(&mut definition.objects, &definition.name, &mut |child, name| moving.go(child, name));
    }
    definitions.append(&mut moving.definitions);
}

struct Moving {
    names: HashMap<Key, Vec<String>>,
    /// Where the definition of a key is.
    moved: HashMap<Key, usize>,
    definitions: Vec<Definition>,
    next: usize,
}

impl Moving {
    fn go(&mut self, node: &mut Node, name: &str) {
        if let Some(arrays) = &mut node.arrays {
            self.go(&mut arrays.items, &singular(name));
        }
        let Some(objects) = node.objects.as_mut() else { return };
        // What it was counted by, before the parts of it are moved.
        let key = key(objects).filter(|key| self.names.contains_key(key));
        children(objects, name, &mut |child, name| self.go(child, name));
        let Some(key) = key else { return };
        let Some(objects) = node.objects.take() else { return };
        let at = match self.moved.get(&key) {
            Some(at) => *at,
            None => {
                let name = common_name(self.names.get(&key).map(Vec::as_slice).unwrap_or_default());
                self.definitions.push(Definition { anchor: self.next, name, objects: Objects::default() });
                self.next += 1;
                self.moved.insert(key, self.definitions.len() - 1);
                self.definitions.len() - 1
            }
        };
        if let Some(definition) = self.definitions.get_mut(at) {
            if definition.objects.count == 0 {
                definition.objects = *objects;
            } else {
                definition.objects.merge(*objects);
                definition.objects.settle();
            }
            node.refers = Some(definition.anchor);
        }
    }
}

/// The last words that all names have in common; the first name when they have none.
fn common_name(names: &[String]) -> String {
    let Some((first, others)) = names.split_first() else { return "item".to_owned() };
    let words = |name: &str| name.split(['_', '-']).map(str::to_owned).collect::<Vec<String>>();
    let mut common = words(first);
    for other in others {
        let other = words(other);
        let same = common.iter().rev().zip(other.iter().rev()).take_while(|(a, b)| a == b).count();
        common = common.split_off(common.len() - same);
    }
    if common.is_empty() { first.clone() } else { common.join("_") }
}

/// The name of one of many: a plural loses its `s`.
pub(crate) fn singular(name: &str) -> String {
    if name.is_empty() {
        return "item".to_owned();
    }
    match name {
        _ if name.len() < 4 || name.ends_with("ss") || name.ends_with("us") || name.ends_with("is") => name.to_owned(),
        _ if name.ends_with("ies") => format!("{}y", name.strip_suffix("ies").unwrap_or(name)),
        _ if ["ches", "shes", "xes", "sses"].iter().any(|end| name.ends_with(end)) => {
            name.strip_suffix("es").unwrap_or(name).to_owned()
        }
        _ => name.strip_suffix('s').unwrap_or(name).to_owned(),
    }
}

/// Gives every definition a name of its own that stands in a reference as it is.
fn name_apart(definitions: &mut [Definition]) {
    let mut taken: Vec<String> = Vec::new();
    for definition in definitions {
        let plain: String = definition
            .name
            .chars()
            .map(|c| if c.is_ascii_alphanumeric() || matches!(c, '_' | '-') { c } else { '_' })
            .collect();
        let plain = if plain.is_empty() { "item".to_owned() } else { plain };
        let mut name = plain.clone();
        let mut number = 2;
        while taken.contains(&name) {
            name = format!("{plain}{number}");
            number += 1;
        }
        taken.push(name.clone());
        definition.name = name;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_many_become_names_of_one() {
        let table = [
            ("berths", "berth"),
            ("entries", "entry"),
            ("branches", "branch"),
            ("boxes", "box"),
            ("address", "address"),
            ("status", "status"),
            ("axis", "axis"),
            ("gas", "gas"),
            ("crew", "crew"),
            ("", "item"),
        ];
        for (many, one) in table {
            assert_eq!(singular(many), one);
        }
    }

    #[test]
    fn equal_objects_are_called_what_their_names_have_in_common() {
        let table: &[(&[&str], &str)] = &[
            (&["billing_address", "visiting_address"], "address"),
            (&["from", "until"], "from"),
            (&["ship", "ship"], "ship"),
            (&["home_port_call", "next_port_call"], "port_call"),
            (&[], "item"),
        ];
        for (names, expected) in table {
            let names: Vec<String> = names.iter().map(|name| (*name).to_owned()).collect();
            assert_eq!(common_name(&names), *expected);
        }
    }

    #[test]
    fn keys_that_are_built_alike_have_a_pattern() {
        let table: &[(&[&str], Option<&str>)] = &[
            (&["N1", "S22", "W3"], Some("^[A-Z][0-9]+$")),
            (&["2026-04-02", "2026-04-03", "2025-12-31"], Some("^[0-9]{4}-[0-9]{2}-[0-9]{2}$")),
            (&["v1.2", "v2.10", "v3.1"], Some("^[a-z][0-9]\\.[0-9]+$")),
            (&["N1", "S2"], None),
            (&["N1", "2S", "W3"], None),
            (&["north", "south", "west"], None),
            (&["", "", ""], None),
        ];
        for (keys, expected) in table {
            let map = Map { keys: keys.iter().map(|key| (*key).into()).collect(), ..Map::default() };
            assert_eq!(key_pattern(&map).as_deref(), *expected, "{keys:?}");
        }
    }

    #[test]
    fn definitions_have_names_of_their_own() {
        let definition = |name: &str| Definition { anchor: 0, name: name.to_owned(), objects: Objects::default() };
        let mut all = ["ship", "ship", "a b/c", "", "ship2"].map(definition);
        name_apart(&mut all);
        assert_eq!(all.map(|one| one.name), ["ship", "ship2", "a_b_c", "item", "ship22"]);
    }
}
