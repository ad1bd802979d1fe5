//! Breaks that a project knows of and wants: listed in `mervik.toml`, each with a reason and a last day.

use super::Compared;
use crate::project::{Accepted, Project};
use jiff::civil::Date;
use mervik_versions::{Break, Role};

/// A break that is known and wanted.
pub(crate) struct AcceptedBreak {
    pub(crate) broken: (Role, Break),
    pub(crate) reason: String,
    pub(crate) until: String,
}

/// Sets aside the breaks that the project accepts today; what was accepted and is over, or never met, is remarked on.
pub(super) fn set_aside(compared: &mut Compared, project: Option<&Project>, named: &str) {
    let Some((_, entry)) = project.and_then(|project| project.entry_of(named)) else { return };
    let today = jiff::Zoned::now().date();
    let is_over = |one: &Accepted| one.until.parse::<Date>().is_ok_and(|until| until < today);
    let means = |one: &Accepted, broken: &Break| one.kind == broken.kind.word() && one.at == broken.at;
    for one in &entry.accepted {
        let met = compared.breaks.iter().any(|(_, broken)| means(one, broken));
        match (met, is_over(one)) {
            (true, true) => {
                compared.remarks.push(format!("`{}` at `{}` was accepted until {}", one.kind, one.at, one.until))
            }
            (false, _) => compared.remarks.push(format!("`{}` at `{}` is accepted, and is no break", one.kind, one.at)),
            (true, false) => {}
        }
    }
    let mut kept = Vec::new();
    for (role, broken) in std::mem::take(&mut compared.breaks) {
        match entry.accepted.iter().find(|one| means(one, &broken) && !is_over(one)) {
            Some(one) => compared.accepted.push(AcceptedBreak {
                broken: (role, broken),
                reason: one.reason.clone(),
                until: one.until.clone(),
            }),
            None => kept.push((role, broken)),
        }
    }
    compared.breaks = kept;
}
