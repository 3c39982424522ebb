//! The pages of Inky Outline.
//!
//! ```text
//!   request ─► <page>/…/asked.rs: parse ─► workshop (pool of threads, stages kept) ─► core
//!                 │                     └► store (SQLite)
//!                 └─► <page>/…/shown.rs: figures to words ─► templates/<page>/…
//! ```
//!
//! A page has a folder, and so has each line of the job's ticket; within one, `asked` is what its controls
//! send, `routes` the handlers, `shown` what its templates say. A handler parses, calls the core or the
//! store, and renders. Tracing runs in the [`workshop`], never on the server's own threads.

mod assets;
mod backups;
mod door;
mod error;
mod form;
mod guide;
mod hosts;
mod job;
mod jobs;
mod logged;
mod lost;
mod machines;
mod materials;
mod origin;
mod proxy;
mod reader;
mod refusal;
#[cfg(test)]
mod requests;
mod routes;
mod samples;
mod text;
mod tls;
mod typed;
mod word;
mod workshop;

use std::net::{SocketAddr, TcpListener};
use std::path::{Path, PathBuf};

use actix_multipart::form::MultipartFormConfig;
use actix_multipart::form::tempfile::TempFileConfig;
use actix_web::middleware::{Compress, DefaultHeaders, from_fn};
use actix_web::{App, HttpServer, web};
use inky_core::limits;
use inky_store::{Store, StoreError};
use tracing_actix_web::TracingLogger;

pub use crate::door::PasswordError;
pub use crate::machines::KnownMachine;
pub use crate::tls::TlsError;

use crate::backups::Backups;
use crate::door::{Door, Password};
use crate::hosts::Hosts;
use crate::job::sheet::nesting::Searches;
use crate::machines::{Simulated, UnderWay};
use crate::proxy::{Proxy, Secure};
use crate::workshop::Workshop;

/// Why the server did not start.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum StartError {
    /// The store cannot be opened.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The materials that ship could not be put into the store.
    #[error("the list of materials cannot be filled: {0}")]
    Materials(String),
    /// The machines that ship could not be put into the store, or what they were at is not known.
    #[error("the list of machines cannot be read: {0}")]
    Machines(String),
    /// The address cannot be listened on.
    #[error("cannot listen on {0}: {1}; is another copy running? Choose another with --addr")]
    Listen(SocketAddr, std::io::Error),
    /// Other machines could come in.
    #[error(
        "{0} can be reached from other machines, and nothing keeps them out; name a password with --password-file, or listen on 127.0.0.1"
    )]
    NoPassword(SocketAddr),
    /// Other machines could come in through the server before this one.
    #[error(
        "the server before this one lets other machines in, and nothing keeps them out; name a password with --password-file"
    )]
    NoPasswordBehindProxy,
    /// The password cannot be used.
    #[error(transparent)]
    Password(#[from] PasswordError),
    /// The certificate cannot be used.
    #[error(transparent)]
    Tls(#[from] TlsError),
    /// The data folder cannot be used.
    #[error(
        "the data folder {0} cannot be used: {1}; make it writable, or name another with --data"
    )]
    Folder(PathBuf, std::io::Error),
}

/// A server that listens but does not answer yet.
pub struct Server {
    addr: SocketAddr,
    server: actix_web::dev::Server,
}

/// What every handler can reach.
#[derive(Clone)]
struct Shop {
    store: Store,
    workshop: Workshop,
    searches: Searches,
    backups: Backups,
    simulated: Simulated,
    under_way: UnderWay,
}

/// Room for several files at once, and the form around them.
const UPLOAD_BYTES: usize = 4 * limits::FILE_BYTES;
/// Threads that answer requests; the computing is done elsewhere.
const ANSWERING: usize = 2;
/// Nothing is loaded from anywhere but here.
const POLICY: &str = "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; \
                      frame-ancestors 'none'; base-uri 'none'; form-action 'self'";

/// How the application is served.
#[derive(Clone, Copy, Debug)]
pub struct Serving<'a> {
    /// Address to listen on; port 0 takes a free one.
    pub addr: SocketAddr,
    /// Folder of the store.
    pub data: &'a Path,
    /// Whether a store without jobs is filled with the demo jobs.
    pub demo: bool,
    /// Names it answers to beside `localhost` and the address.
    pub hosts: &'a [String],
    /// A file with the password that is asked for; without one only this machine may come in.
    pub password: Option<&'a Path>,
    /// Files of a certificate and its key, both PEM: then it speaks TLS.
    pub tls: Option<(&'a Path, &'a Path)>,
    /// Whether another server stands before it, whose headers are believed.
    pub behind_proxy: bool,
}

