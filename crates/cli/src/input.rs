//! What is read: a file, or standard input where its name is `-`.

use std::io::{Read, stdin};
use std::path::Path;

use inky_core::limits;

/// The name of standard input and output.
pub(crate) const STANDARD: &str = "-";

/// The bytes of a file or of standard input, of which no more is taken than any reader allows.
///
/// # Errors
/// What the system says.
pub(crate) fn read(path: &Path) -> std::io::Result<Vec<u8>> {
    if path != Path::new(STANDARD) {
        return std::fs::read(path);
    }
    let mut bytes = Vec::new();
    let most = limits::FILE_BYTES as u64 + 1;
    stdin().lock().take(most).read_to_end(&mut bytes)?;
    Ok(bytes)
}
