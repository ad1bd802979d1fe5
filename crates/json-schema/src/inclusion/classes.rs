//! Which schemas say the same, however they are reached: references are looked through, circles are no hindrance.

use super::says::{NodeNumber, Says};
use super::terms::ClassId;
use std::collections::HashMap;

/// The class of each schema.
#[derive(Debug)]
pub(super) struct Classes {
    of: Vec<ClassId>,
    /// A schema of each class.
    first: Vec<NodeNumber>,
}

impl Classes {
    /// Schemas begin in one class, and classes are split until all members of each say the same of children that are in the
    /// same classes. O(size × how deep schemas must be looked into to be told apart).
    pub(super) fn of(says: &Says<'_>) -> Self {
        let mut keys: HashMap<String, u32> = HashMap::new();
        let mut key = |text: String| {
            let fresh = keys.len() as u32;
            *keys.entry(text).or_insert(fresh)
        };
        let count = says.len() as u32;
        let nodes: Vec<Vec<(u32, bool, Vec<NodeNumber>)>> = (0..count)
            .map(|number| {
                let all = says.of(says.through(NodeNumber(number))).iter();
                all.map(|say| (key(say.key()), say.is_unordered(), say.children())).collect()
            })
            .collect();
        let mut classes = vec![0u32; nodes.len()];
        let mut distinct = 0;
        loop {
            let mut numbers: HashMap<Vec<(u32, Vec<u32>)>, u32> = HashMap::new();
            let next = nodes.iter().map(|node| {
                let fresh = numbers.len() as u32;
                *numbers.entry(signature(node, &classes)).or_insert(fresh)
            });
            classes = next.collect();
            if numbers.len() == distinct {
                break;
            }
            distinct = numbers.len();
        }
        let mut first = Vec::new();
        for (number, class) in (0..).zip(&classes) {
            if *class as usize == first.len() {
                first.push(NodeNumber(number));
            }
        }
        Classes { of: classes.into_iter().map(ClassId).collect(), first }
    }

    pub(super) fn class(&self, node: NodeNumber) -> Option<ClassId> {
        self.of.get(node.0 as usize).copied()
    }

    pub(super) fn first(&self, class: ClassId) -> Option<NodeNumber> {
        self.first.get(class.0 as usize).copied()
    }
}

/// What a schema says, its children by their classes.
fn signature(node: &[(u32, bool, Vec<NodeNumber>)], classes: &[u32]) -> Vec<(u32, Vec<u32>)> {
    let mut all: Vec<(u32, Vec<u32>)> = node
        .iter()
        .map(|(key, unordered, children)| {
            let class = |child: &NodeNumber| classes.get(child.0 as usize).copied().unwrap_or(0);
            let mut children: Vec<u32> = children.iter().map(class).collect();
            if *unordered {
                children.sort_unstable();
                children.dedup();
            }
            (*key, children)
        })
        .collect();
    all.sort_unstable();
    all.dedup();
    all
}
