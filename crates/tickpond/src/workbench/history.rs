//! The places visited: back and forward through ticks, entities and lines.

use super::keys::Place;
use super::one::One;

/// Most places that are remembered.
const MOST: usize = 200;

/// Where a person was: the one focus all views share.
#[derive(Clone, Debug, PartialEq)]
pub struct Stand {
    pub tick: u64,
    pub who: Option<One>,
    /// Line and column of the script's cursor.
    pub cursor: (usize, usize),
    pub place: Place,
}

/// The places before and after the present one.
#[derive(Clone, Debug, Default)]
pub struct History {
    back: Vec<Stand>,
    forward: Vec<Stand>,
}

impl History {
    /// Notes where the person was before a jump. What lay forward is forgotten.
    pub fn leave(&mut self, from: Stand) {
        self.forward.clear();
        if self.back.last() != Some(&from) {
            self.back.push(from);
        }
        if self.back.len() > MOST {
            self.back.remove(0);
        }
    }

    /// The place before, if there is one; `now` lies forward then.
    pub fn back(&mut self, now: Stand) -> Option<Stand> {
        let to = self.back.pop()?;
        self.forward.push(now);
        Some(to)
    }

    /// The place after, if there is one.
    pub fn forward(&mut self, now: Stand) -> Option<Stand> {
        let to = self.forward.pop()?;
        self.back.push(now);
        Some(to)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn stand(tick: u64) -> Stand {
        Stand { tick, who: None, cursor: (0, 0), place: Place::Arena }
    }

    #[rstest]
    fn back_and_forward_are_each_others_reverse() {
        let mut history = History::default();
        history.leave(stand(1));
        history.leave(stand(2));
        assert_eq!(history.back(stand(3)), Some(stand(2)));
        assert_eq!(history.back(stand(2)), Some(stand(1)));
        assert_eq!(history.back(stand(1)), None);
        assert_eq!(history.forward(stand(1)), Some(stand(2)));
        assert_eq!(history.forward(stand(2)), Some(stand(3)));
        assert_eq!(history.forward(stand(3)), None);
    }

    #[rstest]
    fn a_new_jump_forgets_what_lay_forward() {
        let mut history = History::default();
        history.leave(stand(1));
        history.back(stand(2));
        history.leave(stand(5));
        assert_eq!(history.forward(stand(6)), None);
        assert_eq!(history.back(stand(6)), Some(stand(5)));
    }

    #[rstest]
    fn staying_is_not_visiting_again() {
        let mut history = History::default();
        (0..3).for_each(|_| history.leave(stand(1)));
        history.back(stand(2));
        assert_eq!(history.back(stand(1)), None);
        (0..1000).for_each(|tick| history.leave(stand(tick)));
        assert!(history.back.len() <= MOST);
    }
}
