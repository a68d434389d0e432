//! What a picture is made of.

use tickpond_lab::Cast;

use crate::workbench::arena::View;
use crate::workbench::arena::looks::Looks;
use crate::workbench::snapshot::Scene;

/// What a picture is made of.
pub struct Shown<'a> {
    pub scene: &'a Scene,
    pub cast: &'a Cast,
    pub view: &'a View,
    pub looks: &'a Looks<'a>,
}
