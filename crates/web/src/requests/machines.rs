//! Machines added and taken off, and runs from the queue to what was said in them.

use std::time::{Duration, Instant};

use inky_core::material::Tool;

use super::*;

#[actix_web::test]
async fn a_machine_is_added_with_figures_that_can_be() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let form = "name=Big+cutter&kind=cutter&address=tcp%3A%2F%2F127.0.0.1%3A9&first=25000&second=1200&speed=600";
    let (status, words) = post(&app, "/machines/new", "mm", form).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    let (status, page) = get(&app, "/machines/4", "mm").await;
    assert_eq!(status, StatusCode::OK, "{page}");
    assert!(
        page.contains("tcp://127.0.0.1:9") && page.contains("1200 mm wide"),
        "{page}"
    );
    for (with, told) in [
        (form.replace("Big+cutter", ""), "1 to 40 letters"),
        (
            form.replace("tcp%3A%2F%2F", "ftp%3A%2F%2F"),
            "no address of a machine",
        ),
        (form.replace("25000", "5"), "10 mm to 100000 mm"),
        (form.replace("1200", "wide"), "not a number"),
        (form.replace("speed=600", "speed=0"), "1 to 10000 mm/s"),
        (
            form.replace("kind=cutter", "kind=banana"),
            "could not be read",
        ),
    ] {
        let (status, words) = post(&app, "/machines/new", "mm", with.as_str()).await;
        assert!(status.is_client_error(), "{with}: {status}");
        assert!(words.to_lowercase().contains(told), "{with}: {words}");
    }
    assert_eq!(store.machines().unwrap().len(), 4);
    let (status, _) = post(&app, "/machines/4/remove", "mm", "").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (status, _) = get(&app, "/machines/4", "mm").await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

/// Waits until the bench of a machine says something.
async fn until<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    machine: i64,
    words: &str,
) -> String {
    let began = Instant::now();
    loop {
        let (_, page) = get(app, &format!("/machines/{machine}"), "mm").await;
        if page.contains(words) {
            return page;
        }
        assert!(began.elapsed() < Duration::from_secs(20), "{words}: {page}");
        actix_web::rt::time::sleep(Duration::from_millis(20)).await;
    }
}

#[actix_web::test]
async fn a_job_is_sent_begun_and_really_done() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    // A blade's job does not go to a laser.
    let (status, told) = get(&app, &format!("/jobs/{job}/machine?machine=2"), "mm").await;
    assert_eq!(status, StatusCode::OK);
    assert!(
        told.contains("is worked by a") && told.contains("disabled"),
        "{told}"
    );
    let send = format!("/jobs/{job}/machine");
    let (status, words) = post(&app, &send, "mm", "machine=2").await;
    assert_eq!(status, REFUSED, "{words}");
    let (_, told) = get(&app, &format!("/jobs/{job}/machine"), "mm").await;
    assert!(
        told.contains("1 path") && told.contains("You load the first"),
        "{told}"
    );

    let (status, _) = post(&app, "/machines/1/hands", "mm", "pace=1000").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    // Nothing starts by itself, and one after the other.
    for _ in 0..2 {
        let (status, words) = post(&app, &send, "mm", "machine=1").await;
        assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    }
    let (_, page) = get(&app, "/machines/1", "mm").await;
    assert!(
        page.contains("Load Cast vinyl") && page.contains("Waiting"),
        "{page}"
    );
    let (status, words) = post(&app, "/runs/2/go", "mm", "").await;
    assert_eq!(status, REFUSED);
    assert!(words.contains("comes before it"), "{words}");
    let (status, words) = post(&app, "/runs/1/pause", "mm", "").await;
    assert_eq!(status, REFUSED);
    assert!(words.contains("Nothing is sent"), "{words}");
    let (status, words) = post(&app, "/runs/1/go", "mm", "").await;
    assert_eq!(status, StatusCode::OK, "{words}");
    // The stock is loaded now.
    until(&app, 1, "is loaded. Set the origin").await;
    let (_, log) = get(&app, "/runs/1/log", "mm").await;
    assert!(log.contains("> IN;") && log.contains("PD"), "{log}");
    assert!(log.contains("< "), "{log}");
    let (status, words) = post(&app, "/runs/1/go", "mm", "").await;
    assert_eq!(status, REFUSED, "{words}");
    let (status, _) = post(&app, "/runs/2/leave", "mm", "").await;
    assert_eq!(status, StatusCode::OK);
    // The length that was used is gone from the roll, where it is known; one press sends to what is loaded.
    let (status, _) = post(&app, &send, "mm", "machine=1").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let began = Instant::now();
    while store.run(3).unwrap().unwrap().ended.is_none() {
        assert!(began.elapsed() < Duration::from_secs(20));
        actix_web::rt::time::sleep(Duration::from_millis(20)).await;
    }
}

