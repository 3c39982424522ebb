//! Jobs, originals, recipes and cached results in one SQLite file: the only SQL of the program.
//!
//! ```text
//!   originals ◄── jobs ──► steps (every recipe a job ever had; jobs.at points at the one in force)
//!   (bytes, sha-256)  ├──► set_aside (edits that a new trace left behind)
//!                     └──► results (cache: can be deleted at any time and made again)
//!   machines ◄── runs ──► run_logs (every run that was asked for, and all that was said in it)
//! ```
//!
//! One connection writes, a few read-only ones read beside it (WAL). Every change is one
//! transaction, acknowledged after its commit, so a job survives the program being killed at any
//! moment. Originals are kept byte for byte; what is made from them is kept apart.

mod backup;
mod bin;
mod jobs;
mod machines;
mod materials;
mod migrations;
mod offcuts;
mod opening;
mod originals;
mod results;
mod runs;
mod set_aside;
mod steps;
mod traced;

use std::fs::File;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;

use r2d2::{Pool, PooledConnection};
use r2d2_sqlite::SqliteConnectionManager;
use rusqlite::OpenFlags;

pub use backup::{BackupError, Kept, back_up, daily, restore};
pub use bin::{Binned, KEPT_DAYS};
pub use jobs::{Job, JobDetails, JobFilter, JobId, JobOrder, NewJob};
pub use machines::{MachineId, StoredMachine, machines_in};
pub use materials::{MaterialId, StoredMaterial};
pub use offcuts::OffcutId;
pub use originals::{Original, OriginalId};
pub use runs::{NewRun, RunId, StoredRun};
pub use set_aside::SetAside;
pub use steps::{Edits, History, NewStep, Past, Step};

/// Why the store did not do what was asked; nothing was changed.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum StoreError {
    /// No such job, or it was deleted.
    #[error("there is no such job; it may have been deleted in another window")]
    NoJob,
    /// The job was changed since the page was loaded.
    #[error(
        "this job was changed in another window, so nothing was overwritten; reload the page to go on from there"
    )]
    Stale,
    /// There is no step to go back or forward to.
    #[error("there is nothing to {0}")]
    NoStep(&'static str),
    /// The data folder cannot be used.
    #[error(
        "the data folder {0} cannot be used: {1}; make it writable, or name another with --data"
    )]
    Folder(String, std::io::Error),
    /// Another server has the folder open.
    #[error(
        "the jobs in {} are open in another copy of the program; stop it first, or choose another folder with --data",
        .0.display()
    )]
    InUse(PathBuf),
    /// The file is no store, or not whole any more.
    #[error(
        "the store {} is damaged ({why}); nothing was changed. Move it away and bring the newest backup back with `inky restore`; backups lie in the folder `backups` beside it",
        file.display()
    )]
    Damaged {
        /// The store's file.
        file: PathBuf,
        /// What is wrong with it.
        why: String,
    },
    /// The file cannot be written.
    #[error(
        "the store {} cannot be written to; give this user the right to write it and its folder", .0.display()
    )]
    ReadOnly(PathBuf),
    /// A later version of the program made it.
    #[error(
        "the store {} was written by a newer version of the program; start that version, or choose another folder with --data",
        .0.display()
    )]
    Newer(PathBuf),
    /// No room is left.
    #[error(
        "the disk is full; nothing was changed, and all that was saved before is kept. Make room and try again"
    )]
    Full,
    /// All connections were busy for too long.
    #[error("the store is busy; try again in a moment")]
    Busy(#[from] r2d2::Error),
    /// The database failed.
    #[error("the store failed: {0}")]
    Sql(rusqlite::Error),
    /// The database could not be brought up to date.
    #[error("the store could not be brought up to date: {0}")]
    Migration(rusqlite_migration::Error),
}

impl From<rusqlite::Error> for StoreError {
    fn from(error: rusqlite::Error) -> Self {
        match error.sqlite_error_code() {
            Some(rusqlite::ErrorCode::DiskFull) => Self::Full,
            _ => Self::Sql(error),
        }
    }
}

/// The open store; clones share its connections.
#[derive(Clone, Debug)]
pub struct Store {
    write: Pool<SqliteConnectionManager>,
    read: Pool<SqliteConnectionManager>,
    /// Held as long as the store is open.
    _claim: Arc<File>,
}

type Connection = PooledConnection<SqliteConnectionManager>;

/// Milliseconds since 1970 (UTC).
pub type Millis = i64;

const FILE_NAME: &str = "inky-outline.sqlite3";
const READERS: u32 = 4;
const BUSY: Duration = Duration::from_secs(5);

/// What is acknowledged is on the disk: in WAL mode that takes `FULL`, or the last changes before a loss of
/// power may be missing afterwards (SQLite, "PRAGMA synchronous").
const SETTINGS: &str = "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; \
                        PRAGMA foreign_keys = ON; PRAGMA busy_timeout = 5000;";

impl Store {
    /// Opens the store in a folder, making both where missing.
    ///
    /// # Errors
    /// When the folder or the file cannot be used, in words for each case; nothing is changed then.
    pub fn open(folder: &Path) -> Result<Self, StoreError> {
        std::fs::create_dir_all(folder)
            .map_err(|e| StoreError::Folder(folder.display().to_string(), e))?;
        let claim = opening::claim(folder)?;
        let file = folder.join(FILE_NAME);
        opening::prepare(&file)?;
        let writer = SqliteConnectionManager::file(&file).with_init(|c| c.execute_batch(SETTINGS));
        let write = Pool::builder()
            .max_size(1)
            .connection_timeout(BUSY)
            .build(writer)?;
        let reader = SqliteConnectionManager::file(&file)
            .with_flags(OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)
            .with_init(|c| c.execute_batch(&format!("{SETTINGS} PRAGMA query_only = ON;")));
        let read = Pool::builder()
            .max_size(READERS)
            .connection_timeout(BUSY)
            .build(reader)?;
        Ok(Self {
            write,
            read,
            _claim: Arc::new(claim),
        })
    }

    fn writer(&self) -> Result<Connection, StoreError> {
        Ok(self.write.get()?)
    }

    fn reader(&self) -> Result<Connection, StoreError> {
        Ok(self.read.get()?)
    }
}

fn now() -> Millis {
    jiff::Timestamp::now().as_millisecond()
}
