//! Model groups and particles (Part 1, sections 3.7, 3.8 and 3.9).

use super::{Builder, Kind, MAX_PARTICLES, order};
use crate::component::*;

impl Builder<'_> {
    pub(super) fn groups(&mut self) {
        let groups: Vec<Origin> = self.out.groups.iter().map(|group| group.origin).collect();
        let mut needed = Vec::new();
        for origin in &groups {
            needed.push(self.groups_within(*origin));
        }
        let (ordered, circles) = order(groups.len(), |index| needed.get(index).cloned().unwrap_or_default());
        for circle in circles {
            if let Some(origin) = groups.get(circle) {
                self.findings.error("mg-props-correct.2", *origin, "a group must not be part of itself");
            }
        }
        for index in ordered {
            let Some(origin) = groups.get(index).copied() else { continue };
            let model = self.child(origin, &["all", "choice", "sequence"]).map(|(at, _)| at);
            let particle = model.and_then(|model| self.particle(model));
            if let Some(group) = self.out.groups.get_mut(index) {
                group.particle = particle;
            }
        }
    }

    /// The groups that a group refers to.
    fn groups_within(&mut self, origin: Origin) -> Vec<usize> {
        let mut waiting = vec![origin];
        let mut found = Vec::new();
        while let Some(at) = waiting.pop() {
            for (child, node) in self.children(at) {
                match node.local.as_str() {
                    "group" => found.extend(self.group_at_ref(child).map(|id| id.0 as usize)),
                    "choice" | "sequence" | "all" => waiting.push(child),
                    _ => {}
                }
            }
        }
        found
    }

    fn group_at_ref(&mut self, origin: Origin) -> Option<GroupId> {
        let name = self.refer(origin, "ref", Kind::Group)?;
        let definition = self.definition(Kind::Group, name, origin)?;
        self.group_at.get(&definition).copied()
    }

    /// The particle that an element stands for; `None` for one that may not occur at all.
    ///
    /// Recursion is bounded by the nesting of the document.
    pub(super) fn particle(&mut self, origin: Origin) -> Option<Particle> {
        let node = self.node(origin)?;
        let (min, max) = self.occurs(origin);
        self.particles += 1;
        if self.particles > MAX_PARTICLES {
            if self.particles == MAX_PARTICLES + 1 {
                let message = format!("more than {MAX_PARTICLES} particles come out of the references to groups");
                self.findings.error("mg-props-correct.1", origin, message);
            }
            return None;
        }
        if max == Some(0) {
            return None;
        }
        let term = match node.local.as_str() {
            "element" => Term::Element(self.local_element(origin)?),
            "any" => Term::Any(self.wildcard(origin)),
            "group" => {
                let id = self.group_at_ref(origin)?;
                let particle = self.out.groups.get(id.0 as usize)?.particle.clone()?;
                self.particles += size(&particle);
                // The reference has its own counts; those of the group's model are one.
                particle.term
            }
            word => {
                let compositor = match word {
                    "choice" => Compositor::Choice,
                    "all" => Compositor::All,
                    _ => Compositor::Sequence,
                };
                let children: Vec<Origin> = self.children(origin).into_iter().map(|(at, _)| at).collect();
                let mut particles = Vec::new();
                for child in children {
                    if let Some(particle) = self.particle(child) {
                        let is_all = matches!(particle.term, Term::Group(Compositor::All, _));
                        if is_all {
                            let message = "`all` must be the whole content of a type, not a part of another model";
                            self.findings.error("cos-all-limited.1.2", child, message);
                        }
                        particles.push(particle);
                    }
                }
                if compositor == Compositor::All
                    && particles.iter().any(|particle| particle.max.is_none_or(|max| max > 1))
                {
                    let message = "the elements of `all` must occur once at most";
                    self.findings.error("cos-all-limited.2", origin, message);
                }
                Term::Group(compositor, particles)
            }
        };
        Some(Particle { min, max, term, origin: Some(origin) })
    }

    /// How often a particle may occur. What is no number has been told with the syntax.
    fn occurs(&mut self, origin: Origin) -> (u32, Option<u32>) {
        let count = |text: &str| {
            let digits = text.trim_start_matches('+');
            digits.bytes().all(|byte| byte.is_ascii_digit()).then(|| digits.parse::<u32>().unwrap_or(u32::MAX - 1))
        };
        let min = self.value(origin, "minOccurs").and_then(count).unwrap_or(1);
        let max = match self.value(origin, "maxOccurs") {
            Some("unbounded") => None,
            text => Some(text.and_then(count).unwrap_or(1)),
        };
        if let Some(max) = max
            && min > max
        {
            let message = format!("`minOccurs` must not be above `maxOccurs`, found {min} and {max}");
            self.findings.error("p-props-correct.2.1", origin, message);
            if self.value(origin, "minOccurs").is_none() {
                self.findings.hint("`minOccurs` is 1 where it is not told");
            }
            return (min.min(max), Some(max));
        }
        (min, max)
    }
}

/// How many particles there are in one.
pub(super) fn size(particle: &Particle) -> usize {
    match &particle.term {
        Term::Group(_, within) => 1 + within.iter().map(size).sum::<usize>(),
        _ => 1,
    }
}
