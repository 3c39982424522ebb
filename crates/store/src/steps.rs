//! The history of a job: every recipe it had, in order, and which one is in force.
//!
//! Going back moves `jobs.at`; the later steps stay until something new is done.

use rusqlite::{Connection, OptionalExtension, TransactionBehavior, params};

use crate::{JobId, Millis, Store, StoreError, now, originals, set_aside};

/// One step of a job's history.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Step {
    /// Its number, from 0.
    pub number: i64,
    /// What was done, in the page's words.
    pub name: String,
    /// The recipe after it, JSON, without its edits.
    pub recipe: String,
    /// The edits of the outlines in force, in order, JSON.
    pub edits: Vec<String>,
    /// When.
    pub made: Millis,
}

/// A step as it is added.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct NewStep<'a> {
    /// What was done, in the page's words.
    pub name: &'a str,
    /// The recipe after it, JSON, without its edits.
    pub recipe: &'a str,
    /// Who did it; empty where nobody signs in.
    pub by: &'a str,
}

/// A step as the history lists it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Past {
    /// Its number, from 0.
    pub number: i64,
    /// What was done, in the page's words.
    pub name: String,
    /// Who did it; empty where nobody signs in.
    pub by: String,
    /// When.
    pub made: Millis,
    /// Whether it is made from the artwork that is in force.
    pub of_this_artwork: bool,
}

impl Past {
    /// What was done, and by whom where that is known.
    #[must_use]
    pub fn told(&self) -> String {
        if self.by.is_empty() {
            self.name.clone()
        } else {
            format!("{}, by {}", self.name, self.by)
        }
    }
}

/// What a new step does to the edits in force.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Edits<'a> {
    /// They stay.
    Same,
    /// There are none any more; those in force are kept beside the history.
    SetAside,
    /// These come after them.
    More(&'a [String]),
}

/// The steps of a job, without their recipes, and the one in force.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct History {
    /// Every step, the first one first.
    pub steps: Vec<Past>,
    /// Number of the step in force.
    pub at: i64,
}

impl History {
    /// The step that undo would take back.
    #[must_use]
    pub fn undo(&self) -> Option<&Past> {
        let mut steps = self.steps.iter();
        steps.find(|s| s.number == self.at && self.at > 0)
    }

    /// The step that redo would do again.
    #[must_use]
    pub fn redo(&self) -> Option<&Past> {
        self.steps.iter().find(|s| s.number == self.at + 1)
    }
}

pub(crate) fn first(c: &Connection, job: JobId, step: NewStep<'_>) -> Result<(), StoreError> {
    c.execute(
        "INSERT INTO steps (job, number, name, recipe, person, made, original, width_px, height_px)
         SELECT id, 0, ?2, ?3, ?4, ?5, original, width_px, height_px FROM jobs WHERE id = ?1",
        params![job, step.name, step.recipe, step.by, now()],
    )?;
    Ok(())
}

/// Position and revision of a job, tested against the revision the page knows.
pub(crate) fn place(c: &Connection, job: JobId, revision: i64) -> Result<i64, StoreError> {
    let (at, found): (i64, i64) = c
        .query_row(
            "SELECT at, revision FROM jobs WHERE id = ?1 AND deleted IS NULL",
            [job],
            |row| Ok((row.get(0)?, row.get(1)?)),
        )
        .optional()?
        .ok_or(StoreError::NoJob)?;
    if found == revision {
        Ok(at)
    } else {
        Err(StoreError::Stale)
    }
}

/// Adds a step after `at`, made from the same original; later steps, left by going back, are dropped.
fn add(
    c: &Connection,
    job: JobId,
    at: i64,
    step: NewStep<'_>,
    edits: Edits<'_>,
) -> Result<(), StoreError> {
    let before: Option<i64> = c.query_row(
        "SELECT edit FROM steps WHERE job = ?1 AND number = ?2",
        params![job, at],
        |row| row.get(0),
    )?;
    let last = match edits {
        Edits::Same => before,
        Edits::SetAside => {
            set_aside::keep(c, job, at)?;
            None
        }
        Edits::More(more) => {
            let mut last = before;
            for body in more {
                c.execute(
                    "INSERT INTO edits (before, body) VALUES (?1, ?2)",
                    params![last, body],
                )?;
                last = Some(c.last_insert_rowid());
            }
            last
        }
    };
    drop_after(c, job, at)?;
    c.execute(
        "INSERT INTO steps (job, number, name, recipe, person, made, original, width_px, height_px, edit)
         SELECT id, ?2, ?3, ?4, ?5, ?6, original, width_px, height_px, ?7 FROM jobs WHERE id = ?1",
        params![job, at + 1, step.name, step.recipe, step.by, now(), last],
    )?;
    Ok(())
}

/// Drops the steps after one, which were left by going back.
pub(crate) fn drop_after(c: &Connection, job: JobId, at: i64) -> Result<(), StoreError> {
    c.execute(
        "DELETE FROM steps WHERE job = ?1 AND number > ?2",
        params![job, at],
    )?;
    Ok(())
}

/// The edits up to one, in order.
fn edits_up_to(c: &Connection, last: Option<i64>) -> Result<Vec<String>, StoreError> {
    let Some(last) = last else {
        return Ok(Vec::new());
    };
    // An edit has a greater number than the one before it.
    let mut query = c.prepare_cached(
        "WITH RECURSIVE chain (id, before, body) AS (
             SELECT id, before, body FROM edits WHERE id = ?1
             UNION ALL
             SELECT e.id, e.before, e.body FROM edits e JOIN chain ON e.id = chain.before
         ) SELECT body FROM chain ORDER BY id",
    )?;
    let bodies = query.query_map([last], |row| row.get(0))?;
    Ok(bodies.collect::<Result<_, _>>()?)
}

