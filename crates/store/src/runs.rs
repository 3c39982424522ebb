//! Runs: what was sent to a machine or waits for it, how far it came, and all that was said.
//!
//! Those that have not ended are the machine's queue, in the order of their places.

use rusqlite::{OptionalExtension, Row, params};

use crate::{JobId, MachineId, Millis, Store, StoreError};

/// Number of a run.
pub type RunId = i64;

/// A run to be kept.
#[derive(Clone, Debug)]
pub struct NewRun<'a> {
    /// The machine it is for.
    pub machine: MachineId,
    /// The job it is of; `None` of a trial.
    pub job: Option<JobId>,
    /// What it is called.
    pub title: &'a str,
    /// Who asked for it; empty where nobody signs in.
    pub person: &'a str,
    /// What is sent, stop by stop, JSON.
    pub stops: &'a str,
    /// How it stands, JSON.
    pub state: &'a str,
    /// When it was asked for.
    pub asked: Millis,
}

/// A run as it is kept.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct StoredRun {
    /// Its number.
    pub id: RunId,
    /// The machine it is for.
    pub machine: MachineId,
    /// The job it is of; `None` of a trial, or where the job is gone for good.
    pub job: Option<JobId>,
    /// What it is called.
    pub title: String,
    /// Who asked for it.
    pub person: String,
    /// What is sent, stop by stop, JSON.
    pub stops: String,
    /// How it stands, JSON.
    pub state: String,
    /// When it was asked for.
    pub asked: Millis,
    /// When it was finished or left.
    pub ended: Option<Millis>,
}

const COLUMNS: &str = "id, machine, job, title, person, stops, state, asked, ended";

fn read(row: &Row<'_>) -> rusqlite::Result<StoredRun> {
    Ok(StoredRun {
        id: row.get(0)?,
        machine: row.get(1)?,
        job: row.get(2)?,
        title: row.get(3)?,
        person: row.get(4)?,
        stops: row.get(5)?,
        state: row.get(6)?,
        asked: row.get(7)?,
        ended: row.get(8)?,
    })
}

impl Store {
    /// Puts a run at the end of its machine's queue.
    ///
    /// # Errors
    /// When the store fails.
    pub fn add_run(&self, run: &NewRun<'_>) -> Result<RunId, StoreError> {
        let connection = self.writer()?;
        connection.execute(
            "INSERT INTO runs (machine, job, title, person, place, stops, state, asked)
             VALUES (?1, ?2, ?3, ?4, (SELECT coalesce(max(place), 0) + 1 FROM runs), ?5, ?6, ?7)",
            params![
                run.machine,
                run.job,
                run.title,
                run.person,
                run.stops,
                run.state,
                run.asked
            ],
        )?;
        Ok(connection.last_insert_rowid())
    }

    /// A run by its number.
    ///
    /// # Errors
    /// When the store fails.
    pub fn run(&self, id: RunId) -> Result<Option<StoredRun>, StoreError> {
        let connection = self.reader()?;
        let query = format!("SELECT {COLUMNS} FROM runs WHERE id = ?1");
        Ok(connection.query_row(&query, [id], read).optional()?)
    }

    /// What a machine has to do, or of every machine, first what comes first.
    ///
    /// # Errors
    /// When the store fails.
    pub fn queue(&self, machine: Option<MachineId>) -> Result<Vec<StoredRun>, StoreError> {
        let connection = self.reader()?;
        let mut query = connection.prepare_cached(&format!(
            "SELECT {COLUMNS} FROM runs WHERE ended IS NULL AND (?1 IS NULL OR machine = ?1)
             ORDER BY place"
        ))?;
        let rows = query.query_map([machine], read)?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// What a machine did, the latest first, at most `most` of it.
    ///
    /// # Errors
    /// When the store fails.
    pub fn ended_runs(&self, machine: MachineId, most: u32) -> Result<Vec<StoredRun>, StoreError> {
        let connection = self.reader()?;
        let mut query = connection.prepare_cached(&format!(
            "SELECT {COLUMNS} FROM runs WHERE machine = ?1 AND ended IS NOT NULL
             ORDER BY ended DESC, id DESC LIMIT ?2"
        ))?;
        let rows = query.query_map(params![machine, most], read)?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// How a run stands now, with what was said since it was kept last; both are kept or neither.
    ///
    /// # Errors
    /// When the store fails.
    pub fn keep_run(
        &self,
        id: RunId,
        state: &str,
        ended: Option<Millis>,
        said: &str,
    ) -> Result<(), StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction()?;
        tx.execute(
            "UPDATE runs SET state = ?2, ended = ?3 WHERE id = ?1",
            params![id, state, ended],
        )?;
        if !said.is_empty() {
            tx.execute(
                "INSERT INTO run_logs (run, text) VALUES (?1, ?2)",
                params![id, said],
            )?;
        }
        tx.commit()?;
        Ok(())
    }

    /// Replaces what a run sends.
    ///
    /// # Errors
    /// When the store fails.
    pub fn change_stops(&self, id: RunId, stops: &str) -> Result<(), StoreError> {
        let connection = self.writer()?;
        connection.execute(
            "UPDATE runs SET stops = ?2 WHERE id = ?1",
            params![id, stops],
        )?;
        Ok(())
    }

    /// Moves a run so that it comes right before another one of its queue, or to its end; whether both wait there.
    ///
    /// # Errors
    /// When the store fails.
    pub fn move_run(&self, id: RunId, before: Option<RunId>) -> Result<bool, StoreError> {
        let mut connection = self.writer()?;
        let tx = connection.transaction()?;
        let place = |id: RunId| {
            let query = "SELECT machine, place FROM runs WHERE id = ?1 AND ended IS NULL";
            let found = tx.query_row(query, [id], |row| {
                Ok((row.get::<_, MachineId>(0)?, row.get::<_, i64>(1)?))
            });
            found.optional()
        };
        let Some((machine, _)) = place(id)? else {
            return Ok(false);
        };
        let at = match before {
            Some(before) => match place(before)? {
                Some((same, at)) if same == machine => at,
                _ => return Ok(false),
            },
            None => tx.query_row("SELECT max(place) + 1 FROM runs", [], |row| row.get(0))?,
        };
        tx.execute("UPDATE runs SET place = place + 1 WHERE place >= ?1", [at])?;
        tx.execute("UPDATE runs SET place = ?2 WHERE id = ?1", [id, at])?;
        tx.commit()?;
        Ok(true)
    }

    /// Puts other stops in the place of those of a run that has not ended, with what it is called now and who asked;
    /// whether there was one.
    ///
    /// # Errors
    /// When the store fails.
    pub fn change_run(
        &self,
        id: RunId,
        (title, person): (&str, &str),
        stops: &str,
    ) -> Result<bool, StoreError> {
        let connection = self.writer()?;
        let changed = connection.execute(
            "UPDATE runs SET title = ?2, person = ?3, stops = ?4 WHERE id = ?1 AND ended IS NULL",
            params![id, title, person, stops],
        )?;
        Ok(changed == 1)
    }

    /// All that was said in a run.
    ///
    /// # Errors
    /// When the store fails.
    pub fn run_log(&self, id: RunId) -> Result<String, StoreError> {
        let connection = self.reader()?;
        let mut query =
            connection.prepare_cached("SELECT text FROM run_logs WHERE run = ?1 ORDER BY id")?;
        let rows = query.query_map([id], |row| row.get::<_, String>(0))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }
}
