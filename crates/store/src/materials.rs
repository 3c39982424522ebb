//! The shop's materials, JSON, in the order in which they were added.

use rusqlite::{OptionalExtension, params};

use crate::{Store, StoreError};

/// Number of a material in the list.
pub type MaterialId = i64;

/// A material as it is kept.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct StoredMaterial {
    /// Its number.
    pub id: MaterialId,
    /// All that is known of it, JSON.
    pub body: String,
    /// Whether it is no longer offered to new jobs.
    pub retired: bool,
}

impl Store {
    /// All materials, retired ones too.
    ///
    /// # Errors
    /// When the store fails.
    pub fn materials(&self) -> Result<Vec<StoredMaterial>, StoreError> {
        let connection = self.reader()?;
        let mut query =
            connection.prepare_cached("SELECT id, body, retired FROM materials ORDER BY id")?;
        let rows = query.query_map([], |row| {
            Ok(StoredMaterial {
                id: row.get(0)?,
                body: row.get(1)?,
                retired: row.get(2)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Adds materials to the end of the list, all or none; the number of the last.
    ///
    /// # Errors
    /// When the store fails.
    pub fn add_materials(&self, bodies: &[String]) -> Result<Option<MaterialId>, StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction()?;
        let mut last = None;
        for body in bodies {
            tx.execute("INSERT INTO materials (body) VALUES (?1)", [body])?;
            last = Some(tx.last_insert_rowid());
        }
        tx.commit()?;
        Ok(last)
    }

    /// Puts another body in the place of a material's; whether it was there.
    ///
    /// # Errors
    /// When the store fails.
    pub fn change_material(&self, id: MaterialId, body: &str) -> Result<bool, StoreError> {
        let connection = self.writer()?;
        let changed = connection.execute(
            "UPDATE materials SET body = ?2 WHERE id = ?1",
            params![id, body],
        )?;
        Ok(changed == 1)
    }

    /// Retires a material, or offers it again; `None` where there is no such material.
    ///
    /// # Errors
    /// When the store fails.
    pub fn retire_material(&self, id: MaterialId) -> Result<Option<bool>, StoreError> {
        let connection = self.writer()?;
        let now = connection
            .query_row(
                "UPDATE materials SET retired = 1 - retired WHERE id = ?1 RETURNING retired",
                [id],
                |row| row.get(0),
            )
            .optional()?;
        Ok(now)
    }
}
