//! The Trace line, Undo, and the views of the bench.

use crate::chrome::{bring_in, with};
use crate::support::{png, ring_and_bar};
use anyhow::{Result, ensure};
use tempfile::TempDir;
use thirtyfour::prelude::*;

#[test]
fn a_picture_becomes_outlines_of_the_size_that_is_typed() -> Result<()> {
    with("serve", async |b, _, data| {
        bring_in(b, data, "ring and bar.png", &ring_and_bar()?).await?;
        b.until_text("#title h1", "Ring and bar").await?;
        b.until_text("#summary-trace", "2 shapes").await?;
        b.until_drawn().await?;

        // The threshold: everything is darker than 100 %, nothing than 0 %.
        b.find("#line-inks").await?.click().await?;
        b.find("input[value=mono] + span").await?.click().await?;
        b.find("#f-threshold").await?;
        b.until_text("#why", "half way between").await?;
        b.retype("#f-threshold", "0").await?;
        b.until_text("#problem-threshold", "Nothing to trace")
            .await?;
        b.retype("#f-threshold", "45").await?;
        b.until_text("#summary-trace", "2 shapes").await?;
        b.find("#f-threshold").await?.send_keys(Key::Tab).await?;
        b.until(
            "the threshold is a step",
            "return document.querySelector('#undo').title === 'Undo: Threshold 45 %'",
        )
        .await?;

        // Common practice, no source: 1.500 × 2.298, set to 1.4 wide, is 2.145 tall.
        b.find("[aria-label=Units] button:nth-of-type(2)")
            .await?
            .click()
            .await?;
        b.until(
            "inches are shown",
            "return document.querySelector('#bench').dataset.unit === 'in'",
        )
        .await?;
        b.find("#line-size").await?.click().await?;
        b.retype("#f-width", "1.5in").await?;
        b.until(
            "the height follows",
            "return document.querySelector('#f-height').value === '2.298'",
        )
        .await?;
        b.find("#f-width").await?.send_keys(Key::Tab).await?;
        b.until_text("#summary-size", "1.5 × 2.298 in").await?;
        b.until(
            "the size is a step",
            "return document.querySelector('#undo').title.startsWith('Undo: Size 1.500 in')",
        )
        .await?;
        b.retype("#f-width", "35.56mm").await?;
        b.find("#f-width").await?.send_keys(Key::Tab).await?;
        b.until_text("#summary-size", "1.4 × 2.145 in").await?;
        b.until(
            "it is kept",
            "return document.querySelector('#undo').title === 'Undo: Size 1.400 in × 2.145 in'",
        )
        .await?;

        b.find("#line-send").await?.click().await?;
        // What is told of the file comes after the line, and moves what stands under it.
        b.until_text("#send-told", ".plt").await?;
        b.click("#send-filled").await?;
        let (path, bytes) = b.download().await?;
        ensure!(
            path.file_name().is_some_and(|n| n == "ring-and-bar.svg"),
            "{}",
            path.display()
        );
        let svg = String::from_utf8(bytes)?;
        let tree = usvg::Tree::from_str(&svg, &usvg::Options::default())?;
        let width_mm = f64::from(tree.size().width()) * 25.4 / 96.0;
        ensure!((width_mm - 35.56).abs() < 0.01, "{width_mm} mm wide");
        let (opened, closed) = (svg.matches('M').count(), svg.matches('Z').count());
        ensure!(
            (opened, closed) == (3, 3),
            "{opened} rings, {closed} closed: ring, its hole and the bar"
        );
        Ok(())
    })
}

