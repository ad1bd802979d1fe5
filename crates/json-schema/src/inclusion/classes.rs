//! Which schemas say the same, however they are reached: references are looked through, circles are no hindrance.

use super::says::{NodeNumber, Says};
use super::terms::ClassId;
use rustc_hash::FxHashMap;

/// The class of each schema.
#[derive(Debug)]
pub(super) struct Classes {
    of: Vec<ClassId>,
    /// A schema of each class.
    first: Vec<NodeNumber>,
}

impl Classes {
    /// Schemas begin in one class, and classes are split until all members of each say the same of children that are in the
    /// same classes. After each round only those are looked at again that have a child in a new class, and the largest part of a class
    /// is never the new one: O(size × its logarithm), apart from sorting what each schema says.
    pub(super) fn of(says: &Says<'_>) -> Self {
        let sayings = Sayings::of(says);
        let count = sayings.nodes.len();
        let mut classes = vec![0u32; count];
        let mut sizes = vec![count];
        let mut open: Vec<u32> = (0..count as u32).collect();
        let mut signature = Signature::default();
        while !open.is_empty() {
            let mut changed = Vec::new();
            for parts in parts(&open, &classes, &sayings, &mut signature) {
                let class = parts.first().and_then(|part| part.first()).map_or(0, |node| class_of(&classes, *node));
                let size = sizes.get(class as usize).copied().unwrap_or(0);
                let looked_at: usize = parts.iter().map(Vec::len).sum();
                // Those that nobody looked at stay; where all were looked at, the largest part does.
                let stays = (looked_at == size)
                    .then(|| (0..parts.len()).max_by_key(|part| parts.get(*part).map_or(0, Vec::len)));
                for (part, nodes) in parts.into_iter().enumerate().filter(|(part, _)| stays != Some(Some(*part))) {
                    let fresh = sizes.len() as u32;
                    debug_assert!(!nodes.is_empty(), "part {part} has a node");
                    sizes.push(nodes.len());
                    if let Some(size) = sizes.get_mut(class as usize) {
                        *size -= nodes.len();
                    }
                    for node in nodes {
                        if let Some(class) = classes.get_mut(node as usize) {
                            *class = fresh;
                        }
                        changed.push(node);
                    }
                }
            }
            open = changed.iter().flat_map(|node| sayings.parents_of(*node)).copied().collect();
            open.sort_unstable();
            open.dedup();
        }
        Classes::numbered(&classes)
    }

    /// Classes with numbers in the order of their first members.
    fn numbered(classes: &[u32]) -> Self {
        let mut numbers: FxHashMap<u32, ClassId> = FxHashMap::default();
        let (mut of, mut first) = (Vec::with_capacity(classes.len()), Vec::new());
        for (node, class) in (0..).zip(classes) {
            let number = *numbers.entry(*class).or_insert_with(|| {
                first.push(NodeNumber(node));
                ClassId(first.len() as u32 - 1)
            });
            of.push(number);
        }
        Classes { of, first }
    }

    pub(super) fn class(&self, node: NodeNumber) -> Option<ClassId> {
        self.of.get(node.0 as usize).copied()
    }

    pub(super) fn first(&self, class: ClassId) -> Option<NodeNumber> {
        self.first.get(class.0 as usize).copied()
    }
}

fn class_of(classes: &[u32], node: u32) -> u32 {
    classes.get(node as usize).copied().unwrap_or(0)
}

/// Nodes in parts that are of one class and say the same, the parts of one class together.
fn parts(open: &[u32], classes: &[u32], sayings: &Sayings, signature: &mut Signature) -> Vec<Vec<Vec<u32>>> {
    let mut numbers: FxHashMap<Box<[u32]>, usize> = FxHashMap::default();
    let mut parts: Vec<(u32, Vec<u32>)> = Vec::new();
    for node in open {
        let key = signature.of(*node, classes, sayings);
        let part = match numbers.get(key) {
            Some(part) => *part,
            None => {
                numbers.insert(key.into(), parts.len());
                parts.push((class_of(classes, *node), Vec::new()));
                parts.len() - 1
            }
        };
        if let Some((_, nodes)) = parts.get_mut(part) {
            nodes.push(*node);
        }
    }
    parts.sort_by_key(|(class, _)| *class);
    parts
        .chunk_by(|(one, _), (other, _)| one == other)
        .map(|parts| parts.iter().map(|(_, nodes)| nodes.clone()).collect())
        .collect()
}

/// What schemas say, as numbers, and by whom each is applied.
struct Sayings {
    /// Of each schema what it says, references looked through: a key, whether the order of its children is no matter, its children.
    nodes: Vec<Vec<(u32, bool, Vec<u32>)>>,
    parents: Vec<Vec<u32>>,
}

impl Sayings {
    fn of(says: &Says<'_>) -> Self {
        let mut keys: FxHashMap<String, u32> = FxHashMap::default();
        let mut key = |text: String| {
            let fresh = keys.len() as u32;
            *keys.entry(text).or_insert(fresh)
        };
        let count = says.len() as u32;
        let nodes: Vec<Vec<(u32, bool, Vec<u32>)>> = (0..count)
            .map(|number| {
                let all = says.of(says.through(NodeNumber(number))).iter();
                let children = |all: Vec<NodeNumber>| all.into_iter().map(|child| child.0).collect();
                all.map(|say| (key(say.key()), say.is_unordered(), children(say.children()))).collect()
            })
            .collect();
        let mut parents: Vec<Vec<u32>> = vec![Vec::new(); nodes.len()];
        for (node, all) in (0..).zip(&nodes) {
            for child in all.iter().flat_map(|(.., children)| children) {
                if let Some(parents) = parents.get_mut(*child as usize) {
                    parents.push(node);
                }
            }
        }
        Sayings { nodes, parents }
    }

    fn parents_of(&self, node: u32) -> &[u32] {
        self.parents.get(node as usize).map_or(&[], Vec::as_slice)
    }
}

/// Memory in which signatures are made: what a schema says, its children by their classes.
#[derive(Default)]
struct Signature {
    children: Vec<u32>,
    says: Vec<(u32, usize, usize)>,
    whole: Vec<u32>,
}

impl Signature {
    /// The class of a node, then each of its sayings once, in one order.
    fn of(&mut self, node: u32, classes: &[u32], sayings: &Sayings) -> &[u32] {
        let Signature { children, says, whole } = self;
        children.clear();
        says.clear();
        whole.clear();
        for (key, unordered, of) in sayings.nodes.get(node as usize).into_iter().flatten() {
            let start = children.len();
            children.extend(of.iter().map(|child| class_of(classes, *child)));
            if *unordered {
                sort_from(children, start);
            }
            says.push((*key, start, children.len()));
        }
        let of = |(key, start, end): &(u32, usize, usize)| (*key, children.get(*start..*end).unwrap_or_default());
        says.sort_unstable_by(|one, other| of(one).cmp(&of(other)));
        says.dedup_by(|one, other| of(one) == of(other));
        whole.push(class_of(classes, node));
        for say in says.iter() {
            let (key, children) = of(say);
            whole.extend([key, children.len() as u32]);
            whole.extend(children);
        }
        whole
    }
}

/// Sorts the end of a list, and leaves each value there once.
fn sort_from(list: &mut Vec<u32>, start: usize) {
    if let Some(end) = list.get_mut(start..) {
        end.sort_unstable();
    }
    let (mut at, mut last) = (0, None);
    list.retain(|value| {
        let twice = at > start && last == Some(*value);
        (at, last) = (at + 1, Some(*value));
        !twice
    });
}
