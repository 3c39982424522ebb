//! The password of a file, kept as an Argon2id hash.
//!
//! Source: RFC 9106; the parameters are the library's, which follow OWASP's password storage advice.

use std::path::{Path, PathBuf};

use argon2::password_hash::rand_core::OsRng;
use argon2::password_hash::{PasswordHash, PasswordHashString, SaltString};
use argon2::{Argon2, PasswordHasher as _, PasswordVerifier as _};

/// Why a password was not taken.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PasswordError {
    /// Its file cannot be read.
    #[error("the password file {0} cannot be read: {1}")]
    Read(PathBuf, std::io::Error),
    /// It is too short to keep anybody out.
    #[error("the password in {0} has fewer than {LEAST} characters; take a longer one")]
    Short(PathBuf),
    /// A hash that is none.
    #[error("the password file {0} begins as an Argon2 hash, but is none: {1}")]
    Hash(PathBuf, argon2::password_hash::Error),
}

/// Fewest characters of a password.
const LEAST: usize = 8;

/// A password that can be held against what is typed, but not read.
#[derive(Debug)]
pub(crate) struct Password {
    hash: PasswordHashString,
}

impl Password {
    /// The first line of a file: the password itself, or its Argon2 hash in the PHC format.
    ///
    /// # Errors
    /// [`PasswordError`].
    pub(crate) fn of_file(path: &Path) -> Result<Self, PasswordError> {
        let text = std::fs::read_to_string(path)
            .map_err(|source| PasswordError::Read(path.to_owned(), source))?;
        let line = text.lines().next().unwrap_or_default().trim();
        let wrong = |source| PasswordError::Hash(path.to_owned(), source);
        if line.starts_with("$argon2") {
            let hash = PasswordHash::new(line).map_err(wrong)?.serialize();
            return Ok(Self { hash });
        }
        if line.chars().count() < LEAST {
            return Err(PasswordError::Short(path.to_owned()));
        }
        let salt = SaltString::generate(&mut OsRng);
        let hash = Argon2::default().hash_password(line.as_bytes(), &salt);
        let hash = hash.map_err(wrong)?.serialize();
        Ok(Self { hash })
    }

    /// Whether it is what was typed. Takes some tens of milliseconds on purpose.
    pub(crate) fn is(&self, typed: &str) -> bool {
        let argon = Argon2::default();
        argon
            .verify_password(typed.as_bytes(), &self.hash.password_hash())
            .is_ok()
    }
}
