//! A page of headless Chromium, used as a person uses it.

use std::path::PathBuf;
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use tempfile::TempDir;
use thirtyfour::action_chain::ActionChain;
use thirtyfour::prelude::*;
use tokio::sync::MutexGuard;

use crate::session::{self, Session};
use crate::support::Server;

/// Longest wait for something that should happen.
pub(crate) const PATIENCE: Duration = Duration::from_secs(30);
const STEP: Duration = Duration::from_millis(60);

/// How often an element is found again that was drawn anew.
const AGAIN: usize = 5;

/// A browser with a page of 1280 × 800 px and a folder for downloads.
pub(crate) struct Browser {
    /// The page.
    pub(crate) page: WebDriver,
    /// Where downloads land.
    pub(crate) downloads: PathBuf,
    turn: MutexGuard<'static, Option<Session>>,
}

impl Browser {
    pub(crate) async fn open() -> Result<Self> {
        let turn = session::taken().await?;
        let session = turn.as_ref().context("a session")?;
        Ok(Self {
            page: session.page.clone(),
            downloads: session.downloads.clone(),
            turn,
        })
    }

    /// Opens an address and makes the page itself 1280 × 800 px.
    pub(crate) async fn go(&self, address: &str) -> Result<()> {
        self.page.goto(address).await?;
        let chrome = self
            .page
            .execute("return outerHeight - innerHeight", vec![])
            .await?;
        let height = 800 + u32::try_from(chrome.json().as_i64().unwrap_or(0).max(0))?;
        self.page.set_window_rect(0, 0, 1280, height).await?;
        Ok(())
    }

    /// Makes the page of another size, px, as a device of it would.
    pub(crate) async fn sized(&self, width: u32, height: u32) -> Result<()> {
        let metrics = serde_json::json!({
            "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false,
        });
        let page = self.page.cdp();
        page.send_raw("Emulation.setDeviceMetricsOverride", metrics)
            .await?;
        Ok(())
    }

    /// Shows the page to somebody who asks for a feature, such as forced colours.
    pub(crate) async fn feature(&self, name: &str, value: &str) -> Result<()> {
        let features = serde_json::json!({ "features": [{ "name": name, "value": value }] });
        let page = self.page.cdp();
        page.send_raw("Emulation.setEmulatedMedia", features)
            .await?;
        Ok(())
    }

    /// Shows the page as in dim surroundings, as on paper, or with nothing of the kind.
    pub(crate) async fn surroundings(&self, media: &str, scheme: &str) -> Result<()> {
        let features = serde_json::json!({
            "media": media, "features": [{ "name": "prefers-color-scheme", "value": scheme }],
        });
        self.page
            .cdp()
            .send_raw("Emulation.setEmulatedMedia", features)
            .await?;
        Ok(())
    }

    pub(crate) async fn find(&self, css: &str) -> Result<WebElement> {
        let found = self
            .page
            .query(By::Css(css))
            .wait(PATIENCE, STEP)
            .first()
            .await;
        found.with_context(|| format!("nothing matches {css}"))
    }

    pub(crate) async fn text(&self, css: &str) -> Result<String> {
        // Read in one step, so that a swap in between cannot make it stale.
        let script = "return document.querySelector(arguments[0])?.innerText ?? ''";
        let text = self.page.execute(script, vec![css.into()]).await?;
        Ok(text.json().as_str().unwrap_or_default().to_owned())
    }

    pub(crate) async fn value(&self, css: &str) -> Result<String> {
        let script = "return document.querySelector(arguments[0])?.value ?? ''";
        Ok(self
            .page
            .execute(script, vec![css.into()])
            .await?
            .json()
            .as_str()
            .unwrap_or_default()
            .to_owned())
    }

    /// Waits until a script returns true.
    pub(crate) async fn until(&self, what: &str, script: &str) -> Result<()> {
        let started = Instant::now();
        loop {
            if self.page.execute(script, vec![]).await?.json().as_bool() == Some(true) {
                return Ok(());
            }
            if started.elapsed() > PATIENCE {
                bail!("waited in vain until {what}");
            }
            tokio::time::sleep(STEP).await;
        }
    }

