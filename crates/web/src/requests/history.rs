//! The history as a list: pictures of steps, going to one, setting one beside what is now.

use super::*;

#[actix_web::test]
async fn a_step_is_pictured_gone_to_and_compared_with() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    for (n, line) in ["threshold=40", "threshold=60"].iter().enumerate() {
        let form = format!("revision={n}&line=inks&changed=threshold&mode=mono&{line}");
        let (status, words) = post(&app, &format!("/jobs/{job}/choose"), "mm", &form).await;
        assert_eq!(status, StatusCode::OK, "{words}");
    }
    let history = store.history(job).unwrap();
    assert_eq!((history.at, history.steps.len()), (2, 3));
    // Its picture is kept under the moment it was made, and no other.
    let made = history.steps[1].made;
    let picture = format!("/jobs/{job}/steps/1/{made}.png");
    for _ in 0..2 {
        assert_eq!(get(&app, &picture, "mm").await.0, StatusCode::OK);
    }
    let kept = store.result(job, "step 1", &made.to_string()).unwrap();
    assert!(kept.is_some_and(|png| png.starts_with(b"\x89PNG")));
    let other = format!("/jobs/{job}/steps/1/{}.png", made + 1);
    assert_eq!(get(&app, &other, "mm").await.0, StatusCode::NOT_FOUND);
    // Compared with: nothing is changed.
    let beside = "revision=2&line=inks&step=1";
    let (status, words) = post(&app, &format!("/jobs/{job}/compare"), "mm", beside).await;
    assert!(
        status == StatusCode::OK && words.contains("Forget the remembered one"),
        "{words}"
    );
    assert_eq!(store.history(job).unwrap().at, 2);
    // Gone to: the later steps stay, and are told as taken back.
    let first = "revision=2&line=inks&step=0";
    let (status, words) = post(&app, &format!("/jobs/{job}/go"), "mm", first).await;
    assert!(
        status == StatusCode::OK && words.contains("taken back"),
        "{words}"
    );
    let history = store.history(job).unwrap();
    assert_eq!((history.at, history.steps.len()), (0, 3));
    // One that there is not, or from a page that is out of date, is refused.
    for wrong in [
        "revision=3&line=inks&step=9",
        "revision=2&line=inks&step=1",
        "revision=3&line=inks&step=-1",
    ] {
        let (status, _) = post(&app, &format!("/jobs/{job}/go"), "mm", wrong).await;
        assert!(status.is_client_error(), "{wrong}: {status}");
    }
    assert_eq!(store.history(job).unwrap().at, 0);
}
