//! Edits of the outlines, and what becomes of them.

use super::*;

fn edit(revision: i64, edit: &serde_json::Value) -> String {
    let edit = edit.to_string();
    let plain: String = edit
        .bytes()
        .map(|b| format!("%{b:02x}"))
        .collect::<Vec<_>>()
        .concat();
    format!("revision={revision}&line=tidy&edit={plain}")
}

#[actix_web::test]
async fn edits_are_taken_or_refused_and_one_gesture_is_one_step() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/edit");
    let on =
        |change: serde_json::Value| serde_json::json!({"item": 0, "path": 0, "change": change});
    for wanted in [
        serde_json::json!({"edit": "move", "items": [0], "map": [1, 0, 0, 1, 2, 0]}),
        serde_json::json!({"edit": "nodes-together", "changes": [
            on(serde_json::json!({"do": "smooth", "nodes": [0, 1]})),
        ]}),
        serde_json::json!({"sketch": {"draw": "rectangle", "from": [0, 0], "to": [5, 4], "radius": 0},
            "pigment": {"ink": 0}, "pen": 0.25}),
        serde_json::json!({"edit": "duplicate", "items": [0], "by": [5, 5]}),
    ] {
        let revision = store.job(job).unwrap().revision;
        let (status, words) = post(&app, &path, "mm", edit(revision, &wanted)).await;
        assert_eq!(status, StatusCode::OK, "{wanted}: {words}");
        assert_eq!(store.job(job).unwrap().revision, revision + 1, "{wanted}");
    }
    let revision = store.job(job).unwrap().revision;
    let before = store.step(job).unwrap();
    for (wanted, told) in [
        (serde_json::json!({"edit": "banana"}), "could not be read"),
        (
            serde_json::json!({"edit": "delete", "items": [99]}),
            "problem-tidy",
        ),
        (
            serde_json::json!({"edit": "delete", "items": []}),
            "pick something first",
        ),
        (
            serde_json::json!({"edit": "move", "items": [0], "map": [0, 0, 0, 0, 0, 0]}),
            "vanish",
        ),
        (
            serde_json::json!({"edit": "nodes-together", "changes": [on(serde_json::json!({"do": "close"}))]}),
            "one path after the other",
        ),
    ] {
        let (status, words) = post(&app, &path, "mm", edit(revision, &wanted)).await;
        assert_eq!(status, REFUSED, "{wanted}: {words}");
        assert!(words.to_lowercase().contains(told), "{wanted}: {words}");
    }
    let stale = edit(
        revision - 1,
        &serde_json::json!({"edit": "delete", "items": [0]}),
    );
    assert_eq!(post(&app, &path, "mm", stale).await.0, StatusCode::CONFLICT);
    let bare = format!("revision={revision}");
    assert_eq!(post(&app, &path, "mm", bare).await.0, UNREAD);
    assert_eq!(store.step(job).unwrap(), before);
}

#[actix_web::test]
async fn edits_that_a_new_trace_set_aside_are_listed_and_taken_back() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let move_it = serde_json::json!({"edit": "move", "items": [0], "map": [1, 0, 0, 1, 2, 0]});
    for (n, tolerance) in ["0.2mm", "0.3mm"].iter().enumerate() {
        for _ in 0..=n {
            let revision = store.job(job).unwrap().revision;
            let form = edit(revision, &move_it);
            assert_eq!(
                post(&app, &format!("/jobs/{job}/edit"), "mm", form).await.0,
                StatusCode::OK
            );
        }
        let revision = store.job(job).unwrap().revision;
        let form =
            format!("revision={revision}&line=trace&changed=tolerance&tolerance={tolerance}");
        assert_eq!(
            post(&app, &format!("/jobs/{job}/choose"), "mm", form)
                .await
                .0,
            StatusCode::OK
        );
    }
    let (_, page) = get(&app, &format!("/jobs/{job}/tidy"), "mm").await;
    assert!(
        page.contains("1 edit,") && page.contains("2 edits,"),
        "both are listed"
    );
    let first = store.set_aside(job).unwrap();
    let first = first.iter().find(|a| a.edits == 1).unwrap().id;
    let revision = store.job(job).unwrap().revision;
    let back = format!("/jobs/{job}/edited-back");
    let (status, words) = post(&app, &back, "mm", format!("revision={revision}&which=99")).await;
    assert_eq!(status, StatusCode::CONFLICT, "{words}");
    let (status, words) = post(
        &app,
        &back,
        "mm",
        format!("revision={revision}&which={first}"),
    )
    .await;
    assert_eq!(status, StatusCode::OK, "{words}");
    assert_eq!(store.step(job).unwrap().edits.len(), 1);
    // Undone, they are on the list again.
    let undo = format!("revision={}&line=tidy", revision + 1);
    assert_eq!(
        post(&app, &format!("/jobs/{job}/undo"), "mm", undo).await.0,
        StatusCode::OK
    );
    assert_eq!(store.set_aside(job).unwrap().len(), 2);
    for (path, form) in [
        ("undo", format!("revision={}&line=banana", revision + 2)),
        ("redo", "line=tidy".to_owned()),
        ("remember", "revision=1&line=7".to_owned()),
    ] {
        let (status, _) = post(&app, &format!("/jobs/{job}/{path}"), "mm", form).await;
        assert_eq!(status, UNREAD, "{path}");
    }
}
