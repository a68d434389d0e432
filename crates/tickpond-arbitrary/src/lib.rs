//! Whole ponds by chance, over the whole grammar, for the property tests of all crates.
//!
//! [`Pond::draw`] makes a pond of a seed and of [`Oddities`]: what is to be unusual in it. The same seed gives the same pond.
//! [`ponds`] is the strategy for property tests; what fails shrinks to a small pond: items and lines are left out as long as it
//! still fails. Most ponds compile; [`Pond::with_slip`] makes one that is a slip away from it.
//!
//! The grammar is declared once, in [`grammar`]: a construct that is added to the language gets a line there, and is drawn by
//! every test from then on. A test asks that every word and unit of the language occurs.

mod chance;
pub mod grammar;
mod odd;
mod shrink;

pub use chance::Chance;
pub use odd::Oddities;
pub use shrink::{Ponds, ponds, ponds_within_limits};

/// How many ponds a property test draws: `TICKPOND_CASES` asks for another number, as `scripts/deep` does.
pub fn cases(usual: u32) -> u32 {
    std::env::var("TICKPOND_CASES").ok().and_then(|n| n.parse().ok()).unwrap_or(usual)
}

/// The ponds that have shown a fault: name and text of each, by name. Property tests look at them beside those they draw.
///
/// # Panics
/// If they cannot be read.
pub fn found() -> Vec<(String, String)> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/found");
    let read = |entry: std::io::Result<std::fs::DirEntry>| {
        let path = entry.unwrap_or_else(|e| panic!("{folder}: {e}")).path();
        let text = std::fs::read_to_string(&path).unwrap_or_else(|e| panic!("{path:?}: {e}"));
        let name = path.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        (name, text)
    };
    let files = std::fs::read_dir(folder).unwrap_or_else(|e| panic!("{folder}: {e}"));
    let mut found: Vec<_> = files.map(read).collect();
    found.sort();
    assert!(!found.is_empty(), "nothing in {folder}");
    found
}

/// Those of [`found`] whose runs are the same however they are played: of the others a limit ends a tick.
///
/// # Panics
/// As [`found`].
pub fn found_within_limits() -> Vec<(String, String)> {
    found().into_iter().filter(|(name, _)| !AT_A_LIMIT.contains(&name.as_str())).collect()
}

/// Those of [`found`] in which a limit of the tick is gone over half way, or that take seconds to come to one: how much of such a
/// tick is done hangs on the order of the work.
const AT_A_LIMIT: &[&str] = &[
    "bystander_every_tick",
    "bystander_same_kind",
    "mail_messages_half_undone",
    "mail_phase_half_undone",
    "nested_count",
    "place_order_kinds",
    "shuffle_mail",
    "shuffle_think",
    "threads_requests_think",
    "threads_stop_or_not",
];

/// A pond: items, each with a head, members and an end.
#[derive(Clone, Debug, PartialEq)]
pub struct Pond {
    /// In the order of the text.
    pub items: Vec<Item>,
    odd: Oddities,
    seed: u64,
}

/// An item of a pond: `kind midge {`, its members, `}`; one without members is its head alone.
#[derive(Clone, Debug, PartialEq)]
pub struct Item {
    /// What it begins with.
    pub head: String,
    /// Lines within braces; none for an item without.
    pub members: Option<Vec<String>>,
}

impl Item {
    fn line(text: impl Into<String>) -> Item {
        Item { head: text.into(), members: None }
    }

    fn block(head: impl Into<String>, members: Vec<String>) -> Item {
        Item { head: head.into(), members: Some(members) }
    }

    fn text(&self) -> String {
        match &self.members {
            None => format!("{}\n", self.head),
            Some(members) => {
                let members: String = members.iter().map(|m| format!("    {m}\n")).collect();
                format!("{} {{\n{members}}}\n", self.head)
            }
        }
    }
}

impl Pond {
    /// The pond of a seed.
    pub fn draw(seed: u64, odd: Oddities) -> Pond {
        let items = grammar::items(&mut Chance::new(seed), &odd);
        Pond { items, odd, seed }
    }

    /// Its text, with all that is odd in it.
    pub fn text(&self) -> String {
        let plain: String = self.items.iter().map(Item::text).collect();
        self.odd.written(&plain, &mut Chance::new(self.seed ^ 0x0DD))
    }

    /// Its text with one slip in it, such as a person makes: a word or sign too few, twice, or misspelt.
    pub fn with_slip(&self) -> String {
        odd::slip(&self.text(), &mut Chance::new(self.seed ^ 0x511F))
    }
}
