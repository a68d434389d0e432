//! The play's own keys: press, hold, release.
//!
//! Where the terminal reports releases, keys are down as long as they are. Elsewhere a press is known and its repeats,
//! and nothing tells one from the other but their rhythm: repeats come in quick succession, after a pause that begins
//! with the press. So a press is a press at once, and the key goes up again after a moment. One that comes after such a
//! pause is looked at for a twentieth of a second: with another right behind it, the key is being held, and was not
//! pressed again; else it is a press.
//!
//! With Shift, Alt or Ctrl a key latches: it stays down until it is pressed again.

use std::collections::BTreeMap;

use crossterm::event::{KeyCode, KeyEvent};
use tickpond_lab::Cast;

use super::command::Command;
use super::snapshot::Snapshot;

/// How long a press lasts, in seconds, and how long a held key stays down after its last repeat.
const SHORT: f64 = 0.15;
/// Most seconds from one repeat to the next.
const REPEAT: f64 = 0.09;
/// Least and most seconds from a press to its first repeat.
const PAUSE: (f64, f64) = (0.18, 0.8);

/// The play's own keys.
#[derive(Clone, Debug, Default)]
pub struct Controls {
    /// Whether keys go to the play.
    pub on: bool,
    /// Whether the terminal reports releases.
    pub reports_release: bool,
    keys: BTreeMap<String, Key>,
}

/// A key as far as it is known without its release.
#[derive(Clone, Copy, Debug, Default)]
struct Key {
    down: Down,
    /// When it came last.
    came: f64,
    /// When it was pressed last.
    pressed: f64,
    /// It is being held: what comes are repeats.
    repeats: bool,
    /// It came again and may be a press or a repeat: with what was asked of it, until when.
    waits: Option<(bool, f64)>,
}

#[derive(Clone, Copy, Debug, Default, PartialEq)]
enum Down {
    #[default]
    No,
    Until(f64),
    Latched,
}

impl Controls {
    pub fn new(reports_release: bool) -> Controls {
        Controls { reports_release, ..Controls::default() }
    }

    /// Inputs that stay down until pressed again.
    pub fn latched(&self) -> impl Iterator<Item = &str> {
        self.keys.iter().filter(|(_, key)| key.down == Down::Latched).map(|(name, _)| name.as_str())
    }

    /// Takes in a key at a time in seconds; `None` if it is no key of the play.
    pub fn press(&mut self, key: KeyEvent, now: f64, snapshot: &Snapshot) -> Option<Vec<Command>> {
        let cast = snapshot.cast.as_ref()?;
        let input = input_of(cast, key)?;
        if self.reports_release {
            let repeats = key.kind == crossterm::event::KeyEventKind::Repeat;
            return Some(if repeats { Vec::new() } else { vec![Command::Key(input, true)] });
        }
        let latches =
            !key.modifiers.is_empty() || matches!(key.code, KeyCode::Char(c) if c.is_uppercase());
        let held_too = used_while_held(cast, &input);
        let is_new = !self.keys.contains_key(&input);
        let known = self.keys.entry(input.clone()).or_default();
        let (since, gap) = (now - known.pressed, now - known.came);
        known.came = now;
        let repeats = !is_new && gap <= REPEAT && (known.repeats || known.waits.is_some());
        if repeats {
            let begins = known.waits.take().is_some();
            known.repeats = true;
            if known.down == Down::Latched {
                return Some(Vec::new());
            }
            // Held on, it is down on; that it was up in the pause before cannot be helped.
            let again = begins && held_too && known.down == Down::No;
            if again || known.down != Down::No {
                known.down = Down::Until(now + SHORT);
            }
            return Some(if again { vec![Command::Key(input, true)] } else { Vec::new() });
        }
        known.repeats = false;
        // The same pause can be one between two presses.
        if !is_new && (PAUSE.0..=PAUSE.1).contains(&since) && known.waits.is_none() {
            known.waits = Some((latches, now + REPEAT));
            return Some(Vec::new());
        }
        let mut commands = Vec::new();
        if known.waits.take().is_some() {
            commands.extend(known.go_down(&input, false, now));
        }
        commands.extend(known.go_down(&input, latches, now));
        Some(commands)
    }

