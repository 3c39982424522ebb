//! Machines added and taken off, and runs from the queue to what was said in them.

use std::time::{Duration, Instant};

use super::*;

#[actix_web::test]
async fn a_machine_is_added_with_figures_that_can_be() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let form = "name=Big+cutter&kind=cutter&address=tcp%3A%2F%2F127.0.0.1%3A9&first=25000&second=1200&speed=600";
    let (status, words) = post(&app, "/machines/new", "mm", form).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    let (status, page) = get(&app, "/machines/3", "mm").await;
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
    assert_eq!(store.machines().unwrap().len(), 3);
    let (status, _) = post(&app, "/machines/3/remove", "mm", "").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (status, _) = get(&app, "/machines/3", "mm").await;
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
        let page = until(&app, 1, told).await;
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
