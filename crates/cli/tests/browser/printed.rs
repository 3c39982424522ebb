//! Nine stickers on an A4 page: printed with border and bleed, their marks found, and cut on the printed edge, in
//! headless Chromium.

use std::fs;

use anyhow::{Context, Result, ensure};
use inky_demo::photograph::{self, Camera};
use inky_devices::printed::{Eye, Lying};
use kurbo::{Affine, Line, Point, Vec2};
use thirtyfour::Key;

use crate::chrome::{Browser, with};
use crate::machines::by_hand;
use crate::settled::{self, open, step};
use crate::support::bed::OnBed;
use crate::support::blade::{blade, lines, off};

/// The lantern of the demo.
const LANTERN: &str = "/jobs/1";

/// A file of the page's own address.
async fn file(b: &Browser, server: &str, css: &str) -> Result<Vec<u8>> {
    let script = format!("return document.querySelector('{css}').getAttribute('href')");
    let address: String = b.page.execute(&script, vec![]).await?.convert()?;
    let answer = reqwest::get(format!("{server}{address}")).await?;
    ensure!(
        answer.status().is_success(),
        "{address}: {}",
        answer.status()
    );
    Ok(answer.bytes().await?.to_vec())
}

/// Nine lanterns of 55 mm with a border of 3 mm, printed and cut out.
async fn nine_stickers(b: &Browser, server: &str) -> Result<()> {
    open(b, &format!("{server}{LANTERN}/size")).await?;
    b.enter("#f-width", "55").await?;
    step(b, "Size 55.0 mm × 71.5 mm").await?;
    b.click("#line-sheet").await?;
    b.click("#tab-print").await?;
    b.click("#print-on").await?;
    step(b, "Printed and cut").await?;
    b.click("#print-code").await?;
    step(b, "Code in the margin").await?;
    b.click("#tab-copies").await?;
    b.enter("#copies", "9").await?;
    step(b, "9 copies").await?;
    Ok(())
}

/// Types where the marks were found, and asks for the file that cuts there.
async fn found_at(b: &Browser, places: [Option<Point>; 3]) -> Result<()> {
    let names = ["lower_left", "lower_right", "upper_left"];
    for (name, place) in names.iter().zip(places) {
        let p = place.context("all are found")?;
        let typed = format!("{:.3}, {:.3}", p.x, p.y);
        b.enter(&format!("#print-found [name={name}]"), &typed)
            .await?;
    }
    b.click("#print-found button").await
}

