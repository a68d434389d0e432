//! All tests of the crate in one program: it is built and linked once.

mod bounded;
mod by_chance;
mod cut_off;
mod errors;
mod formatting;
mod grammar;
mod held;
mod mends;
mod model;
mod near_misses;
mod recovery;
mod reference;
mod set_out;
mod slips;
mod suggestions;
mod tree;
mod types;
mod wording;
mod wrong;
mod wrong_units;
