//! Onto the sheet and out as files, as a person does it in headless Chromium.

use std::collections::BTreeMap;
use std::io::Read;

use crate::chrome::{Browser, bring_in, with};
use crate::settled;
use crate::support::png;
use anyhow::{Context, Result, ensure};
use inky_formats::vector;
use thirtyfour::Key;
use thirtyfour::common::print::{PrintPage, PrintParameters};

const TEAPOT: &str = "/jobs/5";
const BEEHIVE: &str = "/jobs/3";

async fn step(b: &Browser, name: &str) -> Result<()> {
    b.until_undo(name).await?;
    settled::sheet(b).await
}

async fn open(b: &Browser, address: &str) -> Result<()> {
    b.go(address).await?;
    b.until_drawn().await?;
    settled::sheet(b).await
}

/// The files of a download by name; a zip is opened.
async fn files(b: &Browser) -> Result<BTreeMap<String, Vec<u8>>> {
    let (path, bytes) = b.download().await?;
    let name = path
        .file_name()
        .context("a name")?
        .to_string_lossy()
        .into_owned();
    if !name.ends_with(".zip") {
        return Ok(BTreeMap::from([(name, bytes)]));
    }
    let mut archive = zip::ZipArchive::new(std::io::Cursor::new(bytes))?;
    let mut found = BTreeMap::new();
    for n in 0..archive.len() {
        let mut file = archive.by_index(n)?;
        let mut own = Vec::new();
        file.read_to_end(&mut own)?;
        found.insert(file.name()?.into_owned(), own);
    }
    Ok(found)
}

async fn choose_format(b: &Browser, word: &str, ending: &str) -> Result<()> {
    let script = format!("document.querySelector('input[name=format][value={word}]').click()");
    b.page.execute(&script, vec![]).await?;
    b.until_text("#send-told", ending).await
}

