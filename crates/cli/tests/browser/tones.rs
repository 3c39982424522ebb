//! A portrait as tones of card, its subject cut out, and as rows, in headless Chromium.

use std::io::Cursor;

use crate::chrome::{Browser, bring_in, with};
use crate::settled::{open, settled, step};
use anyhow::{Result, ensure};
use inky_demo::{PHOTOGRAPHS, Photograph};
use thirtyfour::prelude::*;

const PORTRAIT: &Photograph = &PHOTOGRAPHS[1];

/// The words that explain the inks.
const WHY: &str = "#why";

/// Levels as the fields hold them, percent.
async fn levels(b: &Browser) -> Result<Vec<f64>> {
    let script = "return [...document.querySelectorAll('[name^=level]:not([name=levels])')].map((f) => Number(f.value))";
    Ok(b.page.execute(script, vec![]).await?.convert()?)
}

#[test]
fn a_dropped_portrait_becomes_tones_of_card_and_their_files() -> Result<()> {
    with("serve", async |b, server, folder| {
        b.go(&server.address).await?;
        b.enter("[name=arrive_width]", "150").await?;
        bring_in(b, folder, PORTRAIT.file_name, &PORTRAIT.file()).await?;
        b.find("#summary-send").await?;
        b.until_drawn().await?;
        b.click("#line-inks").await?;
        b.click("[name=mode][value=tones]").await?;
        step(b, "4 tones").await?;
        b.until_text("#summary-inks", "4 kept").await?;
        b.until_text("#summary-layers", "stacked").await?;
        b.until_text(WHY, "of the picture lies in its own tone")
            .await?;
        // A level is dragged on the histogram.
        let before = levels(b).await?;
        ensure!(before.len() == 3 && before.is_sorted(), "{before:?}");
        let tones = b.find("#tones").await?;
        b.page
            .action_chain()
            .move_to_element_center(&tones)
            .click_and_hold()
            .move_by_offset(30, 0)
            .release()
            .perform()
            .await?;
        b.until(
            "a level was moved",
            "return document.querySelector('#undo').title.startsWith('Undo: Levels at ')",
        )
        .await?;
        settled(b).await?;
        let after = levels(b).await?;
        let moved = before
            .iter()
            .zip(&after)
            .filter(|(a, b)| (**a - **b).abs() > 1.5);
        ensure!(moved.count() == 1, "{before:?} {after:?}");
        // By keys: a slider of its own, a step for each press.
        settled(b).await?;
        b.find("#r-level1").await?.send_keys(Key::Right).await?;
        b.until(
            "the darkest tone takes more",
            &format!(
                "return Number(document.querySelector('#f-level1').value) === {}",
                after[0].round() + 1.0
            ),
        )
        .await?;
        b.click("[name=levels][value=equal]").await?;
        step(b, "Tones of equal area").await?;
        b.until_text(WHY, "of equal area").await?;
        b.click("[name=levels][value=found]").await?;
        step(b, "Levels found").await?;
        b.retype("#f-even", "60").await?;
        b.find("#f-even").await?.send_keys(Key::Tab).await?;
        step(b, "Contrast evened out by 60 %").await?;
        b.retype("#f-tones", "9").await?;
        b.find("#f-tones").await?.send_keys(Key::Tab).await?;
        b.until_text("#problem-tones", "outside 2 to 6").await?;
        b.retype("#f-tones", "3").await?;
        b.find("#f-tones").await?.send_keys(Key::Tab).await?;
        step(b, "3 tones").await?;
        b.click("#line-layers").await?;
        b.choose("#material", "Card 240 g").await?;
        step(b, "Card 240 g").await?;
        b.until_text("#summary-layers", "stacked").await?;
        // What the card does not allow is not there.
        b.click("#line-size").await?;
        b.until(
            "it was checked",
            "return /fit to cut|check/.test(document.querySelector('#summary-size').textContent)",
        )
        .await?;
        settled(b).await?;
        let found =
            "return [...document.querySelectorAll('[data-kind]')].map((f) => f.dataset.kind)";
        let kinds: Vec<String> = b.page.execute(found, vec![]).await?.convert()?;
        for kind in ["thin", "gap", "small-part", "small-hole"] {
            ensure!(!kinds.iter().any(|k| k == kind), "{kinds:?}");
        }
        b.click("#machine-file").await?;
        let (_, bytes) = b.download().await?;
        let zip = zip::ZipArchive::new(Cursor::new(bytes))?;
        ensure!(zip.len() >= 3, "{} files", zip.len());
        Ok(())
    })
}

#[test]
fn a_subject_is_cut_out_mended_and_becomes_a_silhouette_rows_and_dots() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}/jobs/7/clean", server.address)).await?;
        b.click("#tab-regions").await?;
        b.click("[data-take*=subject]").await?;
        step(b, "Subject cut out").await?;
        b.until_drawn().await?;
        // The ear is said to be ground, by a stroke.
        b.click("[data-tool=ground]").await?;
        b.drag(&[(36.0, 82.0), (38.0, 92.0)]).await?;
        step(b, "Subject cut out by 1 stroke").await?;
        b.until_drawn().await?;
        b.click("#undo").await?;
        b.until_undo("Subject cut out").await?;
        b.until_drawn().await?;
        b.click("#line-inks").await?;
        b.click("[name=mode][value=silhouette]").await?;
        step(b, "Silhouette").await?;
        b.until_text("#summary-trace", "1 shape").await?;
        b.click("[name=mode][value=dots]").await?;
        step(b, "Drawn in dots").await?;
        b.click("[name=mode][value=rows]").await?;
        step(b, "Drawn in rows").await?;
        b.until_text(WHY, "Rows as wide as the picture is dark")
            .await?;
        b.retype("#f-pitch", "5mm").await?;
        b.find("#f-pitch").await?.send_keys(Key::Tab).await?;
        b.until(
            "the rows are as far apart",
            "return document.querySelector('#f-pitch').value.startsWith('5')",
        )
        .await?;
        Ok(())
    })
}
