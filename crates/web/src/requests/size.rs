//! Changes of size and stock, lengths typed into scripts, and the job's own words.

use super::*;

#[actix_web::test]
async fn every_change_of_size_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/size");
    let taken = [
        "do=scale&value=200+%25",
        "do=drawn&side=width&value=30mm",
        "do=drawn&side=height&value=2in",
        "do=measured&ends=0,0,10,0&value=20mm",
        "do=own-stock&width=300&length=",
        "do=own-stock&width=300mm&length=500",
        "do=fit&margin=5",
        "do=place&value=10,12",
        "do=mirror&value=yes",
        "do=mirror&value=auto",
        "do=stock&value=0",
    ];
    takes(&app, &store, job, &path, taken).await;
    let refused = [
        ("mm", "do=banana", UNREAD, "could not be read"),
        (
            "mm",
            "do=drawn&side=depth&value=3",
            UNREAD,
            "could not be read",
        ),
        ("mm", "do=stock&value=first", UNREAD, "could not be read"),
        ("mm", "do=place&value=1", UNREAD, "1 figures where 2"),
        ("mm", "do=mirror&value=maybe", UNREAD, "could not be read"),
        ("mm", "do=scale&value=large", REFUSED, "problem-scale"),
        ("mm", "do=scale&value=1e9", REFUSED, "problem-scale"),
        ("mm", "do=scale&value=0", REFUSED, "problem-scale"),
        (
            "mm",
            "do=drawn&side=width&value=20px",
            REFUSED,
            "problem-drawn",
        ),
        (
            "mm",
            "do=measured&ends=&value=20mm",
            REFUSED,
            "draw a line on the bench first",
        ),
        (
            "mm",
            "do=measured&ends=1,1,1,1&value=20mm",
            REFUSED,
            "too short to measure",
        ),
        (
            "mm",
            "do=own-stock&width=wide&length=",
            REFUSED,
            "problem-stock",
        ),
        (
            "in",
            "do=own-stock&width=9000&length=",
            REFUSED,
            "of 9000 in is outside",
        ),
        (
            "mm",
            "do=stock&value=99",
            REFUSED,
            "not in the list any more",
        ),
        ("mm", "do=fit&margin=20m", REFUSED, "problem-stock"),
        ("mm", "do=place&value=1e9,0", REFUSED, "problem-stock"),
    ];
    refuses(&app, &store, job, &path, refused).await;
}

#[actix_web::test]
async fn figures_are_read_as_every_field_reads_them() {
    let (_folder, shop, _) = shop();
    let app = app(shop).await;
    // 1 in = 25.4 mm exactly (international yard and pound agreement of 1959).
    for (unit, of, text, value) in [
        ("mm", "length", "6mm", 6.0),
        ("mm", "length", "2,5", 2.5),
        ("mm", "length", "1/4in", 6.35),
        ("mm", "length", "1%201/2%20in", 38.1),
        ("in", "length", "2", 50.8),
        ("mm", "area", "2", 2.0),
        ("mm", "area", "0.1in2", 64.516),
        ("in", "area", "0.1", 64.516),
        ("in", "angle", "-15", -15.0),
        ("mm", "angle", "30%C2%B0", 30.0),
    ] {
        let (status, words) = get(&app, &format!("/figure?of={of}&text={text}"), unit).await;
        assert_eq!(status, StatusCode::OK, "{text}: {words}");
        let read: serde_json::Value = serde_json::from_str(&words).unwrap();
        let found = read["value"].as_f64().unwrap();
        assert!((found - value).abs() < 1e-9, "{of} {text}: {found}");
    }
    for (of, text) in [
        ("area", "2mm"),
        ("area", "-"),
        ("angle", "30mm"),
        ("angle", ""),
    ] {
        let (status, _) = get(&app, &format!("/figure?of={of}&text={text}"), "mm").await;
        assert_eq!(status, REFUSED, "{of} {text}");
    }
    for text in ["wide", "6%20miles", "1/0", "20px", "nan"] {
        let (status, _) = get(&app, &format!("/figure?text={text}"), "mm").await;
        assert_eq!(status, REFUSED, "{text}");
    }
}
