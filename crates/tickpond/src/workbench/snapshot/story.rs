//! The story of one entity.

use tickpond_lab::Timeline;
use tickpond_sim::{Event, What};

use super::feed::feed_line;
use super::types::{STORY_LINES, Story};
use crate::workbench::befell::Befell;
use crate::workbench::one::One;

/// What is known of one entity, alive or not; nothing if there is no such kind.
pub fn story(run: &dyn Timeline, one: &One, befell: &mut Befell) -> Option<Story> {
    let kind = one.kind_in(run.cast())?;
    let who = run.find(kind, one.number());
    let own = befell.of(run, one);
    // The newest of each sort: after an edit in the past the same name may be born again.
    let event_of = |what: What| {
        let about = |e: &&&Event| e.what == what && one.is(run.cast_at(e.tick), e.who);
        own.iter().rev().find(about).copied()
    };
    let line_of = |event: Option<&Event>| {
        let event = event?;
        event.site.and_then(|site| run.line_of(event.tick, site))
    };
    let (born, ended, hurt) = (event_of(What::Born), event_of(What::Ended), event_of(What::Hurt));
    // A maker is of the cast of then.
    let maker = born.and_then(|e| One::of(run.cast_at(e.tick), e.other?));
    Some(Story {
        name: one.name(),
        alive: who.is_some(),
        values: who.map_or_else(Vec::new, |who| run.values_of(who)),
        events: own.iter().rev().take(STORY_LINES).rev().map(|e| feed_line(run, e)).collect(),
        born_line: line_of(born),
        end_line: line_of(ended),
        maker,
        born_tick: born.map(|e| e.tick),
        end_tick: ended.map(|e| e.tick),
        hurt: hurt.map(|e| (e.tick, line_of(Some(e)))),
    })
}
