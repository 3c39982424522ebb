//! Every main view opened from the demo data and looked at by the browser: nothing sticks out of
//! the page, text can be read, and a picture is kept in `INKY_SCREENSHOTS` where that is set.

use std::path::PathBuf;
use std::time::{Duration, Instant};

use crate::chrome::Browser;
use crate::machines::by_hand;
use crate::printed;
use crate::session;
use crate::settled::{self, settled};
use crate::support::Server;
use anyhow::{Context, Result, ensure};
use tempfile::TempDir;

/// Contrast of text against its ground as WCAG 2.2 computes it (§1.4.3 asks for 4.5), least of all
/// visible text, with the text.
const LEAST_CONTRAST: &str = "
    const channel = (v) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4);
    const light = ([r, g, b]) => 0.2126 * channel(r) + 0.7152 * channel(g) + 0.0722 * channel(b);
    const parse = (text) => (text.match(/[\\d.]+/g) ?? []).map(Number);
    const ground = (e) => {
        for (let at = e; at; at = at.parentElement) {
            const c = parse(getComputedStyle(at).backgroundColor);
            if (c.length === 3 || c[3] === 1) return c;
        }
        return [255, 255, 255];
    };
    let least = [99, ''];
    for (const e of document.querySelectorAll('body *')) {
        const own = [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim());
        const box = e.getBoundingClientRect();
        if (!own || !box.width || e.closest('.sr-only, :disabled, [popover], option')) continue;
        const [a, b] = [light(parse(getComputedStyle(e).color)), light(ground(e))].sort((x, y) => y - x);
        const ratio = (a + 0.05) / (b + 0.05);
        if (ratio < least[0]) least = [ratio, e.textContent.trim().slice(0, 40)];
    }
    return least.join(' ');";

/// Views that are looked at and not kept as pictures.
const NOT_KEPT: [&str; 12] = [
    "tablet",
    "dim",
    "work-order",
    "odd-piece",
    "run-through",
    "clean-steps",
    "squared-up",
    "view-wireframe",
    "view-strayed",
    "tidy-refit",
    "tidy-lettering",
    "stencil",
];

/// How long the first backup may take.
const BACKED_UP: Duration = Duration::from_secs(120);

struct Gallery {
    browser: Browser,
    folder: Option<PathBuf>,
}

impl Gallery {
    async fn look(&self, name: &str) -> Result<()> {
        self.look_at(name, (1280, 800)).await
    }

    /// Looks at a view that has another size, px.
    async fn look_at(&self, name: &str, (width, height): (u32, u32)) -> Result<()> {
        let b = &self.browser;
        b.until("fonts and pictures are there", "return document.fonts.status === 'loaded' && [...document.images].every((i) => i.complete || !i.checkVisibility())").await?;
        let wide = "return document.documentElement.scrollWidth <= innerWidth";
        ensure!(
            b.page.execute(wide, vec![]).await?.json().as_bool() == Some(true),
            "{name}: sticks out sideways"
        );
        let told = b.page.execute(LEAST_CONTRAST, vec![]).await?;
        let told = told.json().as_str().unwrap_or_default().to_owned();
        let ratio: f64 = told
            .split(' ')
            .next()
            .unwrap_or_default()
            .parse()
            .context("a ratio")?;
        ensure!(ratio >= 4.5, "{name}: contrast of {told}");
        let picture = b.page.screenshot_as_png().await?;
        let size = image::load_from_memory(&picture)?;
        ensure!(
            (size.width(), size.height()) == (width, height),
            "{name}: {} × {}",
            size.width(),
            size.height()
        );
        if let Some(folder) = self.folder.as_ref().filter(|_| !NOT_KEPT.contains(&name)) {
            std::fs::write(folder.join(format!("{name}.png")), picture)?;
        }
        Ok(())
    }

    async fn drawn(&self) -> Result<()> {
        self.browser.until_drawn().await?;
        let painted = "const c = document.querySelector('canvas'); \
            const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; \
            return new Set(new Uint32Array(d.buffer)).size > 20";
        self.browser.until("something is painted", painted).await
    }

    /// Waits until the page knows the items that are drawn.
    async fn items(&self) -> Result<()> {
        settled(&self.browser).await?;
        self.drawn().await
    }

