//! Files come under their name only when they are whole, and never in the place of what is read.

use std::fs;
use std::io::{IsTerminal, Write, stderr, stdin, stdout};
use std::path::{Path, PathBuf};

use crate::input::STANDARD;

/// A file that was not written; nothing of it is left, and what had its name before is as it was.
#[derive(Debug, thiserror::Error)]
pub(crate) enum SaveFailed {
    #[error("cannot write {}: {source}", path.display())]
    Write {
        path: PathBuf,
        source: std::io::Error,
    },
    #[error("{} is what is read, and stays as it is; give the result another name", .0.display())]
    Input(PathBuf),
    #[error("{} is there already; add --force to replace it", .0.display())]
    Exists(PathBuf),
}

/// Which files may be written.
#[derive(Debug)]
pub(crate) struct Target<'a> {
    inputs: Vec<&'a Path>,
    force: bool,
}

impl<'a> Target<'a> {
    /// `inputs` are what is read; with `force`, other files may be replaced unasked.
    pub(crate) fn new(inputs: impl IntoIterator<Item = &'a PathBuf>, force: bool) -> Self {
        let inputs = inputs.into_iter().map(PathBuf::as_path).collect();
        Self { inputs, force }
    }

    /// Says whether a file may be written, before the work for it is done. On a terminal a person may
    /// allow it to be replaced.
    pub(crate) fn check(&self, path: &Path) -> Result<(), SaveFailed> {
        // What is no plain file, such as a pipe, holds nothing that could be lost.
        if !path.is_file() {
            return Ok(());
        }
        let place = fs::canonicalize(path).ok();
        let is_it = |input: &&Path| place.is_some() && fs::canonicalize(input).ok() == place;
        if self.inputs.iter().any(is_it) {
            return Err(SaveFailed::Input(path.to_owned()));
        }
        if self.force || allowed_at_the_terminal(path) {
            return Ok(());
        }
        Err(SaveFailed::Exists(path.to_owned()))
    }
}

/// Writes a file beside its place, then moves it there.
pub(crate) fn save(path: &Path, bytes: &[u8]) -> Result<(), SaveFailed> {
    let failed = |source| SaveFailed::Write {
        path: path.to_owned(),
        source,
    };
    if path == Path::new(STANDARD) {
        return stdout().lock().write_all(bytes).map_err(failed);
    }
    if path.exists() && !path.is_file() {
        return fs::write(path, bytes).map_err(failed);
    }
    let mut name = path.file_name().unwrap_or_default().to_owned();
    name.push(format!(".{}.part", std::process::id()));
    let beside = path.with_file_name(name);
    let written = fs::write(&beside, bytes).and_then(|()| fs::rename(&beside, path));
    written.map_err(|source| {
        // It is not ours to say more when even that fails.
        let _ = fs::remove_file(&beside);
        failed(source)
    })
}

/// Whether a person at the terminal says that a file may be replaced.
fn allowed_at_the_terminal(path: &Path) -> bool {
    if !(stdin().is_terminal() && stderr().is_terminal()) {
        return false;
    }
    eprint!("{} is there already. Replace it? [y/N] ", path.display());
    let mut answer = String::new();
    stdin().read_line(&mut answer).is_ok()
        && matches!(answer.trim().to_lowercase().as_str(), "y" | "yes")
}
