//! An offcut photographed beside a sheet of paper, kept as stock, and parts nested into it, in headless Chromium.

use anyhow::{Result, ensure};
use inky_demo::plate;
use kurbo::Point;
use thirtyfour::prelude::*;

use crate::chrome::{Browser, with};
use crate::settled::{open, step};

/// Opens the ply of the Materials page; its address.
async fn ply(b: &Browser, address: &str) -> Result<String> {
    b.go(&format!("{address}/materials")).await?;
    let script = "const a = [...document.querySelectorAll('.material-cards a')].find((a) => a.textContent.includes('Ply 3 mm')); const to = a.href; a.click(); return to";
    let to = b.page.execute(script, vec![]).await?;
    b.until_text(".material-cards .open", "Ply 3 mm").await?;
    Ok(to.convert()?)
}

/// Names of the material's stock.
async fn stock(b: &Browser) -> Result<Vec<String>> {
    let script = "return [...document.querySelectorAll('[name=stock_name]')].map((f) => f.value)";
    Ok(b.page.execute(script, vec![]).await?.convert()?)
}

#[test]
fn a_photographed_plate_becomes_stock_and_parts_are_nested_into_it() -> Result<()> {
    with("demo", async |b, server, folder| {
        let material = ply(b, &server.address).await?;
        ensure!(
            stock(b).await?.contains(&"Offcut".to_owned()),
            "the demo has one"
        );
        let file = folder.path().join(plate::FILE_NAME);
        std::fs::write(&file, plate::file())?;
        b.find("#odd-file")
            .await?
            .send_keys(file.display().to_string())
            .await?;
        // Found by itself: 520 × 340 mm, two holes.
        b.until_text(".odd-told", "true within").await?;
        let told = b.text(".odd-told").await?;
        let figures: Vec<f64> = told.split(' ').filter_map(|w| w.parse().ok()).collect();
        ensure!(
            (figures[0] - 520.0).abs() < 1.0 && (figures[1] - 340.0).abs() < 1.0,
            "{told}"
        );
        let holes = "return document.querySelectorAll('.odd-list li').length";
        ensure!(
            b.page.execute(holes, vec![]).await?.json() == 2,
            "two holes"
        );
        // A flaw is added by keys, another one by typed figures, and taken off.
        let before: f64 = b.value("#flaw-x").await?.parse()?;
        b.find("#next-flaw")
            .await?
            .send_keys(Key::Shift + Key::Left)
            .await?;
        let after: f64 = b.value("#flaw-x").await?.parse()?;
        ensure!(after < before - 2.0, "{before} mm, then {after}");
        b.retype("#flaw-across", "30").await?;
        b.click("#add-flaw").await?;
        b.until_text(".odd-list", "Flaw, 30.0 mm").await?;
        b.retype("#flaw-x", "900").await?;
        b.click("#add-flaw").await?;
        b.until_text("#problem-offcut", "from the left").await?;
        b.retype("#flaw-x", "60").await?;
        b.click("#add-flaw").await?;
        b.until(
            "a second flaw",
            "return document.querySelectorAll('.odd-list li').length === 4",
        )
        .await?;
        b.click("[aria-label='Remove flaw 2']").await?;
        b.until(
            "one again",
            "return document.querySelectorAll('.odd-list li').length === 3",
        )
        .await?;
        b.retype("#odd-name", "Bench plate").await?;
        b.find("#odd-name").await?.send_keys(Key::Tab).await?;
        b.retype("#odd-margin", "8").await?;
        b.find("#odd-margin").await?.send_keys(Key::Tab).await?;
        b.until(
            "both are kept",
            "return !document.querySelector('.htmx-request')",
        )
        .await?;
        b.click("#odd-keep").await?;
        b.until_text(".material-cards .open", "Ply 3 mm").await?;
        ensure!(
            stock(b).await?.contains(&"Bench plate".to_owned()),
            "it is among the stock"
        );
        // A job of ply takes it, and eight of them are nested into it.
        open(b, &format!("{}/jobs/2/layers", server.address)).await?;
        b.choose("#material", "Ply 3 mm").await?;
        step(b, "Ply 3 mm").await?;
        b.click("#line-size").await?;
        b.choose("#stock", "Bench plate").await?;
        step(b, "Stock").await?;
        b.click("#line-sheet").await?;
        b.find("#copies").await?;
        b.enter("#copies", "4").await?;
        step(b, "4 copies").await?;
        b.click("#nest").await?;
        step(b, "Nested").await?;
        b.until(
            "all of it lies on the plate",
            "return !document.querySelector('[data-figures=\"0\"] .trouble')",
        )
        .await?;
        b.until_text("[data-figures='0']", "4 up").await?;
        let drawn = "return fetch(`/jobs/2/sheets/${document.getElementById('sheeting').dataset.sheets}/0.json`).then((a) => a.json()).then((s) => fetch(s.picture).then((p) => [s.outline.length > 40, p.ok]))";
        let drawn: Vec<bool> = b.page.execute(drawn, vec![]).await?.convert()?;
        ensure!(drawn == [true, true], "outline and picture");
        // What is left is the next piece.
        b.click("#tab-aids").await?;
        b.click("#keep-rest-0").await?;
        b.until_text("#rest-0", "Kept as Bench plate, rest").await?;
        b.click("#machine-file").await?;
        let (path, bytes) = b.download().await?;
        ensure!(bytes.len() > 1000, "{}", path.display());
        b.go(&material).await?;
        let names = stock(b).await?;
        ensure!(
            names.contains(&"Bench plate, rest".to_owned())
                && !names.contains(&"Bench plate".to_owned()),
            "{names:?}"
        );
        Ok(())
    })
}

#[test]
fn where_no_sheet_is_found_its_corners_are_pointed_at() -> Result<()> {
    with("serve", async |b, server, folder| {
        ply(b, &server.address).await?;
        let file = folder.path().join(plate::FILE_NAME);
        std::fs::write(&file, plate::file())?;
        b.choose("#odd-sheet", "Letter").await?;
        b.find("#odd-file")
            .await?
            .send_keys(file.display().to_string())
            .await?;
        b.until_text("#odd-trouble", "no sheet of that size")
            .await?;
        b.choose("#odd-paper", "A4").await?;
        b.until_text(".odd-told", "true within").await?;
        b.click("#odd-point").await?;
        b.until_text("#odd-trouble", "Point at").await?;
        // All four marks are dragged to the corners, a little beside them.
        let s = plate::SHEET;
        let camera = plate::camera();
        for (n, p) in [(s.x0, s.y0), (s.x1, s.y0), (s.x1, s.y1), (s.x0, s.y1)]
            .iter()
            .enumerate()
        {
            let at = camera.at(Point::new(p.0, p.1));
            let script = format!(
                "const m = document.querySelector('.odd-bench svg').getScreenCTM();\
                 const mark = document.querySelector('[data-corner=\"{n}\"]').getBoundingClientRect();\
                 return [mark.x + mark.width / 2, mark.y + mark.height / 2, m.a * {} + m.e, m.d * {} + m.f].map(Math.round)",
                at.x, at.y
            );
            let at: Vec<i64> = b.page.execute(&script, vec![]).await?.convert()?;
            b.hand()
                .move_to(at[0], at[1])
                .click_and_hold()
                .move_to(at[2], at[3])
                .release()
                .perform()
                .await?;
        }
        b.click("#odd-look").await?;
        b.until_text(".odd-told", "true within").await?;
        b.click("#odd-drop").await?;
        b.until_text(".material-cards .open", "Ply 3 mm").await?;
        Ok(())
    })
}
