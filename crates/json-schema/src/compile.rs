//! From the text of a schema to its compiled form.
//!
//! A queue of places, not recursion, drives it: however deep a schema nests or however far its references lead, each
//! place is compiled once. All errors are collected before any is returned.

pub(crate) mod directives;
mod fields;
mod keywords;
mod messages;
mod sets;
mod shape;
mod stated;
mod tag;

pub(crate) use keywords::type_words;
pub(crate) use stated::within;
pub(crate) use tag::constants_of;

use crate::coerce::notes::{Notes, notes_anything};
use crate::dialect::{Dialect, Language};
use crate::error::{Breach, SchemaError, SchemaErrors};
use crate::file::{Location, SchemaText};
use crate::labels::{Label, Labels};
use crate::resource::{Fetch, Parts, ResourceId, Resources, sorted};
use crate::schema::{Kinds, Node, Rule, RuleId, Schema, SchemaId, StraightMember, StraightMembers, Test};
use crate::secret::SecretNames;
use mervik_document::json::Token;
use mervik_document::tape::name_hash;
use mervik_messages::Speaker;
use mervik_rules::{Condition, Now};
use std::collections::{HashMap, HashSet, VecDeque};
use std::sync::Arc;

/// How a schema is to be understood.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Options {
    /// The dialect of schemas without `$schema`. The default is 2020-12.
    pub dialect: Dialect,
    /// Whether `format` refuses; otherwise it is an annotation (Validation, 7.2). The default is `true`.
    pub assert_formats: bool,
    /// Whether `contentEncoding`, `contentMediaType` and `contentSchema` refuse; otherwise they are annotations
    /// (Validation, 8.1). The default is `false`.
    pub assert_content: bool,
    /// Whether a value whose schema is `deprecated` gets a warning (Validation, 9.3). The default is `false`.
    pub warn_deprecated: bool,
    /// Whether schemas that are nothing but a `$ref` stay steps on the way, for [`mervik_document::Finding::way`].
    /// The default is `false`: who leads to them is led on at once, which is quicker.
    pub keep_references: bool,
    /// Whether what [`crate::Coercer`] asks for is kept: defaults and directives. The default is `false`.
    pub coerce: bool,
    /// What time it is, for rules between fields that ask; without it they have no answer, which is a finding. The default
    /// is `None`: nothing looks at a clock by itself.
    pub now: Option<Now>,
    /// Which way documents go, so that `readOnly` or `writeOnly` refuses. The default is `None`: neither does.
    pub direction: Option<Direction>,
}

/// Which way documents go between a client and the owner of the data.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Direction {
    /// To the owner, who alone writes what is `readOnly`.
    Request,
    /// From the owner, who keeps to himself what is `writeOnly`.
    Response,
}

impl Default for Options {
    fn default() -> Self {
        Options {
            dialect: Dialect::default(),
            assert_formats: true,
            assert_content: false,
            warn_deprecated: false,
            keep_references: false,
            coerce: false,
            now: None,
            direction: None,
        }
    }
}

/// Compiles the JSON Schema in `text`, which is JSON, or was made to JSON from what people wrote.
///
/// `name` is what people know the file by, `uri` the absolute URI that it was found at. `fragment` chooses a subschema as
/// the fragment of a `$ref` would: a JSON Pointer, an anchor, or nothing for the whole. `fetch` is asked for every other
/// file that a reference leads to.
///
/// # Errors
///
/// All that is wrong with the schema and the files that it refers to.
///
/// # Cost
///
/// Linear in the schema's size and the files that it leads to, apart from patterns, which are compiled to automata.
pub fn compile(
    name: &str,
    uri: &str,
    text: impl Into<SchemaText>,
    fragment: &str,
    fetch: &mut dyn Fetch,
    options: Options,
) -> Result<Schema, SchemaErrors> {
    let references = if options.keep_references { References::Kept } else { References::Shortened };
    let Draft { schema, root, errors, languages, .. } =
        draft(name, uri, text.into(), fragment, fetch, options, references);
    match root {
        Some(_) if errors.is_empty() && options.coerce => {
            let notes = Notes::of(&schema, &languages);
            let mut schema = schema;
            notes.mark(&mut schema);
            Ok(Schema { notes, ..schema })
        }
        Some(_) if errors.is_empty() => Ok(schema),
        _ => Err(SchemaErrors(errors)),
    }
}

