//! Only requests that were meant for this program are answered.
//!
//! A page of another site can have its name lead to this machine ("DNS rebinding") and then read what it
//! likes: to the browser it is the same site. The name that it asked for gives it away, in `Host`
//! (RFC 9110 §7.2). What proxies say of it is for [`proxy`].

use std::net::{IpAddr, SocketAddr};
use std::sync::Arc;

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::middleware::Next;
use actix_web::{Error, HttpResponse, web};

use crate::proxy;

/// The names this program answers to.
#[derive(Clone, Debug)]
pub(crate) struct Hosts {
    bound: IpAddr,
    names: Arc<[String]>,
}

impl Hosts {
    /// Loopback names, the address that is listened on, and `names`.
    pub(crate) fn new(bound: SocketAddr, names: &[String]) -> Self {
        Self {
            bound: bound.ip(),
            names: names.iter().map(|n| n.to_lowercase()).collect(),
        }
    }

    /// Whether an authority, such as `localhost:8137` or `[::1]:8137`, is one of ours.
    fn knows(&self, authority: &str) -> bool {
        let host = match authority.strip_prefix('[') {
            Some(rest) => rest.split(']').next().unwrap_or_default(),
            None => authority.split(':').next().unwrap_or_default(),
        };
        let host = host.trim_end_matches('.').to_lowercase();
        match host.parse::<IpAddr>() {
            // Nobody can have a bare address lead elsewhere.
            Ok(ip) => ip.is_loopback() || ip == self.bound || self.bound.is_unspecified(),
            Err(_) => host == "localhost" || self.names.contains(&host),
        }
    }
}

/// The authority that a request was sent to, as it says itself.
pub(crate) fn asked_for(request: &ServiceRequest) -> Option<&str> {
    let header = proxy::of(request.request()).authority(request.headers());
    header.or_else(|| request.uri().authority().map(|a| a.as_str()))
}

pub(crate) async fn known_only(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let hosts = request.app_data::<web::Data<Hosts>>();
    let known = asked_for(&request).is_some_and(|a| hosts.is_some_and(|h| h.knows(a)));
    if known {
        return Ok(next.call(request).await?.map_into_boxed_body());
    }
    let refusal = HttpResponse::MisdirectedRequest()
        .content_type("text/plain; charset=utf-8")
        .body("this name is not known here; start the program with --host and the name, or open it by its address");
    Ok(request.into_response(refusal).map_into_boxed_body())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn loopback_the_bound_address_and_given_names_are_known_and_nothing_else() {
        let names = ["Shop.local".to_owned()];
        let local = Hosts::new(SocketAddr::from(([127, 0, 0, 1], 8137)), &names);
        for known in [
            "localhost",
            "LOCALHOST:8137",
            "localhost.",
            "127.0.0.1:8137",
            "127.9.9.9",
            "[::1]:8137",
            "shop.local:80",
        ] {
            assert!(local.knows(known), "{known}");
        }
        for other in [
            "",
            "evil.example",
            "localhost.evil.example",
            "127.0.0.1.evil.example",
            "192.168.1.9:8137",
            "[2001:db8::1]",
            "local",
        ] {
            assert!(!local.knows(other), "{other}");
        }
        let everywhere = Hosts::new(SocketAddr::from(([0, 0, 0, 0], 8137)), &[]);
        assert!(everywhere.knows("192.168.1.9:8137"));
        assert!(!everywhere.knows("evil.example"));
        let one = Hosts::new(SocketAddr::from(([192, 168, 1, 9], 8137)), &[]);
        assert!(one.knows("192.168.1.9") && !one.knows("192.168.1.8"));
    }
}
