//! From outlines to something that can be cut, as a person does it in headless Chromium: layers,
//! material, checks and their remedies.

use crate::chrome::{Browser, with};
use crate::settled::{open, settled, step};
use anyhow::{Context, Result, ensure};
use thirtyfour::prelude::*;

const TEAPOT: &str = "/jobs/5";
const OBSERVATORY: &str = "/jobs/4";
const BEEHIVE: &str = "/jobs/3";

/// The cut file, as the program that reads it sees it: every group with its box in mm.
async fn cut_file(b: &Browser) -> Result<Vec<(String, usvg::Rect)>> {
    let short = "location.href = location.pathname.split('/').slice(0, 3).join('/') + '/cut.svg'";
    b.page.execute(short, vec![]).await?;
    let (_, bytes) = b.download().await?;
    let tree = usvg::Tree::from_data(&bytes, &usvg::Options::default())?;
    // All layers lie in one group that scales mm to the page.
    let mut groups = tree.root();
    while let [usvg::Node::Group(only)] = groups.children() {
        if !only.id().is_empty() {
            break;
        }
        groups = only;
    }
    let found = groups.children().iter().filter_map(|node| {
        let usvg::Node::Group(group) = node else {
            return None;
        };
        let mm = |px: f32| px * 25.4 / 96.0;
        let r = group.abs_bounding_box();
        let rect = usvg::Rect::from_ltrb(mm(r.left()), mm(r.top()), mm(r.right()), mm(r.bottom()))?;
        Some((group.id().to_owned(), rect))
    });
    Ok(found.collect())
}

fn layer<'a>(file: &'a [(String, usvg::Rect)], id: &str) -> Result<&'a usvg::Rect> {
    let found = file.iter().find(|(own, _)| own == id);
    Ok(&found.with_context(|| format!("no {id} in {file:?}"))?.1)
}

