//! What a check records when something fails: plain data, put into words later.

use crate::file::Location;
use crate::schema::RuleId;
use mervik_document::NodeId;
use mervik_rules::Outcome;

/// One rule that one value violates.
#[derive(Clone, Debug)]
pub(crate) struct Failure {
    pub(crate) rule: RuleId,
    /// The value that the rule was applied to.
    pub(crate) value: NodeId,
    pub(crate) detail: Detail,
    /// The branch of a union that it happened in, as an index into the notes of the check.
    pub(crate) branch: Option<u32>,
    /// The rules that led here, the outermost first, and the one that was being applied; empty unless ways are wanted.
    pub(crate) way: Box<[RuleId]>,
}

/// What cannot be told from the rule and the value alone.
#[derive(Clone, Debug)]
pub(crate) enum Detail {
    /// Nothing is missing.
    Plain,
    /// A required property is absent.
    Missing(Box<str>),
    /// A property is absent that another one calls for.
    MissingWith { missing: Box<str>, present: Box<str> },
    /// Two items are equal; counted from 0.
    EqualItems { first: usize, second: usize, at: NodeId },
    /// So many items match `contains`, of so many; `keyword` is the one to blame.
    Contains { matching: u64, items: u64, keyword: Option<Location> },
    /// No branch of a union has the value of the tag that stands at this node.
    UnknownTag(NodeId),
    /// Branches of `oneOf` that match, where one alone must.
    Matching(Vec<usize>),
    /// A property or an item that no rule has evaluated; these names have been.
    Unevaluated(Vec<NodeId>),
    /// A rule between fields is broken, or has no answer; these fields it has read, each as it spells it.
    Broken(Outcome, Vec<(String, NodeId)>),
    /// No branch allows a value of this kind.
    NoBranch,
}

/// A branch of a union that was taken for the one that is meant.
#[derive(Clone, Copy, Debug)]
pub(crate) struct BranchNote {
    pub(crate) rule: RuleId,
    pub(crate) branch: usize,
    pub(crate) how: Choice,
}

/// Why the failures of a branch are told.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Choice {
    /// The value of the tag at this node chose it.
    Tag(NodeId),
    /// It came nearest.
    Nearest,
    /// All branches were asked for.
    Other,
}