#[actix_web::test]
async fn a_machine_in_trouble_is_told_and_gone_on_with() {
    let (_folder, shop, job) = shop();
    let app = app(shop).await;
    let send = format!("/jobs/{job}/machine");
    for (hands, told) in [
        ("pace=1000&unplugged=on", "the line to the machine is gone"),
        ("pace=1000&garbled=on", "makes no sense"),
    ] {
        let (status, _) = post(&app, "/machines/1/hands", "mm", hands).await;
        assert_eq!(status, StatusCode::NO_CONTENT);
        let (status, words) = post(&app, &send, "mm", "machine=1").await;
        assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
        let (_, page) = get(&app, "/machines/1", "mm").await;
        if page.contains("id=\"run-go\" class=\"btn go\" data-key=\"p\"") {
            let go = page
                .split("hx-post=\"")
                .find(|p| p.starts_with("/runs/"))
                .unwrap();
            let go = go.split('"').next().unwrap().to_owned();
            let (status, words) = post(&app, &go, "mm", "").await;
            assert_eq!(status, StatusCode::OK, "{words}");
        }
        let page = until(&app, 1, "It stopped:").await;
        assert!(page.contains(told), "{page}");
        let go = page
            .split("hx-post=\"")
            .find(|p| p.starts_with("/runs/") && p.contains("/go"))
            .unwrap();
        let go = go.split('"').next().unwrap().to_owned();
        let (status, words) = post(&app, &go, "mm", "from=99").await;
        assert_eq!(status, REFUSED);
        assert!(words.contains("from 1 to 1"), "{words}");
        let (status, _) = post(&app, "/machines/1/hands", "mm", "pace=1000").await;
        assert_eq!(status, StatusCode::NO_CONTENT);
        let (status, words) = post(&app, &go, "mm", "from=1").await;
        assert_eq!(status, StatusCode::OK, "{words}");
        until(&app, 1, "Nothing waits for it").await;
    }
    for hands in ["pace=0", "pace=5000", "astray=90", "media_end=-3"] {
        let (status, words) = post(&app, "/machines/1/hands", "mm", hands).await;
        assert_eq!(status, REFUSED, "{hands}: {words}");
    }
}

/// Waits until a run is over.
async fn ended(store: &inky_store::Store, run: i64) {
    let began = Instant::now();
    while store.run(run).unwrap().unwrap().ended.is_none() {
        assert!(began.elapsed() < Duration::from_secs(60), "run {run}");
        actix_web::rt::time::sleep(Duration::from_millis(20)).await;
    }
}

#[actix_web::test]
async fn runs_wait_in_an_order_that_is_changed_and_come_onto_one_sheet() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let (status, words) = post(&app, &format!("/jobs/{job}/duplicate"), "mm", "").await;
    assert!(
        status.is_success() || status.is_redirection(),
        "{status}: {words}"
    );
    let other = store.jobs(&inky_store::JobFilter::default()).unwrap();
    let other = other.iter().map(|j| j.id).find(|&id| id != job).unwrap();
    for id in [job, other, job] {
        let (status, words) = post(&app, &format!("/jobs/{id}/machine"), "mm", "machine=1").await;
        assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    }
    let order = || -> Vec<i64> { store.queue(Some(1)).unwrap().iter().map(|r| r.id).collect() };
    assert_eq!(order(), [1, 2, 3]);
    let (_, page) = get(&app, "/machines/1", "mm").await;
    assert!(
        page.contains("done about") && page.contains("hx-post=\"/runs/2/last\""),
        "{page}"
    );
    for (press, now) in [
        ("/runs/2/last", [1, 3, 2]),
        ("/runs/2/before/3", [1, 2, 3]),
        ("/runs/3/before/1", [3, 1, 2]),
        ("/runs/1/before/3", [1, 3, 2]),
    ] {
        let (status, words) = post(&app, press, "mm", "").await;
        assert_eq!(status, StatusCode::OK, "{press}: {words}");
        assert_eq!(order(), now, "{press}");
    }
    for press in ["/runs/2/before/77", "/runs/77/last"] {
        assert!(
            post(&app, press, "mm", "").await.0.is_client_error(),
            "{press}"
        );
    }
    // The same job is on that sheet already; another one comes onto it.
    let (status, words) = post(&app, &format!("/jobs/{job}/gathered/3"), "mm", "").await;
    assert_eq!(status, REFUSED, "{words}");
    let paths = |run: i64| -> u64 {
        let stops: serde_json::Value =
            serde_json::from_str(&store.run(run).unwrap().unwrap().stops).unwrap();
        stops[0]["paths"].as_u64().unwrap()
    };
    assert_eq!(paths(1), 1);
    let (status, words) = post(&app, &format!("/jobs/{job}/gathered/2"), "mm", "").await;
    assert_eq!(status, StatusCode::OK, "{words}");
    assert_eq!((paths(1), order()), (2, vec![1, 3]));
    let (_, log) = get(&app, "/runs/2/log", "mm").await;
    assert!(log.contains("laid on the sheet of run 1"), "{log}");
    let recipe = crate::job::saving::recipe(&store, job).unwrap();
    assert_eq!(recipe.sheet.guests.len(), 1);
    // It waits no more.
    let (status, _) = post(&app, &format!("/jobs/{job}/gathered/2"), "mm", "").await;
    assert_eq!(status, REFUSED);
}

