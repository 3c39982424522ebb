//! The unit a person reads in, kept in a cookie.

use actix_web::cookie::{Cookie, SameSite, time::Duration};
use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, HttpResponse, get, post, web};
use inky_core::units::{Unit, parse_angle, parse_area};
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::typed::mm;

const NAME: &str = "units";

/// The reader's unit, millimetres unless chosen otherwise.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Reader(pub(crate) Unit);

impl FromRequest for Reader {
    type Error = actix_web::Error;
    type Future = std::future::Ready<Result<Self, Self::Error>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let inches = request.cookie(NAME).is_some_and(|c| c.value() == "in");
        std::future::ready(Ok(Self(if inches { Unit::In } else { Unit::Mm })))
    }
}

#[derive(Deserialize)]
struct To {
    to: Unit,
}

#[post("/units")]
async fn choose(to: web::Query<To>) -> HttpResponse {
    let cookie = Cookie::build(NAME, to.to.symbol())
        .path("/")
        .http_only(true)
        .same_site(SameSite::Lax)
        .max_age(Duration::days(365))
        .finish();
    HttpResponse::NoContent()
        .cookie(cookie)
        .insert_header(("HX-Refresh", "true"))
        .finish()
}

/// What a typed figure is one of.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Quantity {
    #[default]
    Length,
    Area,
    Angle,
}

#[derive(Deserialize)]
struct Typed {
    text: String,
    #[serde(default)]
    of: Quantity,
}

/// A figure that a script was given by hand, in mm, mm² or degrees: it understands what every form does.
#[get("/figure")]
async fn figure(typed: web::Query<Typed>, reader: Reader) -> Result<HttpResponse, WebError> {
    let (text, Reader(unit)) = (&typed.text, reader);
    let refused = |e| wrong("notice", e);
    let value = match typed.of {
        Quantity::Length => mm("notice", text, unit)?,
        Quantity::Area => parse_area(text, unit).map_err(refused)?.get(),
        Quantity::Angle => parse_angle(text).map_err(refused)?.get(),
    };
    Ok(HttpResponse::Ok().json(serde_json::json!({ "value": value })))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(choose).service(figure);
}
