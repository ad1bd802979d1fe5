//! The compiled schema: a flat arena of nodes and their rules, with every reference resolved.

use crate::coerce::notes::Notes;
use crate::content::Encoding;
use crate::file::{FileId, Location, SchemaFile};
use crate::format::Format;
use crate::labels::Labels;
use crate::names::NameTable;
use crate::pattern::Pattern;
use crate::secret::SecretNames;
use mervik_document::json::Token;
use mervik_document::tape::name_hash;
use mervik_document::tongue::Tongue;
use mervik_document::{Decimal, Kind};
use mervik_messages::{Message, Speaker};
use mervik_rules::syntax::Expr;
use mervik_rules::{Bound, Condition, Now};
use std::ops::Range;
use std::sync::Arc;

/// Index of a compiled (sub)schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct SchemaId(pub(crate) u32);

/// Index of one rule, that is of one keyword at one place, of a compiled schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct RuleId(pub(crate) u32);

impl RuleId {
    pub(crate) fn index(self) -> usize {
        self.0 as usize
    }
}

/// A schema that is ready to check documents. Immutable; threads share it, each with its own [`crate::Checker`].
#[derive(Debug)]
pub struct Schema {
    pub(crate) nodes: Box<[Node]>,
    pub(crate) rules: Box<[Rule]>,
    pub(crate) root: SchemaId,
    /// Whether any reference depends on how its schema was reached, so that checks must keep track of that.
    pub(crate) has_dynamic: bool,
    /// The resources in which dynamic references may end, by their numbers.
    pub(crate) anchored: Box<[bool]>,
    /// Whether checks of documents that hold may have something to say all the same.
    pub(crate) warns: bool,
    /// Whether there are rules between fields, and whether one reads what lies above the value that it stands at.
    pub(crate) has_stated: bool,
    pub(crate) looks_up: bool,
    /// How many places the straight way's memory has; `None` when the schema asks for what it cannot do.
    pub(crate) straight: Option<u32>,
    pub(crate) secrets: SecretNames,
    /// What time it is, for rules that ask.
    pub(crate) now: Option<Now>,
    /// What schemas say of themselves to people.
    pub(crate) labels: Labels,
    /// Who translates it.
    pub(crate) speaker: Speaker,
    /// What coercion asks for; empty unless [`crate::Options::coerce`] was set.
    pub(crate) notes: Notes,
    /// The roots of the resources, and their URIs, by their numbers.
    pub(crate) resources: Box<[(Location, String)]>,
    pub(crate) files: Box<[Arc<SchemaFile>]>,
}

impl Schema {
    /// Whether a document that holds may have warnings: whoever wants them must ask for the findings of every document.
    pub fn warns(&self) -> bool {
        self.warns
    }

    /// The files that the schema was compiled from, the one that was named first.
    pub fn files(&self) -> &[Arc<SchemaFile>] {
        &self.files
    }

    /// Lets findings be told by someone who has catalogues of the schema's files, in the order of [`Schema::files`].
    #[must_use]
    pub fn spoken_by(self, speaker: Speaker) -> Schema {
        Schema { speaker, ..self }
    }

    /// The language that findings are told in, where nobody else has words for them.
    pub fn tongue(&self) -> Tongue {
        self.speaker.tongue()
    }

    /// Whether values of properties of this name are not to be shown to anybody.
    pub fn keeps_secret(&self, name: &str) -> bool {
        self.secrets.has(name)
    }

    #[inline]
    pub(crate) fn rules(&self, node: &Node) -> &[Rule] {
        self.rules.get(node.rules.start as usize..node.rules.end as usize).unwrap_or_default()
    }

    /// What a schema allows by `type` and by the values that it lists.
    pub(crate) fn types_of(&self, node: &Node) -> Types {
        self.rules(node).iter().fold(node.types, |types, rule| match &rule.test {
            Test::OneOfValues(values) => types.and(self.types_listed(values)),
            _ => types,
        })
    }

    fn types_listed(&self, values: &Values) -> Types {
        let kind = |at: &Location| Some(self.file(at.file)?.document().value(at.node).kind());
        let others = values.others.iter().filter_map(kind).map(Kinds::of);
        let strings = (values.strings.names().len() > 0).then_some(Kinds::STRINGS);
        let numbers = (!values.numbers.is_empty()).then_some(Kinds::NUMBERS);
        let kinds = others.chain(strings).chain(numbers).fold(Kinds::NONE, Kinds::with);
        Types { kinds, integer: false, plain: false }
    }

