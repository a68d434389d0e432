//! Tick Pond.
fn main() {}