    /// The observatory picked and looked at; the teapot with lettering cut out of it, on a backing.
    async fn tidy(&self, address: &str) -> Result<()> {
        let b = &self.browser;
        b.go(&format!("{address}/jobs/5/tidy")).await?;
        self.items().await?;
        b.point((100.0, 60.0)).await?;
        b.until_text("#picked", "1 item").await?;
        self.look("tidy").await?;
        b.click("#tab-nodes").await?;
        b.point((122.9, 51.6)).await?;
        b.until_text("#picked", "One node").await?;
        b.click("[data-tool=pick]").await?;
        b.click("#refit-tolerance").await?;
        b.retype("#refit-tolerance", "0.5").await?;
        b.click("[data-act=refit-look]").await?;
        b.until_text("#refit-report", "nodes before").await?;
        self.look("tidy-refit").await?;
        b.click("[data-act=backing]").await?;
        b.until_undo("Backing with 3.00 mm").await?;
        self.items().await?;
        b.click("#letter-words").await?;
        b.retype("#letter-words", "BRINDLE").await?;
        b.retype("#letter-cap", "6").await?;
        b.retype("#letter-radius", "70").await?;
        b.click("[data-tool=letters]").await?;
        b.point((71.0, 87.5)).await?;
        b.until_undo("Lettering BRINDLE").await?;
        self.items().await?;
        b.click("[data-act=cut-out]").await?;
        b.until_undo("7 items cut out").await?;
        self.items().await?;
        // Checks and the time to cut follow by themselves.
        b.until_text("#summary-send", "1.65 m").await?;
        b.click("#letter-words").await?;
        self.look("tidy-lettering").await
    }

    /// The beehive as inlay taken apart; the observatory as stencil; what the checks say of the teapot.
    async fn cutting(&self, address: &str) -> Result<()> {
        let b = &self.browser;
        let pieces = "const b = document.getElementById('bench'), l = document.querySelector('[data-mount=layers]'); \
            return b.dataset.shown === b.dataset.key && l.dataset.items === b.dataset.key";
        b.go(&format!("{address}/materials")).await?;
        b.find(".material-cards").await?;
        self.look("materials").await?;
        b.go(&format!("{address}/jobs/4/layers")).await?;
        self.drawn().await?;
        b.choose("#material", "Stencil film").await?;
        b.until_undo("Stencil film").await?;
        b.click("#bridges button").await?;
        b.until_text("#group-falls", "Nothing falls out").await?;
        b.until("the pieces are there", pieces).await?;
        self.drawn().await?;
        self.look("stencil").await?;
        b.go(&format!("{address}/jobs/3/layers")).await?;
        self.drawn().await?;
        b.choose("#material", "Ply 3 mm").await?;
        b.until_undo("Ply 3 mm").await?;
        for (material, button, step) in [
            ("Ply 3 mm", "[data-plate]", "Backing of Ply 3 mm"),
            ("Acrylic", "[data-inlay]", "Inserts of Acrylic 3 mm"),
            ("Ply 6 mm", "[data-plate]", "Backing of Ply 6 mm"),
        ] {
            b.until("the pieces are there", pieces).await?;
            if button == "[data-inlay]" {
                b.point((38.8, 11.4)).await?;
                b.click("[data-pick-all]").await?;
            }
            b.choose("#inlay-material", material).await?;
            b.click(button).await?;
            b.until_undo(step).await?;
        }
        b.until("the pieces are there", pieces).await?;
        b.click("[data-shows=apart]").await?;
        self.drawn().await?;
        self.look("layers").await?;
        b.go(&format!("{address}/jobs/5/size")).await?;
        self.drawn().await?;
        b.click("[data-mark]").await?;
        self.drawn().await?;
        let remedy = b.find("[data-remedy=overlap]").await?;
        b.hand().move_to_element_center(&remedy).perform().await?;
        b.until_text("#remedy-told", "after").await?;
        self.look("checks").await?;
        b.click("#line-layers").await?;
        b.click("#tab-stones").await?;
        b.until("the pieces are there", pieces).await?;
        b.point((70.0, 29.0)).await?;
        b.until_text("#stones-picked", "1 piece is picked").await?;
        b.enter("#stone-size", "SS12").await?;
        b.enter("#stone-second", "1.8mm").await?;
        b.click("[data-stones]").await?;
        b.until_undo("Stones SS12").await?;
        b.until("the pieces are there", pieces).await?;
        self.drawn().await?;
        self.look("stones").await?;
        b.click("#undo").await?;
        b.until(
            "they are gone",
            "return !document.querySelector('table.stones')",
        )
        .await
    }

    /// Waits until the bench shows the sheets that the page names.
    async fn sheet(&self) -> Result<()> {
        settled::sheet(&self.browser).await?;
        self.drawn().await
    }

