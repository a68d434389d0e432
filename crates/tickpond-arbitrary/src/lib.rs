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
pub use shrink::{Ponds, ponds};

/// How many ponds a property test draws: `TICKPOND_CASES` asks for another number, as `scripts/deep` does.
pub fn cases(usual: u32) -> u32 {
    std::env::var("TICKPOND_CASES").ok().and_then(|n| n.parse().ok()).unwrap_or(usual)
}

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
