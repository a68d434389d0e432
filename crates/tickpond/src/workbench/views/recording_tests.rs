//! What happened over time need not be a run: views show a recording, too, by its own names.

use std::collections::BTreeMap;
use std::sync::Arc;

use rstest::rstest;
use tickpond_lab::timeline::Alive;
use tickpond_lab::{Cast, Input, Past, Record, Run, RunOptions, Timeline};
use tickpond_lang::program::{MessageId, SiteId};
use tickpond_sim::{Event, Who};

use super::DrawerView;
use super::lifelines::answer::lanes;
use super::refused::answer::Refused;
use super::trends::answer::Drawn;
use crate::workbench::answer::Answer;
use crate::workbench::answers::{Known, answer};
use crate::workbench::snapshot::feed;
use crate::workbench::wish::{Trend, Wish};

/// Something somebody else wrote down: no program, no states, no lines.
struct Recording {
    cast: Arc<Cast>,
    record: Record,
    alive: Vec<Alive>,
    input: BTreeMap<u64, Vec<Input>>,
    tick: u64,
}

impl Timeline for Recording {
    fn tick(&self) -> u64 {
        self.tick
    }
    fn head(&self) -> u64 {
        self.record.len as u64 - 1
    }
    fn cast_at(&self, _: u64) -> &Arc<Cast> {
        &self.cast
    }
    fn record(&self) -> &Record {
        &self.record
    }
    fn events(&self) -> &[Event] {
        self.record.events_until(self.tick)
    }
    fn alive(&self) -> Vec<Alive> {
        self.alive.clone()
    }
    fn edition(&self) -> (u64, u64) {
        (0, 0)
    }
    fn line_of(&self, _: u64, _: SiteId) -> Option<u32> {
        None
    }
    fn message_at(&self, _: u64, _: MessageId) -> &str {
        "a message"
    }
    fn values_of(&self, _: Who) -> Vec<(String, String)> {
        Vec::new()
    }
    fn input(&self) -> &BTreeMap<u64, Vec<Input>> {
        &self.input
    }
    fn pasts(&self) -> &[Past] {
        &[]
    }
    fn edits(&self) -> Vec<u64> {
        Vec::new()
    }
}

/// One newt a second from a bed, each for two and a half seconds: at 4 s two are there, and one has ended.
fn recording() -> Recording {
    let text = "pond \"t\" { arena 20 x 20 }\nkind newt { after 2.5 s { end self } }\n\
        spawner bed { makes newt at here; every 1 s }\nplace bed at (5, 5)";
    let program = tickpond_lang::compile(text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(240);
    let mut cast = Cast::clone(Timeline::cast(&run));
    for kind in &mut cast.kinds {
        kind.name = kind.name.replace("newt", "eft");
    }
    Recording {
        cast: Arc::new(cast),
        record: run.record().clone(),
        alive: run.alive(),
        input: BTreeMap::new(),
        tick: 240,
    }
}

fn asked(wish: Wish) -> Answer {
    answer(&mut recording(), &wish, &mut Known::default(), &[], true)
}

#[rstest]
fn counts_of_a_recording_are_drawn() {
    let wish = Wish { view: DrawerView::Trends, columns: 100, ..Wish::default() };
    let answer = asked(Wish { trend: Trend::Counts, ..wish });
    let drawn = answer.own::<Drawn>().unwrap();
    let newts = drawn.chart.series.iter().find(|series| series.name == "newt").unwrap();
    assert_eq!((newts.last, drawn.chart.now), (3.0, Some(4.0)));
    // What was born and ended where the cursor is has the cast's names and no line.
    let here = &drawn.here.lines;
    assert!(here.iter().all(|line| line.kind == "eft" && line.line.is_none()), "{here:?}");
}

#[rstest]
fn lives_of_a_recording_have_the_names_of_its_cast() {
    let answer = asked(Wish { view: DrawerView::Lifelines, columns: 10, ..Wish::default() });
    let lanes = lanes(&answer);
    let of = |lane: &tickpond_lab::lifelines::Lane| (lane.name.clone(), lane.ended.map(|e| e.0));
    let efts: Vec<_> = lanes.iter().map(of).filter(|(name, _)| name.starts_with("eft")).collect();
    let ended = 60 + 150;
    let names = ["eft#1", "eft#2", "eft#3", "eft#4"];
    assert_eq!(efts.iter().map(|(name, _)| name.as_str()).collect::<Vec<_>>(), names);
    assert_eq!(efts.iter().filter_map(|(_, end)| *end).collect::<Vec<_>>(), [ended]);
}

#[rstest]
fn narrowing_a_recording_goes_by_names() {
    let wish = Wish { view: DrawerView::Lifelines, columns: 10, ..Wish::default() };
    let answer = asked(Wish { filter: "eft#2".into(), ..wish });
    assert_eq!(lanes(&answer).iter().map(|lane| lane.name.as_str()).collect::<Vec<_>>(), ["eft#2"]);
}

#[rstest]
fn what_needs_a_run_is_empty_and_no_fault() {
    for view in DrawerView::ALL {
        asked(Wish { view, columns: 10, ..Wish::default() });
    }
    let answer = asked(Wish { view: DrawerView::Anatomy, ..Wish::default() });
    assert!(super::anatomy::answer::lines(&answer).is_empty());
    let answer = asked(Wish { view: DrawerView::Refused, ..Wish::default() });
    assert!(answer.own::<Refused>().unwrap().rows.is_empty());
}

#[rstest]
fn the_feed_of_a_recording_names_its_cast() {
    let lines = feed(&recording(), "ended");
    let told: Vec<_> = lines.iter().map(|line| line.words.as_str()).collect();
    assert_eq!(told.len(), 1);
    assert!(told[0].starts_with("eft#1"), "{told:?}");
}