#[test]
fn every_choice_can_be_undone_and_done_again() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/5/trace", server.address)).await?;
        b.until_text("#title h1", "Teapot emblem").await?;
        b.until_drawn().await?;
        let before = b.text("#summary-trace").await?;
        b.find("input[value=outer] + span").await?.click().await?;
        b.until(
            "it is a step",
            "return !document.querySelector('#undo').disabled",
        )
        .await?;
        b.until(
            "the choice is a step",
            "return document.querySelector('#undo').title === 'Undo: Outer edge only'",
        )
        .await?;
        ensure!(b.text("#summary-trace").await? != before);
        b.find("#undo").await?.click().await?;
        b.until(
            "it is undone",
            "return document.querySelector('#redo').title === 'Redo: Outer edge only'",
        )
        .await?;
        ensure!(b.text("#summary-trace").await? == before);
        ensure!(
            b.page
                .execute(
                    "return document.querySelector('input[value=all]').checked",
                    vec![]
                )
                .await?
                .json()
                .as_bool()
                == Some(true)
        );
        // By key as well.
        b.find("canvas")
            .await?
            .send_keys(Key::Control + Key::Shift + "z")
            .await?;
        b.until(
            "it is done again",
            "return document.querySelector('#undo').title === 'Undo: Outer edge only'",
        )
        .await?;

        // An ink is dropped and kept again on the rail.
        b.find(".ink:nth-of-type(2) .eye").await?.click().await?;
        b.until_text("#summary-inks", "2 kept, 2 dropped").await?;
        b.until(
            "every kept ink tells its shapes and nodes",
            "return document.querySelectorAll('.ink .counts').length === 2 \
             && [...document.querySelectorAll('.ink .counts')].every((c) => /^\\d+ shapes? · \\d+ nodes?$/.test(c.textContent))",
        )
        .await?;
        b.find("#undo").await?.click().await?;
        b.until_text("#summary-inks", "3 kept, 1 dropped").await?;
        Ok(())
    })
}

#[test]
fn a_moved_slider_shows_its_effect_before_it_is_kept() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/5/trace", server.address)).await?;
        b.until_drawn().await?;
        let nodes = b.text("#figure-2").await?;
        let slide = "const r = document.getElementById('r-tolerance'); r.value = 190; \
                     r.dispatchEvent(new Event('input', { bubbles: true })); return true";
        b.page.execute(slide, vec![]).await?;
        b.until(
            "there are fewer nodes",
            &format!("return document.querySelector('#figure-2').innerText !== {nodes:?}"),
        )
        .await?;
        b.until_drawn().await?;
        ensure!(
            b.page
                .execute("return document.querySelector('#undo').disabled", vec![])
                .await?
                .json()
                .as_bool()
                == Some(true),
            "not kept yet"
        );
        b.page.execute("document.getElementById('r-tolerance').dispatchEvent(new Event('change', { bubbles: true }))", vec![]).await?;
        b.until(
            "it is kept",
            "return document.querySelector('#undo').title.startsWith('Undo: Follow within')",
        )
        .await?;
        b.find("[data-auto=tolerance]").await?.click().await?;
        b.until_text("#figure-2", nodes.trim()).await?;
        // A tolerance beyond reason is refused beside its control, and nothing changes.
        b.retype("#f-tolerance", "100").await?;
        b.until_text("#problem-tolerance", "outside 0.001 to 10 mm")
            .await?;
        b.until_text("#figure-2", nodes.trim()).await?;
        Ok(())
    })
}

#[test]
fn wobble_is_smoothed_and_shadows_are_thresholded_by_their_surroundings() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/5/trace", server.address)).await?;
        b.until_drawn().await?;
        b.until_text("#why", "only where one wavers").await?;
        b.retype("#f-smooth", "2").await?;
        b.find("#f-smooth").await?.send_keys(Key::Tab).await?;
        b.until(
            "it is kept",
            "return document.querySelector('#undo').title === 'Undo: Smooth under 2.00 mm'",
        )
        .await?;
        b.retype("#f-smooth", "99").await?;
        b.until_text("#problem-smooth", "outside 0 to 50 mm")
            .await?;

        b.go(&format!("{}/jobs/5/inks", server.address)).await?;
        b.find("input[value=mono] + span").await?.click().await?;
        b.until_text("#why", "Threshold").await?;
        b.find("input[name=local]").await?.click().await?;
        b.until_text("#why", "darker than its surroundings").await?;
        b.until(
            "it is kept",
            "return document.querySelector('#undo').title === 'Undo: Threshold by surroundings'",
        )
        .await?;
        b.until(
            "the slider is gone",
            "return !document.getElementById('r-threshold')",
        )
        .await?;
        b.find("input[name=local]").await?.click().await?;
        b.until_text("#why", "half way between").await
    })
}

