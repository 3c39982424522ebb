//! Jobs found, brought in and kept from other windows, in headless Chromium.

use crate::chrome::{bring_in, with};
use crate::support::{png, ring_and_bar};
use anyhow::{Context, Result, ensure};
use thirtyfour::prelude::*;

#[test]
fn jobs_are_found_named_copied_deleted_and_brought_back() -> Result<()> {
    with("demo", async |b, server, _| {
        let count = |n: usize| format!("return document.querySelectorAll('.card').length === {n}");
        b.until("seven demo jobs are listed", &count(7)).await?;
        b.find("#q").await?.send_keys("boatyard sticker").await?;
        b.until("one is found", &count(1)).await?;
        b.until_text(".card h2", "Lantern sticker").await?;
        b.retype("#q", "nothing like this").await?;
        b.until_text("#job-list", "No job has all of").await?;
        b.go(&server.address).await?;
        b.until("all are listed again", &count(7)).await?;
        b.find("#job-5 button[hx-post$=duplicate]")
            .await?
            .click()
            .await?;
        b.until("a copy is there", &count(8)).await?;
        b.until_text("#job-8 h2", "Teapot emblem (copy)").await?;
        b.find("#job-8 button[hx-post$=delete]")
            .await?
            .click()
            .await?;
        b.until("it is gone", &count(7)).await?;
        b.until_text("#problem-notice", "was deleted").await?;
        b.find("#problem-notice button").await?.click().await?;
        b.until("it is back", &count(8)).await?;
        // Named on its ticket.
        b.find("#job-8 a.plain").await?.click().await?;
        b.find("#d-client").await?;
        b.retype("#d-client", "Harbour Café").await?;
        b.find("#d-client").await?.send_keys(Key::Tab).await?;
        b.until_text("#title p", "Harbour Café").await?;
        b.go(&format!("{}/?q=harbour", server.address)).await?;
        b.until("it is found by its client", &count(1)).await?;
        Ok(())
    })
}

#[test]
fn a_file_that_is_no_picture_is_refused_beside_the_control() -> Result<()> {
    with("serve", async |b, _, data| {
        bring_in(b, data, "letter.png", b"this is a letter").await?;
        b.until_text("#problem-file", "not a picture file known here")
            .await?;
        bring_in(b, data, "cut.jpg", &inky_demo::SAMPLES[4].file()[..3000]).await?;
        b.until_text("#problem-file", "ends in the middle").await?;
        // The page still works: the next picture goes in.
        bring_in(b, data, "white.png", &png(40, 40, |_, _| false)?).await?;
        b.until_text("#problem-notice", "Nothing to trace").await?;
        b.until_text("#summary-trace", "0 shapes").await?;
        // Pasting works as choosing does.
        let paste = "const bytes = Uint8Array.from(atob(arguments[0]), (c) => c.charCodeAt(0)); \
            const data = new DataTransfer(); data.items.add(new File([bytes], 'pasted.png', { type: 'image/png' })); \
            document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }))";
        b.find(".mark").await?.click().await?;
        b.find("#drop").await?;
        b.until("scripts are there", "return typeof htmx === 'object'")
            .await?;
        b.page
            .execute(paste, vec![base64(&ring_and_bar()?).into()])
            .await?;
        b.until_text("#summary-trace", "2 shapes").await?;
        Ok(())
    })
}

#[test]
fn a_second_window_does_not_overwrite_the_first() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}/jobs/5/trace", server.address);
        b.go(&address).await?;
        b.until_drawn().await?;
        // Another window changes the job.
        let other = reqwest::Client::new()
            .post(format!("{}/jobs/5/choose", server.address))
            .form(&[
                ("revision", "0"),
                ("line", "trace"),
                ("changed", "edges"),
                ("edges", "solid"),
            ])
            .send()
            .await?;
        ensure!(other.status() == 200, "{}", other.status());
        b.find("input[value=outer] + span").await?.click().await?;
        b.until_text("#problem-notice", "changed in another window")
            .await?;
        b.go(&address).await?;
        b.until(
            "the other window's choice stands",
            "return document.querySelector('input[value=solid]').checked",
        )
        .await?;
        Ok(())
    })
}

#[test]
fn reload_and_back_keep_the_place() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/5", server.address)).await?;
        b.find("#line-size").await?.click().await?;
        b.find("#f-width").await?;
        b.find("canvas").await?.send_keys("3").await?;
        b.until_text("#why", "flat colours").await?;
        ensure!(b.page.current_url().await?.path() == "/jobs/5/inks");
        b.page.back().await?;
        b.find("#f-width").await.context("Back opens Size again")?;
        b.page.refresh().await?;
        b.find("#f-width").await.context("reload keeps Size open")?;
        b.until_drawn().await?;
        Ok(())
    })
}

/// Base64 of RFC 4648 §4, for handing bytes to a script.
fn base64(bytes: &[u8]) -> String {
    const LETTERS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    bytes
        .chunks(3)
        .flat_map(|chunk| {
            let word =
                chunk.iter().fold(0u32, |w, &b| w << 8 | u32::from(b)) << (8 * (3 - chunk.len()));
            (0..4).map(move |i| {
                if i > chunk.len() {
                    '='
                } else {
                    char::from(LETTERS[(word >> (18 - 6 * i) & 63) as usize])
                }
            })
        })
        .collect()
}