    /// Takes in a key that went up.
    pub fn release(&mut self, key: KeyEvent, snapshot: &Snapshot) -> Vec<Command> {
        let cast = snapshot.cast.as_ref().filter(|_| self.reports_release);
        let input = cast.and_then(|p| input_of(p, key));
        input.map(|input| vec![Command::Key(input, false)]).unwrap_or_default()
    }

    /// Takes for presses what no repeat has followed, and lets those go whose time is over.
    pub fn tick(&mut self, now: f64) -> Vec<Command> {
        let mut commands = Vec::new();
        for (name, key) in &mut self.keys {
            if let Some((latches, until)) = key.waits
                && now >= until
            {
                key.waits = None;
                commands.extend(key.go_down(name, latches, now));
            }
            if matches!(key.down, Down::Until(until) if now >= until) {
                key.down = Down::No;
                commands.push(Command::Key(name.clone(), false));
            }
        }
        commands
    }

    /// Lets everything go.
    pub fn release_all(&mut self) -> Vec<Command> {
        let keys = std::mem::take(&mut self.keys).into_iter();
        let down = keys.filter(|(_, key)| key.down != Down::No);
        down.map(|(name, _)| Command::Key(name, false)).collect()
    }
}

impl Key {
    /// A press: down, from up even if it is still down from the press before.
    fn go_down(&mut self, input: &str, latches: bool, now: f64) -> Vec<Command> {
        self.pressed = now;
        let was = self.down;
        if was == Down::Latched {
            self.down = Down::No;
            return vec![Command::Key(input.to_string(), false)];
        }
        self.down = if latches { Down::Latched } else { Down::Until(now + SHORT) };
        let up = (was != Down::No).then(|| Command::Key(input.to_string(), false));
        up.into_iter().chain([Command::Key(input.to_string(), true)]).collect()
    }
}

fn input_of(cast: &Cast, key: KeyEvent) -> Option<String> {
    let name = match key.code {
        KeyCode::Char(' ') => "space".to_string(),
        KeyCode::Char(c) => c.to_lowercase().to_string(),
        KeyCode::Left => "left".into(),
        KeyCode::Right => "right".into(),
        KeyCode::Up => "up".into(),
        KeyCode::Down => "down".into(),
        KeyCode::Enter => "enter".into(),
        _ => return None,
    };
    cast.inputs.iter().find(|i| i.key == name).map(|i| i.name.clone())
}

