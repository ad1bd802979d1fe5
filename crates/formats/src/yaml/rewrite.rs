//! A YAML text changed so that it says something else, with all that need not change kept as it was written.
//!
//! What the text says is compared with what it is meant to say, and only the values, members and items that differ are
//! written: comments, order, quotes and indents of the rest stay. The outcome is read again before it is given out.

use crate::reading::Origins;
use crate::write::{is_empty, yaml_block, yaml_inline, yaml_text};
use mervik_document::edit::{self, Edit};
use mervik_document::tape::equal;
use mervik_document::{Document, Kind, NodeId, Span, Tape, Value, json};
use std::collections::{BTreeMap, HashSet};

/// The YAML text `text`, which holds one document, changed so that it reads as the JSON text `meant`.
///
/// `None` when either cannot be read, or when the change cannot be made around what stands there: within anchors that
/// are referred to, within tags, beside a collection that shares its line with others. The order in which `meant` has the
/// members of an object is followed for new members only. O(length × depth).
pub fn rewrite(text: &str, meant: &str) -> Option<String> {
    let (mut tape, mut meant_tape) = (Tape::new(), Tape::new());
    let (documents, fault) = super::read(text);
    let [reading] = documents.as_slice() else { return None };
    json::read(&reading.json, &mut tape).ok()?;
    json::read(meant, &mut meant_tape).ok()?;
    let is = Document::new(&reading.json, &tape);
    let meant = Document::new(meant, &meant_tape);
    let mut rewriter = Rewriter {
        text,
        line_end: if text.contains("\r\n") { "\r\n" } else { "\n" },
        origins: &reading.origins,
        edits: Vec::new(),
        insertions: BTreeMap::new(),
    };
    rewriter.compare(is.root(), meant.root())?;
    let changed = rewriter.made()?;
    let (documents, broken) = super::read(&changed);
    let [reading] = documents.as_slice() else { return None };
    let mut tape = Tape::new();
    json::read(&reading.json, &mut tape).ok()?;
    let holds = equal(Document::new(&reading.json, &tape).root(), meant.root());
    (fault.is_none() && broken.is_none() && holds).then_some(changed)
}

struct Rewriter<'t> {
    text: &'t str,
    line_end: &'static str,
    origins: &'t Origins,
    edits: Vec<Edit>,
    /// What is inserted at each byte, with how deep it belongs: the deepest comes first.
    insertions: BTreeMap<usize, Vec<(usize, String)>>,
}

/// Where a value stands: what leads to it in the source.
#[derive(Clone, Copy)]
struct Spot<'d> {
    value: Value<'d>,
    /// The name of a member; its first byte is where its line's content begins, unless it stands beside a dash.
    name: Option<NodeId>,
    /// Whether brackets are open around it.
    in_flow: bool,
    depth: usize,
}

impl<'t> Rewriter<'t> {
    /// Notes the edits that make one value the other. The depth is bounded by what the readers let in, but the values that
    /// are left to compare are kept in a list all the same.
    fn compare(&mut self, is: Value<'t>, meant: Value<'t>) -> Option<()> {
        let mut open = vec![(Spot { value: is, name: None, in_flow: false, depth: 0 }, meant)];
        while let Some((spot, meant)) = open.pop() {
            if equal(spot.value, meant) {
                continue;
            }
            let inner = match (spot.value.kind(), meant.kind()) {
                (Kind::Object, Kind::Object) => self.members(spot, meant)?,
                (Kind::Array, Kind::Array) => self.items(spot, meant)?,
                _ => None,
            };
            match inner {
                Some(inner) => open.extend(inner),
                None => self.replace(spot, meant)?,
            }
        }
        Some(())
    }

    /// The text with all edits in it.
    fn made(self) -> Option<String> {
        let Rewriter { text, mut edits, insertions, .. } = self;
        for (at, mut parts) in insertions {
            parts.sort_by_key(|(depth, _)| std::cmp::Reverse(*depth));
            let inserted: String = parts.into_iter().map(|(_, text)| text).collect();
            // What starts where something is inserted comes after it.
            match edits.iter_mut().find(|edit| edit.span.start as usize == at) {
                Some(edit) => edit.text.insert_str(0, &inserted),
                None => edits.push(Edit { span: Span { start: at as u32, end: at as u32 }, text: inserted }),
            }
        }
        edit::apply(text, &edits)
    }