    pub(crate) fn rules_of(&self, id: SchemaId) -> &[Rule] {
        self.node(id).map(|node| self.rules(node)).unwrap_or_default()
    }

    pub(crate) fn node(&self, id: SchemaId) -> Option<&Node> {
        self.nodes.get(id.0 as usize)
    }

    pub(crate) fn rule(&self, id: RuleId) -> Option<&Rule> {
        self.rules.get(id.index())
    }

    /// The schema that a rule is part of. O(log schemas): rules stand in the order of the schemas that have them.
    pub(crate) fn owner(&self, id: RuleId) -> Option<&Node> {
        self.node(self.owner_of(id)?)
    }

    /// The same by its number.
    pub(crate) fn owner_of(&self, id: RuleId) -> Option<SchemaId> {
        let first = |node: &Node| node.type_rule.map_or(node.rules.start, |rule| rule.0);
        let after = self.nodes.partition_point(|node| first(node) <= id.0);
        Some(SchemaId(after.checked_sub(1)? as u32))
    }

    pub(crate) fn file(&self, id: FileId) -> Option<&SchemaFile> {
        self.files.get(id.0 as usize).map(|file| &**file)
    }
}

/// One (sub)schema: the types that it allows, and a run of rules.
#[derive(Clone, Debug)]
pub(crate) struct Node {
    /// What `type` allows; everything, where there is no `type`.
    pub(crate) types: Types,
    /// The rule that says so.
    pub(crate) type_rule: Option<RuleId>,
    pub(crate) rules: Range<u32>,
    /// The number of the resource that the schema is part of.
    pub(crate) scope: u32,
    /// Whether a rule of the schema asks which children no other rule has evaluated.
    pub(crate) tracks: bool,
    /// Whether it has rules between fields.
    pub(crate) has_stated: bool,
    pub(crate) at: Location,
}

impl Node {
    pub(crate) fn new(at: Location) -> Self {
        Node { types: Types::ANY, type_rule: None, rules: 0..0, scope: 0, tracks: false, has_stated: false, at }
    }
}

/// One keyword at one place, or several that are checked in one go.
#[derive(Debug)]
pub(crate) struct Rule {
    /// The kinds of values that the rule speaks of; others it lets pass.
    pub(crate) kinds: Kinds,
    pub(crate) test: Test,
    /// The keyword's name in the schema's file; for a boolean schema, the schema itself.
    pub(crate) at: Location,
}

/// A set of kinds of values.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Kinds(pub(crate) u8);

impl Kinds {
    pub(crate) const NONE: Kinds = Kinds(0);
    pub(crate) const ALL: Kinds = Kinds(0x3f);
    pub(crate) const NUMBERS: Kinds = Kinds::of(Kind::Number);
    pub(crate) const STRINGS: Kinds = Kinds::of(Kind::String);
    pub(crate) const ARRAYS: Kinds = Kinds::of(Kind::Array);
    pub(crate) const OBJECTS: Kinds = Kinds::of(Kind::Object);

    #[inline]
    pub(crate) const fn of(kind: Kind) -> Kinds {
        Kinds(1 << kind as u8)
    }

    pub(crate) const fn with(self, other: Kinds) -> Kinds {
        Kinds(self.0 | other.0)
    }

    #[inline]
    pub(crate) fn meets(self, other: Kinds) -> bool {
        self.0 & other.0 != 0
    }
}

impl Types {
    /// Whatever there is.
    pub(crate) const ANY: Types = Types { kinds: Kinds::ALL, integer: true, plain: false };

    /// The kinds of which some values pass.
    pub(crate) fn reach(self) -> Kinds {
        if self.integer { self.kinds.with(Kinds::NUMBERS) } else { self.kinds }
    }

    /// What passes both.
    pub(crate) fn and(self, other: Types) -> Types {
        let any = |types: Types| types.kinds.meets(Kinds::NUMBERS);
        let integer = (self.integer || any(self)) && (other.integer || any(other));
        Types { kinds: Kinds(self.kinds.0 & other.kinds.0), integer, plain: self.plain || other.plain }
    }
}

/// The value of `type` (Validation, 6.1.1).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Types {
    /// Kinds that pass whatever their value.
    pub(crate) kinds: Kinds,
    /// Numbers pass when they are integers.
    pub(crate) integer: bool,
    /// Integers must be spelled without fraction and exponent (draft-04 Core, 3.5).
    pub(crate) plain: bool,
}

