//! Typed views of the tree: which of its words a node has, as values. This is the one place where words of the
//! language are compared after parsing.
//!
//! A view is made of any node; on a node of another sort, or a broken one, it gives what stands for nothing said.

use crate::program::{BinaryOp, Edge, Falloff, LineSide, MailStat, QueryKind, Side, Stat};
use crate::syntax::{Node, SyntaxKind, Token};

/// Whether this keyword stands directly in a node.
fn says(node: &Node, word: &str) -> bool {
    node.children_with_tokens()
        .filter_map(|e| e.into_token())
        .any(|t| t.kind() == SyntaxKind::Keyword && t.text() == word)
}

/// What the first of these words stands for that a node has.
fn which<T: Copy>(node: &Node, words: &[(&str, T)]) -> Option<T> {
    words.iter().find(|(word, _)| says(node, word)).map(|(_, value)| *value)
}

macro_rules! views {
    ($($(#[$doc:meta])* $name:ident { $($(#[$flag_doc:meta])* $flag:ident = $word:literal,)* })*) => {$(
        $(#[$doc])*
        pub struct $name<'t>(pub &'t Node);

        impl $name<'_> {
            $($(#[$flag_doc])*
            pub fn $flag(&self) -> bool {
                says(self.0, $word)
            })*
        }
    )*};
}

views! {
    /// A handler, routine, spawner or placement.
    Item {
        /// Whether it is switched off with the word `off`.
        is_muted = "off",
        /// An input: whether it is a pointer.
        is_pointer = "pointer",
    }
    /// A set of kinds.
    KindSet {
        /// Whether it is of any kind.
        is_any = "any",
        /// Whether it leaves out the maker.
        leaves_out_maker = "but",
    }
    /// Whom a statement is about.
    Target {
        /// Each of a set.
        is_each = "each",
        /// All there are.
        is_all = "all",
        /// The pond.
        is_pond = "pond",
    }
    /// A direction: along an angle, or toward a place.
    Along {
        /// Whether it is toward a place.
        is_toward = "toward",
    }
    /// A blast.
    Blast {}
    /// `not within …`: where something is not born, or who is spared.
    NotWithin {
        /// Whether it is about the maker.
        is_of_maker = "maker",
        /// Whether it is about the view.
        is_of_view = "view",
    }
    /// An attachment.
    Attached {
        /// Whether it stays when its owner ends.
        outlives = "outlives",
    }
    /// A tape.
    Tape {
        /// Whether it is played if no other is chosen.
        is_played = "played",
    }
    /// A step of a tape.
    TapeStep {
        /// Whether a pointer is moved.
        is_move = "move",
        /// Whether a key is held.
        is_hold = "hold",
    }
    /// A limit of the header.
    LimitPart {
        /// Whether it is so many a tick.
        is_per = "per",
        /// Whether it is about what waits.
        is_of_waiting = "waiting",
        /// Whether it is that of the number of entities.
        is_of_entities = "entities",
    }
    /// The size of the arena.
    ArenaLine {
        /// Whether y grows downward.
        goes_down = "down",
        /// Whether it says where the origin is.
        has_origin = "origin",
    }
    /// What the sides of the arena do.
    EdgeRule {}
    /// How the walls of the arena are.
    WallPart {
        /// Whether it is about bouncing, not friction.
        is_bounce = "bounce",
    }
    /// A body.
    BodyLine {
        /// Whether there is none.
        is_none = "none",
        /// Whether it is a circle.
        is_circle = "circle",
        /// Whether it is a box.
        is_box = "box",
    }
    /// Something that is said of a body.
    BodyOption {
        /// Whether it is solid.
        is_solid = "solid",
        /// Whether it only notices others.
        is_sensor = "sensor",
        /// Whether it stays where it is.
        is_fixed = "fixed",
        /// Whether it does not turn.
        is_upright = "upright",
        /// Whether gravity leaves it alone.
        is_weightless = "weightless",
        /// How much it is slowed down.
        is_drag = "drag",
        /// How much speed it keeps when it bounces.
        is_bounce = "bounce",
        /// How much it rubs.
        is_friction = "friction",
    }
    /// What sets a handler off.
    Head {
        /// Whether only the first of those touched counts.
        is_first = "first",
        /// Whether a zone is entered, not left.
        is_enter = "enter",
    }
    /// An expectation.
    Check {
        /// Whether it holds from a time on.
        goes_on = "on",
        /// Whether a time is the most, not the least.
        is_at_most = "most",
        /// Whether it must hold for a time, not come within it.
        lasts = "for",
    }
    /// What an expectation waits for.
    Happening {
        /// A key of the player.
        is_press = "press",
        /// A message that is sent.
        is_sent = "sent",
        /// A message that is heard.
        is_heard = "heard",
        /// A birth.
        is_born = "born",
        /// A hurt.
        is_hurt = "hurt",
    }
    /// `activate` or `deactivate`.
    Switch {
        /// Whether it is switched on.
        is_on = "activate",
    }
    /// `a is b`.
    IsExpr {
        /// Whether it asks for a place inside of a zone.
        is_inside = "inside",
        /// Whether it asks for someone who is gone.
        is_gone = "gone",
    }
    /// An operation with one operand.
    UnaryExpr {
        /// Whether it is `not`.
        is_not = "not",
    }
    /// A question about many.
    QueryExpr {
        /// Whether it counts.
        is_count = "count",
    }
    /// How many a spawner keeps.
    KeepLine {
        /// Whether that is the most, not a number to keep up.
        is_at_most = "most",
    }
    /// The rhythm of a spawner.
    EveryLine {
        /// Whether it begins at once.
        begins_at_once = "once",
    }
    /// A parameter.
    Param {
        /// Whether it is a kind of a set of kinds.
        is_kind_of = "of",
    }
    /// The side of an arena that something is at.
    AtSide {}
}

/// The words of the four sides, and what they mean.
const SIDES: [(&str, Side); 4] =
    [("left", Side::Left), ("right", Side::Right), ("top", Side::Top), ("bottom", Side::Bottom)];

impl Blast<'_> {
    /// How it weakens.
    pub fn falloff(&self) -> Falloff {
        let words = [("straight", Falloff::Straight), ("square", Falloff::Square)];
        which(self.0, &words).unwrap_or(Falloff::Even)
    }
}

