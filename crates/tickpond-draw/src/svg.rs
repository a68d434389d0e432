//! A drawing as SVG: elements with attributes, all text escaped.

use std::fmt::Write;

use crate::drawing::{Anchor, Drawing, Ink, Mark, Step};

/// A coordinate with two decimals: finer is not seen, and the file stays small.
fn at(value: f64) -> String {
    let text = format!("{value:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_string()
}

/// The text without the characters that no XML may hold (XML 1.0, production 2): they are told by the sign for what cannot be
/// shown.
pub fn fit_for_xml(text: &str) -> std::borrow::Cow<'_, str> {
    let fits = |c: char| !matches!(c, '\u{0}'..='\u{8}' | '\u{b}' | '\u{c}' | '\u{e}'..='\u{1f}' | '\u{fffe}' | '\u{ffff}');
    match text.chars().all(fits) {
        true => text.into(),
        false => text.chars().map(|c| if fits(c) { c } else { '\u{fffd}' }).collect(),
    }
}

/// The text with the five characters of XML escaped; control characters have no place in XML.
fn escape(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in fit_for_xml(text).chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            '\'' => out.push_str("&apos;"),
            c if c.is_control() => out.push(' '),
            c => out.push(c),
        }
    }
    out
}

fn data(steps: &[Step]) -> String {
    let mut data = String::new();
    for step in steps {
        let _ = match step {
            Step::Move(x, y) => write!(data, "M{} {}", at(*x), at(*y)),
            Step::Line(x, y) => write!(data, "L{} {}", at(*x), at(*y)),
            Step::Across(x) => write!(data, "H{}", at(*x)),
            Step::Along(y) => write!(data, "V{}", at(*y)),
            Step::Close => write!(data, "Z"),
        };
    }
    data
}

fn ink(ink: &Ink) -> String {
    match ink {
        Ink::Fill(colour) => format!(r#"fill="{colour}""#),
        Ink::Stroke { colour, width, dashes } => {
            let dashes: Vec<String> = dashes.iter().map(|length| at(*length)).collect();
            let dashes = match dashes.join(" ") {
                none if none.is_empty() => none,
                some => format!(r#" stroke-dasharray="{some}""#),
            };
            format!(
                r#"fill="none" stroke="{colour}" stroke-width="{width}" stroke-linejoin="round"{dashes}"#
            )
        }
    }
}

fn element(mark: &Mark) -> String {
    match mark {
        Mark::Rect { at: (x, y), size: (w, h), fill, share } => {
            let (x, y, w, h) = (at(*x), at(*y), at(*w), at(*h));
            let share = match *share {
                share if share < 1.0 => format!(r#" fill-opacity="{share}""#),
                _ => String::new(),
            };
            format!(r#"<rect x="{x}" y="{y}" width="{w}" height="{h}" fill="{fill}"{share}/>"#)
        }
        Mark::Line { from, to, stroke, width } => {
            let (x1, y1, x2, y2) = (at(from.0), at(from.1), at(to.0), at(to.1));
            format!(
                r#"<line x1="{x1}" y1="{y1}" x2="{x2}" y2="{y2}" stroke="{stroke}" stroke-width="{width}"/>"#
            )
        }
        Mark::Path { steps, ink: how } => format!(r#"<path d="{}" {}/>"#, data(steps), ink(how)),
        Mark::Circle { at: (x, y), radius, ink: how } => {
            format!(r#"<circle cx="{}" cy="{}" r="{radius}" {}/>"#, at(*x), at(*y), ink(how))
        }
        Mark::Text { at: (x, y), anchor, size, bold, colour, words } => {
            let weight = if *bold { "600" } else { "400" };
            let anchor = match anchor {
                Anchor::Start => "start",
                Anchor::Middle => "middle",
                Anchor::End => "end",
            };
            format!(
                r#"<text x="{}" y="{}" text-anchor="{anchor}" font-family="Inter, sans-serif" font-size="{size}" font-weight="{weight}" fill="{colour}">{}</text>"#,
                at(*x),
                at(*y),
                escape(words)
            )
        }
    }
}

/// The drawing as an SVG document.
pub fn to_svg(drawing: &Drawing) -> String {
    let (w, h) = (at(drawing.width), at(drawing.height));
    let mut svg = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\" viewBox=\"0 0 {w} {h}\">\n\
         <title>{}</title>\n",
        escape(&drawing.title)
    );
    for mark in &drawing.marks {
        svg.push_str(&element(mark));
        svg.push('\n');
    }
    svg.push_str("</svg>\n");
    svg
}
