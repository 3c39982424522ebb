//! Eight jobs from a dropped picture to the file for the machine, or to the machine itself: with the mouse, by keys alone, and by touch on
//! 1024 × 768 px. What is done is counted.

use crate::chrome::{Browser, bring_in, with};
use crate::hand::{By, Hand};
use crate::machines::{by_hand, pace};
use crate::settled::{settled, step};
use anyhow::{Result, ensure};
use tempfile::TempDir;

/// One of the demo's pictures, as a file that is dropped, so wide as was typed before.
async fn dropped(
    b: &Browser,
    hand: &mut Hand<'_>,
    folder: &TempDir,
    (sample, width): (usize, &str),
) -> Result<()> {
    let sample = &inky_demo::SAMPLES[sample];
    brought(b, hand, folder, (sample.file_name, sample.file(), width)).await
}

/// The same of its photographs.
async fn photographed(
    b: &Browser,
    hand: &mut Hand<'_>,
    folder: &TempDir,
    (taken, width): (usize, &str),
) -> Result<()> {
    let taken = &inky_demo::PHOTOGRAPHS[taken];
    brought(b, hand, folder, (taken.file_name, taken.file(), width)).await
}

async fn brought(
    b: &Browser,
    hand: &mut Hand<'_>,
    folder: &TempDir,
    (name, bytes, width): (&str, Vec<u8>, &str),
) -> Result<()> {
    hand.fill("[name=arrive_width]", width).await?;
    bring_in(b, folder, name, &bytes).await?;
    hand.did();
    b.find("#summary-send").await?;
    b.until_drawn().await
}

/// Opens a line and waits until it is there.
async fn line(b: &Browser, hand: &mut Hand<'_>, name: &str) -> Result<()> {
    hand.press(&format!("#line-{name}")).await?;
    b.find(&format!("#line-{name}[aria-current]")).await?;
    settled(b).await
}

/// A file of the ending that was asked for.
async fn file(b: &Browser, ending: &str) -> Result<()> {
    let (path, bytes) = b.download().await?;
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    ensure!(
        name.ends_with(ending) && bytes.len() > 200,
        "{name}: {} bytes",
        bytes.len()
    );
    Ok(())
}

/// Mends what the checks found, from the figures at the side.
async fn mended(b: &Browser, hand: &mut Hand<'_>, remedy: &str) -> Result<()> {
    let button = format!("#to-mend [data-mends={remedy}]");
    hand.press(&button).await?;
    let script = format!("return !document.querySelector('{button}')");
    b.until("it is mended", &script).await
}

/// The file of another format than the usual one.
async fn sent_as(hand: &mut Hand<'_>, format: &str) -> Result<()> {
    hand.choose("#machine-format", format).await?;
    hand.press("#machine-file").await
}

/// Three colours of vinyl, 150 mm, that overlap by 0.4 mm, a weed box, a file for each.
async fn decal(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir) -> Result<()> {
    dropped(b, hand, folder, (0, "150")).await?;
    b.until_text("#summary-inks", "3 kept").await?;
    b.until_text("#summary-size", "150.0 × 112.5").await?;
    line(b, hand, "sheet").await?;
    mended(b, hand, "overlap").await?;
    b.until_text("#summary-layers", "overlap 0.40 mm").await?;
    hand.press("#weed-box").await?;
    step(b, "Weed box").await?;
    hand.press("#machine-file").await?;
    file(b, ".zip").await
}

/// A stencil 400 mm wide whose islands are bridged.
async fn stencil(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir) -> Result<()> {
    dropped(b, hand, folder, (1, "400")).await?;
    b.until_text("#summary-size", "400.0 ×").await?;
    line(b, hand, "layers").await?;
    hand.choose("#material", "Stencil film").await?;
    step(b, "Stencil film").await?;
    mended(b, hand, "bridge").await?;
    sent_as(hand, "DXF").await?;
    file(b, ".dxf").await
}

