//! Opening the store: who else has it open, whether it is whole, and bringing it up to date.

use std::fs::{File, OpenOptions, TryLockError};
use std::path::Path;

use rusqlite::{Connection, ErrorCode};
use rusqlite_migration::{Error as Migration, MigrationDefinitionError};

use crate::{SETTINGS, StoreError, migrations};

/// Beside the store; locked by who has it open, and let go by the system when that program ends.
const CLAIM: &str = "inky-outline.lock";

/// Claims a folder for this program alone.
pub(crate) fn claim(folder: &Path) -> Result<File, StoreError> {
    let failed = |e| StoreError::Folder(folder.display().to_string(), e);
    let mut options = OpenOptions::new();
    let options = options.create(true).truncate(false).write(true);
    let file = options.open(folder.join(CLAIM)).map_err(failed)?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(StoreError::InUse(folder.to_owned())),
        Err(TryLockError::Error(e)) => Err(failed(e)),
    }
}

/// Looks whether a store is whole and brings it up to date; a new one is made.
pub(crate) fn prepare(file: &Path) -> Result<(), StoreError> {
    if file.metadata().is_ok_and(|m| m.len() == 0) {
        return Err(damaged(file, "it is empty"));
    }
    let told = |error| refused(file, error);
    let mut connection = Connection::open(file).map_err(told)?;
    connection.execute_batch(SETTINGS).map_err(told)?;
    whole(&connection)
        .map_err(told)?
        .map_err(|why| damaged(file, &why))?;
    migrations::all()
        .to_latest(&mut connection)
        .map_err(|error| match error {
            Migration::MigrationDefinition(MigrationDefinitionError::DatabaseTooFarAhead) => {
                StoreError::Newer(file.to_owned())
            }
            Migration::RusqliteError { err, .. } => told(err),
            other => StoreError::Migration(other),
        })
}

fn damaged(file: &Path, why: &str) -> StoreError {
    StoreError::Damaged {
        file: file.to_owned(),
        why: why.to_owned(),
    }
}

/// What SQLite says of a store that it cannot use, in words of ours.
pub(crate) fn refused(file: &Path, error: rusqlite::Error) -> StoreError {
    match error.sqlite_error_code() {
        Some(ErrorCode::NotADatabase) => damaged(file, "it is no store of this program"),
        Some(ErrorCode::DatabaseCorrupt) => damaged(file, "a part of it cannot be read"),
        Some(ErrorCode::ReadOnly | ErrorCode::CannotOpen | ErrorCode::PermissionDenied) => {
            StoreError::ReadOnly(file.to_owned())
        }
        _ => error.into(),
    }
}

/// What SQLite finds wrong with a store, if anything.
pub(crate) fn whole(connection: &Connection) -> rusqlite::Result<Result<(), String>> {
    let said: String = connection.query_row("PRAGMA quick_check(1)", [], |row| row.get(0))?;
    Ok(if said == "ok" { Ok(()) } else { Err(said) })
}
