//! A job leaves the page, is cut by a simulated machine over a real connection, and comes back with what was done.

use crate::chrome::{Browser, with};
use crate::eight_jobs::badge;
use crate::hand::{By, Hand};
use crate::settled::{open, step};
use anyhow::{Context, Result, ensure};

/// The bench of the machine is at a phase of its run.
async fn phase(b: &Browser, word: &str) -> Result<()> {
    b.until(
        &format!("the run is {word}"),
        &format!("return document.querySelector('.run')?.dataset.phase === '{word}'"),
    )
    .await
}

/// What is done to the machine by hand, once it is in force.
pub(crate) async fn by_hand(b: &Browser, change: &str) -> Result<()> {
    b.page
        .execute(
            "window.handsTaken = false; \
             document.addEventListener('htmx:afterRequest', (e) => { if (e.detail.requestConfig.path.endsWith('/hands')) window.handsTaken = true; })",
            vec![],
        )
        .await?;
    b.page.execute(change, vec![]).await?;
    b.until("it is in force", "return window.handsTaken").await
}

pub(crate) fn pace(times: u32) -> String {
    format!(
        "const pace = document.querySelector('[name=pace]'); pace.value = '{times}'; pace.dispatchEvent(new Event('change', {{ bubbles: true }}))"
    )
}

/// Waits until so many paths are done.
async fn far(b: &Browser, paths: usize) -> Result<()> {
    b.until(
        &format!("{paths} paths are done"),
        &format!(
            "return parseInt(document.querySelector('.far span')?.textContent ?? '0') >= {paths}"
        ),
    )
    .await
}

/// The stops of the run, with how each stands.
async fn stops(b: &Browser) -> Result<Vec<String>> {
    let script = "return [...document.querySelectorAll('.stops li')].map((li) => `${li.className} ${li.querySelector('b').textContent}`)";
    let found = b.page.execute(script, vec![]).await?;
    Ok(serde_json::from_value(found.json().clone())?)
}

/// What the tool really did lies on what was sent, and is as large as the design that is downloaded.
async fn really(b: &Browser, job: &str) -> Result<()> {
    let told = b.text("#farthest").await?;
    let off = told.split(' ').find_map(|w| w.parse::<f64>().ok());
    ensure!(off.context("how far off")? <= 0.05, "{told}");
    // A roll is drawn as under Sheet.
    let script = format!(
        "return fetch('{job}/cut.svg').then((answer) => answer.text()).then((text) => {{ \
           const design = new DOMParser().parseFromString(text, 'image/svg+xml').documentElement; \
           document.body.append(design); \
           const [a, b] = [design.getBBox(), document.querySelector('.bed .really').getBBox()]; \
           design.remove(); \
           return [a.width, a.height, b.width, b.height]; \
         }})"
    );
    let found = b.page.execute(&script, vec![]).await?;
    let sides: [f64; 4] = serde_json::from_value(found.json().clone())?;
    ensure!(
        (sides[0] - sides[2]).abs() < 0.05 && (sides[1] - sides[3]).abs() < 0.05,
        "{sides:?}"
    );
    Ok(())
}

#[test]
fn a_decal_of_three_colours_is_cut_with_a_trial_piece_a_pause_and_a_cable_pulled_out() -> Result<()>
{
    with("demo", async |b, server, _| {
        open(b, &format!("{}/jobs/5/sheet", server.address)).await?;
        b.click("#trial").await?;
        step(b, "Trial cut").await?;
        b.go(&format!("{}/jobs/5/send", server.address)).await?;
        b.click("#tab-machine").await?;
        b.until_text("#machine-told", "trial piece").await?;
        b.click("#send-now").await?;
        b.until_text("#machine-bench .ask", "Load Cast vinyl")
            .await?;
        let all = stops(b).await?;
        ensure!(all.len() == 6 && all[0].contains("trial piece"), "{all:?}");

        by_hand(b, &pace(10)).await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench .ask", "Look at the trial piece")
            .await?;
        by_hand(b, &pace(1)).await?;
        b.click("#run-go").await?;
        phase(b, "running").await?;
        far(b, 1).await?;
        // Paused by its key, and gone on with.
        b.page
            .execute("document.activeElement.blur()", vec![])
            .await?;
        b.find("body").await?.send_keys("p").await?;
        phase(b, "paused").await?;
        b.find("body").await?.send_keys("p").await?;
        phase(b, "running").await?;
        // The cable is out, and in again.
        by_hand(b, "document.querySelector('[name=unplugged]').click()").await?;
        phase(b, "broken").await?;
        b.until_text("#machine-bench .broke", "the line to the machine is gone")
            .await?;
        by_hand(b, "document.querySelector('[name=unplugged]').click()").await?;
        by_hand(b, &pace(100)).await?;
        b.click("#run-go").await?;
        // The next colour is asked for; all of the first was cut, and once.
        b.until_text("#machine-bench .ask", "Load Cast vinyl · Rust")
            .await?;
        for _ in 0..2 {
            b.click("#run-go").await?;
            b.until_text("#machine-bench .ask", "Look at the trial piece")
                .await?;
            b.click("#run-go").await?;
            b.until(
                "the stop is done",
                "return !document.querySelector('.run') || document.querySelector('#machine-bench .ask')?.textContent.startsWith('Load')",
            )
            .await?;
        }
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        b.until_text("#farthest", "Really cut").await?;
        ensure!(b.text("#farthest").await?.contains("0.0"));
        b.go(&format!("{}/machines/1", server.address)).await?;
        b.until_text(".over", "Teapot emblem").await?;
        b.until_text(".over", "finished").await
    })
}

