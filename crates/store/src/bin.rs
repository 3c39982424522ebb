//! The bin: deleted jobs, kept for a while, then gone with the artwork that no other job uses.

use rusqlite::{Connection, TransactionBehavior, params};

use crate::jobs::{COLUMNS, job};
use crate::{Job, JobId, Millis, Store, StoreError, now};

/// How long a deleted job is kept, days.
pub const KEPT_DAYS: i64 = 30;
/// How long a deleted job is kept, milliseconds.
const KEPT: Millis = KEPT_DAYS * 24 * 3600 * 1000;

/// A deleted job.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Binned {
    /// As it was.
    pub job: Job,
    /// When it was deleted.
    pub deleted: Millis,
    /// From when on it is gone.
    pub gone: Millis,
}

/// Takes out originals that nothing is made from any more.
fn drop_unused_originals(c: &Connection) -> Result<(), StoreError> {
    c.execute(
        "DELETE FROM originals WHERE id NOT IN (SELECT original FROM jobs)
         AND id NOT IN (SELECT original FROM steps WHERE original IS NOT NULL)
         AND id NOT IN (SELECT original FROM set_aside)",
        [],
    )?;
    Ok(())
}

impl Store {
    /// Deleted jobs, the last one first.
    ///
    /// # Errors
    /// When the store fails.
    pub fn bin(&self) -> Result<Vec<Binned>, StoreError> {
        let connection = self.reader()?;
        let mut query = connection.prepare(&format!(
            "SELECT {COLUMNS}, deleted FROM jobs WHERE deleted IS NOT NULL ORDER BY deleted DESC, id DESC"
        ))?;
        let rows = query.query_map([], |row| {
            let deleted: Millis = row.get("deleted")?;
            Ok(Binned {
                job: job(row)?,
                deleted,
                gone: deleted + KEPT,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// How many deleted jobs there are.
    ///
    /// # Errors
    /// When the store fails.
    pub fn count_bin(&self) -> Result<i64, StoreError> {
        let count = "SELECT count(*) FROM jobs WHERE deleted IS NOT NULL";
        Ok(self.reader()?.query_row(count, [], |row| row.get(0))?)
    }

    /// Takes a deleted job away for good, with its history.
    ///
    /// # Errors
    /// [`StoreError::NoJob`] where it is not in the bin, or when the store fails.
    pub fn delete_for_good(&self, id: JobId) -> Result<(), StoreError> {
        let gone = self.clear_bin("id = ?1", id)?;
        if gone == 0 {
            return Err(StoreError::NoJob);
        }
        Ok(())
    }

    /// Takes away what was deleted too long ago; how many jobs that were.
    ///
    /// # Errors
    /// When the store fails.
    pub fn empty_bin(&self) -> Result<usize, StoreError> {
        self.clear_bin("deleted < ?1", now() - KEPT)
    }

    fn clear_bin(&self, which: &str, value: i64) -> Result<usize, StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let sql = format!("DELETE FROM jobs WHERE deleted IS NOT NULL AND {which}");
        let gone = tx.execute(&sql, params![value])?;
        if gone > 0 {
            drop_unused_originals(&tx)?;
        }
        tx.commit()?;
        Ok(gone)
    }
}
