//! Jobs: what a person sees in the list, and the finding, copying and deleting of them.

use rusqlite::{OptionalExtension, Row, TransactionBehavior, params};

use crate::{Millis, NewStep, OriginalId, Store, StoreError, now, originals, set_aside, steps};

/// Number of a job, as in its address.
pub type JobId = i64;

/// A job as stored.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Job {
    /// Its number.
    pub id: JobId,
    /// Its original file.
    pub original: OriginalId,
    /// Name of the file as it came.
    pub file_name: String,
    /// Width of the artwork, px.
    pub width_px: u32,
    /// Height of the artwork, px.
    pub height_px: u32,
    /// Title, client, tags.
    pub details: JobDetails,
    /// Grows with every change, so that a page can tell that it is out of date.
    pub revision: i64,
    /// When it was made.
    pub created: Millis,
    /// When it was last changed.
    pub saved: Millis,
}

/// What a person may type about a job.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct JobDetails {
    /// Title, never empty.
    pub title: String,
    /// For whom.
    pub client: String,
    /// Words to find it by, comma separated.
    pub tags: String,
}

/// What a new job starts from.
#[derive(Clone, Copy, Debug)]
pub struct NewJob<'a> {
    /// The file as it came.
    pub bytes: &'a [u8],
    /// Its name.
    pub file_name: &'a str,
    /// Size of the artwork, px.
    pub size_px: (u32, u32),
    /// Title, client, tags.
    pub details: &'a JobDetails,
    /// First recipe, JSON.
    pub recipe: &'a str,
    /// Who brought it in; empty where nobody signs in.
    pub by: &'a str,
}

/// In which order jobs are listed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum JobOrder {
    /// The one changed last first.
    #[default]
    Latest,
    /// The one made first first.
    Oldest,
    /// By title.
    Title,
    /// By client, then by title; those without one last.
    Client,
}

impl JobOrder {
    const fn sql(self) -> &'static str {
        match self {
            Self::Latest => "saved DESC, id DESC",
            Self::Oldest => "created, id",
            Self::Title => "title COLLATE NOCASE, id",
            Self::Client => "client = '', client COLLATE NOCASE, title COLLATE NOCASE, id",
        }
    }
}

/// Which jobs are listed.
#[derive(Clone, Debug)]
pub struct JobFilter {
    /// Words that must all be found in title, client, tags or file name.
    pub words: String,
    /// In which order.
    pub order: JobOrder,
    /// How many come before the first one listed.
    pub from: u32,
    /// How many are listed at most.
    pub most: u32,
}

impl Default for JobFilter {
    fn default() -> Self {
        Self {
            words: String::new(),
            order: JobOrder::Latest,
            from: 0,
            most: 200,
        }
    }
}

pub(crate) const COLUMNS: &str =
    "id, original, file_name, width_px, height_px, title, client, tags, revision, created, saved";

pub(crate) fn job(row: &Row<'_>) -> rusqlite::Result<Job> {
    Ok(Job {
        id: row.get(0)?,
        original: row.get(1)?,
        file_name: row.get(2)?,
        width_px: row.get(3)?,
        height_px: row.get(4)?,
        details: JobDetails {
            title: row.get(5)?,
            client: row.get(6)?,
            tags: row.get(7)?,
        },
        revision: row.get(8)?,
        created: row.get(9)?,
        saved: row.get(10)?,
    })
}

/// Words for LIKE, with its own signs made plain.
fn pattern(word: &str) -> String {
    let plain = word
        .replace('\\', "\\\\")
        .replace('%', "\\%")
        .replace('_', "\\_");
    format!("%{plain}%")
}

impl Store {
    /// Makes a job, its original and its first step in one transaction.
    ///
    /// # Errors
    /// When the store fails; then none of the three is there.
    pub fn create_job(&self, new: NewJob<'_>) -> Result<JobId, StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let original = originals::keep(&tx, new.bytes)?;
        let JobDetails {
            title,
            client,
            tags,
        } = new.details;
        tx.execute(
            "INSERT INTO jobs (original, file_name, width_px, height_px, title, client, tags, created, saved)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?8)",
            params![original, new.file_name, new.size_px.0, new.size_px.1, title, client, tags, now()],
        )?;
        let id = tx.last_insert_rowid();
        let first = NewStep {
            name: "Artwork brought in",
            recipe: new.recipe,
            by: new.by,
        };
        steps::first(&tx, id, first)?;
        tx.commit()?;
        Ok(id)
    }

