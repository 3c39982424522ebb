//! Choices of Inks, Trace and Size, and pages that are out of date.

use super::*;

#[actix_web::test]
async fn every_choice_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/choose");
    let taken = [
        "changed=mode&mode=mono",
        "changed=threshold&threshold=45+%25",
        "changed=band&threshold=60&band=on",
        "changed=above&threshold=60&above=20",
        "changed=invert&threshold=60&invert=on",
        "changed=local&local=on",
        "changed=threshold&threshold=auto",
        "changed=rim&rim=band&rim_width=1mm",
        "changed=rim&rim=none&rim_width=1mm",
        "changed=mode&mode=auto",
        "changed=count&count=2",
        "changed=mode&mode=tones",
        "changed=tones&tones=3",
        "changed=level1&level1=20&level2=70",
        "changed=levels&levels=equal",
        "changed=levels&levels=hand&level1=30&level2=60",
        "changed=levels&levels=found",
        "changed=even&even=40",
        "changed=narrowest&narrowest=0.5mm",
        "changed=narrowest&narrowest=auto",
        "changed=mode&mode=silhouette",
        "changed=mode&mode=rows",
        "changed=pitch&pitch=1mm",
        "changed=angle&angle=15",
        "changed=light&light=on",
        "changed=mode&mode=dots",
        "changed=pitch&pitch=auto",
        "changed=mode&mode=auto",
        "changed=edges&edges=outer",
        "changed=edges&edges=all",
        "changed=tolerance&tolerance=0.2mm",
        "changed=corner&corner=40",
        "changed=smooth&smooth=0",
        "changed=min_part&min_part=0.5",
        "changed=tolerance&tolerance=auto",
        "changed=width&width=40mm",
        "changed=height&height=2*15mm",
        "changed=locked",
        "changed=locked&locked=on",
        "changed=rename&rename=%23000000&name=Jet",
        "changed=repaint&repaint=%23000000&paint=%23204060",
        "changed=switch&switch=%23ffffff&kept=true",
        "changed=added&added=%23808080",
        "changed=not_added&not_added=%23808080",
    ];
    takes(&app, &store, job, &path, taken).await;
    let refused = [
        (
            "mm",
            "changed=mode&mode=banana",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "changed=edges&edges=banana",
            UNREAD,
            "could not be read",
        ),
        ("mm", "changed=rim&rim=banana", UNREAD, "could not be read"),
        (
            "mm",
            "changed=locked&locked=banana",
            UNREAD,
            "could not be read",
        ),
        ("mm", "changed=banana&banana=1", REFUSED, "problem-notice"),
        (
            "mm",
            "changed=count&count=1",
            REFUSED,
            "of 1 is outside 2 to 32",
        ),
        ("mm", "changed=count&count=many", REFUSED, "problem-count"),
        (
            "mm",
            "changed=tones&tones=9",
            REFUSED,
            "of 9 is outside 2 to 6",
        ),
        (
            "mm",
            "changed=levels&levels=banana",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "changed=level1&level1=dark",
            REFUSED,
            "problem-level1",
        ),
        (
            "mm",
            "changed=even&even=140",
            REFUSED,
            "is outside 0 to 100 %",
        ),
        ("in", "changed=pitch&pitch=90", REFUSED, "is outside"),
        ("mm", "changed=angle&angle=wide", REFUSED, "problem-angle"),
        (
            "mm",
            "changed=threshold&threshold=140",
            REFUSED,
            "is outside 0 to 100 %",
        ),
        ("mm", "changed=width&width=wide", REFUSED, "problem-width"),
        (
            "mm",
            "changed=width&width=50m",
            REFUSED,
            "of 50000 mm is outside 1 to 20000 mm",
        ),
        (
            "in",
            "changed=width&width=2000",
            REFUSED,
            "of 2000 in is outside 0.039 to 787.402 in",
        ),
        (
            "in",
            "changed=tolerance&tolerance=10in",
            REFUSED,
            "problem-tolerance",
        ),
        (
            "mm",
            "changed=height&height=300px",
            REFUSED,
            "problem-height",
        ),
        ("mm", "changed=width&width=nan", REFUSED, "problem-width"),
        (
            "mm",
            "changed=corner&corner=200",
            REFUSED,
            "of 200 ° is outside 5 to 170 °",
        ),
        ("mm", "changed=added&added=teal", REFUSED, "problem-notice"),
        (
            "mm",
            "changed=not_enclosed&not_enclosed=7",
            REFUSED,
            "kept no longer",
        ),
        ("mm", "changed=clean&clean=banana", REFUSED, "problem-clean"),
        (
            "mm",
            "changed=clean&clean={\"op\":\"add\",\"action\":{\"kind\":\"subject\",\"strokes\":[{\"ground\":true,\"dabs\":[[0,0,90],[40,40,90]]}]}}",
            REFUSED,
            "no subject stands out",
        ),
    ];
    refuses(&app, &store, job, &path, refused).await;
}

#[actix_web::test]
async fn a_page_that_is_out_of_date_changes_nothing() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let revision = store.job(job).unwrap().revision;
    let form = |width| format!("revision={revision}&line=size&changed=width&width={width}mm");
    let path = format!("/jobs/{job}/choose");
    assert_eq!(post(&app, &path, "mm", form(40)).await.0, StatusCode::OK);
    let kept = store.step(job).unwrap().recipe;
    for (path, form) in [
        (path, form(50)),
        (
            format!("/jobs/{job}/layers"),
            format!("revision={revision}&do=kerf&value=on"),
        ),
        (
            format!("/jobs/{job}/sheet"),
            format!("revision={revision}&do=copies&value=3"),
        ),
    ] {
        let (status, words) = post(&app, &path, "mm", form).await;
        assert_eq!(status, StatusCode::CONFLICT, "{path}: {words}");
        assert_eq!(store.step(job).unwrap().recipe, kept, "{path}");
    }
    assert_eq!(
        post(&app, "/jobs/999/choose", "mm", form(50)).await.0,
        StatusCode::NOT_FOUND
    );
}
