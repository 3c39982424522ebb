//! What the store promises: byte-for-byte originals, history, search, nothing lost.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_store::{
    Edits, JobDetails, JobFilter, JobOrder, NewJob, NewStep, Past, Store, StoreError,
};
use tempfile::TempDir;

fn open() -> (TempDir, Store) {
    let folder = TempDir::new().expect("a folder");
    let store = Store::open(folder.path()).expect("opens");
    (folder, store)
}

fn details(title: &str, client: &str, tags: &str) -> JobDetails {
    JobDetails {
        title: title.to_owned(),
        client: client.to_owned(),
        tags: tags.to_owned(),
    }
}

/// A step that nobody signed.
fn step<'a>(name: &'a str, recipe: &'a str) -> NewStep<'a> {
    let by = "";
    NewStep { name, recipe, by }
}

fn add(store: &Store, bytes: &[u8], details: &JobDetails) -> i64 {
    let new = NewJob {
        by: "",
        bytes,
        file_name: "kite.png",
        size_px: (4, 3),
        details,
        recipe: "{\"n\":0}",
    };
    store.create_job(new).expect("stored")
}

#[test]
fn materials_are_added_all_or_none_changed_and_retired() {
    let folder = TempDir::new().unwrap();
    let store = Store::open(folder.path()).unwrap();
    assert!(store.materials().unwrap().is_empty());
    assert_eq!(store.add_materials(&[]).unwrap(), None);
    let last = store
        .add_materials(&[
            "{\"name\":\"film\"}".to_owned(),
            "{\"name\":\"ply\"}".to_owned(),
        ])
        .unwrap()
        .unwrap();
    assert!(store.change_material(last, "{\"name\":\"birch\"}").unwrap());
    assert!(!store.change_material(99, "{}").unwrap());
    assert_eq!(store.retire_material(last).unwrap(), Some(true));
    assert_eq!(store.retire_material(99).unwrap(), None);
    // As it was left, when it is opened again.
    drop(store);
    let store = Store::open(folder.path()).unwrap();
    let all = store.materials().unwrap();
    assert_eq!(all.len(), 2);
    assert_eq!(
        (all[1].body.as_str(), all[1].retired),
        ("{\"name\":\"birch\"}", true)
    );
    assert_eq!(store.retire_material(last).unwrap(), Some(false));
}

#[test]
fn an_original_comes_back_byte_for_byte_and_is_stored_once() {
    let (_folder, store) = open();
    let bytes: Vec<u8> = (0..=255).cycle().take(70_000).collect();
    let (a, b) = (
        add(&store, &bytes, &details("A", "", "")),
        add(&store, &bytes, &details("B", "", "")),
    );
    assert_eq!(store.original(a).expect("kept").bytes, bytes);
    assert_eq!(
        store.original(a).expect("kept").id,
        store.original(b).expect("kept").id
    );
}

#[test]
fn undo_and_redo_walk_the_history_until_something_new_is_done() {
    let (_folder, store) = open();
    let id = add(&store, b"x", &details("A", "", ""));
    let revision = || store.job(id).expect("there").revision;
    store
        .add_step(
            id,
            revision(),
            NewStep {
                by: "Ada",
                ..step("Threshold 40 %", "{\"n\":1}")
            },
            Edits::Same,
        )
        .expect("added");
    store
        .add_step(
            id,
            revision(),
            step("Outer edge only", "{\"n\":2}"),
            Edits::Same,
        )
        .expect("added");
    store.move_step(id, revision(), -1).expect("undone");
    assert_eq!(store.step(id).expect("there").recipe, "{\"n\":1}");
    let history = store.history(id).expect("there");
    let [undo, redo] = [history.undo(), history.redo()].map(|past| past.map(Past::told));
    assert_eq!(undo.as_deref(), Some("Threshold 40 %, by Ada"));
    assert_eq!(redo.as_deref(), Some("Outer edge only"));
    store.move_step(id, revision(), 1).expect("redone");
    assert_eq!(store.step(id).expect("there").recipe, "{\"n\":2}");
    store
        .move_step(id, revision(), -2)
        .expect("back to the start");
    assert!(matches!(
        store.move_step(id, revision(), -1),
        Err(StoreError::NoStep("undo"))
    ));
    store
        .add_step(id, revision(), step("Inverted", "{\"n\":3}"), Edits::Same)
        .expect("added");
    assert_eq!(
        store.history(id).expect("there").redo(),
        None,
        "the later steps are gone now"
    );
    assert_eq!(store.history(id).expect("there").steps.len(), 2);
}