#[test]
fn two_jobs_are_gathered_nested_weeded_run_through_and_sent() -> Result<()> {
    with("demo", async |b, server, _| {
        // Both in black, so that they are cut from one roll.
        for job in [BEEHIVE, TEAPOT] {
            b.go(&format!("{}{job}/layers", server.address)).await?;
            b.until_drawn().await?;
            let black = "return document.querySelector('#colour-A').value";
            if b.page.execute(black, vec![]).await?.json().as_str() != Some("Black") {
                b.choose("#colour-A", "Black").await?;
                b.until_undo("Layer in Black").await?;
            }
        }
        open(b, &format!("{}{TEAPOT}/sheet", server.address)).await?;
        b.until_text("#summary-sheet", "1 up · 3 sheets").await?;
        b.enter("#copies", "6").await?;
        step(b, "6 copies").await?;
        b.until_text("[data-figures='0']", "6 up").await?;
        b.until_text("[data-figures='0']", "of 610 mm roll").await?;
        let name = "return document.querySelector('[data-sheet=\"0\"]').dataset.name";
        ensure!(b.page.execute(name, vec![]).await?.json() == "Cast vinyl · Black");
        // The hive of another client beside them.
        b.choose("#guest", "Fernhill").await?;
        step(b, "Another job on the sheet").await?;
        b.until_text("[data-figures='0']", "7 up").await?;
        b.enter(".guest input", "2").await?;
        step(b, "Copies of another job").await?;
        b.until_text("[data-figures='0']", "8 up").await?;
        // Nested in the background, kept as a step; shorter than the rows.
        let used = |text: &str| -> Result<f64> {
            let figure = text.split(" · ").nth(1).and_then(|t| t.split(' ').next());
            Ok(figure.context("a length")?.parse()?)
        };
        let rows = used(&b.text("[data-figures='0']").await?)?;
        b.click("#nest").await?;
        step(b, "Nested").await?;
        let nested = used(&b.text("[data-figures='0']").await?)?;
        ensure!(nested <= rows, "{nested} m nested, {rows} m in rows");
        ensure!(b.text("[data-figures='0']").await?.contains("8 up"));
        b.click("#weed-box").await?;
        step(b, "Weed box").await?;
        b.click("#relief").await?;
        step(b, "Relief lines").await?;
        // What was nested stays so. Where no room was left for the box, it is nested again.
        let boxed = used(&b.text("[data-figures='0']").await?)?;
        ensure!(
            (boxed - nested).abs() < 0.03,
            "{boxed} m with the box, {nested} m before"
        );
        b.click("#nest").await?;
        step(b, "Nested").await?;
        b.until(
            "nothing is in the way",
            "return !document.querySelector('[data-figures=\"0\"] .trouble')",
        )
        .await?;
        let weeding = "return fetch(`/jobs/5/sheets/${document.getElementById('sheeting').dataset.sheets}/0.json`).then((a) => a.json())";
        let sheet = b.page.execute(weeding, vec![]).await?;
        let sheet = sheet.json().clone();
        ensure!(
            sheet["boxes"].as_array().is_some_and(|a| a.len() == 1),
            "one box around the nest"
        );
        // Nested with the box in mind: it lies on what can be cut.
        let corner: Vec<f64> = serde_json::from_value(sheet["boxes"][0].clone())?;
        ensure!(
            corner[0] >= 10.0 - 0.03 && corner[1] >= 10.0 - 0.03 && corner[2] <= 600.03,
            "{corner:?}"
        );
        ensure!(sheet["relief"].as_array().is_some_and(|a| a.len() > 10));
        let owners: Vec<&str> = sheet["items"]
            .as_array()
            .context("items")?
            .iter()
            .filter_map(|i| i["owner"].as_str())
            .collect();
        ensure!(
            owners
                .iter()
                .filter(|o| **o == "Fernhill Beekeepers")
                .count()
                == 2,
            "{owners:?}"
        );
        ensure!(
            sheet["items"]
                .as_array()
                .context("items")?
                .iter()
                .all(|i| i["wrong"] == false)
        );
        // Played, stepped and scrubbed; a path pulled to the front.
        b.click("#tab-run").await?;
        b.until_text("#play-told", "Path 1 of").await?;
        b.click("#play").await?;
        b.until(
            "the tool moves on",
            "return Number(document.getElementById('sheeting').dataset.at) > 3",
        )
        .await?;
        b.click("#play").await?;
        let at = "return Number(document.getElementById('sheeting').dataset.at)";
        let before = b.page.execute(at, vec![]).await?.json().as_i64();
        b.click("#on-one").await?;
        let after = b.page.execute(at, vec![]).await?.json().as_i64();
        ensure!(after == before.map(|n| n + 1), "{before:?} {after:?}");
        let path = "return document.getElementById('sheeting').dataset.path";
        let pulled = b.page.execute(path, vec![]).await?.json().clone();
        b.click("[data-pull=first]").await?;
        step(b, "Order of cutting").await?;
        b.until(
            "the run-through is there again",
            "return document.getElementById('play-told').textContent.startsWith('Path')",
        )
        .await?;
        let script = "const r = document.getElementById('scrub'); r.value = 0; r.dispatchEvent(new Event('input'));";
        b.page.execute(script, vec![]).await?;
        ensure!(
            b.page.execute(path, vec![]).await?.json() == &pulled,
            "it is run first"
        );
        // Every format of the sheet, and what each will hold in words.
        b.click("#line-send").await?;
        b.until_text("#send-told", "teapot-emblem-cast-vinyl-black.plt")
            .await?;
        for (word, ending) in [
            ("svg", ".svg"),
            ("dxf", ".dxf"),
            ("plt", ".plt"),
            ("gcode", ".gcode"),
            ("pdf", ".pdf"),
            ("png", ".png"),
        ] {
            choose_format(b, word, ending).await?;
            b.until_text("#send-told", "Weeding").await?;
            b.click("#send-go").await?;
            let found = files(b).await?;
            ensure!(found.len() == 4, "{word}: {:?}", found.keys());
            let name = format!("teapot-emblem-cast-vinyl-black{ending}");
            let bytes = found.get(&name).with_context(|| format!("no {name}"))?;
            if let "svg" | "dxf" | "plt" | "gcode" = word {
                let file = vector::read(bytes)?;
                let closed = file
                    .parts
                    .iter()
                    .flat_map(|p| &p.paths)
                    .filter(|p| p.closed)
                    .count();
                // Six pots of two parts with a star and a handle to look through, two hives, the box.
                ensure!(closed > 6 * 4, "{word}: {closed} rings");
                ensure!(file.size[0] <= 610.001, "{word}: {:?}", file.size);
            }
        }
        Ok(())
    })
}

