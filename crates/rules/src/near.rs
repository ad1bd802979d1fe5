//! Values near those that a condition names: for who looks for a document that it tells apart.

use crate::check::Kind;
use crate::time::{SECOND, moment};

/// The moments from which others lie so far as a condition says.
const MOMENTS: [&str; 2] = ["2026-11-29T06:00:00Z", "2030-01-01T00:00:00Z"];

/// Texts of values of a kind, without quotes: those that a condition names, their neighbours, and some that are usual. `constants` are those
/// of [`crate::Condition::constants`]; numbers first that are near, so that a caller may take a few.
pub fn near(kind: Kind, constants: &[(Kind, String)]) -> Vec<String> {
    let own = |of: Kind| constants.iter().filter(move |(kind, _)| *kind == of).map(|(_, text)| text.trim_matches('"'));
    let beside = |text: &str| {
        let number = text.parse::<i64>().ok();
        number.into_iter().flat_map(|number| [number.saturating_sub(1), number.saturating_add(1)]).collect::<Vec<_>>()
    };
    let fixed: &[&str] = match kind {
        Kind::Number => &["1", "2", "0", "1000", "-1"],
        Kind::Text => &["quay", "Quay North", "", "quay?"],
        Kind::Truth => &["true", "false"],
        Kind::Date => &["2026-11-29", "2026-11-30", "2030-01-01", "2020-01-01"],
        Kind::Time => &["06:00:00Z", "18:00:00Z"],
        Kind::Moment => &["2026-11-29T07:00:00Z", "2026-12-29T06:00:00Z", "2020-01-01T00:00:00Z"],
        Kind::Duration => &["PT1H", "P1D"],
        Kind::Object => &[],
    };
    let mut all: Vec<String> = match kind {
        Kind::Moment => {
            // A moment is told from another by how far they lie apart.
            let apart: Vec<i64> =
                own(Kind::Duration).flat_map(|text| text.parse::<i64>().into_iter().chain(beside(text))).collect();
            let after = |start: &str, seconds: i64| {
                let later = moment(start)?.later(i128::from(seconds) * SECOND)?;
                Some(format!("{}Z", later.local().strftime("%Y-%m-%dT%H:%M:%S")))
            };
            let first = MOMENTS.iter().take(1);
            let near = first.flat_map(|start| apart.iter().filter_map(|seconds| after(start, *seconds)));
            own(kind).map(str::to_owned).chain(MOMENTS.map(str::to_owned)).chain(near).collect()
        }
        Kind::Duration => {
            let seconds = own(kind).flat_map(|text| text.parse::<i64>().into_iter().chain(beside(text)));
            seconds.map(|seconds| format!("PT{seconds}S")).collect()
        }
        Kind::Number => own(kind)
            .flat_map(|text| {
                std::iter::once(text.to_owned()).chain(beside(text).into_iter().map(|near| near.to_string()))
            })
            .collect(),
        _ => own(kind).map(str::to_owned).collect(),
    };
    all.extend(fixed.iter().map(|text| (*text).to_owned()));
    let mut seen = std::collections::HashSet::new();
    all.retain(|text| seen.insert(text.clone()));
    all
}

#[cfg(test)]
mod tests {
    use super::near;
    use crate::check::Kind;

    #[test]
    fn values_lie_beside_those_that_are_named() {
        let constants =
            [(Kind::Number, "40".to_owned()), (Kind::Text, "\"N1\"".to_owned()), (Kind::Duration, "900".to_owned())];
        for (kind, wanted) in [
            (Kind::Number, &["40", "39", "41", "0"][..]),
            (Kind::Text, &["N1", "quay?"]),
            (Kind::Duration, &["PT900S", "PT899S", "PT901S"]),
            (
                Kind::Moment,
                &["2026-11-29T06:00:00Z", "2026-11-29T06:15:00Z", "2026-11-29T06:14:59Z", "2026-11-29T06:15:01Z"],
            ),
            (Kind::Truth, &["true", "false"]),
        ] {
            let all = near(kind, &constants);
            assert!(wanted.iter().all(|one| all.iter().any(|text| text == one)), "{kind}: {all:?}");
        }
    }
}