#[test]
fn a_page_that_is_out_of_date_overwrites_nothing() {
    let (_folder, store) = open();
    let id = add(&store, b"x", &details("A", "", ""));
    let seen = store.job(id).expect("there").revision;
    store
        .add_step(id, seen, step("first window", "{\"n\":1}"), Edits::Same)
        .expect("added");
    let refused = store.add_step(id, seen, step("second window", "{\"n\":2}"), Edits::Same);
    assert!(matches!(refused, Err(StoreError::Stale)));
    assert_eq!(store.step(id).expect("there").recipe, "{\"n\":1}");
}

#[test]
fn search_finds_words_anywhere_and_takes_signs_as_they_are() {
    let (_folder, store) = open();
    add(
        &store,
        b"x",
        &details("Teapot emblem", "Brindle Kettle", "van, vinyl"),
    );
    add(&store, b"x", &details("50% off", "Old Lock Boatyard", ""));
    let found = |words: &str| -> Vec<String> {
        let jobs = store
            .jobs(&JobFilter {
                words: words.to_owned(),
                ..JobFilter::default()
            })
            .expect("listed");
        jobs.into_iter().map(|j| j.details.title).collect()
    };
    assert_eq!(found("kettle VINYL"), ["Teapot emblem"]);
    assert_eq!(found("50%"), ["50% off"]);
    assert_eq!(found("%"), ["50% off"]);
    assert_eq!(
        found("kite"),
        ["50% off", "Teapot emblem"],
        "file names count, newest first"
    );
    assert!(found("kettle boatyard").is_empty());
}

#[test]
fn jobs_are_listed_in_any_order_and_all_are_reached() {
    let (_folder, store) = open();
    for (title, client) in [("b", "Nettle"), ("a", ""), ("C", "kettle")] {
        add(&store, b"x", &details(title, client, ""));
    }
    let listed = |order: JobOrder, from: u32, most: u32| -> String {
        let filter = JobFilter {
            order,
            from,
            most,
            ..JobFilter::default()
        };
        let jobs = store.jobs(&filter).expect("listed");
        jobs.into_iter().map(|j| j.details.title).collect()
    };
    assert_eq!(listed(JobOrder::Latest, 0, 9), "Cab");
    assert_eq!(listed(JobOrder::Oldest, 0, 9), "baC");
    assert_eq!(listed(JobOrder::Title, 0, 9), "abC");
    assert_eq!(
        listed(JobOrder::Client, 0, 9),
        "Cba",
        "without a client last"
    );
    let pages: String = (0..4).map(|n| listed(JobOrder::Title, n, 1)).collect();
    assert_eq!(pages, "abC", "one after the other, and then nothing");
}

#[test]
fn a_deleted_job_is_off_the_list_until_it_is_restored() {
    let (_folder, store) = open();
    let id = add(&store, b"x", &details("A", "", ""));
    store.delete_job(id).expect("deleted");
    assert!(matches!(store.job(id), Err(StoreError::NoJob)));
    assert_eq!(store.count_jobs().expect("counted"), 0);
    assert!(matches!(store.delete_job(id), Err(StoreError::NoJob)));
    store.restore_job(id).expect("restored");
    assert_eq!(store.job(id).expect("there").details.title, "A");
}

