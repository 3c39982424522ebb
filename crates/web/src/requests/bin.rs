//! Deleted jobs, and what becomes of them.

use super::*;

#[actix_web::test]
async fn a_deleted_job_is_told_brought_back_and_taken_away_for_good() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let (_, words) = get(&app, "/", "mm").await;
    assert!(!words.contains("can be brought back"), "{words}");
    let delete = format!("/jobs/{job}/delete");
    assert_eq!(post(&app, &delete, "mm", "").await.0, StatusCode::OK);
    let (_, words) = get(&app, "/", "mm").await;
    assert!(
        words.contains("1 deleted job</a> can be brought back"),
        "{words}"
    );
    let (status, words) = get(&app, "/bin", "mm").await;
    assert_eq!(status, StatusCode::OK);
    assert!(
        words.contains("Disc") && words.contains("30 days") && words.contains("Bring back"),
        "{words}"
    );
    let (status, _) = post(&app, &format!("/bin/{job}/restore"), "mm", "").await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert!(store.job(job).is_ok() && store.bin().unwrap().is_empty());
    // A job that is not in the bin is not taken away.
    let gone = format!("/bin/{job}/delete");
    assert!(post(&app, &gone, "mm", "").await.0.is_client_error());
    post(&app, &delete, "mm", "").await;
    assert_eq!(post(&app, &gone, "mm", "").await.0, StatusCode::NO_CONTENT);
    assert!(store.bin().unwrap().is_empty() && store.count_jobs().unwrap() == 0);
    let (_, words) = get(&app, "/bin", "mm").await;
    assert!(words.contains("nothing in the bin"), "{words}");
}
