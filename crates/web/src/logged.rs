//! One line in the log for each request: what was asked, how it went, how long it took.

use actix_web::Error;
use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use tracing::Span;
use tracing::field::Empty;
use tracing_actix_web::RootSpanBuilder;

/// The span of a request; it is written when it closes.
pub(crate) struct Line;

impl RootSpanBuilder for Line {
    fn on_request_start(request: &ServiceRequest) -> Span {
        tracing::info_span!(
            "request",
            method = %request.method(),
            path = request.path(),
            status = Empty,
            outcome = Empty,
        )
    }

    fn on_request_end<B: MessageBody>(span: Span, outcome: &Result<ServiceResponse<B>, Error>) {
        let (status, error) = match outcome {
            Ok(answer) => (answer.status(), answer.response().error()),
            Err(error) => (error.as_response_error().status_code(), Some(error)),
        };
        span.record("status", status.as_u16());
        // What was refused is said as the person was told it; what failed has an event of its own.
        match error {
            Some(error) => span.record("outcome", tracing::field::display(error)),
            None => span.record("outcome", status.canonical_reason()),
        };
    }
}
