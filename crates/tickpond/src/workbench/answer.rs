//! What the simulation has to say to the drawer.

use std::any::Any;
use std::fmt;
use std::sync::Arc;

use tickpond_lab::between::Between;

use super::wish::Wish;

/// The answer to a wish: what every view may show, and what one view alone knows how to read.
#[derive(Clone, Default)]
pub struct Answer {
    /// What was asked; none if nothing was.
    pub wish: Option<Wish>,
    /// Why the question cannot be answered.
    pub trouble: Option<String>,
    /// What differs from the run before, in words, the largest difference first.
    pub changes: Vec<String>,
    /// What lies between the marked tick and the present one.
    pub between: Option<Between>,
    /// What the view that is shown wanted, in a type of its own.
    own: Option<Arc<dyn Any + Send + Sync>>,
}

impl Answer {
    /// An answer to a wish, of which nothing is said so far.
    pub fn to(wish: Wish, changes: Vec<String>) -> Answer {
        Answer { wish: Some(wish), changes, ..Answer::default() }
    }

    /// What the view of this type wanted; none if another is shown.
    pub fn own<T: Any>(&self) -> Option<&T> {
        self.own.as_ref()?.downcast_ref()
    }

    /// Gives the view what it wanted.
    pub fn give<T: Any + Send + Sync>(&mut self, own: T) {
        self.own = Some(Arc::new(own));
    }
}

impl fmt::Debug for Answer {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Answer").field("wish", &self.wish).finish_non_exhaustive()
    }
}
