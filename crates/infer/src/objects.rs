//! What was seen of the objects in one place, which may be of several kinds.
//!
//! Objects with the same names are of one group. When there are too many groups, or when all has been seen, they are settled:
//! a property that tells the groups apart makes them the branches of a union; else they are one, with properties that may
//! be absent.

use crate::evidence::{Context, Node, Seen, earliest};
use mervik_document::Value;
use std::collections::HashMap;

/// So many groups are told apart; then they are settled.
const MAX_GROUPS: usize = 24;

/// So many names an object is taken to have; one with more is a map from keys to values.
const MAX_NAMES: usize = 400;

/// A union has so many branches at most, and each was seen so often at least.
const MAX_BRANCHES: usize = 12;
const MIN_BRANCH: u64 = 3;

/// What was seen of objects.
#[derive(Clone, Debug, Default)]
pub(crate) struct Objects {
    pub(crate) count: u64,
    pub(crate) groups: Vec<Group>,
    /// The group of the last object, which the next one is likely to be of.
    last: usize,
    route: Route,
    pub(crate) map: Option<Box<Map>>,
}

/// How the group of an object is found.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) enum Route {
    /// By its names.
    #[default]
    Names,
    /// By the value of a property.
    Tag(Box<str>),
    /// There is one group.
    One,
}

/// Objects with the same names, or of the same branch.
#[derive(Clone, Debug, Default)]
pub(crate) struct Group {
    /// A hash of the names, whatever their order; for objects that are told apart by them.
    signature: u64,
    /// The values of the property that tells the branches apart.
    pub(crate) tags: Vec<Box<str>>,
    pub(crate) count: u64,
    first: Option<Seen>,
    pub(crate) members: Vec<Member>,
    index: HashMap<Box<str>, usize>,
    /// The definition that other places refer to, if this is it.
    pub(crate) anchor: Option<usize>,
}

/// A property.
#[derive(Clone, Debug)]
pub(crate) struct Member {
    pub(crate) name: Box<str>,
    pub(crate) node: Node,
    /// The first object without it.
    pub(crate) missing: Option<Seen>,
}

/// Objects that are maps from keys to values of one kind.
#[derive(Clone, Debug, Default)]
pub(crate) struct Map {
    pub(crate) values: Node,
    /// Some of the keys.
    pub(crate) keys: Vec<Box<str>>,
    pub(crate) all_keys: u64,
}

impl Map {
    fn add_key(&mut self, key: &str) {
        self.all_keys += 1;
        if self.keys.len() < MAX_NAMES && !self.keys.iter().any(|known| **known == *key) {
            self.keys.push(key.into());
        }
    }

    fn take(&mut self, group: Group) {
        for Member { name, node, .. } in group.members {
            self.add_key(&name);
            self.values.merge(node);
        }
    }
}

impl Objects {
    pub(crate) fn add(&mut self, object: Value<'_>, context: Context<'_>, depth: usize) {
        self.count += 1;
        if let Some(map) = &mut self.map {
            for member in object.members() {
                map.add_key(member.name.text());
                map.values.add(member.value, context, depth + 1);
            }
            return;
        }
        let mut signature = 0u64;
        let mut names = 0;
        for member in object.members() {
            // A sum does not depend on the order; the mixing makes equal sums of other names unlikely.
            signature = signature.wrapping_add(mixed(member.name.hash()));
            names += 1;
        }
        let at = self.group_of(object, signature, context.seen);
        if let Some(group) = self.groups.get_mut(at) {
            group.add(object, context, depth);
            if names > MAX_NAMES || group.members.len() > MAX_NAMES {
                self.become_map();
                return;
            }
        }
        if self.groups.len() > MAX_GROUPS {
            self.settle();
        }
    }

    /// The place of the group that an object is of, which is made when there is none.
    fn group_of(&mut self, object: Value<'_>, signature: u64, seen: Seen) -> usize {
        let tag = match &self.route {
            Route::One => return 0,
            Route::Names => None,
            Route::Tag(name) => Some(object.get(name).and_then(Value::as_str).unwrap_or("")),
        };
        let fits = |group: &Group| match tag {
            None => group.signature == signature,
            Some(tag) => group.tags.iter().any(|known| **known == *tag),
        };
        if self.groups.get(self.last).is_some_and(fits) {
            return self.last;
        }
        self.last = self.groups.iter().position(fits).unwrap_or_else(|| {
            let tags = tag.map(Box::from).into_iter().collect();
            self.groups.push(Group { signature, tags, first: Some(seen), ..Group::default() });
            self.groups.len() - 1
        });
        self.last
    }