/// A schema compiled as far as it goes, with all that is wrong with it.
pub(crate) struct Draft {
    /// With `root`, unless there is none.
    pub(crate) schema: Schema,
    /// The languages of the resources, by their numbers.
    pub(crate) languages: Vec<Language>,
    /// `None` when there is nothing that could be compiled.
    pub(crate) root: Option<SchemaId>,
    /// What every schema leads to, by their numbers; for those who keep references.
    pub(crate) edges: Vec<Vec<Edge>>,
    /// In the order of files and places.
    pub(crate) errors: Vec<SchemaError>,
}

/// That a rule applies a schema.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Edge {
    pub(crate) to: SchemaId,
    /// To the same value, not to a child.
    pub(crate) in_place: bool,
    /// To an item of it.
    to_item: bool,
    keyword: Location,
}

/// What becomes of schemas that are nothing but a `$ref`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum References {
    /// Who leads to them is led on at once: quicker to check.
    Shortened,
    /// They stay, as it is written.
    Kept,
}

/// Compiles a schema for those who can do with half of one. See [`compile()`] for what goes in.
pub(crate) fn draft(
    name: &str,
    uri: &str,
    text: SchemaText,
    fragment: &str,
    fetch: &mut dyn Fetch,
    options: Options,
    references: References,
) -> Draft {
    let mut compiler = Compiler {
        resources: Resources::new(fetch, options.dialect),
        options,
        ids: HashMap::new(),
        queue: VecDeque::new(),
        nodes: Vec::new(),
        rules: Vec::new(),
        labels: HashMap::new(),
        secrets: HashSet::new(),
        sets: HashMap::new(),
    };
    let mut labels = Labels::default();
    let compiled = compiler.resources.add(name, uri, text).and_then(|resource| {
        let whole = Location { file: crate::file::FileId(0), node: mervik_document::NodeId::ROOT };
        let reference = format!("#{fragment}");
        let (at, resource) = compiler.resources.resolve(resource, &reference, whole)?;
        let id = compiler.schema_at(at, resource);
        compiler.run();
        compiler.lead_dynamic_references();
        labels = compiler.labels(id);
        let root = compiler.finish(id, references);
        compiler.check_stated(root);
        Some(root)
    });
    let has_dynamic = compiler.rules.iter().any(|rule| matches!(rule.test, Test::Dynamic(_)));
    let anchored = compiler.anchored();
    let warns = compiler.rules.iter().any(|rule| match &rule.test {
        Test::Deprecated => true,
        Test::Stated(stated) => stated.warns,
        _ => false,
    });
    let secrets = compiler.secret_names();
    let straight = compiler.lay_out_names(has_dynamic);
    let has_stated = compiler.rules.iter().any(|rule| matches!(rule.test, Test::Stated(_)));
    let looks_up = compiler.rules.iter().any(|rule| match &rule.test {
        Test::Stated(stated) => stated.conditions().any(Condition::looks_up),
        _ => false,
    });
    let edges = if references == References::Kept { compiler.edges() } else { Vec::new() };
    let (nodes, rules) = (compiler.nodes.into(), compiler.rules.into());
    let Parts { files, languages, resources, errors } = compiler.resources.into_parts();
    let errors = sorted(errors, &files);
    let (root_or_first, files, resources) = (compiled.unwrap_or(SchemaId(0)), files.into(), resources.into());
    let (root, notes) = (root_or_first, Notes::default());
    let (now, speaker) = (options.now, Speaker::default());
    let schema = Schema {
        nodes,
        rules,
        root,
        has_dynamic,
        anchored,
        warns,
        has_stated,
        looks_up,
        straight,
        secrets,
        now,
        labels,
        speaker,
        notes,
        resources,
        files,
    };
    Draft { schema, languages, root: compiled, edges, errors }
}

struct Compiler<'f> {
    resources: Resources<'f>,
    options: Options,
    ids: HashMap<Location, SchemaId>,
    queue: VecDeque<(SchemaId, Location, ResourceId)>,
    nodes: Vec<Node>,
    rules: Vec<Rule>,
    /// What schemas say of themselves to people.
    labels: HashMap<Location, Label>,
    /// The schemas whose values are not to be shown.
    secrets: HashSet<Location>,
    /// The sets of rules that have been read; `None` for those with errors.
    sets: HashMap<Location, Option<Arc<sets::Set>>>,
}

