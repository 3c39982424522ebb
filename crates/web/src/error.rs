//! Every way a request can fail, with its status and its words, in one place.
//!
//! To htmx an error is a fragment that lands beside its control (`#problem-<field>`) or in the
//! notice line; to anything else it is a plain page. 5xx never show internals.

use actix_multipart::MultipartError;
use actix_web::error::UrlencodedError;
use actix_web::http::StatusCode;
use actix_web::web::FormConfig;
use actix_web::{HttpResponse, ResponseError};
use askama::Template;
use inky_core::clean::CleanError;
use inky_core::limits::{self, OutOfRange};
use inky_core::stop::Stopped;
use inky_core::tidy::EditError;
use inky_formats::files::FileError;
use inky_formats::picture::ReadError;
use inky_formats::png::PngError;
use inky_store::StoreError;

use crate::refusal::Refusal;

/// Why a request was not answered as asked.
#[derive(Debug, thiserror::Error)]
pub(crate) enum WebError {
    /// A typed value that cannot be used; `field` is its name in the form.
    #[error("{message}")]
    Field {
        field: &'static str,
        message: String,
    },
    /// A figure out of range; told in the unit that is read by [`crate::refusal`].
    #[error("{figure}")]
    Figure {
        field: &'static str,
        figure: OutOfRange,
    },
    #[error("{0}")]
    Picture(#[from] ReadError),
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error(transparent)]
    Png(#[from] PngError),
    #[error(transparent)]
    File(#[from] FileError),
    /// A newer request took its place.
    #[error("replaced by a newer request")]
    Superseded,
    #[error("the workshop has too much to do; try again in a moment")]
    Busy,
    #[error("this result is no longer kept; reload the page to make it again")]
    Gone,
    #[error("there is no such page")]
    NoPage,
    #[error("something went wrong here; nothing was lost")]
    Internal(String),
}

/// A typed value that cannot be used, told beside the field `field`.
pub(crate) fn wrong(field: &'static str, message: impl ToString) -> WebError {
    WebError::Field {
        field,
        message: message.to_string(),
    }
}

impl From<Stopped> for WebError {
    fn from(_: Stopped) -> Self {
        Self::Superseded
    }
}

impl From<CleanError> for WebError {
    fn from(error: CleanError) -> Self {
        match error {
            CleanError::Stopped(stopped) => stopped.into(),
            other => wrong("clean", other),
        }
    }
}

impl From<EditError> for WebError {
    fn from(error: EditError) -> Self {
        error.beside("tidy")
    }
}

impl From<actix_web::error::BlockingError> for WebError {
    fn from(error: actix_web::error::BlockingError) -> Self {
        Self::Internal(error.to_string())
    }
}

impl From<askama::Error> for WebError {
    fn from(error: askama::Error) -> Self {
        Self::Internal(error.to_string())
    }
}

impl From<serde_json::Error> for WebError {
    fn from(error: serde_json::Error) -> Self {
        Self::Internal(error.to_string())
    }
}

#[derive(Template)]
#[template(path = "problem.html")]
struct Problem<'a> {
    target: &'a str,
    message: &'a str,
}

impl ResponseError for WebError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::Field { .. }
            | Self::Figure { .. }
            | Self::Picture(_)
            | Self::Png(PngError::TooLarge { .. })
            | Self::File(FileError::Nothing | FileError::Png(PngError::TooLarge { .. })) => {
                StatusCode::UNPROCESSABLE_ENTITY
            }
            Self::Store(StoreError::NoJob) | Self::NoPage => StatusCode::NOT_FOUND,
            Self::Store(StoreError::Stale | StoreError::NoStep(_)) => StatusCode::CONFLICT,
            Self::Superseded => StatusCode::NO_CONTENT,
            Self::Busy | Self::Store(StoreError::Busy(_)) => StatusCode::SERVICE_UNAVAILABLE,
            Self::Gone => StatusCode::GONE,
            Self::Store(StoreError::Full) => StatusCode::INSUFFICIENT_STORAGE,
            Self::Store(_) | Self::Png(_) | Self::File(_) | Self::Internal(_) => {
                StatusCode::INTERNAL_SERVER_ERROR
            }
        }
    }

    fn error_response(&self) -> HttpResponse {
        let status = self.status_code();
        if status == StatusCode::NO_CONTENT {
            return HttpResponse::NoContent().finish();
        }
        let mut message = self.to_string();
        let ours = status.is_server_error() && status != StatusCode::SERVICE_UNAVAILABLE;
        if ours {
            tracing::error!(error = ?self, "request failed");
        }
        if ours && status != StatusCode::INSUFFICIENT_STORAGE {
            "something went wrong here; nothing was lost, try again".clone_into(&mut message);
        }
        let target = match self {
            Self::Field { field, .. } | Self::Figure { field, .. } => *field,
            Self::Picture(_) => "file",
            _ => "notice",
        };
        problem(status, target, &message)
    }
}