    pub(crate) fn merge(&mut self, other: Objects) {
        self.count += other.count;
        match (self.map.is_some(), other.map) {
            (_, Some(theirs)) => {
                self.become_map();
                if let Some(mine) = &mut self.map {
                    mine.values.merge(theirs.values);
                    theirs.keys.iter().for_each(|key| mine.add_key(key));
                    mine.all_keys += theirs.all_keys - theirs.keys.len() as u64;
                }
            }
            (true, None) => {
                let map = self.map.as_mut();
                map.into_iter().for_each(|map| other.groups.iter().for_each(|group| map.take(group.clone())));
            }
            (false, None) => {
                let routes = (&self.route, &other.route);
                if routes.0 != routes.1 {
                    // What was told apart by other means is told apart anew.
                    let one = *routes.0 == Route::One || *routes.1 == Route::One;
                    self.route = if one { Route::One } else { Route::Names };
                }
                for theirs in other.groups {
                    self.take(theirs);
                }
                if self.groups.len() > MAX_GROUPS {
                    self.settle();
                }
            }
        }
    }

    fn take(&mut self, theirs: Group) {
        let same = |mine: &Group| match &self.route {
            Route::One => true,
            Route::Names => mine.signature == theirs.signature && mine.members.len() == theirs.members.len(),
            Route::Tag(_) => mine.tags.iter().any(|tag| theirs.tags.contains(tag)),
        };
        match self.groups.iter().position(same).and_then(|at| self.groups.get_mut(at)) {
            Some(mine) => mine.merge(theirs),
            None => self.groups.push(theirs),
        }
    }

    /// Groups become the branches of a union, or one.
    pub(crate) fn settle(&mut self) {
        if self.map.is_some() || self.groups.len() < 2 {
            return;
        }
        let groups = std::mem::take(&mut self.groups);
        self.last = 0;
        match branches(&groups) {
            Some((tag, branch_of)) => {
                let mut branches: Vec<Group> = Vec::new();
                for (mut group, branch) in groups.into_iter().zip(branch_of) {
                    let member = group.members.iter().find(|member| member.name == tag);
                    let values = member.and_then(|member| member.node.strings.as_ref());
                    group.tags = values
                        .map(|strings| strings.values())
                        .unwrap_or_default()
                        .iter()
                        .map(|tag| Box::from(*tag))
                        .collect();
                    match branches.get_mut(branch) {
                        Some(mine) => mine.merge(group),
                        None => branches.push(group),
                    }
                }
                self.groups = branches;
                self.route = Route::Tag(tag);
            }
            None => {
                let mut groups = groups.into_iter();
                let one = groups.next().map(|first| {
                    groups.fold(first, |mut one, group| {
                        one.merge(group);
                        one
                    })
                });
                self.groups = one.into_iter().collect();
                self.route = Route::One;
                if self.groups.first().is_some_and(|one| one.members.len() > MAX_NAMES) {
                    self.become_map();
                }
            }
        }
    }

    /// The property that tells the groups apart, when they are settled as a union.
    pub(crate) fn tag(&self) -> Option<&str> {
        match &self.route {
            Route::Tag(name) if self.groups.len() > 1 => Some(name),
            _ => None,
        }
    }

    pub(crate) fn become_map(&mut self) {
        let groups = std::mem::take(&mut self.groups);
        let map = self.map.get_or_insert_default();
        groups.into_iter().for_each(|group| map.take(group));
    }
}

impl Group {
    fn add(&mut self, object: Value<'_>, context: Context<'_>, depth: usize) {
        let mut next = 0;
        let mut met = 0;
        for member in object.members() {
            let name = member.name.text();
            // Members mostly come in the order in which they came before.
            let at = match self.members.get(next) {
                Some(expected) if *expected.name == *name => next,
                _ => self.place_of(name),
            };
            if let Some(known) = self.members.get_mut(at) {
                known.node.add(member.value, context, depth + 1);
            }
            next = at + 1;
            met += 1;
        }
        self.count += 1;
        if met < self.members.len() {
            self.note_missing(object, context.seen);
        }
    }

    /// The place of a property, which is new when it is not known.
    fn place_of(&mut self, name: &str) -> usize {
        if let Some(at) = self.index.get(name) {
            return *at;
        }
        let missing = if self.count > 0 { self.first } else { None };
        self.members.push(Member { name: name.into(), node: Node::default(), missing });
        self.index.insert(name.into(), self.members.len() - 1);
        self.members.len() - 1
    }