#[test]
fn a_copy_has_the_history_and_goes_its_own_way() {
    let (_folder, store) = open();
    let id = add(&store, b"x", &details("A", "C", "t"));
    store
        .add_step(id, 0, step("One tone", "{\"n\":1}"), Edits::Same)
        .expect("added");
    let copy = store.duplicate_job(id).expect("copied");
    assert_eq!(store.step(copy).expect("there").recipe, "{\"n\":1}");
    assert_eq!(store.job(copy).expect("there").details.title, "A (copy)");
    store
        .move_step(copy, store.job(copy).expect("there").revision, -1)
        .expect("undone");
    assert_eq!(
        store.step(id).expect("there").recipe,
        "{\"n\":1}",
        "the first is as it was"
    );
}

#[test]
fn results_are_only_a_cache() {
    let (_folder, store) = open();
    let id = add(&store, b"x", &details("A", "", ""));
    store
        .keep_result(id, "thumbnail", "v1", b"small")
        .expect("kept");
    assert_eq!(
        store
            .result(id, "thumbnail", "v1")
            .expect("read")
            .as_deref(),
        Some(&b"small"[..])
    );
    assert_eq!(
        store.result(id, "thumbnail", "v2").expect("read"),
        None,
        "made from something else"
    );
}

#[test]
fn everything_is_there_after_closing_and_opening_again() {
    let (folder, store) = open();
    let id = add(&store, b"pixels", &details("A", "C", "t"));
    store
        .add_step(id, 0, step("One tone", "{\"n\":1}"), Edits::Same)
        .expect("added");
    drop(store);
    let store = Store::open(folder.path()).expect("opens again");
    assert_eq!(store.original(id).expect("kept").bytes, b"pixels");
    assert_eq!(store.step(id).expect("there").name, "One tone");
}

#[test]
fn a_better_copy_of_the_artwork_goes_and_comes_back_with_its_step() {
    let (_folder, store) = open();
    let id = add(&store, b"small", &details("A", "", ""));
    let revision = || store.job(id).expect("there").revision;
    let better: (&[u8], (u32, u32)) = (b"large", (40, 30));
    store
        .replace_original(
            id,
            revision(),
            better,
            step("Artwork replaced", "{\"n\":1}"),
            Edits::Same,
        )
        .expect("replaced");
    store
        .add_step(
            id,
            revision(),
            step("Outer edge only", "{\"n\":2}"),
            Edits::Same,
        )
        .expect("added");
    assert_eq!(store.original(id).expect("kept").bytes, b"large");
    assert_eq!(store.job(id).expect("there").width_px, 40);
    let copy = store.duplicate_job(id).expect("copied");
    store.move_step(id, revision(), -1).expect("undone");
    assert_eq!(store.original(id).expect("kept").bytes, b"large");
    store.move_step(id, revision(), -1).expect("undone");
    assert_eq!(store.original(id).expect("kept").bytes, b"small");
    assert_eq!(store.job(id).expect("there").width_px, 4);
    assert_eq!(store.original(copy).expect("kept").bytes, b"large");
    assert!(matches!(
        store.replace_original(id, 0, better, step("Artwork replaced", "{}"), Edits::Same),
        Err(StoreError::Stale)
    ));
}