    /// Teapots for the van and a second job on one roll, weeding aids, the run-through, the files.
    async fn sending(&self, address: &str) -> Result<()> {
        let b = &self.browser;
        b.go(&format!("{address}/jobs/4/layers")).await?;
        self.drawn().await?;
        b.choose("#material", "Cast vinyl").await?;
        b.until_undo("Cast vinyl").await?;
        b.choose("#colour-A", "Sea green").await?;
        b.until_undo("Layer in Sea green").await?;
        b.click("#line-size").await?;
        b.enter("#f-width", "190mm").await?;
        b.until(
            "it is smaller",
            "return document.querySelector('#undo').title.startsWith('Undo: Size 190')",
        )
        .await?;
        b.go(&format!("{address}/jobs/5/sheet")).await?;
        self.sheet().await?;
        for (what, value, step) in [
            ("#copies", "5", "5 copies"),
            ("#gap", "6mm", "Gap on the sheet"),
        ] {
            b.enter(what, value).await?;
            b.until_undo(step).await?;
            self.sheet().await?;
        }
        b.choose("#guest", "Quarry Top").await?;
        b.until_undo("Another job on the sheet").await?;
        self.sheet().await?;
        for (what, step) in [("#weed-box", "Weed box"), ("#relief", "Relief lines")] {
            b.click(what).await?;
            b.until_undo(step).await?;
            self.sheet().await?;
        }
        b.click("#nest").await?;
        b.until_undo("Nested").await?;
        self.sheet().await?;
        b.click("[data-sheet='1']").await?;
        self.sheet().await?;
        self.look("sheet").await?;
        b.click("#tab-run").await?;
        b.until_text("#play-told", "Path 1 of").await?;
        let scrub = "const r = document.getElementById('scrub'); r.value = 430; \
            r.dispatchEvent(new Event('input'))";
        b.page.execute(scrub, vec![]).await?;
        self.look("run-through").await?;
        b.go(&format!("{address}/jobs/5/send")).await?;
        self.drawn().await?;
        b.until_text("#send-told", "opens at").await?;
        self.look("send").await?;
        // A run under way at the simulated cutter, held still for the picture.
        b.click("#tab-machine").await?;
        b.until_text("#machine-told", "path").await?;
        b.click("#send-now").await?;
        b.until_text("#machine-bench .ask", "Load").await?;
        b.click("#run-go").await?;
        b.until(
            "some paths are done",
            "return parseInt(document.querySelector('.far span')?.textContent ?? '0') >= 9",
        )
        .await?;
        b.click("#run-pause").await?;
        b.until_text("#machine-bench .ask", "Paused").await?;
        self.look("machines").await
    }

    async fn tour(&self, address: &str) -> Result<()> {
        let b = &self.browser;
        b.go(address).await?;
        b.go(&format!("{address}/jobs/5/trace")).await?;
        self.drawn().await?;
        self.look("job").await?;
        b.page.execute("const s = document.querySelector('[data-over]'); s.value = ''; s.dispatchEvent(new Event('change'))", vec![]).await?;
        for view in ["wireframe", "strayed"] {
            b.find(&format!("[data-view={view}]"))
                .await?
                .click()
                .await?;
            self.drawn().await?;
            self.look(&format!("view-{view}")).await?;
        }
        // The combs of the hive taken for specks, and taken back.
        b.go(&format!("{address}/jobs/3/trace")).await?;
        self.drawn().await?;
        b.page.execute("const s = document.querySelector('[data-over]'); s.value = ''; s.dispatchEvent(new Event('change'))", vec![]).await?;
        b.retype("#f-min_part", "40").await?;
        b.click("[data-view=missed]").await?;
        let told = |words: &str| {
            format!(
                "return document.querySelector('canvas').getAttribute('aria-description').includes('{words}')"
            )
        };
        b.until("the loss is told", &told("left out altogether"))
            .await?;
        self.drawn().await?;
        self.look("view-missed").await?;
        b.click("#undo").await?;
        b.until("nothing is lost again", &told("nothing is missed"))
            .await?;
        b.go(&format!("{address}/jobs/2/trace")).await?;
        self.drawn().await?;
        self.look("centre-lines").await?;
        for (line, job) in [("inks", 7), ("artwork", 1)] {
            b.go(&format!("{address}/jobs/{job}/{line}")).await?;
            self.drawn().await?;
            self.look(line).await?;
        }
        // The lantern with some steps, the brush in hand.
        b.go(&format!("{address}/jobs/1/clean")).await?;
        self.drawn().await?;
        for (n, step) in ["[data-take*=even]", "[data-find=levels]"]
            .into_iter()
            .enumerate()
        {
            b.click(step).await?;
            b.find(&format!(".step:nth-child({})", n + 1)).await?;
            self.drawn().await?;
        }
        b.click("[data-tool=erase]").await?;
        b.drag(&[(8.0, 11.0), (9.0, 12.0)]).await?;
        b.find(".step:nth-child(3)").await?;
        self.drawn().await?;
        self.look("clean-steps").await?;
        b.go(&format!("{address}/jobs/6/clean")).await?;
        self.drawn().await?;
        b.click("[data-tool=square]").await?;
        b.find("#square-offers button").await?;
        self.look("clean").await?;
        b.click("#square-offers button").await?;
        b.find(".step:nth-child(1)").await?;
        self.drawn().await?;
        self.look("squared-up").await?;
        self.tidy(address).await?;
        self.cutting(address).await?;
        self.printed(address).await?;
        self.sending(address).await?;
        self.odd_stock(address).await?;
        self.jobs(address).await?;
        b.surroundings("", "dark").await?;
        b.go(&format!("{address}/jobs/1/trace")).await?;
        self.drawn().await?;
        self.look("dim").await?;
        b.surroundings("", "light").await?;
        for (name, size) in [("tablet", (820, 1180)), ("telephone", (390, 844))] {
            b.sized(size.0, size.1).await?;
            b.page.goto(&format!("{address}/jobs/1/tidy")).await?;
            self.items().await?;
            b.click("[data-tool=pick]").await?;
            b.click("[data-pick=all]").await?;
            b.page.execute("scrollTo(0, 0)", vec![]).await?;
            b.until_text("#picked", "item").await?;
            self.drawn().await?;
            self.look_at(name, size).await?;
        }
        b.sized(1280, 800).await?;
        b.surroundings("print", "light").await?;
        b.go(&format!("{address}/jobs/3/layers")).await?;
        self.drawn().await?;
        self.look("work-order").await
    }

