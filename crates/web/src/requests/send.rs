//! Files that are asked for.

use super::*;

#[actix_web::test]
async fn every_wish_gives_a_file_or_a_refusal() {
    let (_folder, shop, job) = shop();
    let app = app(shop).await;
    for wish in [
        "",
        "format=svg&style=lines&sized=72",
        "format=dxf&dxf=r12&unit=in",
        "format=plt&swivel=on&turned=on&mirrored=on",
        "format=gcode&full=255&what=sheets&split=material",
        "format=pdf&paper=layout&spot=CutContour",
        "format=pdf&paper=proof",
        "format=pdf&paper=proof&price=48.00+EUR",
        "format=pdf&paper=order",
        "format=png&ppi=96&trimmed=on",
        "format=png&ppi=&plain=on&what=design",
        "format=svg&what=0&split=layer",
    ] {
        let (status, words) = get(&app, &format!("/jobs/{job}/file?{wish}"), "mm").await;
        assert_eq!(status, StatusCode::OK, "{wish}: {words}");
        assert!(!words.is_empty(), "{wish}");
        let (status, words) = get(&app, &format!("/jobs/{job}/told?{wish}"), "mm").await;
        assert_eq!(status, StatusCode::OK, "{wish}: {words}");
        assert!(words.contains("opens at"), "{wish}: {words}");
    }
    for (wish, wanted, told) in [
        ("format=banana", UNREAD, "no format"),
        ("style=banana", UNREAD, "could not be read"),
        ("what=banana", UNREAD, "neither the design nor a sheet"),
        ("split=banana", UNREAD, "could not be read"),
        ("dxf=banana", UNREAD, "could not be read"),
        ("paper=banana", UNREAD, "could not be read"),
        ("swivel=maybe", UNREAD, "could not be read"),
        ("what=7", REFUSED, "this sheet is no more"),
        ("ppi=5", REFUSED, "between 10 and 2400"),
        ("ppi=many", REFUSED, "is not a number"),
        ("full=0", REFUSED, "between 1 and 100000"),
    ] {
        for page in ["file", "told"] {
            let (status, words) = get(&app, &format!("/jobs/{job}/{page}?{wish}"), "mm").await;
            assert_eq!(status, wanted, "{page} {wish}: {words}");
            let words = words.to_lowercase();
            assert!(words.contains(told), "{page} {wish}: {words}");
        }
    }
}