#[test]
fn nine_stickers_are_printed_and_cut_where_their_marks_were_found() -> Result<()> {
    with("demo", async |b, server, _| {
        nine_stickers(b, &server.address).await?;
        b.click("#tab-print").await?;
        b.click("#tab-copies").await?;
        b.until_text("[data-figures='0']", "9 up").await?;
        b.until(
            "nothing is left out",
            "return !document.querySelector('[data-figures=\"0\"] .trouble')",
        )
        .await?;
        b.click("#tab-print").await?;
        let told = b.text("#print-told").await?;
        ensure!(
            told.contains("The marks lie 174.0 mm and 231.0 mm apart"),
            "{told}"
        );
        // A mark is dragged up on the bench by 20 mm. What is drawn begins where pictures may lie, 16 and 15 mm in; a pixel
        // of the screen is half a mm.
        settled::sheet(b).await?;
        let lies = |down: f64| (192.0 - 16.0, down - 15.0);
        b.drag(&[lies(249.0), lies(229.0)]).await?;
        step(b, "Mark moved").await?;
        let at = b.value("#mark-at-1").await?;
        let place: Option<Vec<f64>> = at.split(", ").map(|v| v.parse().ok()).collect();
        let near = |p: &[f64]| (p[0] - 192.0).abs() < 1.0 && (p[1] - 229.0).abs() < 1.0;
        ensure!(place.is_some_and(|p| near(&p)), "it lies at {at}");
        b.enter("#mark-at-0", "4, 4").await?;
        b.until_text("#problem-marks", "ow far from the left a mark lies")
            .await?;
        b.click("#marks-back").await?;
        step(b, "Marks in their corners").await?;
        // The bench shows paper, marks and pictures.
        let drawn = format!(
            "return fetch(`{LANTERN}/sheets/${{document.getElementById('sheeting').dataset.sheets}}/0.json`).then((a) => a.json()).then((s) => [s.page.paper[2], s.page.paper[3], s.page.pictures.length, s.items.length])"
        );
        let drawn: Vec<f64> = b.page.execute(&drawn, vec![]).await?.convert()?;
        ensure!(drawn == [210.0, 297.0, 1.0, 9.0], "{drawn:?}");
        // The page, with the lantern's own JPEG in it once.
        let page = file(b, &server.address, "#page-pdf").await?;
        let original = reqwest::get(format!("{}{LANTERN}/original", server.address)).await?;
        let original = original.bytes().await?;
        let times = page
            .windows(original.len())
            .filter(|w| *w == original)
            .count();
        ensure!(page.starts_with(b"%PDF-") && times == 1, "{times} times");
        ensure!(
            file(b, &server.address, "#page-png")
                .await?
                .starts_with(b"\x89PNG")
        );
        // It lies somehow on the cutter, and its eye finds the marks.
        let marks = [
            Point::ORIGIN,
            Point::new(174.0, 0.0),
            Point::new(0.0, 231.0),
        ];
        let lying = Lying::at_random(11, Vec2::new(40.0, 40.0));
        let eye = Eye {
            noise: 0.0,
            blind_to: None,
        };
        let found = eye.finds(&marks, &lying, 11);
        found_at(b, [found[0], found[1], found[2]]).await?;
        b.until_text("#found-told", "the marks agree within 0.00 mm")
            .await?;
        let cut = file(b, &server.address, "#found-told a").await?;
        let design = reqwest::get(format!(
            "{}{LANTERN}/file?format=svg&what=sheets",
            server.address
        ))
        .await?;
        let edges = lines(&design.bytes().await?)?;
        let printed: Vec<Line> = edges.iter().map(|l| lying.map * *l).collect();
        let off = off(&blade(&cut), &printed);
        ensure!(
            off < 0.15,
            "the blade runs {off} mm beside the printed edge"
        );
        // Marks that are taken in another order are told, and no file is offered.
        found_at(b, [found[0], found[2], found[1]]).await?;
        b.until_text("#found-told", "Marks 2 and 3 seem to be swapped")
            .await?;
        let offered = b
            .page
            .execute(
                "return document.querySelectorAll('#found-told a').length",
                vec![],
            )
            .await?;
        ensure!(offered.json() == 0, "a file is offered");
        // What cannot be is told beside its control, and undone the layers are cut again.
        b.enter("#print-bleed", "60").await?;
        b.until_text("#problem-bleed", "bleed of 60 mm is outside 0 to 20 mm")
            .await?;
        b.click("#print-on").await?;
        step(b, "Not printed").await
    })
}

/// Changes what is set beside a simulated machine.
pub(crate) fn set(name: &str, value: &str) -> String {
    format!(
        "const s = document.querySelector('[name={name}]'); s.value = '{value}'; s.dispatchEvent(new Event('change', {{ bubbles: true }}))"
    )
}

/// How far the blade ran beside the printed edge, mm: the edges of the design as the printer slipped and as the sheet
/// lies on the bench, against the strokes that are drawn there.
async fn beside_print(b: &Browser, server: &str) -> Result<f64> {
    let design = reqwest::get(format!("{server}{LANTERN}/file?format=svg&what=sheets")).await?;
    let edges = lines(&design.bytes().await?)?;
    let slip = inky_devices::printer::Model::default().slip;
    // From the first mark, y up, to the sheet's upper left corner, y down: margins of 15 mm, 45 mm below, half a mark.
    let page = Affine::new([1.0, 0.0, 0.0, -1.0, 18.0, 297.0 - 48.0]);
    let printed = Affine::translate((slip.shift[0], slip.shift[1]))
        * Affine::rotate(slip.turn.to_radians())
        * Affine::skew(slip.skew, 0.0)
        * Affine::scale_non_uniform(slip.stretch[0], slip.stretch[1]);
    let drawn = "return document.querySelector('.bed .really').getAttribute('d')";
    let way: String = b.page.execute(drawn, vec![]).await?.convert()?;
    let lying = lying(b).await?;
    let edges: Vec<Line> = edges.iter().map(|l| lying * printed * page * *l).collect();
    let figures = way.split(['M', 'L', ' ']).filter(|t| !t.is_empty());
    let figures: Result<Vec<f64>, _> = figures.map(str::parse).collect();
    let places: Vec<Point> = figures?
        .chunks_exact(2)
        .map(|p| Point::new(p[0], p[1]))
        .collect();
    ensure!(places.len() > 200, "{} places", places.len());
    Ok(off(&places, &edges))
}

