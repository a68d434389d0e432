//! A small writer of SVG: elements with attributes, all text escaped.

use std::fmt::Write;

/// An SVG document under construction.
pub(crate) struct Svg {
    body: String,
    width: f64,
    height: f64,
}

/// Where a text stands relative to its point.
#[derive(Clone, Copy)]
pub(crate) enum Anchor {
    Start,
    Middle,
    End,
}

impl Anchor {
    fn name(self) -> &'static str {
        match self {
            Anchor::Start => "start",
            Anchor::Middle => "middle",
            Anchor::End => "end",
        }
    }
}

/// Size and weight of a text.
#[derive(Clone, Copy)]
pub(crate) struct Type<'c> {
    pub size: f64,
    pub bold: bool,
    pub colour: &'c str,
}

/// A coordinate with two decimals: finer is not seen, and the file stays small.
pub(crate) fn at(value: f64) -> String {
    let text = format!("{value:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_string()
}

/// The text with the five characters of XML escaped; control characters have no place in XML.
fn escape(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
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

impl Svg {
    pub fn new(width: f64, height: f64) -> Svg {
        Svg { body: String::new(), width, height }
    }

    pub fn rect(&mut self, x: f64, y: f64, width: f64, height: f64, fill: &str) {
        let (x, y, w, h) = (at(x), at(y), at(width), at(height));
        let _ = writeln!(
            self.body,
            r#"<rect x="{x}" y="{y}" width="{w}" height="{h}" fill="{fill}"/>"#
        );
    }

    pub fn line(&mut self, from: (f64, f64), to: (f64, f64), stroke: &str, width: f64) {
        let (x1, y1, x2, y2) = (at(from.0), at(from.1), at(to.0), at(to.1));
        let _ = writeln!(
            self.body,
            r#"<line x1="{x1}" y1="{y1}" x2="{x2}" y2="{y2}" stroke="{stroke}" stroke-width="{width}"/>"#
        );
    }

    pub fn path(&mut self, data: &str, stroke: &str, width: f64, dashes: &str) {
        let dashes = if dashes.is_empty() {
            String::new()
        } else {
            format!(r#" stroke-dasharray="{dashes}""#)
        };
        let _ = writeln!(
            self.body,
            r#"<path d="{data}" fill="none" stroke="{stroke}" stroke-width="{width}" stroke-linejoin="round"{dashes}/>"#
        );
    }

    pub fn shape(&mut self, data: &str, fill: &str) {
        let _ = writeln!(self.body, r#"<path d="{data}" fill="{fill}"/>"#);
    }

    pub fn text(&mut self, (x, y): (f64, f64), anchor: Anchor, ty: Type<'_>, text: &str) {
        let weight = if ty.bold { "600" } else { "400" };
        let _ = writeln!(
            self.body,
            r#"<text x="{}" y="{}" text-anchor="{}" font-family="Inter, sans-serif" font-size="{}" font-weight="{weight}" fill="{}">{}</text>"#,
            at(x),
            at(y),
            anchor.name(),
            ty.size,
            ty.colour,
            escape(text)
        );
    }

    /// A rectangle that lets through what is behind it; `share` is how much of it is seen.
    pub fn shade(&mut self, (x, y): (f64, f64), (w, h): (f64, f64), fill: &str, share: f64) {
        let (x, y, w, h) = (at(x), at(y), at(w), at(h));
        let _ = writeln!(
            self.body,
            r#"<rect x="{x}" y="{y}" width="{w}" height="{h}" fill="{fill}" fill-opacity="{share}"/>"#
        );
    }

    pub fn dot(&mut self, x: f64, y: f64, radius: f64, fill: &str) {
        let (x, y) = (at(x), at(y));
        let _ = writeln!(self.body, r#"<circle cx="{x}" cy="{y}" r="{radius}" fill="{fill}"/>"#);
    }

    pub fn finish(self, title: &str) -> String {
        let (w, h) = (at(self.width), at(self.height));
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\" viewBox=\"0 0 {w} {h}\">\n\
             <title>{}</title>\n{}</svg>\n",
            escape(title),
            self.body
        )
    }
}
