//! The real program, started on a free port with a data folder of its own.
#![allow(dead_code, reason = "each test program uses a part of it")]

pub(crate) mod bed;
pub(crate) mod blade;
pub(crate) mod run;

use std::fs::File;
use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::{Mutex, PoisonError};

use anyhow::{Context, Result, bail, ensure};
use reqwest::StatusCode;
use reqwest::multipart::{Form, Part};

/// The program under test.
pub(crate) const INKY: &str = env!("CARGO_BIN_EXE_inky");

/// A running server; killed when dropped.
pub(crate) struct Server {
    child: Child,
    /// Such as `http://127.0.0.1:40123`.
    pub(crate) address: String,
}

impl Server {
    /// `command` is `serve` or `demo`. A folder that is still empty gets copies of demo jobs that were
    /// made once: to draw their pictures takes longer than many a test.
    pub(crate) fn start(command: &str, data: &Path) -> Result<Self> {
        if command == "demo" && std::fs::read_dir(data)?.next().is_none() {
            copy_demo(data)?;
        }
        Self::run((command, data), "warn", Stdio::inherit())
    }

    /// One that writes a line for each request into a file.
    pub(crate) fn logging(command: &str, data: &Path, log: File) -> Result<Self> {
        Self::run((command, data), "info", log.into())
    }

    fn run((command, data): (&str, &Path), level: &str, log: Stdio) -> Result<Self> {
        // Named as a person does, from the folder around it.
        let (around, name) = (data.parent().context("a folder")?, data.file_name());
        let mut child = Command::new(INKY)
            .args([command, "--addr", "127.0.0.1:0", "--data"])
            .arg(name.context("its name")?)
            .current_dir(around)
            .env("RUST_LOG", level)
            .stderr(log)
            .stdout(Stdio::piped())
            .spawn()?;
        let mut line = String::new();
        BufReader::new(child.stdout.take().context("stdout is piped")?).read_line(&mut line)?;
        let Some(address) = line.trim().strip_prefix("Inky Outline is at ") else {
            bail!("the server said {line:?}");
        };
        Ok(Self {
            child,
            address: address.trim_end_matches('/').to_owned(),
        })
    }

    /// Ends it as `kill -9` does: at once, without a word.
    pub(crate) fn kill(mut self) -> Result<()> {
        self.child.kill()?;
        self.child.wait()?;
        Ok(())
    }

    /// Asks it to stop and waits for its exit code.
    pub(crate) fn stop(mut self) -> Result<Option<i32>> {
        Command::new("kill")
            .args(["-TERM", &self.child.id().to_string()])
            .status()?;
        Ok(self.child.wait()?.code())
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

static DEMO: Mutex<Option<PathBuf>> = Mutex::new(None);

/// Copies the data folder of a demo that was started once in this program and stopped again.
fn copy_demo(to: &Path) -> Result<()> {
    let mut made = DEMO.lock().unwrap_or_else(PoisonError::into_inner);
    let from = match &*made {
        Some(folder) => folder.clone(),
        None => {
            let folder = Path::new(env!("CARGO_TARGET_TMPDIR")).join(env!("CARGO_CRATE_NAME"));
            if folder.exists() {
                std::fs::remove_dir_all(&folder)?;
            }
            std::fs::create_dir_all(&folder)?;
            // What it says it serves is on the disk.
            Server::run(("demo", &folder), "warn", Stdio::inherit())?.kill()?;
            made.insert(folder).clone()
        }
    };
    for entry in std::fs::read_dir(from)? {
        let entry = entry?;
        if entry.file_type()?.is_file() {
            std::fs::copy(entry.path(), to.join(entry.file_name()))?;
        }
    }
    Ok(())
}

/// A PNG whose pixels are black where `inside`, with soft edges from 4 × 4 samples.
pub(crate) fn png(width: u32, height: u32, inside: impl Fn(f64, f64) -> bool) -> Result<Vec<u8>> {
    let image = image::RgbImage::from_fn(width, height, |x, y| {
        let hits = (0..16)
            .filter(|s| {
                let part = |n: u32| (f64::from(n) + 0.5) / 4.0;
                inside(f64::from(x) + part(s % 4), f64::from(y) + part(s / 4))
            })
            .count();
        image::Rgb([255 - (hits * 255 / 16) as u8; 3])
    });
    let mut bytes = std::io::Cursor::new(Vec::new());
    image.write_to(&mut bytes, image::ImageFormat::Png)?;
    Ok(bytes.into_inner())
}

/// A tall picture with the proportion 1.500 × 2.298: a ring and, apart from it, a bar.
pub(crate) fn ring_and_bar() -> Result<Vec<u8>> {
    png(750, 1149, |x, y| {
        let ring = (140.0..260.0).contains(&(x - 375.0).hypot(y - 400.0));
        let bar = (120.0..640.0).contains(&x) && (840.0..1000.0).contains(&y);
        ring || bar
    })
}

pub(crate) async fn upload(
    server: &Server,
    name: &str,
    bytes: Vec<u8>,
) -> Result<reqwest::Response> {
    let form = Form::new().part("file", Part::bytes(bytes).file_name(name.to_owned()));
    Ok(reqwest::Client::new()
        .post(format!("{}/jobs", server.address))
        .multipart(form)
        .send()
        .await?)
}

pub(crate) async fn new_job(server: &Server, bytes: Vec<u8>) -> Result<String> {
    let made = upload(server, "disc.png", bytes).await?;
    ensure!(made.status() == StatusCode::CREATED, "{}", made.status());
    Ok(made.headers()["location"].to_str()?.to_owned())
}
