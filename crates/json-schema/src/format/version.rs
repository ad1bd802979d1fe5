//! Semantic Versioning 2.0.0.

/// `major.minor.patch`, then perhaps `-` and a pre-release, then perhaps `+` and build metadata.
pub(super) fn is_version(text: &str) -> bool {
    let (rest, build) = match text.split_once('+') {
        Some((rest, build)) => (rest, Some(build)),
        None => (text, None),
    };
    let (core, release) = match rest.split_once('-') {
        Some((core, release)) => (core, Some(release)),
        None => (rest, None),
    };
    let identifier =
        |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-');
    core.split('.').count() == 3
        && core.split('.').all(is_number)
        && release.is_none_or(|release| {
            let numeric = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
            release.split('.').all(|one| identifier(one) && (!numeric(one) || is_number(one)))
        })
        && build.is_none_or(|build| build.split('.').all(identifier))
}

/// Digits without a leading zero.
fn is_number(text: &str) -> bool {
    !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit()) && (text == "0" || !text.starts_with('0'))
}
