//! A drawing: marks on a page, in the order in which they are drawn. Each format is written from the marks.

/// Where a text stands relative to its point.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Anchor {
    /// It begins there.
    Start,
    /// Its middle is there.
    Middle,
    /// It ends there.
    End,
}

/// Size, weight and colour of a text.
#[derive(Clone, Copy, Debug)]
pub struct Type<'c> {
    /// Size in points.
    pub size: f64,
    /// Semi-bold instead of regular.
    pub bold: bool,
    /// Colour, as `#rrggbb`.
    pub colour: &'c str,
}

/// A piece of an outline. Coordinates are in points from the page's top left corner.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Step {
    /// Begins a new outline.
    Move(f64, f64),
    /// A straight line.
    Line(f64, f64),
    /// A straight line to this x.
    Across(f64),
    /// A straight line to this y.
    Along(f64),
    /// Back to where the outline began.
    Close,
}

/// How an outline is drawn.
#[derive(Clone, Debug, PartialEq)]
pub enum Ink {
    /// Filled with a colour.
    Fill(String),
    /// Drawn as a line.
    Stroke {
        /// Colour, as `#rrggbb`.
        colour: String,
        /// Width in points.
        width: f64,
        /// Lengths of dashes and gaps in points; none for a whole line.
        dashes: Vec<f64>,
    },
}

/// One mark.
#[derive(Clone, Debug, PartialEq)]
pub enum Mark {
    /// A filled rectangle; `share` is how much of it covers what is behind.
    Rect {
        /// Left and top.
        at: (f64, f64),
        /// Width and height.
        size: (f64, f64),
        /// Colour, as `#rrggbb`.
        fill: String,
        /// `0.0..=1.0`.
        share: f64,
    },
    /// A straight line.
    Line {
        /// One end.
        from: (f64, f64),
        /// The other.
        to: (f64, f64),
        /// Colour, as `#rrggbb`.
        stroke: String,
        /// Width in points.
        width: f64,
    },
    /// Outlines.
    Path {
        /// Their pieces.
        steps: Vec<Step>,
        /// How they are drawn.
        ink: Ink,
    },
    /// A circle.
    Circle {
        /// Its middle.
        at: (f64, f64),
        /// Radius in points.
        radius: f64,
        /// How it is drawn.
        ink: Ink,
    },
    /// A text on one line.
    Text {
        /// Its point on the baseline.
        at: (f64, f64),
        /// Where it stands relative to that.
        anchor: Anchor,
        /// Size in points.
        size: f64,
        /// Semi-bold instead of regular.
        bold: bool,
        /// Colour, as `#rrggbb`.
        colour: String,
        /// What it says.
        words: String,
    },
}

/// Marks on a page.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawing {
    /// Width of the page in points.
    pub width: f64,
    /// Height of the page in points.
    pub height: f64,
    /// What it is.
    pub title: String,
    /// The marks, those drawn first behind the others.
    pub marks: Vec<Mark>,
}

impl Drawing {
    /// An empty page.
    pub fn new(width: f64, height: f64, title: impl Into<String>) -> Drawing {
        Drawing { width, height, title: title.into(), marks: Vec::new() }
    }

    /// What its texts say, in the order in which they are drawn.
    pub fn texts(&self) -> impl Iterator<Item = &str> {
        self.marks.iter().filter_map(|mark| match mark {
            Mark::Text { words, .. } => Some(words.as_str()),
            _ => None,
        })
    }

    /// A filled rectangle.
    pub fn rect(&mut self, x: f64, y: f64, width: f64, height: f64, fill: &str) {
        self.shade((x, y), (width, height), fill, 1.0);
    }

    /// A rectangle that lets through what is behind it; `share` is how much of it is seen.
    pub fn shade(&mut self, at: (f64, f64), size: (f64, f64), fill: &str, share: f64) {
        self.marks.push(Mark::Rect { at, size, fill: fill.into(), share });
    }

    /// A straight line.
    pub fn line(&mut self, from: (f64, f64), to: (f64, f64), stroke: &str, width: f64) {
        self.marks.push(Mark::Line { from, to, stroke: stroke.into(), width });
    }

    /// Outlines drawn as lines, with dashes if there are any.
    pub fn path(&mut self, steps: Vec<Step>, colour: &str, width: f64, dashes: &[f64]) {
        let ink = Ink::Stroke { colour: colour.into(), width, dashes: dashes.to_vec() };
        self.marks.push(Mark::Path { steps, ink });
    }

    /// Outlines filled with a colour.
    pub fn shape(&mut self, steps: Vec<Step>, fill: &str) {
        self.marks.push(Mark::Path { steps, ink: Ink::Fill(fill.into()) });
    }

    /// A filled circle.
    pub fn dot(&mut self, x: f64, y: f64, radius: f64, fill: &str) {
        self.marks.push(Mark::Circle { at: (x, y), radius, ink: Ink::Fill(fill.into()) });
    }

    /// A circle drawn as a line.
    pub fn ring(&mut self, x: f64, y: f64, radius: f64, colour: &str, width: f64) {
        let ink = Ink::Stroke { colour: colour.into(), width, dashes: Vec::new() };
        self.marks.push(Mark::Circle { at: (x, y), radius, ink });
    }

    /// A text on one line. Control characters become spaces.
    pub fn text(&mut self, at: (f64, f64), anchor: Anchor, ty: Type<'_>, text: &str) {
        let words = text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
        let (size, bold, colour) = (ty.size, ty.bold, ty.colour.to_string());
        self.marks.push(Mark::Text { at, anchor, size, bold, colour, words });
    }
}
