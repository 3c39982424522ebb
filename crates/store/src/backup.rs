//! Backups: all jobs with their originals in one file, made while the program runs, and brought back.
//!
//! ```text
//!   inky-outline.sqlite3 ──VACUUM INTO──► a copy as of one moment ──zip──► inky-2026-11-28.zip
//! ```
//!
//! SQLite makes the copy (`VACUUM INTO`): it holds what was acknowledged when it began, whoever writes
//! meanwhile.

use std::fs::{self, File};
use std::io::{self, Read, Seek, Write};
use std::path::{Path, PathBuf};

use rusqlite::Connection;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

use crate::{FILE_NAME, StoreError, opening};

/// So many daily backups are kept.
const KEPT: usize = 7;
/// Where they lie in the data folder.
const FOLDER: &str = "backups";
/// The store's file and those that SQLite keeps beside it.
const SIDES: [&str; 3] = ["", "-wal", "-shm"];
/// A store is not larger than this, bytes: what claims more is not unpacked.
const LARGEST: u64 = 1 << 40;

/// Why there is no backup, or why it was not brought back; nothing was changed.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum BackupError {
    /// There is nothing to copy.
    #[error("there is no store in {}; name its folder with --data", .0.display())]
    Nothing(PathBuf),
    /// A store is there already.
    #[error(
        "{} holds jobs already, which stay as they are; choose another folder with --data", .0.display()
    )]
    Occupied(PathBuf),
    /// The backup would take the place of the store.
    #[error("{} is a file of the store itself, which stays as it is; give the backup another name", .0.display())]
    Own(PathBuf),
    /// The file is no backup.
    #[error("{} is not a backup of this program ({why})", file.display())]
    NotOurs {
        /// The file.
        file: PathBuf,
        /// What is wrong with it.
        why: String,
    },
    /// A file cannot be read or written.
    #[error("{}: {source}", file.display())]
    File {
        /// The file.
        file: PathBuf,
        /// What the system says.
        source: io::Error,
    },
    /// The store cannot be read.
    #[error(transparent)]
    Store(#[from] StoreError),
}

/// The daily backups of a store.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Kept {
    /// The folder they lie in.
    pub folder: PathBuf,
    /// The days they were made, `2026-11-28`, the newest first.
    pub days: Vec<String>,
}

fn at(file: &Path) -> impl FnOnce(io::Error) -> BackupError {
    let file = file.to_owned();
    move |source| BackupError::File { file, source }
}

/// Copies the store of a folder, open or not, into one file that replaces another of its name.
///
/// # Errors
/// When there is no store, it is not whole, or the file cannot be written; nothing of it is left then.
pub fn back_up(folder: &Path, to: &Path) -> Result<(), BackupError> {
    let store = folder.join(FILE_NAME);
    if !store.is_file() {
        return Err(BackupError::Nothing(folder.to_owned()));
    }
    let same =
        |file: &Path| matches!((file.canonicalize(), to.canonicalize()), (Ok(a), Ok(b)) if a == b);
    if SIDES.iter().any(|side| same(&beside(&store, side))) {
        return Err(BackupError::Own(to.to_owned()));
    }
    let (part, copy) = (beside(to, ".part"), beside(to, ".copy"));
    // A place that cannot be written is said before the work is done.
    let made = File::create(&part)
        .map_err(at(to))
        .and_then(|_| copied(&store, &copy))
        .and_then(|()| packed(&copy, &part))
        .and_then(|()| fs::rename(&part, to).map_err(at(to)));
    // What is left of a try is of no use to anybody.
    let _ = fs::remove_file(&copy);
    if made.is_err() {
        let _ = fs::remove_file(&part);
    }
    made
}

fn beside(file: &Path, ending: &str) -> PathBuf {
    let mut name = file.as_os_str().to_owned();
    name.push(ending);
    PathBuf::from(name)
}

fn copied(store: &Path, copy: &Path) -> Result<(), BackupError> {
    // Of a try that was cut off.
    let _ = fs::remove_file(copy);
    let sql = |e: rusqlite::Error| BackupError::from(opening::refused(store, e));
    let connection = Connection::open(store).map_err(sql)?;
    connection
        .execute_batch("PRAGMA busy_timeout = 5000;")
        .map_err(sql)?;
    connection
        .execute("VACUUM INTO ?1", [copy.to_string_lossy()])
        .map_err(sql)?;
    let copied = Connection::open(copy).map_err(sql)?;
    opening::whole(&copied).map_err(sql)?.map_err(|why| {
        StoreError::Damaged {
            file: store.to_owned(),
            why,
        }
        .into()
    })
}