fn used_while_held(cast: &Cast, input: &str) -> bool {
    cast.inputs.iter().any(|control| control.holds && control.name == input)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crossterm::event::KeyModifiers;
    use rstest::rstest;

    fn snapshot() -> Snapshot {
        let text = "pond \"t\" { arena 9 x 9 }\ninput fire = key f; input croak = key c; input leap = key space; input row = key left\n\
            place frog at (1, 1)\nkind frog { while held fire every 1 s { say \"f\" } on press croak { say \"c\" } }";
        let program = tickpond_lang::compile(text).program.unwrap();
        Snapshot { cast: Some(Cast::shared(&program)), ..Snapshot::default() }
    }

    fn key(c: char) -> KeyEvent {
        KeyEvent::new(KeyCode::Char(c), KeyModifiers::NONE)
    }

    /// The keys that come at times, in ms, and what the play is told till two seconds later: `+` down, `-` up.
    fn told(keys: &[(u64, KeyEvent)]) -> String {
        let (mut controls, snapshot) = (Controls::new(false), snapshot());
        let last = keys.last().map_or(0, |(at, _)| *at);
        let mut told = Vec::new();
        for ms in (0..=last + 2000).step_by(10) {
            let now = ms as f64 / 1000.0;
            for (_, key) in keys.iter().filter(|(at, _)| (ms..ms + 10).contains(at)) {
                told.extend(controls.press(*key, now, &snapshot).unwrap());
            }
            told.extend(controls.tick(now));
        }
        let sign = |command: &Command| match command {
            Command::Key(_, true) => '+',
            Command::Key(_, false) => '-',
            other => panic!("{other:?}"),
        };
        told.iter().map(sign).collect()
    }

    fn at(times: &[u64], c: char) -> Vec<(u64, KeyEvent)> {
        times.iter().map(|time| (*time, key(c))).collect()
    }

    /// A key held for a while: the press, a pause, then a repeat each 30 ms.
    fn held(pause: u64, repeats: u64) -> Vec<u64> {
        std::iter::once(0).chain((0..repeats).map(|n| pause + n * 30)).collect()
    }

    #[rstest]
    #[case::once(&[0], "+-")]
    #[case::apart(&[0, 400, 800], "+-+-+-")]
    #[case::far(&[0, 1000, 2000], "+-+-+-")]
    #[case::in_the_pause(&[0, 250, 500], "+-+-+-")]
    #[case::quick(&[0, 120, 240], "+-+-+-")]
    #[case::quick_then_slow(&[0, 120, 520], "+-+-+-")]
    #[case::in_one_read(&[0, 0], "+-+-")]
    fn each_press_is_a_press(
        #[case] times: &[u64],
        #[case] wanted: &str,
        #[values('f', 'c')] c: char,
    ) {
        assert_eq!(told(&at(times, c)), wanted);
    }

    #[rstest]
    fn holding_is_one_press(#[values(200, 250, 400, 500, 660)] pause: u64) {
        assert_eq!(told(&at(&held(pause, 20), 'c')), "+-", "an input of which the press counts");
        assert_eq!(told(&at(&held(pause, 20), 'f')), "+-+-", "one that is used while held");
    }

    #[rstest]
    #[case::letter(KeyCode::Char('F'), KeyModifiers::SHIFT)]
    #[case::space_with_alt(KeyCode::Char(' '), KeyModifiers::ALT)]
    #[case::space_with_control(KeyCode::Char(' '), KeyModifiers::CONTROL)]
    #[case::arrow(KeyCode::Left, KeyModifiers::SHIFT)]
    fn a_latch_holds_until_the_next_press(#[case] code: KeyCode, #[case] with: KeyModifiers) {
        let latch = KeyEvent::new(code, with);
        assert_eq!(told(&[(0, latch)]), "+", "it stays down");
        assert_eq!(told(&[(0, latch), (1200, latch)]), "+-");
        assert_eq!(told(&[(0, latch), (400, latch)]), "+-");
        // Held for a moment too long it still latches.
        let repeats: Vec<(u64, KeyEvent)> =
            held(400, 10).into_iter().map(|time| (time, latch)).collect();
        assert_eq!(told(&repeats), "+");
    }

    #[rstest]
    fn what_is_down_goes_up_when_the_keys_are_let_go() {
        let (mut controls, snapshot) = (Controls::new(false), snapshot());
        controls.press(KeyEvent::new(KeyCode::Char('F'), KeyModifiers::SHIFT), 0.0, &snapshot);
        assert_eq!(controls.latched().collect::<Vec<_>>(), ["fire"]);
        controls.press(key('c'), 0.0, &snapshot);
        controls.tick(0.5);
        let up = controls.release_all();
        assert!(matches!(&up[..], [Command::Key(name, false)] if name == "fire"), "{up:?}");
    }

    #[rstest]
    fn a_key_of_nobody_is_none_of_the_play() {
        assert!(Controls::new(false).press(key('x'), 0.0, &snapshot()).is_none());
    }
}
