//! One Chromium behind one ChromeDriver for all tests, taken in turn; each test finds a tab that nobody used.

use std::io::{BufRead, BufReader};
use std::os::unix::process::CommandExt;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::sync::LazyLock;

use anyhow::{Context, Result, bail};
use tempfile::TempDir;
use thirtyfour::prelude::*;
use tokio::runtime::Runtime;
use tokio::sync::{Mutex, MutexGuard};

static SESSION: Mutex<Option<Session>> = Mutex::const_new(None);

/// What all tests run in: connections to the driver outlive the test that made them.
static RUNTIME: LazyLock<std::io::Result<Runtime>> = LazyLock::new(Runtime::new);

/// Runs what a test does.
pub(crate) fn run(test: impl Future<Output = Result<()>>) -> Result<()> {
    let runtime = RUNTIME.as_ref().context("no runtime")?;
    runtime.block_on(test)
}

/// A running browser.
pub(crate) struct Session {
    /// Its tab.
    pub(crate) page: WebDriver,
    /// Where downloads land.
    pub(crate) downloads: PathBuf,
    _driver: Driver,
    _folder: TempDir,
}

/// The driver's shell.
struct Driver(Child);

/// Ends the driver and its browser and takes their folder off once its own input ends: also when the tests are
/// killed.
const UNTIL_INPUT_ENDS: &str = "chromedriver --port=0 & trap '' TERM; cat >/dev/null; \
    kill -TERM 0; wait; rm -rf -- \"$0\"; kill -KILL 0";

impl Drop for Driver {
    fn drop(&mut self) {
        drop(self.0.stdin.take());
        let _ = self.0.wait();
    }
}

/// The browser, with a new tab.
pub(crate) async fn taken() -> Result<MutexGuard<'static, Option<Session>>> {
    let mut turn = SESSION.lock().await;
    match &*turn {
        Some(session) => session.turned_over().await?,
        None => *turn = Some(Session::start().await?),
    }
    Ok(turn)
}

/// Keeps the browser for the next test, or ends it: a failed test may leave it in any state.
pub(crate) async fn given_back(session: &mut Option<Session>, passed: bool) -> Result<()> {
    if !passed && let Some(session) = session.take() {
        session.page.quit().await?;
    }
    Ok(())
}

impl Session {
    /// A tab of its own for the next test, and nothing kept from the one before.
    async fn turned_over(&self) -> Result<()> {
        let page = &self.page;
        let origin = page.execute("return location.origin", vec![]).await?;
        let all = serde_json::json!({ "origin": origin.json(), "storageTypes": "all" });
        page.cdp()
            .send_raw("Storage.clearDataForOrigin", all)
            .await?;
        let nothing = serde_json::json!({});
        page.cdp()
            .send_raw("Network.clearBrowserCookies", nothing)
            .await?;
        for file in std::fs::read_dir(&self.downloads)? {
            std::fs::remove_file(file?.path())?;
        }
        let next = page.new_tab().await?;
        page.close_window().await?;
        page.switch_to_window(next).await?;
        // Who looks at a tab has it before them: it has the focus.
        let nothing = serde_json::json!({});
        page.cdp().send_raw("Page.bringToFront", nothing).await?;
        Ok(())
    }

    async fn start() -> Result<Self> {
        let folder = TempDir::new()?;
        let (profile, downloads) = (
            folder.path().join("profile"),
            folder.path().join("downloads"),
        );
        std::fs::create_dir(&downloads)?;
        let mut child = Command::new("sh")
            .args(["-c", UNTIL_INPUT_ENDS])
            .arg(folder.path())
            .process_group(0)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()?;
        let mut lines = BufReader::new(child.stdout.take().context("stdout is piped")?);
        let driver = Driver(child);
        let mut line = String::new();
        let port: u16 = loop {
            line.clear();
            if lines.read_line(&mut line)? == 0 {
                bail!("chromedriver ended early, or is missing; run scripts/test");
            }
            if let Some(port) = line.split("successfully on port ").nth(1) {
                break port.trim().trim_end_matches('.').parse()?;
            }
        };
        std::thread::spawn(move || {
            let mut rest = String::new();
            while lines.read_line(&mut rest).unwrap_or(0) > 0 {
                rest.clear();
            }
        });
        let mut caps = DesiredCapabilities::chrome();
        for arg in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            // Steps of zoom end where they begin, so that places on the bench can be pointed at.
            "--force-prefers-reduced-motion",
            "--window-size=1280,800",
        ] {
            caps.add_arg(arg)?;
        }
        caps.add_arg(&format!("--user-data-dir={}", profile.display()))?;
        caps.add_experimental_option(
            "prefs",
            serde_json::json!({ "download.default_directory": downloads, "download.prompt_for_download": false }),
        )?;
        let page = WebDriver::new(format!("http://127.0.0.1:{port}"), caps).await?;
        Ok(Self {
            page,
            downloads,
            _driver: driver,
            _folder: folder,
        })
    }
}
