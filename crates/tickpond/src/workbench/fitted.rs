//! Words cut to the room there is; what is cut says so.

/// The words, or as many as fit with a sign that there are more.
pub fn fitted(words: &str, room: usize) -> String {
    if words.chars().count() <= room {
        return words.to_string();
    }
    let kept: String = words.chars().take(room.saturating_sub(1)).collect();
    if room == 0 { kept } else { kept + "…" }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("reeds", 5, "reeds")]
    #[case("reeds", 4, "ree…")]
    #[case("reeds", 1, "…")]
    #[case("reeds", 0, "")]
    #[case("∙∙∙∙", 3, "∙∙…")]
    fn what_is_cut_says_so(#[case] words: &str, #[case] room: usize, #[case] fits: &str) {
        assert_eq!(fitted(words, room), fits);
    }
}
