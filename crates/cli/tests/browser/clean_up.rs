//! The Clean and Inks lines driven as a person drives them, in headless Chromium.

use crate::chrome::{Browser, bring_in, with};
use crate::support::png;
use anyhow::{Result, ensure};
use thirtyfour::prelude::*;

/// The teapot: 150 × 112.5 mm, five shapes; its knob lies about (70.8, 14) mm.
const TEAPOT: &str = "/jobs/5";
const KNOB: (f64, f64) = (70.8, 14.0);

async fn until_ink(b: &Browser, name: &str) -> Result<()> {
    let script = format!(
        "return [...document.querySelectorAll('.ink-name')].some((e) => e.value === {name:?})"
    );
    b.until(&format!("{name} is an ink"), &script).await
}

#[test]
fn steps_are_switched_moved_taken_out_and_undone() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/clean", server.address)).await?;
        b.until_drawn().await?;
        b.click("[data-take*='\"turns\":1']").await?;
        b.until_undo("Turned right").await?;
        b.until_text("#summary-size", "112.5 × 150.0 mm").await?;
        b.click("[data-take*=enlarge]").await?;
        b.until_undo("Enlarged 2 ×").await?;
        b.until_text(".step:nth-child(2)", "1800 × 2400 px, no detail added")
            .await?;
        b.until_text("#summary-size", "112.5 × 150.0 mm").await?;
        b.until_text("#summary-trace", "5 shapes").await?;
        // Switched off, moved, changed.
        b.click(".step:nth-child(1) [data-switch]").await?;
        b.until_undo("Turned right off").await?;
        b.until_text("#summary-size", "150.0 × 112.5 mm").await?;
        b.click(".step:nth-child(2) [data-move='-1']").await?;
        b.until_undo("Steps in another order").await?;
        b.until_text(".step:nth-child(1)", "2400 × 1800 px").await?;
        b.retype(".step:nth-child(1) [data-key=factor]", "3")
            .await?;
        b.find(".step:nth-child(1) [data-key=factor]")
            .await?
            .send_keys(Key::Tab)
            .await?;
        b.until_undo("Enlarged 3 ×").await?;
        b.until_text(".step:nth-child(1)", "3600 × 2700 px").await?;
        b.retype(".step:nth-child(1) [data-key=factor]", "9")
            .await?;
        b.find(".step:nth-child(1) [data-key=factor]")
            .await?
            .send_keys(Key::Tab)
            .await?;
        b.until(
            "it says what is allowed",
            "return document.querySelector('#problem-clean').textContent.length > 5",
        )
        .await?;
        b.click(".step:nth-child(1) [data-remove]").await?;
        b.until_undo("Enlarged 3 × taken out").await?;
        b.click("#undo").await?;
        b.until_undo("Enlarged 3 ×").await?;
        b.until(
            "the open line is still Clean",
            "return document.querySelectorAll('.step').length === 2",
        )
        .await?;
        Ok(())
    })
}

