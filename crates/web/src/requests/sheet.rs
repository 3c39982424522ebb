//! Changes of the sheets.

use super::*;

#[actix_web::test]
async fn every_change_of_a_sheet_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/sheet");
    let taken = [
        "do=copies&value=3",
        "do=copies&value=width",
        "do=gap&value=4mm",
        "do=arrange&value=nested",
        "do=arrange&value=rows",
        "do=turns&value=half",
        "do=grain&value=on",
        "do=grain",
        "do=weed&value=on",
        "do=relief&value=on",
        "do=weed&value=off",
        "do=single&value=on",
        "do=trial&value=on",
        "do=zones&value=on",
    ];
    takes(&app, &store, job, &path, taken).await;
    let refused = [
        ("mm", "do=banana", UNREAD, "could not be read"),
        ("mm", "value=3", UNREAD, "could not be read"),
        ("mm", "do=copies&value=none", REFUSED, "problem-copies"),
        ("mm", "do=copies&value=0", REFUSED, "problem-copies"),
        ("mm", "do=arrange&value=heap", UNREAD, "could not be read"),
        ("mm", "do=turns&value=any", UNREAD, "could not be read"),
        ("mm", "do=grain&value=maybe", UNREAD, "could not be read"),
        ("mm", "do=gap&value=-1", REFUSED, "problem-gap"),
        (
            "in",
            "do=gap&value=100in",
            REFUSED,
            "a gap of 100 in is outside 0 to",
        ),
        ("mm", "do=guest&which=none", REFUSED, "problem-guests"),
        (
            "mm",
            "do=move&sheet=A&which=7&value=1,2",
            UNREAD,
            "2 figures where 3",
        ),
        (
            "mm",
            "do=pull&sheet=A&which=0/0&value=first",
            REFUSED,
            "problem-sheet",
        ),
        (
            "mm",
            "do=move&sheet=A&which=7&value=1,2,0",
            REFUSED,
            "problem-sheet",
        ),
        (
            "mm",
            "do=pull&sheet=A&which=0/0&value=soon",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "do=guest-copies&which=7&value=2",
            REFUSED,
            "not on the sheet any more",
        ),
    ];
    refuses(&app, &store, job, &path, refused).await;
}
