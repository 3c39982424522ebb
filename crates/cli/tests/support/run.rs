//! The program run from the command line, and what it is given and writes.

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use anyhow::Result;
use tempfile::TempDir;

use super::{INKY, png};

pub(crate) fn inky(args: &[&str]) -> Result<Output> {
    Ok(Command::new(INKY).args(args).output()?)
}

pub(crate) fn written(folder: &TempDir, name: &str, bytes: &[u8]) -> Result<PathBuf> {
    let path = folder.path().join(name);
    std::fs::write(&path, bytes)?;
    Ok(path)
}

pub(crate) fn text(path: &Path) -> &str {
    path.to_str().unwrap_or_default()
}

pub(crate) fn disc() -> Result<Vec<u8>> {
    png(120, 90, |x, y| (x - 60.0).hypot(y - 45.0) < 30.0)
}

/// The size and every path of an SVG.
pub(crate) fn paths(svg: &str) -> Vec<String> {
    svg.lines()
        .filter(|l| l.starts_with("<path") || l.starts_with("<svg"))
        .map(str::to_owned)
        .collect()
}
