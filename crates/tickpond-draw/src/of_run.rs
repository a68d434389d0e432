//! The drawings of a run, by name: one line each.

use std::collections::BTreeMap;

use tickpond_lab::Run;
use tickpond_lab::apart::apart;
use tickpond_lang::program::KindId;

use crate::drawing::Drawing;
use crate::wanted::{Prepared, Wanted, Way};

/// A drawing of a run.
pub struct RunDrawing {
    /// Its name, as a person asks for it.
    pub name: &'static str,
    /// What it shows.
    pub words: &'static str,
    /// Which ticks can be chosen.
    pub ticks: Ticks,
    /// Whether another run can be drawn beneath.
    pub has_beside: bool,
    /// Draws it for the run's present place.
    pub draw: fn(&Run, &Wanted<'_>) -> Drawing,
}

/// Which ticks of a run can be chosen for a drawing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ticks {
    /// A stretch.
    Stretch,
    /// One tick.
    One,
    /// A stretch, or the tick it ends with.
    Both,
}

/// All drawings of a run.
pub const DRAWINGS: &[RunDrawing] = &[
    RunDrawing {
        name: "counts",
        words: "how many of each kind are alive over time, and what ended them",
        ticks: Ticks::Stretch,
        has_beside: true,
        draw: crate::counts::draw_counts,
    },
    RunDrawing {
        name: "states",
        words: "how many of each kind are in each state over time",
        ticks: Ticks::Stretch,
        has_beside: true,
        draw: crate::over_time::states,
    },
    RunDrawing {
        name: "changes",
        words: "the states of each kind: how long one stays, and which change was taken by which line",
        ticks: Ticks::Stretch,
        has_beside: false,
        draw: crate::changes::changes,
    },
    RunDrawing {
        name: "watches",
        words: "what is watched, over time",
        ticks: Ticks::Stretch,
        has_beside: true,
        draw: crate::over_time::watches,
    },
    RunDrawing {
        name: "ends",
        words: "ends by cause over time, and the lines of the script that did it",
        ticks: Ticks::Stretch,
        has_beside: true,
        draw: crate::ends::ends,
    },
    RunDrawing {
        name: "lifetimes",
        words: "the share of each kind that lives longer than an age",
        ticks: Ticks::Both,
        has_beside: false,
        draw: crate::lifetimes::lifetimes,
    },
    RunDrawing {
        name: "lifelines",
        words: "a lane for each entity: states, hurts, messages, its end",
        ticks: Ticks::Both,
        has_beside: false,
        draw: crate::lifelines::lifelines,
    },
    RunDrawing {
        name: "family",
        words: "which kind or spawner makes which, and which ends which by what",
        ticks: Ticks::Stretch,
        has_beside: false,
        draw: crate::family::family,
    },
    RunDrawing {
        name: "arena",
        words: "the arena at one tick, bodies to scale; from a tick on with the ways there",
        ticks: Ticks::Both,
        has_beside: false,
        draw: crate::arena::arena,
    },
    RunDrawing {
        name: "tick",
        words: "one tick in order: phases, handlers, what they asked for, what came of it",
        ticks: Ticks::One,
        has_beside: false,
        draw: crate::tick::tick,
    },
    RunDrawing {
        name: "report",
        words: "the run on one page: counts, kinds in numbers, verdicts, lines that ended most",
        ticks: Ticks::Stretch,
        has_beside: true,
        draw: crate::report::report,
    },
];

/// How often a second places are noted for the ways to where one is.
const A_SECOND: f64 = 20.0;
/// Most places that are noted.
const MOST_PLACES: usize = 15_000;

/// What the drawing of this name needs that only playing ticks once more can tell: the present tick taken apart, or the
/// ways of everyone from a tick on. The run is where it was afterwards.
pub fn prepare(run: &mut Run, name: &str, from: Option<u64>) -> Prepared {
    match (name, from) {
        ("tick", _) => Prepared { apart: apart(run), ..Prepared::default() },
        ("arena", Some(from)) => {
            let (ways, too_many) = ways(run, from);
            Prepared { ways, too_many, ..Prepared::default() }
        }
        _ => Prepared::default(),
    }
}