    /// The source of what starts at a node; `None` for what an alias stands for.
    fn span(&self, document: &Document<'_>, node: NodeId) -> Option<Span> {
        let start = document.span(node).start;
        let places = self.origins.places();
        let index = places.binary_search_by_key(&start, |(at, _)| *at).ok()?;
        places.get(index).map(|(_, span)| *span)
    }

    /// The source of a value. Blocks are read up to what comes next; here they end with their last value. O(depth).
    fn value_span(&self, value: Value<'_>) -> Option<Span> {
        let span = self.span(value.document(), value.id())?;
        let (mut last, mut end) = (value, span);
        while !self.is_flow(end) {
            let (child, name) = match last.kind() {
                Kind::Object => last.members().last().map(|member| (member.value, Some(member.name.id())))?,
                Kind::Array => (last.items().last()?, None),
                _ => break,
            };
            let Some(found) = self.span(value.document(), child.id()) else { break };
            (last, end) = (child, found);
            // Where nothing is written, the colon is the end.
            if let (Some(name), true) = (name, end.start == end.end) {
                let colon = self.colon(self.span(value.document(), name)?)? as u32;
                end = Span { start: colon, end: colon };
            }
        }
        Some(Span { start: span.start, end: end.end })
    }

    /// The byte after the colon that follows a name.
    fn colon(&self, name: Span) -> Option<usize> {
        let after = self.text.get(name.end as usize..)?;
        after.trim_start().starts_with(':').then(|| after.find(':').map(|at| name.end as usize + at + 1))?
    }

    /// Whether a container is written with brackets.
    fn is_flow(&self, span: Span) -> bool {
        self.text.get(span.start as usize..).is_some_and(|rest| rest.starts_with(['{', '[']))
    }

    fn line_start(&self, at: usize) -> usize {
        self.text.get(..at).and_then(|before| before.rfind('\n')).map_or(0, |end| end + 1)
    }

    /// Where the line of a byte ends, before its line break.
    fn line_end(&self, at: usize) -> usize {
        let rest = self.text.get(at..).unwrap_or("");
        let line = rest.split('\n').next().unwrap_or("");
        at + line.strip_suffix('\r').unwrap_or(line).len()
    }

    /// The column of a byte: its characters before it in its line.
    fn column(&self, at: usize) -> usize {
        self.text.get(self.line_start(at)..at).map_or(0, |before| before.chars().count())
    }

    /// Notes something to put in, and how deep it belongs.
    fn insert(&mut self, at: usize, depth: usize, text: String) {
        self.insertions.entry(at).or_default().push((depth, text));
    }

    fn put(&mut self, start: usize, end: usize, text: String) {
        self.edits.push(Edit { span: Span { start: start as u32, end: end as u32 }, text });
    }

    /// A value as it follows a colon or a dash: in the same line where it is short, else in lines of its own.
    fn beside(&self, value: Value<'_>, indent: usize, dash: bool) -> String {
        let inline = yaml_inline(value);
        let is_short_list = value.kind() == Kind::Array
            && inline.len() <= MAX_INLINE
            && value.items().all(|item| !matches!(item.kind(), Kind::Array | Kind::Object));
        if !matches!(value.kind(), Kind::Array | Kind::Object) || is_short_list || is_empty(value) {
            return format!(" {inline}");
        }
        let block = yaml_block(value, indent, dash);
        let block = block.trim_end_matches('\n');
        let block = if self.line_end == "\n" { block.to_owned() } else { block.replace('\n', self.line_end) };
        if dash { format!(" {block}") } else { format!("{}{block}", self.line_end) }
    }