#[test]
fn the_picture_is_cropped_erased_and_brought_back_on_the_bench() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/clean", server.address)).await?;
        b.until_drawn().await?;
        // The brush stays in hand from stroke to stroke.
        b.click("[data-tool=erase]").await?;
        b.retype("#brush-size", "14").await?;
        let (x, y) = KNOB;
        b.drag(&[(x - 1.0, y), (x, y), (x + 1.0, y)]).await?;
        b.until_undo("Erased").await?;
        b.until_text("#summary-trace", "4 shapes").await?;
        b.until("the brush is still in hand", "return document.querySelector('[data-tool=erase]').getAttribute('aria-pressed') === 'true'").await?;
        b.click("[data-tool=restore]").await?;
        b.retype("#brush-size", "16").await?;
        b.drag(&[(x, y), (x + 1.0, y)]).await?;
        b.until_undo("Brought back").await?;
        b.until_text("#summary-trace", "5 shapes").await?;
        // Escape puts it down; a crop keeps the scale.
        b.find("#bench canvas")
            .await?
            .send_keys(Key::Escape)
            .await?;
        b.until(
            "no tool is in hand",
            "return !document.querySelector('[data-tool][aria-pressed=true]')",
        )
        .await?;
        b.click("[data-tool=crop]").await?;
        b.drag(&[(50.0, 5.0), (75.0, 20.0), (100.0, 40.0)]).await?;
        b.until_undo("Cropped").await?;
        let width: f64 = b
            .text("#figure-3")
            .await?
            .split(' ')
            .next()
            .unwrap_or_default()
            .parse()?;
        ensure!((width - 50.0).abs() < 1.0, "{width} mm wide");
        b.until_text("#summary-clean", "3 steps, last cropped")
            .await?;
        // The box and the brush can be changed afterwards.
        b.retype(".step:nth-child(3) [data-key=width]", "600")
            .await?;
        b.find(".step:nth-child(3) [data-key=width]")
            .await?
            .send_keys(Key::Tab)
            .await?;
        // 600 px of 1200 that are 150 mm wide.
        b.until_text("#summary-size", "75.0 ×").await?;
        b.until_drawn().await?;
        b.retype(".step:nth-child(2) [data-key=size]", "16").await?;
        b.find(".step:nth-child(2) [data-key=size]")
            .await?
            .send_keys(Key::Tab)
            .await?;
        b.until(
            "a narrower brush is a step",
            "return document.querySelector('#undo').title === 'Undo: Brought back'",
        )
        .await?;
        Ok(())
    })
}

#[test]
fn regions_and_areas_are_chosen_by_pointing() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/clean", server.address)).await?;
        b.until_drawn().await?;
        b.click("[data-tool=clear]").await?;
        let (x, y) = b.on_screen((10.0, 10.0)).await?;
        b.hand().move_to(x, y).perform().await?;
        b.until("the region is shown before it goes", "return (document.querySelector('#bench').dataset.hovered ?? '').includes('region.png')").await?;
        b.hand().move_to(x, y).click().perform().await?;
        b.until_undo("Region cleared").await?;
        until_ink(b, "Clear").await?;
        b.until_text("#summary-inks", "4 kept").await?;
        b.click(".step [data-key=everywhere]").await?;
        b.until_undo("One colour cleared").await?;
        b.until_text("#summary-inks", "3 kept").await?;
        // Only the knob is traced.
        b.click("[data-tool=box-area]").await?;
        b.drag(&[(62.0, 6.0), (70.0, 12.0), (80.0, 19.0)]).await?;
        b.until_undo("One area traced").await?;
        b.until_text("#summary-trace", "1 shape").await?;
        // The foot too; both belong to one step.
        b.drag(&[(48.0, 94.0), (70.0, 97.0), (92.0, 102.0)]).await?;
        b.until_undo("2 areas traced").await?;
        b.until_text("#summary-trace", "2 shapes").await?;
        b.until(
            "they are one step",
            "return document.querySelectorAll('.step').length === 2",
        )
        .await?;
        Ok(())
    })
}

#[test]
fn the_program_finds_contrast_grain_and_skew() -> Result<()> {
    with("demo", async |b, server, _| {
        // The hive: a scan on uneven paper.
        b.go(&format!("{}/jobs/3/clean", server.address)).await?;
        b.until_drawn().await?;
        b.click("[data-find=denoise]").await?;
        b.until_text(".step:nth-child(1)", "Grain of").await?;
        b.click("[data-take*=even]").await?;
        b.until_undo("Light levelled").await?;
        b.click("[data-find=levels]").await?;
        b.until_text(".step:nth-child(3)", "Levels").await?;
        b.until_drawn().await?;
        // The observatory lies straight: that is said, and nothing is done.
        b.go(&format!("{}/jobs/4/clean", server.address)).await?;
        b.until_drawn().await?;
        b.click("[data-tool=straighten]").await?;
        b.drag(&[(50.0, 100.0), (150.0, 104.0), (250.0, 110.0)])
            .await?;
        b.until_text(".step:nth-child(1)", "Turned by -2.").await?;
        b.until_drawn().await?;
        b.click("[data-find=skew]").await?;
        b.until_text(".step:nth-child(2)", "Straightened by 2.")
            .await?;
        Ok(())
    })
}