/// The name of a property, with its hash.
#[derive(Debug)]
pub(crate) struct HashedName {
    pub(crate) text: Box<str>,
    pub(crate) hash: u32,
}

impl From<&str> for HashedName {
    fn from(text: &str) -> Self {
        HashedName { text: text.into(), hash: name_hash(text.as_bytes()) }
    }
}

/// What follows from the presence of each of some properties.
pub(crate) type Dependencies<T> = Box<[(HashedName, T)]>;

/// What a rule tests. Names follow the keywords; the clauses are those of JSON Schema 2020-12.
#[derive(Debug)]
pub(crate) enum Test {
    /// The schema `false` (Core, 4.3.2).
    Never,
    /// `type` (Validation, 6.1.1); tested at the head of its node, here for its place.
    Type(Types),
    /// `const` and `enum` (Validation, 6.1.2 and 6.1.3); the values stand in the schema's file.
    OneOfValues(Box<Values>),
    /// `multipleOf` (Validation, 6.2.1).
    MultipleOf(Box<Decimal>),
    /// `maximum` (Validation, 6.2.2).
    Maximum(Box<Decimal>),
    /// `exclusiveMaximum` (Validation, 6.2.3).
    ExclusiveMaximum(Box<Decimal>),
    /// `minimum` (Validation, 6.2.4).
    Minimum(Box<Decimal>),
    /// `exclusiveMinimum` (Validation, 6.2.5).
    ExclusiveMinimum(Box<Decimal>),
    /// `maxLength` (Validation, 6.3.1).
    MaxLength(u64),
    /// `minLength` (Validation, 6.3.2).
    MinLength(u64),
    /// `pattern` (Validation, 6.3.3).
    Pattern(Box<Pattern>),
    /// `format` (Validation, 7).
    Format(Format),
    /// `prefixItems` and `items` (Core, 10.3.1.1 and 10.3.1.2).
    Items(Box<ItemsTest>),
    /// `contains`, `minContains`, `maxContains` (Core, 10.3.1.3; Validation, 6.4.4 and 6.4.5).
    Contains(Box<ContainsTest>),
    /// `maxItems` (Validation, 6.4.1).
    MaxItems(u64),
    /// `minItems` (Validation, 6.4.2).
    MinItems(u64),
    /// `uniqueItems` (Validation, 6.4.3).
    UniqueItems,
    /// `properties`, `patternProperties`, `additionalProperties` (Core, 10.3.2.1 to 10.3.2.3) and `required`.
    Members(Box<MembersTest>),
    /// `required` (Validation, 6.5.3); tested by the `Members` of the same node, here for its place.
    Required,
    /// `propertyNames` (Core, 10.3.2.4).
    PropertyNames(SchemaId),
    /// `maxProperties` (Validation, 6.5.1).
    MaxProperties(u64),
    /// `minProperties` (Validation, 6.5.2).
    MinProperties(u64),
    /// `dependentRequired` (Validation, 6.5.4): when the first is there, so must the others.
    DependentRequired(Dependencies<Box<[HashedName]>>),
    /// `dependentSchemas` (Core, 10.2.2.4).
    DependentSchemas(Dependencies<SchemaId>),
    /// `$ref` (Core, 8.2.3.1).
    Ref(SchemaId),
    /// `$dynamicRef` (Core, 8.2.3.2) and `$recursiveRef` (2019-09 Core, 8.2.4.2), where they lead to a dynamic anchor.
    Dynamic(Box<DynamicTest>),
    /// `allOf` (Core, 10.2.1.1).
    AllOf(Box<[SchemaId]>),
    /// `anyOf` (Core, 10.2.1.2).
    AnyOf(Box<Union>),
    /// `oneOf` (Core, 10.2.1.3).
    OneOf(Box<Union>),
    /// `not` (Core, 10.2.1.4).
    Not(SchemaId),
    /// `if`, `then`, `else` (Core, 10.2.2).
    If(Box<IfTest>),
    /// `unevaluatedItems` (Core, 11.2).
    UnevaluatedItems(SchemaId),
    /// `unevaluatedProperties` (Core, 11.3).
    UnevaluatedProperties(SchemaId),
    /// `contentEncoding`, `contentMediaType`, `contentSchema` (Validation, 8), when they are asserted.
    Content(Box<ContentTest>),
    /// `deprecated` (Validation, 9.3), when a warning is wanted: what has it holds all the same.
    Deprecated,
    /// A rule between fields, that `x-mervik` states.
    Stated(Box<Stated>),
    /// `readOnly` in a request, or `writeOnly` in a response (Validation, 9.4).
    WrongDirection,
}