fn packed(copy: &Path, to: &Path) -> Result<(), BackupError> {
    let mut from = File::open(copy).map_err(at(copy))?;
    let mut zip = ZipWriter::new(File::create(to).map_err(at(to))?);
    // Pictures, most of it, do not get smaller.
    let options = SimpleFileOptions::default()
        .compression_method(CompressionMethod::Stored)
        .large_file(true);
    zip.start_file(FILE_NAME, options)
        .map_err(|e| at(to)(e.into()))?;
    io::copy(&mut from, &mut zip).map_err(at(to))?;
    let file = zip.finish().map_err(|e| at(to)(e.into()))?;
    file.sync_all().map_err(at(to))
}

/// Brings a backup back into a folder that holds no jobs.
///
/// # Errors
/// When the folder holds jobs or is in use, or the file is no whole backup; nothing is changed then.
pub fn restore(backup: &Path, folder: &Path) -> Result<(), BackupError> {
    let file = File::open(backup).map_err(at(backup))?;
    fs::create_dir_all(folder).map_err(at(folder))?;
    let _claim = opening::claim(folder)?;
    let store = folder.join(FILE_NAME);
    if store.exists() {
        return Err(BackupError::Occupied(folder.to_owned()));
    }
    let part = beside(&store, ".part");
    let brought = unpacked(backup, file, &part)
        .and_then(|()| set_aside(&store))
        .and_then(|()| fs::rename(&part, &store).map_err(at(&store)));
    if brought.is_err() {
        let _ = fs::remove_file(&part);
    }
    brought
}

/// What SQLite kept beside a store that was moved away: it would be written into the one that comes.
fn set_aside(store: &Path) -> Result<(), BackupError> {
    for side in &SIDES[1..] {
        let left = beside(store, side);
        if left.exists() {
            fs::rename(&left, beside(&left, ".old")).map_err(at(&left))?;
        }
    }
    Ok(())
}

fn unpacked(backup: &Path, file: impl Read + Seek, to: &Path) -> Result<(), BackupError> {
    let not_ours = |why: String| BackupError::NotOurs {
        file: backup.to_owned(),
        why,
    };
    let mut zip = ZipArchive::new(file).map_err(|e| not_ours(e.to_string()))?;
    let entry = zip.by_name(FILE_NAME);
    let mut entry = entry.map_err(|_| not_ours("it holds no store".to_owned()))?;
    let mut out = File::create(to).map_err(at(to))?;
    io::copy(&mut entry.by_ref().take(LARGEST), &mut out).map_err(|e| not_ours(e.to_string()))?;
    out.flush().and_then(|()| out.sync_all()).map_err(at(to))?;
    let whole = Connection::open(to).and_then(|c| opening::whole(&c));
    whole
        .map_err(|e| not_ours(e.to_string()))?
        .map_err(not_ours)
}

/// Makes the day's backup of a folder where it is not there yet and forgets the oldest beyond seven;
/// tells which are kept.
///
/// # Errors
/// When it cannot be made; older ones are kept then.
pub fn daily(folder: &Path) -> Result<Kept, BackupError> {
    let backups = folder.join(FOLDER);
    fs::create_dir_all(&backups).map_err(at(&backups))?;
    let today = jiff::Zoned::now().date().to_string();
    let named = |day: &str| backups.join(format!("inky-{day}.zip"));
    if !named(&today).is_file() {
        back_up(folder, &named(&today))?;
    }
    let mut days = made_on(&backups).map_err(at(&backups))?;
    for day in days.drain(days.len().min(KEPT)..) {
        let old = named(&day);
        fs::remove_file(&old).map_err(at(&old))?;
    }
    Ok(Kept {
        folder: backups,
        days,
    })
}

/// The days of the backups in a folder, the newest first.
fn made_on(backups: &Path) -> io::Result<Vec<String>> {
    let mut days = Vec::new();
    for entry in fs::read_dir(backups)? {
        let name = entry?.file_name();
        let name = name.to_string_lossy();
        let day = name
            .strip_prefix("inky-")
            .and_then(|n| n.strip_suffix(".zip"));
        days.extend(
            day.filter(|d| d.parse::<jiff::civil::Date>().is_ok())
                .map(str::to_owned),
        );
    }
    days.sort_unstable_by(|a, b| b.cmp(a));
    Ok(days)
}
