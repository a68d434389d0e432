//! Values that earlier firings of the running handler wrote to words it keeps in registers.

/// By row; cleared at a cost of the rows that were written, not of all there are.
#[derive(Default)]
pub struct Overlay {
    /// For each row one more than its place in the words, or 0.
    places: Vec<u32>,
    /// Rows that have a place.
    rows: Vec<u32>,
    words: Vec<u64>,
    /// How many words a row has.
    width: usize,
}

impl Overlay {
    /// Forgets all; from now on a row has so many words.
    pub fn begin(&mut self, width: usize) {
        self.rows.drain(..).for_each(|row| self.places[row as usize] = 0);
        self.words.clear();
        self.width = width;
    }

    /// Whether no row has words.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// The words of a row, to be written.
    pub fn at(&mut self, row: u32) -> &mut [u64] {
        let at = row as usize;
        if at >= self.places.len() {
            self.places.resize(at + 1, 0);
        }
        if self.places[at] == 0 {
            self.rows.push(row);
            self.places[at] = self.rows.len() as u32;
            self.words.resize(self.rows.len() * self.width, 0);
        }
        let place = self.places[at] as usize - 1;
        &mut self.words[place * self.width..][..self.width]
    }

    /// The words of a row, if it has any.
    pub fn get(&self, row: u32) -> Option<&[u64]> {
        let place = *self.places.get(row as usize)? as usize;
        let from = place.checked_sub(1)? * self.width;
        Some(&self.words[from..from + self.width])
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_those_of_the_last_firing_until_it_begins_anew() {
        let mut overlay = Overlay::default();
        overlay.begin(2);
        overlay.at(5).copy_from_slice(&[1, 2]);
        overlay.at(3).copy_from_slice(&[3, 4]);
        overlay.at(5).copy_from_slice(&[5, 6]);
        assert_eq!(overlay.get(5), Some(&[5, 6][..]));
        assert_eq!(overlay.get(3), Some(&[3, 4][..]));
        assert_eq!(overlay.get(4), None);
        assert_eq!(overlay.get(99), None);
        overlay.begin(1);
        assert!(overlay.is_empty());
        assert_eq!(overlay.get(5), None);
        overlay.at(3)[0] = 7;
        assert_eq!(overlay.get(3), Some(&[7][..]));
    }
}