    /// Puts a value in the place of another one.
    fn replace(&mut self, spot: Spot<'t>, meant: Value<'_>) -> Option<()> {
        let span = self.value_span(spot.value)?;
        let (start, end) = (span.start as usize, span.end as usize);
        let is_container = matches!(spot.value.kind(), Kind::Object | Kind::Array);
        let is_block = is_container && !self.is_flow(span) && !self.text.get(start..)?.starts_with('*');
        let name = spot.name.and_then(|name| self.span(spot.value.document(), name));
        if start == end {
            let after = self.colon(name?)?;
            self.put(after, after, format!(" {}", yaml_inline(meant)));
            return Some(());
        }
        // The text of a block scalar starts in the line after its `|` or `>`.
        let lead = name.and_then(|name| self.text.get(self.colon(name)?..start)).unwrap_or("");
        let is_scalar = !is_block && !lead.trim_start().starts_with(['|', '>']);
        if spot.in_flow || spot.depth == 0 || is_scalar {
            self.put(start, end, yaml_inline(meant));
            return Some(());
        }
        match name {
            Some(name) => {
                let after = self.colon(name)?;
                let text = self.beside(meant, self.column(name.start as usize) + 2, false);
                self.put(after, end, text);
            }
            None => {
                let dash = self.dash(start)?;
                let text = self.beside(meant, self.column(dash) + 2, true);
                self.put(dash + 1, end, text);
            }
        }
        Some(())
    }

    /// The dash before an item of a block sequence.
    fn dash(&self, item: usize) -> Option<usize> {
        let start = self.line_start(item);
        let before = self.text.get(start..item)?;
        let dash = before.rfind('-')?;
        before.get(dash + 1..)?.trim().is_empty().then_some(start + dash)
    }