/// A front of ply with inserts of acrylic and a back, four of each on a sheet.
pub(crate) async fn badge(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir) -> Result<()> {
    dropped(b, hand, folder, (2, "60")).await?;
    line(b, hand, "layers").await?;
    hand.choose("#material", "Ply 3 mm").await?;
    step(b, "Ply 3 mm").await?;
    hand.choose("#operation-A", "engrave").await?;
    step(b, "Layer: engrave").await?;
    hand.press("#tab-pieces").await?;
    hand.press("[data-plate]").await?;
    step(b, "Backing of Ply 3 mm").await?;
    let told = "#layer-picked";
    hand.pick_alike((38.8, 11.4), (told, ", of B")).await?;
    b.until_text(told, "4 pieces are picked").await?;
    hand.choose("#inlay-material", "Acrylic").await?;
    hand.choose("#inlay-fit", "press").await?;
    hand.press("[data-inlay]").await?;
    step(b, "Inserts of Acrylic 3 mm").await?;
    hand.press("[data-plate]").await?;
    step(b, "Backing of Acrylic 3 mm").await?;
    line(b, hand, "sheet").await?;
    hand.fill("#copies", "4").await?;
    step(b, "4 copies").await?;
    hand.press("#machine-file").await?;
    file(b, ".zip").await
}

/// Single strokes for a pen, 90 mm wide.
async fn strokes(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir) -> Result<()> {
    dropped(b, hand, folder, (3, "90")).await?;
    b.until_text("#summary-size", "90.0 ×").await?;
    hand.press("[name=edges][value=centreline]").await?;
    b.until_text("#summary-trace", "stroke lines").await?;
    b.until_drawn().await?;
    sent_as(hand, "G-code").await?;
    file(b, ".gcode").await
}

/// A sticker from a small poor JPEG, with a border of 3 mm, as SVG and as PDF.
async fn sticker(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir) -> Result<()> {
    dropped(b, hand, folder, (4, "80")).await?;
    line(b, hand, "tidy").await?;
    b.until("the shapes can be picked", "return document.getElementById('tidy')?.dataset.items === document.getElementById('bench').dataset.key").await?;
    hand.press("#tab-offset").await?;
    hand.press("[data-act=backing]").await?;
    step(b, "Backing with 3.00 mm").await?;
    for format in ["SVG", "PDF"] {
        sent_as(hand, format).await?;
        // One for each colour.
        file(b, ".zip").await?;
    }
    Ok(())
}

/// A sign photographed askew: squared up, one tone, 300 mm, three copies, sent to the cutter after a trial piece.
async fn sign(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir) -> Result<()> {
    photographed(b, hand, folder, (0, "300")).await?;
    b.until(
        "it is offered to be squared up",
        "return document.querySelector('#askew')?.hidden === false",
    )
    .await?;
    hand.press("#askew button").await?;
    step(b, "Squared up").await?;
    b.until_text("#summary-size", "300.0 ×").await?;
    line(b, hand, "sheet").await?;
    hand.fill("#copies", "3").await?;
    step(b, "3 copies").await?;
    hand.press("#trial").await?;
    step(b, "Trial cut").await?;
    hand.press("#to-machine").await?;
    b.until_text("#machine-told", "trial piece").await?;
    hand.press("#send-now").await?;
    b.find("#machine-bench").await?;
    Ok(())
}

/// A portrait in four tones of card, stacked, nothing thinner than the card allows.
async fn portrait(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir) -> Result<()> {
    photographed(b, hand, folder, (1, "150")).await?;
    line(b, hand, "inks").await?;
    hand.press("[name=mode][value=tones]").await?;
    step(b, "4 tones").await?;
    line(b, hand, "layers").await?;
    hand.choose("#material", "Card 240 g").await?;
    step(b, "Card 240 g").await?;
    b.until_text("#summary-layers", "stacked").await?;
    hand.press("#machine-file").await?;
    file(b, ".zip").await
}

