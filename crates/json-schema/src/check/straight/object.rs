//! Objects on the straight way.

use super::notes::{NONE, Read};
use super::{End, FEW, Look, Step, Walk, verdict};
use crate::schema::{
    Dependencies, Entry, HashedName, Kinds, MembersTest, Node, Rule, SchemaId, StraightMember, StraightMembers, Test,
};
use mervik_document::json::Text;
use mervik_document::tape::name_hash;

/// What is known of an object that has been gone through.
#[derive(Clone, Copy)]
pub(super) struct Known<'s> {
    start: usize,
    test: &'s MembersTest,
    memory: usize,
    /// The names of the test that are there, a bit each.
    seen: u64,
}

/// Where a member is.
enum Member {
    /// Its value starts there.
    At(usize),
    Absent,
    /// The object must be searched.
    Unknown,
}

impl<'s, 't> Walk<'s, 't, '_> {
    #[inline(never)]
    pub(super) fn object(&mut self, node: &'s Node, look: Look) -> Step {
        self.enter()?;
        let start = self.cursor.place();
        let note = self.take_note(node);
        if self.schema.looks_up {
            self.memory.open.push((start, note));
        }
        let rules = self.schema.rules(node);
        let test = rules.iter().find_map(|rule| match &rule.test {
            Test::Members(members) => Some(&**members),
            _ => None,
        });
        let count = match test {
            Some(test) => match &test.straight {
                // Where only some members are asked for, the others need no second look.
                Some(straight) if look == Look::Aside && note == NONE && asks_for_some(test, rules) => {
                    self.sought(test, straight)?;
                    0
                }
                Some(straight) => self.members(test, straight, look, note)?,
                None => return Err(End::Unclear),
            },
            None => match self.chosen(rules, start, look)? {
                // What the branch says of the object is all that is said.
                Some(branch) => {
                    self.note = note;
                    self.value(branch, Look::First)?;
                    self.leave();
                    return Ok(());
                }
                None if look == Look::Aside && !counts(rules) => 0,
                None => self.any_members(look)?,
            },
        };
        let end = self.cursor.place();
        for rule in rules {
            match &rule.test {
                Test::Members(_) | Test::Stated(_) => {}
                _ if !rule.kinds.meets(Kinds::OBJECTS) => {}
                Test::MaxProperties(bound) => verdict(count <= *bound)?,
                Test::MinProperties(bound) => verdict(count >= *bound)?,
                other => {
                    let known = self.known.filter(|known| known.start == start);
                    self.in_place(other, start)?;
                    self.cursor.go(end);
                    self.known = known;
                }
            }
        }
        if note != NONE {
            self.memory.notes.all().close(note);
        }
        if node.has_stated {
            self.stated(rules, start, note)?;
        }
        self.leave();
        Ok(())
    }

    #[inline]
    fn leave(&mut self) {
        self.depth -= 1;
        if self.schema.looks_up {
            self.memory.open.pop();
        }
    }

    /// Where the member `name` of the object at `start` is, as far as that is known: of the object that was gone through last.
    #[inline]
    fn member_of(&self, name: &str, hash: u32, start: usize) -> Member {
        let Some(known) = self.known.filter(|known| known.start == start) else { return Member::Unknown };
        let Some(index) = known.test.table.index(hash, name.as_bytes()) else { return Member::Unknown };
        if known.seen & (1 << (index & 63)) == 0 {
            return Member::Absent;
        }
        // An object inside of it may have had the name after it.
        match self.memory.found.get(known.memory + index) {
            Some((object, value)) if *object == start => Member::At(*value),
            _ => Member::Unknown,
        }
    }

    /// The branch of a tagged union that is the only rule of an object which nobody has gone through yet.
    ///
    /// Whatever is malformed, or repeated, is found when the branch is followed.
    #[inline]
    fn chosen(&mut self, rules: &'s [Rule], start: usize, look: Look) -> Result<Option<SchemaId>, End> {
        let [Rule { test: Test::OneOf(union) | Test::AnyOf(union), .. }] = rules else { return Ok(None) };
        if !look.is_first() || union.tag.is_none() {
            return Ok(None);
        }
        let branch = self.branch(union, start)?;
        self.cursor.go(start);
        Ok(Some(branch))
    }

    /// The members of an object, each to its schemas; gives how many there are. If the object has a note, those that rules read
    /// get theirs.
    fn members(
        &mut self,
        test: &'s MembersTest,
        straight: &'s StraightMembers,
        look: Look,
        note: u32,
    ) -> Result<u64, End> {
        let start = self.cursor.place();
        self.cursor.take(b'{');
        let base = self.memory.others.len();
        let (mut seen, mut count, mut place) = (0u64, 0u64, straight.memory as usize);
        let asked = if note == NONE { 0 } else { straight.asked };
        let look = look.within();
        if self.cursor.take(b'}') {
            self.memory.met.stirring |= straight.defaults != 0;
            verdict(straight.required == 0)?;
            return Ok(0);
        }
        loop {
            let guess = self.memory.next.get(place).copied().unwrap_or(0) as usize;
            let expected = match straight.each.get(guess) {
                Some(StraightMember { token: Some(token), schema, .. }) if self.cursor.take_token(token) => {
                    Some((guess, *schema))
                }
                _ => None,
            };
            let known = match expected {
                Some(known) => Ok(known),
                None => self.name(test, place, base, look)?.map(|index| (index, straight.schema(index))),
            };
            count += 1;
            match known {
                Ok((index, schema)) => {
                    let bit = 1u64 << (index & 63);
                    if seen & bit != 0 {
                        return Err(End::Unclear);
                    }
                    seen |= bit;
                    self.cursor.peek();
                    if let Some(found) = self.memory.found.get_mut(straight.memory as usize + index) {
                        *found = (start, self.cursor.place());
                    }
                    place = straight.memory as usize + index + 1;
                    match schema {
                        _ if asked & bit != 0 => self.noted_member(test, straight, index, look, note)?,
                        Some(schema) => self.value(schema, look)?,
                        None => self.indexed(test, index, look)?,
                    }
                }
                Err(name) => {
                    self.memory.met.strange = true;
                    self.member(test, None, name, look)?;
                }
            }
            match self.cursor.step() {
                b',' => {}
                b'}' => break,
                _ => return Err(End::Unclear),
            }
        }
        self.memory.others.truncate(base);
        self.known = Some(Known { start, test, memory: straight.memory as usize, seen });
        if note != NONE {
            let (first, count) = (straight.memory, test.entries.len() as u32);
            self.memory.notes.read(note, Read::Object { first, count, seen });
        }
        self.memory.met.stirring |= (straight.defaults & !seen) | (straight.stirring & seen) != 0;
        verdict(seen & straight.required == straight.required)?;
        Ok(count)
    }

    /// The value of a member that rules read, which gets its note.
    fn noted_member(
        &mut self,
        test: &'s MembersTest,
        straight: &'s StraightMembers,
        index: usize,
        look: Look,
        object: u32,
    ) -> Step {
        let Some(StraightMember { hash, schema, .. }) = straight.each.get(index) else { return Err(End::Unclear) };
        let slot = straight.memory as usize + index;
        let note = self.memory.notes.add_member(object, *hash, self.cursor.place(), slot);
        self.noted(note, |walk| match schema {
            Some(schema) => walk.value(*schema, look),
            None => walk.indexed(test, index, look),
        })
    }

    /// The value of a member of `properties` or `required` that has not one schema alone.
    fn indexed(&mut self, test: &'s MembersTest, index: usize, look: Look) -> Step {
        let Entry { schema, .. } = test.entries.get(index).copied().unwrap_or_default();
        let name = test.table.names().nth(index).unwrap_or("");
        self.member(test, schema, name, look)
    }

    /// Those members of an object, gone through before, that `properties` or `required` name. Leaves the cursor anywhere.
    fn sought(&mut self, test: &'s MembersTest, straight: &'s StraightMembers) -> Step {
        let object = self.cursor.place();
        self.memory.met.stirring |= straight.defaults | straight.stirring != 0;
        if self.sought_in_known(test, object)? {
            return Ok(());
        }
        self.cursor.take(b'{');
        let mut left = test.entries.len();
        let mut seen = 0u64;
        if left == 0 || self.cursor.take(b'}') {
            return verdict(straight.required == 0);
        }
        // A single name is compared, not looked up.
        let only = match &*straight.each {
            [StraightMember { token, .. }] => token.as_ref(),
            _ => None,
        };
        loop {
            let index = match only {
                Some(token) if self.cursor.take_token(token) => Some(0),
                _ => {
                    let name = self.cursor.plain().ok_or(End::Unclear)?;
                    self.cursor.take(b':');
                    match only {
                        // Spaces before the colon, perhaps.
                        Some(token) if name.len() + 3 != token.len() => None,
                        _ => test.table.index(name_hash(name), name),
                    }
                }
            };
            self.cursor.peek();
            let start = self.cursor.place();
            if let Some(index) = index {
                seen |= 1u64 << (index & 63);
                left -= 1;
                if let Some(schema) = test.entries.get(index).and_then(|entry| entry.schema) {
                    verdict(self.holds(schema, start)?)?;
                    self.cursor.go(start);
                }
                if left == 0 {
                    break;
                }
            }
            self.skip_known();
            if !self.cursor.take(b',') {
                break;
            }
        }
        verdict(seen & straight.required == straight.required)
    }

    /// The same, when it is known where the members are; `false` when it is not.
    fn sought_in_known(&mut self, test: &'s MembersTest, object: usize) -> Result<bool, End> {
        let known = self.known;
        for (name, entry) in test.table.names().zip(&test.entries) {
            match self.member_of(name, name_hash(name.as_bytes()), object) {
                Member::At(value) => {
                    if let Some(schema) = entry.schema {
                        verdict(self.holds(schema, value)?)?;
                        self.known = known;
                    }
                }
                Member::Absent => verdict(entry.required.is_none())?,
                Member::Unknown => {
                    self.cursor.go(object);
                    return Ok(false);
                }
            }
        }
        Ok(true)
    }

    /// A name that was not the one expected, and its colon; gives its index in the table, which is noted as what comes
    /// next, or the name itself.
    fn name(
        &mut self,
        test: &MembersTest,
        place: usize,
        base: usize,
        look: Look,
    ) -> Result<Result<usize, &'t str>, End> {
        let Some(Text::Plain(name)) = self.cursor.string() else { return Err(End::Unclear) };
        if !self.cursor.take(b':') {
            return Err(End::Unclear);
        }
        let hash = name_hash(name.as_bytes());
        let index = test.table.index(hash, name.as_bytes());
        match (index, self.memory.next.get_mut(place)) {
            (Some(index), Some(next)) => *next = index as u16,
            (None, _) if look.is_first() => self.other_name(hash, base)?,
            _ => {}
        }
        Ok(index.ok_or(name))
    }

    /// Notes a name that nothing describes, so that it is found when it comes again.
    fn other_name(&mut self, hash: u32, base: usize) -> Step {
        let others = self.memory.others.get(base..).unwrap_or_default();
        if others.len() >= FEW || others.contains(&hash) {
            return Err(End::Unclear);
        }
        self.memory.others.push(hash);
        Ok(())
    }

    /// The value of a member for which there are patterns, or no schema in `properties`.
    fn member(&mut self, test: &'s MembersTest, schema: Option<SchemaId>, name: &str, look: Look) -> Step {
        self.cursor.peek();
        let start = self.cursor.place();
        let mut spoken_for = false;
        if let Some(schema) = schema {
            self.value(schema, look)?;
            spoken_for = true;
        }
        for (pattern, schema) in &test.patterns {
            if self.matches(pattern, name)? {
                self.cursor.go(start);
                self.value(*schema, if spoken_for { Look::Again } else { look })?;
                spoken_for = true;
            }
        }
        match test.additional {
            Some(rest) if !spoken_for => self.value(rest, look),
            None if !spoken_for => self.any(look),
            _ => Ok(()),
        }
    }

    /// Goes to the value of a member of the object at `start`, if it is there.
    pub(super) fn find(&mut self, name: &HashedName, start: usize) -> Result<bool, End> {
        match self.member_of(&name.text, name.hash, start) {
            Member::At(value) => {
                self.cursor.go(value);
                return Ok(true);
            }
            Member::Absent => return Ok(false),
            Member::Unknown => {}
        }
        self.cursor.go(start);
        self.cursor.take(b'{');
        if self.cursor.take(b'}') {
            return Ok(false);
        }
        loop {
            let found = self.cursor.plain().ok_or(End::Unclear)?;
            self.cursor.take(b':');
            if found == name.text.as_bytes() {
                return Ok(true);
            }
            self.skip_known();
            if !self.cursor.take(b',') {
                return Ok(false);
            }
        }
    }

    pub(super) fn dependent_required(&mut self, all: &'s Dependencies<Box<[HashedName]>>, start: usize) -> Step {
        for (name, others) in all {
            if self.find(name, start)? {
                for other in others {
                    verdict(self.find(other, start)?)?;
                }
            }
        }
        Ok(())
    }

    /// The members of an object of which nothing is asked; gives how many there are.
    pub(super) fn any_members(&mut self, look: Look) -> Result<u64, End> {
        self.cursor.take(b'{');
        let base = self.memory.others.len();
        let look = look.within();
        if self.cursor.take(b'}') {
            return Ok(0);
        }
        let mut count = 0;
        loop {
            let Some(Text::Plain(name)) = self.cursor.string() else { return Err(End::Unclear) };
            if look.is_first() {
                self.other_name(name_hash(name.as_bytes()), base)?;
            }
            if !self.cursor.take(b':') {
                return Err(End::Unclear);
            }
            self.any(look)?;
            count += 1;
            if self.cursor.take(b',') {
                continue;
            }
            self.memory.others.truncate(base);
            return if self.cursor.take(b'}') { Ok(count) } else { Err(End::Unclear) };
        }
    }
}

/// Whether rules ask for members that they name, and not for others.
fn asks_for_some(test: &MembersTest, rules: &[Rule]) -> bool {
    test.additional.is_none() && test.patterns.is_empty() && !counts(rules)
}

/// Whether a rule asks how many members there are.
fn counts(rules: &[Rule]) -> bool {
    rules.iter().any(|rule| matches!(rule.test, Test::MaxProperties(_) | Test::MinProperties(_)))
}
