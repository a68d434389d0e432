//! What ended them: ends by cause over time, and by the line that did it.

use tickpond_lab::{Record, Run, Timeline};
use tickpond_lang::program::Cause;
use tickpond_sim::What;

use crate::drawing::{Anchor, Drawing};
use crate::over_time::{Curve, Words, draw_over_time};
use crate::pens::{GRID, pen};
use crate::plot::{HEIGHT, LABEL, LEFT, NOTE, STRONG, TOP, WIDTH, fitted};
use crate::wanted::Wanted;

const ROW: f64 = 20.0;
/// Most lines of the script that are listed.
const MOST: usize = 12;

/// How many have ended by each cause, over time, and beneath it the lines of the script that ended most.
pub fn ends(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let lines = lines(run, wanted);
    let room = height(lines.len());
    let words = Words {
        what: "what ended them",
        upright: "ended so far (entities)",
        legend: "cause (in all)",
        empty: "nobody has ended in this time",
        whole: true,
    };
    let (mut page, _) = draw_over_time(run, wanted, &words, causes, room);
    if !lines.is_empty() {
        table(&mut page, run, &lines, TOP + HEIGHT + 66.0);
    }
    page
}

/// How many ended by each cause since the first wanted tick.
fn causes<'a>(_: &Run, record: &'a Record, wanted: &Wanted<'_>) -> Vec<Curve<'a>> {
    let from = wanted.ticks(record).start;
    let names: Vec<bool> = record.kinds.iter().map(|s| wanted.has(&s.name)).collect();
    let ended = move |cause: Cause, len: usize| {
        let kinds = record.kinds.iter().zip(&names).filter(|(_, wanted)| **wanted);
        kinds.map(|(s, _)| s.ended_by(cause, len) - s.ended_by(cause, from.min(len))).sum::<u64>()
    };
    let until = wanted.ticks(record).end;
    let shown = Cause::ALL.into_iter().filter(|cause| ended(*cause, until) > 0);
    let shown: Vec<Cause> = shown.collect();
    let ended = std::rc::Rc::new(ended);
    let curves = shown.into_iter().map(|cause| {
        let ended = ended.clone();
        Curve {
            name: cause.name().to_string(),
            // A cause has the same pen in every drawing.
            pen: pen(cause as usize),
            span: Box::new(move |ticks| {
                let low = ended(cause, ticks.start + 1);
                Some((low as f64, ended(cause, ticks.end) as f64))
            }),
        }
    });
    curves.collect()
}

/// So many of a kind that a line ended, by a cause: the most first.
pub(crate) struct Line {
    kind: String,
    cause: &'static str,
    line: Option<u32>,
    count: usize,
}

pub(crate) fn lines(run: &Run, wanted: &Wanted<'_>) -> Vec<Line> {
    let ticks = wanted.ticks(run.record());
    let mut lines: Vec<Line> = Vec::new();
    let events = run.record().events().iter().filter(|event| event.what == What::Ended);
    for event in events.filter(|event| ticks.contains(&(event.tick as usize))) {
        let cast = run.cast_at(event.tick);
        let Some(kind) = cast.kinds.get(event.who.kind.index()) else { continue };
        if !wanted.has(&kind.name) {
            continue;
        }
        let cause = event.cause.map_or("", Cause::name);
        let line = event.site.and_then(|site| run.line_of(event.tick, site));
        let same = |l: &&mut Line| (l.kind.as_str(), l.cause, l.line) == (&kind.name, cause, line);
        match lines.iter_mut().find(same) {
            Some(known) => known.count += 1,
            None => lines.push(Line { kind: kind.name.clone(), cause, line, count: 1 }),
        }
    }
    lines.sort_by(|a, b| {
        (b.count, a.line, &a.kind, a.cause).cmp(&(a.count, b.line, &b.kind, b.cause))
    });
    lines
}

/// How high the table of so many lines is.
pub(crate) fn height(lines: usize) -> f64 {
    if lines == 0 { 0.0 } else { 34.0 + lines.min(MOST + 1) as f64 * ROW }
}

pub(crate) fn table(page: &mut Drawing, run: &Run, lines: &[Line], head: f64) {
    let columns = [LEFT + 70.0, LEFT + 190.0, LEFT + 280.0, LEFT + 340.0];
    page.text((LEFT, head), Anchor::Start, STRONG, "Ended");
    for (x, name) in columns.iter().zip(["kind", "cause", "line", "which says"]) {
        page.text((*x, head), Anchor::Start, NOTE, name);
    }
    let kept = run.record().kept_from();
    if kept > 0 {
        let words = format!("events before tick {kept} are not kept: they are not in this list");
        page.text((WIDTH - 16.0, head), Anchor::End, NOTE, &words);
    }
    let text = run.newest().text.clone();
    for (row, line) in lines.iter().take(MOST).enumerate() {
        let y = head + 22.0 + row as f64 * ROW;
        page.line((LEFT, y + 5.0), (WIDTH - 16.0, y + 5.0), GRID, 1.0);
        let says = line.line.and_then(|at| text.lines().nth(at as usize - 1)).unwrap_or("");
        page.text((LEFT, y), Anchor::Start, LABEL, &line.count.to_string());
        let cells = [
            fitted(&line.kind, 112.0, LABEL),
            line.cause.to_string(),
            line.line.map_or("-".into(), |line| line.to_string()),
            fitted(says.trim(), WIDTH - 16.0 - columns[3], LABEL),
        ];
        for (x, cell) in columns.iter().zip(cells) {
            page.text((*x, y), Anchor::Start, LABEL, &cell);
        }
    }
    if lines.len() > MOST {
        let rest: usize = lines[MOST..].iter().map(|line| line.count).sum();
        let y = head + 22.0 + MOST as f64 * ROW;
        let words = format!("{rest} more, by {} other lines and causes", lines.len() - MOST);
        page.text((LEFT, y), Anchor::Start, NOTE, &words);
    }
}
