//! A page on each code: what it means, an example of wrong and of right.

use crate::diagnostic::Code;

/// The page on a code, as Markdown: a title, why it matters, one pond that shows it and one that does
/// not.
pub fn explain(code: Code) -> &'static str {
    match code.as_str() {
        "E0101" => include_str!("../pages/E0101.md"),
        "E0102" => include_str!("../pages/E0102.md"),
        "E0201" => include_str!("../pages/E0201.md"),
        "E0202" => include_str!("../pages/E0202.md"),
        "E0203" => include_str!("../pages/E0203.md"),
        "E0204" => include_str!("../pages/E0204.md"),
        "E0301" => include_str!("../pages/E0301.md"),
        "E0302" => include_str!("../pages/E0302.md"),
        "E0303" => include_str!("../pages/E0303.md"),
        "E0401" => include_str!("../pages/E0401.md"),
        "E0402" => include_str!("../pages/E0402.md"),
        "E0403" => include_str!("../pages/E0403.md"),
        "E0404" => include_str!("../pages/E0404.md"),
        "E0405" => include_str!("../pages/E0405.md"),
        "E0406" => include_str!("../pages/E0406.md"),
        "E0407" => include_str!("../pages/E0407.md"),
        "E0501" => include_str!("../pages/E0501.md"),
        "E0502" => include_str!("../pages/E0502.md"),
        "E0503" => include_str!("../pages/E0503.md"),
        "E0901" => include_str!("../pages/E0901.md"),
        "F0601" => include_str!("../pages/F0601.md"),
        "F0602" => include_str!("../pages/F0602.md"),
        "F0603" => include_str!("../pages/F0603.md"),
        "F0604" => include_str!("../pages/F0604.md"),
        "F0605" => include_str!("../pages/F0605.md"),
        "F0606" => include_str!("../pages/F0606.md"),
        "F0607" => include_str!("../pages/F0607.md"),
        "F0608" => include_str!("../pages/F0608.md"),
        "F0609" => include_str!("../pages/F0609.md"),
        "F0610" => include_str!("../pages/F0610.md"),
        "F0611" => include_str!("../pages/F0611.md"),
        "F0612" => include_str!("../pages/F0612.md"),
        "F0613" => include_str!("../pages/F0613.md"),
        "F0614" => include_str!("../pages/F0614.md"),
        "F0615" => include_str!("../pages/F0615.md"),
        "F0616" => include_str!("../pages/F0616.md"),
        "F0617" => include_str!("../pages/F0617.md"),
        "F0618" => include_str!("../pages/F0618.md"),
        "F0619" => include_str!("../pages/F0619.md"),
        "F0620" => include_str!("../pages/F0620.md"),
        "F0621" => include_str!("../pages/F0621.md"),
        "F0622" => include_str!("../pages/F0622.md"),
        "F0623" => include_str!("../pages/F0623.md"),
        "F0624" => include_str!("../pages/F0624.md"),
        "F0625" => include_str!("../pages/F0625.md"),
        "F0626" => include_str!("../pages/F0626.md"),
        "F0627" => include_str!("../pages/F0627.md"),
        "F0628" => include_str!("../pages/F0628.md"),
        "F0629" => include_str!("../pages/F0629.md"),
        "H0701" => include_str!("../pages/H0701.md"),
        "H0702" => include_str!("../pages/H0702.md"),
        // A test sees to it that every code has its page.
        _ => "",
    }
}

/// The title of the page on a code, without the code.
pub fn title(code: Code) -> &'static str {
    let first = explain(code).lines().next().unwrap_or("");
    first.split_once(": ").map_or("", |(_, title)| title)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::compile;

    fn examples(page: &str) -> Vec<&str> {
        let blocks = page.split("```pond\n").skip(1);
        blocks.filter_map(|b| b.split("```").next()).collect()
    }

    #[test]
    fn every_page_shows_its_code_in_the_wrong_pond_and_nothing_in_the_right_one() {
        for code in Code::ALL {
            let page = explain(*code);
            if *code == Code::Fault {
                // No pond is known that shows it.
                assert!(examples(page).is_empty() && !title(*code).is_empty());
                continue;
            }
            let [wrong, right] = examples(page)[..] else { panic!("{code:?}: {page}") };
            let found = compile(wrong).diagnostics;
            assert!(found.iter().any(|d| d.code == *code), "{code:?}: {found:?}");
            let found = compile(right).diagnostics;
            assert!(found.is_empty(), "{code:?}: {found:?}");
            assert!(!title(*code).is_empty());
        }
    }
}