    /// A job that is not deleted.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], or when the store fails.
    pub fn job(&self, id: JobId) -> Result<Job, StoreError> {
        self.reader()?
            .query_row(
                &format!("SELECT {COLUMNS} FROM jobs WHERE id = ?1 AND deleted IS NULL"),
                [id],
                job,
            )
            .optional()?
            .ok_or(StoreError::NoJob)
    }

    /// Jobs that are not deleted, in the order asked for.
    ///
    /// # Errors
    /// When the store fails.
    pub fn jobs(&self, filter: &JobFilter) -> Result<Vec<Job>, StoreError> {
        let words: Vec<String> = filter.words.split_whitespace().map(pattern).collect();
        let mut sql = format!("SELECT {COLUMNS} FROM jobs WHERE deleted IS NULL");
        for n in 1..=words.len() {
            sql.push_str(&format!(
                " AND (title || ' ' || client || ' ' || tags || ' ' || file_name) LIKE ?{n} ESCAPE '\\'"
            ));
        }
        let JobFilter {
            order, from, most, ..
        } = filter;
        sql.push_str(&format!(
            " ORDER BY {} LIMIT {most} OFFSET {from}",
            order.sql()
        ));
        let connection = self.reader()?;
        let mut query = connection.prepare(&sql)?;
        let rows = query.query_map(rusqlite::params_from_iter(&words), job)?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// How many jobs there are that are not deleted.
    ///
    /// # Errors
    /// When the store fails.
    pub fn count_jobs(&self) -> Result<i64, StoreError> {
        let count = "SELECT count(*) FROM jobs WHERE deleted IS NULL";
        Ok(self.reader()?.query_row(count, [], |row| row.get(0))?)
    }

    /// Changes title, client and tags; the job's revision is the next one then.
    ///
    /// # Errors
    /// [`StoreError::Stale`] when the job has another revision than `revision`; nothing is changed then.
    pub fn set_details(
        &self,
        id: JobId,
        revision: i64,
        details: &JobDetails,
    ) -> Result<(), StoreError> {
        let JobDetails {
            title,
            client,
            tags,
        } = details;
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        steps::place(&tx, id, revision)?;
        tx.execute(
            "UPDATE jobs SET title = ?2, client = ?3, tags = ?4, saved = ?5, revision = revision + 1 WHERE id = ?1",
            params![id, title, client, tags, now()],
        )?;
        tx.commit()?;
        Ok(())
    }

    /// Copies a job with its whole history.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], or when the store fails.
    pub fn duplicate_job(&self, id: JobId) -> Result<JobId, StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let copied = tx.execute(
            "INSERT INTO jobs (original, file_name, width_px, height_px, title, client, tags, at, created, saved)
             SELECT original, file_name, width_px, height_px, title || ' (copy)', client, tags, at, ?2, ?2
             FROM jobs WHERE id = ?1 AND deleted IS NULL",
            params![id, now()],
        )?;
        if copied == 0 {
            return Err(StoreError::NoJob);
        }
        let copy = tx.last_insert_rowid();
        tx.execute(
            "INSERT INTO steps (job, number, name, recipe, person, made, original, width_px, height_px, edit)
             SELECT ?2, number, name, recipe, person, made, original, width_px, height_px, edit FROM steps WHERE job = ?1",
            params![id, copy],
        )?;
        set_aside::copy(&tx, id, copy)?;
        tx.commit()?;
        Ok(copy)
    }

    /// Takes a job off the list; [`Store::restore_job`] brings it back.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], or when the store fails.
    pub fn delete_job(&self, id: JobId) -> Result<(), StoreError> {
        self.set_deleted(id, Some(now()), "deleted IS NULL")
    }

    /// Brings a deleted job back as it was.
    ///
    /// # Errors
    /// [`StoreError::NoJob`], or when the store fails.
    pub fn restore_job(&self, id: JobId) -> Result<(), StoreError> {
        self.set_deleted(id, None, "deleted IS NOT NULL")
    }

    fn set_deleted(&self, id: JobId, when: Option<Millis>, only: &str) -> Result<(), StoreError> {
        let sql = format!("UPDATE jobs SET deleted = ?2 WHERE id = ?1 AND {only}");
        let changed = self.writer()?.execute(&sql, params![id, when])?;
        if changed == 0 {
            Err(StoreError::NoJob)
        } else {
            Ok(())
        }
    }
}
