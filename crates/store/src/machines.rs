//! The shop's machines, JSON, in the order in which they were added.

use rusqlite::params;

use crate::{Store, StoreError};

/// Number of a machine in the list.
pub type MachineId = i64;

/// A machine as it is kept.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct StoredMachine {
    /// Its number.
    pub id: MachineId,
    /// All that is known of it, JSON.
    pub body: String,
}

impl Store {
    /// All machines but those taken off the list.
    ///
    /// # Errors
    /// When the store fails.
    pub fn machines(&self) -> Result<Vec<StoredMachine>, StoreError> {
        let connection = self.reader()?;
        let mut query = connection
            .prepare_cached("SELECT id, body FROM machines WHERE removed = 0 ORDER BY id")?;
        let rows = query.query_map([], |row| {
            Ok(StoredMachine {
                id: row.get(0)?,
                body: row.get(1)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Adds a machine to the end of the list.
    ///
    /// # Errors
    /// When the store fails.
    pub fn add_machine(&self, body: &str) -> Result<MachineId, StoreError> {
        let connection = self.writer()?;
        connection.execute("INSERT INTO machines (body) VALUES (?1)", [body])?;
        Ok(connection.last_insert_rowid())
    }

    /// Puts another body in the place of a machine's; whether it was there.
    ///
    /// # Errors
    /// When the store fails.
    pub fn change_machine(&self, id: MachineId, body: &str) -> Result<bool, StoreError> {
        let connection = self.writer()?;
        let changed = connection.execute(
            "UPDATE machines SET body = ?2 WHERE id = ?1 AND removed = 0",
            params![id, body],
        )?;
        Ok(changed == 1)
    }

    /// Takes a machine off the list; its runs are kept. Whether it was there, with no run under way or waiting.
    ///
    /// # Errors
    /// When the store fails.
    pub fn remove_machine(&self, id: MachineId) -> Result<bool, StoreError> {
        let connection = self.writer()?;
        let changed = connection.execute(
            "UPDATE machines SET removed = 1 WHERE id = ?1 AND removed = 0
             AND NOT EXISTS (SELECT 1 FROM runs WHERE machine = ?1 AND ended IS NULL)",
            [id],
        )?;
        Ok(changed == 1)
    }
}
