//! What a request says of itself: the name it was sent to, where it comes from, whether on a safe line.
//!
//! Before the program there may be another server that takes requests in and hands them on ("reverse
//! proxy"). It then says in headers what it saw: `X-Forwarded-Host`, `X-Forwarded-For` and
//! `X-Forwarded-Proto` (common practice, no standard; RFC 7239 names the same things otherwise). Anybody
//! can send these, so they count only where the program was started with `--behind-proxy`. A proxy adds
//! what it saw at the end of what was there, so the last entry is the one to believe.

use std::net::{IpAddr, Ipv4Addr, SocketAddr};

use actix_web::http::header::{self, HeaderMap};
use actix_web::{HttpRequest, web};

/// Whether another server stands before this one.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Proxy(pub(crate) bool);

/// Whether this program itself speaks TLS.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Secure(pub(crate) bool);

/// What was said of proxies at the start.
pub(crate) fn of(request: &HttpRequest) -> Proxy {
    let said = request.app_data::<web::Data<Proxy>>();
    said.map_or_else(Proxy::default, |said| ***said)
}

/// The last entry of a header that lists them.
fn last<'a>(headers: &'a HeaderMap, name: &str) -> Option<&'a str> {
    let value = headers.get_all(name).last()?.to_str().ok()?;
    let entry = value.rsplit(',').next()?.trim();
    (!entry.is_empty()).then_some(entry)
}

impl Proxy {
    fn told<'a>(self, headers: &'a HeaderMap, name: &str) -> Option<&'a str> {
        self.0.then(|| last(headers, name)).flatten()
    }

    /// The authority that a request was sent to, such as `shop.example:8137`.
    pub(crate) fn authority(self, headers: &HeaderMap) -> Option<&str> {
        let own = || headers.get(header::HOST)?.to_str().ok();
        self.told(headers, "x-forwarded-host").or_else(own)
    }

    /// The address a request comes from.
    pub(crate) fn from(self, headers: &HeaderMap, peer: Option<SocketAddr>) -> IpAddr {
        let told = self.told(headers, "x-forwarded-for");
        let ip = told.and_then(|t| t.trim_matches(['[', ']']).parse().ok());
        let peer = || peer.map_or(IpAddr::V4(Ipv4Addr::UNSPECIFIED), |a| a.ip());
        ip.unwrap_or_else(peer)
    }

    /// Whether it was sent to a proxy on an encrypted line.
    pub(crate) fn encrypted(self, headers: &HeaderMap) -> bool {
        self.told(headers, "x-forwarded-proto") == Some("https")
    }
}

#[cfg(test)]
mod tests {
    use actix_web::http::header::{HeaderName, HeaderValue};

    use super::*;

    fn headers(all: &[(&'static str, &'static str)]) -> HeaderMap {
        let mut map = HeaderMap::new();
        for (name, value) in all {
            map.append(
                HeaderName::from_static(name),
                HeaderValue::from_static(value),
            );
        }
        map
    }

    #[test]
    fn what_a_proxy_says_counts_only_behind_one_and_only_its_own_entry() {
        let sent = headers(&[
            ("host", "localhost:8137"),
            ("x-forwarded-host", "evil.example"),
            ("x-forwarded-host", "shop.example"),
            ("x-forwarded-for", "10.0.0.1, 192.168.7.7"),
            ("x-forwarded-proto", "https"),
        ]);
        let peer = Some(SocketAddr::from(([127, 0, 0, 1], 5)));
        let (bare, behind) = (Proxy(false), Proxy(true));
        assert_eq!(bare.authority(&sent), Some("localhost:8137"));
        assert_eq!(behind.authority(&sent), Some("shop.example"));
        assert_eq!(bare.from(&sent, peer), IpAddr::from([127, 0, 0, 1]));
        assert_eq!(behind.from(&sent, peer), IpAddr::from([192, 168, 7, 7]));
        assert!(behind.encrypted(&sent) && !bare.encrypted(&sent));
        // Nonsense is not believed, and what says nothing is as without a proxy.
        let odd = headers(&[("x-forwarded-for", "nobody"), ("host", "h")]);
        assert_eq!(behind.from(&odd, peer), IpAddr::from([127, 0, 0, 1]));
        assert_eq!(behind.authority(&odd), Some("h"));
        assert!(!behind.encrypted(&odd));
    }
}
