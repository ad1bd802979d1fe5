//! Paths of names, as forms, tables and environments have them, grown into objects and arrays.

use crate::fault::Fault;
use crate::phrases::Phrases as _;
use crate::reading::Builder;
use mervik_document::Span;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Phrase};
use std::collections::HashMap;

/// One step of a path.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Step {
    Name(String),
    /// An item by its index, or a name of digits: what stands beside it decides.
    Index(usize),
    /// The next item.
    Next,
}

/// How many levels a path may have.
pub(crate) const MAX_STEPS: usize = 64;

/// How large an index may be: lists are not filled up.
const MAX_INDEX: usize = 100_000;

impl Step {
    /// The step as it is written.
    pub(crate) fn word(&self) -> String {
        match self {
            Step::Name(name) => name.clone(),
            Step::Index(index) => index.to_string(),
            Step::Next => String::new(),
        }
    }

    pub(crate) fn of(text: &str) -> Step {
        let digits = !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
        let canonical = digits && (text == "0" || !text.starts_with('0'));
        match text.parse() {
            Ok(index) if canonical && index <= MAX_INDEX => Step::Index(index),
            _ => Step::Name(text.to_owned()),
        }
    }
}

/// A value that grows as paths lead into it.
#[derive(Debug)]
pub(crate) enum Tree {
    /// Text, or JSON that is written as it is.
    Leaf { text: String, span: Span },
    /// Members by name, in the order in which they came; items have their index for a name. `places` has the place of
    /// every child; `named` says that some child is no item.
    Branch { children: Vec<Child>, places: HashMap<Step, usize>, named: bool, span: Span },
}

#[derive(Debug)]
pub(crate) struct Child {
    step: Step,
    name_span: Span,
    tree: Tree,
}

impl Tree {
    pub(crate) fn root(span: Span) -> Tree {
        Tree::Branch { children: Vec::new(), places: HashMap::new(), named: false, span }
    }

    /// Puts a text at the end of a path. `repeats` says that a name which comes again makes a list.
    ///
    /// # Errors
    ///
    /// A path that leads through a text, or to something that is there.
    pub(crate) fn put(
        &mut self,
        path: &[Step],
        name_span: Span,
        mut text: String,
        span: Span,
        repeats: bool,
    ) -> Result<(), Fault> {
        if path.len() > MAX_STEPS {
            return Err(Fault::new(
                rule::NESTING,
                name_span,
                Phrase::of(|tongue| tongue.levels(MAX_STEPS)),
                Phrase::of(|tongue| tongue.more()),
            ));
        }
        let mut at = self;
        for (depth, step) in path.iter().enumerate() {
            let Tree::Branch { children, places, named, span: branch } = at else {
                let fault = Fault::new(
                    rule::DUPLICATE_NAME,
                    name_span,
                    Phrase::of(|tongue| tongue.name_once()),
                    Phrase::of(|tongue| tongue.text_elsewhere()),
                );
                return Err(fault.hint(Phrase::of(|tongue| tongue.not_both())));
            };
            branch.end = branch.end.max(span.end);
            let last = depth + 1 == path.len();
            let found = match step {
                Step::Next => None,
                step => places.get(step).copied(),
            };
            let index = match found {
                Some(index) if !last => index,
                Some(index) => {
                    let Some(child) = children.get_mut(index) else { return Ok(()) };
                    return child.repeated(name_span, std::mem::take(&mut text), span, repeats);
                }
                None => {
                    let step = match step {
                        Step::Next => Step::Index(children.len()),
                        step => step.clone(),
                    };
                    let tree = match last {
                        true => Tree::Leaf { text: std::mem::take(&mut text), span },
                        false => Tree::root(Span { start: name_span.start, ..span }),
                    };
                    places.insert(step.clone(), children.len());
                    *named |= !matches!(step, Step::Index(_));
                    children.push(Child { step, name_span, tree });
                    if last {
                        return Ok(());
                    }
                    children.len() - 1
                }
            };
            let Some(child) = children.get_mut(index) else { return Ok(()) };
            at = &mut child.tree;
        }
        Ok(())
    }

    /// Writes the value. A branch of which all children are items is an array, its items in their order.
    pub(crate) fn write(&self, builder: &mut Builder) {
        // Depth is bounded by `MAX_STEPS`.
        match self {
            Tree::Leaf { text, span } => builder.string(text, *span),
            Tree::Branch { children, span, .. } => {
                let mut items: Vec<(usize, &Tree)> = children
                    .iter()
                    .filter_map(|child| match child.step {
                        Step::Index(index) => Some((index, &child.tree)),
                        _ => None,
                    })
                    .collect();
                if !children.is_empty() && items.len() == children.len() {
                    items.sort_by_key(|(index, _)| *index);
                    builder.open('[', *span);
                    items.iter().for_each(|(_, tree)| tree.write(builder));
                } else {
                    builder.open('{', *span);
                    for Child { step, name_span, tree } in children {
                        match step {
                            Step::Name(name) => builder.name(name, *name_span),
                            Step::Index(index) => builder.name(&index.to_string(), *name_span),
                            Step::Next => {}
                        }
                        tree.write(builder);
                    }
                }
                builder.close(None);
            }
        }
    }
}

impl Child {
    /// A value for a name that has one.
    fn repeated(&mut self, name_span: Span, text: String, span: Span, repeats: bool) -> Result<(), Fault> {
        let fault = || {
            Fault::new(
                rule::DUPLICATE_NAME,
                name_span,
                Phrase::of(|tongue| tongue.name_once()),
                Phrase::of(|tongue| tongue.came_before()),
            )
        };
        if !repeats {
            return Err(fault());
        }
        let item = |index: usize, tree: Tree| Child { step: Step::Index(index), name_span, tree };
        match &mut self.tree {
            Tree::Branch { children, places, named: false, .. } => {
                places.insert(Step::Index(children.len()), children.len());
                children.push(item(children.len(), Tree::Leaf { text, span }));
                Ok(())
            }
            Tree::Branch { .. } => Err(fault()),
            Tree::Leaf { span: first, .. } => {
                let whole = Span { start: first.start, end: span.end };
                let first = std::mem::replace(&mut self.tree, Tree::root(whole));
                if let Tree::Branch { children, places, .. } = &mut self.tree {
                    places.extend([(Step::Index(0), 0), (Step::Index(1), 1)]);
                    children.push(item(0, first));
                    children.push(item(1, Tree::Leaf { text, span }));
                }
                Ok(())
            }
        }
    }
}
