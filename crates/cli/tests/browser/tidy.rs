//! The Tidy line driven as a person drives it, in headless Chromium.

use crate::chrome::{bring_in, with};
use crate::tidying::*;
use anyhow::{Context, Result, ensure};
use thirtyfour::prelude::*;

#[test]
fn the_teapot_is_taken_apart_changed_and_put_back_step_by_step() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{TEAPOT}", server.address);
        open(b, &address).await?;
        b.until_text("#summary-tidy", "as traced").await?;
        b.point(BODY).await?;
        picked(b, "1 item · 32 nodes").await?;
        b.click("[data-act=split]").await?;
        step(b, "1 item taken apart").await?;
        b.until_text("#summary-trace", "7 shapes").await?;
        picked(b, "3 items").await?;
        // The lid gets another ink.
        b.point(LID).await?;
        b.choose("#tidy-ink", "Sand").await?;
        b.click("[data-act=ink]").await?;
        step(b, "1 item in another ink").await?;
        // A border around it all, found and deleted by rule.
        b.click("[data-tool=rectangle]").await?;
        b.drag(&[(2.0, 2.0), (80.0, 60.0), (148.0, 110.0)]).await?;
        step(b, "Rectangle drawn").await?;
        b.click("[data-tool=pick]").await?;
        b.reveal("[data-found=frame]").await?;
        b.until_text("[data-found=frame]", "1").await?;
        for rule in ["doubled", "ends", "crossings", "specks"] {
            b.click(&format!("[data-rule={rule}]")).await?;
        }
        b.click("[data-act=mend]").await?;
        step(b, "Mended by rule").await?;
        b.until_text("#summary-trace", "7 shapes").await?;
        // A node of the star is mended.
        b.point(STAR).await?;
        picked(b, "1 item · 10 nodes").await?;
        b.click("#tab-nodes").await?;
        b.drag(&[(70.94, 46.88), (71.5, 44.0), (72.0, 42.0)])
            .await?;
        step(b, "Node moved").await?;
        // Refitted, looked at before.
        b.click("[data-tool=pick]").await?;
        b.click("[data-pick=all]").await?;
        picked(b, "7 items").await?;
        b.click("[data-act=refit-look]").await?;
        b.until_text("#refit-report", "nodes before").await?;
        b.click("[data-act=refit]").await?;
        step(b, "7 items refitted within 0.10 mm").await?;
        // An arched line of lettering is cut out of the body.
        type_in(b, "#letter-words", "TEA").await?;
        type_in(b, "#letter-radius", "60").await?;
        b.click("[data-tool=letters]").await?;
        b.point((70.0, 88.0)).await?;
        step(b, "Lettering TEA").await?;
        picked(b, "3 items").await?;
        type_in(b, "#letter-words", "POT").await?;
        b.click("[data-act=letter]").await?;
        step(b, "Lettering changed").await?;
        let letters = b.text("#picked").await?;
        b.click("[data-tool=pick]").await?;
        b.press(Key::Escape).await?;
        b.point(BODY).await?;
        picked(b, "1 item").await?;
        // Between the letters lies the body, on them they are on top.
        with_shift(b, (70.0, 83.0)).await?;
        b.until(
            "body and letters are picked",
            "return document.querySelector('#picked').textContent.startsWith('4 items')",
        )
        .await?;
        b.click("[data-act=subtract]").await?;
        step(b, "4 items subtracted").await?;
        ensure!(letters.contains("3 items"), "{letters}");
        // A backing of three millimetres under everything, in an ink of its own.
        b.click("[data-act=backing]").await?;
        step(b, "Backing with 3.00 mm").await?;
        b.until(
            "the rail has another ink",
            "return document.querySelectorAll('.ink:not(.off)').length === 4",
        )
        .await?;
        b.until_text("#summary-tidy", "10 edits, last backing with 3.00 mm")
            .await?;
        let whole = b.text("#summary-trace").await?;
        // All undone, all done again, the same after the page and after the program.
        for _ in 0..10 {
            b.click("#undo").await?;
            settled(b).await?;
            b.until(
                "the answer is there",
                "return !document.querySelector('#undo.htmx-request')",
            )
            .await?;
        }
        b.until_text("#summary-tidy", "as traced").await?;
        b.until_text("#summary-trace", "5 shapes · 53 nodes")
            .await?;
        for _ in 0..10 {
            b.click("#redo").await?;
            settled(b).await?;
        }
        b.until_text("#summary-tidy", "10 edits").await?;
        ensure!(
            b.text("#summary-trace").await? == whole,
            "the same as before"
        );
        open(b, &address).await?;
        ensure!(
            b.text("#summary-trace").await? == whole,
            "the same after a reload"
        );
        // The file holds what the bench shows.
        b.go(&format!("{}/jobs/5/send", server.address)).await?;
        b.click("#send-filled").await?;
        let svg = String::from_utf8(b.download().await?.1)?;
        let shapes = svg.matches("<path").count();
        ensure!(
            whole.starts_with(&format!("{shapes} shapes")),
            "{shapes} of {whole}"
        );
        Ok(())
    })
}

