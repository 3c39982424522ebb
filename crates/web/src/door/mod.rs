//! The door: who may come in where the program is reached from other machines.
//!
//! With a password, every address but the sign-in page and what it is drawn with asks for a cookie that
//! only signing in gives. Without one, the program is for this machine alone and has no door.

mod password;
mod routes;
mod tries;

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header;
use actix_web::middleware::Next;
use actix_web::{Error, HttpResponse, web};
use argon2::password_hash::rand_core::{OsRng, RngCore};

pub(crate) use password::Password;
pub use password::PasswordError;
pub(crate) use routes::routes;
use tries::Tries;

/// The cookie of who signed in.
const COOKIE: &str = "inky";
/// How long a browser stays signed in.
const STAYS: Duration = Duration::from_secs(30 * 24 * 3600);
/// Sessions that are kept; the oldest make room.
const SESSIONS: usize = 1000;
/// The page that asks for the password.
const SIGN_IN: &str = "/sign-in";

/// The password, and who gave it.
#[derive(Clone, Debug, Default)]
pub(crate) struct Door {
    password: Option<Arc<Password>>,
    sessions: Arc<Mutex<BTreeMap<String, Instant>>>,
    tries: Tries,
}

impl Door {
    pub(crate) fn new(password: Option<Password>) -> Self {
        Self {
            password: password.map(Arc::new),
            ..Self::default()
        }
    }

    /// A new session; what its cookie holds.
    fn sign_in(&self) -> String {
        let mut random = [0; 32];
        OsRng.fill_bytes(&mut random);
        let token: String = random.iter().map(|b| format!("{b:02x}")).collect();
        let mut sessions = self.sessions.lock().unwrap_or_else(PoisonError::into_inner);
        if sessions.len() >= SESSIONS {
            let oldest = sessions.iter().min_by_key(|s| s.1).map(|s| s.0.clone());
            oldest.and_then(|token| sessions.remove(&token));
        }
        sessions.insert(token.clone(), Instant::now());
        token
    }

    fn sign_out(&self, token: &str) {
        let mut sessions = self.sessions.lock().unwrap_or_else(PoisonError::into_inner);
        sessions.remove(token);
    }

    fn knows(&self, token: &str) -> bool {
        let sessions = self.sessions.lock().unwrap_or_else(PoisonError::into_inner);
        sessions
            .get(token)
            .is_some_and(|since| since.elapsed() < STAYS)
    }

    fn lets_in(&self, request: &ServiceRequest) -> bool {
        let open = request.path() == SIGN_IN || request.path().starts_with("/static/");
        let cookie = || request.cookie(COOKIE);
        self.password.is_none() || open || cookie().is_some_and(|c| self.knows(c.value()))
    }
}

/// Lets in who signed in; others are shown where to.
pub(crate) async fn known_only(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let door = request.app_data::<web::Data<Door>>();
    if door.is_none_or(|door| door.lets_in(&request)) {
        return Ok(next.call(request).await?.map_into_boxed_body());
    }
    let headers = request.headers();
    let accepts = headers.get(header::ACCEPT).and_then(|a| a.to_str().ok());
    let person = accepts.is_some_and(|a| a.contains("text/html"));
    let refusal = if headers.contains_key("HX-Request") {
        // The page is as old as the session: it is left for the one that asks.
        HttpResponse::Unauthorized()
            .insert_header(("HX-Redirect", SIGN_IN))
            .finish()
    } else if person {
        let to = routes::back_to(request.path());
        HttpResponse::SeeOther()
            .insert_header((header::LOCATION, to))
            .finish()
    } else {
        HttpResponse::Unauthorized()
            .content_type("text/plain")
            .body("sign in first")
    };
    Ok(request.into_response(refusal).map_into_boxed_body())
}
