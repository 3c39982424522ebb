//! Whether the job page can be used by anybody: on small screens, by keys alone, heard instead of seen, in other
//! colours than its own.

use std::path::Path;

use anyhow::{Context, Result, ensure};
use thirtyfour::prelude::*;

use crate::chrome::{Browser, with};
use crate::settled::{self, open, settled, step};
use crate::tidying::{STAR, TEAPOT, picked, place};

const LINES: [(&str, u32); 9] = [
    ("artwork", 3),
    ("clean", 3),
    ("inks", 4),
    ("trace", 5),
    ("tidy", 5),
    ("layers", 5),
    ("size", 5),
    ("sheet", 5),
    ("send", 5),
];

/// What axe-core finds on the page as it is, a line each; of some rules alone where they are named.
const AXE: &str = "
    const [rules, done] = arguments;
    axe.run({ resultTypes: ['violations'], ...(rules.length && { runOnly: rules }) }).then(
        (found) => done(found.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.target} (${n.failureSummary})`))),
        (error) => done([String(error)]));";

/// What other colours change.
const COLOURS: [&str; 2] = ["color-contrast", "link-in-text-block"];

async fn found_by_axe(b: &Browser, what: &str, rules: &[&str]) -> Result<()> {
    let rules = serde_json::json!(rules);
    let found = b.page.execute_async(AXE, vec![rules]).await?;
    let found = found.json().as_array().context("a list")?.clone();
    ensure!(found.is_empty(), "{what}: {found:#?}");
    Ok(())
}

/// axe-core is a published set of rules for WCAG 2.2 and good practice; `scripts/assets` installs it.
#[test]
fn axe_finds_nothing_on_any_line() -> Result<()> {
    let axe =
        Path::new(env!("CARGO_MANIFEST_DIR")).join("../../assets/node_modules/axe-core/axe.min.js");
    let axe = std::fs::read_to_string(&axe).context("axe-core is missing; run scripts/test")?;
    with("demo", async |b, server, _| {
        let pages = [
            "/",
            "/materials",
            "/offcuts/1",
            "/bin",
            "/nothing-here",
            "/guide/keys",
            "/guide?q=bridge",
        ]
        .map(str::to_owned);
        let lines = LINES.map(|(line, job)| format!("/jobs/{job}/{line}"));
        for address in pages.iter().chain(&lines) {
            b.go(&format!("{}{address}", server.address)).await?;
            if address.starts_with("/jobs") {
                b.until_drawn().await?;
            }
            b.page.execute(&axe, vec![]).await?;
            let tabs = b.page.find_all(By::Css("#line-body [role=tab]")).await?;
            found_by_axe(b, address, &[]).await?;
            for tab in tabs.iter().skip(1) {
                tab.click().await?;
                found_by_axe(b, &format!("{address}, {}", tab.text().await?), &[]).await?;
            }
            for (feature, value) in [
                ("prefers-color-scheme", "dark"),
                ("forced-colors", "active"),
            ] {
                b.feature(feature, value).await?;
                found_by_axe(b, &format!("{address}, {value}"), &COLOURS).await?;
            }
            b.feature("prefers-color-scheme", "light").await?;
        }
        Ok(())
    })
}

#[test]
fn focus_stays_whatever_control_is_pressed() -> Result<()> {
    with("demo", async |b, server, _| {
        b.page
            .set_script_timeout(std::time::Duration::from_secs(240))
            .await?;
        let mut all = 0;
        for (line, job) in LINES {
            b.go(&format!("{}/jobs/{job}/{line}", server.address))
                .await?;
            b.until_drawn().await?;
            let told = b
                .page
                .execute_async(include_str!("walk.js"), vec![])
                .await?;
            let told = told.json();
            let lost = told["lost"].as_array().context("a list")?;
            ensure!(lost.is_empty(), "{line}: {lost:#?}");
            all += told["count"].as_u64().context("a count")?;
        }
        ensure!(all > 150, "only {all} controls were pressed");
        Ok(())
    })
}

/// How much of the open line is out of sight, and by how much the page is too wide, px.
const ROOM: &str = "
    const body = document.getElementById('line-body');
    return [body ? body.scrollHeight - body.clientHeight : 0, document.documentElement.scrollWidth - innerWidth]";

async fn room(b: &Browser) -> Result<(i64, i64)> {
    let found = b.page.execute(ROOM, vec![]).await?;
    let at = |n: usize| found.json()[n].as_i64().context("px");
    Ok((at(0)?, at(1)?))
}

#[test]
fn open_lines_have_room_and_no_page_is_too_wide() -> Result<()> {
    with("demo", async |b, server, _| {
        // The last is 1280 × 800 at twice the size.
        const SIZES: [(u32, u32); 4] = [(1024, 768), (820, 1180), (390, 844), (640, 400)];
        for (line, job) in LINES {
            b.sized(1280, 800).await?;
            b.page
                .goto(&format!("{}/jobs/{job}/{line}", server.address))
                .await?;
            b.until_drawn().await?;
            let most = "const s = document.querySelector('.lines'); const rest = [...s.children].filter((l) => !l.matches('.open')); \
                return s.clientHeight - rest.reduce((sum, l) => sum + l.clientHeight + 1, 0)";
            let most = b
                .page
                .execute(most, vec![])
                .await?
                .json()
                .as_f64()
                .context("px")?;
            ensure!(most >= 400.0, "{line} may have {most} px");
            let (hidden, _) = room(b).await?;
            ensure!(
                hidden <= 0 || ["clean", "layers"].contains(&line),
                "{line}: {hidden} px have to be scrolled to"
            );
            for (wide, high) in SIZES {
                b.sized(wide, high).await?;
                let (_, over) = room(b).await?;
                ensure!(over <= 0, "{line} at {wide} × {high} is {over} px too wide");
            }
        }
        for address in ["/", "/materials"] {
            b.page.goto(&format!("{}{address}", server.address)).await?;
            for (wide, high) in SIZES {
                b.sized(wide, high).await?;
                let (_, over) = room(b).await?;
                ensure!(
                    over <= 0,
                    "{address} at {wide} × {high} is {over} px too wide"
                );
            }
        }
        Ok(())
    })
}

#[test]
fn shapes_nodes_and_parts_are_worked_by_keys_alone() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}", server.address)).await?;
        // From the bench: the second shape, moved, its bar, its nodes one after the other.
        let times = |key: Key, n: usize| String::from(key.value()).repeat(n);
        b.press(times(Key::Tab, 2)).await?;
        picked(b, "1 item").await?;
        let before = place(b).await?;
        b.press(Key::Right).await?;
        step(b, "1 item moved").await?;
        ensure!(
            (place(b).await?[0] - before[0] - 1.0).abs() < 0.02,
            "by 1 mm"
        );
        b.press(Key::Enter).await?;
        let focused = "return document.activeElement.closest('.pick-bar') !== null";
        b.until("the bar has the focus", focused).await?;
        let bar = b.page.active_element().await?;
        bar.send_keys(Key::Left).await?;
        b.page.active_element().await?.send_keys(Key::Enter).await?;
        b.until(
            "its last button took the nodes",
            "return document.getElementById('tab-nodes').getAttribute('aria-selected') === 'true'",
        )
        .await?;
        b.press(times(Key::Tab, 2)).await?;
        picked(b, "One node is picked").await?;
        b.press(Key::Alt + Key::Down).await?;
        step(b, "Node moved").await?;
        // Escape, and Tab leaves the bench.
        b.press(Key::Escape).await?;
        b.hand().send_keys(Key::Tab).perform().await?;
        b.until(
            "the focus went on",
            "return document.activeElement.tagName !== 'CANVAS'",
        )
        .await?;
        // A rectangle by the crosshair: pressed, moved, pressed again.
        b.click("[data-tool=rectangle]").await?;
        let right = times(Key::Right, 6);
        let down = times(Key::Down, 4);
        let enter = Key::Enter.value();
        b.press(format!("{right}{enter}{right}{down}{enter}"))
            .await?;
        step(b, "Rectangle drawn").await?;
        let announced = "return document.getElementById('announce').textContent";
        let told = b.page.execute(announced, vec![]).await?;
        let told = told.json().as_str().unwrap_or_default().to_owned();
        ensure!(told.starts_with("Rectangle drawn"), "{told}");
        // A part on the sheet, moved and turned.
        b.go(&format!("{}/jobs/5/sheet", server.address)).await?;
        settled::sheet(b).await?;
        b.press(Key::Tab).await?;
        b.until_text("#held-part", "in hand").await?;
        b.press(Key::Shift + Key::Right).await?;
        b.until_undo("Part moved on the sheet").await?;
        settled::sheet(b).await?;
        b.press(".").await?;
        b.until(
            "it is turned",
            "return fetch(`/jobs/5/sheets/${document.getElementById('sheeting').dataset.sheets}/0.json`).then((a) => a.json()).then((s) => s.items.some((i) => i.spot.turn === 15))",
        )
        .await
    })
}

#[test]
fn what_is_folded_away_and_where_the_bench_lies_are_kept() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{TEAPOT}", server.address);
        open(b, &address).await?;
        let folded = "return !document.getElementById('ticket').checkVisibility()";
        b.press("t").await?;
        b.until("the ticket is folded away", folded).await?;
        b.go(&address).await?;
        b.until("it still is", folded).await?;
        b.click(".unfold.left").await?;
        b.until(
            "it is back",
            "return document.getElementById('ticket').checkVisibility()",
        )
        .await?;
        settled(b).await?;
        // Zoomed to, then another line with another space, and back.
        let scale = "Number(document.querySelector('canvas').dataset.view.split(' ')[0])";
        let fitted = b.page.execute(&format!("return {scale}"), vec![]).await?;
        b.press("+++").await?;
        // Each step makes it a quarter larger.
        let larger = fitted.json().as_f64().unwrap_or_default() * 1.25f64.powi(3);
        let rests = format!("return Math.abs({scale} / {larger} - 1) < 1e-3");
        b.until("it is zoomed to", &rests).await?;
        let view = "return document.querySelector('canvas').dataset.view";
        let zoomed = b.page.execute(view, vec![]).await?.json().clone();
        b.click("#line-sheet").await?;
        b.until(
            "the sheet lies elsewhere",
            &format!("return document.querySelector('canvas').dataset.view !== {zoomed}"),
        )
        .await?;
        b.click("#line-tidy").await?;
        let same = format!(
            "const near = (a, b) => Math.abs(a - b) < 0.5; const [was, now] = [{zoomed}, document.querySelector('canvas').dataset.view].map((v) => v.split(' ').map(Number)); \
             return was.every((v, n) => near(v, now[n]))"
        );
        b.until("it lies where it lay", &same).await?;
        b.go(&address).await?;
        b.until("after a reload too", &same).await?;
        // The bar beside what is picked does what it says.
        b.press("0").await?;
        b.point(STAR).await?;
        picked(b, "1 item · 10 nodes").await?;
        let apart = "const bar = document.querySelector('.pick-bar').getBoundingClientRect(), c = document.querySelector('canvas'), r = c.getBoundingClientRect(); \
            const [s, , y] = c.dataset.view.split(' ').map(Number); return !document.querySelector('.pick-bar').hidden && bar.bottom <= r.top + y + s * 47";
        b.until("the bar stands clear of the star", apart).await?;
        b.click(".pick-bar [data-act=duplicate]").await?;
        step(b, "1 item duplicated").await?;
        b.click(".pick-bar summary").await?;
        b.click(".pick-inks button:nth-child(2)").await?;
        step(b, "1 item in another ink").await
    })
}