#[test]
fn drawn_lines_are_followed_along_their_middle() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/2/trace", server.address)).await?;
        b.until_drawn().await?;
        b.until_text("#summary-trace", "9 stroke lines").await?;
        b.until_text("#why", "along their middle").await?;
        b.find("[data-pens]").await?.click().await?;
        b.find("input[value=all] + span").await?.click().await?;
        b.until_text("#summary-trace", "1 shape").await?;
        b.until_drawn().await?;
        b.until(
            "no pen to show",
            "return document.querySelector('.pens').hidden",
        )
        .await?;
        // Kept before the next one is chosen: two within 200 ms count as one.
        b.until(
            "all edges are a step",
            "return document.querySelector('#undo').title === 'Undo: All edges'",
        )
        .await?;
        b.find("input[value=centreline] + span")
            .await?
            .click()
            .await?;
        b.until_text("#summary-trace", "9 stroke lines").await?;
        b.until(
            "it is kept",
            "return document.querySelector('#undo').title === 'Undo: Centre lines'",
        )
        .await?;

        // A disc beside a line is no line.
        b.go(&server.address).await?;
        let blot = png(600, 300, |x, y| {
            (x - 480.0).hypot(y - 150.0) < 80.0
                || ((30.0..350.0).contains(&x) && (145.0..157.0).contains(&y))
        })?;
        let folder = TempDir::new()?;
        bring_in(b, &folder, "blot.png", &blot).await?;
        b.until_text("#title h1", "Blot").await?;
        let job = b.page.current_url().await?;
        b.go(&format!("{}/trace", job.as_str().trim_end_matches('/')))
            .await?;
        b.until_drawn().await?;
        b.find("input[value=centreline] + span")
            .await?
            .click()
            .await?;
        b.until_text("#facts", "Too wide for a line, so outlined")
            .await?;
        b.until_text("#rail", "1 shape · 1 stroke").await
    })
}

#[test]
fn an_ink_is_merged_into_another_taken_out_and_repainted() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/5/inks", server.address)).await?;
        b.until_drawn().await?;
        let choose = async |css: &str, value: &str| -> Result<()> {
            let script = format!(
                "const e = document.querySelector('{css}'); e.value = {value}; \
                 e.dispatchEvent(new Event('change', {{ bubbles: true }}))"
            );
            b.page.execute(&script, vec![]).await?;
            Ok(())
        };
        let share = "[...document.querySelectorAll('.ink:not(.off)')].length";
        b.until("three inks are cut", &format!("return {share} === 3"))
            .await?;
        choose(".ink .merge", "e.options[1].value").await?;
        b.until("two inks are left", &format!("return {share} === 2"))
            .await?;
        b.until_text("#rail", "counts as").await?;
        b.until(
            "it is a step",
            "return document.querySelector('#undo').title.includes('merged into')",
        )
        .await?;
        b.until_drawn().await?;
        b.find("#undo").await?.click().await?;
        b.until("undone", &format!("return {share} === 3")).await?;
        b.until_drawn().await?;
        b.find("#redo").await?.click().await?;
        b.until("done again", &format!("return {share} === 2"))
            .await?;
        b.until_drawn().await?;
        b.find(".ink .eye[data-takes-out]").await?.click().await?;
        b.until("three inks again", &format!("return {share} === 3"))
            .await?;
        b.until(
            "it is a step too",
            "return document.querySelector('#undo').title.includes('an ink of its own')",
        )
        .await?;
        choose(".ink input[type=color]", "'#123456'").await?;
        b.until(
            "it is painted",
            "return document.querySelector('.swatch rect').getAttribute('fill') === '#123456'",
        )
        .await?;
        b.until_drawn().await?;
        b.find("#line-send").await?.click().await?;
        // What is told of the file comes after the line, and moves what stands under it.
        b.until_text("#send-told", ".plt").await?;
        b.click("#send-filled").await?;
        let (_, bytes) = b.download().await?;
        ensure!(String::from_utf8(bytes)?.contains("fill=\"#123456\""));
        Ok(())
    })
}

