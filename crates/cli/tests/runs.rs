//! Runs over a real connection while the server is killed.

use std::time::{Duration, Instant};

use crate::machines::Machine;
use crate::support::{Server, new_job, png};
use anyhow::{Context, Result, ensure};
use reqwest::StatusCode;
use tempfile::TempDir;

/// 36 squares of 20 px.
fn squares() -> Result<Vec<u8>> {
    png(400, 400, |x, y| {
        let inside = |v: f64| (v / 60.0).fract() > 1.0 / 3.0 && v < 360.0;
        inside(x) && inside(y)
    })
}

async fn posted(server: &Server, path: &str, form: &[(&str, &str)]) -> Result<()> {
    let address = format!("{}{path}", server.address.trim_end_matches('/'));
    let answer = reqwest::Client::new()
        .post(address)
        .form(form)
        .send()
        .await?;
    let status = answer.status();
    ensure!(
        status.is_success(),
        "{path}: {status} {}",
        answer.text().await?
    );
    Ok(())
}

async fn bench(server: &Server) -> Result<String> {
    let address = format!("{}/machines/4", server.address.trim_end_matches('/'));
    Ok(reqwest::get(address).await?.text().await?)
}

/// Paths that the page says are done.
fn done(page: &str) -> Option<usize> {
    let (before, _) = page.split_once(" of 36 paths")?;
    before
        .rsplit(|c: char| !c.is_ascii_digit())
        .next()?
        .parse()
        .ok()
}

async fn until(server: &Server, what: &str, holds: impl Fn(&str) -> bool) -> Result<String> {
    let began = Instant::now();
    loop {
        let page = bench(server).await?;
        if holds(&page) {
            return Ok(page);
        }
        ensure!(began.elapsed() < Duration::from_secs(30), "{what}: {page}");
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

#[tokio::test]
async fn a_run_survives_kill_9_of_the_server_and_nothing_is_lost_or_cut_twice() -> Result<()> {
    let (data, folder) = (TempDir::new()?, TempDir::new()?);
    let picture = folder.path().join("really.svg");
    let out = picture.to_str().context("a path")?;
    let machine = Machine::start("cutter", &["--pace", "4", "--out", out])?;
    let server = Server::start("serve", data.path())?;
    let job = new_job(&server, squares()?).await?;
    let job = job.trim_start_matches(server.address.trim_end_matches('/'));
    let (new, send) = (
        "/machines/new",
        format!("{}/machine", job.trim_end_matches('/')),
    );
    let figures = [("first", "25000"), ("second", "700"), ("speed", "800")];
    let mut form = vec![
        ("name", "By the window"),
        ("kind", "cutter"),
        ("address", machine.address.as_str()),
    ];
    form.extend(figures);
    posted(&server, new, &form).await?;
    posted(&server, &send, &[("machine", "4")]).await?;
    posted(&server, "/runs/1/go", &[]).await?;
    until(&server, "some are done", |page| {
        done(page).is_some_and(|n| n >= 5)
    })
    .await?;
    server.kill()?;

    let server = Server::start("serve", data.path())?;
    let page = bench(&server).await?;
    ensure!(
        page.contains("the program was ended while it ran"),
        "{page}"
    );
    let certain = done(&page).context("how many are done")?;
    ensure!((1..36).contains(&certain), "{certain}");
    posted(&server, "/runs/1/go", &[]).await?;
    until(&server, "it is finished", |page| {
        page.contains("Nothing waits for it")
    })
    .await?;
    let log = reqwest::get(format!(
        "{}/runs/1/log",
        server.address.trim_end_matches('/')
    ))
    .await?;
    ensure!(log.status() == StatusCode::OK);
    let said = log.text().await?;
    ensure!(said.contains("the program was ended"), "{said}");
    ensure!(server.stop()? == Some(0));
    // What the machine really did: every square once.
    let began = Instant::now();
    loop {
        // It may be being written.
        let svg = std::fs::read_to_string(&picture).unwrap_or_default();
        let lines = svg.matches("<path").count();
        if lines == 36 {
            break;
        }
        ensure!(
            began.elapsed() < Duration::from_secs(20),
            "{lines} strokes after {said}"
        );
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    Ok(())
}
