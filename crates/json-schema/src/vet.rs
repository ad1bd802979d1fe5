//! Reading a schema with a critical eye: what breaks the standard, what can never hold, what has no effect, what is
//! probably a mistake.
//!
//! Each pass looks at every (sub)schema of one file and adds its remarks to the `Vetter`. Passes on the text ask what
//! keywords stand there; passes on the compiled form ask what they do. [`RULES`] says what there is to look for.

mod bounds;
mod branches;
mod conjunction;
mod definitions;
mod implies;
mod keywords;
mod messages;
mod metaschema;
mod misplaced;
mod model;
mod objects;
mod patterns;
mod rules;
mod sets;
mod silence;
mod values;

pub use rules::{Profile, RULES, VetRule};

use crate::compile::{Draft, Options, References, draft};
use crate::dialect::Language;
use crate::error::{Breach, SchemaError};
use crate::file::{FileId, SchemaFile, SchemaText, Seen};
use crate::resource::Fetch;
use crate::schema::{Node, Schema, SchemaId};
use mervik_document::edit::{self, Edit};
use mervik_document::{Document, Member, NodeId, Place, Severity, Span, Value, pointer};
use std::sync::Arc;

/// One thing that vetting has to say about a schema.
#[derive(Clone, Debug)]
pub struct Remark {
    /// The rule behind it.
    pub rule: &'static VetRule,
    /// The file, as it was named to [`vet()`] or by [`crate::Fetched`].
    pub source: Arc<str>,
    /// The JSON Pointer of the place in that file.
    pub at: String,
    /// The bytes that a person should look at.
    pub span: Span,
    /// Line and column of the start of `span`.
    pub place: Place,
    /// The text of that line.
    pub line_text: Arc<str>,
    /// How many characters from the place on are meant; at least 1.
    pub width: u32,
    /// What is the matter here, as one phrase.
    pub message: String,
    /// A likely cause or a way out, where there is one.
    pub hint: Option<String>,
    /// How to mend it, where that needs no judgement. For the file that was vetted, never for another one.
    pub fix: Option<Fix>,
}

/// A change of the schema's text that mends what a remark is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fix {
    /// What is done, as a phrase: ``remove `minLength` ``.
    pub says: String,
    /// The changes, which belong together.
    pub edits: Vec<Edit>,
}

/// What vetting a schema gave.
#[derive(Clone, Debug)]
pub struct Vetted {
    /// All remarks, those that weigh most first, then in the order of their places.
    pub remarks: Vec<Remark>,
    /// The places in other files that the schema refers to: the file's name and a JSON Pointer.
    pub reached: Vec<(Arc<str>, String)>,
}

/// Vets the JSON Schema in `text`. What goes in is what [`crate::compile()`] takes; `profile` asks for more.
///
/// A schema that cannot be used is no error here: what is wrong with it comes back as remarks.
///
/// # Cost
///
/// That of compiling, and a walk for each pass; comparing the branches of a union takes the square of their number, and
/// gives up on what is too large to compare.
pub fn vet(
    name: &str,
    uri: &str,
    text: impl Into<SchemaText>,
    fragment: &str,
    fetch: &mut dyn Fetch,
    options: Options,
    profile: Option<Profile>,
) -> Vetted {
    let draft = draft(name, uri, text.into(), fragment, fetch, options, References::Kept);
    let Some(file) = draft.schema.files().first().cloned() else {
        return Vetted { remarks: Vec::new(), reached: Vec::new() };
    };
    let mut remarks: Vec<Remark> = draft.errors.iter().map(from_error).collect();
    let document = file.document();
    let tracks = draft.schema.nodes.iter().any(|node| node.tracks);
    let mut vetter = Vetter { draft: &draft, file: &file, document: &document, raw: Vec::new(), tracks };
    if draft.root.is_some() {
        vetter.on_text(profile);
        // What follows in place would be followed for ever in a circle.
        if !draft.errors.iter().any(|error| error.breach == Breach::Circle) {
            vetter.on_compiled(options);
        }
        vetter.metaschema(fetch, options, &mut remarks);
    }
    let reached = vetter.reached_elsewhere();
    let raw = std::mem::take(&mut vetter.raw);
    let specific = placed(&document, &file, raw);
    // A remark that knows what was meant takes the place of one that only knows that it is wrong.
    remarks.retain(|general| {
        !(general.rule.id == rules::KEYWORD_VALUE.id && specific.iter().any(|one| one.meets(general)))
    });
    remarks.extend(specific);
    let silenced = silence::silenced(&vetter);
    remarks.retain(|remark| !silenced.iter().any(|silence| silence.covers(remark, name)));
    remarks.sort_by(|a, b| {
        let place = |remark: &Remark| (remark.rule.severity, *remark.source != *name, remark.span.start);
        place(a).cmp(&place(b))
    });
    remarks
        .dedup_by(|a, b| a.rule.id == b.rule.id && a.source == b.source && a.span == b.span && a.message == b.message);
    Vetted { remarks, reached }
}

/// The text with as many of the fixes made as go together, and how many that are; `None` when there is none to make.
///
/// Others may become possible after that: vet again.
pub fn fix(text: &str, remarks: &[Remark]) -> Option<(String, usize)> {
    let mut chosen: Vec<Edit> = Vec::new();
    let mut count = 0;
    for fix in remarks.iter().filter_map(|remark| remark.fix.as_ref()) {
        if !fix.edits.iter().any(|edit| chosen.iter().any(|other| edit::collide(edit, other))) {
            chosen.extend(fix.edits.iter().cloned());
            count += 1;
        }
    }
    (count > 0).then_some((edit::apply(text, &chosen)?, count))
}