#[test]
fn the_bench_changes_views_zooms_and_wipes() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}/jobs/5", server.address)).await?;
        b.until_drawn().await?;
        // The colour of one pixel of the bench, as hexadecimal.
        let pixel = async |x: i32, y: i32| -> Result<String> {
            let script = format!(
                "const c = document.querySelector('canvas'); const p = c.getContext('2d').getImageData({x}, {y}, 1, 1).data; \
                 return '#' + [...p].slice(0, 3).map((v) => v.toString(16).padStart(2, '0')).join('')"
            );
            Ok(b.page
                .execute(&script, vec![])
                .await?
                .json()
                .as_str()
                .unwrap_or_default()
                .to_owned())
        };
        // Left of the handle, in the body of the pot, the artwork shows.
        b.until(
            "the artwork is drawn",
            "const c = document.querySelector('canvas'); \
            return c.getContext('2d').getImageData(250, 400, 1, 1).data[0] === 43",
        )
        .await?;
        ensure!(pixel(250, 400).await? == "#2b6d78");
        // Wiped all the way to the left, the outlines show there.
        for _ in 0..6 {
            b.find(".wipe")
                .await?
                .send_keys(Key::Shift + Key::Left)
                .await?;
        }
        b.until(
            "the wipe is at its left end",
            "return document.querySelector('.wipe').getAttribute('aria-valuenow') === '0'",
        )
        .await?;
        ensure!(pixel(250, 400).await? != "#2b6d78");
        // Held A peeks at the artwork, wherever the wipe stands.
        let key = |kind: &str| {
            format!(
                "document.dispatchEvent(new KeyboardEvent('{kind}', {{ key: 'a', bubbles: true }}))"
            )
        };
        let drawn = "return await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))";
        b.page.execute(&key("keydown"), vec![]).await?;
        b.page.execute(drawn, vec![]).await?;
        ensure!(pixel(250, 400).await? == "#2b6d78");
        b.page.execute(&key("keyup"), vec![]).await?;
        b.find("[data-view=solid]").await?.click().await?;
        b.until(
            "the solid picture is drawn",
            "const c = document.querySelector('canvas'); \
            return c.getContext('2d').getImageData(250, 400, 1, 1).data[0] === 43",
        )
        .await?;
        b.find("[data-view=wireframe]").await?.click().await?;
        b.until("wireframe is the view", "return document.querySelector('[data-view=wireframe]').getAttribute('aria-pressed') === 'true'").await?;

        // What strays is told with the figure that stands among the counts as well.
        b.find("[data-view=strayed]").await?.click().await?;
        b.until("strayed is the view", "return document.querySelector('[data-view=strayed]').getAttribute('aria-pressed') === 'true'").await?;
        b.until("red dots are drawn", "const c = document.querySelector('canvas'); \
            const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; \
            for (let i = 0; i < d.length; i += 4) if (d[i] === 0xb3 && d[i + 1] === 0x26 && d[i + 2] === 0x1e) return true; \
            return false").await?;

        let zoom = b.text(".where").await?;
        b.page.execute("document.querySelector('canvas').dispatchEvent(new WheelEvent('wheel', { deltaY: -600, clientX: 700, clientY: 400, bubbles: true, cancelable: true }))", vec![]).await?;
        b.until(
            "it is zoomed in",
            &format!("return document.querySelector('.where').innerText !== {zoom:?}"),
        )
        .await?;
        b.find("[data-fit]").await?.click().await?;
        b.until_text(".where", &zoom).await?;
        Ok(())
    })
}
