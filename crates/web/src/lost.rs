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

/// What no handler answers: an address that there is not, or a method that the address has not.
pub(crate) async fn nothing_here(request: HttpRequest) -> Result<HttpResponse, WebError> {
    let known = request.resource_map().has_resource(request.path());
    let allowed = match *request.method() {
        Method::GET | Method::POST if !known => return Err(WebError::NoPage),
        Method::GET => "POST",
        Method::POST => "GET, HEAD",
        _ => "GET, HEAD, POST",
    };
    Ok(HttpResponse::MethodNotAllowed()
        .insert_header((header::ALLOW, allowed))
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
    let lost = [StatusCode::NOT_FOUND, StatusCode::METHOD_NOT_ALLOWED].contains(&answer.status());
    if !lost || !person {
        return Ok(answer.map_into_boxed_body());
    }
    let (request, answer) = answer.into_parts();
    let Reader(unit) = Reader::extract(&request).await?;
    let page = Lost {
        unit: unit.symbol(),
    };
    let page = page.render().map_err(WebError::from)?;
    let mut found = HttpResponse::build(answer.status());
    if let Some(allowed) = answer.headers().get(header::ALLOW) {
        found.insert_header((header::ALLOW, allowed));
    }
    let found = found.content_type("text/html; charset=utf-8").body(page);
    Ok(ServiceResponse::new(request, found))
}
