//! The list of jobs: all of them reached, in any order, each with what is left to do.

use super::*;

#[actix_web::test]
async fn jobs_beyond_the_first_page_are_reached_in_any_order() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    for _ in 0..64 {
        store.duplicate_job(job).unwrap();
    }
    let cards = |words: &str| words.matches("<article class=\"card\"").count();
    let (_, words) = get(&app, "/?order=title", "mm").await;
    assert!(
        cards(&words) == 60 && words.contains("65 jobs"),
        "{}",
        cards(&words)
    );
    assert!(
        words.contains("/?from=60&amp;order=title&amp;q="),
        "the rest is asked for"
    );
    let rest = TestRequest::get()
        .uri("/?from=60&order=title")
        .insert_header(("HX-Request", "true"));
    let (_, words) = answered(&app, rest, "mm").await;
    assert_eq!((cards(&words), words.contains("Show more")), (5, false));
    let (status, _) = get(&app, "/?order=banana", "mm").await;
    assert!(status.is_client_error(), "no order of that name");
}

#[actix_web::test]
async fn a_card_says_what_is_left_to_do() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let said = async || get(&app, "/", "mm").await.1;
    assert!(said().await.contains("not looked at yet"));
    let (status, words) = get(&app, &format!("/jobs/{job}/state"), "mm").await;
    assert!(
        status == StatusCode::OK && words.contains("ready to cut"),
        "{words}"
    );
    assert!(said().await.contains("ready to cut"));
    // A file of its sheets is one that was sent; a work order is not.
    let file = |more: &str| format!("/jobs/{job}/file?format=plt&what=sheets&split=material{more}");
    let order = format!("/jobs/{job}/file?format=pdf&what=sheets&paper=order");
    assert_eq!(get(&app, &order, "mm").await.0, StatusCode::OK);
    assert!(!said().await.contains("sent as"));
    assert_eq!(get(&app, &file(""), "mm").await.0, StatusCode::OK);
    assert!(said().await.contains("sent as HPGL"));
    // Changed since, it is to be looked at again.
    let size = "revision=0&line=size&changed=width&width=30";
    assert_eq!(
        post(&app, &format!("/jobs/{job}/choose"), "mm", size)
            .await
            .0,
        StatusCode::OK
    );
    assert!(said().await.contains("changed since it was sent"));
    // One that was deleted meanwhile has nothing to say.
    store.delete_job(job).unwrap();
    let (status, words) = get(&app, &format!("/jobs/{job}/state"), "mm").await;
    assert!(
        status == StatusCode::NO_CONTENT && words.is_empty(),
        "{status} {words}"
    );
}
