//! A page to be printed and cut: its changes, its files, and where its marks were found.

use super::*;

#[actix_web::test]
async fn every_change_of_a_printed_page_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/print");
    crate::machines::fill(&store).unwrap();
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
        "do=code&value=on",
        "do=code",
        "do=turn",
        "do=turn",
        "do=printer&value=3",
        "do=paper&value=roll",
        "do=page&width=500",
        "do=paper&value=A4",
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
        ("mm", "do=code&value=maybe", UNREAD, "could not be read"),
        ("mm", "do=printer&value=1", REFUSED, "choose a printer"),
        ("mm", "do=printer&value=99", REFUSED, "choose a printer"),
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
    let (_, key) = on_page(&app, job).await;
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

/// The open line of a job, and the key of its sheets.
async fn on_page<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    job: JobId,
) -> (String, String) {
    let (status, page) = get(app, &format!("/jobs/{job}/sheet"), "mm").await;
    assert_eq!(status, StatusCode::OK);
    let (_, after) = page.split_once("data-sheets=\"").expect("sheets");
    let key = after.split('"').next().expect("a key").to_owned();
    (page, key)
}

#[actix_web::test]
async fn the_code_of_a_page_names_its_job_and_what_it_is_of_and_opens_it() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/print");
    takes(
        &app,
        &store,
        job,
        &path,
        ["do=on&value=on", "do=code&value=on"],
    )
    .await;
    let (page, key) = on_page(&app, job).await;
    let said = format!("JOB {job} {}", key[..6].to_uppercase());
    assert!(page.contains(&said), "{said}");
    // It is printed: a reader of codes finds it on the page.
    let png = bytes(&app, &format!("/jobs/{job}/sheets/{key}/0/page.png")).await;
    let printed = inky_formats::picture::read(&png).unwrap().picture;
    assert_eq!(inky_core::print::seen::codes(&printed), [said.as_str()]);
    // Another arrangement has another.
    takes(&app, &store, job, &path, ["do=bleed&value=1"]).await;
    let (page, _) = on_page(&app, job).await;
    assert!(!page.contains(&said));
    // Typed by hand or by a scanner it opens the job; what names none is looked for as words.
    let typed = said.to_lowercase().replace(' ', "+");
    let found = |path: String, htmx: bool| {
        let request = TestRequest::get().uri(&path);
        if htmx {
            request.insert_header(("HX-Request", "true"))
        } else {
            request
        }
        .to_request()
    };
    let answer = call_service(&app, found(format!("/?q={typed}"), true)).await;
    let to = answer
        .headers()
        .get("HX-Redirect")
        .map(|h| h.as_bytes().to_vec());
    assert_eq!(to, Some(format!("/jobs/{job}").into_bytes()));
    let answer = call_service(&app, found(format!("/?q={typed}"), false)).await;
    assert_eq!(answer.status(), StatusCode::SEE_OTHER);
    let answer = call_service(&app, found("/?q=job+9999+7f3a2c".to_owned(), true)).await;
    assert_eq!(answer.status(), StatusCode::OK);
}

#[actix_web::test]
async fn what_lies_under_a_mark_or_beyond_the_cutter_is_told_with_a_remedy() {
    let (_folder, shop, job) = shop();
    crate::machines::fill(&shop.store).unwrap();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/print");
    takes(&app, &store, job, &path, ["do=on&value=on"]).await;
    let (page, key) = on_page(&app, job).await;
    assert!(!page.contains("class=\"trouble\""), "{page}");
    // Moved onto the first mark.
    let (_, sheet) = get(&app, &format!("/jobs/{job}/sheets/{key}/0.json"), "mm").await;
    let sheet: serde_json::Value = serde_json::from_str(&sheet).unwrap();
    let name = sheet["name"].as_str().unwrap().replace(' ', "+");
    let long = sheet["length"].as_f64().unwrap();
    let moves = format!("do=move&sheet={name}&which=0&value=0,{:.1},0", long - 12.0);
    takes(&app, &store, job, &format!("/jobs/{job}/sheet"), [moves]).await;
    let (page, _) = on_page(&app, job).await;
    assert!(
        page.contains("in the ground of the mark at the lower left"),
        "{page}"
    );
    takes(
        &app,
        &store,
        job,
        &format!("/jobs/{job}/sheet"),
        ["do=anew"],
    )
    .await;
    let (page, _) = on_page(&app, job).await;
    assert!(
        !page.contains("class=\"trouble\"") && !page.contains("lay-anew"),
        "{page}"
    );
    // Farther across than any cutter of the list reaches, and the other way around it would do.
    let reach = inky_devices::cutter::Model::default().size[1];
    let wide = reach + 300.0;
    let page = format!("do=page&width={wide}&height={}", reach - 50.0);
    takes(&app, &store, job, &path, [page]).await;
    takes(
        &app,
        &store,
        job,
        &format!("/jobs/{job}/sheet"),
        ["do=copies&value=sheet"],
    )
    .await;
    let (page, _) = on_page(&app, job).await;
    assert!(
        page.contains("turn the page, or take a smaller one") && page.contains("turn-page"),
        "{page}"
    );
    takes(&app, &store, job, &path, ["do=turn"]).await;
    let (page, _) = on_page(&app, job).await;
    assert!(!page.contains("turn the page"), "{page}");
}

