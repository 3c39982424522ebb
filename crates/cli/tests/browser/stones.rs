//! Stones set in a shape of the teapot in headless Chromium: counted, priced, one taken out, the template cut.

use std::str::FromStr;

use anyhow::{Context, Result, ensure};
use thirtyfour::Key;

use crate::chrome::{Browser, with};
use crate::machines::{by_hand, pace};
use crate::settled::{open, settled, step};

const TEAPOT: &str = "/jobs/5";
/// A place in its lid, mm.
const LID: (f64, f64) = (70.0, 29.0);

/// The columns of a row of the list.
async fn row(b: &Browser, of: &str) -> Result<Vec<String>> {
    let script = format!(
        "return [...document.querySelector('.stones {of}').cells].map((c) => c.querySelector('input')?.value ?? c.textContent)"
    );
    Ok(b.page.execute(&script, vec![]).await?.convert()?)
}

fn number<T: FromStr>(cell: Option<&String>) -> Result<T> {
    cell.and_then(|c| c.parse().ok()).context("a number")
}

#[test]
fn a_lid_is_filled_with_two_sizes_of_stones_and_its_template_cut() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}/layers", server.address)).await?;
        b.click("#tab-stones").await?;
        // Nothing is picked: that is said.
        b.click("[data-stones]").await?;
        b.until_text("#problem-layers", "Click shapes on the bench first")
            .await?;
        b.until(
            "the pieces can be picked",
            "return document.querySelector('.layers').dataset.items === document.getElementById('bench').dataset.key",
        )
        .await?;
        b.point(LID).await?;
        b.until_text("#stones-picked", "1 piece is picked").await?;
        b.enter("#stone-size", "SS12").await?;
        b.enter("#stone-second", "SS60").await?;
        b.click("[data-stones]").await?;
        b.until_text("#problem-stones", "SS60").await?;
        b.enter("#stone-second", "1.8mm").await?;
        b.click("[data-stones]").await?;
        step(b, "Stones SS12").await?;
        settled(b).await?;
        let (large, small, all) = (
            row(b, "tbody tr").await?,
            row(b, "tbody tr:last-child").await?,
            row(b, "tfoot tr").await?,
        );
        ensure!(
            large[0] == "SS12" && small[0] == "1.8 mm",
            "{large:?} {small:?}"
        );
        let [large, small, all] = [&large, &small, &all].map(|cells| number::<u32>(cells.get(2)));
        let (large, small, all) = (large?, small?, all?);
        ensure!(
            large > 10 && small > 0 && large + small == all,
            "{large} + {small}"
        );
        b.until_text("#rail", "Stones").await?;
        // Usual gaps leave enough of the template between the holes.
        b.until(
            "nothing is found on them",
            "return !document.body.textContent.includes('Little left between holes')",
        )
        .await?;
        b.enter("[aria-label='Price of a hundred SS12']", "4.50")
            .await?;
        step(b, "Price of stones").await?;
        let cost: f64 = number(row(b, "tbody tr").await?.get(4))?;
        ensure!(
            (cost - 4.5 * f64::from(large) / 100.0).abs() < 0.006,
            "{cost} for {large}"
        );
        // The chart, and a job without stones has none.
        let chart = |job: &str| format!("{}{job}/file?format=pdf&paper=chart", server.address);
        let paper = reqwest::get(chart(TEAPOT)).await?;
        ensure!(paper.bytes().await?.starts_with(b"%PDF-"));
        ensure!(!reqwest::get(chart("/jobs/2")).await?.status().is_success());

        // A single one is taken out under Tidy.
        let first = format!(
            "return fetch(`{TEAPOT}/results/${{document.getElementById('bench').dataset.key}}/items.json`).then((a) => a.json()).then((d) => d.items.at(-1).bounds)"
        );
        let found: Vec<f64> = b.page.execute(&first, vec![]).await?.convert()?;
        let middle = ((found[0] + found[2]) / 2.0, (found[1] + found[3]) / 2.0);
        b.click("#line-tidy").await?;
        b.until("the shapes can be picked", "return document.getElementById('tidy')?.dataset.items === document.getElementById('bench').dataset.key").await?;
        b.point(middle).await?;
        b.press(Key::Delete).await?;
        step(b, "1 item deleted").await?;
        b.click("#line-layers").await?;
        b.click("#tab-stones").await?;
        settled(b).await?;
        let left: u32 = number(row(b, "tfoot tr").await?.get(2))?;
        ensure!(left == all - 1, "{left} of {all}");

        // Only the template goes to the cutter: a path for each hole.
        for layer in ["A", "B", "C"] {
            b.click(&format!("#rail [data-sends={layer}]")).await?;
            step(b, "Layer is not cut").await?;
        }
        b.go(&format!("{}/machines/1", server.address)).await?;
        by_hand(b, &pace(1000)).await?;
        open(b, &format!("{}{TEAPOT}/send", server.address)).await?;
        b.click("#tab-machine").await?;
        b.until_text("#machine-told", &format!("{left} paths"))
            .await?;
        b.click("#send-now").await?;
        b.until_text("#machine-bench .ask", "Load").await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it").await
    })
}
