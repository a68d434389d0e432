//! Words cut to the room there is; what is cut says so.

use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// The words, or as many as fit in so many columns with a sign that there are more.
pub fn fitted(words: &str, room: usize) -> String {
    if words.width() <= room {
        return words.to_string();
    }
    let mut left = room.saturating_sub(1);
    let fits = |sign: &char| {
        let wide = sign.width().unwrap_or(0);
        let fits = wide <= left;
        left = if fits { left - wide } else { 0 };
        fits
    };
    let kept: String = words.chars().take_while(fits).collect();
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
    #[case::signs_of_two_columns("睡蓮の池", 8, "睡蓮の池")]
    #[case::signs_of_two_columns("睡蓮の池", 6, "睡蓮…")]
    fn what_is_cut_says_so(#[case] words: &str, #[case] room: usize, #[case] fits: &str) {
        assert_eq!(fitted(words, room), fits);
    }
}
