//! Traced drawings that were edited, as they were traced.
//!
//! Another version of the program may trace an artwork a little otherwise; edits name the shapes
//! they change by number, so they are replayed on the drawing they were made on.

use rusqlite::{OptionalExtension, params};

use crate::{Store, StoreError};

impl Store {
    /// Keeps a traced drawing under its name.
    ///
    /// # Errors
    /// When the store fails.
    pub fn keep_traced(&self, sha256: &str, body: &str) -> Result<(), StoreError> {
        self.writer()?.execute(
            "INSERT INTO traced (sha256, body) VALUES (?1, ?2) ON CONFLICT DO NOTHING",
            params![sha256, body],
        )?;
        Ok(())
    }

    /// The traced drawing of a name.
    ///
    /// # Errors
    /// When the store fails.
    pub fn traced(&self, sha256: &str) -> Result<Option<String>, StoreError> {
        let found = self.reader()?.query_row(
            "SELECT body FROM traced WHERE sha256 = ?1",
            [sha256],
            |row| row.get(0),
        );
        Ok(found.optional()?)
    }
}