/// Opens the store, fills it with the demo jobs on wish and where it is empty, and listens.
///
/// # Errors
/// [`StartError`] says which of these failed.
pub async fn start(serving: Serving<'_>) -> Result<Server, StartError> {
    let Serving {
        addr,
        data,
        demo,
        hosts,
        password,
        tls,
        behind_proxy,
    } = serving;
    let tls = tls.map(|(certificate, key)| tls::config(certificate, key));
    let tls = tls.transpose()?;
    let password = password.map(Password::of_file).transpose()?;
    if password.is_none() && !addr.ip().is_loopback() {
        return Err(StartError::NoPassword(addr));
    }
    if password.is_none() && behind_proxy {
        return Err(StartError::NoPasswordBehindProxy);
    }
    let door = Door::new(password);
    let store = Store::open(data)?;
    let first = demo && store.count_jobs()? == 0;
    if first {
        samples::fill(&store)?;
    }
    materials::stocked::fill(&store)
        .and_then(|()| match first {
            true => materials::offcut::sample::fill(&store),
            false => Ok(()),
        })
        .map_err(|e| StartError::Materials(e.to_string()))?;
    machines::fill(&store)
        .and_then(|()| machines::interrupted(&store))
        .map_err(|e| StartError::Machines(e.to_string()))?;
    // What a crash left of pictures on their way in; nobody else has this folder open.
    let uploads = data.join("uploads");
    let _ = std::fs::remove_dir_all(&uploads);
    std::fs::create_dir_all(&uploads).map_err(|e| StartError::Folder(uploads.clone(), e))?;
    let listener = TcpListener::bind(addr).map_err(|e| StartError::Listen(addr, e))?;
    let addr = listener
        .local_addr()
        .map_err(|e| StartError::Listen(addr, e))?;
    let shop = Shop {
        workshop: Workshop::new(store.clone()),
        searches: Searches::default(),
        backups: Backups::default(),
        simulated: Simulated::default(),
        under_way: UnderWay::default(),
        store,
    };
    shop.backups.look_after(shop.store.clone(), data.to_owned());
    let hosts = Hosts::new(addr, hosts);
    let (proxy, secure) = (Proxy(behind_proxy), Secure(tls.is_some()));
    let server = HttpServer::new(move || {
        App::new()
            .app_data(web::Data::new(shop.clone()))
            .app_data(web::Data::new(hosts.clone()))
            .app_data(web::Data::new(door.clone()))
            .app_data(web::Data::new(proxy))
            .app_data(web::Data::new(secure))
            .app_data(TempFileConfig::default().directory(&uploads))
            .app_data(
                MultipartFormConfig::default()
                    .total_limit(UPLOAD_BYTES)
                    .error_handler(|e, _| error::upload_refused(&e)),
            )
            .app_data(error::forms())
            .app_data(web::QueryConfig::default().error_handler(|e, _| error::form_refused(&e)))
            .wrap(from_fn(refusal::in_the_readers_unit))
            .wrap(from_fn(lost::in_our_page))
            .wrap(from_fn(door::known_only))
            .wrap(from_fn(origin::same_origin_only))
            .wrap(from_fn(hosts::known_only))
            .wrap(
                DefaultHeaders::new()
                    .add(("Content-Security-Policy", POLICY))
                    .add(("X-Content-Type-Options", "nosniff")),
            )
            .wrap(Compress::default())
            .wrap(TracingLogger::<logged::Line>::new())
            .configure(routes::routes)
    })
    .workers(ANSWERING)
    // A packed answer is sent in several parts; each would wait for the one before it to be seen.
    .tcp_nodelay(true)
    .shutdown_timeout(5)
    // Who closes the connection no longer waits: what is read for them stops.
    .h1_allow_half_closed(false);
    let server = match tls {
        Some(tls) => server.listen_rustls_0_23(listener, tls),
        None => server.listen(listener),
    };
    let server = server.map_err(|e| StartError::Listen(addr, e))?.run();
    Ok(Server { addr, server })
}

impl Server {
    /// The address it listens on.
    #[must_use]
    pub fn addr(&self) -> SocketAddr {
        self.addr
    }

    /// Answers requests until the program is asked to stop.
    ///
    /// # Errors
    /// When listening fails.
    pub async fn run(self) -> std::io::Result<()> {
        self.server.await
    }
}
