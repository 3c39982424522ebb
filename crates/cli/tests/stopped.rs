//! Whoever goes away while something is computed stops it, and nothing has become of it.

use std::time::{Duration, Instant};

use crate::support::{Server, new_job, png};
use anyhow::{Context, Result, ensure};
use reqwest::StatusCode;
use tempfile::TempDir;

/// Longest wait until it is stopped.
const PATIENCE: Duration = Duration::from_secs(30);

async fn revision(job: &str) -> Result<String> {
    let page = reqwest::get(job).await?.text().await?;
    let field = page.split("id=\"revision\"").nth(1).context("a revision")?;
    let value = field.split("value=\"").nth(1).context("its value")?;
    Ok(value.split('"').next().unwrap_or_default().to_owned())
}

#[tokio::test]
async fn who_goes_away_stops_what_they_waited_for_and_leaves_the_job_as_it_was() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    // To trace so many rings anew takes many times as long as anybody stays here.
    let ring = |x: f64, y: f64| ((x - 1200.0).hypot(y - 900.0) / 12.0).rem_euclid(2.0) < 1.0;
    let address = new_job(&server, png(2400, 1800, ring)?).await?;
    let job = format!("{}{address}", server.address);
    let before = revision(&job).await?;
    let form = [
        ("revision", before.as_str()),
        ("line", "trace"),
        ("changed", "min_part"),
        ("min_part", "9mm2"),
    ];
    let asked = reqwest::Client::new().post(format!("{job}/choose"));
    let asked = asked.form(&form).timeout(Duration::from_millis(150));
    let gone = asked.send().await;
    ensure!(
        gone.is_err_and(|e| e.is_timeout()),
        "it was answered at once"
    );
    let started = Instant::now();
    while reqwest::get(format!("{job}/underway")).await?.status() != StatusCode::NO_CONTENT {
        ensure!(started.elapsed() < PATIENCE, "it goes on");
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    ensure!(revision(&job).await? == before, "no step was added");
    Ok(())
}