#[test]
fn tones_and_inks_are_chosen_by_figures_and_by_pointing() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/inks", server.address)).await?;
        b.until_drawn().await?;
        // Enclosed ground: the hole of the handle.
        b.click("[data-choose=enclosed]").await?;
        b.until_undo("Enclosed ground kept").await?;
        until_ink(b, "White, enclosed").await?;
        b.until_text("#summary-trace", "6 shapes").await?;
        b.click("[data-choose=not_enclosed]").await?;
        b.until_undo("Enclosed ground dropped").await?;
        b.until_text("#summary-trace", "5 shapes").await?;
        // The same by pointing.
        b.click("[data-tool=enclosed]").await?;
        let (x, y) = b.on_screen((27.0, 60.0)).await?;
        b.hand().move_to(x, y).click().perform().await?;
        b.until_undo("Enclosed ground kept").await?;
        b.click("#undo").await?;
        b.until_undo("Enclosed ground dropped").await?;
        // Fewer, then the colour that went missing is pointed at.
        b.click("[data-choose=count]").await?;
        b.until_undo("3 inks").await?;
        b.until_text("#summary-inks", "2 kept").await?;
        b.click("[data-tool=colour]").await?;
        let star = b.on_screen((71.0, 62.0)).await?;
        b.hand().move_to(star.0, star.1).click().perform().await?;
        b.until_text("#summary-inks", "3 kept").await?;
        b.until_text(".parts", "added").await?;
        // One tone: a histogram, a rim, a band.
        b.click("input[value=mono] + span").await?;
        b.until_undo("One tone").await?;
        b.find("#tones line").await?;
        b.click("input[value=band] + span").await?;
        b.until_undo("Rim of 2.00 mm").await?;
        b.retype("#f-rim_width", "1/8in").await?;
        b.find("#f-rim_width").await?.send_keys(Key::Tab).await?;
        b.until_undo("Rim of 3.17 mm")
            .await
            .or(b.until_undo("Rim of 3.18 mm").await)?;
        b.click("input[value=none] + span").await?;
        b.until_undo("Whole shapes").await?;
        b.click("input[name=band]").await?;
        b.until_text("#why", "What lies between").await?;
        b.find("#f-above").await?;
        Ok(())
    })
}

#[test]
fn an_ink_dropped_on_another_is_merged_into_it() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/inks", server.address)).await?;
        b.until_drawn().await?;
        b.carry(
            ".ink[data-colour]:nth-child(2) .letter",
            ".ink[data-colour]:first-child",
        )
        .await?;
        b.until(
            "it is a step",
            "return document.querySelector('#undo').title.includes('merged into')",
        )
        .await?;
        b.until_text("#summary-inks", "2 kept").await?;
        Ok(())
    })
}

#[test]
fn the_loupe_shows_the_artworks_own_pixels() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/trace", server.address)).await?;
        b.until_drawn().await?;
        let (x, y) = b.on_screen((100.0, 60.0)).await?;
        b.hand().move_to(x, y).perform().await?;
        let sum = "const c = document.querySelector('#bench canvas'); let s = 0; \
            for (const v of c.getContext('2d').getImageData(0, 0, c.width, c.height).data) s += v; return s";
        let before = b.page.execute(sum, vec![]).await?.json().as_f64();
        b.find("#bench canvas").await?.send_keys("z").await?;
        b.until(
            "it is pressed",
            "return document.querySelector('[data-loupe]').getAttribute('aria-pressed') === 'true'",
        )
        .await?;
        let script = format!(
            "{}; ",
            sum.replace(
                "return s",
                &format!("return s !== {}", before.unwrap_or_default())
            )
        );
        b.until("something else is drawn", &script).await?;
        Ok(())
    })
}

