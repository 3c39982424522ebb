//! `inky serve` and `inky demo`: the web application until it is asked to stop.

use std::io::Write as _;
use std::net::{IpAddr, Ipv4Addr, SocketAddr, UdpSocket};

use tracing_subscriber::EnvFilter;
use tracing_subscriber::fmt::format::FmtSpan;

use crate::args::ServeArgs;

/// Why the server did not run.
#[derive(Debug, thiserror::Error)]
pub(crate) enum ServeFailed {
    #[error(transparent)]
    Web(#[from] inky_web::StartError),
    #[error("the server ended early: {0}")]
    Io(#[from] std::io::Error),
}

pub(crate) fn run(args: &ServeArgs, demo: bool) -> Result<(), ServeFailed> {
    let filter = EnvFilter::try_from_default_env().unwrap_or_else(|_| EnvFilter::new("info"));
    let logs = tracing_subscriber::fmt()
        .with_span_events(FmtSpan::CLOSE)
        .with_env_filter(filter)
        .with_writer(std::io::stderr);
    if args.log_json {
        logs.json().init();
    } else {
        logs.init();
    }
    let tls = match args.tls.as_deref() {
        Some([certificate, key]) => Some((certificate.as_path(), key.as_path())),
        _ => None,
    };
    let scheme = if tls.is_some() { "https" } else { "http" };
    let serving = inky_web::Serving {
        addr: args.addr,
        data: &args.data,
        demo,
        hosts: &args.hosts,
        password: args.password_file.as_deref(),
        tls,
        behind_proxy: args.behind_proxy,
    };
    actix_web::rt::System::new().block_on(async {
        let server = inky_web::start(serving).await?;
        writeln!(
            std::io::stdout(),
            "Inky Outline is at {scheme}://{}/",
            reachable(server.addr())
        )?;
        server.run().await?;
        Ok(())
    })
}

/// An address that works: of one that stands for all of this machine's, the one it has on its network,
/// or else the one it calls itself by.
fn reachable(listening: SocketAddr) -> SocketAddr {
    if !listening.ip().is_unspecified() {
        return listening;
    }
    // Nothing is sent: the system only says which of its addresses it would send from. The other end is
    // one of those kept for documentation (RFC 5737).
    let own = UdpSocket::bind("0.0.0.0:0").and_then(|socket| {
        socket.connect("192.0.2.1:9")?;
        socket.local_addr()
    });
    let ip = own.map_or(IpAddr::V4(Ipv4Addr::LOCALHOST), |own| own.ip());
    SocketAddr::new(ip, listening.port())
}
