//! The guide's pages, their pictures, and what is found in them.

use super::*;

#[actix_web::test]
async fn every_page_of_the_guide_is_read_and_found() {
    let (_folder, shop, _) = shop();
    let app = app(shop).await;
    let (status, contents) = get(&app, "/guide", "mm").await;
    assert_eq!(status, StatusCode::OK);
    let slugs: Vec<&str> = contents
        .split("href=\"/guide/")
        .skip(1)
        .filter_map(|rest| rest.split('"').next())
        .collect();
    assert_eq!(slugs.len(), 18);
    for slug in slugs {
        let (status, words) = get(&app, &format!("/guide/{slug}"), "mm").await;
        assert!(
            status == StatusCode::OK && words.matches("<h1>").count() == 1,
            "{slug}"
        );
    }
    let (status, found) = get(&app, "/guide?q=Bridge+them", "mm").await;
    assert!(
        status == StatusCode::OK && found.contains("A stencil with bridges"),
        "{found}"
    );
    let (_, none) = get(&app, "/guide?q=%3Cscript%3E", "mm").await;
    assert!(
        none.contains("No page has all of") && !none.contains("<script>”"),
        "{none}"
    );
    assert_eq!(
        get(&app, "/guide/pictures/job.png", "mm").await.0,
        StatusCode::OK
    );
    for nothing in ["/guide/no-such-page", "/guide/pictures/..%2FREADME.md"] {
        assert_eq!(
            get(&app, nothing, "mm").await.0,
            StatusCode::NOT_FOUND,
            "{nothing}"
        );
    }
}
