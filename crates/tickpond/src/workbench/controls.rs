//! The play's own keys: press, hold, release.
//!
//! Where the terminal reports releases, keys are down as long as they are. Elsewhere a press is
//! known and its repeats, nothing else. There a key stays down for a moment: shortly, for inputs
//! that are used while held; longer than the pause before the first repeat, for inputs of which
//! only the press counts, so that holding the key is still one press. With Shift a key latches: it
//! stays down until it is pressed again.

use std::collections::BTreeMap;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use tickpond_lang::program::{Event, Program};

use super::sim::Command;
use super::snapshot::Snapshot;

/// How long a press lasts, in seconds, for an input that is used while held.
const SHORT: f64 = 0.15;
/// How long a press lasts for an input of which only the press counts.
const LONG: f64 = 0.7;

/// The play's own keys.
#[derive(Clone, Debug, Default)]
pub struct Controls {
    /// Whether keys go to the play.
    pub on: bool,
    /// Whether the terminal reports releases.
    pub reports_release: bool,
    /// Inputs that are down, and when they go up by themselves; never, for latched ones.
    down: BTreeMap<String, Option<f64>>,
}

impl Controls {
    pub fn new(reports_release: bool) -> Controls {
        Controls { reports_release, ..Controls::default() }
    }

    /// Inputs that stay down until pressed again.
    pub fn latched(&self) -> impl Iterator<Item = &str> {
        self.down.iter().filter(|(_, until)| until.is_none()).map(|(name, _)| name.as_str())
    }

    /// Takes in a key at a time in seconds; `None` if it is no key of the play.
    pub fn press(&mut self, key: KeyEvent, now: f64, snapshot: &Snapshot) -> Option<Vec<Command>> {
        let program = snapshot.program.as_ref()?;
        let input = input_of(program, key)?;
        if self.reports_release {
            let repeats = key.kind == crossterm::event::KeyEventKind::Repeat;
            return Some(if repeats { Vec::new() } else { vec![Command::Key(input, true)] });
        }
        let latches = key.modifiers.contains(KeyModifiers::SHIFT)
            || matches!(key.code, KeyCode::Char(c) if c.is_uppercase());
        let is_latched = self.down.get(&input) == Some(&None);
        if is_latched {
            self.down.remove(&input);
            return Some(vec![Command::Key(input, false)]);
        }
        let lasts = if used_while_held(program, &input) { SHORT } else { LONG };
        let until = (!latches).then_some(now + lasts);
        let was_down = self.down.insert(input.clone(), until).is_some();
        Some(if was_down { Vec::new() } else { vec![Command::Key(input, true)] })
    }

    /// Takes in a key that went up.
    pub fn release(&mut self, key: KeyEvent, snapshot: &Snapshot) -> Vec<Command> {
        let program = snapshot.program.as_ref().filter(|_| self.reports_release);
        let input = program.and_then(|p| input_of(p, key));
        input.map(|input| vec![Command::Key(input, false)]).unwrap_or_default()
    }

    /// Lets those go whose time is over.
    pub fn tick(&mut self, now: f64) -> Vec<Command> {
        let over = |until: &Option<f64>| until.is_some_and(|until| now >= until);
        let names: Vec<String> =
            self.down.iter().filter(|(_, until)| over(until)).map(|(n, _)| n.clone()).collect();
        names
            .into_iter()
            .map(|name| {
                self.down.remove(&name);
                Command::Key(name, false)
            })
            .collect()
    }

    /// Lets everything go.
    pub fn release_all(&mut self) -> Vec<Command> {
        std::mem::take(&mut self.down).into_keys().map(|name| Command::Key(name, false)).collect()
    }
}

fn input_of(program: &Program, key: KeyEvent) -> Option<String> {
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
    if key.modifiers.contains(KeyModifiers::CONTROL) || key.modifiers.contains(KeyModifiers::ALT) {
        return None;
    }
    program.inputs.iter().find(|i| i.key == name).map(|i| i.name.clone())
}

fn used_while_held(program: &Program, input: &str) -> bool {
    let handlers = program.kinds.iter().flat_map(|k| &k.handlers);
    handlers.into_iter().any(|h| match &h.event {
        Event::WhileHeld(id, _) => program.inputs[id.index()].name == input,
        _ => false,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn snapshot() -> Snapshot {
        let text = "pond \"t\" { arena 9 x 9 }\ninput fire = key f; input croak = key c\n\
            place frog at (1, 1)\nkind frog { while held fire every 1 s { say \"f\" } on press croak { say \"c\" } }";
        Snapshot { program: tickpond_lang::compile(text).program, ..Snapshot::default() }
    }

    fn key(c: char) -> KeyEvent {
        KeyEvent::new(KeyCode::Char(c), KeyModifiers::NONE)
    }

    fn ups_and_downs(commands: &[Command]) -> Vec<(String, bool)> {
        commands
            .iter()
            .map(|c| match c {
                Command::Key(name, down) => (name.clone(), *down),
                other => panic!("{other:?}"),
            })
            .collect()
    }

    #[rstest]
    #[case::held('f', 0.16)]
    #[case::pressed('c', 0.71)]
    fn repeats_are_no_new_presses_and_the_key_goes_up_by_itself(
        #[case] c: char,
        #[case] over: f64,
    ) {
        let (mut controls, snapshot) = (Controls::new(false), snapshot());
        assert_eq!(controls.press(key(c), 0.0, &snapshot).unwrap().len(), 1);
        assert!(controls.press(key(c), 0.03, &snapshot).unwrap().is_empty());
        assert!(controls.tick(over).is_empty());
        let up = ups_and_downs(&controls.tick(0.04 + over));
        assert_eq!(up.len(), 1);
        assert!(!up[0].1);
    }

    #[rstest]
    fn shift_latches_until_the_next_press() {
        let (mut controls, snapshot) = (Controls::new(false), snapshot());
        controls.press(key('F'), 0.0, &snapshot);
        assert!(controls.tick(99.0).is_empty());
        assert_eq!(controls.latched().collect::<Vec<_>>(), ["fire"]);
        let up = controls.press(key('f'), 100.0, &snapshot).unwrap();
        assert_eq!(ups_and_downs(&up), [("fire".to_string(), false)]);
    }

    #[rstest]
    fn a_key_of_nobody_is_left_to_the_workbench() {
        assert!(Controls::new(false).press(key('x'), 0.0, &snapshot()).is_none());
    }
}
