//! The door: who may come in where the program is reached from other machines.
//!
//! With a password, every address but the sign-in page and what it is drawn with asks for a cookie that
//! only signing in gives. Without one, the program is for this machine alone and has no door.

mod password;
mod person;
mod routes;
mod tries;

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header;
use actix_web::middleware::Next;
use actix_web::{Error, HttpMessage as _, HttpResponse, web};
use argon2::password_hash::rand_core::{OsRng, RngCore};

pub(crate) use password::Password;
pub use password::PasswordError;
pub(crate) use person::Person;
pub(crate) use routes::routes;
use tries::Tries;

use crate::proxy;

/// The cookie of who signed in.
const COOKIE: &str = "inky";
/// How long a browser stays signed in.
const STAYS: Duration = Duration::from_secs(30 * 24 * 3600);
/// Sessions that are kept; the oldest make room.
const SESSIONS: usize = 1000;
/// The page that asks for the password.
const SIGN_IN: &str = "/sign-in";

/// Somebody who signed in.
#[derive(Debug)]
struct Session {
    since: Instant,
    /// As they call themselves; may be empty.
    name: String,
}

/// The password, and who gave it.
#[derive(Clone, Debug, Default)]
pub(crate) struct Door {
    password: Option<Arc<Password>>,
    sessions: Arc<Mutex<BTreeMap<String, Session>>>,
    tries: Tries,
}

impl Door {
    pub(crate) fn new(password: Option<Password>) -> Self {
        Self {
            password: password.map(Arc::new),
            ..Self::default()
        }
    }

    /// A new session of somebody; what its cookie holds.
    fn sign_in(&self, name: String) -> String {
        let mut random = [0; 32];
        OsRng.fill_bytes(&mut random);
        let token: String = random.iter().map(|b| format!("{b:02x}")).collect();
        let mut sessions = self.sessions.lock().unwrap_or_else(PoisonError::into_inner);
        if sessions.len() >= SESSIONS {
            let oldest = sessions
                .iter()
                .min_by_key(|s| s.1.since)
                .map(|s| s.0.clone());
            oldest.and_then(|token| sessions.remove(&token));
        }
        let since = Instant::now();
        sessions.insert(token.clone(), Session { since, name });
        token
    }

    fn sign_out(&self, token: &str) {
        let mut sessions = self.sessions.lock().unwrap_or_else(PoisonError::into_inner);
        sessions.remove(token);
    }

    /// Whose cookie it is.
    fn whose(&self, token: &str) -> Option<Person> {
        let sessions = self.sessions.lock().unwrap_or_else(PoisonError::into_inner);
        let session = sessions.get(token).filter(|s| s.since.elapsed() < STAYS)?;
        Some(Person::named(&session.name, token))
    }

    /// Who comes in; nobody where the door stays shut.
    fn lets_in(&self, request: &ServiceRequest) -> Option<Person> {
        let known = request.cookie(COOKIE).and_then(|c| self.whose(c.value()));
        let open = request.path() == SIGN_IN || request.path().starts_with("/static/");
        let anybody = || {
            let proxy = proxy::of(request.request());
            let from = proxy.from(request.headers(), request.peer_addr());
            (self.password.is_none() || open).then(|| Person::unnamed(&from.to_string()))
        };
        known.or_else(anybody)
    }
}

/// Lets in who signed in; others are shown where to.
pub(crate) async fn known_only(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let door = request.app_data::<web::Data<Door>>();
    let person = match door {
        Some(door) => door.lets_in(&request),
        None => Some(Person::default()),
    };
    if let Some(person) = person {
        request.extensions_mut().insert(person);
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
