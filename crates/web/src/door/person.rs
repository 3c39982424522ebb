//! Who asks.

use std::future::{Ready, ready};
use std::sync::Arc;

use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpMessage as _, HttpRequest};

/// Who a request comes from.
#[derive(Clone, Debug, Default)]
pub(crate) struct Person {
    /// As given when signing in; empty where nobody signs in, or without a name.
    pub(crate) name: Arc<str>,
    /// What tells people apart whose work is done in turn: the session, or else the address.
    pub(crate) seat: Arc<str>,
    /// Whether they gave the password.
    pub(crate) signed_in: bool,
}

/// Characters of a name that are kept.
const LONGEST: usize = 40;

impl Person {
    /// Whoever comes from an address where there is no door.
    pub(super) fn unnamed(address: &str) -> Self {
        Self {
            seat: address.into(),
            ..Self::default()
        }
    }

    /// Who signed in, with what their cookie holds.
    pub(super) fn named(name: &str, token: &str) -> Self {
        Self {
            name: name.into(),
            seat: token.into(),
            signed_in: true,
        }
    }

    /// A typed name in one line.
    pub(super) fn tidy(typed: &str) -> String {
        let one_line = typed.split_whitespace().collect::<Vec<_>>().join(" ");
        let seen = one_line.chars().filter(|c| !c.is_control());
        seen.take(LONGEST).collect()
    }
}

impl FromRequest for Person {
    type Error = actix_web::Error;
    type Future = Ready<Result<Self, Self::Error>>;

    /// Whom the door let in.
    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let known = request.extensions().get::<Self>().cloned();
        ready(Ok(known.unwrap_or_default()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_one_short_line() {
        assert_eq!(Person::tidy("  Ada \n\t B. "), "Ada B.");
        assert_eq!(Person::tidy("a\u{7}b"), "ab");
        assert_eq!(Person::tidy(&"ä".repeat(100)).chars().count(), LONGEST);
    }
}
