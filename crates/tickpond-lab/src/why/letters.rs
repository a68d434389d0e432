//! Letters: who sent them, who heard, who had no handler, who was out of reach.

use std::collections::BTreeMap;

use tickpond_lang::program::MessageId;
use tickpond_sim::{Event, What};

use super::find::Found;
use super::{Asked, times};
use crate::timeline::Timeline;

/// Most names that are listed.
const MOST_NAMES: usize = 6;

impl Asked<'_> {
    /// What became of the letters of a message.
    pub(super) fn sent(&self, message: MessageId, lines: &mut Vec<String>) {
        let name = self.run.message_at(self.run.tick(), message).to_string();
        let of = |what: What| {
            let is = move |event: &&Event| event.what == what && event.message == Some(message);
            self.window().filter(is)
        };
        let sent: Vec<&Event> = of(What::Sent).collect();
        let Some(last) = sent.last() else {
            lines.push(format!("`{name}` was not sent in this time"));
            return;
        };
        let line = last.site.and_then(|site| self.run.line_of(last.tick, site));
        let line = line.map_or(String::new(), |line| format!(", line {line}"));
        lines.push(format!(
            "`{name}` was sent {} by {}{line}",
            times(sent.len(), &self.at(last.tick)),
            self.name(last.who)
        ));
        let nobody = sent.iter().filter(|event| event.other.is_none() && event.value == Some(0.0));
        let nobody = nobody.count();
        if nobody > 0 {
            lines.push(format!(
                "{nobody} of them found nobody: no one it was meant for was there, or near enough"
            ));
        }
        self.names("heard by", of(What::Heard), lines);
        self.names("without a handler for it:", of(What::Unheard), lines);
    }

    /// The same for a handler that waits for it, and who of its kind it did not come to.
    pub(super) fn heard_by(&self, message: MessageId, found: &Found, lines: &mut Vec<String>) {
        self.sent(message, lines);
        let heard = |event: &&Event| {
            event.what == What::Heard
                && event.message == Some(message)
                && event.who.kind == found.kind
        };
        let heard: std::collections::BTreeSet<u32> =
            self.window().filter(heard).map(|event| event.who.number).collect();
        let columns = &self.run.state().kinds[found.kind.index()];
        let deaf: Vec<u32> = (0..columns.len())
            .filter(|row| !heard.contains(&columns.number[*row]))
            .map(|row| columns.number[row])
            .collect();
        let kind = &self.run.cast().kinds[found.kind.index()].name;
        if !deaf.is_empty() && found.kind.index() > 0 {
            let shown: Vec<String> =
                deaf.iter().take(MOST_NAMES).map(|number| format!("{kind}#{number}")).collect();
            let more = deaf.len().saturating_sub(shown.len());
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            lines.push(format!(
                "it did not come to {}{more}: not meant, too far away, or not there then",
                shown.join(", ")
            ));
        }
        let resting = (0..columns.len()).filter(|row| !columns.is_active(*row)).count();
        if resting > 0 && !found.handler.while_inactive {
            lines.push(format!("{resting} of {} are inactive and hear nothing", columns.len()));
        }
    }

    /// Who is meant by events, with how often.
    fn names<'e>(
        &self,
        words: &str,
        events: impl Iterator<Item = &'e Event>,
        lines: &mut Vec<String>,
    ) {
        let mut times: BTreeMap<String, usize> = BTreeMap::new();
        for event in events {
            *times.entry(self.name(event.who)).or_default() += 1;
        }
        if times.is_empty() {
            return;
        }
        let shown = times.iter().take(MOST_NAMES);
        let shown: Vec<String> = shown.map(|(name, times)| format!("{name} ({times})")).collect();
        let more = times.len() - shown.len();
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        lines.push(format!("{words} {}{more}", shown.join(", ")));
    }
}
