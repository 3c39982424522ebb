//! Requests that change something are taken from our own pages only.
//!
//! `Sec-Fetch-Site` must be `same-origin` or `none`; where a browser does not send it, the host of
//! `Origin` must be ours. Programs without either are let in. Source: W3C Fetch Metadata §2.4;
//! RFC 6454 §7.

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::middleware::Next;
use actix_web::{Error, HttpResponse};

use crate::hosts::asked_for;

pub(crate) async fn same_origin_only(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let reads = [Method::GET, Method::HEAD, Method::OPTIONS].contains(request.method());
    if reads || from_own_page(&request) {
        return Ok(next.call(request).await?.map_into_boxed_body());
    }
    let refusal = HttpResponse::Forbidden()
        .content_type("text/plain")
        .body("this came from another site");
    Ok(request.into_response(refusal).map_into_boxed_body())
}

fn from_own_page(request: &ServiceRequest) -> bool {
    let header = |name: &str| request.headers().get(name).and_then(|v| v.to_str().ok());
    match (header("Sec-Fetch-Site"), header("Origin")) {
        (Some(site), _) => matches!(site, "same-origin" | "none"),
        (None, Some(origin)) => {
            let host = origin.split_once("://").map(|(_, host)| host);
            host.is_some() && host == asked_for(request)
        }
        (None, None) => true,
    }
}
