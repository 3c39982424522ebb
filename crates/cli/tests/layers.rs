//! From outlines to something that can be cut, as a person does it in headless Chromium: layers,
//! material, size, checks and their remedies.

mod support;

use anyhow::{Context, Result, ensure};
use support::chrome::{Browser, with};
use thirtyfour::prelude::*;

const TEAPOT: &str = "/jobs/5";
const OBSERVATORY: &str = "/jobs/4";
const BEEHIVE: &str = "/jobs/3";

/// Waits until the page knows the pieces of the result that the bench draws.
async fn settled(b: &Browser) -> Result<()> {
    b.until(
        "the pieces are those of the bench",
        "const bench = document.getElementById('bench'), line = document.querySelector('[data-mount=layers]'); \
         return bench.dataset.shown === bench.dataset.key && (!line || line.dataset.items === bench.dataset.key)",
    )
    .await
}

async fn open(b: &Browser, address: &str) -> Result<()> {
    b.go(address).await?;
    settled(b).await
}

async fn step(b: &Browser, name: &str) -> Result<()> {
    b.until_undo(name).await?;
    settled(b).await
}

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

#[tokio::test(flavor = "multi_thread")]
async fn the_teapot_becomes_an_overlapped_decal_of_three_colours() -> Result<()> {
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
        b.page.action_chain().move_to_element_center(&button).perform().await?;
        b.until_text("#remedy-told", "3 findings before, 1 after").await?;
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
        b.enter("[aria-label='Overlap of A under C']", "1.5mm").await?;
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
        let top = b.find(&format!("{rail}first-child")).await?;
        b.find(&format!("{rail}last-child")).await?.js_drag_to(&top).await?;
        step(b, "Layers in another order").await?;
        b.until_text(&format!("{rail}first-child"), "Night blue").await?;
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
        // An overlap wider than what lies above says what it comes to.
        b.enter("[aria-label='Overlap of A under C']", "45").await?;
        b.until_text("#wide-overlap", "A goes on under all of C").await?;
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
        ensure!((lid(&file)? - wide).abs() < 0.01, "registration shapes lie in every layer");
        // The printed work order tells of it.
        let order = b
            .page
            .execute("return document.getElementById('work-order').textContent", vec![])
            .await?;
        let order = order.json().as_str().unwrap_or_default().to_owned();
        for words in ["Night blue", "Cast vinyl", "kiss cut", "roll 610 mm", "Nothing in the way", "not mirrored", "Quick"] {
            ensure!(order.contains(words), "{words} is missing: {order}");
        }
        // What is off is not sent, and all off is told.
        for letter in ["A", "B", "C"] {
            let button = format!("[aria-label='Send layer {letter}']");
            b.click(&button).await?;
            // The steps have one name: the button itself says that its answer is there.
            let off = format!("return document.querySelector({button:?})?.getAttribute('aria-pressed') === 'false'");
            b.until(&format!("layer {letter} is off"), &off).await?;
            step(b, "Layer is not cut").await?;
        }
        b.click("#line-size").await?;
        b.until_text(".checks", "every layer is switched off").await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_observatory_becomes_a_stencil_whose_islands_are_bridged() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{OBSERVATORY}", server.address);
        open(b, &format!("{address}/layers")).await?;
        b.choose("#material", "Stencil film").await?;
        step(b, "Stencil film").await?;
        b.until_text("#summary-layers", "3 would fall out").await?;
        // Wider than an island: refused with what would do, nothing changed.
        b.retype("#bridge-width", "25mm").await?;
        b.click("#bridges button").await?;
        b.until_text("#problem-bridges", "is too wide for the island").await?;
        b.retype("#bridge-count", "0").await?;
        b.retype("#bridge-width", "2mm").await?;
        b.click("#bridges button").await?;
        b.until_text("#problem-bridges", "sk for 1 to 12 bridges").await?;
        b.until_text("#summary-layers", "3 would fall out").await?;
        // One by hand, across what is cut out beside the door; moved, and taken out again.
        b.click("[data-tool=bridge]").await?;
        b.drag(&[(178.0, 240.0), (150.0, 240.0), (109.0, 240.0)]).await?;
        step(b, "Bridge").await?;
        b.until_text("#summary-layers", "2 would fall out").await?;
        b.click("[data-tool=bridge]").await?;
        let middle = ((178.0 + 109.0) / 2.0, 240.0);
        b.drag(&[middle, (middle.0, 244.0), (middle.0, 246.0)]).await?;
        step(b, "Bridge moved").await?;
        b.click("[data-tool=bridge]").await?;
        b.point((middle.0, 246.0)).await?;
        b.page.action_chain().send_keys(Key::Delete).perform().await?;
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
        b.until_text(".checks .done:last-child", "Thin stroke").await?;
        b.until_text("#summary-size", "fit to cut").await?;
        b.until_text("#weeding", "1 part").await?;
        // The file is the sheet: 25 mm around what is drawn.
        let file = cut_file(b).await?;
        let sheet = layer(&file, "layer-a")?;
        ensure!((sheet.width() - 450.0).abs() < 0.1, "{sheet:?}");
        // The parts instead of the sheet.
        b.click("#line-layers").await?;
        settled(b).await?;
        b.click("#fold-sheet .seg button:first-child").await?;
        step(b, "Sheet or parts").await?;
        let file = cut_file(b).await?;
        ensure!((layer(&file, "layer-a")?.width() - 400.0).abs() < 0.5);
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_beehive_becomes_an_inlay_of_acrylic_in_ply() -> Result<()> {
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
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_garment_transfer_is_cut_mirrored_and_says_why() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{TEAPOT}", server.address);
        open(b, &format!("{address}/layers")).await?;
        b.choose("#material", "Garment transfer film").await?;
        step(b, "Garment transfer film").await?;
        b.until_text("#why", "cut mirrored").await?;
        b.click("#line-size").await?;
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
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn sizes_are_typed_measured_and_fitted_and_what_cannot_be_says_why() -> Result<()> {
    with("demo", async |b, server, _| {
        let address = format!("{}{TEAPOT}", server.address);
        open(b, &format!("{address}/size")).await?;
        b.enter("#f-width", "2*60mm + 1in").await?;
        step(b, "Size 145.4 mm × 109.0 mm").await?;
        b.until_text("#summary-size", "145.4 × 109.05 mm").await?;
        b.enter("#scale", "200 %").await?;
        step(b, "200.0 %").await?;
        b.until_text("#summary-size", "290.8 × 218.1 mm").await?;
        b.enter("#drawn-width", "100").await?;
        step(b, "Drawn part 100.0 mm").await?;
        let drawn = b.value("#drawn-width").await?;
        ensure!(drawn == "100.0", "{drawn}");
        // A line along the foot, which is truly 52 mm long.
        b.click("[data-tool=measure]").await?;
        let width: f64 = b.value("#f-width").await?.parse()?;
        let (from, to) = (53.0 / 150.0 * width, 89.0 / 150.0 * width);
        let y = 97.5 / 150.0 * width;
        b.until(
            "the artwork fills the bench",
            "return Number(document.querySelector('#bench canvas').dataset.view.split(' ')[0]) > 2",
        )
        .await?;
        b.drag(&[(from, y), ((from + to) / 2.0, y), (to, y)])
            .await?;
        b.until(
            "the line is measured",
            "return document.querySelector('#measured [name=ends]').value !== ''",
        )
        .await?;
        b.retype("#measured [name=value]", "52").await?;
        b.click("#measured button").await?;
        step(b, "Measured 52.0 mm").await?;
        let now: f64 = b.value("#f-width").await?.parse()?;
        ensure!((now - width * 52.0 / (to - from)).abs() < 3.0, "{now}");
        // What cannot be: the old size stays.
        for (field, typed, problem, why) in [
            ("#f-width", "0", "#problem-width", "outside 1 to 20000 mm"),
            (
                "#f-width",
                "-5cm",
                "#problem-width",
                "outside 1 to 20000 mm",
            ),
            ("#f-width", "9e99", "#problem-width", "not a unit"),
            ("#scale", "0", "#problem-scale", "outside 1 to 20000 mm"),
            ("#scale", "half", "#problem-scale", "not a number"),
            ("#drawn-width", "1/0", "#problem-drawn", "not a number"),
        ] {
            b.enter(field, typed).await?;
            b.until_text(problem, why).await?;
            b.go(&format!("{address}/size")).await?;
            settled(b).await?;
        }
        ensure!((b.value("#f-width").await?.parse::<f64>()? - now).abs() < 1e-6);
        // An offcut that is too small, then fitted to.
        b.choose("#stock", "another size").await?;
        b.retype("#own-width", "120").await?;
        b.retype("#own-length", "90").await?;
        b.click("#own-stock button").await?;
        step(b, "Stock").await?;
        b.until_text(".checks", "Larger than the stock").await?;
        b.click("[data-remedy=fit-stock]").await?;
        step(b, "Mended: Larger than the stock").await?;
        b.retype("#fit-margin", "500").await?;
        b.click("[title='As large as the stock takes']").await?;
        b.until_text("#problem-stock", "leave nothing").await?;
        b.retype("#fit-margin", "5").await?;
        b.click("[title='As large as the stock takes']").await?;
        step(b, "Fitted to the stock").await?;
        b.until_text("#left-over", "left").await?;
        // Moved by hand until it sticks out, and back by its remedy.
        b.until(
            "the stock is shown",
            "return document.querySelector('#sizing').dataset.place !== ''",
        )
        .await?;
        b.until_drawn().await?;
        b.drag(&[(20.0, 20.0), (40.0, 30.0), (60.0, 35.0)]).await?;
        step(b, "Moved on the stock").await?;
        b.until_text(".checks", "Outside what can be cut").await?;
        b.click("[data-remedy=move-inside]").await?;
        step(b, "Mended: Outside what can be cut").await?;
        // A grid of an inch where inches are read, and 10 mm else: common practice, no source.
        ensure!(b.value("[data-grid-pitch]").await? == "10");
        b.click("[role=group][aria-label=Units] button:last-child")
            .await?;
        b.until_text("#summary-size", "in").await?;
        b.until(
            "the grid is of one inch",
            "return document.querySelector('[data-grid-pitch]')?.value === '1'",
        )
        .await?;
        Ok(())
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn materials_are_changed_copied_retired_saved_and_brought_in() -> Result<()> {
    with("demo", async |b, server, folder| {
        let teapot = format!("{}{TEAPOT}/layers", server.address);
        open(b, &teapot).await?;
        b.choose("#material", "Card 240 g").await?;
        step(b, "Card 240 g").await?;
        b.go(&format!("{}/materials", server.address)).await?;
        b.until_text(".material-cards .open", "Cast vinyl").await?;
        b.page.find(By::LinkText("Card 240 g")).await.ok();
        b.click(".material-cards li:nth-child(5) a").await?;
        b.until_text(".material-cards .open", "Card 240 g").await?;
        b.enter("#m-stroke", "2,5").await?;
        b.until("it is kept", "return document.querySelector('#m-stroke').value === '2.5'").await?;
        b.enter("#m-gap", "-1").await?;
        b.until_text("#problem-material", "he narrowest gap of -1 mm is outside").await?;
        b.enter("#m-gap", "0.9").await?;
        b.until("the problem is gone", "return document.querySelector('#problem-material').textContent === ''").await?;
        b.enter(".row.new [name=colour_name]", "Moss").await?;
        b.until("a row more", "return [...document.querySelectorAll('[name=colour_name]')].some((e) => e.value === 'Moss')").await?;
        b.enter(".row.new [name=stock_width]", "80").await?;
        b.until_text(".material-cards .open", "Card 240 g").await?;
        // The job keeps the values it was made with until it is told to take the new ones.
        open(b, &teapot).await?;
        b.click("#line-size").await?;
        b.until_drawn().await?;
        ensure!(!b.text(".checks").await?.contains("needs 2.50"));
        b.click("#line-layers").await?;
        settled(b).await?;
        b.click("#fresh").await?;
        step(b, "Material as it is now").await?;
        b.until("they are the same", "return !document.getElementById('fresh')").await?;
        b.choose("#colour-A", "Moss").await?;
        step(b, "Layer in Moss").await?;
        // Copied, renamed, retired: no longer offered, and the job still has its own.
        b.go(&format!("{}/materials/5", server.address)).await?;
        b.click("[hx-post$='/copy']").await?;
        b.until_text(".material-cards .open", "Card 240 g copy").await?;
        b.enter("#m-name", "Cast vinyl").await?;
        b.until_text("#problem-material", "already").await?;
        b.enter("#m-name", "Felt").await?;
        b.until_text(".material-cards .open", "Felt").await?;
        b.go(&format!("{}/materials/5", server.address)).await?;
        b.click("[hx-post$='/retire']").await?;
        b.until_text(".material-cards .open", "retired").await?;
        open(b, &teapot).await?;
        ensure!(b.value("#material").await? == "Card 240 g");
        b.until_text("#material", "Felt").await?;
        // Saved as a list, and brought in again under names of their own.
        b.go(&format!("{}/materials", server.address)).await?;
        b.click("a[href='/materials.json']").await?;
        let (_, list) = b.download().await?;
        let all: Vec<inky_core::material::Material> = serde_json::from_slice(&list)?;
        ensure!(all.len() == 9 && all.iter().any(|m| m.name == "Felt"));
        let file = folder.path().join("list.json");
        std::fs::write(&file, &list)?;
        b.find("#import").await?.send_keys(file.display().to_string()).await?;
        b.until_text(".material-cards", "Felt 2").await?;
        std::fs::write(&file, b"[{\"name\": 3}]")?;
        b.find("#import").await?.send_keys(file.display().to_string()).await?;
        b.until_text("#problem-material", "no list of materials").await?;
        Ok(())
    })
    .await
}
