//! What is said of a store that cannot be used, and backups: made while it is in use, brought back whole.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::fs;
use std::path::Path;

use inky_store::{BackupError, JobDetails, NewJob, Store, StoreError, back_up, daily, restore};
use tempfile::TempDir;

const FILE: &str = "inky-outline.sqlite3";

fn add(store: &Store, bytes: &[u8], title: &str) -> i64 {
    let details = JobDetails {
        title: title.to_owned(),
        ..JobDetails::default()
    };
    let new = NewJob {
        by: "",
        bytes,
        file_name: "kite.png",
        size_px: (4, 3),
        details: &details,
        recipe: "{}",
    };
    store.create_job(new).unwrap()
}

fn refusal(folder: &Path) -> StoreError {
    Store::open(folder).unwrap_err()
}

#[test]
fn a_folder_is_open_in_one_program_at_a_time() {
    let folder = TempDir::new().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let clone = store.clone();
    assert!(matches!(refusal(folder.path()), StoreError::InUse(_)));
    drop(store);
    assert!(matches!(refusal(folder.path()), StoreError::InUse(_)));
    drop(clone);
    Store::open(folder.path()).unwrap();
}

#[test]
fn what_is_no_whole_store_is_left_as_it_is_and_said_so() {
    let folder = TempDir::new().unwrap();
    let file = folder.path().join(FILE);
    {
        let store = Store::open(folder.path()).unwrap();
        for n in 0..40 {
            add(&store, &vec![n; 30_000], "Kite");
        }
    }
    let good = fs::read(&file).unwrap();
    assert!(good.len() > 1_000_000);
    let mut scratched = good.clone();
    for byte in &mut scratched[20_000..60_000] {
        *byte ^= 0x5a;
    }
    let cases = [
        ("empty", Vec::new()),
        (
            "another file",
            b"not a store at all, but long enough".repeat(40),
        ),
        ("cut off", good[..good.len() / 2].to_vec()),
        ("scratched", scratched),
    ];
    for (name, bytes) in cases {
        fs::write(&file, &bytes).unwrap();
        let said = refusal(folder.path());
        assert!(matches!(said, StoreError::Damaged { .. }), "{name}: {said}");
        assert!(said.to_string().contains("inky restore"), "{name}: {said}");
        assert_eq!(fs::read(&file).unwrap(), bytes, "{name}");
    }
    fs::write(&file, good).unwrap();
    assert_eq!(
        Store::open(folder.path()).unwrap().count_jobs().unwrap(),
        40
    );
}

#[test]
fn a_store_of_a_newer_program_is_left_alone() {
    let folder = TempDir::new().unwrap();
    drop(Store::open(folder.path()).unwrap());
    let file = folder.path().join(FILE);
    let newer = rusqlite::Connection::open(&file).unwrap();
    newer.pragma_update(None, "user_version", 900).unwrap();
    drop(newer);
    let said = refusal(folder.path());
    assert!(matches!(said, StoreError::Newer(_)), "{said}");
}

#[test]
fn a_file_in_the_place_of_the_folder_is_said() {
    let folder = TempDir::new().unwrap();
    let file = folder.path().join("data");
    fs::write(&file, b"").unwrap();
    assert!(matches!(refusal(&file), StoreError::Folder(..)));
}

#[test]
fn a_full_disk_is_told_in_its_own_words() {
    let full = rusqlite::ffi::Error::new(rusqlite::ffi::SQLITE_FULL);
    let said = StoreError::from(rusqlite::Error::SqliteFailure(full, None)).to_string();
    assert!(said.contains("disk is full"), "{said}");
}

#[test]
fn a_backup_of_an_open_store_comes_back_with_every_original() {
    let folder = TempDir::new().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let bytes: Vec<u8> = (0..=255).cycle().take(50_000).collect();
    let job = add(&store, &bytes, "Kite");
    let file = folder.path().join("b.zip");
    back_up(folder.path(), &file).unwrap();
    // What comes later is not in it, and the store goes on.
    add(&store, b"later", "Later");
    let elsewhere = TempDir::new().unwrap();
    restore(&file, elsewhere.path()).unwrap();
    let brought = Store::open(elsewhere.path()).unwrap();
    assert_eq!(brought.count_jobs().unwrap(), 1);
    assert_eq!(brought.original(job).unwrap().bytes, bytes);
    assert_eq!(brought.job(job).unwrap().details.title, "Kite");
    assert_eq!(store.count_jobs().unwrap(), 2);
    let left = fs::read_dir(folder.path()).unwrap();
    let odd = left.filter(|e| {
        let name = e.as_ref().unwrap().file_name();
        let name = name.to_string_lossy().into_owned();
        name.ends_with(".part") || name.ends_with(".copy")
    });
    assert_eq!(odd.count(), 0, "nothing is left of the work");
}

