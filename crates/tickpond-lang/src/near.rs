//! What a person most likely meant by a misspelt name.

/// The candidate a person most likely meant, if one is near enough.
pub(crate) fn near_miss<'a>(
    name: &str,
    candidates: impl Iterator<Item = &'a str>,
) -> Option<String> {
    // Over-long names are no slips of the finger, and the distance costs the square of the length.
    if name.len() > 64 {
        return None;
    }
    let allowed = (name.chars().count() / 3).clamp(1, 3);
    let near = candidates
        .filter(|c| c.len() <= 64 && c.len().abs_diff(name.len()) <= allowed * 4)
        .map(|c| (strsim::damerau_levenshtein(&name.to_lowercase(), &c.to_lowercase()), c))
        .filter(|(distance, c)| *distance <= allowed && *c != name);
    near.min().map(|(_, c)| c.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::dropped_letter("mige", Some("midge"))]
    #[case::swapped("herno", Some("heron"))]
    #[case::plural("frogs", Some("frog"))]
    #[case::nothing_near("dragonfly", None)]
    fn a_near_miss_is_found(#[case] name: &str, #[case] near: Option<&str>) {
        let candidates = ["frog", "heron", "midge"];
        assert_eq!(near_miss(name, candidates.into_iter()).as_deref(), near);
    }
}
