//! Odd pieces of stock: the photograph each was found in, and its picture.

use rusqlite::{OptionalExtension, params};

use crate::{Store, StoreError};

/// Number of an odd piece of stock.
pub type OffcutId = i64;

impl Store {
    /// Adds a piece that is told by a photograph; `body` is what is known of it, JSON.
    ///
    /// # Errors
    /// When the store fails.
    pub fn add_offcut(
        &self,
        body: &str,
        photograph: &[u8],
        picture: &[u8],
    ) -> Result<OffcutId, StoreError> {
        let connection = self.writer()?;
        connection.execute(
            "INSERT INTO offcuts (body, photograph, picture) VALUES (?1, ?2, ?3)",
            params![body, photograph, picture],
        )?;
        Ok(connection.last_insert_rowid())
    }

    /// What is known of a piece.
    ///
    /// # Errors
    /// When the store fails.
    pub fn offcut(&self, id: OffcutId) -> Result<Option<String>, StoreError> {
        self.one_of_offcut("SELECT body FROM offcuts WHERE id = ?1", id)
    }

    /// Number and body of each piece that was not kept yet: it has its photograph still.
    ///
    /// # Errors
    /// When the store fails.
    pub fn unkept_offcuts(&self) -> Result<Vec<(OffcutId, String)>, StoreError> {
        let connection = self.reader()?;
        let mut query = connection.prepare_cached(
            "SELECT id, body FROM offcuts WHERE length(photograph) > 0 ORDER BY id",
        )?;
        let rows = query.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// The photograph it was found in; empty once it is kept as stock.
    ///
    /// # Errors
    /// When the store fails.
    pub fn offcut_photograph(&self, id: OffcutId) -> Result<Option<Vec<u8>>, StoreError> {
        self.one_of_offcut("SELECT photograph FROM offcuts WHERE id = ?1", id)
    }

    /// Its picture, a JPEG; empty where there is none yet.
    ///
    /// # Errors
    /// When the store fails.
    pub fn offcut_picture(&self, id: OffcutId) -> Result<Option<Vec<u8>>, StoreError> {
        self.one_of_offcut("SELECT picture FROM offcuts WHERE id = ?1", id)
    }

    fn one_of_offcut<T: rusqlite::types::FromSql>(
        &self,
        query: &str,
        id: OffcutId,
    ) -> Result<Option<T>, StoreError> {
        let connection = self.reader()?;
        let found = connection.query_row(query, [id], |row| row.get(0));
        Ok(found.optional()?)
    }

    /// Puts another body, and another picture where one is given, in the place of a piece's.
    ///
    /// # Errors
    /// When the store fails.
    pub fn change_offcut(
        &self,
        id: OffcutId,
        body: &str,
        picture: Option<&[u8]>,
    ) -> Result<(), StoreError> {
        self.writer()?.execute(
            "UPDATE offcuts SET body = ?2, picture = coalesce(?3, picture) WHERE id = ?1",
            params![id, body, picture],
        )?;
        Ok(())
    }

    /// Forgets the photograph of a piece that is kept as stock; its picture stays.
    ///
    /// # Errors
    /// When the store fails.
    pub fn settle_offcut(&self, id: OffcutId) -> Result<(), StoreError> {
        let connection = self.writer()?;
        connection.execute("UPDATE offcuts SET photograph = x'' WHERE id = ?1", [id])?;
        Ok(())
    }

    /// Forgets a piece that was not kept.
    ///
    /// # Errors
    /// When the store fails.
    pub fn forget_offcut(&self, id: OffcutId) -> Result<(), StoreError> {
        let connection = self.writer()?;
        connection.execute("DELETE FROM offcuts WHERE id = ?1", [id])?;
        Ok(())
    }
}