#[test]
fn parts_are_moved_and_turned_by_hand_and_clashes_are_told() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}/sheet", server.address)).await?;
        b.enter("#copies", "2").await?;
        step(b, "2 copies").await?;
        // The first pot over the second.
        b.drag(&[(60.0, 50.0), (100.0, 60.0), (140.0, 70.0)])
            .await?;
        step(b, "Part moved on the sheet").await?;
        b.until_text("[data-figures='0']", "nearer than the gap")
            .await?;
        b.until_text("#summary-sheet", "clash").await?;
        // The part in hand goes on by keys: turned and nudged.
        let spot = "return fetch(`/jobs/5/sheets/${document.getElementById('sheeting').dataset.sheets}/0.json`).then((a) => a.json()).then((s) => s.items[0].spot)";
        let before = b.page.execute(spot, vec![]).await?.json().clone();
        b.press("]").await?;
        b.until("it is turned", "return fetch(`/jobs/5/sheets/${document.getElementById('sheeting').dataset.sheets}/0.json`).then((a) => a.json()).then((s) => s.items[0].spot.turn === 15)").await?;
        settled::sheet(b).await?;
        b.press(Key::Shift + Key::Down).await?;
        b.until(
            "it is lower by 10 mm",
            &format!("return fetch(`/jobs/5/sheets/${{document.getElementById('sheeting').dataset.sheets}}/0.json`).then((a) => a.json()).then((s) => Math.abs(s.items[0].spot.y - {} - 10) < 0.01)", before["y"]),
        )
        .await?;
        settled::sheet(b).await?;
        b.click("#undo").await?;
        step(b, "Part moved on the sheet").await?;
        b.click("#in-rows").await?;
        step(b, "Laid out in rows").await?;
        b.until(
            "nothing clashes",
            "return !document.querySelector('.trouble')",
        )
        .await?;
        // What cannot be is said beside its control, and nothing changes.
        for (field, typed, problem, words) in [
            (
                "#copies",
                "0",
                "#problem-copies",
                "choose between 1 and 10000",
            ),
            ("#copies", "many", "#problem-copies", "no number of copies"),
            ("#gap", "900mm", "#problem-gap", "outside 0 to 500 mm"),
        ] {
            b.enter(field, typed).await?;
            b.until_text(problem, words).await?;
            let wrong = format!(
                "return document.querySelector('{field}').getAttribute('aria-invalid') === 'true'"
            );
            b.until("the field says that it is wrong", &wrong).await?;
        }
        b.enter("#copies", "5000").await?;
        step(b, "5000 copies").await?;
        b.until_text("[data-figures='0']", "found no room").await?;
        b.click("#fill-width").await?;
        step(b, "Copies fill the width").await?;
        b.until_text("[data-figures='0']", "4 up").await?;
        b.click("#trial").await?;
        step(b, "Trial cut").await?;
        b.until_text("[data-figures='0']", "4 up").await?;
        // Wider than the roll: no room, until it is cut in panels.
        b.click("#line-size").await?;
        b.enter("#f-width", "900mm").await?;
        b.until_undo("Size 900.0 mm × 675.0 mm").await?;
        b.click("#line-sheet").await?;
        settled::sheet(b).await?;
        b.until_text("[data-figures='0']", "cut it in panels")
            .await?;
        b.click("#panels").await?;
        step(b, "Panels").await?;
        b.until(
            "it fits",
            "return !document.querySelector('[data-figures=\"0\"] .trouble')",
        )
        .await?;
        let panels = "return fetch(`/jobs/5/sheets/${document.getElementById('sheeting').dataset.sheets}/0.json`).then((a) => a.json()).then((s) => s.pieces.map((p) => p.size[0]))";
        let widths = b.page.execute(panels, vec![]).await?;
        let widths: Vec<f64> = serde_json::from_value(widths.json().clone())?;
        ensure!(
            widths.iter().filter(|w| **w > 100.0).all(|w| *w <= 590.0),
            "{widths:?}"
        );
        Ok(())
    })
}

