//! Finished sizes, and the shop's list of materials, in headless Chromium.

use crate::chrome::with;
use crate::settled::{open, settled, step};
use anyhow::{Result, ensure};
use thirtyfour::prelude::*;

const TEAPOT: &str = "/jobs/5";

#[test]
fn sizes_are_typed_measured_and_fitted_and_what_cannot_be_says_why() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{TEAPOT}", server.address);
        open(b, &format!("{address}/size")).await?;
        b.enter("#f-width", "2*60mm + 1in").await?;
        step(b, "Size 145.4 mm × 109.0 mm").await?;
        b.until_text("#summary-size", "145.4 × 109.05 mm").await?;
        b.enter("#scale", "200 %").await?;
        step(b, "200.0 %").await?;
        b.until_text("#summary-size", "290.8 × 218.1 mm").await?;
        b.enter("#drawn-width", "100").await?;
        step(b, "Drawn part 100.0 mm").await?;
        let drawn = b.value("#drawn-width").await?;
        ensure!(drawn == "100.0", "{drawn}");
        // A line along the foot, which is truly 52 mm long.
        b.click("[data-tool=measure]").await?;
        let width: f64 = b.value("#f-width").await?.parse()?;
        let (from, to) = (53.0 / 150.0 * width, 89.0 / 150.0 * width);
        let y = 97.5 / 150.0 * width;
        b.until(
            "the artwork fills the bench",
            "return Number(document.querySelector('#bench canvas').dataset.view.split(' ')[0]) > 2",
        )
        .await?;
        b.drag(&[(from, y), ((from + to) / 2.0, y), (to, y)])
            .await?;
        b.until(
            "the line is measured",
            "return document.querySelector('#measured [name=ends]').value !== ''",
        )
        .await?;
        b.retype("#measured [name=value]", "52").await?;
        b.click("#measured button").await?;
        step(b, "Measured 52.0 mm").await?;
        let now: f64 = b.value("#f-width").await?.parse()?;
        ensure!((now - width * 52.0 / (to - from)).abs() < 3.0, "{now}");
        // What cannot be: the old size stays.
        for (field, typed, problem, why) in [
            ("#f-width", "0", "#problem-width", "outside 1 to 20000 mm"),
            (
                "#f-width",
                "-5cm",
                "#problem-width",
                "outside 1 to 20000 mm",
            ),
            ("#f-width", "9e99", "#problem-width", "not a unit"),
            ("#scale", "0", "#problem-scale", "outside 1 to 20000 mm"),
            ("#scale", "half", "#problem-scale", "not a number"),
            ("#drawn-width", "1/0", "#problem-drawn", "not a number"),
        ] {
            b.enter(field, typed).await?;
            b.until_text(problem, why).await?;
            b.go(&format!("{address}/size")).await?;
            settled(b).await?;
        }
        ensure!((b.value("#f-width").await?.parse::<f64>()? - now).abs() < 1e-6);
        // An offcut that is too small, then fitted to.
        b.choose("#stock", "another size").await?;
        b.retype("#own-width", "120").await?;
        b.retype("#own-length", "90").await?;
        b.click("#own-stock button").await?;
        step(b, "Stock").await?;
        b.until_text(".checks", "Larger than the stock").await?;
        b.click("[data-remedy=fit-stock]").await?;
        step(b, "Mended: Larger than the stock").await?;
        b.retype("#fit-margin", "500").await?;
        b.click("[title='As large as the stock takes']").await?;
        b.until_text("#problem-stock", "leave nothing").await?;
        b.retype("#fit-margin", "5").await?;
        b.click("[title='As large as the stock takes']").await?;
        step(b, "Fitted to the stock").await?;
        b.until_text("#left-over", "left").await?;
        // Moved by hand until it sticks out, and back by its remedy.
        b.until(
            "the stock is shown",
            "return document.querySelector('#sizing').dataset.place !== ''",
        )
        .await?;
        b.until_drawn().await?;
        b.drag(&[(20.0, 20.0), (40.0, 30.0), (60.0, 35.0)]).await?;
        step(b, "Moved on the stock").await?;
        b.until_text(".checks", "Outside what can be cut").await?;
        b.click("[data-remedy=move-inside]").await?;
        step(b, "Mended: Outside what can be cut").await?;
        // A grid of an inch where inches are read, and 10 mm else: common practice, no source.
        ensure!(b.value("[data-grid-pitch]").await? == "10");
        b.click("[role=group][aria-label=Units] button:last-child")
            .await?;
        b.until_text("#summary-size", "in").await?;
        b.until(
            "the grid is of one inch",
            "return document.querySelector('[data-grid-pitch]')?.value === '1'",
        )
        .await?;
        Ok(())
    })
}

