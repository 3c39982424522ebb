//! Files come under their name only when they are whole.

use std::fs;
use std::path::{Path, PathBuf};

/// A file that was not written; nothing of it is left, and what had its name before is as it was.
#[derive(Debug, thiserror::Error)]
#[error("cannot write {}: {source}", path.display())]
pub(crate) struct SaveFailed {
    path: PathBuf,
    source: std::io::Error,
}

/// Writes a file beside its place, then moves it there.
pub(crate) fn save(path: &Path, bytes: &[u8]) -> Result<(), SaveFailed> {
    let failed = |source| SaveFailed {
        path: path.to_owned(),
        source,
    };
    // What is no plain file, such as a pipe, is written to as it is.
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
