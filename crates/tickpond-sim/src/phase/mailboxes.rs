//! Mailboxes: messages that wait for their addressees' handlers.

/// For each kind and handler, who has heard which letter: row, and place among the letters.
pub(crate) type Boxes = Vec<Vec<Vec<(u32, u32)>>>;
