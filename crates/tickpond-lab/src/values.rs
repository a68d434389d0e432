//! The values of one entity as people read them.

use tickpond_lang::program::{KindId, Role, Ty};
use tickpond_lang::units::Dim;
use tickpond_sim::vm::number_text;

use crate::naming::name_of;
use crate::run::Run;

/// Names and values of the entity in a row at the present tick, those every entity has first.
pub fn values(run: &Run, kind: KindId, row: usize) -> Vec<(String, String)> {
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
        let timed = track.until[row].tick().map_or(String::new(), |until| {
            format!(" for {:.2} s", until.saturating_sub(state.tick) as f64 / program.rate)
        });
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
