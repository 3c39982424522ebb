//! Cached results: what a recipe gave, kept only to save time.

use rusqlite::{OptionalExtension, params};

use crate::{JobId, Store, StoreError};

impl Store {
    /// The cached result of a kind, if it was made from exactly `made_from`.
    ///
    /// # Errors
    /// When the store fails.
    pub fn result(
        &self,
        job: JobId,
        kind: &str,
        made_from: &str,
    ) -> Result<Option<Vec<u8>>, StoreError> {
        Ok(self
            .reader()?
            .query_row(
                "SELECT body FROM results WHERE job = ?1 AND kind = ?2 AND made_from = ?3",
                params![job, kind, made_from],
                |row| row.get(0),
            )
            .optional()?)
    }

    /// Keeps a result in place of the older one of its kind.
    ///
    /// # Errors
    /// When the store fails.
    pub fn keep_result(
        &self,
        job: JobId,
        kind: &str,
        made_from: &str,
        body: &[u8],
    ) -> Result<(), StoreError> {
        self.writer()?.execute(
            "INSERT INTO results (job, kind, made_from, body) VALUES (?1, ?2, ?3, ?4)
             ON CONFLICT (job, kind) DO UPDATE SET made_from = excluded.made_from, body = excluded.body",
            params![job, kind, made_from, body],
        )?;
        Ok(())
    }
}