fn problem(status: StatusCode, target: &str, message: &str) -> HttpResponse {
    let mut capital = message.chars();
    let message: String = capital
        .next()
        .map(|c| c.to_uppercase().collect::<String>())
        .unwrap_or_default()
        + capital.as_str();
    let body = Problem {
        target,
        message: &message,
    }
    .render()
    .unwrap_or_else(|_| message.clone());
    // What is told goes to its place by itself; what was asked to be swapped stays.
    HttpResponse::build(status)
        .content_type("text/html; charset=utf-8")
        .insert_header(("HX-Reswap", "none"))
        .body(body)
}

/// An upload that was refused before it reached a handler.
pub(crate) fn upload_refused(error: &MultipartError) -> actix_web::Error {
    // With what is behind it: the fault of a field says only that there was one.
    let causes = std::iter::successors(Some(error as &dyn std::error::Error), |e| e.source());
    let told = causes
        .map(ToString::to_string)
        .collect::<Vec<_>>()
        .join(": ");
    let too_large = told.contains("overflow") || matches!(error, MultipartError::Payload(_));
    let (status, message) = if told.contains("No space left") {
        // The system's own words (ENOSPC), behind which the library hides its error.
        (
            StatusCode::INSUFFICIENT_STORAGE,
            StoreError::Full.to_string(),
        )
    } else if too_large {
        let limit = limits::FILE_BYTES >> 20;
        (
            StatusCode::PAYLOAD_TOO_LARGE,
            format!("the file is above the limit of {limit} MB; save it with fewer pixels"),
        )
    } else {
        (
            StatusCode::BAD_REQUEST,
            format!("the upload did not arrive whole ({told}); try again"),
        )
    };
    refused(status, "file", &message)
}

/// How forms are read: generously, so that a long stroke comes through.
pub(crate) fn forms() -> FormConfig {
    FormConfig::default()
        .limit(limits::CHANGE_BYTES)
        .error_handler(|e, _| match e {
            UrlencodedError::Overflow { .. } => refused(
                StatusCode::PAYLOAD_TOO_LARGE,
                "notice",
                &format!(
                    "this is above {} MB, the most that one change may hold; make it in parts",
                    limits::CHANGE_BYTES >> 20
                ),
            ),
            other => form_refused(&other),
        })
}

/// A form that could not be read.
pub(crate) fn form_refused(error: &impl std::fmt::Display) -> actix_web::Error {
    refused(
        StatusCode::BAD_REQUEST,
        "notice",
        &format!("this could not be read ({error}); reload the page and try it again"),
    )
}

fn refused(status: StatusCode, target: &str, message: &str) -> actix_web::Error {
    let answer = problem(status, target, message);
    actix_web::error::InternalError::from_response(message.to_owned(), answer).into()
}

#[cfg(test)]
mod tests {
    use actix_web::body::to_bytes;

    use super::*;

    #[actix_web::test]
    async fn a_full_disk_is_told_with_what_to_do_and_other_faults_without_internals() {
        let told = async |error: WebError| {
            let answer = error.error_response();
            let status = answer.status();
            let body = to_bytes(answer.into_body()).await.unwrap_or_default();
            (status, String::from_utf8_lossy(&body).into_owned())
        };
        let (status, words) = told(StoreError::Full.into()).await;
        assert_eq!(status, StatusCode::INSUFFICIENT_STORAGE);
        assert!(words.contains("disk is full") && words.contains("Make room"));
        let (status, words) = told(WebError::Internal("column 7".to_owned())).await;
        assert_eq!(status, StatusCode::INTERNAL_SERVER_ERROR);
        assert!(!words.contains("column 7") && words.contains("nothing was lost"));
    }
}
