//! A sign photographed askew, squared up in headless Chromium, from the dropped photograph to the file.

use crate::chrome::{Browser, bring_in, with};
use crate::settled::{settled, step};
use anyhow::{Result, ensure};
use inky_demo::{PHOTOGRAPHS, Photograph, sign};
use kurbo::Point;
use thirtyfour::prelude::*;

const SIGN: &Photograph = &PHOTOGRAPHS[0];

/// Width and height as the Size line tells them, mm.
async fn size(b: &Browser) -> Result<(f64, f64)> {
    let script = "return document.querySelector('#summary-size').textContent.match(/[0-9.]+/g).slice(0, 2).map(Number)";
    let both = b.page.execute(script, vec![]).await?;
    let both: Vec<f64> = both.convert()?;
    ensure!(both.len() == 2, "{both:?}");
    Ok((both[0], both[1]))
}

/// That the size is so wide and as high as the sign's true proportions make it, within 1 %.
async fn as_the_sign(b: &Browser, width: f64) -> Result<()> {
    let (w, h) = size(b).await?;
    let height = width * sign::SIGN_MM.1 / sign::SIGN_MM.0;
    ensure!((w / width - 1.0).abs() < 0.01, "{w} mm wide, not {width}");
    ensure!((h / height - 1.0).abs() < 0.01, "{h} mm high, not {height}");
    Ok(())
}

/// Where the sign's corners lie, mm, while the photograph is `width` mm wide.
fn corners(width: f64) -> [(f64, f64); 4] {
    let (w, h) = sign::SIGN_MM;
    let (camera, mm) = (sign::camera(), width / f64::from(sign::SIGN_PX.0));
    [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]].map(|[x, y]| {
        let at = camera.at(Point::new(x * w / 2.0, y * h / 2.0));
        (at.x * mm, at.y * mm)
    })
}

/// Takes the tool in hand and waits for what it finds.
async fn offered(b: &Browser) -> Result<()> {
    b.click("[data-tool=square]").await?;
    b.find("#square-offers button").await?;
    Ok(())
}

#[test]
fn a_dropped_photograph_is_squared_up_by_one_press_and_cut() -> Result<()> {
    with("serve", async |b, server, folder| {
        b.go(&server.address).await?;
        b.enter("[name=arrive_width]", "300").await?;
        bring_in(b, folder, SIGN.file_name, &SIGN.file()).await?;
        b.find("#summary-send").await?;
        b.until(
            "it is offered",
            "return document.querySelector('#askew')?.hidden === false",
        )
        .await?;
        b.click("#askew button").await?;
        step(b, "Squared up").await?;
        b.until_drawn().await?;
        as_the_sign(b, 300.0).await?;
        b.until(
            "it is offered no more",
            "return !document.querySelector('#askew')",
        )
        .await?;
        // A side that is known says how large it is, and one typed afterwards how large it is cut.
        b.click("#line-clean").await?;
        b.find(".step [data-key=width]").await?;
        settled(b).await?;
        b.retype(".step [data-key=width]", "900").await?;
        b.find(".step [data-key=width]")
            .await?
            .send_keys(Key::Tab)
            .await?;
        b.until_text("#summary-size", "900.0 ×").await?;
        as_the_sign(b, 900.0).await?;
        b.click("#undo").await?;
        b.until_text("#summary-size", "300.0 ×").await?;
        b.until_drawn().await?;
        b.choose(".step [data-key=paper]", "A4").await?;
        b.until_text("#summary-size", "297.0 × 210.0").await?;
        b.click("#undo").await?;
        b.until_text("#summary-size", "300.0 ×").await?;
        b.until_drawn().await?;
        b.click(".step [data-switch]").await?;
        step(b, "Squared up off").await?;
        b.until_text("#summary-size", "300.0 × 225.0").await?;
        b.click(".step [data-switch]").await?;
        step(b, "Squared up on").await?;
        b.until_drawn().await?;
        as_the_sign(b, 300.0).await?;
        b.click("#machine-file").await?;
        let (path, bytes) = b.download().await?;
        ensure!(
            bytes.len() > 1000,
            "{}: {} bytes",
            path.display(),
            bytes.len()
        );
        Ok(())
    })
}

#[test]
fn corners_are_taken_by_number_pointed_at_and_moved() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/6/clean", server.address)).await?;
        b.until_drawn().await?;
        // By number, which also keys reach.
        offered(b).await?;
        b.find("#square-offers button")
            .await?
            .send_keys(Key::Enter)
            .await?;
        step(b, "Squared up").await?;
        b.until_drawn().await?;
        as_the_sign(b, 300.0).await?;
        b.click("#undo").await?;
        b.until(
            "it is as it came",
            "return !document.querySelector('.step')",
        )
        .await?;
        b.until_drawn().await?;
        // Pointed at, a little beside each, crosswise: drawn to the edges and put in turn.
        offered(b).await?;
        let at = corners(300.0);
        for n in [0, 2, 1, 3] {
            b.point((at[n].0 + 0.8, at[n].1 - 0.7)).await?;
        }
        step(b, "Squared up").await?;
        b.until_drawn().await?;
        as_the_sign(b, 300.0).await?;
        // Moved: one corner far away, and left again.
        b.click("[data-corners]").await?;
        step(b, "Squared up off").await?;
        b.until_text("#summary-size", "300.0 × 225.0").await?;
        b.until_drawn().await?;
        b.until(
            "its corners are in hand",
            "return document.querySelector('[data-for=corners]').hidden === false",
        )
        .await?;
        let (x, y) = at[2];
        b.drag(&[(x, y), (x - 10.0, y - 6.0), (x - 30.0, y - 20.0)])
            .await?;
        b.click("[data-corners-take]").await?;
        step(b, "Squared up").await?;
        b.until_drawn().await?;
        let (w, h) = size(b).await?;
        ensure!(
            (w / h - 1.8).abs() > 0.05,
            "{w} × {h} mm with a corner moved"
        );
        Ok(())
    })
}

#[test]
fn what_is_no_rectangle_is_said_and_nothing_is_lost() -> Result<()> {
    with("demo", async |b, server, _| {
        // Flat artwork shows nothing with four sides.
        b.go(&format!("{}/jobs/5/clean", server.address)).await?;
        b.until_drawn().await?;
        b.click("[data-tool=square]").await?;
        b.until_text("#problem-clean", "point at its four corners")
            .await?;
        for place in [(30.0, 30.0), (60.0, 50.0), (90.0, 70.0), (30.0, 70.0)] {
            b.point(place).await?;
        }
        b.until_text("#problem-clean", "do not stand around")
            .await?;
        b.until(
            "no step was added",
            "return !document.querySelector('.step')",
        )
        .await?;
        Ok(())
    })
}