/// Nine stickers of 55 mm on an A4 page with a border of 3 mm and a bleed: printed on the simulated printer, and cut on
/// the simulated cutter where its eye finds the marks.
async fn stickers(b: &Browser, hand: &mut Hand<'_>, folder: &TempDir, home: &str) -> Result<()> {
    for machine in [1, 3] {
        b.go(&format!("{home}/machines/{machine}")).await?;
        by_hand(b, &pace(1000)).await?;
    }
    b.page.goto(home).await?;
    dropped(b, hand, folder, (4, "55")).await?;
    line(b, hand, "sheet").await?;
    hand.fill("#copies", "9").await?;
    step(b, "9 copies").await?;
    hand.press("#tab-print").await?;
    hand.press("#print-on").await?;
    step(b, "Printed and cut").await?;
    b.until_text("[data-figures='0']", "9 up").await?;
    hand.press("#print-cut").await?;
    b.until_text("#machine-told", "printed with its marks")
        .await?;
    hand.press("#send-now").await?;
    b.until_text("#machine-bench .ask", "Lay the printed page")
        .await?;
    b.until(
        "the page is printed",
        "return fetch('/machines/3').then((a) => a.text()).then((t) => new DOMParser().parseFromString(t, 'text/html').querySelector('#tray img') !== null)",
    )
    .await?;
    hand.press("#run-go").await?;
    b.until_text("#machine-bench", "Nothing waits for it")
        .await?;
    b.find(".bed image").await?;
    Ok(())
}

async fn all(b: &Browser, home: &str, folder: &TempDir, by: By) -> Result<()> {
    let size = if by == By::Touch {
        (1024, 768)
    } else {
        (1280, 800)
    };
    let mut counts = [(0, 0); 8];
    // The sign waits for its material afterwards, so that the stickers come before it.
    for job in [0, 1, 2, 3, 4, 6, 5, 7] {
        b.page.goto(home).await?;
        // Each as if it were the first.
        b.page
            .execute("localStorage.clear(); sessionStorage.clear()", vec![])
            .await?;
        b.page.refresh().await?;
        b.sized(size.0, size.1).await?;
        let mut hand = Hand::new(b, by);
        let done = match job {
            0 => decal(b, &mut hand, folder).await,
            1 => stencil(b, &mut hand, folder).await,
            2 => badge(b, &mut hand, folder).await,
            3 => strokes(b, &mut hand, folder).await,
            4 => sticker(b, &mut hand, folder).await,
            5 => sign(b, &mut hand, folder).await,
            6 => stickers(b, &mut hand, folder, home).await,
            _ => portrait(b, &mut hand, folder).await,
        };
        done.map_err(|e| e.context(format!("job {} by {by:?}", job + 1)))?;
        counts[job] = (hand.actions, hand.scrolls);
    }
    eprintln!("{by:?}: actions and scrolls {counts:?}");
    for (n, (&(actions, scrolls), most)) in counts.iter().zip(MOST).enumerate() {
        ensure!(
            actions <= most,
            "job {} by {by:?} takes {actions} actions",
            n + 1
        );
        ensure!(
            scrolls == 0 || ![0, 3].contains(&n),
            "job {} by {by:?} scrolls",
            n + 1
        );
    }
    Ok(())
}

/// Actions that each job may take.
const MOST: [u32; 8] = [6, 8, 15, 5, 10, 8, 9, 7];

#[test]
fn eight_jobs_with_the_mouse() -> Result<()> {
    with("serve", async |b, server, folder| {
        all(b, &server.address, folder, By::Mouse).await
    })
}

#[test]
fn eight_jobs_by_keys_alone() -> Result<()> {
    with("serve", async |b, server, folder| {
        all(b, &server.address, folder, By::Keys).await
    })
}

#[test]
fn eight_jobs_by_touch() -> Result<()> {
    with("serve", async |b, server, folder| {
        all(b, &server.address, folder, By::Touch).await
    })
}
