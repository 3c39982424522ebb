//! Machines, what waits for each and what they did.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_store::{JobDetails, JobId, MachineId, NewJob, NewRun, RunId, Store};
use tempfile::TempDir;

fn store() -> (TempDir, Store, JobId) {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(folder.path()).expect("opens");
    let job = store
        .create_job(NewJob {
            by: "",
            bytes: b"kite",
            file_name: "kite.png",
            size_px: (4, 3),
            details: &JobDetails::default(),
            recipe: "{}",
        })
        .expect("stored");
    (folder, store, job)
}

fn run(store: &Store, machine: MachineId, job: JobId, title: &str) -> RunId {
    store
        .add_run(&NewRun {
            machine,
            job: Some(job),
            title,
            person: "Ada",
            stops: "[]",
            state: "{}",
            asked: 7,
        })
        .expect("kept")
}

fn titles(store: &Store, machine: MachineId) -> Vec<String> {
    let queue = store.queue(Some(machine)).expect("read");
    queue.into_iter().map(|r| r.title).collect()
}

#[test]
fn runs_wait_in_their_order_and_can_be_put_first() {
    let (_folder, store, job) = store();
    let machine = store.add_machine("{}").expect("kept");
    let other = store.add_machine("{}").expect("kept");
    let first = run(&store, machine, job, "first");
    run(&store, machine, job, "second");
    let third = run(&store, machine, job, "third");
    let elsewhere = run(&store, other, job, "elsewhere");
    assert!(store.move_run(third, Some(first)).expect("moved"));
    assert_eq!(titles(&store, machine), ["third", "first", "second"]);
    assert!(
        !store.move_run(elsewhere, Some(first)).expect("asked"),
        "another machine's"
    );
    store
        .keep_run(third, "{\"n\":1}", Some(9), "")
        .expect("kept");
    assert!(
        !store.move_run(third, Some(first)).expect("asked"),
        "it is over"
    );
    assert_eq!(titles(&store, machine), ["first", "second"]);
    let over = store.ended_runs(machine, 5).expect("read");
    assert_eq!(over.len(), 1);
    assert_eq!(
        (over[0].ended, over[0].state.as_str()),
        (Some(9), "{\"n\":1}")
    );
    assert_eq!(store.queue(None).expect("read").len(), 3);
}

#[test]
fn what_was_said_is_kept_with_how_the_run_stands() {
    let (folder, store, job) = store();
    let machine = store.add_machine("{}").expect("kept");
    let id = run(&store, machine, job, "kite");
    store
        .keep_run(id, "{\"n\":1}", None, "> IN;\n")
        .expect("kept");
    store.keep_run(id, "{\"n\":2}", None, "").expect("kept");
    store
        .keep_run(id, "{\"n\":3}", None, "< 4096\n")
        .expect("kept");
    drop(store);
    let store = Store::open(folder.path()).expect("opens again");
    assert_eq!(store.run_log(id).expect("read"), "> IN;\n< 4096\n");
    let kept = store.run(id).expect("read").expect("it is there");
    assert_eq!(
        (kept.state.as_str(), kept.job, kept.asked),
        ("{\"n\":3}", Some(job), 7)
    );
    assert_eq!(store.run(id + 1).expect("read"), None);
}

#[test]
fn a_machine_goes_once_nothing_waits_for_it() {
    let (_folder, store, job) = store();
    let machine = store.add_machine("{}").expect("kept");
    let id = run(&store, machine, job, "kite");
    assert!(!store.remove_machine(machine).expect("asked"));
    store.keep_run(id, "{}", Some(9), "").expect("kept");
    assert!(store.change_machine(machine, "{\"n\":1}").expect("asked"));
    assert!(store.remove_machine(machine).expect("asked"));
    assert!(store.machines().expect("read").is_empty());
    assert!(!store.change_machine(machine, "{}").expect("asked"));
    assert_eq!(store.ended_runs(machine, 5).expect("read").len(), 1);
}
