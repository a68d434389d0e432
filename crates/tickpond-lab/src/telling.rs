//! Events in words.

use tickpond_lang::program::Cause;
use tickpond_sim::{Event, What};

use crate::timeline::Timeline;

/// An event in words, without its name: who, by whom, how much.
pub fn event_words(run: &dyn Timeline, event: &Event) -> String {
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
        What::Wave => format!("begun by {who}"),
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
