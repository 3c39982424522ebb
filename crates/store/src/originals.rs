//! Original files, byte for byte, each stored once however many jobs use it.

use rusqlite::{Connection, OptionalExtension, params};
use sha2::{Digest, Sha256};

use crate::{JobId, Store, StoreError};

/// Number of an original file.
pub type OriginalId = i64;

/// An original file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Original {
    /// Its number.
    pub id: OriginalId,
    /// SHA-256 of the bytes, hexadecimal.
    pub sha256: String,
    /// The file as it came.
    pub bytes: Vec<u8>,
}

pub(crate) fn keep(connection: &Connection, bytes: &[u8]) -> Result<OriginalId, StoreError> {
    let sha256: String = Sha256::digest(bytes)
        .iter()
        .map(|b| format!("{b:02x}"))
        .collect();
    let known = connection
        .query_row(
            "SELECT id FROM originals WHERE sha256 = ?1",
            [&sha256],
            |row| row.get(0),
        )
        .optional()?;
    if let Some(id) = known {
        return Ok(id);
    }
    connection.execute(
        "INSERT INTO originals (sha256, bytes) VALUES (?1, ?2)",
        params![sha256, bytes],
    )?;
    Ok(connection.last_insert_rowid())
}

impl Store {
    /// The original file of a job.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], or when the store fails.
    pub fn original(&self, job: JobId) -> Result<Original, StoreError> {
        self.reader()?
            .query_row(
                "SELECT o.id, o.sha256, o.bytes FROM originals o JOIN jobs j ON j.original = o.id WHERE j.id = ?1",
                [job],
                |row| Ok(Original { id: row.get(0)?, sha256: row.get(1)?, bytes: row.get(2)? }),
            )
            .optional()?
            .ok_or(StoreError::NoJob)
    }
}
