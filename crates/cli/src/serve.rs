//! `inky serve` and `inky demo`: the web application until it is asked to stop.

use std::io::Write as _;

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
    let serving = inky_web::Serving {
        addr: args.addr,
        data: &args.data,
        demo,
        hosts: &args.hosts,
    };
    actix_web::rt::System::new().block_on(async {
        let server = inky_web::start(serving).await?;
        writeln!(
            std::io::stdout(),
            "Inky Outline is at http://{}/",
            server.addr()
        )?;
        server.run().await?;
        Ok(())
    })
}