    /// Waits until an element's text holds some words.
    pub(crate) async fn until_text(&self, css: &str, words: &str) -> Result<()> {
        let script = format!(
            "return (document.querySelector({css:?})?.innerText ?? '').replaceAll('\\u00a0', ' ').includes({words:?})"
        );
        let waited = self.until(&format!("{css} says {words:?}"), &script).await;
        let now = self.text(css).await?;
        waited.with_context(|| format!("it says {now:?}"))
    }

    /// Waits until the bench draws the result that the page last told it of.
    pub(crate) async fn until_drawn(&self) -> Result<()> {
        self.until(
            "the bench has drawn",
            "const b = document.getElementById('bench'); return b !== null && b.dataset.shown === b.dataset.key",
        )
        .await
    }

    /// Where a place of the piece, mm, lies in the window.
    pub(crate) async fn on_screen(&self, (x, y): (f64, f64)) -> Result<(i64, i64)> {
        let script = "const c = document.querySelector('#bench canvas'); \
            const [s, x, y] = c.dataset.view.split(' ').map(Number); const b = c.getBoundingClientRect(); \
            return [b.left + x + s * arguments[0], b.top + y + s * arguments[1]]";
        let place = self.page.execute(script, vec![x.into(), y.into()]).await?;
        let at = |n: usize| {
            place.json()[n]
                .as_f64()
                .context("a place")
                .map(|v| v.round() as i64)
        };
        Ok((at(0)?, at(1)?))
    }

    /// Mouse and keys, without the quarter of a second that a move takes otherwise.
    pub(crate) fn hand(&self) -> ActionChain {
        let quick = Duration::from_millis(20);
        self.page.action_chain_with_delay(None, Some(quick))
    }

    /// Drags over the bench from place to place, mm on the piece.
    pub(crate) async fn drag(&self, places: &[(f64, f64)]) -> Result<()> {
        let mut chain = self.hand();
        for (n, &place) in places.iter().enumerate() {
            let (x, y) = self.on_screen(place).await?;
            chain = chain.move_to(x, y);
            if n == 0 {
                chain = chain.click_and_hold();
            }
        }
        chain.release().perform().await?;
        Ok(())
    }

    /// Drags one thing of a list onto another.
    pub(crate) async fn carry(&self, thing: &str, onto: &str) -> Result<()> {
        let (thing, onto) = (self.find(thing).await?, self.find(onto).await?);
        let held = self.hand().move_to_element_center(&thing).click_and_hold();
        let over = held.move_by_offset(0, -10).move_to_element_center(&onto);
        over.release().perform().await?;
        Ok(())
    }

    /// Chooses the group that an element lies in, opens the fold it lies in, and scrolls to it.
    pub(crate) async fn reveal(&self, css: &str) -> Result<()> {
        let script = "const e = document.querySelector(arguments[0]); \
            const group = e?.closest('[data-group][hidden]'); \
            if (group) document.getElementById(group.getAttribute('aria-labelledby')).click(); \
            const fold = e?.closest('details'); if (fold) fold.open = true; e?.scrollIntoView({ block: 'nearest' })";
        self.find(css).await?;
        self.page.execute(script, vec![css.into()]).await?;
        Ok(())
    }

    /// Clicks on an element, wherever it is hidden; one that the page draws anew in that moment is found again.
    pub(crate) async fn click(&self, css: &str) -> Result<()> {
        self.reveal(css).await?;
        for _ in 0..AGAIN {
            match self.find(css).await?.click().await {
                Err(e) if e.to_string().contains("stale element") => {}
                clicked => return Ok(clicked?),
            }
        }
        bail!("{css} is drawn anew all the time")
    }

    /// Chooses an option of a list by a part of its text.
    pub(crate) async fn choose(&self, css: &str, option: &str) -> Result<()> {
        self.find(css).await?;
        let script = "const s = document.querySelector(arguments[0]); \
            s.value = [...s.options].find((o) => o.text.includes(arguments[1]))?.value; \
            s.dispatchEvent(new Event('change', { bubbles: true })); return s.value !== ''";
        let chosen = self
            .page
            .execute(script, vec![css.into(), option.into()])
            .await?;
        anyhow::ensure!(
            chosen.json().as_bool() == Some(true),
            "{css} has no {option}"
        );
        Ok(())
    }

