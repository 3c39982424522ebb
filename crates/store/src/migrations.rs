//! The tables, in numbered steps that are never changed once released.

use rusqlite_migration::{M, Migrations};

const FIRST: &str = "
CREATE TABLE originals (
    id         INTEGER PRIMARY KEY,
    sha256     TEXT    NOT NULL UNIQUE,
    bytes      BLOB    NOT NULL
) STRICT;

CREATE TABLE jobs (
    id         INTEGER PRIMARY KEY,
    original   INTEGER NOT NULL REFERENCES originals (id),
    file_name  TEXT    NOT NULL,
    width_px   INTEGER NOT NULL,
    height_px  INTEGER NOT NULL,
    title      TEXT    NOT NULL,
    client     TEXT    NOT NULL DEFAULT '',
    tags       TEXT    NOT NULL DEFAULT '',
    at         INTEGER NOT NULL DEFAULT 0,
    revision   INTEGER NOT NULL DEFAULT 0,
    created    INTEGER NOT NULL,
    saved      INTEGER NOT NULL,
    deleted    INTEGER
) STRICT;
CREATE INDEX jobs_by_saved ON jobs (deleted, saved DESC);

CREATE TABLE steps (
    job        INTEGER NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    number     INTEGER NOT NULL,
    name       TEXT    NOT NULL,
    recipe     TEXT    NOT NULL,
    made       INTEGER NOT NULL,
    PRIMARY KEY (job, number)
) STRICT, WITHOUT ROWID;

CREATE TABLE results (
    job        INTEGER NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    kind       TEXT    NOT NULL,
    made_from  TEXT    NOT NULL,
    body       BLOB    NOT NULL,
    PRIMARY KEY (job, kind)
) STRICT;
";

/// A job's artwork may be replaced by a better copy: every step says which one it is made from.
const ORIGINAL_OF_STEP: &str = "
ALTER TABLE steps ADD COLUMN original INTEGER REFERENCES originals (id);
ALTER TABLE steps ADD COLUMN width_px INTEGER;
ALTER TABLE steps ADD COLUMN height_px INTEGER;
UPDATE steps SET
    original  = (SELECT original  FROM jobs WHERE jobs.id = steps.job),
    width_px  = (SELECT width_px  FROM jobs WHERE jobs.id = steps.job),
    height_px = (SELECT height_px FROM jobs WHERE jobs.id = steps.job);
";

/// Outlines changed by hand: each step names its last edit, each edit the one before it, so that a
/// history of a thousand edits keeps each of them once. Traced drawings are kept as they were first
/// changed.
const EDITS: &str = "
CREATE TABLE edits (
    id         INTEGER PRIMARY KEY,
    before     INTEGER REFERENCES edits (id),
    body       TEXT    NOT NULL
) STRICT;
ALTER TABLE steps ADD COLUMN edit INTEGER REFERENCES edits (id);
CREATE TABLE traced (
    sha256     TEXT    PRIMARY KEY,
    body       TEXT    NOT NULL
) STRICT, WITHOUT ROWID;
";

/// The shop's own list of materials; jobs keep the values they were made with.
const MATERIALS: &str = "
CREATE TABLE materials (
    id         INTEGER PRIMARY KEY,
    body       TEXT    NOT NULL,
    retired    INTEGER NOT NULL DEFAULT 0
) STRICT;
";

/// Edits that a new trace set aside, each with the recipe, the artwork and the edits it had.
const SET_ASIDE: &str = "
CREATE TABLE set_aside (
    id         INTEGER PRIMARY KEY,
    job        INTEGER NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    recipe     TEXT    NOT NULL,
    edit       INTEGER REFERENCES edits (id),
    original   INTEGER NOT NULL REFERENCES originals (id),
    width_px   INTEGER NOT NULL,
    height_px  INTEGER NOT NULL,
    made       INTEGER NOT NULL
) STRICT;
CREATE UNIQUE INDEX set_aside_once ON set_aside (job, coalesce(edit, 0), recipe);
";

/// Who did a step, where people sign in.
const WHO: &str = "
ALTER TABLE steps ADD COLUMN person TEXT NOT NULL DEFAULT '';
";

/// Machines of the shop, and every run of one with what was written to it and heard from it.
const MACHINES: &str = "
CREATE TABLE machines (
    id         INTEGER PRIMARY KEY,
    body       TEXT    NOT NULL,
    removed    INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE TABLE runs (
    id         INTEGER PRIMARY KEY,
    machine    INTEGER NOT NULL REFERENCES machines (id),
    job        INTEGER REFERENCES jobs (id) ON DELETE SET NULL,
    title      TEXT    NOT NULL,
    person     TEXT    NOT NULL,
    place      INTEGER NOT NULL,
    stops      TEXT    NOT NULL,
    state      TEXT    NOT NULL,
    ended      INTEGER,
    asked      INTEGER NOT NULL
) STRICT;
CREATE INDEX runs_by_machine ON runs (machine, place);
CREATE TABLE run_logs (
    id         INTEGER PRIMARY KEY,
    run        INTEGER NOT NULL REFERENCES runs (id) ON DELETE CASCADE,
    text       TEXT    NOT NULL
) STRICT;
CREATE INDEX run_logs_by_run ON run_logs (run, id);
";

/// Odd pieces of stock with the photograph each was found in and its picture; stock says which picture is its own.
const OFFCUTS: &str = "
CREATE TABLE offcuts (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    body       TEXT    NOT NULL,
    photograph BLOB    NOT NULL,
    picture    BLOB    NOT NULL
) STRICT;
";

pub(crate) fn all() -> Migrations<'static> {
    Migrations::new(vec![
        M::up(FIRST),
        M::up(ORIGINAL_OF_STEP),
        M::up(EDITS),
        M::up(MATERIALS),
        M::up(SET_ASIDE),
        M::up(WHO),
        M::up(MACHINES),
        M::up(OFFCUTS),
    ])
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_migrations_run_from_an_empty_file() {
        super::all().validate().unwrap();
    }
}