#[test]
fn shapes_are_picked_moved_and_arranged() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}", server.address)).await?;
        // A box, a lasso, one key after the other.
        b.drag(&[(60.0, 5.0), (75.0, 15.0), (82.0, 19.0)]).await?;
        picked(b, "1 item · 2 nodes").await?;
        b.click("[data-pick=ink]").await?;
        picked(b, "2 items").await?;
        b.click("[data-tool=lasso]").await?;
        b.drag(&[
            (40.0, 92.0),
            (100.0, 92.0),
            (100.0, 103.0),
            (70.0, 105.0),
            (40.0, 103.0),
            (40.0, 92.0),
        ])
        .await?;
        picked(b, "1 item · 6 nodes").await?;
        b.click("[data-tool=pick]").await?;
        type_in(b, "#small-area", "100").await?;
        b.until_text("#small-count", "1").await?;
        b.click("[data-pick=small]").await?;
        picked(b, "1 item · 2 nodes").await?;
        b.point(BODY).await?;
        b.click("[data-pick=inside]").await?;
        picked(b, "1 item · 10 nodes").await?;
        // Tab goes on to the next: from the body to the foot.
        b.point(BODY).await?;
        picked(b, "1 item · 32 nodes").await?;
        b.find("#bench canvas").await?.send_keys(Key::Tab).await?;
        picked(b, "1 item · 6 nodes").await?;
        // What lies under is reached by a second click.
        b.point(STAR).await?;
        picked(b, "10 nodes").await?;
        b.click("[data-act=backing]").await?;
        step(b, "Backing with 3.00 mm").await?;
        b.point(STAR).await?;
        b.point(STAR).await?;
        picked(b, "69.0 cm²").await?;
        b.click("#undo").await?;
        b.until_text("#summary-tidy", "as traced").await?;
        settled(b).await?;
        // Dragged, nudged, typed, turned, mirrored.
        b.point(KNOB).await?;
        let [x, y, w, _] = place(b).await?;
        b.drag(&[KNOB, (90.0, 20.0), (110.8, 14.0)]).await?;
        step(b, "1 item moved").await?;
        ensure!(
            (place(b).await?[0] - x - 40.0).abs() < 0.4,
            "dragged by 40 mm"
        );
        b.find("#bench canvas")
            .await?
            .send_keys(Key::Shift + Key::Down)
            .await?;
        b.until_text("#summary-tidy", "2 edits").await?;
        settled(b).await?;
        ensure!(
            (place(b).await?[1] - y - 10.0).abs() < 0.4,
            "nudged by 10 mm"
        );
        b.retype("#place-w", "17.5").await?;
        b.find("#place-w").await?.send_keys(Key::Tab).await?;
        step(b, "1 item scaled").await?;
        ensure!((place(b).await?[2] - 2.0 * w).abs() < 0.02, "twice as wide");
        b.retype("#place-turn", "90").await?;
        b.find("#place-turn").await?.send_keys(Key::Tab).await?;
        step(b, "1 item turned").await?;
        b.click("[data-act=mirror]").await?;
        step(b, "1 item mirrored").await?;
        // Three in line, their gaps even; two are a group.
        b.click("[data-pick=ink]").await?;
        with_shift(b, FOOT).await?;
        picked(b, "3 items").await?;
        b.click("[data-align=left]").await?;
        step(b, "3 items in line at the left").await?;
        b.click("[data-distribute=false]").await?;
        step(b, "Gaps between 3 items evened out").await?;
        b.click("[data-act=group]").await?;
        step(b, "3 items grouped").await?;
        b.click("[data-act=duplicate]").await?;
        step(b, "3 items duplicated").await?;
        b.until_text("#summary-trace", "8 shapes").await?;
        b.find("#bench canvas")
            .await?
            .send_keys(Key::Delete)
            .await?;
        step(b, "3 items deleted").await?;
        b.until_text("#summary-trace", "5 shapes").await?;
        // Grown as something new under it; nothing to shrink to is refused.
        b.point(STAR).await?;
        b.click("[data-act=grow]").await?;
        step(b, "1 item offset by 1.00 mm").await?;
        type_in(b, "#offset-by", "40").await?;
        b.click("[data-act=shrink]").await?;
        b.until_text("#problem-tidy", "Nothing would be left")
            .await?;
        b.until_text("#summary-trace", "5 shapes").await?;
        Ok(())
    })
}

