//! The story of one entity.

use tickpond_lab::Run;
use tickpond_lab::naming::name_of;
use tickpond_lang::program::{KindId, Role};
use tickpond_sim::vm::number_text;
use tickpond_sim::{Event, What};

use super::feed::feed_line;
use super::types::{STORY_LINES, Story};
use crate::workbench::befell::Befell;
use crate::workbench::one::One;

/// What is known of one entity, alive or not; nothing if there is no such kind.
pub fn story(run: &Run, one: &One, befell: &mut Befell) -> Option<Story> {
    let (state, program) = (run.state(), run.program());
    let kind = one.kind_in(program)?;
    let columns = &state.kinds[kind.index()];
    let row = (0..columns.len()).find(|row| columns.number[*row] == one.number());
    let own = befell.of(run, one);
    // The newest of each sort: after an edit in the past the same name may be born again.
    let event_of = |what: What| {
        let about = |e: &&&Event| e.what == what && one.is(run.program_at(e.tick), e.who);
        own.iter().rev().find(about).copied()
    };
    let line_of = |event: Option<&Event>| {
        let event = event?;
        event.site.and_then(|site| run.line_of(event.tick, site))
    };
    let (born, ended, hurt) = (event_of(What::Born), event_of(What::Ended), event_of(What::Hurt));
    // A maker is of the text that played then.
    let maker = born.and_then(|e| One::of(run.program_at(e.tick), e.other?));
    Some(Story {
        name: one.name(),
        alive: row.is_some(),
        values: row.map_or_else(Vec::new, |row| values(run, kind, row)),
        events: own.iter().rev().take(STORY_LINES).rev().map(|e| feed_line(run, e)).collect(),
        born_line: line_of(born),
        end_line: line_of(ended),
        maker,
        born_tick: born.map(|e| e.tick),
        end_tick: ended.map(|e| e.tick),
        hurt: hurt.map(|e| (e.tick, line_of(Some(e)))),
    })
}

fn values(run: &Run, kind: KindId, row: usize) -> Vec<(String, String)> {
    use tickpond_lang::program::Ty;
    use tickpond_lang::units::Dim;
    let (state, program) = (run.state(), run.program());
    let c = &state.kinds[kind.index()];
    let number = |value: f64, dim: Dim| number_text(value, dim);
    let speed = (c.vx[row] * c.vx[row] + c.vy[row] * c.vy[row]).sqrt();
    let mut values = vec![
        ("place".into(), format!("({:.1}, {:.1}) u", c.x[row], c.y[row])),
        ("heading".into(), format!("{:.1} deg", c.heading[row])),
        ("speed".into(), number(speed, Dim::SPEED)),
        ("age".into(), format!("{:.2} s", c.age(row, state.tick) as f64 / program.rate)),
    ];
    for (track, told) in c.tracks.iter().zip(&program.kinds[kind.index()].tracks) {
        let own = &program.track_names[told.name.0 as usize];
        let state_name = told.states.get(track.now[row] as usize);
        let state_name = state_name.map_or("", |(s, _)| &program.state_names[s.0 as usize]);
        let timed = match track.until[row] {
            tickpond_sim::state::NEVER => String::new(),
            until => {
                format!(" for {:.2} s", until.saturating_sub(state.tick) as f64 / program.rate)
            }
        };
        let name = if own.is_empty() { "state" } else { own };
        values.push((name.to_string(), format!("{state_name}{timed}")));
    }
    if !c.is_active(row) {
        values.push(("active".into(), "no: it takes no part".into()));
    }
    if c.down[row] {
        values.push(("down".into(), "yes: its health came to 0".into()));
    }
    if program.kinds[kind.index()].health.is_some() {
        values.push(("health".into(), number(c.health[row], Dim::NONE)));
    }
    let mut word = 0;
    for var in &program.kinds[kind.index()].vars {
        let name = program.var_names[var.name.index()].clone();
        let bits = c.vars[word][row];
        let text = match &var.ty {
            Ty::Num(dim) => number(f64::from_bits(bits), *dim),
            Ty::Truth => (bits != 0).to_string(),
            Ty::Kind | Ty::KindOf(_) => {
                program.kinds.get(bits as usize).map(|k| k.name.clone()).unwrap_or_default()
            }
            Ty::Pair(dim) => {
                let second = f64::from_bits(c.vars[word + 1][row]);
                format!("({:.1}, {second:.1}) {dim}", f64::from_bits(bits))
            }
            Ty::Entity(_) => {
                let id = tickpond_sim::EntityId::from_word(bits);
                state.who(id).map_or("gone".into(), |w| name_of(program, w))
            }
            _ => String::new(),
        };
        word += if matches!(var.ty, Ty::Pair(_)) { 2 } else { 1 };
        values.push((name, text));
    }
    if let Role::Spawner(_) = program.kinds[kind.index()].role {
        values.push((
            "made".into(),
            format!("{} in all, {} alive", c.made_in_all[row], c.made_open[row]),
        ));
    }
    values
}
