//! The Trace line: how closely edges are followed.

pub(super) mod shown;