#[test]
fn materials_are_changed_copied_retired_saved_and_brought_in() -> Result<()> {
    with("demo", async |b, server, folder| {
        let teapot = format!("{}{TEAPOT}/layers", server.address);
        open(b, &teapot).await?;
        b.choose("#material", "Card 240 g").await?;
        step(b, "Card 240 g").await?;
        b.go(&format!("{}/materials", server.address)).await?;
        b.until_text(".material-cards .open", "Cast vinyl").await?;
        b.page.find(By::LinkText("Card 240 g")).await.ok();
        b.click(".material-cards li:nth-child(5) a").await?;
        b.until_text(".material-cards .open", "Card 240 g").await?;
        b.enter("#m-stroke", "2,5").await?;
        b.until(
            "it is kept",
            "return document.querySelector('#m-stroke').value === '2.5'",
        )
        .await?;
        b.enter("#m-gap", "-1").await?;
        b.until_text("#problem-m-gap", "he narrowest gap of -1 mm is outside")
            .await?;
        // What was typed stays beside why it is not in force, and keeps no other figure from being taken.
        b.enter("#m-hole", "1,5").await?;
        b.until(
            "the other is kept",
            "return document.querySelector('#m-hole').value === '1.5'",
        )
        .await?;
        ensure!(
            b.value("#m-gap").await? == "-1" && b.text("#problem-m-gap").await?.contains("-1 mm")
        );
        b.enter("#m-gap", "0.9").await?;
        b.until(
            "the problem is gone",
            "return !document.querySelector('#problem-m-gap')",
        )
        .await?;
        b.enter(".row.new [name=stock_width]", "0.2").await?;
        b.until_text(
            ".material-sheet .rows .problem",
            "a width of stock of 0.2 mm is outside",
        )
        .await?;
        b.enter(".row.new [name=colour_name]", "Moss").await?;
        b.until("a row more", "return [...document.querySelectorAll('[name=colour_name]')].some((e) => e.value === 'Moss')").await?;
        b.enter(".row.new [name=stock_width]", "80").await?;
        b.until_text(".material-cards .open", "Card 240 g").await?;
        // The job keeps the values it was made with until it is told to take the new ones.
        open(b, &teapot).await?;
        b.click("#line-size").await?;
        b.until_drawn().await?;
        ensure!(!b.text(".checks").await?.contains("needs 2.50"));
        b.click("#line-layers").await?;
        settled(b).await?;
        b.click("#fresh").await?;
        step(b, "Material as it is now").await?;
        b.until(
            "they are the same",
            "return !document.getElementById('fresh')",
        )
        .await?;
        b.choose("#colour-A", "Moss").await?;
        step(b, "Layer in Moss").await?;
        // Copied, renamed, retired: no longer offered, and the job still has its own.
        b.go(&format!("{}/materials/5", server.address)).await?;
        b.click("[hx-post$='/copy']").await?;
        b.until_text(".material-cards .open", "Card 240 g copy")
            .await?;
        b.enter("#m-name", "Cast vinyl").await?;
        b.until_text("#problem-m-name", "already").await?;
        b.enter("#m-name", "Felt").await?;
        b.until_text(".material-cards .open", "Felt").await?;
        b.go(&format!("{}/materials/5", server.address)).await?;
        b.click("[hx-post$='/retire']").await?;
        b.until_text(".material-cards .open", "retired").await?;
        open(b, &teapot).await?;
        ensure!(b.value("#material").await? == "Card 240 g");
        b.until_text("#material", "Felt").await?;
        // Saved as a list, and brought in again under names of their own.
        b.go(&format!("{}/materials", server.address)).await?;
        b.click("a[href='/materials.json']").await?;
        let (_, list) = b.download().await?;
        let all: Vec<inky_core::material::Material> = serde_json::from_slice(&list)?;
        ensure!(all.len() == 9 && all.iter().any(|m| m.name == "Felt"));
        let file = folder.path().join("list.json");
        std::fs::write(&file, &list)?;
        b.find("#import")
            .await?
            .send_keys(file.display().to_string())
            .await?;
        b.until_text(".material-cards", "Felt 2").await?;
        std::fs::write(&file, b"[{\"name\": 3}]")?;
        b.find("#import")
            .await?
            .send_keys(file.display().to_string())
            .await?;
        b.until_text("#problem-material", "no list of materials")
            .await?;
        Ok(())
    })
}
