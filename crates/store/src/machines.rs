//! The shop's machines, JSON, in the order in which they were added.

use std::path::Path;

use rusqlite::{Connection, OpenFlags, params};

use crate::{FILE_NAME, Store, StoreError};

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

/// The machines of a store that another program may have open; `None` where there is no store.
///
/// # Errors
/// When it cannot be read.
pub fn machines_in(folder: &Path) -> Result<Option<Vec<StoredMachine>>, StoreError> {
    let file = folder.join(FILE_NAME);
    if !file.is_file() {
        return Ok(None);
    }
    let connection = Connection::open_with_flags(&file, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
    connection.busy_timeout(crate::BUSY)?;
    Ok(Some(listed(&connection)?))
}

fn listed(connection: &Connection) -> rusqlite::Result<Vec<StoredMachine>> {
    let mut query =
        connection.prepare_cached("SELECT id, body FROM machines WHERE removed = 0 ORDER BY id")?;
    let rows = query.query_map([], |row| {
        Ok(StoredMachine {
            id: row.get(0)?,
            body: row.get(1)?,
        })
    })?;
    rows.collect()
}

impl Store {
    /// All machines but those taken off the list.
    ///
    /// # Errors
    /// When the store fails.
    pub fn machines(&self) -> Result<Vec<StoredMachine>, StoreError> {
        let connection = self.reader()?;
        Ok(listed(&connection)?)
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
