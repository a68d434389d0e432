//! One tick in order: phases, the handlers that ran in them with what they asked for, and what came of it.

use tickpond_lab::apart::{Came, PhaseApart, Ran};
use tickpond_lab::{Run, Timeline};

use crate::axis::plain;
use crate::drawing::{Anchor, Drawing, Type};
use crate::pens::{FAINT, GRID};
use crate::plot::{LABEL, LEFT, NOTE, STRONG, TOP, WIDTH, fitted};
use crate::wanted::{Wanted, page};

const ROW: f64 = 18.0;
/// Most rows; what goes beyond is counted.
const MOST: usize = 70;

/// A row of the page.
enum Row<'a> {
    Phase(&'a PhaseApart),
    Ran(&'a Ran),
    Came(&'a Came),
    Alike(usize),
}

/// The present tick: its phases from the top in the order of the tick; under each the handlers that ran, for whom, and what they asked
/// for; then, indented, what came of it, with the lines of the script.
pub fn tick(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let apart = &wanted.prepared.apart;
    let mut rows = Vec::new();
    for phase in apart {
        rows.push(Row::Phase(phase));
        rows.extend(phase.ran.iter().map(Row::Ran));
        for came in &phase.came {
            rows.push(Row::Came(came));
            if came.more > 0 {
                rows.push(Row::Alike(came.more));
            }
        }
    }
    let shown = rows.len().min(MOST);
    let height = TOP + shown.max(3) as f64 * ROW + 40.0;
    let (now, rate) = (run.tick(), run.cast().rate);
    let at = format!("tick {now}, {} s", plain(now as f64 / rate));
    let mut page = page(run, wanted, "one tick in order", height, &[at]);
    if rows.is_empty() {
        let middle = (WIDTH / 2.0, TOP + 30.0);
        page.text(middle, Anchor::Middle, LABEL, "nothing ran and nothing happened in this tick");
    }
    let heads = [
        (LEFT + 14.0, "handler, and what came of it"),
        (LEFT + 330.0, "for"),
        (LEFT + 560.0, "asks for"),
    ];
    for (x, words) in heads.into_iter().filter(|_| !rows.is_empty()) {
        page.text((x, TOP - 18.0), Anchor::Start, NOTE, words);
    }
    let (right, columns) = (WIDTH - 16.0, [LEFT + 14.0, LEFT + 330.0, LEFT + 560.0]);
    for (at, row) in rows.iter().take(MOST).enumerate() {
        let y = TOP + at as f64 * ROW;
        let line = match row {
            Row::Phase(phase) => {
                page.rect(LEFT - 6.0, y - 12.0, right - LEFT + 6.0, ROW - 2.0, "#edf2f2");
                page.text((LEFT, y), Anchor::Start, STRONG, phase.phase.name());
                page.text((LEFT + 90.0, y), Anchor::Start, NOTE, &phase.words());
                None
            }
            Row::Ran(ran) => {
                let cells = [&ran.head, &ran.who, &ran.asks];
                let ends = [columns[1] - 10.0, columns[2] - 10.0, right - 60.0];
                for ((x, end), cell) in columns.iter().zip(ends).zip(cells) {
                    page.text((*x, y), Anchor::Start, LABEL, &fitted(cell, end - x, LABEL));
                }
                ran.line
            }
            Row::Came(came) => {
                let words = format!("{} {}", came.what.name(), came.words);
                let x = columns[0] + 22.0;
                let ty = Type { colour: FAINT, ..LABEL };
                page.text((x, y), Anchor::Start, ty, &fitted(&words, right - 70.0 - x, ty));
                came.line
            }
            Row::Alike(count) => {
                let words = format!("and {count} more alike");
                page.text((columns[0] + 22.0, y), Anchor::Start, NOTE, &words);
                None
            }
        };
        if let Some(line) = line {
            page.text((right, y), Anchor::End, NOTE, &format!("line {line}"));
        }
        page.line((LEFT - 6.0, y + 5.0), (right, y + 5.0), GRID, 0.5);
    }
    if rows.len() > MOST {
        let words = format!("+{} more rows", rows.len() - MOST);
        page.text((LEFT, TOP + MOST as f64 * ROW), Anchor::Start, NOTE, &words);
    }
    page
}