impl LimitPart<'_> {
    /// What it limits, as it is written: `births per tick`.
    pub fn words(&self) -> String {
        const WORDS: [&str; 9] = [
            "entities", "births", "rounds", "steps", "messages", "requests", "text", "looks",
            "touches",
        ];
        let word = WORDS.into_iter().find(|word| says(self.0, word)).unwrap_or(WORDS[0]);
        let more = match (self.is_per(), self.is_of_waiting()) {
            (true, _) => " per tick",
            (false, true) => " waiting",
            (false, false) => "",
        };
        format!("{word}{more}")
    }
}

/// Where the origin of an arena is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Origin {
    /// In its middle.
    Middle,
    /// In a corner: at the top or bottom, and at the left or right.
    Corner(Side, Side),
}

impl ArenaLine<'_> {
    /// Where the origin is; `None` if it is not said, or not as it must be (of which the parser tells).
    pub fn origin(&self) -> Option<Origin> {
        if !self.has_origin() {
            return None;
        }
        let sides: Vec<Side> =
            SIDES.iter().filter(|(word, _)| says(self.0, word)).map(|(_, side)| *side).collect();
        match &sides[..] {
            [] if says(self.0, "center") || says(self.0, "middle") => Some(Origin::Middle),
            [across @ (Side::Left | Side::Right), up @ (Side::Top | Side::Bottom)] => {
                Some(Origin::Corner(*up, *across))
            }
            _ => None,
        }
    }
}

impl EdgeRule<'_> {
    /// What the sides do, if it is said.
    pub fn edge(&self) -> Option<Edge> {
        which(self.0, &[("open", Edge::Open), ("wrap", Edge::Wrap), ("wall", Edge::Wall)])
    }

    /// The sides it names.
    pub fn sides(&self) -> Vec<Side> {
        SIDES.iter().filter(|(word, _)| says(self.0, word)).map(|(_, side)| *side).collect()
    }
}

impl AtSide<'_> {
    /// The side, if one is named.
    pub fn side(&self) -> Option<Side> {
        which(self.0, &SIDES)
    }
}

impl Head<'_> {
    /// The side of a line that is come to.
    pub fn line_side(&self) -> LineSide {
        let words =
            [("below", LineSide::Below), ("above", LineSide::Above), ("left", LineSide::Left)];
        which(self.0, &words).unwrap_or(LineSide::Right)
    }
}

impl QueryExpr<'_> {
    /// The total of messages it asks for.
    pub fn mail_stat(&self) -> Option<MailStat> {
        let words =
            [("sent", MailStat::Sent), ("heard", MailStat::Heard), ("unheard", MailStat::Unheard)];
        which(self.0, &words)
    }

    /// The total over the whole run it asks for.
    pub fn stat(&self) -> Option<Stat> {
        which(self.0, &[("born", Stat::Born), ("ended", Stat::Ended), ("peak", Stat::Peak)])
    }

    /// What it asks of those who are there.
    pub fn what(&self) -> QueryKind {
        let words = [("nearest", QueryKind::Nearest), ("any", QueryKind::Any)];
        which(self.0, &words).unwrap_or(QueryKind::Count)
    }
}

/// The operation that a word stands for between two conditions.
pub fn joining(token: &Token) -> Option<BinaryOp> {
    match token.text() {
        "and" => Some(BinaryOp::And),
        "or" => Some(BinaryOp::Or),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    /// Every word that is compared here is one of the language.
    #[rstest]
    fn every_word_is_one_of_the_language() {
        let source = include_str!("tree.rs");
        let source = source.split("#[cfg(test)]").next().unwrap_or("");
        let code = source.lines().filter(|line| !line.trim_start().starts_with("//"));
        let mut words: Vec<String> = Vec::new();
        for line in code {
            let parts = line.split('"').skip(1).step_by(2);
            words.extend(parts.filter(|word| !word.is_empty()).map(str::to_string));
        }
        let said = [" per tick", " waiting", "{word}{more}"];
        words.retain(|word| !said.contains(&word.as_str()));
        assert!(words.len() > 60, "{words:?}");
        for word in words {
            assert!(crate::words::KEYWORDS.iter().any(|known| **known == word), "{word}");
        }
    }
}
