//! Lines of the feed.

use tickpond_lab::Timeline;
use tickpond_lab::telling::event_words;
use tickpond_sim::Event;

use super::types::{FEED_LINES, FEED_LOOKS, FeedLine};
use crate::workbench::one::One;

/// The last lines of the feed up to the present tick that meet a filter: all its words must fit. A word
/// is `line:12`, the name of an event, of a phase, or a part of what the line says; with `-` before it, it
/// must not fit.
pub fn feed(run: &dyn Timeline, filter: &str) -> Vec<FeedLine> {
    let events = run.events();
    let words: Vec<&str> = filter.split_whitespace().collect();
    let mut lines: Vec<FeedLine> = Vec::new();
    for event in events.iter().rev().take(FEED_LOOKS) {
        let line = feed_line(run, event);
        if words.iter().all(|word| fits(&line, word)) {
            lines.push(line);
        }
        if lines.len() == FEED_LINES {
            break;
        }
    }
    lines.reverse();
    lines
}

pub fn fits(line: &FeedLine, word: &str) -> bool {
    if let Some(word) = word.strip_prefix('-') {
        return word.is_empty() || !fits(line, word);
    }
    if let Some(number) = word.strip_prefix("line:") {
        return number.parse().ok() == line.line;
    }
    line.what.name() == word || line.phase.name() == word || line.words.contains(word)
}

pub fn feed_line(run: &dyn Timeline, event: &Event) -> FeedLine {
    FeedLine {
        tick: event.tick,
        phase: event.phase,
        what: event.what,
        who: event.who,
        one: One::of(run.cast_at(event.tick), event.who),
        words: event_words(run, event),
        line: event.site.and_then(|site| run.line_of(event.tick, site)),
    }
}