#[test]
fn the_teapot_becomes_an_overlapped_decal_of_three_colours() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{TEAPOT}", server.address);
        open(b, &format!("{address}/size")).await?;
        b.until_text("#summary-layers", "3 layers · flush").await?;
        b.until_text("#summary-size", "1 check").await?;
        b.until_text(".checks", "edge to edge over").await?;
        let before = cut_file(b).await?;
        // Pointing at the remedy says what it would do before it is done.
        let remedy = "[data-kind=overlap] [data-remedy=overlap]";
        let button = b.find(remedy).await?;
        button.scroll_into_view().await?;
        b.hand().move_to_element_center(&button).perform().await?;
        b.until_text("#remedy-told", "3 findings before, 1 after")
            .await?;
        b.until_text("#summary-layers", "flush").await?;
        b.click(remedy).await?;
        step(b, "Mended: No overlap × 2").await?;
        b.until_text("#summary-layers", "overlap 0.40 mm").await?;
        b.until_text("#summary-size", "fit to cut").await?;
        b.until_text(".checks .done", "No overlap").await?;
        b.click("[data-remedy=register]").await?;
        step(b, "Mended: No registration shapes").await?;
        b.until_text(".checks", "Nothing in the way").await?;
        b.until_text("#left-over", "left over").await?;
        b.until_text("#weeding", "Quick").await?;
        // Three layers with the colours in stock, the topmost first.
        b.until_text("#rail", "Cast vinyl, Rust").await?;
        b.click("#line-layers").await?;
        settled(b).await?;
        b.until("the bench shows the build", "return document.getElementById('bench').dataset.built === document.getElementById('bench').dataset.key").await?;
        // More overlap for one pair alone.
        b.enter("[aria-label='Overlap of A under C']", "1.5mm")
            .await?;
        step(b, "Two layers meet in their own way").await?;
        b.choose("#colour-A", "Night blue").await?;
        step(b, "Layer in Night blue").await?;
        b.until_text("#rail", "Night blue").await?;
        b.click("[aria-label='Layer B up']").await?;
        step(b, "Layers in another order").await?;
        b.click("#undo").await?;
        step(b, "Layer in Night blue").await?;
        // Dragged in the rail: the lowest comes to lie on top.
        let rail = "#rail [data-ink]:";
        b.carry(
            &format!("{rail}last-child .letter"),
            &format!("{rail}first-child"),
        )
        .await?;
        step(b, "Layers in another order").await?;
        b.until_text(&format!("{rail}first-child"), "Night blue")
            .await?;
        b.click("#undo").await?;
        step(b, "Layer in Night blue").await?;
        // A piece moved to a layer of its own.
        b.point((70.8, 14.0)).await?;
        b.until(
            "the knob is picked",
            "return /^\\d+$/.test(document.querySelector('[data-mount=layers]').dataset.picked)",
        )
        .await?;
        b.choose("#to-layer", "a new layer").await?;
        b.click("[data-recolour]").await?;
        step(b, "Pieces on another layer").await?;
        b.until_text("#summary-layers", "4 layers").await?;
        b.click("#undo").await?;
        step(b, "Layer in Night blue").await?;
        // The same beside the piece itself.
        b.point((70.8, 14.0)).await?;
        b.click(".pick-bar summary").await?;
        b.click(".pick-inks [data-give=new]").await?;
        step(b, "Pieces on another layer").await?;
        b.click("#undo").await?;
        step(b, "Layer in Night blue").await?;
        // An overlap wider than what lies above says what it comes to.
        b.enter("[aria-label='Overlap of A under C']", "45").await?;
        b.until_text("#wide-overlap", "A goes on under all of C")
            .await?;
        b.click("#undo").await?;
        step(b, "Layer in Night blue").await?;
        // The page is as large as it has to be for the shapes outside, each layer has its own.
        let file = cut_file(b).await?;
        ensure!(file.len() == 3 && before.len() == 3, "{file:?}");
        let lid = |file: &[(String, usvg::Rect)]| layer(file, "layer-b").map(|r| r.width());
        ensure!((lid(&before)? - 43.1).abs() < 0.5, "{:?}", lid(&before)?);
        let wide = layer(&file, "layer-a")?.width();
        // 117.9 mm drawn, 4 mm away and 6 mm large on both sides.
        ensure!((wide - 137.9).abs() < 0.2, "{wide}");
        ensure!(
            (lid(&file)? - wide).abs() < 0.01,
            "registration shapes lie in every layer"
        );
        // The printed work order tells of it.
        let order = b
            .page
            .execute(
                "return document.getElementById('work-order').textContent",
                vec![],
            )
            .await?;
        let order = order.json().as_str().unwrap_or_default().to_owned();
        for words in [
            "Night blue",
            "Cast vinyl",
            "kiss cut",
            "roll 610 mm",
            "Nothing in the way",
            "not mirrored",
            "Quick",
        ] {
            ensure!(order.contains(words), "{words} is missing: {order}");
        }
        // What is off is not sent, and all off is told.
        for letter in ["A", "B", "C"] {
            let button = format!("[data-sends='{letter}']");
            b.click(&button).await?;
            // The steps have one name: the button itself says that its answer is there.
            let off = format!(
                "return document.querySelector({button:?})?.getAttribute('aria-pressed') === 'false'"
            );
            b.until(&format!("layer {letter} is off"), &off).await?;
            step(b, "Layer is not cut").await?;
        }
        b.click("#line-size").await?;
        b.until_text(".checks", "every layer is switched off")
            .await?;
        Ok(())
    })
}