    #[cold]
    fn note_missing(&mut self, object: Value<'_>, seen: Seen) {
        for member in self.members.iter_mut().filter(|member| member.missing.is_none()) {
            if object.get(&member.name).is_none() {
                member.missing = Some(seen);
            }
        }
    }

    pub(crate) fn merge(&mut self, other: Group) {
        for member in &mut self.members {
            if !other.index.contains_key(&member.name) {
                member.missing = earliest(member.missing, other.first);
            }
        }
        for theirs in other.members {
            let at = self.place_of(&theirs.name);
            if let Some(mine) = self.members.get_mut(at) {
                mine.node.merge(theirs.node);
                mine.missing = earliest(mine.missing, theirs.missing);
            }
        }
        for tag in other.tags {
            if !self.tags.contains(&tag) {
                self.tags.push(tag);
            }
        }
        self.count += other.count;
        self.first = earliest(self.first, other.first);
        self.anchor = self.anchor.or(other.anchor);
    }

    pub(crate) fn has(&self, name: &str) -> bool {
        self.index.contains_key(name)
    }

    /// Whether a property was always there.
    pub(crate) fn requires(&self, member: &Member) -> bool {
        member.node.count == self.count
    }
}

/// The property that tells groups apart best, and the branch of each group.
///
/// Groups that share a value of it are of one branch. Each branch but one must have a property that all of its objects
/// have and no other branch: else it is chance that some values go with some optional properties.
fn branches(groups: &[Group]) -> Option<(Box<str>, Vec<usize>)> {
    let first = groups.first()?;
    let mut best: Option<(usize, Box<str>, Vec<usize>)> = None;
    for Member { name, .. } in &first.members {
        let Some(branch_of) = told_apart_by(groups, name) else { continue };
        let count = branch_of.iter().max().map_or(0, |most| most + 1);
        if best.as_ref().is_none_or(|(most, ..)| count > *most) {
            best = Some((count, name.clone(), branch_of));
        }
    }
    best.map(|(_, name, branch_of)| (name, branch_of))
}

fn told_apart_by(groups: &[Group], name: &str) -> Option<Vec<usize>> {
    let mut branch_of_value: HashMap<&str, usize> = HashMap::new();
    // For each group its branch, which may be found to be the same as another one.
    let mut branch_of: Vec<usize> = Vec::with_capacity(groups.len());
    for group in groups {
        let member = group.members.get(*group.index.get(name)?)?;
        let strings = member.node.strings.as_ref()?;
        if member.node.count != group.count || strings.count != group.count || !strings.are_codes() {
            return None;
        }
        let branch = branch_of.len();
        branch_of.push(branch);
        for value in strings.values() {
            match branch_of_value.get(value).copied() {
                None => {
                    branch_of_value.insert(value, branch);
                }
                Some(known) => {
                    let (from, to) = (*branch_of.last()?, *branch_of.get(known)?);
                    branch_of.iter_mut().filter(|branch| **branch == from).for_each(|branch| *branch = to);
                }
            }
        }
    }
    let mut numbers: Vec<usize> = branch_of.clone();
    numbers.sort_unstable();
    numbers.dedup();
    if !(2..=MAX_BRANCHES).contains(&numbers.len()) {
        return None;
    }
    let of =
        |branch: usize| groups.iter().zip(&branch_of).filter(move |(_, one)| **one == branch).map(|(group, _)| group);
    let others =
        |branch: usize| groups.iter().zip(&branch_of).filter(move |(_, one)| **one != branch).map(|(group, _)| group);
    let own = |branch: usize| {
        let members = of(branch).next().map(|group| group.members.as_slice()).unwrap_or_default();
        members.iter().any(|member| {
            of(branch).all(|group| group.has(&member.name)) && !others(branch).any(|group| group.has(&member.name))
        })
    };
    let seen_enough = |branch: usize| of(branch).map(|group| group.count).sum::<u64>() >= MIN_BRANCH;
    let plain = numbers.iter().filter(|branch| !own(**branch)).count();
    if plain > 1 || !numbers.iter().all(|branch| seen_enough(*branch)) {
        return None;
    }
    // Branches are numbered as they came first.
    let mut order: Vec<usize> = Vec::new();
    for branch in &branch_of {
        if !order.contains(branch) {
            order.push(*branch);
        }
    }
    Some(branch_of.iter().map(|branch| order.iter().position(|one| one == branch).unwrap_or(0)).collect())
}

/// Spreads the bits of a hash.
fn mixed(hash: u32) -> u64 {
    let spread = (u64::from(hash) + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15);
    (spread ^ (spread >> 29)).wrapping_mul(0xBF58_476D_1CE4_E5B9)
}
