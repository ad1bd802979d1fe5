//! Arrays on the straight way.

use super::{End, FEW, Step, Walk, verdict};
use crate::schema::{ContainsTest, ItemsTest, Kinds, Node, Test};
use mervik_document::json::Text;

impl<'s, 't> Walk<'s, 't, '_> {
    #[inline(never)]
    pub(super) fn array(&mut self, node: &'s Node, new: bool) -> Step {
        self.enter()?;
        let start = self.cursor.place();
        let rules = self.schema.rules(node);
        let (mut test, mut contains) = (None, None);
        for rule in rules {
            match &rule.test {
                Test::Items(items) => test = Some(&**items),
                Test::Contains(items) => contains = Some(&**items),
                _ => {}
            }
        }
        let (count, matching) = self.items(test, contains, new)?;
        let end = self.cursor.place();
        for rule in rules {
            match &rule.test {
                Test::Items(_) => continue,
                _ if !rule.kinds.meets(Kinds::ARRAYS) => continue,
                Test::MaxItems(bound) => verdict(count <= *bound)?,
                Test::MinItems(bound) => verdict(count >= *bound)?,
                Test::UniqueItems if count < 2 => {}
                Test::UniqueItems => self.unique(start)?,
                Test::Contains(test) => {
                    verdict(matching >= test.min && test.max.is_none_or(|max| matching <= max))?;
                }
                other => self.in_place(other, start)?,
            }
            self.cursor.go(end);
        }
        self.depth -= 1;
        Ok(())
    }

    /// The items of an array, each to its schema; gives how many there are, and how many match `contains`.
    fn items(
        &mut self,
        test: Option<&'s ItemsTest>,
        contains: Option<&'s ContainsTest>,
        new: bool,
    ) -> Result<(u64, u64), End> {
        let mut prefix = test.map(|test| test.prefix.iter()).unwrap_or_default();
        let rest = test.and_then(|test| test.rest);
        let mut matching = 0;
        let count = self.each_item(|walk| {
            walk.cursor.peek();
            let start = walk.cursor.place();
            let noted = walk.memory.items.len();
            let notes = new && walk.schema.has_stated;
            if notes {
                walk.memory.items.push((start, start));
            }
            match prefix.next().copied().or(rest) {
                Some(schema) => walk.value(schema, new)?,
                None => walk.any(new)?,
            }
            if notes && let Some((_, end)) = walk.memory.items.get_mut(noted) {
                *end = walk.cursor.place();
            }
            if let Some(test) = contains {
                let end = walk.cursor.place();
                matching += u64::from(walk.holds(test.schema, start)?);
                walk.cursor.go(end);
            }
            Ok(())
        })?;
        Ok((count, matching))
    }

    /// Does the same at every item of the array at the cursor, and goes past it; gives how many there are.
    #[inline]
    pub(super) fn each_item(&mut self, mut item: impl FnMut(&mut Self) -> Step) -> Result<u64, End> {
        self.cursor.take(b'[');
        if self.cursor.take(b']') {
            return Ok(0);
        }
        let mut count = 0;
        loop {
            item(self)?;
            count += 1;
            match self.cursor.step() {
                b',' => {}
                b']' => return Ok(count),
                _ => return Err(End::Unclear),
            }
        }
    }

    /// `uniqueItems` of a few plain strings.
    fn unique(&mut self, start: usize) -> Step {
        self.cursor.go(start);
        let mut seen: [&str; FEW] = [""; FEW];
        let mut count = 0;
        self.each_item(|walk| {
            let (Some(Text::Plain(text)), Some(place)) = (walk.cursor.string(), seen.get_mut(count)) else {
                return Err(End::Unclear);
            };
            *place = text;
            count += 1;
            let (last, earlier) = seen.get(..count).and_then(<[&str]>::split_last).ok_or(End::Unclear)?;
            verdict(!earlier.contains(last))
        })?;
        Ok(())
    }
}