#[test]
fn lost_steps_and_garbled_answers_are_seen() -> Result<()> {
    with("demo", async |b, server, _| {
        // The lantern is one shape; its holes are four paths more or less, cut in one go.
        b.go(&format!("{}/machines/1", server.address)).await?;
        by_hand(b, &pace(100)).await?;
        by_hand(
            b,
            "const field = document.querySelector('[name=astray]'); field.value = '0.5'; field.dispatchEvent(new Event('change', { bubbles: true }))",
        )
        .await?;
        b.go(&format!("{}/jobs/1/send", server.address)).await?;
        b.click("#tab-machine").await?;
        b.until_text("#machine-told", "Cast vinyl").await?;
        b.click("#send-now").await?;
        b.until_text("#machine-bench .ask", "Load Cast vinyl")
            .await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        // Each stroke lies half a millimetre farther off.
        let told = b.text("#farthest").await?;
        let off: f64 = told
            .split(' ')
            .find_map(|w| w.parse().ok())
            .context("how far off")?;
        ensure!(off > 0.3, "{told}");
        by_hand(
            b,
            "const field = document.querySelector('[name=astray]'); field.value = ''; field.dispatchEvent(new Event('change', { bubbles: true }))",
        )
        .await?;
        by_hand(b, "document.querySelector('[name=garbled]').click()").await?;
        b.go(&format!("{}/jobs/1/send", server.address)).await?;
        b.click("#tab-machine").await?;
        b.until_text("#machine-told", "is loaded").await?;
        // One press sends: what it needs is loaded.
        b.click("#send-now").await?;
        b.until_text("#machine-bench .broke", "makes no sense")
            .await?;
        by_hand(b, "document.querySelector('[name=garbled]').click()").await?;
        b.click("#run-again").await?;
        phase(b, "ready").await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        really(b, "/jobs/1").await
    })
}

#[test]
fn a_kerf_is_found_with_a_comb_and_a_badge_is_engraved_and_cut() -> Result<()> {
    with("demo", async |b, server, folder| {
        b.go(&format!("{}/machines/2", server.address)).await?;
        by_hand(b, &pace(1000)).await?;
        // The comb is cut; what is measured of it is typed.
        b.go(&format!("{}/materials", server.address)).await?;
        let ply = "[...document.querySelectorAll('.material-cards a')].find((a) => a.textContent.includes('Ply 3 mm'))";
        b.page.execute(&format!("{ply}.click()"), vec![]).await?;
        b.find("#comb-send").await?;
        b.click("#comb-send").await?;
        b.until_text("#machine-bench .ask", "Load Ply 3 mm").await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        b.until_text("#farthest", "Really cut").await?;
        b.go(&format!("{}/materials", server.address)).await?;
        b.page.execute(&format!("{ply}.click()"), vec![]).await?;
        b.find("#kerf-reckon").await?;
        b.click("#kerf-reckon").await?;
        b.until_text("#problem-kerf", "3 figures are needed")
            .await?;
        for (field, width) in [
            ("slot_0", "2.22"),
            ("piece_0", "1.80"),
            ("slot_3", "5.20"),
            ("piece_5", "7.80"),
        ] {
            b.enter(&format!("[name={field}]"), width).await?;
        }
        b.click("#kerf-reckon").await?;
        b.until_text("#kerf-found", "0.205 mm ± 0.005 mm, of 4 figures")
            .await?;
        b.click("#kerf-take").await?;
        b.until("it is the material's", "return document.querySelector('#m-kerf')?.value === '0.21' || document.querySelector('#m-kerf')?.value === '0.205' || document.querySelector('#m-kerf')?.value === '0.2'").await?;

        // Engraved and cut from ply, with inserts of acrylic.
        b.go(&server.address).await?;
        badge(b, &mut Hand::new(b, By::Mouse), folder).await?;
        b.click("#line-send").await?;
        b.click("#tab-machine").await?;
        b.until_text("#machine-told", "Ply 3 mm").await?;
        b.until_text("#machine-told", "Acrylic 3 mm").await?;
        b.click("#send-now").await?;
        b.find("#machine-bench .stops").await?;
        let all = stops(b).await?;
        ensure!(
            all.len() == 3 && all[0].contains("Ply 3 mm") && all[1].contains("Acrylic 3 mm"),
            "{all:?}"
        );
        for stock in ["Load Ply 3 mm", "Load Acrylic 3 mm · Black"] {
            b.until_text("#machine-bench .ask", stock).await?;
            b.click("#run-go").await?;
        }
        b.until_text("#machine-bench .ask", "Load Acrylic 3 mm · Amber")
            .await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        let told = b.text("#farthest").await?;
        let off = told.split(' ').find_map(|w| w.parse::<f64>().ok());
        ensure!(off.context("how far off")? <= 0.05, "{told}");
        // Areas are engraved, row by row, before anything is cut through: the fast feed comes first.
        let log =
            "return fetch(document.querySelector('.over a[download]').href).then((a) => a.text())";
        b.go(&format!("{}/machines/2", server.address)).await?;
        let log = b.page.execute(log, vec![]).await?;
        let log = log.json().as_str().context("a log")?.to_owned();
        let feeds: Vec<f64> = log
            .split('F')
            .skip(1)
            .filter_map(|rest| {
                let digits: String = rest
                    .chars()
                    .take_while(|c| c.is_ascii_digit() || *c == '.')
                    .collect();
                digits.parse().ok()
            })
            .collect();
        let (first, slowest) = (
            feeds.first().context("feeds")?,
            feeds.iter().copied().fold(f64::MAX, f64::min),
        );
        ensure!(*first > 2.0 * slowest, "{feeds:?}");
        Ok(())
    })
}