impl Compiler<'_> {
    /// The compiled schema of a place; the place is queued when it is new.
    fn schema_at(&mut self, at: Location, resource: ResourceId) -> SchemaId {
        if let Some(id) = self.ids.get(&at) {
            return *id;
        }
        let id = SchemaId(self.nodes.len() as u32);
        self.nodes.push(Node::new(at));
        self.ids.insert(at, id);
        self.queue.push_back((id, at, resource));
        id
    }

    fn run(&mut self) {
        while let Some((id, at, resource)) = self.queue.pop_front() {
            let resource = self.resources.root_at(at).unwrap_or(resource);
            // The rule of `type` goes first and outside of the run, since the head of the node tests it.
            let mut rules = self.rules_at(at, resource);
            let unevaluated =
                |rule: &Rule| matches!(rule.test, Test::UnevaluatedItems(_) | Test::UnevaluatedProperties(_));
            // What asks for the work of the other rules goes last.
            rules.sort_by_key(|rule| match rule.test {
                Test::Type(_) => 0,
                _ if unevaluated(rule) => 2,
                _ => 1,
            });
            let tracks = rules.iter().any(unevaluated);
            let first = self.rules.len() as u32;
            let types = rules.iter().find_map(|rule| match rule.test {
                Test::Type(types) => Some(types),
                _ => None,
            });
            let start = first + u32::from(types.is_some());
            self.rules.extend(rules);
            let end = self.rules.len() as u32;
            if let Some(node) = self.nodes.get_mut(id.0 as usize) {
                node.rules = start..end;
                node.scope = resource.0;
                node.tracks = tracks;
                if let Some(types) = types {
                    node.types = types;
                    node.type_rule = Some(RuleId(first));
                }
            }
        }
    }

    /// What needs all nodes: rules that point at rules, tags of unions, references without a detour, no empty circles.
    fn finish(&mut self, root: SchemaId, references: References) -> SchemaId {
        self.point_members_at_required();
        self.refuse_circles();
        // What a dynamic reference leads to depends on the resources on the way, so none may be cut off.
        let dynamic = self.rules.iter().any(|rule| matches!(rule.test, Test::Dynamic(_)));
        if dynamic || references == References::Kept {
            self.find_tags();
            return root;
        }
        let shortcuts: Vec<SchemaId> = (0..self.nodes.len() as u32).map(|id| self.end_of_refs(SchemaId(id))).collect();
        let short = |id: &mut SchemaId| {
            if let Some(end) = shortcuts.get(id.0 as usize) {
                *id = *end;
            }
        };
        for rule in &mut self.rules {
            rule.test.subschemas(&mut |id, _| short(id));
        }
        self.find_tags();
        let mut root = root;
        short(&mut root);
        root
    }

    /// Tells every dynamic reference the resources that have its anchor, and compiles what the anchor names there. That
    /// may bring in more resources.
    fn lead_dynamic_references(&mut self) {
        let mut known = 0;
        while known < self.nodes.len() {
            known = self.nodes.len();
            for rule in 0..self.rules.len() {
                let Some(Test::Dynamic(test)) = self.rules.get(rule).map(|rule| &rule.test) else { continue };
                let named = self.resources.dynamic_anchors(&test.name);
                let table = named.into_iter().map(|(id, at)| (id.0, self.schema_at(at, id))).collect();
                if let Some(Test::Dynamic(test)) = self.rules.get_mut(rule).map(|rule| &mut rule.test) {
                    test.table = table;
                }
            }
            self.run();
        }
    }

    /// The resources in which dynamic references may end, by their numbers, up to the last of them.
    fn anchored(&self) -> Box<[bool]> {
        let mut anchored = Vec::new();
        for rule in &self.rules {
            let Test::Dynamic(test) = &rule.test else { continue };
            for (resource, _) in &test.table {
                let at = *resource as usize;
                anchored.resize(anchored.len().max(at + 1), false);
                if let Some(one) = anchored.get_mut(at) {
                    *one = true;
                }
            }
        }
        anchored.into()
    }

    fn point_members_at_required(&mut self) {
        for node in &self.nodes {
            let range = node.rules.start as usize..node.rules.end as usize;
            let Some(rules) = self.rules.get_mut(range) else { continue };
            let required = rules.iter().position(|rule| matches!(rule.test, Test::Required));
            let members = rules.iter_mut().find_map(|rule| match &mut rule.test {
                Test::Members(members) => Some(members),
                _ => None,
            });
            if let (Some(required), Some(members)) = (required, members) {
                members.required_rule = Some(RuleId(node.rules.start + required as u32));
            }
        }
    }

    /// Where a chain of schemas that are nothing but a `$ref` ends. There is no circle of them any more.
    fn end_of_refs(&self, start: SchemaId) -> SchemaId {
        let mut at = start;
        for _ in 0..self.nodes.len() {
            let Some(node) = self.nodes.get(at.0 as usize) else { return at };
            // The rule of `type` stands outside of the run.
            match self.rules.get(node.rules.start as usize..node.rules.end as usize) {
                Some([Rule { test: Test::Ref(target), .. }]) if node.type_rule.is_none() && !self.is_noted(node.at) => {
                    at = *target;
                }
                _ => return at,
            }
        }
        at
    }

    /// Whether a schema says something to whoever coerces, beside what it refers to.
    fn is_noted(&self, at: Location) -> bool {
        self.options.coerce
            && self.resources.file(at.file).is_some_and(|file| notes_anything(file.document().value(at.node)))
    }

    /// Gives every `properties` what the straight way needs; gives how many places that takes in its memory.
    fn lay_out_names(&mut self, has_dynamic: bool) -> Option<u32> {
        let cannot = |test: &Test| {
            let evaluated = matches!(test, Test::UnevaluatedItems(_) | Test::UnevaluatedProperties(_));
            evaluated || matches!(test, Test::Content(_) | Test::Deprecated)
        };
        let stated = self.rules.iter().filter_map(|rule| match &rule.test {
            Test::Stated(stated) => Some(stated),
            _ => None,
        });
        let conditions = stated.flat_map(|stated| stated.conditions());
        let steps: HashSet<String> = conditions.flat_map(Condition::asked).flat_map(|field| field.steps).collect();
        // Names that share a hash are not noted, but searched for.
        let mut asked: HashMap<u32, Option<&str>> = HashMap::new();
        for name in &steps {
            let only = asked.entry(name_hash(name.as_bytes())).or_insert(Some(name));
            *only = only.filter(|other| *other == name);
        }
        let mut memory = 0;
        for rule in &mut self.rules {
            if let Test::Members(members) = &mut rule.test
                && members.entries.len() <= u64::BITS as usize
            {
                let token = |name: &str| match name.contains(['"', '\\']) || name.chars().any(char::is_control) {
                    true => None,
                    false => Some(Token::new(format!("\"{name}\":").as_bytes())),
                };
                let alone = members.patterns.is_empty();
                let required = members.entries.iter().enumerate().filter(|(_, entry)| entry.required.is_some());
                let required = required.fold(0u64, |bits, (index, _)| bits | 1 << index);
                let names = members.table.names().enumerate();
                let names = names.filter(|(_, name)| asked.get(&name_hash(name.as_bytes())) == Some(&Some(*name)));
                let asked = names.fold(0u64, |bits, (index, _)| bits | 1 << index);
                let each = members.table.names().zip(&members.entries);
                let each = each.map(|(name, entry)| StraightMember {
                    hash: name_hash(name.as_bytes()),
                    token: token(name),
                    schema: entry.schema.filter(|_| alone),
                });
                let each = each.collect();
                // What coercion needs is known later.
                let (defaults, stirring) = (0, 0);
                members.straight = Some(StraightMembers { each, required, defaults, stirring, asked, memory });
                memory += members.entries.len() as u32 + 1;
            }
        }
        self.lead_stated();
        (!has_dynamic && !self.rules.iter().any(|rule| cannot(&rule.test))).then_some(memory)
    }

    /// Tells rules between fields where the straight way notes the members that they read.
    fn lead_stated(&mut self) {
        let all = self.nodes.iter().enumerate();
        let all: Vec<_> = all.flat_map(|(at, node)| node.rules.clone().map(move |rule| (at, rule as usize))).collect();
        for (at, rule) in all {
            let Some(Test::Stated(stated)) = self.rules.get_mut(rule).map(|rule| &mut rule.test) else { continue };
            let (mut that, mut when) = (stated.that.take(), stated.when.take());
            for condition in that.iter_mut().chain(&mut when) {
                condition.lead(&|path| self.slot(SchemaId(at as u32), path));
            }
            if let Some(Test::Stated(stated)) = self.rules.get_mut(rule).map(|rule| &mut rule.test) {
                (stated.that, stated.when) = (that, when);
            }
            if let Some(node) = self.nodes.get_mut(at) {
                node.has_stated = true;
            }
        }
    }

    /// Where the straight way notes the member at the end of a path, as far as one schema alone speaks of each value on the way.
    fn slot(&self, start: SchemaId, path: &[mervik_rules::Name]) -> Option<u32> {
        let rules_of = |id: SchemaId| {
            let range = self.nodes.get(id.0 as usize)?.rules.clone();
            self.rules.get(range.start as usize..range.end as usize)
        };
        let (mut at, mut slot) = (Some(start), None);
        for name in path {
            let mut here = at?;
            // A list on the way stands for its items.
            let items = |rule: &Rule| if let Test::Items(items) = &rule.test { items.rest } else { None };
            if let Some(item) = rules_of(here)?.iter().find_map(items) {
                here = item;
            }
            let members = rules_of(here)?.iter().find_map(|rule| match &rule.test {
                Test::Members(members) => Some(members),
                _ => None,
            })?;
            let index = members.table.index(name.hash, name.text.as_bytes())?;
            slot = Some(members.straight.as_ref()?.memory + index as u32);
            at = members.entries.get(index).and_then(|entry| entry.schema);
        }
        slot
    }

    /// The names of properties whose values are not to be shown, whatever the way to the schema that says so.
    fn secret_names(&mut self) -> SecretNames {
        let mut names = SecretNames::default();
        if self.secrets.is_empty() {
            return names;
        }
        let edges = self.edges();
        let secrets = &self.secrets;
        // A schema is secret when it leads to one that says so: in place, or from a list to its items.
        let mut secret: Vec<bool> = self.nodes.iter().map(|node| secrets.contains(&node.at)).collect();
        let mut grows = true;
        while grows {
            grows = false;
            for (id, out) in edges.iter().enumerate() {
                let leads =
                    |edge: &Edge| (edge.in_place || edge.to_item) && secret.get(edge.to.0 as usize) == Some(&true);
                let reaches = out.iter().any(leads);
                if let Some(known) = secret.get_mut(id).filter(|known| reaches && !**known) {
                    (*known, grows) = (true, true);
                }
            }
        }
        for rule in &self.rules {
            let Test::Members(members) = &rule.test else { continue };
            for (name, entry) in members.table.names().zip(&members.entries) {
                if entry.schema.is_some_and(|id| secret.get(id.0 as usize) == Some(&true)) {
                    names.0.insert(name.into());
                }
            }
        }
        names
    }

    /// What every schema leads to.
    fn edges(&mut self) -> Vec<Vec<Edge>> {
        let mut edges = Vec::with_capacity(self.nodes.len());
        for node in &self.nodes {
            let mut out = Vec::new();
            for rule in self.rules.get_mut(node.rules.start as usize..node.rules.end as usize).unwrap_or_default() {
                let keyword = rule.at;
                let to_item = rule.kinds == Kinds::ARRAYS;
                rule.test.subschemas(&mut |id, in_place| out.push(Edge { to: *id, in_place, to_item, keyword }));
            }
            edges.push(out);
        }
        edges
    }

    /// Refuses schemas that lead back to themselves without stepping into the value: no document could ever be checked
    /// against them (Core, 9.4.1).
    fn refuse_circles(&mut self) {
        #[derive(Clone, Copy, PartialEq)]
        enum Mark {
            New,
            Open,
            Done,
        }
        let mut edges = self.edges();
        edges.iter_mut().for_each(|out| out.retain(|edge| edge.in_place));
        let mut marks = vec![Mark::New; edges.len()];
        let mut circles = Vec::new();
        for start in 0..edges.len() {
            let mut path = vec![(start, 0)];
            while let Some((at, step)) = path.last_mut() {
                let at = *at;
                if let Some(mark) = marks.get_mut(at) {
                    if *step == 0 && *mark == Mark::Done {
                        path.pop();
                        continue;
                    }
                    *mark = Mark::Open;
                }
                match edges.get(at).and_then(|edges| edges.get(*step)) {
                    Some(Edge { to, keyword, .. }) => {
                        *step += 1;
                        let next = to.0 as usize;
                        match marks.get(next) {
                            Some(Mark::Open) => circles.push(*keyword),
                            Some(Mark::New) => path.push((next, 0)),
                            _ => {}
                        }
                    }
                    None => {
                        if let Some(mark) = marks.get_mut(at) {
                            *mark = Mark::Done;
                        }
                        path.pop();
                    }
                }
            }
        }
        for at in circles {
            let message = "leads back to its own schema in a circle, without a step into the document".to_owned();
            let hint = "a recursive schema must recurse through a child: `properties`, `items` and the like".to_owned();
            self.resources.error(Breach::Circle, at, message, Some(hint));
        }
    }
}

#[cfg(test)]
mod tests;