#[test]
fn a_backup_is_brought_back_only_whole_and_only_where_no_jobs_are() {
    let folder = TempDir::new().unwrap();
    let store = Store::open(folder.path()).unwrap();
    add(&store, &[7; 90_000], "Kite");
    let file = folder.path().join("b.zip");
    back_up(folder.path(), &file).unwrap();
    assert!(matches!(
        restore(&file, folder.path()).unwrap_err(),
        BackupError::Store(StoreError::InUse(_))
    ));
    drop(store);
    assert!(matches!(
        restore(&file, folder.path()).unwrap_err(),
        BackupError::Occupied(_)
    ));
    let good = fs::read(&file).unwrap();
    let mut scratched = good.clone();
    let middle = good.len() / 2;
    scratched[middle] ^= 0x5a;
    for bytes in [good[..middle].to_vec(), scratched, b"no zip".to_vec()] {
        fs::write(&file, bytes).unwrap();
        let empty = TempDir::new().unwrap();
        let said = restore(&file, empty.path()).unwrap_err();
        assert!(matches!(said, BackupError::NotOurs { .. }), "{said}");
        assert!(!empty.path().join(FILE).exists());
    }
    let nothing = TempDir::new().unwrap();
    assert!(matches!(
        back_up(nothing.path(), &file).unwrap_err(),
        BackupError::Nothing(_)
    ));
    let nowhere = back_up(folder.path(), Path::new("/nowhere/b.zip")).unwrap_err();
    assert!(matches!(nowhere, BackupError::File { .. }), "{nowhere}");
    let own = folder.path().join(FILE);
    let before = fs::read(&own).unwrap();
    assert!(matches!(
        back_up(folder.path(), &own).unwrap_err(),
        BackupError::Own(_)
    ));
    assert_eq!(fs::read(&own).unwrap(), before);
}

#[test]
fn what_a_moved_store_left_beside_it_is_not_written_into_the_one_brought_back() {
    let folder = TempDir::new().unwrap();
    let store = Store::open(folder.path()).unwrap();
    add(&store, b"x", "Kite");
    let backup = folder.path().join("b.zip");
    back_up(folder.path(), &backup).unwrap();
    add(&store, b"later", "Later");
    // As after a crash: the file was moved away, what SQLite keeps beside it was not.
    let (wal, elsewhere) = (format!("{FILE}-wal"), TempDir::new().unwrap());
    fs::copy(folder.path().join(&wal), elsewhere.path().join(&wal)).unwrap();
    assert!(fs::metadata(elsewhere.path().join(&wal)).unwrap().len() > 0);
    restore(&backup, elsewhere.path()).unwrap();
    let brought = Store::open(elsewhere.path()).unwrap();
    assert_eq!(brought.count_jobs().unwrap(), 1);
    assert!(elsewhere.path().join(format!("{wal}.old")).exists());
}

#[test]
fn seven_daily_backups_are_kept() {
    let folder = TempDir::new().unwrap();
    let store = Store::open(folder.path()).unwrap();
    add(&store, b"x", "Kite");
    let backups = folder.path().join("backups");
    fs::create_dir_all(&backups).unwrap();
    for day in 1..=9 {
        fs::write(backups.join(format!("inky-2020-01-0{day}.zip")), b"old").unwrap();
    }
    fs::write(backups.join("notes.txt"), b"mine").unwrap();
    let kept = daily(folder.path()).unwrap();
    assert_eq!(kept.days.len(), 7);
    assert_eq!(kept.days[1..3], ["2020-01-09", "2020-01-08"]);
    assert!(!backups.join("inky-2020-01-03.zip").exists());
    assert!(backups.join("notes.txt").exists(), "not ours to take");
    let today = backups.join(format!("inky-{}.zip", kept.days[0]));
    let made = fs::metadata(&today).unwrap().modified().unwrap();
    assert_eq!(daily(folder.path()).unwrap(), kept);
    let again = fs::metadata(&today).unwrap().modified().unwrap();
    assert_eq!(made, again, "once a day");
}
