//! Edits over HTTP: what cannot be done is refused in words and leaves the history as it was; what
//! was done outlives the program, and the command line replays it.

use std::process::Command;

use crate::support::{INKY, Server};
use anyhow::{Context, Result, ensure};
use serde_json::{Value, json};
use tempfile::TempDir;

const TEAPOT: &str = "/jobs/5";

struct Job<'a> {
    server: &'a Server,
    client: reqwest::Client,
}

impl Job<'_> {
    async fn page(&self) -> Result<String> {
        let address = format!("{}{TEAPOT}/tidy", self.server.address);
        Ok(self.client.get(address).send().await?.text().await?)
    }

    async fn revision(&self) -> Result<String> {
        let page = self.page().await?;
        let field = page.split("id=\"revision\"").nth(1).context("a revision")?;
        let value = field.split("value=\"").nth(1).context("its value")?;
        Ok(value.split('"').next().unwrap_or_default().to_owned())
    }

    async fn edit(&self, edit: &str) -> Result<(u16, String)> {
        let fields = [
            ("revision", self.revision().await?),
            ("edit", edit.to_owned()),
        ];
        let address = format!("{}{TEAPOT}/edit", self.server.address);
        let answer = self.client.post(address).form(&fields).send().await?;
        Ok((answer.status().as_u16(), answer.text().await?))
    }

    async fn outlines(&self) -> Result<String> {
        let address = format!("{}{TEAPOT}/cut.svg", self.server.address);
        Ok(self.client.get(address).send().await?.text().await?)
    }
}

#[tokio::test]
async fn edits_that_cannot_be_done_say_why_and_change_nothing() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("demo", data.path())?;
    let job = Job {
        server: &server,
        client: reqwest::Client::new(),
    };
    let (before, revision) = (job.outlines().await?, job.revision().await?);
    let add = |to: Value| json!({ "edit": "add", "name": "x", "parts": [{ "pigment": { "ink": 0 }, "paths": [{ "start": [0, 0], "to": to, "closed": true }] }] });
    let bad = [
        ("{".to_owned(), "could not be read"),
        (json!({ "edit": "melt", "items": [0] }).to_string(), "could not be read"),
        (json!({ "edit": "delete", "items": [99] }).to_string(), "no longer there"),
        (json!({ "edit": "delete", "items": [] }).to_string(), "Pick something"),
        (json!({ "edit": "move", "items": [0], "map": [0, 0, 0, 0, 0, 0] }).to_string(), "vanish"),
        (json!({ "edit": "move", "items": [0], "map": [1e300, 0, 0, 1, 0, 0] }).to_string(), "vanish"),
        (json!({ "edit": "offset", "items": [0], "distance": -80, "join": "round", "under": null }).to_string(), "Nothing would be left"),
        (json!({ "edit": "offset", "items": [0], "distance": 1e300, "join": "round", "under": null }).to_string(), "outside"),
        (json!({ "edit": "ink", "items": [0], "pigment": { "ink": 200 } }).to_string(), "not there"),
        (json!({ "edit": "refit", "items": [0], "tolerance": 0, "pieces": "curves", "corner": 20 }).to_string(), "outside"),
        (json!({ "edit": "nodes", "item": 0, "path": 9, "change": { "do": "reverse" } }).to_string(), "no longer there"),
        (add(json!([[1e300, 1]])).to_string(), "no place"),
        (add(json!([[1, 1, 1, 1]])).to_string(), "4 figures"),
        (add(json!([[0, 0], [0, 0]])).to_string(), "without segments"),
        (add(json!([[10, 0], [5, 0]])).to_string(), "Nothing would be left"),
        (json!({ "sketch": { "draw": "circle", "through": [[0, 0], [1, 1], [2, 2]] }, "pigment": { "ink": 0 }, "pen": 0.2 }).to_string(), "lie on a line"),
        (json!({ "lettering": { "words": "", "face": "Anton", "cap_height": 5, "at": [0, 0] }, "pigment": { "ink": 0 } }).to_string(), "letters"),
        (json!({ "lettering": { "words": "x", "face": "None", "cap_height": 5, "at": [0, 0] }, "pigment": { "ink": 0 } }).to_string(), "no face"),
    ];
    for (edit, words) in bad {
        let (status, said) = job.edit(&edit).await?;
        ensure!(
            status == 422 && said.contains(words),
            "{edit}: {status} {said}"
        );
    }
    ensure!(job.revision().await? == revision, "no step was added");
    ensure!(job.outlines().await? == before, "nothing was changed");
    // A page that is out of date is told so.
    let fields = [
        ("revision", "77"),
        ("edit", r#"{"edit":"delete","items":[0]}"#),
    ];
    let address = format!("{}{TEAPOT}/edit", server.address);
    let stale = job.client.post(address).form(&fields).send().await?;
    ensure!(stale.status() == 409, "{}", stale.status());
    Ok(())
}

#[tokio::test]
async fn edits_outlive_the_program_and_the_command_line_replays_them() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("demo", data.path())?;
    let job = Job {
        server: &server,
        client: reqwest::Client::new(),
    };
    for edit in [
        json!({ "edit": "boolean", "items": [0, 4], "how": "unite" }),
        json!({ "edit": "backing", "margin": 3, "join": "round", "holes": false, "pigment": { "colour": "#e9e4d6" } }),
        json!({ "edit": "move", "items": [2], "map": [1, 0, 0, 1, 0.1, -0.2] }),
    ] {
        let (status, said) = job.edit(&edit.to_string()).await?;
        ensure!(status == 200, "{edit}: {said}");
    }
    let outlines = job.outlines().await?;
    ensure!(outlines.contains("#e9e4d6"), "the backing has its colour");
    let file = |name: &str| data.path().join(name);
    for (name, what) in [("recipe.json", "recipe.json"), ("teapot.png", "original")] {
        let address = format!("{}{TEAPOT}/{what}", server.address);
        std::fs::write(
            file(name),
            job.client.get(address).send().await?.bytes().await?,
        )?;
    }
    drop(job);
    server.kill()?;
    let server = Server::start("serve", data.path())?;
    let job = Job {
        server: &server,
        client: reqwest::Client::new(),
    };
    ensure!(
        job.outlines().await? == outlines,
        "the same after a restart"
    );
    ensure!(
        job.page().await?.contains("3</b> edits"),
        "named on the ticket"
    );
    let done = Command::new(INKY)
        .arg("trace")
        .arg(file("teapot.png"))
        .arg("--recipe")
        .arg(file("recipe.json"))
        .arg("-o")
        .arg(file("teapot.svg"))
        .output()?;
    ensure!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let paths = |svg: &str| {
        svg.lines()
            .filter(|l| l.starts_with("<path"))
            .map(str::to_owned)
            .collect::<Vec<_>>()
    };
    let svg = std::fs::read_to_string(file("teapot.svg"))?;
    ensure!(
        paths(&svg) == paths(&outlines),
        "the command line cuts the same"
    );
    Ok(())
}