#[test]
fn areas_are_put_together_taken_out_and_turned_round() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}", server.address)).await?;
        b.click("[data-snap=nodes]").await?;
        b.click("[data-tool=rectangle]").await?;
        b.drag(&[(110.0, 80.0), (120.0, 90.0), (130.0, 100.0)])
            .await?;
        step(b, "Rectangle drawn").await?;
        b.drag(&[(120.0, 90.0), (130.0, 95.0), (140.0, 110.0)])
            .await?;
        b.until_text("#summary-tidy", "2 edits").await?;
        settled(b).await?;
        b.click("[data-tool=pick]").await?;
        b.press(Key::Escape).await?;
        b.drag(&[(106.0, 77.0), (130.0, 90.0), (146.0, 112.0)])
            .await?;
        picked(b, "2 items").await?;
        // 20 × 20 mm each, a quarter of each under the other.
        for (act, done, area) in [
            ("unite", "united", 700.0),
            ("intersect", "intersected", 100.0),
            ("exclude", "excluded", 600.0),
            ("subtract", "subtracted", 300.0),
        ] {
            b.click(&format!("[data-act={act}]")).await?;
            step(b, &format!("2 items {done}")).await?;
            let said = b.text("#picked").await?;
            let found: f64 = said
                .split(" · ")
                .last()
                .and_then(|a| a.split(' ').next()?.parse().ok())
                .with_context(|| said.clone())?;
            ensure!((found - area).abs() < 0.06 * area, "{act}: {said}");
            b.click("#undo").await?;
            b.until_text("#summary-tidy", "2 edits").await?;
            settled(b).await?;
            b.drag(&[(106.0, 77.0), (130.0, 90.0), (146.0, 112.0)])
                .await?;
            picked(b, "2 items").await?;
        }
        // Those that cross cannot be nested; the handle's hole and the star can be turned round.
        b.click("[data-act=combine]").await?;
        b.until_text("#problem-tidy", "cross each other").await?;
        b.press(Key::Escape).await?;
        b.point(BODY).await?;
        b.click("[data-act=negative]").await?;
        step(b, "Negative of 1 item").await?;
        picked(b, "2 items · 13 nodes").await?;
        b.click("#undo").await?;
        b.until_text("#summary-tidy", "2 edits").await?;
        settled(b).await?;
        // Taken apart and put together again it has its holes.
        b.point(BODY).await?;
        b.click("[data-act=split]").await?;
        step(b, "1 item taken apart").await?;
        picked(b, "3 items").await?;
        b.click("[data-act=combine]").await?;
        step(b, "3 items combined").await?;
        picked(b, "1 item · 32 nodes").await?;
        picked(b, "43.6 cm²").await?;
        // Cut out of what lies under it; mitred, straight, inwards.
        b.press(Key::Escape).await?;
        b.point(KNOB).await?;
        b.choose("#offset-join", "mitred").await?;
        b.click("[data-act=shrink]").await?;
        step(b, "1 item offset by -1.00 mm").await?;
        b.click("#offset-under").await?;
        b.click("[data-act=grow]").await?;
        step(b, "1 item offset by 1.00 mm").await?;
        b.click("[data-act=cut-out]").await?;
        step(b, "1 item cut out").await?;
        // Nothing is left of the knob that lay on it.
        b.until_text("#summary-trace", "6 shapes").await?;
        Ok(())
    })
}