/// A rule between fields.
#[derive(Debug)]
pub(crate) struct Stated {
    /// What findings and cases call it.
    pub(crate) id: Box<str>,
    /// The rule as it is printed: the condition, after its guard.
    pub(crate) text: Box<str>,
    /// What is said instead, where it is broken.
    pub(crate) message: Option<Message>,
    /// Whether a document that breaks it holds all the same.
    pub(crate) warns: bool,
    /// What must hold, and when; `None` before they are checked.
    pub(crate) that: Option<Condition>,
    pub(crate) when: Option<Condition>,
    /// The same as they are read, until they are checked; and where they stand.
    pub(crate) read: Option<Expr>,
    pub(crate) guard_read: Option<Expr>,
    pub(crate) that_at: Location,
    pub(crate) when_at: Option<Location>,
    pub(crate) message_at: Option<Location>,
    /// Of a rule of a set that is used here: what stands for its parameters.
    pub(crate) bound: Option<Bound>,
}

impl Stated {
    /// What must hold, and when, as far as they have been checked.
    pub(crate) fn conditions(&self) -> impl Iterator<Item = &Condition> {
        self.that.iter().chain(&self.when)
    }
}

#[derive(Debug)]
pub(crate) struct DynamicTest {
    /// The dynamic anchor.
    pub(crate) name: String,
    /// Where the reference leads when no resource on the way has the anchor.
    pub(crate) target: SchemaId,
    /// The resources that have the anchor, and what it names there.
    pub(crate) table: Vec<(u32, SchemaId)>,
}

#[derive(Debug)]
pub(crate) struct ContentTest {
    pub(crate) encoding: Option<Encoding>,
    /// Whether the media type is that of JSON.
    pub(crate) json: bool,
    pub(crate) schema: Option<SchemaId>,
}

/// The values that `enum` or `const` allows.
#[derive(Debug)]
pub(crate) struct Values {
    /// The strings among them, for a quick look-up.
    pub(crate) strings: NameTable,
    /// The numbers among them.
    pub(crate) numbers: Box<[Decimal]>,
    /// All others.
    pub(crate) others: Box<[Location]>,
    /// Whether the keyword is `const`.
    pub(crate) single: bool,
    /// All of them, in the schema's order.
    pub(crate) all: Box<[Location]>,
}

#[derive(Debug)]
pub(crate) struct ItemsTest {
    pub(crate) prefix: Box<[SchemaId]>,
    pub(crate) rest: Option<SchemaId>,
}

#[derive(Debug)]
pub(crate) struct ContainsTest {
    pub(crate) schema: SchemaId,
    pub(crate) min: u64,
    pub(crate) max: Option<u64>,
    /// Whether items that match count as evaluated: since 2020-12.
    pub(crate) evaluates: bool,
    /// The rules to blame when too few or too many items match; `None` is the rule itself.
    pub(crate) min_rule: Option<Location>,
    pub(crate) max_rule: Option<Location>,
}

/// Everything that one pass over the members of an object decides.
#[derive(Debug)]
pub(crate) struct MembersTest {
    /// The names in `properties` and `required`.
    pub(crate) table: NameTable,
    /// For each name of the table.
    pub(crate) entries: Box<[Entry]>,
    pub(crate) patterns: Box<[(Pattern, SchemaId)]>,
    pub(crate) additional: Option<SchemaId>,
    /// How many names are required, and the rule that says so.
    pub(crate) required: u32,
    pub(crate) required_rule: Option<RuleId>,
    /// What the straight way needs to know; `None` for what has too many names for it.
    pub(crate) straight: Option<StraightMembers>,
}

/// An object's names as they are mostly spelled and ordered, for [`crate::check`]'s straight way.
#[derive(Debug)]
pub(crate) struct StraightMembers {
    /// For each name of the table.
    pub(crate) each: Box<[StraightMember]>,
    /// The names that are required, a bit each.
    pub(crate) required: u64,
    /// The names that have a default, and those whose values a directive speaks of; for coercion.
    pub(crate) defaults: u64,
    pub(crate) stirring: u64,
    /// The names that rules between fields read and that their hashes tell apart.
    pub(crate) asked: u64,
    /// The number of the first place that the test has in the memory of what came next; it has one more than names.
    pub(crate) memory: u32,
}

impl StraightMembers {
    #[inline]
    pub(crate) fn schema(&self, index: usize) -> Option<SchemaId> {
        self.each.get(index).and_then(|member| member.schema)
    }
}

