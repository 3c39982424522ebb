//! A page to be printed and cut: its changes, its files, and where its marks were found.

use super::*;

#[actix_web::test]
async fn every_change_of_a_printed_page_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/print");
    let taken = [
        "do=on&value=on",
        "do=paper&value=letter",
        "do=page&width=250&height=350mm",
        "do=lying&value=on",
        "do=lying",
        "do=margins&left=10&top=10&right=12&bottom=20",
        "do=marks&value=four",
        "do=mark-size&value=5",
        "do=clear&value=4",
        "do=mark-line&value=0.8",
        "do=mark-move&corner=0&value=25,+280",
        "do=mark-drag&corner=1&at=200.5,270",
        "do=mark-move&corner=0&value=",
        "do=marks-back",
        "do=pulled&value=on",
        "do=border&value=4",
        "do=bleed&value=1.5",
        "do=coloured",
        "do=coloured&value=on",
        "do=colour&value=%23ffee00",
        "do=coloured",
        "do=on",
        "do=on&value=on",
    ];
    takes(&app, &store, job, &path, taken).await;
    let refused = [
        ("mm", "do=banana", UNREAD, "could not be read"),
        ("mm", "do=paper&value=b9", REFUSED, "choose a paper"),
        ("mm", "do=marks&value=five", UNREAD, "could not be read"),
        ("mm", "do=colour&value=teal", UNREAD, "could not be read"),
        ("mm", "do=on&value=maybe", UNREAD, "could not be read"),
        (
            "mm",
            "do=mark-move&corner=0&value=here",
            REFUSED,
            "is no place",
        ),
        (
            "mm",
            "do=mark-move&corner=0&value=1,1",
            REFUSED,
            "problem-marks",
        ),
        (
            "mm",
            "do=mark-move&corner=9&value=25,280",
            REFUSED,
            "no such mark",
        ),
        ("mm", "do=mark-drag&corner=0&at=1", UNREAD, "figure"),
        ("mm", "do=border&value=wide", REFUSED, "problem-bleed"),
        (
            "mm",
            "do=bleed&value=50",
            REFUSED,
            "a bleed of 50 mm is outside 0 to 20 mm",
        ),
        (
            "in",
            "do=page&width=0.1&height=9",
            REFUSED,
            "a side of the page of 0.1 in",
        ),
        (
            "mm",
            "do=margins&left=200&top=0&right=200&bottom=0",
            REFUSED,
            "problem-page",
        ),
        ("mm", "do=mark-size&value=90", REFUSED, "problem-marks"),
    ];
    refuses(&app, &store, job, &path, refused).await;
}

/// What a file holds.
async fn bytes<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    path: &str,
) -> Vec<u8> {
    let answer = call_service(app, TestRequest::get().uri(path).to_request()).await;
    assert_eq!(answer.status(), StatusCode::OK, "{path}");
    read_body(answer).await.to_vec()
}

#[actix_web::test]
async fn a_page_and_its_cut_are_written_and_impossible_marks_are_told() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    takes(
        &app,
        &store,
        job,
        &format!("/jobs/{job}/print"),
        [
            "do=on&value=on",
            "do=margins&left=10&top=10&right=10&bottom=10",
        ],
    )
    .await;
    let (status, page) = get(&app, &format!("/jobs/{job}/sheet"), "mm").await;
    assert_eq!(status, StatusCode::OK);
    let (_, after) = page.split_once("data-sheets=\"").expect("sheets");
    let key = after.split('"').next().expect("a key").to_owned();
    let base = format!("/jobs/{job}/sheets/{key}/0");
    for (file, begin) in [
        ("page.pdf", b"%PDF-".as_slice()),
        ("page.png", b"\x89PNG"),
        ("pictures/0.png", b"\x89PNG"),
    ] {
        let bytes = bytes(&app, &format!("{base}/{file}")).await;
        assert!(bytes.starts_with(begin), "{file}");
    }
    let (status, _) = get(&app, &format!("{base}/pictures/7.png"), "mm").await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    // The marks lie 184 and 271 mm apart.
    let found = "lower_left=30,20&lower_right=214,20.5&upper_left=29.3,291";
    let (status, told) = get(&app, &format!("{base}/found?{found}"), "mm").await;
    assert_eq!(status, StatusCode::OK);
    assert!(
        told.contains("Turned by 0.15°") && told.contains("there.plt"),
        "{told}"
    );
    for (ending, begin) in [("plt", "IN;"), ("gcode", "G21")] {
        let file = bytes(&app, &format!("{base}/there.{ending}?{found}")).await;
        let text = String::from_utf8_lossy(&file);
        assert!(text.contains(begin), "{ending}: {text}");
    }
    for (found, said) in [
        (
            "lower_left=30,20&lower_right=29.3,291&upper_left=214,20.5",
            "seem to be swapped",
        ),
        (
            "lower_left=30,20&lower_right=&upper_left=29,291",
            "is no place",
        ),
        (
            "lower_left=30,20&lower_right=234,20&upper_left=30,291",
            "stretched by",
        ),
        (
            "lower_left=a,b&lower_right=1,1&upper_left=2,2",
            "is not a number",
        ),
    ] {
        let (status, told) = get(&app, &format!("{base}/found?{found}"), "mm").await;
        assert_eq!(status, StatusCode::OK);
        assert!(
            told.contains(said) && !told.contains("there.plt"),
            "{found}: {told}"
        );
        let (status, _) = get(&app, &format!("{base}/there.plt?{found}"), "mm").await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{found}");
    }
}