    /// Makes the members of an object those of another; gives what is left to compare, or nothing when the whole is to be
    /// replaced.
    fn members(&mut self, spot: Spot<'t>, meant: Value<'t>) -> Option<Option<Vec<(Spot<'t>, Value<'t>)>>> {
        let is = spot.value;
        let document = is.document();
        let Some(span) = self.value_span(is) else { return Some(None) };
        let in_flow = spot.in_flow || self.is_flow(span);
        let old: Vec<_> = is.members().collect();
        let meant_names: HashSet<&str> = meant.members().map(|member| member.name.text()).collect();
        let mut gone: Vec<bool> = old.iter().map(|member| !meant_names.contains(member.name.text())).collect();
        let mut inner = Vec::new();
        let mut added: Vec<(Option<usize>, &str, Value<'t>)> = Vec::new();
        let mut before = None;
        for member in meant.members() {
            let name = member.name.text();
            match old.iter().position(|old| old.name.text() == name) {
                Some(index) => {
                    let known = old.get(index)?;
                    let spot = Spot { value: known.value, name: Some(known.name.id()), in_flow, depth: spot.depth + 1 };
                    inner.push((spot, member.value));
                    before = Some(index);
                }
                None => {
                    // A member that went, and came with another name in the same place, was renamed.
                    let next = before.map_or(0, |before| before + 1);
                    let renamed =
                        old.get(next).filter(|old| gone.get(next) == Some(&true) && equal(old.value, member.value));
                    match renamed {
                        Some(old) => {
                            let place = self.span(document, old.name.id())?;
                            self.put(place.start as usize, place.end as usize, yaml_text(name));
                            *gone.get_mut(next)? = false;
                            before = Some(next);
                        }
                        None => added.push((before, name, member.value)),
                    }
                }
            }
        }
        let is_alias = self.text.get(span.start as usize..)?.starts_with('*');
        let many = gone.iter().filter(|gone| **gone).count();
        let whole = is_alias || many == old.len() || (in_flow && (many > 1 || (many == 1 && !added.is_empty())));
        if whole {
            return Some(None);
        }
        let starts: Vec<Span> = old.iter().map(|old| self.span(document, old.name.id())).collect::<Option<_>>()?;
        let ends: Vec<Span> = old.iter().map(|old| self.value_span(old.value)).collect::<Option<_>>()?;
        let colons: Vec<usize> = starts.iter().map(|name| self.colon(*name)).collect::<Option<_>>()?;
        let end_of = |index: usize| -> Option<usize> {
            let (value, colon) = (ends.get(index)?, *colons.get(index)?);
            Some(if value.start == value.end { colon } else { value.end as usize })
        };
        for index in (0..old.len()).filter(|index| gone.get(*index) == Some(&true)) {
            let start = starts.get(index)?.start as usize;
            let next = starts.get(index + 1).map(|next| next.start as usize);
            self.remove(start, end_of(index)?, next, index.checked_sub(1).and_then(end_of), in_flow)?;
        }
        let kept_first = gone.iter().position(|gone| !gone)?;
        for (after, name, value) in added {
            let name = yaml_text(name);
            match after {
                _ if in_flow => {
                    let text = format!("{name}: {}", yaml_inline(value));
                    match after {
                        Some(index) => self.insert(end_of(index)?, spot.depth, format!(", {text}")),
                        None => self.insert(starts.get(kept_first)?.start as usize, spot.depth, format!("{text}, ")),
                    }
                }
                Some(index) => {
                    let column = self.column(starts.get(index)?.start as usize);
                    let text = format!("{name}:{}", self.beside(value, column + 2, false));
                    let at = self.line_end(end_of(index)?);
                    self.insert(at, spot.depth, format!("{}{}{text}", self.line_end, " ".repeat(column)));
                }
                None => {
                    let first = starts.get(kept_first)?.start as usize;
                    let column = self.column(first);
                    let text = format!("{name}:{}", self.beside(value, column + 2, false));
                    self.insert(first, spot.depth, format!("{text}{}{}", self.line_end, " ".repeat(column)));
                }
            }
        }
        Some(Some(inner))
    }

    /// Takes away a member or an item that starts and ends at these bytes, `next` and `before` being where its neighbours
    /// start and end.
    fn remove(
        &mut self,
        start: usize,
        end: usize,
        next: Option<usize>,
        before: Option<usize>,
        in_flow: bool,
    ) -> Option<()> {
        let line = self.line_start(start);
        let alone = self.text.get(line..start)?.trim().is_empty();
        let (from, to) = match (in_flow, next, before) {
            (true, Some(next), _) => (start, next),
            (true, None, before) => (before?, end),
            // Beside a dash, or at the start of the text: what follows moves up.
            (false, Some(next), _) if !alone || line == 0 => (start, next),
            (false, ..) if alone && line > 0 => {
                let break_start = self.text.get(..line)?.strip_suffix('\n')?;
                (break_start.strip_suffix('\r').unwrap_or(break_start).len(), self.line_end(end))
            }
            _ => return None,
        };
        self.put(from, to, String::new());
        Some(())
    }

    /// The same as [`Rewriter::members`] for lists: what both begin and end with is kept, what is between is made equal.
    fn items(&mut self, spot: Spot<'t>, meant: Value<'t>) -> Option<Option<Vec<(Spot<'t>, Value<'t>)>>> {
        let Some(span) = self.value_span(spot.value) else { return Some(None) };
        let (old, new): (Vec<_>, Vec<_>) = (spot.value.items().collect(), meant.items().collect());
        if self.text.get(span.start as usize..)?.starts_with('*') || old.is_empty() || new.is_empty() {
            return Some(None);
        }
        let in_flow = spot.in_flow || self.is_flow(span);
        let same = |(a, b): &(&Value<'t>, &Value<'t>)| equal(**a, **b);
        let head = old.iter().zip(&new).take_while(same).count();
        let most = old.len().min(new.len()) - head;
        let tail = old.iter().rev().zip(new.iter().rev()).take(most).take_while(same).count();
        let (old_end, new_end) = (old.len() - tail, new.len() - tail);
        let paired = old_end.min(new_end);
        if in_flow && old_end > paired + 1 {
            return Some(None);
        }
        let spans: Vec<Span> = old.iter().map(|item| self.value_span(*item)).collect::<Option<_>>()?;
        // Where each item begins: its dash, or itself.
        let start = |span: &Span| if in_flow { Some(span.start as usize) } else { self.dash(span.start as usize) };
        let starts: Option<Vec<usize>> = spans.iter().map(start).collect();
        let Some(starts) = starts.filter(|_| spans.iter().all(|span| span.start < span.end)) else {
            return Some(None);
        };
        let end_of = |index: usize| -> Option<usize> { spans.get(index).map(|span| span.end as usize) };
        for index in paired..old_end {
            let next = starts.get(index + 1).copied();
            self.remove(*starts.get(index)?, end_of(index)?, next, index.checked_sub(1).and_then(end_of), in_flow)?;
        }
        for value in new.get(paired..new_end).unwrap_or(&[]) {
            let inline = yaml_inline(*value);
            match (in_flow, paired.checked_sub(1)) {
                (true, Some(before)) => self.insert(end_of(before)?, spot.depth, format!(", {inline}")),
                (true, None) => self.insert(*starts.first()?, spot.depth, format!("{inline}, ")),
                (false, before) => {
                    let column = self.column(*starts.first()?);
                    let text = format!("-{}", self.beside(*value, column + 2, true));
                    let (line_end, indent) = (self.line_end, " ".repeat(column));
                    match before {
                        Some(before) => {
                            let at = self.line_end(end_of(before)?);
                            self.insert(at, spot.depth, format!("{line_end}{indent}{text}"));
                        }
                        None => self.insert(*starts.first()?, spot.depth, format!("{text}{line_end}{indent}")),
                    }
                }
            }
        }
        let pairs = old.iter().zip(&new).take(paired).skip(head);
        let spot = |value: &Value<'t>| Spot { value: *value, name: None, in_flow, depth: spot.depth + 1 };
        Some(Some(pairs.map(|(old, new)| (spot(old), *new)).collect()))
    }
}

/// So long a list may be that is written in the line of its name.
const MAX_INLINE: usize = 80;

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const SCHEMA: &str = "\
# Berth requests, as the port takes them.
type: object
properties:
  id: { type: string, pattern: \"^HM\" }   # given by the port
  draught_m:
    type: number
    maximum: 18       # the harbour's depth
  # What it carries.
  cargo:
    type: string
    enum:
    - bulk
    - container   # the most
required: [id, draught_m]
";

    #[test]
    fn what_is_not_touched_stays_as_it_is_written() {
        let says = crate::yaml::read(SCHEMA).0[0].json.clone();
        assert_eq!(rewrite(SCHEMA, &says).as_deref(), Some(SCHEMA));
        // what is changed, in JSON; what changes with it in YAML
        let table = [
            (r#""maximum":18"#, r#""maximum":21.4"#, "maximum: 18 ", "maximum: 21.4 "),
            (r#""type":"number""#, r#""type":["number","null"]"#, "type: number", "type: [number, \"null\"]"),
            (
                r#"["bulk","container"]"#,
                r#"["bulk","container","ro-ro"]"#,
                "- container   # the most\n",
                "- container   # the most\n    - ro-ro\n",
            ),
            (r#"["bulk","container"]"#, r#"["bulk","ro-ro","container"]"#, "- bulk\n", "- bulk\n    - ro-ro\n"),
            (r#"["bulk","container"]"#, r#"["ro-ro","bulk","container"]"#, "- bulk\n", "- ro-ro\n    - bulk\n"),
            (r#"["bulk","container"]"#, r#"["container"]"#, "    - bulk\n", ""),
            (r#"["bulk","container"]"#, r#"[{"const":1},"container"]"#, "- bulk\n", "- {const: 1}\n"),
            (r#"["id","draught_m"]"#, r#"["id"]"#, "[id, draught_m]", "[id]"),
            (r#"["id","draught_m"]"#, r#"["draught_m"]"#, "[id, draught_m]", "[draught_m]"),
            (r#"["id","draught_m"]"#, "[]", "[id, draught_m]", "[]"),
            (
                r#"["bulk","container"]}"#,
                r#"["bulk","container"]},"note":{"type":"string","examples":["late"]}"#,
                "the most\n",
                "the most\n  note:\n    type: string\n    examples:\n      - late\n",
            ),
            (r#""^HM"}"#, r#""^HM","minLength":4}"#, "\"^HM\" }", "\"^HM\", minLength: 4 }"),
            (r#","maximum":18"#, "", "    maximum: 18       # the harbour's depth\n", ""),
            (r#""type":"string","pattern""#, r#""pattern""#, "{ type: string, pattern", "{ pattern"),
            (r#""maximum":18"#, r#""exclusiveMaximum":18"#, "maximum: 18", "exclusiveMaximum: 18"),
            (
                r#"{"type":"string","enum":["bulk","container"]}"#,
                "true",
                ":\n    type: string\n    enum:\n    - bulk\n    - container ",
                ": true ",
            ),
            (
                r#"{"type":"object""#,
                r#"{"$id":"urn:berth","type":"object""#,
                "type: object",
                "\"$id\": \"urn:berth\"\ntype: object",
            ),
        ];
        for (from, to, was, is) in table {
            let meant = says.replacen(from, to, 1);
            assert_ne!(meant, says, "{from}");
            assert_eq!(rewrite(SCHEMA, &meant), Some(SCHEMA.replacen(was, is, 1)), "{to}");
        }
    }

    #[test]
    fn what_shares_its_line_or_its_source_is_changed_or_refused() {
        // source, meant, what becomes of it
        let table = [
            ("- a: 1\n  b: 2\n- c: 3\n", r#"[{"b":2},{"c":3}]"#, Some("- b: 2\n- c: 3\n")),
            ("- a: 1\n- b: 2\n", r#"[{"b":2}]"#, Some("- b: 2\n")),
            ("minlength: 2 # least\nb: 1\n", r#"{"minLength":2,"b":1}"#, Some("minLength: 2 # least\nb: 1\n")),
            ("a:\nb: 1\n", r#"{"a":7,"b":1}"#, Some("a: 7\nb: 1\n")),
            ("a:\nb: 1\n", r#"{"a":["x -","y - z"],"b":1}"#, Some("a: [\"x -\", y - z]\nb: 1\n")),
            ("a: 1\r\nb: [x]\r\n", r#"{"a":1,"b":["x"],"c":2}"#, Some("a: 1\r\nb: [x]\r\nc: 2\r\n")),
            ("a: 1", r#"{"a":1,"b":{"c":[]}}"#, Some("a: 1\nb:\n  c: []")),
            (
                "a:\n  b:\n    c: 1\n",
                r#"{"a":{"b":{"c":1,"d":2},"e":3},"f":4}"#,
                Some("a:\n  b:\n    c: 1\n    d: 2\n  e: 3\nf: 4\n"),
            ),
            ("a: |\n  x\n  y\nb: 1\n", r#"{"a":"z","b":1}"#, Some("a: z\nb: 1\n")),
            ("a: &x {b: 1}\nc: *x\n", r#"{"a":{"b":1},"c":{"b":2}}"#, Some("a: &x {b: 1}\nc: {b: 2}\n")),
            // Both would change.
            ("a: &x {b: 1}\nc: *x\n", r#"{"a":{"b":2},"c":{"b":1}}"#, None),
            ("- - 1\n  - 2\n- 3\n", "[[2],3]", Some("- - 2\n- 3\n")),
            ("a: 1\n---\nb: 2\n", r#"{"a":2}"#, None),
            ("a: [1", r#"{"a":2}"#, None),
            ("a: 1\n", "{", None),
        ];
        for (text, meant, expected) in table {
            assert_eq!(rewrite(text, meant).as_deref(), expected, "{text}");
        }
    }

    fn value() -> impl Strategy<Value = serde_json::Value> {
        let leaf = prop_oneof![
            Just(serde_json::Value::Null),
            any::<bool>().prop_map(Into::into),
            (0..5i64).prop_map(Into::into),
            "[a-c:# \\-]{0,3}".prop_map(Into::into),
        ];
        leaf.prop_recursive(3, 20, 4, |inner| {
            prop_oneof![
                prop::collection::vec(inner.clone(), 0..4).prop_map(Into::into),
                prop::collection::btree_map("[a-d]", inner, 0..4)
                    .prop_map(|map| serde_json::Value::Object(map.into_iter().collect())),
            ]
        })
    }

    proptest! {
        #[test]
        fn any_value_becomes_any_other_or_nothing_happens(is in value(), meant in value()) {
            let written = serde_json::json!({ "v": is }).to_string();
            let mut tape = Tape::new();
            json::read(&written, &mut tape).unwrap();
            let text = crate::write::yaml(&Document::new(&written, &tape));
            let meant = serde_json::json!({ "v": meant }).to_string();
            // What is given out has been read again by then; here, that blocks as we write them can all be changed.
            prop_assert!(rewrite(&text, &meant).is_some(), "{}\n{}", text, meant);
        }
    }
}