#[test]
fn trials_set_a_material_and_a_queue_is_put_in_order_and_gathered() -> Result<()> {
    with("demo", async |b, server, _| {
        // A row of squares and one of circles are cut; those that came out right are pointed at.
        let film = format!("{}/materials/1", server.address);
        b.go(&film).await?;
        b.click("#knife-send").await?;
        b.until_text(
            "#machine-bench .ask",
            "Load Cast vinyl, a piece of 80 mm × 45 mm",
        )
        .await?;
        b.click("#run-leave").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        for (field, input, value) in [
            ("Offset of the blade 0.35 mm", "#m-offset", "0.35"),
            ("Overcut 1.00 mm", "#m-overcut", "1.0"),
        ] {
            b.go(&film).await?;
            b.click(&format!("[aria-label='{field}']")).await?;
            let is = format!("return document.querySelector('{input}')?.value === '{value}'");
            b.until(&format!("{input} is {value}"), &is).await?;
        }
        // A field of the grid, for a laser.
        b.go(&format!("{}/materials/6", server.address)).await?;
        b.find("#grid-send").await?;
        b.click("[aria-label='80 %, 7.5 mm/s']").await?;
        b.until(
            "it is cut so",
            "return document.querySelector('#m-cut_speed')?.value === '7.5' && document.querySelector('#m-cut_most')?.value === '80'",
        )
        .await?;

        // Two jobs and a trial wait: dragged down, moved up by a button, laid on one sheet.
        for job in [5, 1] {
            b.go(&format!("{}/jobs/{job}/send", server.address)).await?;
            b.click("#tab-machine").await?;
            b.until_text("#machine-told", "path").await?;
            b.click("#send-now").await?;
            b.until_text("#machine-bench .ask", "Load Cast vinyl")
                .await?;
        }
        b.go(&film).await?;
        b.click("#knife-send").await?;
        b.find("[data-run='4']").await?;
        let order = |runs: &str| {
            format!(
                "return [...document.querySelectorAll('[data-run]')].map((r) => r.dataset.run).join() === '{runs}'"
            )
        };
        b.until("they wait in turn", &order("3,4")).await?;
        b.carry("[data-run='3'] b", "[data-run='4'] b").await?;
        b.until("it was dragged down", &order("4,3")).await?;
        b.click("#up-3").await?;
        b.until("it was moved up", &order("3,4")).await?;
        b.until_text(".queue", "done about").await?;
        b.click("#gather-3").await?;
        b.until("one is left", &order("4")).await?;
        b.until_text("#machine-bench h3", " + ").await?;

        // Printed in its true size.
        b.go(&format!("{}/machines/3", server.address)).await?;
        by_hand(b, &pace(1000)).await?;
        b.go(&format!("{}/jobs/2/send", server.address)).await?;
        b.click("#tab-machine").await?;
        b.choose("#send-machine", "Practice printer").await?;
        b.until_text("#machine-told", "printed in their true size")
            .await?;
        b.click("#send-now").await?;
        b.until_text("#machine-bench .ask", "Put paper in").await?;
        b.click("#run-go").await?;
        b.until(
            "a sheet is in the tray",
            "const print = document.querySelector('#tray img'); return print !== null && print.complete && print.naturalWidth > 600",
        )
        .await?;
        Ok(())
    })
}
