//! A page to be printed: its changes, its files, its pictures on the bench, and its cut line where it really lies.

use actix_web::{HttpResponse, get, post, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::units::Unit;
use inky_formats::files::Format;
use inky_formats::png;
use kurbo::Point;
use serde::Deserialize;

use super::asked::Change;
use super::found;
use super::look;
use super::page_file::{self, printed};
use crate::error::{WebError, wrong};
use crate::job::kept::{Kept, answer};
use crate::job::line::Line;
use crate::job::request::JobRequest;
use crate::job::send::routes::download;
use crate::machines::kept;
use crate::reader::Reader;
use crate::refusal::Refusal;

#[derive(Deserialize)]
struct Form {
    revision: i64,
    #[serde(flatten)]
    change: Change,
}

#[post("/jobs/{id}/print")]
async fn change(asked: JobRequest, form: web::Form<Form>) -> Result<HttpResponse, WebError> {
    let Form { revision, change } = form.into_inner();
    asked
        .change(revision, Line::Sheet, move |stages, base| {
            let field = change.field();
            let mut recipe = base.recipe;
            let machines = kept::all(stages.store())?;
            let name = change.apply(&mut recipe, &machines, base.unit)?;
            recipe.check().map_err(|e| e.beside(field))?;
            Ok((recipe, name))
        })
        .await
}

#[derive(Deserialize)]
struct LookForm {
    revision: i64,
    #[serde(flatten)]
    look: look::Change,
}

#[post("/jobs/{id}/look")]
async fn looks(asked: JobRequest, form: web::Form<LookForm>) -> Result<HttpResponse, WebError> {
    let LookForm { revision, look } = form.into_inner();
    asked
        .change(revision, Line::Sheet, move |_, base| {
            let (recipe, name) = look.apply(&base)?;
            recipe.check().map_err(|e| e.beside("look"))?;
            Ok((recipe, name))
        })
        .await
}

/// The bench shows so many pixels of a picture at most.
const SHOWN_PX: u64 = 2_000_000;

#[get("/jobs/{id}/sheets/{key}/{n}/page.pdf")]
async fn page_pdf(kept: Kept) -> Result<HttpResponse, WebError> {
    let made = kept.of_sheet(|store, on| {
        let name = printed(on)?.page.choice.cut_name.as_str();
        // An empty name is the usual one.
        Ok((page_file::name(on), page_file::pdf(store, on, Some(name))?))
    });
    let (name, bytes) = made.await?;
    Ok(download(&name, "pdf", "application/pdf", bytes))
}

#[get("/jobs/{id}/sheets/{key}/{n}/page.png")]
async fn page_png(kept: Kept) -> Result<HttpResponse, WebError> {
    let made = kept.of_sheet(|_, on| Ok((page_file::name(on), page_file::png(on)?)));
    let (name, bytes) = made.await?;
    Ok(download(&name, "png", "image/png", bytes))
}

/// What is printed of one picture, for the bench.
#[get("/jobs/{id}/sheets/{key}/{n}/pictures/{picture}.png")]
async fn picture(
    kept: Kept,
    path: web::Path<(i64, String, usize, usize)>,
) -> Result<HttpResponse, WebError> {
    let (.., picture) = path.into_inner();
    let shown = kept.of_sheet(move |_, on| {
        let art = printed(on)?.arts.get(picture).ok_or(WebError::NoPage)?;
        let shown = art.printed.shown(&art.cleaned.picture);
        Ok(png::write_picture(&shown.reduced(SHOWN_PX))?)
    });
    Ok(answer("image/png", shown.await?))
}

/// Where the marks were found, one after the other.
#[derive(Deserialize)]
struct Found {
    #[serde(default)]
    lower_left: String,
    #[serde(default)]
    lower_right: String,
    #[serde(default)]
    upper_right: Option<String>,
    #[serde(default)]
    upper_left: String,
}

impl Found {
    fn places(self, unit: Unit) -> Result<Vec<Point>, WebError> {
        let typed = [
            Some(self.lower_left),
            Some(self.lower_right),
            self.upper_right,
            Some(self.upper_left),
        ];
        found::places(&typed.into_iter().flatten().collect::<Vec<_>>(), unit)
    }
}

#[derive(Template, WebTemplate)]
#[template(path = "job/sheet/_found.html")]
struct Told {
    told: String,
    /// What is wrong with the places, in words.
    wrong: String,
    /// The addresses of the files.
    files: Vec<(&'static str, String)>,
}

/// Tells what became of the page, and offers the files that cut there.
#[get("/jobs/{id}/sheets/{key}/{n}/found")]
async fn told(
    kept: Kept,
    Reader(unit): Reader,
    asked: web::Query<Found>,
    http: actix_web::HttpRequest,
) -> Result<Told, WebError> {
    let places = asked.into_inner().places(unit);
    let query = http.query_string().to_owned();
    let base = http.path().trim_end_matches("/found").to_owned();
    let way = match places {
        Ok(places) => {
            kept.of_sheet(move |_, on| found::way(printed(on)?, &places))
                .await
        }
        Err(e) => Err(e),
    };
    Ok(match way {
        Ok(way) => Told {
            told: found::told(&way),
            wrong: String::new(),
            files: [("HPGL", "plt"), ("G-code", "gcode")]
                .map(|(label, ending)| (label, format!("{base}/there.{ending}?{query}")))
                .to_vec(),
        },
        Err(wrong @ (WebError::Field { .. } | WebError::Figure { .. })) => Told {
            told: String::new(),
            wrong: wrong.to_string(),
            files: Vec::new(),
        },
        Err(e) => return Err(e),
    })
}

/// The cut lines moved to where the page lies.
#[get("/jobs/{id}/sheets/{key}/{n}/there.{ending}")]
async fn there(
    kept: Kept,
    Reader(unit): Reader,
    asked: web::Query<Found>,
    path: web::Path<(i64, String, usize, String)>,
) -> Result<HttpResponse, WebError> {
    let (.., ending) = path.into_inner();
    let format = match ending.as_str() {
        "plt" => Format::Hpgl,
        "gcode" => Format::Gcode,
        _ => return Err(wrong("found", "a file for a machine is HPGL or G-code")),
    };
    let places = asked.into_inner().places(unit)?;
    let made = kept.of_sheet(move |_, on| {
        let way = found::way(printed(on)?, &places)?;
        let title = on.load.sources.first().map_or("", |s| s.job.as_str());
        Ok((format!("{title} there"), found::file(on, &way, format)?))
    });
    let (name, bytes) = made.await?;
    Ok(download(&name, &ending, format.media_type(), bytes))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(change)
        .service(looks)
        .service(page_pdf)
        .service(page_png)
        .service(picture)
        .service(told)
        .service(there);
}