#[test]
fn the_observatory_becomes_a_stencil_whose_islands_are_bridged() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{OBSERVATORY}", server.address);
        open(b, &format!("{address}/layers")).await?;
        b.choose("#material", "Stencil film").await?;
        step(b, "Stencil film").await?;
        b.until_text("#summary-layers", "3 would fall out").await?;
        // Wider than an island: refused with what would do, nothing changed.
        b.retype("#bridge-width", "25mm").await?;
        b.click("#bridges button").await?;
        b.until_text("#problem-bridges", "is too wide for the island")
            .await?;
        b.retype("#bridge-count", "0").await?;
        b.retype("#bridge-width", "2mm").await?;
        b.click("#bridges button").await?;
        b.until_text("#problem-bridges", "sk for 1 to 12 bridges")
            .await?;
        b.until_text("#summary-layers", "3 would fall out").await?;
        // One by hand, across what is cut out beside the door; moved, and taken out again.
        b.click("[data-tool=bridge]").await?;
        b.drag(&[(178.0, 240.0), (150.0, 240.0), (109.0, 240.0)])
            .await?;
        step(b, "Bridge").await?;
        b.until_text("#summary-layers", "2 would fall out").await?;
        b.click("[data-tool=bridge]").await?;
        let middle = ((178.0 + 109.0) / 2.0, 240.0);
        b.drag(&[middle, (middle.0, 244.0), (middle.0, 246.0)])
            .await?;
        step(b, "Bridge moved").await?;
        b.click("[data-tool=bridge]").await?;
        b.point((middle.0, 246.0)).await?;
        b.hand().send_keys(Key::Delete).perform().await?;
        step(b, "Bridge removed").await?;
        b.until_text("#summary-layers", "3 would fall out").await?;
        // The check names what falls out; its remedy bridges all of it.
        b.click("#line-size").await?;
        b.until_text(".checks", "Falls out on A × 3").await?;
        b.click("[data-remedy=bridge]").await?;
        step(b, "Mended: Falls out × 3").await?;
        b.until_text("#summary-layers", "1 layer · sheet").await?;
        // A place is shown on the bench, and what is thin there is widened.
        b.click("[data-mark]").await?;
        b.until("the bench went there", "return Number(document.querySelector('#bench canvas').dataset.view.split(' ')[0]) > 20").await?;
        b.click("[data-remedy=widen]").await?;
        b.until_text(".checks .done:last-child", "Thin stroke")
            .await?;
        b.until_text("#summary-size", "fit to cut").await?;
        b.until_text("#weeding", "1 part").await?;
        // The file is the sheet: 25 mm around what is drawn.
        let file = cut_file(b).await?;
        let sheet = layer(&file, "layer-a")?;
        ensure!((sheet.width() - 450.0).abs() < 0.1, "{sheet:?}");
        // The parts instead of the sheet.
        b.click("#line-layers").await?;
        settled(b).await?;
        b.click("#group-falls .seg button:first-child").await?;
        step(b, "Sheet or parts").await?;
        let file = cut_file(b).await?;
        ensure!((layer(&file, "layer-a")?.width() - 400.0).abs() < 0.5);
        Ok(())
    })
}

#[test]
fn the_beehive_becomes_an_inlay_of_acrylic_in_ply() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{BEEHIVE}", server.address);
        open(b, &format!("{address}/layers")).await?;
        b.choose("#material", "Ply 3 mm").await?;
        step(b, "Ply 3 mm").await?;
        // A front plate under everything, on which the hive is engraved.
        b.choose("#inlay-material", "Ply 3 mm").await?;
        b.click("[data-plate]").await?;
        step(b, "Backing of Ply 3 mm").await?;
        b.choose("#operation-A", "engrave").await?;
        step(b, "Layer: engrave").await?;
        // Nothing picked is said; then the hexagons are let in.
        b.click("[data-inlay]").await?;
        b.until_text("#problem-layers", "lick shapes on the bench first")
            .await?;
        b.point((38.8, 11.4)).await?;
        b.until_text("#layer-picked", "1 piece is picked").await?;
        b.click("[data-pick-all]").await?;
        b.until_text("#layer-picked", "4 pieces are picked").await?;
        b.choose("#inlay-material", "Acrylic").await?;
        b.choose("#inlay-fit", "press").await?;
        b.click("[data-inlay]").await?;
        step(b, "Inserts of Acrylic 3 mm").await?;
        b.until_text("#rail", "Acrylic 3 mm, Amber").await?;
        // And a back of 6 mm.
        b.choose("#inlay-material", "Ply 6 mm").await?;
        b.click("[data-plate]").await?;
        step(b, "Backing of Ply 6 mm").await?;
        b.until_text("#summary-layers", "4 layers").await?;
        b.click("[data-shows=apart]").await?;
        b.until_drawn().await?;
        // Lines run outside the parts by half the kerf: 0.2 mm of acrylic, 0.15 and 0.25 mm of ply.
        // Hexagons have their flat sides at the top and the bottom.
        let with_kerf = cut_file(b).await?;
        b.click("#kerf").await?;
        step(b, "Kerf").await?;
        let without = cut_file(b).await?;
        b.click("#undo").await?;
        step(b, "Backing of Ply 6 mm").await?;
        for (id, kerf) in [("layer-c", 0.15), ("layer-d", 0.2), ("layer-e", 0.25)] {
            let (wide, narrow) = (
                layer(&with_kerf, id)?.height(),
                layer(&without, id)?.height(),
            );
            // The reader takes cubics for arcs, which errs by up to 2.7 · 10⁻⁴ of their radius.
            ensure!((wide - narrow - kerf).abs() < 0.02, "{id}: {wide} {narrow}");
        }
        // Checks by each layer's own material; each is mended or was fine.
        b.click("#line-size").await?;
        b.until_drawn().await?;
        for round in 0..6 {
            let left = b.text("#summary-size").await?;
            if left.contains("fit to cut") {
                break;
            }
            ensure!(round < 5, "{left}: {}", b.text(".checks").await?);
            let done = b
                .page
                .execute("return document.querySelector('#undo').title", vec![])
                .await?;
            let done = done.json().as_str().unwrap_or_default().to_owned();
            b.click(".checks .warn [data-remedy]").await?;
            b.until(
                "a remedy was applied",
                &format!("return document.querySelector('#undo').title !== {done:?}"),
            )
            .await?;
            b.until_drawn().await?;
        }
        b.until_text(".checks", "mended").await?;
        let order = b
            .page
            .execute(
                "return document.getElementById('work-order').textContent",
                vec![],
            )
            .await?;
        let order = order.json().as_str().unwrap_or_default().to_owned();
        for words in ["Ply 6 mm", "Acrylic 3 mm", "engrave", "cut through"] {
            ensure!(order.contains(words), "{words} is missing: {order}");
        }
        Ok(())
    })
}

