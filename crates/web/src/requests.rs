//! Requests against the handlers themselves, without a browser: what is taken, what is refused beside
//! which control, and that a refusal leaves the job as it was.

use std::io::Cursor;

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use actix_web::middleware::from_fn;
use actix_web::test::{TestRequest, call_service, init_service, read_body};
use actix_web::{App, web};
use image::{GrayImage, ImageFormat, Luma};
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_store::{JobDetails, JobId, NewJob, Store};

use crate::pages::nesting::Searches;
use crate::workshop::Workshop;
use crate::{Shop, error, pages, refusal};

/// A black disc on white, as a PNG.
fn disc(side: u32) -> Vec<u8> {
    let middle = f64::from(side) / 2.0;
    let picture = GrayImage::from_fn(side, side, |x, y| {
        let off = (f64::from(x) + 0.5 - middle).hypot(f64::from(y) + 0.5 - middle);
        Luma([if off < middle * 0.7 { 0 } else { 255 }])
    });
    let mut file = Cursor::new(Vec::new());
    picture.write_to(&mut file, ImageFormat::Png).unwrap();
    file.into_inner()
}

/// A shop with one job, in a folder of its own.
fn shop() -> (tempfile::TempDir, Shop, JobId) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let side = 60;
    let recipe = Recipe::automatic(Size::at_ppi(side, side, 96.0));
    let job = store
        .create_job(NewJob {
            bytes: &disc(side),
            file_name: "disc.png",
            size_px: (side, side),
            details: &JobDetails {
                title: "Disc".to_owned(),
                ..JobDetails::default()
            },
            recipe: &serde_json::to_string(&recipe).unwrap(),
        })
        .unwrap();
    let shop = Shop {
        workshop: Workshop::new(store.clone()),
        searches: Searches::default(),
        store,
    };
    (folder, shop, job)
}

/// The application with a shop, and its answer to a posted form: status and words.
macro_rules! app {
    ($shop:expr) => {
        init_service(
            App::new()
                .app_data(web::Data::new($shop))
                .app_data(web::FormConfig::default().error_handler(|e, _| error::form_refused(&e)))
                .wrap(from_fn(refusal::in_the_readers_unit))
                .configure(pages::routes),
        )
        .await
    };
}
macro_rules! post {
    ($app:expr, $path:expr, $unit:expr, $form:expr) => {{
        let request = TestRequest::post()
            .uri(&$path)
            .insert_header(("HX-Request", "true"))
            .insert_header(("Content-Type", "application/x-www-form-urlencoded"))
            .cookie(Cookie::new("units", $unit))
            .set_payload($form)
            .to_request();
        let answer = call_service(&$app, request).await;
        let status = answer.status();
        (
            status,
            String::from_utf8_lossy(&read_body(answer).await).into_owned(),
        )
    }};
}

/// Each form becomes a step of its own.
macro_rules! takes {
    ($app:expr, $store:expr, $job:expr, $path:expr, $forms:expr) => {
        for form in $forms {
            let revision = $store.job($job).unwrap().revision;
            let form = format!("revision={revision}&line=inks&{form}");
            let (status, words) = post!($app, $path, "mm", form.clone());
            assert_eq!(status, StatusCode::OK, "{form}: {words}");
            assert_eq!($store.job($job).unwrap().revision, revision + 1, "{form}");
        }
    };
}
/// Each form, sent by who reads such a unit, is refused with such words, and the job stays as it is.
macro_rules! refuses {
    ($app:expr, $store:expr, $job:expr, $path:expr, $forms:expr) => {
        let revision = $store.job($job).unwrap().revision;
        let before = $store.step($job).unwrap().recipe;
        for (unit, form, wanted, told) in $forms {
            let form = format!("revision={revision}&line=inks&{form}");
            let (status, words) = post!($app, $path, unit, form.clone());
            assert_eq!(status, wanted, "{form}: {words}");
            assert!(words.to_lowercase().contains(told), "{form}: {words}");
        }
        assert_eq!($store.job($job).unwrap().revision, revision);
        assert_eq!($store.step($job).unwrap().recipe, before);
    };
}

const REFUSED: StatusCode = StatusCode::UNPROCESSABLE_ENTITY;
const UNREAD: StatusCode = StatusCode::BAD_REQUEST;

#[actix_web::test]
async fn every_choice_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app!(shop);
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
    takes!(app, store, job, path, taken);
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
    ];
    refuses!(app, store, job, path, refused);
}

#[actix_web::test]
async fn every_change_of_a_sheet_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app!(shop);
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
    takes!(app, store, job, path, taken);
    let refused = [
        ("mm", "do=banana", UNREAD, "could not be read"),
        ("mm", "value=3", UNREAD, "could not be read"),
        ("mm", "do=copies&value=none", REFUSED, "problem-copies"),
        ("mm", "do=copies&value=0", REFUSED, "problem-copies"),
        ("mm", "do=arrange&value=heap", REFUSED, "problem-sheet"),
        ("mm", "do=turns&value=any", REFUSED, "problem-sheet"),
        ("mm", "do=grain&value=maybe", REFUSED, "problem-sheet"),
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
            REFUSED,
            "problem-sheet",
        ),
        (
            "mm",
            "do=pull&sheet=A&which=0/0&value=first",
            REFUSED,
            "problem-sheet",
        ),
    ];
    refuses!(app, store, job, path, refused);
}

#[actix_web::test]
async fn a_page_that_is_out_of_date_changes_nothing() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app!(shop);
    let revision = store.job(job).unwrap().revision;
    let form = |width| format!("revision={revision}&line=size&changed=width&width={width}mm");
    let path = format!("/jobs/{job}/choose");
    assert_eq!(post!(app, path, "mm", form(40)).0, StatusCode::OK);
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
        let (status, words) = post!(app, path, "mm", form);
        assert_eq!(status, StatusCode::CONFLICT, "{path}: {words}");
        assert_eq!(store.step(job).unwrap().recipe, kept, "{path}");
    }
    assert_eq!(
        post!(app, "/jobs/999/choose", "mm", form(50)).0,
        StatusCode::NOT_FOUND
    );
}
