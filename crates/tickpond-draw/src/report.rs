//! A run on one page: counts over time, each kind in numbers, what was expected, and what ended whom.

use tickpond_lab::{Outcome, Run, Timeline};

use crate::axis::plain;
use crate::drawing::{Anchor, Drawing, Type};
use crate::ends;
use crate::over_time::{Words, counts, draw_over_time};
use crate::pens::{FAINT, GRID, INK, pen_of};
use crate::plot::{HEIGHT, LABEL, LEFT, NOTE, STRONG, TOP, WIDTH, fitted};
use crate::wanted::Wanted;
use tickpond_lab::record::Series;
use tickpond_lang::program::Cause;

const ROW: f64 = 19.0;
/// Most rows of each table; what goes beyond is counted.
const MOST: usize = 12;
/// What failed.
const TROUBLE: &str = "#982c00";

/// A row of what was expected.
struct Expected {
    outcome: Outcome,
    words: String,
    tail: String,
}

/// The counts over time, and beneath them three tables: of each kind how many were born, are alive, were alive at once, how
/// old they became and what ended them; of each expectation its verdict, first those that failed; and the lines of the script that
/// ended most.
pub fn report(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let ticks = wanted.ticks(run.record());
    let lived = run.record().kinds.iter().filter(|s| s.ever_lived() && wanted.has(&s.name));
    let kinds: Vec<&Series> = lived.collect();
    let expected = expected(run);
    let lines = ends::lines(run, wanted);
    let height = |rows: usize| match rows {
        0 => 0.0,
        _ => 40.0 + (rows.min(MOST) + usize::from(rows > MOST)) as f64 * ROW,
    };
    let room = height(kinds.len()) + height(expected.len()) + ends::height(lines.len()) + 10.0;
    let words = Words {
        what: "the run on one page",
        upright: "alive (entities)",
        legend: "kind (peak)",
        empty: "nothing was born in this run",
        whole: true,
    };
    let (mut page, _) = draw_over_time(run, wanted, &words, counts, room);
    let mut top = TOP + HEIGHT + 66.0;
    if !kinds.is_empty() {
        table_of_kinds(&mut page, run, &kinds, &ticks, top);
        top += height(kinds.len());
    }
    if !expected.is_empty() {
        table_of_expected(&mut page, &expected, top);
        top += height(expected.len());
    }
    if !lines.is_empty() {
        ends::table(&mut page, run, &lines, top);
    }
    page
}

fn table_of_kinds(
    page: &mut Drawing,
    run: &Run,
    kinds: &[&Series],
    ticks: &std::ops::Range<usize>,
    head: f64,
) {
    let columns = [LEFT + 210.0, LEFT + 280.0, LEFT + 350.0, LEFT + 480.0];
    page.text((LEFT, head), Anchor::Start, STRONG, "Kinds");
    for (x, name) in columns.iter().zip(["born", "alive", "at once", "lived (median)"]) {
        page.text((*x, head), Anchor::End, NOTE, name);
    }
    page.text((columns[3] + 24.0, head), Anchor::Start, NOTE, "ended by");
    let rate = run.cast().rate;
    for (row, series) in kinds.iter().take(MOST).enumerate() {
        let y = head + 22.0 + row as f64 * ROW;
        page.line((LEFT, y + 5.0), (WIDTH - 16.0, y + 5.0), GRID, 1.0);
        pen_of(run.cast(), &series.name).mark(page, (LEFT + 4.0, y - 4.0));
        page.text((LEFT + 16.0, y), Anchor::Start, LABEL, &fitted(&series.name, 130.0, LABEL));
        let last = ticks.end.saturating_sub(1);
        let alive = if ticks.is_empty() { 0 } else { series.live.peak(last..ticks.end) };
        let mut lives: Vec<u64> = series
            .lives
            .iter()
            .filter(|life| ticks.contains(&(life.end as usize)))
            .map(|life| life.ticks)
            .collect();
        lives.sort_unstable();
        let median =
            lives.get(lives.len() / 2).map(|ticks| format!("{} s", plain(*ticks as f64 / rate)));
        let cells = [
            series.born.sum(ticks.clone()).to_string(),
            alive.to_string(),
            series.live.peak(ticks.clone()).to_string(),
            median.unwrap_or_else(|| "-".into()),
        ];
        for (x, cell) in columns.iter().zip(cells) {
            page.text((*x, y), Anchor::End, LABEL, &cell);
        }
        let ended =
            |cause: Cause| series.ended_by(cause, ticks.end) - series.ended_by(cause, ticks.start);
        let causes: Vec<String> = Cause::ALL
            .into_iter()
            .filter(|cause| ended(*cause) > 0)
            .map(|cause| format!("{} {}", cause.name(), ended(cause)))
            .collect();
        let x = columns[3] + 24.0;
        let causes = fitted(&causes.join(", "), WIDTH - 16.0 - x, LABEL);
        page.text((x, y), Anchor::Start, LABEL, &causes);
    }
    more(page, kinds.len(), "kinds", head);
}

/// What was expected, first what failed; with what was seen.
fn expected(run: &Run) -> Vec<Expected> {
    let program = run.program();
    let rate = program.rate;
    let pairs = program.expects.iter().zip(run.verdicts());
    let mut rows: Vec<Expected> = pairs
        .map(|(expect, verdict)| {
            let line = program.lines.line(expect.span.start);
            let saw = verdict.saw.as_ref().map_or(String::new(), |saw| format!(": {saw}"));
            let when = verdict
                .failed
                .map_or(String::new(), |tick| format!("at {} s, ", plain(tick as f64 / rate)));
            Expected {
                outcome: verdict.outcome(),
                words: format!("{}{saw}", expect.words),
                tail: format!("{when}line {line}"),
            }
        })
        .collect();
    rows.sort_by_key(|row| row.outcome != Outcome::Failed);
    rows
}

fn table_of_expected(page: &mut Drawing, rows: &[Expected], head: f64) {
    page.text((LEFT, head), Anchor::Start, STRONG, "Expected");
    for (row, expected) in rows.iter().take(MOST).enumerate() {
        let y = head + 22.0 + row as f64 * ROW;
        page.line((LEFT, y + 5.0), (WIDTH - 16.0, y + 5.0), GRID, 1.0);
        let (word, colour, bold) = match expected.outcome {
            Outcome::Held => ("held", INK, false),
            Outcome::Failed => ("FAILED", TROUBLE, true),
            _ => ("open", FAINT, false),
        };
        let ty = Type { colour, bold, ..LABEL };
        page.text((LEFT, y), Anchor::Start, ty, word);
        let room = WIDTH - 16.0 - 170.0 - LEFT - 70.0;
        page.text((LEFT + 66.0, y), Anchor::Start, LABEL, &fitted(&expected.words, room, LABEL));
        page.text((WIDTH - 16.0, y), Anchor::End, NOTE, &expected.tail);
    }
    more(page, rows.len(), "expectations", head);
}

fn more(page: &mut Drawing, count: usize, what: &str, head: f64) {
    if count > MOST {
        let y = head + 22.0 + MOST as f64 * ROW;
        let words = format!("+{} more {what}", count - MOST);
        page.text((LEFT + 16.0, y), Anchor::Start, NOTE, &words);
    }
}
