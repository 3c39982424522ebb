//! Deleted jobs: found again for thirty days, then gone with what only they used.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_store::{JobDetails, JobId, NewJob, Store, StoreError};
use tempfile::TempDir;

fn add(store: &Store, bytes: &[u8], title: &str) -> JobId {
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
        recipe: "{\"n\":0}",
    };
    store.create_job(new).expect("stored")
}

/// A figure straight from the file.
fn figure(folder: &TempDir, sql: &str) -> i64 {
    let connection =
        rusqlite::Connection::open(folder.path().join("inky-outline.sqlite3")).expect("opens");
    connection
        .query_row(sql, [], |row| row.get(0))
        .expect("one figure")
}

#[test]
fn the_bin_gives_back_what_was_deleted_and_empties_after_thirty_days() {
    let folder = TempDir::new().expect("a folder");
    let store = Store::open(folder.path()).expect("opens");
    let [kite, moon, twin] = [
        add(&store, b"kite", "Kite"),
        add(&store, b"moon", "Moon"),
        add(&store, b"kite", "Kite again"),
    ];
    for job in [kite, moon] {
        store.delete_job(job).unwrap();
    }
    let titles = |store: &Store| -> Vec<String> {
        let bin = store.bin().unwrap().into_iter();
        bin.map(|b| b.job.details.title).collect()
    };
    assert_eq!(titles(&store), ["Moon", "Kite"]);
    assert_eq!(store.count_bin().unwrap(), 2);
    let first = &store.bin().unwrap()[0];
    assert_eq!(first.gone - first.deleted, 30 * 24 * 3600 * 1000);
    // Nothing is old enough yet, and one comes back as it was.
    assert_eq!(store.empty_bin().unwrap(), 0);
    store.restore_job(moon).unwrap();
    assert_eq!(store.original(moon).unwrap().bytes, b"moon");
    store.delete_job(moon).unwrap();
    // A month goes by for one of them.
    let old = format!("UPDATE jobs SET deleted = deleted - 31 * 86400000 WHERE id = {kite}");
    let connection =
        rusqlite::Connection::open(folder.path().join("inky-outline.sqlite3")).expect("opens");
    connection.execute(&old, []).expect("one row");
    drop(connection);
    assert_eq!(store.empty_bin().unwrap(), 1);
    assert_eq!(titles(&store), ["Moon"]);
    assert!(matches!(store.restore_job(kite), Err(StoreError::NoJob)));
    // Its artwork is also another job's.
    assert_eq!(store.original(twin).unwrap().bytes, b"kite");
    assert_eq!(figure(&folder, "SELECT count(*) FROM originals"), 2);
    store.delete_for_good(moon).unwrap();
    assert_eq!(figure(&folder, "SELECT count(*) FROM originals"), 1);
    assert_eq!(figure(&folder, "SELECT count(*) FROM steps"), 1);
    // What is not in the bin stays.
    assert!(matches!(
        store.delete_for_good(twin),
        Err(StoreError::NoJob)
    ));
    assert_eq!(store.count_jobs().unwrap(), 1);
}
