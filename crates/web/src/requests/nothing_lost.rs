//! What must never cost a person's work: long strokes, figures beyond measure, a step that cannot be read,
//! two windows.

use inky_store::{Edits, NewStep};

use super::*;

fn stroke(dabs: &str) -> String {
    format!(
        "changed=clean&clean={{\"op\":\"add\",\"action\":{{\"kind\":\"brush\",\"tool\":\"erase\",\"tip\":\"round\",\"size\":0.5,\"dabs\":[{dabs}]}}}}"
    )
}

#[actix_web::test]
async fn a_long_stroke_is_taken_and_one_beyond_all_measure_is_refused_in_words() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/choose");
    // Some minutes of drawing: 20,000 places, 0.4 MB.
    let dabs = vec!["[3.25,4.125,0.25]"; 20_000].join(",");
    takes(&app, &store, job, &path, [stroke(&dabs)]).await;
    let revision = store.job(job).unwrap().revision;
    let form = format!("revision={revision}&line=clean&{}", "x".repeat(9 << 20));
    let (status, words) = post(&app, &path, "mm", form).await;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
    assert!(
        words.contains("8 MB") && words.contains("in parts"),
        "{words}"
    );
    assert_eq!(store.job(job).unwrap().revision, revision);
}

#[actix_web::test]
async fn places_beyond_any_picture_never_become_a_step() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/choose");
    let add =
        |action: &str| format!("changed=clean&clean={{\"op\":\"add\",\"action\":{{{action}}}}}");
    for far in ["1e308", "-1e308", "1e12"] {
        let corners = format!("[[0,0],[{far},0],[{far},5],[0,5]]");
        let forms = [
            stroke(&format!("[{far},1,0.5]")),
            stroke(&format!("[1,1,{far}]")),
            add(&format!("\"kind\":\"areas\",\"areas\":[{corners}]")),
            add(&format!("\"kind\":\"crop\",\"corners\":{corners}")),
        ];
        for form in forms {
            let before = store.history(job).unwrap();
            let revision = store.job(job).unwrap().revision;
            let form = format!("revision={revision}&line=clean&{form}");
            let (status, words) = post(&app, &path, "mm", form.clone()).await;
            assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{form}: {words}");
            assert_eq!(store.history(job).unwrap(), before, "{form}");
        }
    }
}

#[actix_web::test]
async fn a_job_whose_newest_step_cannot_be_read_opens_on_the_one_before() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let good = store.step(job).unwrap().recipe;
    let add = |revision, name, recipe: &str| {
        let by = "";
        let step = NewStep { name, recipe, by };
        store.add_step(job, revision, step, Edits::Same).unwrap();
    };
    add(0, "Inverted", &good);
    add(1, "Brush stroke", "{\"n\":null}");
    add(2, "Areas", "null");
    let app = app(shop).await;
    let get = || {
        TestRequest::get()
            .uri(&format!("/jobs/{job}/inks"))
            .to_request()
    };
    let page = call_service(&app, get()).await;
    assert_eq!(page.status(), StatusCode::OK);
    let words = String::from_utf8_lossy(&read_body(page).await).into_owned();
    assert!(
        words.contains("The step “Areas” could not be read"),
        "{words}"
    );
    let history = store.history(job).unwrap();
    assert_eq!((history.at, history.steps.len()), (1, 4));
    // It is said once, and work goes on from there.
    let page = call_service(&app, get()).await;
    let words = String::from_utf8_lossy(&read_body(page).await).into_owned();
    assert!(!words.contains("could not be read"));
    let path = format!("/jobs/{job}/choose");
    takes(&app, &store, job, &path, ["changed=mode&mode=mono"]).await;
}

#[actix_web::test]
async fn details_saved_in_another_window_are_not_overwritten() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/details");
    let (status, words) = post(
        &app,
        &path,
        "mm",
        "revision=0&title=Sun&client=Ada".to_owned(),
    )
    .await;
    assert_eq!(status, StatusCode::OK, "{words}");
    assert!(
        words.contains("value=\"1\""),
        "the page knows the new revision: {words}"
    );
    let (status, words) = post(&app, &path, "mm", "revision=0&title=Moon".to_owned()).await;
    assert_eq!(status, StatusCode::CONFLICT, "{words}");
    let kept = store.job(job).unwrap().details;
    assert_eq!((kept.title.as_str(), kept.client.as_str()), ("Sun", "Ada"));
}