/// The ways of everyone from a tick on up to the present one; none if they are too many, which is told, too.
fn ways(run: &mut Run, from: u64) -> (Vec<Way>, bool) {
    let every = (run.program().rate / A_SECOND).round().max(1.0) as u64;
    let now = run.tick();
    let mut ways: BTreeMap<(KindId, u32), Way> = BTreeMap::new();
    let mut noted = 0;
    run.look_back(from, |run| {
        if !(run.tick().is_multiple_of(every) || run.tick() == now) || noted > MOST_PLACES {
            return;
        }
        for (at, columns) in run.state().kinds.iter().enumerate().skip(1) {
            let kind = KindId(at as u32);
            for row in 0..columns.len() {
                let way = ways
                    .entry((kind, columns.number[row]))
                    .or_insert_with(|| Way { kind, places: Vec::new() });
                way.places.push((columns.x[row], columns.y[row]));
                noted += 1;
            }
        }
    });
    let too_many = noted > MOST_PLACES;
    (if too_many { Vec::new() } else { ways.into_values().collect() }, too_many)
}

/// The drawing of this name.
pub fn drawing_named(name: &str) -> Option<&'static RunDrawing> {
    DRAWINGS.iter().find(|drawing| drawing.name == name)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::drawing::{Anchor, Mark, Step};
    use crate::fonts::FONTS;
    use rstest::rstest;
    use tickpond_lab::RunOptions;

    /// A shipped pond.
    fn shipped(name: &str) -> String {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../ponds/");
        std::fs::read_to_string(format!("{folder}{name}.pond")).unwrap()
    }

    /// Thirty kinds with long names, states and watches with them; many born, all of them hurt.
    fn many() -> String {
        let mut text = "pond \"Many, many <kinds> & long names of ponds that go on and on and on and on\" { arena 60 x 400 }\n".to_string();
        for at in 0..30 {
            text += &format!(
                "kind a_midge_with_a_name_of_some_length_{at} {{ health 3; states {{ calm, startled_and_gone_{at} }}\n\
                 after 0.3 s {{ become startled_and_gone_{at} }} every 0.2 s {{ damage self by 1 }} }}\n\
                 place a_midge_with_a_name_of_some_length_{at} at (5, {})\n\
                 watch how_many_of_them_{at} = count(a_midge_with_a_name_of_some_length_{at}) * {at} - 9\n",
                at * 12
            );
        }
        text
    }

    /// More than are drawn one by one.
    fn crowd() -> String {
        "pond \"Crowd\" { arena 100 x 50 }\nkind midge { }\nkind moth { look \"m\" rose }\n\
         on birth { spawn 1700 midge anywhere; spawn 60 moth at (20, 20) }"
            .replace("on birth", "after 0.1 s")
    }

    /// Zones, spots and a view one over the other and beyond the edges.
    fn named_places() -> String {
        let mut text = "pond \"Places\" { arena 100 x 60\n view 40 x 30 follows frog }\n\
            kind frog { after 9 s { end self } }\nplace frog at (3, 57)\n"
            .to_string();
        for at in 0..8 {
            text += &format!(
                "zone shallows_of_{at} = box ({}, 20) size 30 x 9\nzone eddy_{at} = circle ({}, 40) radius 4 u\n\
                 spots reeds_{at} {{ ({}, 59), ({}, 22) }}\n",
                at * 3,
                at * 14,
                100 - at,
                10 + at
            );
        }
        text
    }

    #[rstest]
    fn a_name_stands_where_it_has_room_or_is_told_to_have_none() {
        let run = run(&named_places(), 1);
        let drawing = (drawing_named("arena").unwrap().draw)(&run, &Wanted::default());
        let words: Vec<&str> = drawing.texts().collect();
        let told = words.iter().find_map(|words| words.strip_prefix("no room for the names of "));
        let told = told.expect("not all have room");
        let stands = |name: &str| words.contains(&name);
        let first_untold =
            |name: &str| told.starts_with(name) || told.contains(&format!(" {name}"));
        // The first of all lie free.
        assert!(stands("shallows_of_0") && stands("eddy_1") && stands("reeds_0") && stands("view"));
        let names = (0..8).flat_map(|at| {
            [format!("shallows_of_{at}"), format!("eddy_{at}"), format!("reeds_{at}")]
        });
        for name in names.filter(|name| stands(name)) {
            assert!(!first_untold(&name), "{name} in {told}");
        }
    }

    fn run(text: &str, ticks: u64) -> Run {
        let compiled = tickpond_lang::compile(text);
        let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
        let mut run = Run::new(program, RunOptions::default()).unwrap();
        run.play_to(ticks);
        run
    }

    /// Left, top, right and base of each text.
    fn boxes(drawing: &Drawing) -> Vec<([f64; 4], &str)> {
        let texts = drawing.marks.iter().filter_map(|mark| match mark {
            Mark::Text { at: (x, y), anchor, size, bold, words, .. } => {
                let width = FONTS.width(words, *bold) * size;
                let left = match anchor {
                    Anchor::Start => *x,
                    Anchor::Middle => x - width / 2.0,
                    Anchor::End => x - width,
                };
                Some(([left, y - size * 0.74, left + width, y + size * 0.2], words.as_str()))
            }
            _ => None,
        });
        texts.collect()
    }

    fn places(drawing: &Drawing) -> Vec<(f64, f64)> {
        let mut places = Vec::new();
        for mark in &drawing.marks {
            match mark {
                Mark::Rect { at, size, .. } => {
                    places.extend([*at, (at.0 + size.0, at.1 + size.1)]);
                }
                Mark::Line { from, to, .. } => places.extend([*from, *to]),
                Mark::Circle { at, .. } => places.push(*at),
                Mark::Path { steps, .. } => {
                    for step in steps {
                        match *step {
                            Step::Move(x, y) | Step::Line(x, y) => places.push((x, y)),
                            Step::Across(x) => places.push((x, 0.0)),
                            Step::Along(y) => places.push((0.0, y)),
                            Step::Close => {}
                        }
                    }
                }
                Mark::Text { .. } => {}
            }
        }
        places
    }

    #[rstest]
    fn all_is_on_the_page_and_no_label_lies_on_another(
        #[values(
            &shipped("dusk"),
            &shipped("gallery/18_states"),
            &shipped("gallery/11_edges_and_lines"),
            &shipped("gallery/06_out_of_sight"), "pond \"Still\" { arena 10 x 10 }", &many(), &crowd(),
            &named_places())]
        text: &str,
        #[values(0, 40, 900)] ticks: u64,
    ) {
        let mut run = run(text, ticks);
        let spans = [None, Some(ticks / 2)];
        for (kind, from) in DRAWINGS.iter().flat_map(|kind| spans.iter().map(move |f| (kind, *f))) {
            let prepared = prepare(&mut run, kind.name, from);
            let wanted = Wanted { from, prepared, ..Wanted::default() };
            let drawing = (kind.draw)(&run, &wanted);
            let (width, height) = (drawing.width, drawing.height);
            for (x, y) in places(&drawing) {
                let inside =
                    (-0.01..=width + 0.01).contains(&x) && (-0.01..=height + 0.01).contains(&y);
                assert!(inside, "{}: ({x}, {y}) of {width} x {height}", kind.name);
            }
            let boxes = boxes(&drawing);
            for (at, (one, words)) in boxes.iter().enumerate() {
                let [left, top, right, base] = *one;
                let inside = left >= 0.0 && top >= 0.0 && right <= width && base <= height;
                assert!(inside, "{}: {words:?} at {one:?} of {width} x {height}", kind.name);
                for (other, over) in &boxes[at + 1..] {
                    let apart = right <= other[0]
                        || other[2] <= left
                        || base <= other[1]
                        || other[3] <= top;
                    assert!(apart, "{}: {words:?} lies on {over:?}", kind.name);
                }
            }
            let svg = crate::to_svg(&drawing);
            roxmltree::Document::parse(&svg).unwrap_or_else(|why| panic!("{}: {why}", kind.name));
            assert!(crate::to_pdf(&drawing).is_ok_and(|pdf| pdf.starts_with(b"%PDF")));
            assert!(svg.len() < 600_000, "{}: {}", kind.name, svg.len());
        }
    }

    #[rstest]
    fn names_are_each_of_one_drawing() {
        let mut names: Vec<&str> = DRAWINGS.iter().map(|kind| kind.name).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), DRAWINGS.len());
    }
}
