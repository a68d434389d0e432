//! Lines of the feed.

use tickpond_lab::Timeline;
use tickpond_lang::program::Cause;
use tickpond_sim::{Event, What};

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
        words: words_of(run, event),
        line: event.site.and_then(|site| run.line_of(event.tick, site)),
    }
}

fn words_of(run: &dyn Timeline, event: &Event) -> String {
    let cast = run.cast_at(event.tick);
    let who = cast.name_of(event.who);
    let other = event.other.map(|o| cast.name_of(o)).unwrap_or_default();
    let message = event.message.map(|m| run.message_at(event.tick, m)).unwrap_or("");
    let words = event.words.as_deref().unwrap_or("");
    let value = event.value.map(|v| format!("{}", (v * 1000.0).round() / 1000.0));
    let value = value.unwrap_or_default();
    let quoted = if words.is_empty() { String::new() } else { format!(" \"{words}\"") };
    match event.what {
        What::Born => format!("{who} by {other}"),
        What::Ended => {
            let life = event.value.unwrap_or(0.0) / cast.rate;
            let cause = event.cause.map_or("", Cause::name);
            let by = if other == who { String::new() } else { format!(" by {other}") };
            format!("{who} {cause}{quoted}{by}, lived {life:.2} s")
        }
        What::Outvoted => {
            format!("{who} {}{quoted}: came too late", event.cause.map_or("", Cause::name))
        }
        What::Touched => format!("{who} and {other}"),
        What::Hurt => format!("{who} -{value} by {other}"),
        What::Damaged => format!("{who} {value} asked by {other}"),
        What::Healed => format!("{who} +{value} by {other}"),
        What::Sent if other.is_empty() => format!("{who} {message} to {value}"),
        What::Sent => format!("{who} {message} to {other}"),
        What::Heard => format!("{who} {message} from {other}"),
        What::Unheard if message.is_empty() => format!("{who}{quoted}, asked by {other}"),
        // The sender's own: nobody was there.
        What::Unheard if other.is_empty() => format!("{who} {message}{quoted}"),
        What::Unheard => format!("{who} {message}{quoted} from {other}"),
        What::Stale => format!("{who} asked \"{words}\" of one that is gone"),
        What::Missed => format!("{who} was still waiting"),
        What::Said => format!("{who}: {words}"),
        What::Refused | What::NoPlace => format!("{who}{quoted}"),
        What::Parted => format!("{who} and {other} no longer"),
        What::Became => format!("{who} {words}"),
        What::Activated | What::Deactivated => format!("{who} by {other}"),
        What::Downed => format!("{who} by {other}, and stays"),
        What::Attached => format!("{who} {words}, {other}"),
        What::Crowded => format!("{who} still lies over {other}"),
    }
}
