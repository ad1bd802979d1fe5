//! What there is of a schema to be proved by documents: the rules that can refuse, and the branches that can be taken.

use crate::schema::{IfTest, ItemsTest, Node, Rule, RuleId, Schema, SchemaId, Test, Union};
use crate::words::{branch_name, rule_name};
use mervik_document::SchemaPlace;
use mervik_document::tongue::Tongue;
use std::collections::HashSet;

/// A rule that can refuse a value by itself, so that a finding names it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Clause {
    /// The keyword, or the identifier of a rule between fields, as findings name it.
    pub rule: String,
    /// Where it stands.
    pub place: SchemaPlace,
    /// What it says: the JSON of the keyword's value.
    pub value: String,
}

/// A way that a value can take: a branch of `anyOf` or `oneOf`, or `then` or `else`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Branch {
    /// The index of the rule, and the number of the branch; what [`crate::Checker::taken`] gives.
    pub id: (usize, usize),
    /// What people call it.
    pub name: String,
    /// Where the branch stands.
    pub place: SchemaPlace,
}

impl Schema {
    /// The rules that can refuse a value by themselves, in the order of the schemas' files. O(size of the schema).
    ///
    /// What stands under `not`, `if` and `contains` is not among them, nor are the constants by which the branches of a
    /// tagged union are told apart: these refuse as one.
    pub fn clauses(&self) -> Vec<Clause> {
        let mut found: Vec<Clause> = Vec::new();
        let tags = self.tag_schemas();
        for id in self.asserting() {
            let Some(node) = self.node(id) else { continue };
            for rule in self.all_rules(node) {
                if matches!(rule.test, Test::OneOfValues(_)) && tags.contains(&id) {
                    continue;
                }
                for at in places(rule) {
                    let Some(file) = self.file(at.file) else { continue };
                    let document = file.document();
                    let value = document.value(at.node).source().to_owned();
                    let rule = match &rule.test {
                        Test::Stated(stated) => stated.id.to_string(),
                        _ => rule_name(self, at).into_owned(),
                    };
                    found.push(Clause { rule, place: file.place(at.node), value });
                }
            }
        }
        let order = |clause: &Clause| (clause.place.source.clone(), clause.place.place, clause.place.at.clone());
        found.sort_by_key(order);
        found.dedup_by(|a, b| a.place.source == b.place.source && a.place.at == b.place.at);
        found
    }

    /// The branches that values can take, in the order of the rules.
    pub fn branches(&self) -> Vec<Branch> {
        let mut found = Vec::new();
        let asserting: HashSet<SchemaId> = self.asserting().into_iter().collect();
        let mut add = |rule: usize, branch: usize, id: SchemaId, name: String| {
            let place = self.node(id).and_then(|node| Some(self.file(node.at.file)?.place(node.at.node)));
            found.extend(place.map(|place| Branch { id: (rule, branch), name, place }));
        };
        for (index, rule) in self.rules.iter().enumerate() {
            let owner = self.owner(RuleId(index as u32)).map(|node| node.at);
            let asserts = |id: &SchemaId| self.node(*id).map(|node| node.at) == owner;
            if !asserting.iter().any(asserts) {
                continue;
            }
            match &rule.test {
                Test::AnyOf(union) | Test::OneOf(union) => {
                    for (branch, id) in union.branches.iter().enumerate() {
                        add(index, branch, *id, branch_name(Tongue::English, self, union, branch));
                    }
                }
                Test::If(test) => {
                    let ways = [(0, test.then, "`then`"), (1, test.otherwise, "`else`")];
                    for (branch, id, name) in ways {
                        id.into_iter().for_each(|id| add(index, branch, id, name.to_owned()));
                    }
                }
                _ => {}
            }
        }
        found
    }

    fn all_rules<'s>(&'s self, node: &'s Node) -> impl Iterator<Item = &'s Rule> {
        node.type_rule.and_then(|id| self.rule(id)).into_iter().chain(self.rules(node))
    }

    /// The schemas whose rules are applied to values that must hold by them.
    fn asserting(&self) -> Vec<SchemaId> {
        let mut seen: HashSet<SchemaId> = HashSet::new();
        let mut open = vec![self.root];
        let mut order = Vec::new();
        while let Some(id) = open.pop() {
            if !seen.insert(id) {
                continue;
            }
            order.push(id);
            self.rules_of(id).iter().for_each(|rule| asserted(&rule.test, &mut open));
        }
        order
    }

    /// The schemas of the properties that tell the branches of unions apart.
    fn tag_schemas(&self) -> HashSet<SchemaId> {
        let mut found = HashSet::new();
        for rule in &self.rules {
            let (Test::AnyOf(union) | Test::OneOf(union)) = &rule.test else { continue };
            let Union { branches, tag: Some(tag), .. } = &**union else { continue };
            let mut open: Vec<SchemaId> = branches.to_vec();
            let mut seen: HashSet<SchemaId> = HashSet::new();
            while let Some(id) = open.pop() {
                if !seen.insert(id) {
                    continue;
                }
                for rule in self.rules_of(id) {
                    match &rule.test {
                        Test::Ref(target) => open.push(*target),
                        Test::AllOf(all) => open.extend(all.iter().copied()),
                        Test::Members(members) => {
                            let index = members.table.find(&tag.name.text);
                            let entry = index.and_then(|index| members.entries.get(index));
                            found.extend(entry.and_then(|entry| entry.schema));
                        }
                        _ => {}
                    }
                }
            }
        }
        found
    }
}