#[actix_web::test]
async fn every_change_of_what_is_printed_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/look");
    let first = [(
        "mm",
        "do=white&value=on",
        REFUSED,
        "print the artwork first",
    )];
    refuses(&app, &store, job, &path, first).await;
    takes(
        &app,
        &store,
        job,
        &format!("/jobs/{job}/print"),
        ["do=on&value=on"],
    )
    .await;
    let (page, key) = on_page(&app, job).await;
    let ink = page.split_once("id=\"fill-ink\"").unwrap().1;
    let ink = ink.split_once("value=\"#").unwrap().1[..6].to_owned();
    // The middle of the first picture, on the page.
    let (_, sheet) = get(&app, &format!("/jobs/{job}/sheets/{key}/0.json"), "mm").await;
    let sheet: serde_json::Value = serde_json::from_str(&sheet).unwrap();
    let of = |v: &serde_json::Value| v.as_f64().unwrap();
    let [left, top] = [0, 1].map(|k| of(&sheet["page"]["paper"][k]));
    let map: Vec<f64> = sheet["items"][0]["map"]
        .as_array()
        .unwrap()
        .iter()
        .map(of)
        .collect();
    let size = &sheet["pieces"][0]["size"];
    let [x, y] = [of(&size[0]) / 2.0, of(&size[1]) / 2.0];
    let at = [
        map[0] * x + map[2] * y + map[4] - left,
        map[1] * x + map[3] * y + map[5] - top,
    ];
    let taken = [
        "do=along&value=box".to_owned(),
        "do=along&value=rounded".to_owned(),
        "do=along&value=ellipse".to_owned(),
        format!("do=along&value=%23{ink}"),
        "do=along&value=artwork".to_owned(),
        "do=white&value=on".to_owned(),
        "do=white-within&value=0.3".to_owned(),
        "do=white".to_owned(),
        "do=cut-name&value=Through+cut".to_owned(),
        "do=cut-name&value=".to_owned(),
        format!("do=fill-at&at={:.2},{:.2}", at[0], at[1]),
        "do=fill-with&which=0&pattern=dots&colour=%23ff0000&ground=%23ffffff&size=3&angle=45"
            .to_owned(),
        "do=fill-with&which=0&pattern=stripes&colour=%23ff0000".to_owned(),
        format!("do=fill-with&which=0&pattern=picture&colour=%23ff0000&picture={job}"),
        "do=fill-with&which=0&pattern=flat&colour=%2300ff00".to_owned(),
        format!("do=fill-ink&value=%23{ink}"),
        "do=fill-off&which=1".to_owned(),
        "do=fill-off&which=0".to_owned(),
    ];
    takes(&app, &store, job, &path, taken).await;
    let refused = [
        ("mm", "do=banana", UNREAD, "could not be read"),
        (
            "mm",
            "do=along&value=star",
            REFUSED,
            "choose what the cut line follows",
        ),
        ("mm", "do=white-within&value=9", REFUSED, "problem-look"),
        ("mm", "do=fill-place&value=here", REFUSED, "is no place"),
        (
            "mm",
            "do=fill-place&value=-5,-5",
            REFUSED,
            "press inside a piece",
        ),
        ("mm", "do=fill-at&at=1,1", REFUSED, "no picture lies there"),
        (
            "mm",
            "do=fill-ink&value=%23010203",
            REFUSED,
            "press inside a piece",
        ),
        ("mm", "do=fill-off&which=0", REFUSED, "is no more"),
        (
            "mm",
            "do=fill-with&which=0&pattern=waves&colour=%23ff0000",
            UNREAD,
            "could not be read",
        ),
    ];
    refuses(&app, &store, job, &path, refused).await;
    takes(
        &app,
        &store,
        job,
        &path,
        [format!("do=fill-ink&value=%23{ink}")],
    )
    .await;
    let again = format!("do=fill-ink&value=%23{ink}");
    let refused = [
        ("mm", again, REFUSED, "coloured in already"),
        (
            "mm",
            "do=fill-with&which=0&pattern=dots&colour=%23ff0000&size=900".to_owned(),
            REFUSED,
            "the size of a pattern",
        ),
        (
            "in",
            "do=fill-with&which=0&pattern=dots&colour=%23ff0000&size=0.001".to_owned(),
            REFUSED,
            " in",
        ),
    ];
    refuses(&app, &store, job, &path, refused).await;
}