#[actix_web::test]
async fn what_runs_took_tells_how_fast_a_machine_is() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let (status, words) = get(&app, "/machines/1/pace", "mm").await;
    assert_eq!(status, REFUSED);
    assert!(words.contains("3 runs"), "{words}");
    // Taken to be quicker than it is.
    let mut listed = crate::machines::kept::one(&store, 1).unwrap();
    let was = listed.machine.drives();
    listed.machine.drives = Some(inky_devices::drives::Drives {
        acceleration: 12.0 * was.acceleration,
        lift: 0.2 * was.lift,
        ..was
    });
    crate::machines::kept::keep(&store, &listed).unwrap();
    let (status, _) = post(&app, "/machines/1/hands", "mm", "pace=4").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let cut = materials::stocked::all(&store).unwrap();
    let cut = cut.iter().filter(|m| m.material.tool == Tool::Blade);
    let mut times = Vec::new();
    for (n, material) in cut.take(4).enumerate() {
        if n == 3 {
            let (status, found) = get(&app, "/machines/1/pace", "mm").await;
            assert_eq!(status, StatusCode::OK, "{found}");
            assert!(found.contains("mm/s round a corner"), "{found}");
            let values = found.split("hx-vals='").nth(1).unwrap();
            let values = values
                .split('\'')
                .next()
                .unwrap()
                .replace("&quot;", "\"")
                .replace("&#34;", "\"");
            let drives: inky_devices::drives::Drives = serde_json::from_str(&values).unwrap();
            let form = format!(
                "acceleration={}&corner={}&lift={}&speed={}",
                drives.acceleration, drives.corner, drives.lift, drives.speed
            );
            let still = form.replace("corner=", "corner=-");
            let (status, words) = post(&app, "/machines/1/pace", "mm", still).await;
            assert_eq!(status, REFUSED, "{words}");
            let (status, words) = post(&app, "/machines/1/pace", "mm", form).await;
            assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
        }
        let send = format!("/materials/{}/trial", material.id);
        let (status, words) = post(&app, &send, "mm", "machine=1&what=knife").await;
        assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
        let run = n as i64 + 1;
        let (status, words) = post(&app, &format!("/runs/{run}/go"), "mm", "").await;
        assert_eq!(status, StatusCode::OK, "{words}");
        ended(&store, run).await;
        let run = crate::machines::Run::one(&store, run).unwrap();
        times.push((run.stops[0].seconds, run.state.took[0].seconds));
    }
    // What was told before, and after three runs.
    let off = |(told, took): (f64, f64)| (told / took - 1.0).abs();
    assert!(off(times[0]) > 0.1, "{times:?}");
    assert!(off(times[3]) < 0.05, "{times:?}");
    let (_, page) = get(&app, "/machines/1", "mm").await;
    assert!(page.contains("Times are told by what was found"), "{page}");
}