#[test]
fn edits_are_kept_once_and_come_and_go_with_their_steps() {
    let (_folder, store) = open();
    let id = add(&store, b"x", &details("A", "", ""));
    let revision = || store.job(id).expect("there").revision;
    let edits = || store.step(id).expect("there").edits;
    let more = |bodies: &[&str]| bodies.iter().map(|b| (*b).to_owned()).collect::<Vec<_>>();
    for n in 0..3 {
        let body = more(&[&format!("{{\"edit\":{n}}}")]);
        store
            .add_step(id, revision(), step("Moved", "{}"), Edits::More(&body))
            .expect("added");
    }
    assert_eq!(edits(), ["{\"edit\":0}", "{\"edit\":1}", "{\"edit\":2}"]);
    store.move_step(id, revision(), -1).expect("undone");
    store.move_step(id, revision(), -1).expect("undone");
    assert_eq!(edits(), ["{\"edit\":0}"]);
    // A copy has them too, and goes its own way.
    let copy = store.duplicate_job(id).expect("copied");
    store
        .add_step(
            id,
            revision(),
            step("Deleted", "{}"),
            Edits::More(&more(&["{\"edit\":9}"])),
        )
        .expect("added");
    assert_eq!(edits(), ["{\"edit\":0}", "{\"edit\":9}"]);
    assert_eq!(store.step(copy).expect("there").edits, ["{\"edit\":0}"]);
    // Another choice keeps them, a new trace does not; going back brings them back.
    store
        .add_step(id, revision(), step("Ink renamed", "{}"), Edits::Same)
        .expect("added");
    assert_eq!(edits().len(), 2);
    store
        .add_step(id, revision(), step("Follow within", "{}"), Edits::SetAside)
        .expect("added");
    assert!(edits().is_empty());
    store.move_step(id, revision(), -1).expect("undone");
    assert_eq!(edits().len(), 2);
    store.keep_traced("a1", "{}").expect("kept");
    store.keep_traced("a1", "{}").expect("kept once");
    assert_eq!(store.traced("a1").expect("asked").as_deref(), Some("{}"));
    assert_eq!(store.traced("b2").expect("asked"), None);
}

#[test]
fn every_result_that_was_set_aside_is_kept_and_can_be_taken_back() {
    let (_folder, store) = open();
    let id = add(&store, b"x", &details("A", "", ""));
    let revision = || store.job(id).expect("there").revision;
    let body = |n: i32| vec![format!("{{\"edit\":{n}}}")];
    let step = |recipe: &str, edits: Edits<'_>| {
        store
            .add_step(id, revision(), step("Step", recipe), edits)
            .expect("added");
    };
    let listed = || -> Vec<i64> {
        let all = store.set_aside(id).expect("listed");
        all.iter().map(|a| a.edits).collect()
    };
    step("{\"n\":1}", Edits::More(&body(1)));
    step("{\"n\":1}", Edits::More(&body(2)));
    step("{\"n\":2}", Edits::SetAside);
    assert_eq!(listed(), [2]);
    // Another one does not push out the first, nor does going back and on another way.
    step("{\"n\":2}", Edits::More(&body(3)));
    step("{\"n\":3}", Edits::SetAside);
    let mut all = listed();
    all.sort_unstable();
    assert_eq!(all, [1, 2]);
    store.move_step(id, revision(), -1).expect("undone");
    step("{\"n\":4}", Edits::SetAside);
    assert_eq!(listed().len(), 2);

    let all = store.set_aside(id).expect("listed");
    let two = all.iter().find(|a| a.edits == 2).expect("there").id;
    store
        .take_back((id, revision()), two, ("Taken back", ""), false)
        .expect("taken back");
    let now = store.step(id).expect("there");
    assert_eq!(now.recipe, "{\"n\":1}");
    assert_eq!(now.edits, ["{\"edit\":1}", "{\"edit\":2}"]);
    // What is in force is not listed; taking another one back sets it aside again.
    assert_eq!(listed(), [1]);
    let one = store.set_aside(id).expect("listed")[0].id;
    let copy = store.duplicate_job(id).expect("copied");
    store
        .take_back((id, revision()), one, ("Taken back", "Ada"), true)
        .expect("taken back");
    assert_eq!(listed(), [2]);
    assert_eq!(store.set_aside(copy).expect("listed").len(), 1);
    // Another job's are not to be had, and a page out of date takes nothing back.
    assert!(matches!(
        store.take_back(
            (copy, store.job(copy).expect("there").revision),
            one,
            ("", ""),
            false
        ),
        Err(StoreError::NoStep(_))
    ));
    assert!(matches!(
        store.take_back((id, 0), two, ("", ""), false),
        Err(StoreError::Stale)
    ));
}