#[test]
fn from_a_dropped_picture_to_hpgl_in_two_actions() -> Result<()> {
    with("serve", async |b, _, folder| {
        // A disc and a bar, black on white, 300 px on what becomes 79 mm.
        let art = png(300, 200, |x, y| {
            (x - 90.0).hypot(y - 100.0) < 60.0
                || (180.0..260.0).contains(&x) && (60.0..140.0).contains(&y)
        })?;
        bring_in(b, folder, "sign.png", &art).await?;
        b.until_text("#summary-send", "to cut").await?;
        b.click("#machine-file").await?;
        let found = files(b).await?;
        ensure!(found.len() == 1, "{:?}", found.keys());
        let (name, bytes) = found.first_key_value().context("a file")?;
        ensure!(name.ends_with(".plt"), "{name}");
        let file = vector::read(bytes)?;
        ensure!(file.format == "HPGL");
        let closed = file
            .parts
            .iter()
            .flat_map(|p| &p.paths)
            .filter(|p| p.closed);
        ensure!(closed.count() == 2);
        // From the disc's left edge at 30 px to the bar's right one at 260 px, at 96 px an inch.
        let wide = 230.0 / 96.0 * 25.4;
        ensure!(
            (file.size[0] - wide).abs() < 0.15,
            "{} of {wide} mm",
            file.size[0]
        );
        Ok(())
    })
}

#[test]
fn work_orders_are_printed_on_one_page() -> Result<()> {
    // ISO 216, and ANSI/ASME Y14.1: size A; cm.
    let papers = [(21.0, 29.7), (21.59, 27.94)];
    with("demo", async |b, server, _| {
        for job in 1..=5 {
            b.go(&format!("{}/jobs/{job}/layers", server.address))
                .await?;
            b.until_drawn().await?;
            for (width, height) in papers {
                let sheet = PrintParameters {
                    page: PrintPage { width, height },
                    ..PrintParameters::default()
                };
                let pdf = b.page.print_page(sheet).await?;
                let pdf = String::from_utf8_lossy(&pdf);
                // ISO 32000-1, 7.7.3.2: the root of the tree of pages counts them.
                let pages = pdf.matches("/Type /Page\n").count();
                ensure!(pages == 1, "job {job} takes {pages} pages of {width} cm");
            }
        }
        Ok(())
    })
}

#[test]
fn the_send_line_tells_of_every_wish_before_it_is_written() -> Result<()> {
    with("demo", async |b, server, _| {
        b.go(&format!("{}{TEAPOT}/send", server.address)).await?;
        b.until_text("#send-told", "opens at").await?;
        b.until_text("#send-told", "straight steps within 0.02 mm")
            .await?;
        b.choose("#send-what", "the design").await?;
        b.choose("#send-split", "one file").await?;
        choose_format(b, "dxf", "opens at 150.0 × 112.5 mm").await?;
        b.choose("[name=dxf]", "R12").await?;
        b.until_text("#send-told", "Curves become arcs within 0.005 mm")
            .await?;
        b.choose("[name=unit]", "inches").await?;
        b.until(
            "the address follows",
            "return document.getElementById('send-go').href.includes('unit=in')",
        )
        .await?;
        b.click("#send-go").await?;
        let found = files(b).await?;
        let (_, bytes) = found.first_key_value().context("a file")?;
        let text = String::from_utf8_lossy(bytes);
        ensure!(text.contains("AC1009") && text.contains("POLYLINE") && !text.contains("SPLINE"));
        let file = vector::read(bytes)?;
        ensure!(
            file.stated() && file.size[0] > 100.0 && file.size[0] < 150.0,
            "{:?}",
            file.size
        );
        choose_format(b, "svg", ".svg").await?;
        b.choose("[name=sized]", "72 to the inch").await?;
        b.until_text("#send-told", "75 % as large").await?;
        choose_format(b, "pdf", ".pdf").await?;
        for (paper, words, begins) in [
            ("customer's proof", "to be approved", "%PDF-1"),
            ("work order", "settings, sheets and times", "%PDF-1"),
        ] {
            b.choose("[name=paper]", paper).await?;
            b.until_text("#send-told", words).await?;
            b.until(
                "the address follows",
                "return document.getElementById('send-go').href.includes('paper=')",
            )
            .await?;
            b.click("#send-go").await?;
            let found = files(b).await?;
            let (name, bytes) = found.first_key_value().context("a file")?;
            ensure!(
                name.ends_with(".pdf") && bytes.starts_with(begins.as_bytes()),
                "{name}"
            );
        }
        choose_format(b, "png", ".png").await?;
        b.enter("[name=ppi]", "9").await?;
        b.until_text("#problem-send", "between 10 and 2400").await?;
        b.enter("[name=ppi]", "100").await?;
        b.until(
            "the problem is gone",
            "return document.getElementById('problem-send').textContent === ''",
        )
        .await?;
        Ok(())
    })
}
