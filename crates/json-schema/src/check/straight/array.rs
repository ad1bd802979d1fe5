//! Arrays on the straight way.

use super::notes::{NONE, Read};
use super::{End, FEW, Look, Step, Walk, verdict};
use crate::schema::{ContainsTest, ItemsTest, Kinds, Node, Test};
use mervik_document::json::Text;

impl<'s, 't> Walk<'s, 't, '_> {
    #[inline(never)]
    pub(super) fn array(&mut self, node: &'s Node, look: Look) -> Step {
        self.enter()?;
        let start = self.cursor.place();
        let note = self.take_note(node);
        let rules = self.schema.rules(node);
        let (mut test, mut contains) = (None, None);
        for rule in rules {
            match &rule.test {
                Test::Items(items) => test = Some(&**items),
                Test::Contains(items) => contains = Some(&**items),
                _ => {}
            }
        }
        let (count, matching) = self.items(test, contains, look.within(), note)?;
        let end = self.cursor.place();
        for rule in rules {
            match &rule.test {
                Test::Items(_) | Test::Stated(_) => continue,
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
        if node.has_stated {
            self.stated(rules, start, note)?;
        }
        self.depth -= 1;
        Ok(())
    }

    /// The items of an array, each to its schema; gives how many there are, and how many match `contains`. If the array has a
    /// note, they get theirs.
    fn items(
        &mut self,
        test: Option<&'s ItemsTest>,
        contains: Option<&'s ContainsTest>,
        look: Look,
        note: u32,
    ) -> Result<(u64, u64), End> {
        let mut prefix = test.map(|test| test.prefix.iter()).unwrap_or_default();
        let rest = test.and_then(|test| test.rest);
        let (mut matching, mut all_noted) = (0, note != NONE);
        let count = self.each_item(|walk| {
            walk.cursor.peek();
            let start = walk.cursor.place();
            let schema = prefix.next().copied().or(rest);
            let value = |walk: &mut Self| match schema {
                Some(schema) => walk.value(schema, look),
                None => walk.any(look),
            };
            if note == NONE {
                value(walk)?;
            } else {
                let item = walk.memory.notes.add_item(note, start);
                all_noted &= item != NONE;
                walk.noted(item, value)?;
            }
            if let Some(test) = contains {
                let end = walk.cursor.place();
                matching += u64::from(walk.holds(test.schema, start)?);
                walk.cursor.go(end);
            }
            Ok(())
        })?;
        if all_noted {
            self.memory.notes.read(note, Read::List);
        }
        if note != NONE {
            self.memory.notes.all().close(note);
        }
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