#[actix_web::test]
async fn what_changes_in_the_shop_while_a_run_is_under_way_leaves_it_as_it_is() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let (status, _) = post(&app, "/machines/1/hands", "mm", "pace=2").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (status, words) = post(&app, "/materials/1/trial", "mm", "machine=1&what=knife").await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    let send = format!("/jobs/{job}/machine");
    let (status, words) = post(&app, &send, "mm", "machine=1").await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    let (status, words) = post(&app, "/runs/1/go", "mm", "").await;
    assert_eq!(status, StatusCode::OK, "{words}");
    until(&app, 1, "data-phase=\"running\"").await;
    // The material is retired and changed, the job that waits is deleted, another run is put before it, the machine
    // cannot be taken off the list.
    let changed = "name=Other&kerf=0.5&stock_kind=roll&stock_width=100&stock_name=&stock_length=50";
    for (path, form) in [
        ("/materials/1/retire".to_owned(), ""),
        ("/materials/1".to_owned(), changed),
        ("/runs/2/before/1".to_owned(), ""),
        (format!("/jobs/{job}/delete"), ""),
    ] {
        let (status, words) = post(&app, &path, "mm", form).await;
        assert!(status.is_success(), "{path}: {status} {words}");
    }
    let (status, _) = post(&app, "/machines/1/remove", "mm", "").await;
    assert_eq!(status, REFUSED);
    let (status, words) = post(&app, "/runs/2/go", "mm", "").await;
    assert_eq!(status, REFUSED, "{words}");
    let (_, page) = get(&app, "/machines/1", "mm").await;
    assert!(
        page.contains("data-phase=\"running\"") && page.contains("Offset and overcut"),
        "{page}"
    );
    let (status, _) = post(&app, "/machines/1/hands", "mm", "pace=500").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    ended(&store, 1).await;
    let run = crate::machines::Run::one(&store, 1).unwrap();
    assert_eq!(
        run.state.phase,
        crate::machines::Phase::Finished,
        "{:?}",
        run.state
    );
    // What waits is still cut: it holds all it needs.
    let (status, words) = post(&app, "/runs/2/go", "mm", "").await;
    assert_eq!(status, StatusCode::OK, "{words}");
    ended(&store, 2).await;
}

/// What was kept as running while no machine is at it ended without that being kept: as with a full disk.
#[actix_web::test]
async fn a_run_whose_end_could_not_be_kept_is_shown_as_broken_off_and_goes_on() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let (status, _) = post(&app, "/machines/1/hands", "mm", "pace=500").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (status, _) = post(&app, &format!("/jobs/{job}/machine"), "mm", "machine=1").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let run = crate::machines::Run::one(&store, 1).unwrap();
    let running = run.state.at(crate::machines::Phase::Running);
    running.keep(&store, 1, "").unwrap();
    let (_, page) = get(&app, "/machines/1", "mm").await;
    assert!(page.contains("how it ended could not be kept"), "{page}");
    let (status, words) = post(&app, "/runs/1/go", "mm", "from=1").await;
    assert_eq!(status, StatusCode::OK, "{words}");
    ended(&store, 1).await;
}

#[actix_web::test]
async fn a_roll_with_too_little_left_is_asked_for_anew() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let (status, _) = post(&app, "/machines/1/hands", "mm", "pace=1000").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let send = format!("/jobs/{job}/machine");
    let (status, words) = post(&app, &send, "mm", "machine=1").await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    let (status, words) = post(&app, "/runs/1/go", "mm", "").await;
    assert_eq!(status, StatusCode::OK, "{words}");
    ended(&store, 1).await;
    let left = || {
        let listed = crate::machines::kept::one(&store, 1).unwrap();
        listed.machine.loaded.unwrap().left.unwrap()
    };
    let first = left();
    // Nearly all of it was used for something else.
    let mut listed = crate::machines::kept::one(&store, 1).unwrap();
    listed.machine.loaded.as_mut().unwrap().left = Some(3.0);
    crate::machines::kept::keep(&store, &listed).unwrap();
    // It is not begun by itself, and says why.
    let (status, words) = post(&app, &send, "mm", "machine=1").await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    let (_, page) = get(&app, "/machines/1", "mm").await;
    assert!(
        page.contains("3 mm are left of it") && page.contains("A new one is loaded"),
        "{page}"
    );
    let (status, words) = post(&app, "/runs/2/go", "mm", "").await;
    assert_eq!(status, StatusCode::OK, "{words}");
    ended(&store, 2).await;
    let began = Instant::now();
    while (left() - first).abs() > 1e-9 {
        assert!(
            began.elapsed() < Duration::from_secs(20),
            "{} {first}",
            left()
        );
        actix_web::rt::time::sleep(Duration::from_millis(20)).await;
    }
}