pub(crate) fn go_to(c: &Connection, job: JobId, at: i64) -> Result<(), StoreError> {
    c.execute(
        "UPDATE jobs SET at = ?2, revision = revision + 1, saved = ?3,
             original = s.original, width_px = s.width_px, height_px = s.height_px
         FROM (SELECT original, width_px, height_px FROM steps WHERE job = ?1 AND number = ?2) AS s
         WHERE id = ?1",
        params![job, at, now()],
    )?;
    Ok(())
}

impl Store {
    /// Adds a step after the one in force; later steps, left by going back, are dropped. It may change
    /// the edits in force.
    ///
    /// # Errors
    /// [`StoreError::Stale`] when the job has another revision than `revision`; nothing is changed then.
    pub fn add_step(
        &self,
        job: JobId,
        revision: i64,
        step: NewStep<'_>,
        edits: Edits<'_>,
    ) -> Result<(), StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let at = place(&tx, job, revision)?;
        add(&tx, job, at, step, edits)?;
        go_to(&tx, job, at + 1)?;
        tx.commit()?;
        Ok(())
    }

    /// Adds a step that is made from another original, with its size in px; going back goes back to
    /// the one before. What becomes of the edits is said as for any other step.
    ///
    /// # Errors
    /// [`StoreError::Stale`] as for any new step.
    pub fn replace_original(
        &self,
        job: JobId,
        revision: i64,
        (bytes, size_px): (&[u8], (u32, u32)),
        step: NewStep<'_>,
        edits: Edits<'_>,
    ) -> Result<(), StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let at = place(&tx, job, revision)?;
        let original = originals::keep(&tx, bytes)?;
        add(&tx, job, at, step, edits)?;
        tx.execute(
            "UPDATE steps SET original = ?3, width_px = ?4, height_px = ?5 WHERE job = ?1 AND number = ?2",
            params![job, at + 1, original, size_px.0, size_px.1],
        )?;
        go_to(&tx, job, at + 1)?;
        tx.commit()?;
        Ok(())
    }

    /// Goes to another step of the history: −1 undoes, +1 does again.
    ///
    /// # Errors
    /// [`StoreError::NoStep`] at either end, [`StoreError::Stale`] as for a new step.
    pub fn move_step(&self, job: JobId, revision: i64, by: i64) -> Result<(), StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let target = place(&tx, job, revision)? + by;
        let exists: bool = tx.query_row(
            "SELECT EXISTS (SELECT 1 FROM steps WHERE job = ?1 AND number = ?2)",
            params![job, target],
            |row| row.get(0),
        )?;
        if !exists {
            return Err(StoreError::NoStep(if by < 0 { "undo" } else { "redo" }));
        }
        go_to(&tx, job, target)?;
        tx.commit()?;
        Ok(())
    }

    /// Leaves a step that cannot be read for one before it, unless another is in force by now.
    ///
    /// # Errors
    /// When the store fails.
    pub fn fall_back(&self, job: JobId, from: i64, to: i64) -> Result<(), StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let at: i64 = tx.query_row("SELECT at FROM jobs WHERE id = ?1", [job], |row| row.get(0))?;
        if at == from {
            go_to(&tx, job, to)?;
        }
        tx.commit()?;
        Ok(())
    }

    /// The step in force.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], or when the store fails.
    pub fn step(&self, job: JobId) -> Result<Step, StoreError> {
        self.one_step(job, None)
    }

    /// A step by its number.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], also where there is no such step, or when the store fails.
    pub fn step_numbered(&self, job: JobId, number: i64) -> Result<Step, StoreError> {
        self.one_step(job, Some(number))
    }

    fn one_step(&self, job: JobId, number: Option<i64>) -> Result<Step, StoreError> {
        let connection = self.reader()?;
        let found = connection
            .query_row(
                "SELECT s.number, s.name, s.recipe, s.made, s.edit FROM steps s
                 JOIN jobs j ON j.id = s.job AND s.number = coalesce(?2, j.at)
                 WHERE j.id = ?1 AND j.deleted IS NULL",
                params![job, number],
                |row| {
                    let step = Step {
                        number: row.get(0)?,
                        name: row.get(1)?,
                        recipe: row.get(2)?,
                        made: row.get(3)?,
                        edits: Vec::new(),
                    };
                    Ok((step, row.get::<_, Option<i64>>(4)?))
                },
            )
            .optional()?;
        let (step, last) = found.ok_or(StoreError::NoJob)?;
        let edits = edits_up_to(&connection, last)?;
        Ok(Step { edits, ..step })
    }

    /// All steps, and the one in force.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], or when the store fails.
    pub fn history(&self, job: JobId) -> Result<History, StoreError> {
        let connection = self.reader()?;
        let at = connection
            .query_row("SELECT at FROM jobs WHERE id = ?1", [job], |row| row.get(0))
            .optional()?
            .ok_or(StoreError::NoJob)?;
        let mut query = connection.prepare(
            "SELECT s.number, s.name, s.person, s.made, coalesce(s.original, j.original) = j.original
             FROM steps s JOIN jobs j ON j.id = s.job WHERE s.job = ?1 ORDER BY s.number",
        )?;
        let steps = query
            .query_map([job], |row| {
                Ok(Past {
                    number: row.get(0)?,
                    name: row.get(1)?,
                    by: row.get(2)?,
                    made: row.get(3)?,
                    of_this_artwork: row.get(4)?,
                })
            })?
            .collect::<Result<_, _>>()?;
        Ok(History { steps, at })
    }
}
