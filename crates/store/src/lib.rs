//! Jobs, originals, recipes and cached results in one SQLite file: the only SQL of the program.
//!
//! ```text
//!   originals ◄── jobs ──► steps (every recipe a job ever had; jobs.at points at the one in force)
//!   (bytes, sha-256)  ├──► set_aside (edits that a new trace left behind)
//!                     └──► results (cache: can be deleted at any time and made again)
//! ```
//!
//! One connection writes, a few read-only ones read beside it (WAL). Every change is one
//! transaction, acknowledged after its commit, so a job survives the program being killed at any
//! moment. Originals are kept byte for byte; what is made from them is kept apart.

mod jobs;
mod materials;
mod migrations;
mod originals;
mod results;
mod set_aside;
mod steps;
mod traced;

use std::path::Path;
use std::time::Duration;

use r2d2::{Pool, PooledConnection};
use r2d2_sqlite::SqliteConnectionManager;
use rusqlite::OpenFlags;

pub use jobs::{Job, JobDetails, JobFilter, JobId, NewJob};
pub use materials::{MaterialId, StoredMaterial};
pub use originals::{Original, OriginalId};
pub use set_aside::SetAside;
pub use steps::{Edits, History, Step};

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
    #[error("the data folder {0} cannot be used: {1}")]
    Folder(String, std::io::Error),
    /// All connections were busy for too long.
    #[error("the store is busy; try again in a moment")]
    Busy(#[from] r2d2::Error),
    /// The database failed.
    #[error("the store failed: {0}")]
    Sql(#[from] rusqlite::Error),
    /// The database could not be brought up to date.
    #[error("the store could not be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
}

/// The open store; clones share its connections.
#[derive(Clone, Debug)]
pub struct Store {
    write: Pool<SqliteConnectionManager>,
    read: Pool<SqliteConnectionManager>,
}

type Connection = PooledConnection<SqliteConnectionManager>;

/// Milliseconds since 1970 (UTC).
pub type Millis = i64;

const FILE_NAME: &str = "inky-outline.sqlite3";
const READERS: u32 = 4;
const BUSY: Duration = Duration::from_secs(5);

const SETTINGS: &str = "PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL; \
                        PRAGMA foreign_keys = ON; PRAGMA busy_timeout = 5000;";

impl Store {
    /// Opens the store in a folder, making both where missing.
    ///
    /// # Errors
    /// When the folder or the file cannot be used.
    pub fn open(folder: &Path) -> Result<Self, StoreError> {
        std::fs::create_dir_all(folder)
            .map_err(|e| StoreError::Folder(folder.display().to_string(), e))?;
        let file = folder.join(FILE_NAME);
        let writer = SqliteConnectionManager::file(&file).with_init(|c| c.execute_batch(SETTINGS));
        let write = Pool::builder()
            .max_size(1)
            .connection_timeout(BUSY)
            .build(writer)?;
        migrations::all().to_latest(&mut *write.get()?)?;
        let reader = SqliteConnectionManager::file(&file)
            .with_flags(OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)
            .with_init(|c| c.execute_batch(&format!("{SETTINGS} PRAGMA query_only = ON;")));
        let read = Pool::builder()
            .max_size(READERS)
            .connection_timeout(BUSY)
            .build(reader)?;
        Ok(Self { write, read })
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