impl Remark {
    /// Whether the other one is about the same place, or a part of it.
    fn meets(&self, other: &Remark) -> bool {
        let inside =
            other.at.strip_prefix(self.at.as_str()).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'));
        self.rule.severity <= Severity::Warning && self.source == other.source && inside
    }
}

fn from_error(error: &SchemaError) -> Remark {
    let rule = match error.breach {
        Breach::Syntax => &rules::NOT_JSON,
        Breach::RepeatedName => &rules::REPEATED_NAME,
        Breach::Value => &rules::KEYWORD_VALUE,
        Breach::Reference => &rules::LOST_REFERENCE,
        Breach::Circle => &rules::EMPTY_CYCLE,
        Breach::Pattern => &rules::BAD_PATTERN,
        Breach::Identity => &rules::BAD_IDENTITY,
        Breach::Vocabulary | Breach::Unsupported => &rules::UNSUPPORTED,
    };
    Remark {
        rule,
        source: error.source.clone(),
        at: error.at.clone(),
        span: error.span,
        place: error.place,
        line_text: error.line_text.clone(),
        width: error.width,
        message: error.message.clone(),
        hint: error.hint.clone(),
        fix: None,
    }
}

/// A remark whose place is a node still.
struct Raw {
    rule: &'static VetRule,
    node: NodeId,
    message: String,
    hint: Option<String>,
    fix: Option<Fix>,
}

/// Finds the places of remarks, one after the other: neither a pointer nor a column is counted from the start again.
fn placed(document: &Document<'_>, file: &SchemaFile, mut raw: Vec<Raw>) -> Vec<Remark> {
    raw.sort_by_key(|raw| raw.node);
    let mut ways = pointer::Ways::new(document);
    let remark = |Raw { rule, node, message, hint, fix }| {
        let span = document.span(node);
        let Seen { place, line, width } = file.seen(span);
        Remark {
            rule,
            source: file.name().clone(),
            at: ways.pointer(node),
            span,
            place,
            line_text: line,
            width,
            message,
            hint,
            fix,
        }
    };
    raw.into_iter().map(remark).collect()
}

/// A schema that is being vetted, and the remarks so far.
struct Vetter<'v> {
    draft: &'v Draft,
    file: &'v SchemaFile,
    document: &'v Document<'v>,
    raw: Vec<Raw>,
    /// Whether any schema asks which children others have evaluated.
    tracks: bool,
}

/// One (sub)schema of the file.
#[derive(Clone, Copy)]
struct Sub<'v> {
    id: SchemaId,
    node: &'v Node,
    value: Value<'v>,
    language: Language,
}

impl<'v> Sub<'v> {
    /// The keyword `name`, if the schema has it and its language knows it.
    fn member(self, name: &str) -> Option<Member<'v>> {
        crate::keyword::find(name, self.language)?;
        self.value.members().find(|member| member.name.text() == name)
    }

    fn keyword(self, name: &str) -> Option<Value<'v>> {
        self.member(name).map(|member| member.value)
    }

    /// Whether nothing beside `$ref` is read.
    fn is_bare_reference(self) -> bool {
        self.language.ref_stands_alone() && self.keyword("$ref").is_some_and(|value| value.as_str().is_some())
    }
}

impl<'v> Vetter<'v> {
    fn schema(&self) -> &'v Schema {
        &self.draft.schema
    }

    /// The subschemas of the file that was named.
    fn subschemas(&self) -> Vec<Sub<'v>> {
        let nodes = self.schema().nodes.iter().zip(0..).filter(|(node, _)| node.at.file == FileId(0));
        nodes.map(|(node, id)| self.sub(SchemaId(id), node)).collect()
    }

    fn sub(&self, id: SchemaId, node: &'v Node) -> Sub<'v> {
        let language = self.draft.languages.get(node.scope as usize).copied();
        let language = language.unwrap_or(Language::standard(crate::dialect::Dialect::default()));
        Sub { id, node, value: self.document.value(node.at.node), language }
    }

    fn say(&mut self, raw: Raw) {
        self.raw.push(raw);
    }

    fn on_text(&mut self, profile: Option<Profile>) {
        for sub in self.subschemas() {
            self.misplaced(sub);
            self.keywords(sub);
            self.listed_values(sub);
            self.types_and_formats(sub);
            self.patterns(sub);
            self.objects(sub);
        }
        self.dialect();
        if profile == Some(Profile::ModelOutput) {
            self.model_output();
        }
        silence::unknown(self);
    }

    fn on_compiled(&mut self, options: Options) {
        for sub in self.subschemas() {
            self.conjunction(sub);
            self.branches(sub);
            self.stated_values(sub, options);
            self.idle_messages(sub);
        }
        // What a reference was meant to lead to is not unused.
        if !self.draft.errors.iter().any(|error| error.breach == Breach::Reference) {
            self.unused_definitions();
        }
    }
}

impl Raw {
    fn new(rule: &'static VetRule, node: NodeId, message: impl Into<String>) -> Raw {
        Raw { rule, node, message: message.into(), hint: None, fix: None }
    }

    fn hint(self, hint: impl Into<String>) -> Self {
        Raw { hint: Some(hint.into()), ..self }
    }

    /// With a way to mend it, unless one of the edits cannot be made.
    fn fix(self, says: impl Into<String>, edits: impl IntoIterator<Item = Option<Edit>>) -> Self {
        let edits: Option<Vec<Edit>> = edits.into_iter().collect();
        Raw { fix: edits.map(|edits| Fix { says: says.into(), edits }), ..self }
    }
}

#[cfg(test)]
mod tests;