/// Where the printed sheet lies in the drawing of the bench, mm.
async fn lying(b: &Browser) -> Result<Affine> {
    let drawn = "const m = document.querySelector('.bed image').transform.baseVal.consolidate().matrix; return [m.a, m.b, m.c, m.d, m.e, m.f]";
    let matrix: [f64; 6] = b.page.execute(drawn, vec![]).await?.convert()?;
    Ok(Affine::new(matrix))
}

/// Prints the nine on the simulated printer and sends their cut to the simulated cutter, whose bench is open then.
pub(crate) async fn printed_and_sent(b: &Browser, server: &str) -> Result<()> {
    for machine in [1, 3] {
        b.go(&format!("{server}/machines/{machine}")).await?;
        by_hand(b, &set("pace", "1000")).await?;
    }
    nine_stickers(b, server).await?;
    b.click("#line-send").await?;
    b.click("#tab-machine").await?;
    b.until_text("#machine-told", "Printed page").await?;
    b.until_text("#machine-told", "printed with its marks")
        .await?;
    b.choose("#send-then", "none yet").await?;
    b.click("#send-now").await?;
    b.until(
        "the page lies in the tray",
        "return !!document.querySelector('.tray img')",
    )
    .await?;
    let left_out = b
        .page
        .execute(
            "return !!document.querySelector('.tray .warn-note')",
            vec![],
        )
        .await?;
    ensure!(left_out.json() == false, "the printer left something out");
    open(b, &format!("{server}{LANTERN}/send")).await?;
    b.click("#tab-machine").await?;
    b.choose("#send-machine", "Practice cutter").await?;
    b.until_text("#machine-told", "9 paths").await?;
    b.click("#send-now").await?;
    b.until_text("#machine-bench .ask", "Lay the printed page")
        .await
}

#[test]
fn a_page_printed_and_laid_askew_is_cut_where_the_eye_finds_its_marks() -> Result<()> {
    with("demo", async |b, server, _| {
        printed_and_sent(b, &server.address).await?;
        // The eye misses the second mark: that is said, and nothing is cut.
        by_hand(b, &set("eye_misses", "2")).await?;
        b.click("#run-go").await?;
        b.until_text(".marks h4", "by its eye").await?;
        let found =
            "return [0, 1, 2].map((n) => document.querySelector(`#mark-${n}`).value !== '')";
        let found: Vec<bool> = b.page.execute(found, vec![]).await?.convert()?;
        ensure!(found.iter().filter(|f| **f).count() == 2, "{found:?}");
        // The head is moved there by keys; a place that cannot be is told.
        let missing = found.iter().position(|f| !f).context("one is missing")?;
        let right = b.find(&format!("#head-{missing}-right")).await?;
        right.send_keys(Key::Right).await?;
        b.until_text(".marks h4", "by hand").await?;
        b.enter(&format!("#mark-{missing}"), "400, 400").await?;
        b.until_text(".marks", "cannot be cut there").await?;
        // It looks again, and sees all.
        by_hand(b, &set("eye_misses", "")).await?;
        b.click("#marks-look").await?;
        b.until_text("#marks-told", "turned by").await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        let beside = beside_print(b, &server.address).await?;
        ensure!(
            beside < 0.15,
            "the blade runs {beside} mm beside the printed edge"
        );
        Ok(())
    })
}