/// The schemas by which a test refuses.
fn asserted(test: &Test, open: &mut Vec<SchemaId>) {
    match test {
        Test::Items(items) => {
            let ItemsTest { prefix, rest } = &**items;
            open.extend(prefix.iter().copied().chain(*rest));
        }
        Test::Members(members) => {
            open.extend(members.entries.iter().filter_map(|entry| entry.schema));
            open.extend(members.patterns.iter().map(|(_, id)| *id).chain(members.additional));
        }
        Test::PropertyNames(id) | Test::Ref(id) | Test::UnevaluatedItems(id) | Test::UnevaluatedProperties(id) => {
            open.push(*id);
        }
        Test::DependentSchemas(all) => open.extend(all.iter().map(|(_, id)| *id)),
        Test::Dynamic(dynamic) => {
            open.push(dynamic.target);
            open.extend(dynamic.table.iter().map(|(_, id)| *id));
        }
        Test::AllOf(all) => open.extend(all.iter().copied()),
        Test::AnyOf(union) | Test::OneOf(union) => open.extend(union.branches.iter().copied()),
        Test::If(test) => {
            let IfTest { then, otherwise, .. } = &**test;
            open.extend(then.iter().chain(otherwise).copied());
        }
        Test::Content(content) => open.extend(content.schema),
        _ => {}
    }
}

/// Where the keywords stand by which a rule refuses; none for one that only applies other schemas.
fn places(rule: &Rule) -> Vec<crate::file::Location> {
    match &rule.test {
        Test::Items(_)
        | Test::Members(_)
        | Test::PropertyNames(_)
        | Test::DependentSchemas(_)
        | Test::Ref(_)
        | Test::Dynamic(_)
        | Test::AllOf(_)
        | Test::If(_)
        | Test::UnevaluatedItems(_)
        | Test::UnevaluatedProperties(_)
        | Test::Deprecated => Vec::new(),
        Test::Stated(stated) if stated.warns => Vec::new(),
        Test::Contains(contains) => {
            let own = if contains.min_rule.is_none() && contains.min > 0 { Some(rule.at) } else { None };
            own.into_iter().chain(contains.min_rule).chain(contains.max_rule).collect()
        }
        _ => vec![rule.at],
    }
}

#[cfg(test)]
mod tests {
    use crate::{Checker, Nowhere, Options, compile};
    use mervik_document::{Document, Tape, json};

    fn compiled(schema: &str) -> crate::Schema {
        compile("s.json", "file:///s.json", schema.to_owned(), "", &mut Nowhere, Options::default()).unwrap()
    }

    #[test]
    fn clauses_are_the_rules_that_findings_name() {
        let table: &[(&str, &[&str])] = &[
            ("{}", &[]),
            ("false", &[""]),
            (
                r#"{"type":"object","required":["a"],"properties":{"a":{"minimum":1}},"additionalProperties":false}"#,
                &["/type", "/required", "/properties/a/minimum", "/additionalProperties"],
            ),
            (
                r#"{"not":{"minimum":3},"if":{"maximum":1},"then":{"multipleOf":2},"contains":{"type":"null"}}"#,
                &["/not", "/then/multipleOf", "/contains"],
            ),
            (r##"{"$ref":"#/$defs/a","$defs":{"a":{"maxLength":3},"b":{"minLength":1}}}"##, &["/$defs/a/maxLength"]),
            (
                r#"{"oneOf":[{"properties":{"k":{"const":"a"},"n":{"type":"integer"}}},{"properties":{"k":{"const":"b"}}}]}"#,
                &["/oneOf", "/oneOf/0/properties/n/type"],
            ),
            (r#"{"contains":{"type":"null"},"minContains":2,"maxContains":3}"#, &["/minContains", "/maxContains"]),
        ];
        for (schema, expected) in table {
            let clauses = compiled(schema).clauses();
            let found: Vec<&str> = clauses.iter().map(|clause| clause.place.at.as_str()).collect();
            assert_eq!(found, *expected, "{schema}");
        }
        let clauses = compiled(r#"{"properties":{"a":{"minimum": 1.5}},"additionalProperties":false}"#).clauses();
        let said: Vec<(&str, &str)> =
            clauses.iter().map(|clause| (clause.rule.as_str(), clause.value.as_str())).collect();
        assert_eq!(said, [("minimum", "1.5"), ("additionalProperties", "false")]);
    }

    #[test]
    fn branches_are_taken_by_what_holds_by_them() {
        let schema = compiled(
            r#"{"anyOf":[{"type":"integer"},{"minimum":5},{"type":"string"}],"if":{"type":"string"},"then":{"minLength":1},"else":true}"#,
        );
        let names: Vec<String> = schema.branches().into_iter().map(|branch| branch.place.at).collect();
        assert_eq!(names, ["/anyOf/0", "/anyOf/1", "/anyOf/2", "/then", "/else"]);
        for (text, expected) in [
            ("7", &["/anyOf/0", "/anyOf/1", "/else"][..]),
            ("\"x\"", &["/anyOf/1", "/anyOf/2", "/then"]),
            ("5.5", &["/anyOf/1", "/else"]),
        ] {
            let mut tape = Tape::new();
            json::read(text, &mut tape).unwrap();
            let taken = Checker::new(&schema).taken(&Document::new(text, &tape));
            let branches = schema.branches();
            let found: Vec<&str> =
                branches.iter().filter(|one| taken.contains(&one.id)).map(|one| one.place.at.as_str()).collect();
            assert_eq!(found, expected, "{text}");
        }
    }
}