    /// Observatories nested into an offcut of ply, and the offcut itself.
    async fn odd_stock(&self, address: &str) -> Result<()> {
        let b = &self.browser;
        b.go(&format!("{address}/offcuts/1")).await?;
        b.find(".odd-bench .edge").await?;
        self.look("odd-piece").await?;
        b.go(&format!("{address}/jobs/4/size")).await?;
        self.drawn().await?;
        b.click("#tab-scale").await?;
        b.enter("#drawn-width", "95").await?;
        b.until_undo("Drawn part 95.0 mm").await?;
        b.go(&format!("{address}/jobs/4/layers")).await?;
        self.drawn().await?;
        b.choose("#material", "Ply 3 mm").await?;
        b.until_undo("Ply 3 mm").await?;
        b.click("#line-size").await?;
        b.click("#tab-stock").await?;
        b.choose("#stock", "Offcut").await?;
        b.until_undo("Stock").await?;
        b.click("#line-sheet").await?;
        b.enter("#copies", "14").await?;
        b.until_undo("14 copies").await?;
        b.click("#nest").await?;
        b.until_undo("Nested").await?;
        self.sheet().await?;
        self.look("odd-stock").await
    }

    /// Nine stickers on a page to be printed, one of their pieces coloured in; and cut where the cutter's eye found the marks.
    async fn printed(&self, address: &str) -> Result<()> {
        let b = &self.browser;
        printed::printed_and_sent(b, address).await?;
        b.click("#run-go").await?;
        b.until_text("#machine-bench", "Nothing waits for it")
            .await?;
        self.look("printed-cut").await?;
        // As fast as a real one again, for who looks next.
        by_hand(b, &printed::set("pace", "1")).await?;
        b.go(&format!("{address}/jobs/1/sheet")).await?;
        self.sheet().await?;
        b.click("#tab-print").await?;
        b.enter("#fill-place", "27, 12").await?;
        b.until_undo("Piece coloured in").await?;
        self.sheet().await?;
        self.look("printed").await
    }

    /// The Jobs page, once it tells of the first backup, some seconds after the start.
    async fn jobs(&self, address: &str) -> Result<()> {
        let b = &self.browser;
        let started = Instant::now();
        loop {
            b.go(address).await?;
            b.find("#job-5").await?;
            if b.text("#backups").await?.contains("kept in data/backups") {
                return self.look("jobs").await;
            }
            ensure!(started.elapsed() < BACKED_UP, "no backup is told");
            tokio::time::sleep(Duration::from_secs(1)).await;
        }
    }
}

#[test]
fn every_view_fits_its_page_and_can_be_read() -> Result<()> {
    let shop = TempDir::new()?;
    let data = shop.path().join("data");
    std::fs::create_dir(&data)?;
    let server = Server::start("demo", &data)?;
    let folder = std::env::var_os("INKY_SCREENSHOTS").map(PathBuf::from);
    session::run(async {
        let gallery = Gallery {
            browser: Browser::open().await?,
            folder,
        };
        let result = gallery.tour(&server.address).await;
        gallery.browser.close(result.is_ok()).await?;
        result
    })
}