#[derive(Debug)]
pub(crate) struct StraightMember {
    /// The hash of its name.
    pub(crate) hash: u32,
    /// The bytes `"name":`; `None` for a name that may be spelled otherwise.
    pub(crate) token: Option<Token>,
    /// The schema that alone speaks of the member, if there is one.
    pub(crate) schema: Option<SchemaId>,
}

#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Entry {
    /// The schema in `properties`, if the name is there.
    pub(crate) schema: Option<SchemaId>,
    /// The name's number among the required ones.
    pub(crate) required: Option<u32>,
}

/// The branches of `anyOf` or `oneOf`.
#[derive(Debug)]
pub(crate) struct Union {
    pub(crate) branches: Box<[SchemaId]>,
    pub(crate) tag: Option<Tag>,
    /// What `discriminator` says: it chooses the branch that is spoken of, and not whether a value holds.
    pub(crate) named: Option<Tag>,
}

impl Union {
    /// The tag that chooses the branch to speak of.
    pub(crate) fn choosing(&self) -> Option<&Tag> {
        self.tag.as_ref().or(self.named.as_ref())
    }
}

/// A property whose constant value differs from branch to branch, so that its value alone chooses the branch.
#[derive(Debug)]
pub(crate) struct Tag {
    pub(crate) name: HashedName,
    /// The values, and for each the index of its branch.
    pub(crate) values: NameTable,
    pub(crate) branch: Box<[u32]>,
}

#[derive(Debug)]
pub(crate) struct IfTest {
    pub(crate) condition: SchemaId,
    pub(crate) then: Option<SchemaId>,
    pub(crate) otherwise: Option<SchemaId>,
}

impl Test {
    /// Calls `visit` with every schema that the test applies, and whether it applies it to the same value (in place)
    /// rather than to a child.
    pub(crate) fn subschemas(&mut self, visit: &mut dyn FnMut(&mut SchemaId, bool)) {
        match self {
            Test::Items(items) => {
                let ItemsTest { prefix, rest } = &mut **items;
                prefix.iter_mut().chain(rest).for_each(|id| visit(id, false));
            }
            Test::Contains(contains) => visit(&mut contains.schema, false),
            Test::Members(members) => {
                let MembersTest { entries, patterns, additional, .. } = &mut **members;
                entries.iter_mut().filter_map(|entry| entry.schema.as_mut()).for_each(|id| visit(id, false));
                patterns.iter_mut().map(|(_, id)| id).chain(additional).for_each(|id| visit(id, false));
            }
            Test::PropertyNames(id) | Test::UnevaluatedItems(id) | Test::UnevaluatedProperties(id) => visit(id, false),
            // Where it leads is known during a check only, which has a bound for circles.
            Test::Dynamic(test) => {
                let DynamicTest { target, table, .. } = &mut **test;
                std::iter::once(target).chain(table.iter_mut().map(|(_, id)| id)).for_each(|id| visit(id, false));
            }
            Test::Content(test) => test.schema.iter_mut().for_each(|id| visit(id, false)),
            Test::DependentSchemas(all) => all.iter_mut().for_each(|(_, id)| visit(id, true)),
            Test::Ref(id) | Test::Not(id) => visit(id, true),
            Test::AllOf(all) => all.iter_mut().for_each(|id| visit(id, true)),
            Test::AnyOf(union) | Test::OneOf(union) => union.branches.iter_mut().for_each(|id| visit(id, true)),
            Test::If(test) => {
                let IfTest { condition, then, otherwise } = &mut **test;
                std::iter::once(condition).chain(then).chain(otherwise).for_each(|id| visit(id, true));
            }
            Test::Never
            | Test::Type(_)
            | Test::OneOfValues(_)
            | Test::MultipleOf(_)
            | Test::Maximum(_)
            | Test::ExclusiveMaximum(_)
            | Test::Minimum(_)
            | Test::ExclusiveMinimum(_)
            | Test::MaxLength(_)
            | Test::MinLength(_)
            | Test::Pattern(_)
            | Test::Format(_)
            | Test::MaxItems(_)
            | Test::MinItems(_)
            | Test::UniqueItems
            | Test::Required
            | Test::MaxProperties(_)
            | Test::MinProperties(_)
            | Test::WrongDirection
            | Test::Deprecated
            | Test::Stated(_)
            | Test::DependentRequired(_) => {}
        }
    }
}

const _: () = assert!(size_of::<Rule>() <= 40, "rules are walked for every value");
