//! Edits that a new trace left behind: kept whole beside the history, so that none is lost by what is
//! done after, and listed until one of them is taken back.
//!
//! The edits themselves are in the chain that the history's steps share; a row here points into it.

use rusqlite::{Connection, OptionalExtension, TransactionBehavior, params};

use crate::steps::{drop_after, go_to, place};
use crate::{JobId, Millis, Store, StoreError, now};

/// Edits of a job that were set aside.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SetAside {
    /// Names them.
    pub id: i64,
    /// How many edits there are; none where whole outlines were brought in and not edited since.
    pub edits: i64,
    /// When they were set aside.
    pub made: Millis,
}

/// Keeps what step `at` holds. What is kept already is moved to now.
pub(crate) fn keep(c: &Connection, job: JobId, at: i64) -> Result<(), StoreError> {
    c.execute(
        "INSERT INTO set_aside (job, recipe, edit, original, width_px, height_px, made)
         SELECT job, recipe, edit, original, width_px, height_px, ?3 FROM steps
         WHERE job = ?1 AND number = ?2
         ON CONFLICT DO UPDATE SET made = excluded.made",
        params![job, at, now()],
    )?;
    Ok(())
}

/// Copies what was set aside to a copy of the job.
pub(crate) fn copy(c: &Connection, job: JobId, copy: JobId) -> Result<(), StoreError> {
    c.execute(
        "INSERT INTO set_aside (job, recipe, edit, original, width_px, height_px, made)
         SELECT ?2, recipe, edit, original, width_px, height_px, made FROM set_aside WHERE job = ?1",
        params![job, copy],
    )?;
    Ok(())
}

impl Store {
    /// What was set aside and is not in force now, the latest first.
    ///
    /// # Errors
    /// When the store fails.
    pub fn set_aside(&self, job: JobId) -> Result<Vec<SetAside>, StoreError> {
        let connection = self.reader()?;
        let mut query = connection.prepare_cached(
            "SELECT a.id, a.made, (
                 WITH RECURSIVE chain (id, before) AS (
                     SELECT id, before FROM edits WHERE id = a.edit
                     UNION ALL
                     SELECT e.id, e.before FROM edits e JOIN chain ON e.id = chain.before
                 ) SELECT count(*) FROM chain)
             FROM set_aside a
             JOIN jobs j ON j.id = a.job
             JOIN steps s ON s.job = j.id AND s.number = j.at
             WHERE a.job = ?1 AND (a.edit IS NOT s.edit OR a.recipe <> s.recipe)
             ORDER BY a.made DESC, a.id DESC",
        )?;
        let rows = query.query_map([job], |row| {
            Ok(SetAside {
                id: row.get(0)?,
                made: row.get(1)?,
                edits: row.get(2)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Puts edits that were set aside into force again, as a step; `edited` tells whether those in
    /// force now are set aside in their place.
    ///
    /// # Errors
    /// [`StoreError::Stale`] as for any new step, [`StoreError::NoStep`] where there is nothing of that
    /// name.
    pub fn take_back(
        &self,
        (job, revision): (JobId, i64),
        id: i64,
        (name, by): (&str, &str),
        edited: bool,
    ) -> Result<(), StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let at = place(&tx, job, revision)?;
        let mine = "SELECT 1 FROM set_aside WHERE id = ?1 AND job = ?2";
        let known: Option<i64> = tx
            .query_row(mine, params![id, job], |row| row.get(0))
            .optional()?;
        known.ok_or(StoreError::NoStep("take back"))?;
        if edited {
            keep(&tx, job, at)?;
        }
        drop_after(&tx, job, at)?;
        tx.execute(
            "INSERT INTO steps (job, number, name, recipe, person, made, original, width_px, height_px, edit)
             SELECT job, ?3, ?4, recipe, ?6, ?5, original, width_px, height_px, edit FROM set_aside
             WHERE id = ?1 AND job = ?2",
            params![id, job, at + 1, name, now(), by],
        )?;
        go_to(&tx, job, at + 1)?;
        tx.commit()?;
        Ok(())
    }
}