#[test]
fn a_result_is_remembered_and_set_beside_others() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/trace", server.address)).await?;
        b.until_drawn().await?;
        b.click("#remember").await?;
        b.until_text("#remember", "Forget").await?;
        b.click("input[value=solid] + span").await?;
        b.until_undo("Solid shapes").await?;
        let nodes = b.text("#figure-2").await?;
        let both: Vec<f64> = nodes
            .split(" · ")
            .filter_map(|n| n.trim().parse().ok())
            .collect();
        ensure!(
            both.len() == 2 && both[0] < both[1],
            "{nodes}: fewer without holes"
        );
        // It can be wiped over the one in force, also after a reload.
        b.page.refresh().await?;
        b.until_drawn().await?;
        b.until_text("#remember", "Forget").await?;
        b.page.execute("const s = document.querySelector('[data-over]'); s.value = 'remembered'; s.dispatchEvent(new Event('change'))", vec![]).await?;
        b.until(
            "the wipe is there",
            "return !document.querySelector('.wipe').hidden",
        )
        .await?;
        b.click("#remember").await?;
        b.until_text("#remember", "Remember this").await?;
        b.until(
            "no wipe without it",
            "return document.querySelector('.wipe').hidden",
        )
        .await?;
        Ok(())
    })
}

#[test]
fn pictures_arrive_in_the_size_chosen_and_are_replaced_by_better_copies() -> Result<()> {
    with("serve", async |b, server, data| {
        let ring = |size: u32| {
            let k = f64::from(size) / 100.0;
            png(size, size, move |x, y| {
                (20.0 * k..40.0 * k).contains(&(x - 50.0 * k).hypot(y - 50.0 * k))
            })
        };
        b.retype("[name=fit_width]", "300").await?;
        b.retype("[name=fit_height]", "6in").await?;
        bring_in(b, data, "ring.png", &ring(100)?).await?;
        // 152.4 mm is 6 in exactly.
        b.until_text("#summary-size", "152.4 × 152.4 mm").await?;
        b.until_drawn().await?;
        // The right half only, then the same picture with three times the pixels.
        b.find("#line-clean").await?.click().await?;
        b.find("[data-tool=crop]").await?.click().await?;
        b.drag(&[(76.2, 1.0), (100.0, 80.0), (151.0, 151.5)])
            .await?;
        b.until_undo("Cropped").await?;
        b.until_drawn().await?;
        let width = async || -> Result<f64> {
            let told = b.text("#summary-size").await?;
            Ok(told.split(' ').next().unwrap_or_default().parse()?)
        };
        let cropped = width().await?;
        b.find("#line-artwork").await?.click().await?;
        let better = data.path().join("better.png");
        std::fs::write(&better, ring(300)?)?;
        b.find("#replace")
            .await?
            .send_keys(better.display().to_string())
            .await?;
        b.until_text("#summary-artwork", "300 × 300 px").await?;
        b.until_undo("Artwork replaced").await?;
        let now = width().await?;
        ensure!(
            (now - cropped).abs() < 0.01,
            "the width stays: {now}, {cropped}"
        );
        b.until_text("#summary-clean", "cropped").await?;
        // Another shape is refused beside the control; undo brings the first copy back.
        let other = data.path().join("other.png");
        std::fs::write(&other, png(90, 30, |x, _| x > 40.0)?)?;
        b.find("#replace")
            .await?
            .send_keys(other.display().to_string())
            .await?;
        b.until_text("#problem-replace", "of another shape").await?;
        b.click("#undo").await?;
        b.until_text("#summary-artwork", "100 × 100 px").await?;
        // The choice on the Jobs page is still there.
        b.go(&server.address).await?;
        b.until("it is kept", "return document.querySelector('[name=arrive][value=fit]').checked && document.querySelector('[name=fit_height]').value === '6in'").await?;
        Ok(())
    })
}
