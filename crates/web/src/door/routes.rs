//! Signing in and out.

use std::time::Instant;

use actix_web::cookie::time::Duration as Lasts;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::http::{StatusCode, header};
use actix_web::{HttpRequest, HttpResponse, get, post, web};
use askama::Template;
use serde::Deserialize;

use super::{COOKIE, Door, Person, SIGN_IN, STAYS};
use crate::error::WebError;
use crate::proxy::{self, Secure};

#[derive(Template)]
#[template(path = "sign_in.html")]
struct SignIn<'a> {
    /// Where to go on to.
    to: &'a str,
    /// What was typed as the name.
    name: &'a str,
    /// Whether this browser is signed in already.
    inside: bool,
    problem: String,
}

/// The sign-in page, from which one comes back to an address of ours.
pub(super) fn back_to(path: &str) -> String {
    let plain: String = path
        .bytes()
        .map(|b| match b {
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'/' | b'-' | b'.' | b'_' => {
                char::from(b).to_string()
            }
            b => format!("%{b:02X}"),
        })
        .collect();
    format!("{SIGN_IN}?to={plain}")
}

/// An address of ours, or the list of jobs.
fn ours(to: &str) -> &str {
    let local = to.starts_with('/') && !to.starts_with("//") && !to.contains(['\\', '\r', '\n']);
    if local { to } else { "/" }
}

#[derive(Deserialize)]
struct To {
    #[serde(default)]
    to: String,
}

#[derive(Deserialize)]
struct Typed {
    password: String,
    /// How they are called in the history; may be empty.
    #[serde(default)]
    name: String,
    #[serde(default)]
    to: String,
}

impl SignIn<'_> {
    fn answer(&self, status: StatusCode) -> Result<HttpResponse, WebError> {
        Ok(HttpResponse::build(status)
            .content_type("text/html; charset=utf-8")
            .insert_header((header::CACHE_CONTROL, "no-store"))
            .body(self.render()?))
    }
}

#[get("/sign-in")]
async fn asks(
    request: HttpRequest,
    to: web::Query<To>,
    door: web::Data<Door>,
) -> Result<HttpResponse, WebError> {
    let known = request.cookie(COOKIE).and_then(|c| door.whose(c.value()));
    let page = SignIn {
        to: ours(&to.to),
        name: known.as_ref().map_or("", |person| &person.name),
        inside: known.is_some(),
        problem: String::new(),
    };
    page.answer(StatusCode::OK)
}

#[post("/sign-in")]
async fn sign_in(
    request: HttpRequest,
    typed: web::Form<Typed>,
    door: web::Data<Door>,
) -> Result<HttpResponse, WebError> {
    let proxy = proxy::of(&request);
    let from = proxy.from(request.headers(), request.peer_addr());
    let Typed { password, name, to } = typed.into_inner();
    let (to, name) = (ours(&to), Person::tidy(&name));
    let refused = |status, problem| {
        let page = SignIn {
            to,
            name: &name,
            inside: false,
            problem,
        };
        page.answer(status)
    };
    if let Some(wait) = door.tries.wait(from, Instant::now()) {
        let seconds = wait.as_secs() + 1;
        let words = format!("There were too many wrong tries from here. Wait {seconds} s.");
        return refused(StatusCode::TOO_MANY_REQUESTS, words);
    }
    let right = match door.password.clone() {
        Some(known) => web::block(move || known.is(&password)).await?,
        None => true,
    };
    if !right {
        door.tries.wrong(from, Instant::now());
        let words = "This is not the password.".to_owned();
        return refused(StatusCode::UNAUTHORIZED, words);
    }
    door.tries.right(from);
    let tls = request.app_data::<web::Data<Secure>>();
    let encrypted = tls.is_some_and(|s| s.0) || proxy.encrypted(request.headers());
    let lasts = Lasts::seconds(i64::try_from(STAYS.as_secs()).unwrap_or(i64::MAX));
    let cookie = Cookie::build(COOKIE, door.sign_in(name))
        .path("/")
        .http_only(true)
        .secure(encrypted)
        .same_site(SameSite::Lax)
        .max_age(lasts)
        .finish();
    Ok(HttpResponse::SeeOther()
        .cookie(cookie)
        .insert_header((header::LOCATION, to))
        .finish())
}

#[post("/sign-out")]
async fn sign_out(request: HttpRequest, door: web::Data<Door>) -> HttpResponse {
    if let Some(cookie) = request.cookie(COOKIE) {
        door.sign_out(cookie.value());
    }
    let mut gone = Cookie::build(COOKIE, "").path("/").finish();
    gone.make_removal();
    HttpResponse::SeeOther()
        .cookie(gone)
        .insert_header((header::LOCATION, SIGN_IN))
        .finish()
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(asks).service(sign_in).service(sign_out);
}