const PLATE: &str = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"80mm\" height=\"40mm\" viewBox=\"0 0 80 40\">\
    <path d=\"M0 0H80V40H0Z M20 20 a5 5 0 1 0 10 0 a5 5 0 1 0 -10 0Z\" fill=\"#205080\" fill-rule=\"evenodd\"/>\
    <text x=\"5\" y=\"5\">left out</text></svg>";
const TRIANGLE: &str = "0\nSECTION\n2\nENTITIES\n0\nLINE\n10\n0\n20\n0\n11\n30\n21\n0\n0\nLINE\n10\n30\n20\n0\n11\n0\n21\n20\n0\nLINE\n10\n0\n20\n20\n11\n0\n21\n0\n0\nENDSEC\n0\nEOF\n";

#[test]
fn vector_files_come_in_and_a_new_trace_keeps_the_edits_beside_it() -> Result<()> {
    with("demo", async |b, _, folder| {
        bring_in(b, folder, "plate.svg", PLATE.as_bytes()).await?;
        b.until_text("#summary-trace", "1 shape").await?;
        b.until_text("#summary-size", "80.0 × 40.0 mm").await?;
        b.click("#line-artwork").await?;
        b.until_text("#ticket", "Left out or changed: 1 texts")
            .await?;
        b.click("#line-tidy").await?;
        settled(b).await?;
        b.click("[data-pick=all]").await?;
        // 80 × 40 mm less a circle of 10 mm across.
        picked(b, "31.2 cm²").await?;
        // A file without units is asked for its width.
        let file = folder.path().join("triangle.dxf");
        std::fs::write(&file, TRIANGLE)?;
        b.reveal("#vector-file").await?;
        b.find("#vector-file")
            .await?
            .send_keys(file.display().to_string())
            .await?;
        b.until_text("#problem-vector", "type its width").await?;
        b.retype("#vector-width", "15").await?;
        b.find("#vector-file")
            .await?
            .send_keys(file.display().to_string())
            .await?;
        step(b, "triangle.dxf brought in").await?;
        let [_, _, w, h] = place(b).await?;
        ensure!(
            (w - 15.0).abs() < 0.01 && (h - 10.0).abs() < 0.01,
            "{w} × {h}"
        );
        // A broken one says so and changes nothing.
        std::fs::write(&file, "0\nSECTION\n2\nENTITIES\n0")?;
        b.find("#vector-file")
            .await?
            .send_keys(file.display().to_string())
            .await?;
        b.until_text("#problem-vector", "cannot be read").await?;
        b.until_text("#summary-trace", "2 shapes").await?;
        // Another size scales what was edited.
        b.click("#line-size").await?;
        b.retype("#f-width", "160").await?;
        b.find("#f-width").await?.send_keys(Key::Tab).await?;
        b.until_undo("Size 160.0 mm × 80.0 mm").await?;
        b.until_text("#summary-trace", "2 shapes").await?;
        // A new trace starts without the edits, says so, and gives them back.
        b.click("#line-trace").await?;
        b.retype("#f-tolerance", "0.2").await?;
        b.find("#f-tolerance").await?.send_keys(Key::Tab).await?;
        b.until_undo("Follow within 0.200 mm, edits set aside")
            .await?;
        b.until_text("#summary-tidy", "as traced").await?;
        b.click("#line-tidy").await?;
        settled(b).await?;
        b.until_text("#tidy-aside", "set aside are kept").await?;
        b.click("[data-back]").await?;
        step(b, "Edited result taken back").await?;
        b.until_text("#summary-trace", "2 shapes").await?;
        b.until_text("#summary-tidy", "2 edits").await?;
        Ok(())
    })
}
