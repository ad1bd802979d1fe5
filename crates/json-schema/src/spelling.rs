//! How a schema spells a property that somebody else writes in another case.

use crate::schema::{Kinds, Schema, SchemaId, Test, Types};

impl Schema {
    /// The property that `name` is meant for in the object that `path` leads to: the one of exactly this name, else the
    /// only one that differs from it in case alone. `None` when there is neither. O(the schemas that speak of the object).
    ///
    /// All schemas that may apply count, whatever the value: every branch of a union does.
    pub fn spelled<'p>(&self, path: impl IntoIterator<Item = &'p str>, name: &str) -> Option<&str> {
        let mut ids = vec![self.root];
        self.complete(&mut ids);
        for step in path {
            ids = self.children(&ids, step);
            self.complete(&mut ids);
        }
        let names = ids.iter().flat_map(|id| self.rules_of(*id)).filter_map(|rule| match &rule.test {
            Test::Members(test) => Some(test.table.names()),
            _ => None,
        });
        let mut near: Vec<&str> = names.flatten().filter(|known| known.eq_ignore_ascii_case(name)).collect();
        near.sort_unstable();
        near.dedup();
        match near.as_slice() {
            [only] => Some(only),
            several => several.iter().find(|known| **known == name).copied(),
        }
    }

    /// Whether no text is wanted where `path` leads: some schema asks for another type there, and none allows a string.
    pub fn wants_no_text<'p>(&self, path: impl IntoIterator<Item = &'p str>) -> bool {
        let mut ids = vec![self.root];
        self.complete(&mut ids);
        for step in path {
            ids = self.children(&ids, step);
            self.complete(&mut ids);
        }
        let nodes = ids.iter().filter_map(|id| self.node(*id));
        let types = nodes.map(|node| self.types_of(node)).filter(|types| *types != Types::ANY);
        let mut asked = false;
        let text = types.inspect(|_| asked = true).any(|types| types.kinds.meets(Kinds::STRINGS));
        asked && !text
    }

    /// Adds the schemas that may apply to the same value.
    fn complete(&self, ids: &mut Vec<SchemaId>) {
        let mut next = 0;
        while let Some(id) = ids.get(next).copied() {
            next += 1;
            for rule in self.rules_of(id) {
                let mut add = |id: SchemaId| {
                    if !ids.contains(&id) {
                        ids.push(id);
                    }
                };
                match &rule.test {
                    Test::Ref(id) => add(*id),
                    Test::Dynamic(test) => add(test.target),
                    Test::AllOf(all) => all.iter().copied().for_each(add),
                    Test::AnyOf(union) | Test::OneOf(union) => union.branches.iter().copied().for_each(add),
                    Test::If(test) => {
                        [Some(test.condition), test.then, test.otherwise].into_iter().flatten().for_each(add);
                    }
                    Test::DependentSchemas(all) => all.iter().for_each(|(_, id)| add(*id)),
                    _ => {}
                }
            }
        }
    }

    fn children(&self, ids: &[SchemaId], step: &str) -> Vec<SchemaId> {
        let mut children = Vec::new();
        let index = step.parse::<usize>().ok();
        for rule in ids.iter().flat_map(|id| self.rules_of(*id)) {
            match &rule.test {
                Test::Members(test) => {
                    let named = test.table.find(step).and_then(|at| test.entries.get(at)?.schema);
                    let patterns = test.patterns.iter().filter(|(pattern, _)| pattern.matches(step) == Some(true));
                    children.extend(named);
                    children.extend(patterns.map(|(_, id)| *id));
                    children.extend(test.additional.filter(|_| named.is_none()));
                }
                Test::Items(test) => {
                    children.extend(index.and_then(|index| test.prefix.get(index).copied().or(test.rest)));
                }
                _ => {}
            }
        }
        children
    }
}

#[cfg(test)]
mod tests {
    use crate::{Nowhere, Options, compile};

    #[test]
    fn names_are_found_by_exact_spelling_then_without_regard_to_case() {
        let source = r##"{"$ref":"#/$defs/request","$defs":{"request":{"properties":{"ship":{"anyOf":[{"properties":{"draught_m":{}}},
            {"properties":{"Name":{},"name":{},"cargo":{"items":{"properties":{"Kind":{}}}}}}]}}}}}"##;
        let schema = compile("t", "file:///t", source, "", &mut Nowhere, Options::default()).unwrap();
        let table: [(&[&str], &str, Option<&str>); 7] = [
            (&[], "SHIP", Some("ship")),
            (&["ship"], "DRAUGHT_M", Some("draught_m")),
            (&["ship"], "name", Some("name")),
            (&["ship"], "NAME", None),
            (&["ship", "cargo", "0"], "KIND", Some("Kind")),
            (&["ship"], "beam", None),
            (&["crew"], "name", None),
        ];
        for (path, name, expected) in table {
            assert_eq!(schema.spelled(path.iter().copied(), name), expected, "{path:?} {name}");
        }
    }
}
