//! How the arena is looked at, in cells or in pixels.

use super::{Camera, Layers};
use crate::workbench::snapshot::Seen;

/// How the arena is looked at.
#[derive(Clone, Copy)]
pub struct Looks<'a> {
    pub camera: &'a Camera,
    pub layers: Layers,
    pub focus: Option<&'a Seen>,
    pub cross: Option<(f64, f64)>,
    pub measured_from: Option<(f64, f64)>,
}
