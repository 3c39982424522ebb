//! Presses and strokes that come at a bad moment are not lost, in headless Chromium.

use anyhow::{Result, ensure};
use thirtyfour::prelude::*;

use crate::chrome::{Browser, with};

const TEAPOT: &str = "/jobs/5";
const KNOB: (f64, f64) = (70.8, 14.0);

/// Cuts the page off from the program, or lets it reach it again.
async fn offline(b: &Browser, cut: bool) -> Result<()> {
    let how = serde_json::json!({ "offline": cut, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1 });
    let cdp = b.page.cdp();
    cdp.send_raw("Network.enable", serde_json::json!({}))
        .await?;
    cdp.send_raw("Network.emulateNetworkConditions", how)
        .await?;
    Ok(())
}

#[test]
fn enter_keeps_what_was_typed_and_the_page() -> Result<()> {
    with("demo", async |b, server, _| {
        for (line, css, typed) in [
            ("inks", ".ink-name", "Sail cloth"),
            ("trace", "#f-tolerance", "0.2"),
        ] {
            let address = format!("{}{TEAPOT}/{line}", server.address);
            b.go(&address).await?;
            b.until_drawn().await?;
            let step = b.find("#undo").await?.attr("title").await?;
            b.retype(css, typed).await?;
            b.find(css).await?.send_keys(Key::Enter).await?;
            let other = format!(
                "return (document.querySelector('#undo').getAttribute('title') ?? '') !== {:?}",
                step.unwrap_or_default()
            );
            b.until("it is a step", &other).await?;
            ensure!(b.value(css).await? == typed, "{css}");
            ensure!(b.page.current_url().await?.as_str() == address, "{css}");
        }
        Ok(())
    })
}

#[test]
fn undo_pressed_while_a_change_is_under_way_takes_it_back() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/clean", server.address)).await?;
        b.until_drawn().await?;
        let mirrored_and_back = "document.querySelector('[data-take*=flip]').click(); \
            document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'z', ctrlKey: true, bubbles: true }));";
        b.page.execute(mirrored_and_back, vec![]).await?;
        b.until(
            "it was done and taken back",
            "return document.querySelector('#redo').title === 'Redo: Mirrored left to right'",
        )
        .await?;
        b.until_drawn().await
    })
}

#[test]
fn what_is_typed_while_the_program_is_away_is_sent_when_it_is_back() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/trace", server.address)).await?;
        b.until_drawn().await?;
        offline(b, true).await?;
        b.enter("#f-tolerance", "0.2").await?;
        b.until_text("#problem-notice", "does not answer").await?;
        ensure!(b.value("#f-tolerance").await? == "0.2");
        offline(b, false).await?;
        b.until_undo("Follow within 0.200 mm").await?;
        ensure!(b.value("#f-tolerance").await?.starts_with("0.2"));
        b.until_text("#problem-notice", "").await
    })
}

#[test]
fn a_stroke_that_is_refused_stays_and_is_sent_again() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/clean", server.address)).await?;
        b.until_drawn().await?;
        // Another window is faster.
        let revision: i64 = b.value("#revision").await?.parse()?;
        let form = [
            ("revision", revision.to_string()),
            ("title", "Teapot decal".to_owned()),
        ];
        let other = reqwest::Client::new()
            .post(format!("{}{TEAPOT}/details", server.address))
            .form(&form)
            .send()
            .await?;
        ensure!(other.status().is_success(), "{}", other.status());
        b.click("[data-tool=erase]").await?;
        b.retype("#brush-size", "14").await?;
        let (x, y) = KNOB;
        b.drag(&[(x - 1.0, y), (x, y), (x + 1.0, y)]).await?;
        b.until_text("#problem-notice", "changed in another window")
            .await?;
        b.until_text("#not-taken", "stays on the bench").await?;
        // The page is loaded anew, as it says; the stroke comes with it.
        b.page.refresh().await?;
        b.until_drawn().await?;
        b.until_text("#title h1", "Teapot decal").await?;
        b.until_text("#not-taken", "stays on the bench").await?;
        b.click("[data-again]").await?;
        b.until_undo("Erased").await?;
        b.until_text("#summary-trace", "4 shapes").await?;
        // Nor is one that never reached the program.
        offline(b, true).await?;
        b.drag(&[(20.0, 90.0), (21.0, 90.0), (22.0, 90.0)]).await?;
        b.until_text("#not-taken", "stays on the bench").await?;
        b.until_text("#problem-notice", "does not answer").await?;
        offline(b, false).await?;
        b.click("[data-again]").await?;
        b.until_text("#summary-clean", "2 steps").await?;
        b.until(
            "nothing is said of it any more",
            "return document.getElementById('not-taken').hidden",
        )
        .await
    })
}