#[test]
fn a_garment_transfer_is_cut_mirrored_and_says_why() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{TEAPOT}", server.address);
        open(b, &format!("{address}/layers")).await?;
        b.choose("#material", "Garment transfer film").await?;
        step(b, "Garment transfer film").await?;
        b.until_text("#why", "cut mirrored").await?;
        b.click("#line-size").await?;
        b.click("#tab-stock").await?;
        b.until_text(".sizing", "is cut from behind: mirrored")
            .await?;
        b.click("[aria-label='Mirrored'] button:last-child").await?;
        step(b, "Mirroring").await?;
        b.until_text(".checks", "Mirrored the wrong way").await?;
        let wrong = cut_file(b).await?;
        b.click("[data-remedy=as-material]").await?;
        step(b, "Mended: Mirrored the wrong way").await?;
        let right = cut_file(b).await?;
        let (wrong, right) = (layer(&wrong, "layer-a")?, layer(&right, "layer-a")?);
        // On a page of 150 mm the left edge lies where the right one was.
        ensure!(
            (right.left() - (150.0 - wrong.right())).abs() < 0.02,
            "{wrong:?} {right:?}"
        );
        ensure!(
            (right.left() - wrong.left()).abs() > 3.0,
            "the teapot is no mirror image of itself"
        );
        for _ in 0..4 {
            if b.text("#summary-size").await?.contains("fit to cut") {
                break;
            }
            b.click(".checks .warn [data-remedy]").await?;
            b.until_drawn().await?;
        }
        b.until_text("#summary-size", "fit to cut").await?;
        b.click("#line-send").await?;
        b.until_text("#sending", "Mirrored once more").await?;
        b.until_text("#send-told", "garment-transfer-film").await?;
        // An edit is answered before its checks, which follow by themselves.
        b.go(&format!("{address}/tidy")).await?;
        b.until(
            "the items are there",
            "const b = document.getElementById('bench'); return b.dataset.shown === b.dataset.key \
             && document.getElementById('tidy')?.dataset.items === b.dataset.key",
        )
        .await?;
        b.click("[data-tool=rectangle]").await?;
        b.drag(&[(2.0, 2.0), (2.4, 4.0), (2.6, 30.0)]).await?;
        b.until_undo("Rectangle drawn").await?;
        b.until_text("#summary-size", "1 check").await
    })
}
