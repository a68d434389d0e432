//! The view goes where the oldest of the kind it follows is, and stays when none is left.

use crate::engine::Engine;
use crate::state::State;

impl Engine {
    pub(crate) fn put_view(&self, state: &mut State) {
        let Some(follows) = self.compiled.program.view.and_then(|view| view.follows) else {
            return;
        };
        let columns = &state.kinds[follows.index()];
        // Rows are in the order of birth.
        if let (Some(x), Some(y)) = (columns.x.first(), columns.y.first()) {
            state.view = (*x, *y);
        }
    }
}
