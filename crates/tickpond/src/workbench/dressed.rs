//! A snapshot as it is seen: marks as long as they are to be seen, trails, colours.

use tickpond_lab::Run;

use super::snapshot::{Snapshot, hurt, marks, traces};
use super::tint::Tint;
use super::tinting::tint;
use super::wake::Wake;

impl Snapshot {
    /// The same as it is seen at a speed, with trails, and with colours by what is asked for.
    pub fn dressed(mut self, run: &Run, speed: f64, by: &Tint, wake: &Wake) -> Snapshot {
        let scene = &mut self.scene;
        scene.marks = marks(run, speed);
        scene.traces = traces(run, speed, wake.traces());
        hurt(run, speed, &mut scene.entities);
        scene.tint = tint(run, by, &mut scene.entities);
        (scene.trails, scene.no_trails) = wake.trails(run);
        self
    }
}