/// Four marks stick on the bed beyond the sheet, 300 mm apart along the roll and 200 mm across it.
#[test]
fn the_same_page_is_cut_where_a_photograph_of_the_bed_shows_it() -> Result<()> {
    with("demo", async |b, server, folder| {
        printed_and_sent(b, &server.address).await?;
        // The eye is there to lay the sheet: what it finds is not used.
        b.click("#marks-look").await?;
        b.until_text(".marks h4", "by its eye").await?;
        let lies = lying(b).await?;
        let address = "return document.querySelector('.bed image').href.baseVal";
        let address: String = b.page.execute(address, vec![]).await?.convert()?;
        let sheet = reqwest::get(format!("{}{address}", server.address)).await?;
        let sheet = image::load_from_memory(&sheet.bytes().await?)?.to_rgb8();
        let per_mm = f64::from(sheet.width()) / 210.0;
        // The drawing shows the roll from above, its length downwards: the first axis of the machine.
        let drawn = Affine::new([0.0, 1.0, 1.0, 0.0, 0.0, 0.0]);
        let (left, low, long, wide) = (0.0, 245.0, 300.0, 200.0);
        let corners = [
            (left, low),
            (left + long, low),
            (left + long, low + wide),
            (left, low + wide),
        ];
        let scene = OnBed {
            page: sheet,
            to_px: Affine::scale(per_mm) * lies.inverse() * drawn,
            marks: corners.map(Point::from),
        };
        let camera = Camera {
            angles: [9.0, -12.0, 4.0],
            dusk: 0.3,
            ..Camera::before(Point::new(222.0, 150.0), 430.0, (2000, 1500))
        };
        let file = folder.path().join("bed.jpg");
        fs::write(&file, photograph::file(&scene.taken(&camera, drawn), 88))?;
        // One without marks is refused in words; what was found stays.
        let other = folder.path().join("other.png");
        fs::write(&other, inky_demo::SAMPLES[0].file())?;
        b.click("#by-photo summary").await?;
        for (name, value) in [
            ("left", left),
            ("low", low),
            ("width", long),
            ("height", wide),
        ] {
            b.enter(&format!("#by-photo [name={name}]"), &value.to_string())
                .await?;
        }
        let input = b.find("#by-photo [type=file]").await?;
        input.send_keys(other.to_string_lossy()).await?;
        b.click("#by-photo button").await?;
        b.until_text("#problem-marks", "of the bed's 4 marks are seen")
            .await?;
        let input = b.find("#by-photo [type=file]").await?;
        input.send_keys(file.to_string_lossy()).await?;
        b.click("#by-photo button").await?;
        b.until_text(".marks h4", "from a photograph, within")
            .await?;
        b.until_text(".marks h4", "its code agrees").await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        let beside = beside_print(b, &server.address).await?;
        ensure!(
            beside < 0.4,
            "the blade runs {beside} mm beside the printed edge"
        );
        Ok(())
    })
}

#[test]
fn pieces_are_coloured_in_on_the_bench_and_a_code_opens_its_job() -> Result<()> {
    with("demo", async |b, server, _| {
        nine_stickers(b, &server.address).await?;
        b.click("#tab-print").await?;
        settled::sheet(b).await?;
        let picture = "return fetch(`/jobs/1/sheets/${document.getElementById('sheeting').dataset.sheets}/0/pictures/0.png`).then((a) => a.blob()).then((p) => p.size)";
        let plain: f64 = b.page.execute(picture, vec![]).await?.convert()?;
        // Beside the pictures there is nothing to colour in.
        b.click("#fill-pieces").await?;
        b.drag(&[(170.0, 225.0)]).await?;
        b.until_text("#problem-look", "o picture lies there")
            .await?;
        // What the ring at the top of the first lantern encloses: its middle is 10 mm below the upper edge of the cut.
        let spot = "return fetch(`/jobs/1/sheets/${document.getElementById('sheeting').dataset.sheets}/0.json`).then((a) => a.json()).then((s) => [s.items[0].map, s.pieces[0].size[0] / 2])";
        let (map, middle): ([f64; 6], f64) = b.page.execute(spot, vec![]).await?.convert()?;
        let at = Affine::new(map) * Point::new(middle, 10.0);
        b.drag(&[(at.x, at.y)]).await?;
        step(b, "Piece coloured in").await?;
        settled::sheet(b).await?;
        b.choose(".fill [name=pattern]", "dots").await?;
        step(b, "Colouring").await?;
        // Steps of one name follow each other: the page is drawn anew once it has the figure.
        let has = async |name: &str, figure: &str| {
            let script = format!(
                "return document.querySelector('.fill [name={name}]')?.getAttribute('value') === '{figure}'"
            );
            b.until("the figure is taken", &script).await
        };
        b.enter(".fill [name=size]", "5").await?;
        has("size", "5.0").await?;
        let coloured: f64 = b.page.execute(picture, vec![]).await?.convert()?;
        ensure!(
            (coloured - plain).abs() > 100.0,
            "{plain} and {coloured} bytes"
        );
        // By keys: a place that is typed, and one at which nothing is enclosed.
        b.enter("#fill-place", "1, 1").await?;
        b.until_text("#problem-look", "ress inside a piece").await?;
        b.enter(".fill [name=angle]", "30").await?;
        has("angle", "30").await?;
        b.choose("#print-along", "an ellipse").await?;
        step(b, "What the cut line follows").await?;
        b.click(".fill button").await?;
        step(b, "Colouring taken off").await?;
        // What the code says, typed where jobs are found, opens the job.
        let said = b.text("#code-said").await?;
        b.go(&server.address).await?;
        // The page changes under the hand as soon as the last character is there.
        b.find("#q").await?.send_keys(&said).await?;
        b.until("the job is open", "return location.pathname === '/jobs/1'")
            .await
    })
}