    /// Types over a field and leaves it, so that it counts.
    pub(crate) async fn enter(&self, css: &str, text: &str) -> Result<()> {
        self.reveal(css).await?;
        self.retype(css, text).await?;
        self.find(css).await?.send_keys(Key::Tab).await?;
        Ok(())
    }

    /// Clicks on the bench at a place of the piece, mm.
    pub(crate) async fn point(&self, place: (f64, f64)) -> Result<()> {
        let (x, y) = self.on_screen(place).await?;
        self.hand().move_to(x, y).click().perform().await?;
        Ok(())
    }

    /// Presses a key on the bench.
    pub(crate) async fn press(&self, keys: impl Into<thirtyfour::TypingData>) -> Result<()> {
        self.find("#bench canvas").await?.send_keys(keys).await?;
        Ok(())
    }

    /// Clicks twice on the bench at a place of the piece, mm.
    pub(crate) async fn point_twice(&self, place: (f64, f64)) -> Result<()> {
        let (x, y) = self.on_screen(place).await?;
        let chain = self.hand().move_to(x, y).double_click();
        chain.perform().await?;
        Ok(())
    }

    /// Waits until a step is the one that undo would take back, and the bench has drawn it.
    pub(crate) async fn until_undo(&self, step: &str) -> Result<()> {
        let script = format!(
            "return document.querySelector('#undo').title === {:?}",
            format!("Undo: {step}")
        );
        let waited = self.until(&format!("{step} is a step"), &script).await;
        let now = "return document.querySelector('#undo').title + ' / ' + document.querySelector('#problem-tidy')?.textContent";
        let now = self.page.execute(now, vec![]).await?;
        waited.with_context(|| format!("it is {}", now.json()))?;
        self.until_drawn().await
    }

    /// Types over what a field holds.
    pub(crate) async fn retype(&self, css: &str, text: &str) -> Result<()> {
        self.reveal(css).await?;
        let field = self.find(css).await?;
        field.send_keys(Key::Control + "a").await?;
        field.send_keys(text).await?;
        Ok(())
    }

    /// Waits for the one finished download and reads it.
    pub(crate) async fn download(&self) -> Result<(PathBuf, Vec<u8>)> {
        let started = Instant::now();
        loop {
            // While it writes, the browser keeps the file under another name, or a hidden one.
            let partial = |f: &PathBuf| {
                let name = f.file_name().unwrap_or_default().to_string_lossy();
                let ending = [".crdownload", ".tmp"].iter().any(|e| name.ends_with(e));
                ending || name.starts_with('.')
            };
            let files = std::fs::read_dir(&self.downloads)?;
            let mut files = files.filter_map(|f| f.ok().map(|f| f.path()));
            if let Some(file) = files.find(|f| !partial(f))
                && std::fs::metadata(&file)?.len() > 0
            {
                let bytes = std::fs::read(&file)?;
                std::fs::remove_file(&file)?;
                return Ok((file, bytes));
            }
            if started.elapsed() > PATIENCE {
                bail!("no file came down");
            }
            tokio::time::sleep(STEP).await;
        }
    }

    /// Leaves the page as it was found, or ends the browser after a test that failed.
    pub(crate) async fn close(mut self, passed: bool) -> Result<()> {
        session::given_back(&mut self.turn, passed).await
    }
}

/// Runs a test's body with a server and a browser, and closes both whatever comes of it.
pub(crate) fn with<F>(command: &str, body: F) -> Result<()>
where
    F: AsyncFnOnce(&Browser, &Server, &TempDir) -> Result<()>,
{
    session::run(async {
        let data = TempDir::new()?;
        let server = Server::start(command, data.path())?;
        let browser = Browser::open().await?;
        let result = match browser.go(&server.address).await {
            Ok(()) => body(&browser, &server, &data).await,
            Err(e) => Err(e),
        };
        browser.close(result.is_ok()).await?;
        result
    })
}

/// Chooses a file on the Jobs page.
pub(crate) async fn bring_in(
    b: &Browser,
    folder: &TempDir,
    name: &str,
    bytes: &[u8],
) -> Result<()> {
    let file = folder.path().join(name);
    std::fs::write(&file, bytes)?;
    b.find("#file")
        .await?
        .send_keys(file.display().to_string())
        .await?;
    Ok(())
}
