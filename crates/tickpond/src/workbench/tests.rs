//! Frames on a test backend.
