//! Addresses where there is nothing, methods that no address has, and `HEAD`.

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::{Method, StatusCode, header};
use actix_web::middleware::Next;
use actix_web::{Error, FromRequest, HttpRequest, HttpResponse};
use askama::Template;

use crate::error::WebError;
use crate::reader::Reader;

#[derive(Template)]
#[template(path = "lost.html")]
struct Lost {
    unit: &'static str,
}

/// Methods that some address has.
const ALLOWED: &str = "GET, HEAD, POST";

/// What no handler answers.
pub(crate) async fn nothing_here(request: HttpRequest) -> Result<HttpResponse, WebError> {
    if [Method::GET, Method::POST].contains(request.method()) {
        return Err(WebError::NoPage);
    }
    Ok(HttpResponse::MethodNotAllowed()
        .insert_header((header::ALLOW, ALLOWED))
        .finish())
}

/// Answers `HEAD` as `GET`, of which only the head is sent, and shows a person who is lost a page.
pub(crate) async fn in_our_page(
    mut request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    if request.method() == Method::HEAD {
        request.head_mut().method = Method::GET;
    }
    let headers = request.headers();
    let accepts = headers.get(header::ACCEPT).and_then(|a| a.to_str().ok());
    let person =
        !headers.contains_key("HX-Request") && accepts.is_some_and(|a| a.contains("text/html"));
    let answer = next.call(request).await?;
    if answer.status() != StatusCode::NOT_FOUND || !person {
        return Ok(answer.map_into_boxed_body());
    }
    let (request, _) = answer.into_parts();
    let Reader(unit) = Reader::extract(&request).await?;
    let page = Lost {
        unit: unit.symbol(),
    };
    let page = page.render().map_err(WebError::from)?;
    let found = HttpResponse::NotFound()
        .content_type("text/html; charset=utf-8")
        .body(page);
    Ok(ServiceResponse::new(request, found))
}
