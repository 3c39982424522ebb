//! Requests against the handlers themselves, without a browser: what is taken, what is refused beside
//! which control, and that a refusal leaves the job as it was.

use std::fmt::Display;
use std::io::Cursor;

use actix_http::Request;
use actix_web::body::MessageBody;
use actix_web::cookie::Cookie;
use actix_web::dev::{Service, ServiceResponse};
use actix_web::http::StatusCode;
use actix_web::middleware::from_fn;
use actix_web::test::{TestRequest, call_service, init_service, read_body};
use actix_web::{App, web};
use image::{GrayImage, ImageFormat, Luma};
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_store::{JobDetails, JobId, NewJob, Store};

use crate::backups::Backups;
use crate::job::sheet::nesting::Searches;
use crate::machines::{Simulated, UnderWay};
use crate::workshop::Workshop;
use crate::{Shop, error, lost, materials, origin, refusal, routes};

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
            by: "",
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
    materials::stocked::fill(&store).unwrap();
    crate::machines::fill(&store).unwrap();
    let shop = Shop {
        workshop: Workshop::new(store.clone()),
        searches: Searches::default(),
        backups: Backups::default(),
        simulated: Simulated::default(),
        under_way: UnderWay::default(),
        store,
    };
    (folder, shop, job)
}

/// The application with a shop. Opaque, so that it is compiled once for all tests.
async fn app(
    shop: Shop,
) -> impl Service<Request, Response = ServiceResponse<impl MessageBody>, Error = actix_web::Error> {
    init_service(
        App::new()
            .app_data(web::Data::new(shop))
            .app_data(error::forms())
            .app_data(web::QueryConfig::default().error_handler(|e, _| error::form_refused(&e)))
            .wrap(from_fn(lost::in_our_page))
            .wrap(from_fn(origin::same_origin_only))
            .wrap(from_fn(refusal::in_the_readers_unit))
            .configure(routes::routes),
    )
    .await
}

/// The answer to a request by who reads such a unit: status and words.
async fn answered<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    request: TestRequest,
    unit: &str,
) -> (StatusCode, String) {
    let request = request.cookie(Cookie::new("units", unit.to_owned()));
    let answer = call_service(app, request.to_request()).await;
    let status = answer.status();
    let words = String::from_utf8_lossy(&read_body(answer).await).into_owned();
    (status, words)
}

/// The answer to a posted form.
async fn post<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    path: &str,
    unit: &str,
    form: impl Into<String>,
) -> (StatusCode, String) {
    let request = TestRequest::post()
        .uri(path)
        .insert_header(("HX-Request", "true"))
        .insert_header(("Content-Type", "application/x-www-form-urlencoded"))
        .set_payload(form.into());
    answered(app, request, unit).await
}

/// What a page reads.
async fn get<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    path: &str,
    unit: &str,
) -> (StatusCode, String) {
    answered(app, TestRequest::get().uri(path), unit).await
}

/// Each form becomes a step of its own.
async fn takes<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    store: &Store,
    job: JobId,
    path: &str,
    forms: impl IntoIterator<Item = impl Display>,
) {
    for form in forms {
        let revision = store.job(job).unwrap().revision;
        let form = format!("revision={revision}&line=inks&{form}");
        let (status, words) = post(app, path, "mm", form.as_str()).await;
        assert_eq!(status, StatusCode::OK, "{form}: {words}");
        assert_eq!(store.job(job).unwrap().revision, revision + 1, "{form}");
    }
}

/// Each form, sent by who reads such a unit, is refused with such words, and the job stays as it is.
async fn refuses<B: MessageBody>(
    app: &impl Service<Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    store: &Store,
    job: JobId,
    path: &str,
    forms: impl IntoIterator<Item = (&'static str, impl Display, StatusCode, &'static str)>,
) {
    let revision = store.job(job).unwrap().revision;
    let before = store.step(job).unwrap().recipe;
    for (unit, form, wanted, told) in forms {
        let form = format!("revision={revision}&line=inks&{form}");
        let (status, words) = post(app, path, unit, form.as_str()).await;
        assert_eq!(status, wanted, "{form}: {words}");
        assert!(words.to_lowercase().contains(told), "{form}: {words}");
    }
    assert_eq!(store.job(job).unwrap().revision, revision);
    assert_eq!(store.step(job).unwrap().recipe, before);
}

mod bin;
mod brought;
mod choices;
mod guide;
mod history;
mod jobs;
mod layers;
mod machines;
mod material;
mod mutated;
mod nothing_lost;
mod offcut;
mod print;
mod send;
mod sheet;
mod size;
mod tidy;

const REFUSED: StatusCode = StatusCode::UNPROCESSABLE_ENTITY;
const UNREAD: StatusCode = StatusCode::BAD_REQUEST;
