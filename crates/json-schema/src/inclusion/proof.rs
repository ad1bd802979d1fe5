//! Proves of many goals at once that no value meets them, however they refer to each other.
//!
//! Every goal that comes up is taken to have no value until it was looked at. One that turns out to have a value, or of which
//! nothing is known, makes those be looked at again that relied on it. What is left in the end has no value for certain: were
//! there any, the smallest of all values of these goals would hold only values that belong to none of them, and looking
//! at its goal would have found it.
//!
//! Each goal is looked at once, and once more at most for each goal that it relies on: no depth of schemas is in the way.

use super::search::Found;
use super::terms::Lit;
use std::collections::{BTreeSet, HashMap, VecDeque};
use std::rc::Rc;

/// One goal on the way to a proof.
#[derive(Debug, Default)]
struct Step {
    /// What it came to, other than nothing.
    found: Option<Found>,
    /// The goals that rely on it.
    relying: BTreeSet<usize>,
    waits: bool,
}

/// The goals met so far.
#[derive(Debug, Default)]
pub(super) struct Proof {
    numbers: HashMap<Rc<[Lit]>, usize>,
    goals: Vec<Rc<[Lit]>>,
    steps: Vec<Step>,
    waiting: VecDeque<usize>,
    /// The goal that is being looked at.
    current: Option<usize>,
}

impl Proof {
    /// What is known of a goal so far, for the goal that is being looked at.
    pub(super) fn ask(&mut self, goal: &Rc<[Lit]>) -> Found {
        let number = match self.numbers.get(goal) {
            Some(number) => *number,
            None => {
                let number = self.goals.len();
                self.numbers.insert(goal.clone(), number);
                self.goals.push(goal.clone());
                self.steps.push(Step { waits: true, ..Step::default() });
                self.waiting.push_back(number);
                number
            }
        };
        let Some(step) = self.steps.get_mut(number) else { return Found::Nothing };
        step.relying.extend(self.current);
        step.found.clone().unwrap_or(Found::Nothing)
    }

    /// The next goal to look at.
    pub(super) fn next(&mut self) -> Option<Rc<[Lit]>> {
        let number = self.waiting.pop_front()?;
        self.current = Some(number);
        self.steps.get_mut(number)?.waits = false;
        self.goals.get(number).cloned()
    }

    /// Tells what the goal came to that was looked at.
    pub(super) fn came_to(&mut self, found: Found) {
        let Some(step) = self.current.take().and_then(|number| self.steps.get_mut(number)) else { return };
        if matches!(found, Found::Nothing) {
            return;
        }
        step.found = Some(found);
        for number in std::mem::take(&mut step.relying) {
            if let Some(other) = self.steps.get_mut(number)
                && other.found.is_none()
                && !other.waits
            {
                other.waits = true;
                self.waiting.push_back(number);
            }
        }
    }

    /// All goals that have no value. Only to be asked when none waits any more.
    pub(super) fn without_value(self) -> impl Iterator<Item = Rc<[Lit]>> {
        self.goals.into_iter().zip(self.steps).filter(|(_, step)| step.found.is_none()).map(|(goal, _)| goal)
    }
}
