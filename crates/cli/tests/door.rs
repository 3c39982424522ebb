//! Who is let in: a program that others can reach asks for a password, and says so when it has none.

mod support;

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use anyhow::{Context, Result, ensure};
use reqwest::redirect::Policy;
use reqwest::{Client, StatusCode};
use support::INKY;
use tempfile::TempDir;

/// A server that asks for a password.
struct Kept {
    child: Child,
    address: String,
}

impl Drop for Kept {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

fn kept(folder: &Path, addr: &str, password: &str) -> Result<Kept> {
    std::fs::write(folder.join("password"), password)?;
    let mut child = Command::new(INKY)
        .args([
            "serve",
            "--addr",
            addr,
            "--data",
            "d",
            "--password-file",
            "password",
        ])
        .current_dir(folder)
        .env("RUST_LOG", "warn")
        .stdout(Stdio::piped())
        .spawn()?;
    let mut line = String::new();
    BufReader::new(child.stdout.take().context("stdout is piped")?).read_line(&mut line)?;
    let address = line.trim().strip_prefix("Inky Outline is at ");
    let address = address.with_context(|| format!("the server said {line:?}"))?;
    Ok(Kept {
        address: address.trim_end_matches('/').to_owned(),
        child,
    })
}

fn browser() -> Result<Client> {
    let client = Client::builder().cookie_store(true);
    Ok(client.redirect(Policy::none()).build()?)
}

async fn typed(
    client: &Client,
    server: &Kept,
    password: &str,
    to: &str,
) -> Result<(StatusCode, String, String)> {
    let form = [("password", password), ("to", to)];
    let address = format!("{}/sign-in", server.address);
    let answer = client.post(address).form(&form).send().await?;
    let header = |name: &str| {
        let value = answer.headers().get(name).and_then(|v| v.to_str().ok());
        value.unwrap_or_default().to_owned()
    };
    let (to, cookie) = (header("location"), header("set-cookie"));
    let status = answer.status();
    let words = format!("{}{cookie}", answer.text().await?);
    Ok((status, to, words))
}

#[tokio::test]
async fn jobs_behind_a_password_are_shown_to_who_knows_it() -> Result<()> {
    let folder = TempDir::new()?;
    let server = kept(folder.path(), "127.0.0.1:0", "correct horse\n")?;
    let client = browser()?;
    let at = |path: &str| client.get(format!("{}{path}", server.address));
    // A person is sent to the page that asks, a page that was open too, a program is told.
    let person = at("/jobs/1").header("Accept", "text/html").send().await?;
    ensure!(person.status() == StatusCode::SEE_OTHER);
    ensure!(person.headers()["location"] == "/sign-in?to=/jobs/1");
    let page = at("/").header("HX-Request", "true").send().await?;
    ensure!(
        page.status() == StatusCode::UNAUTHORIZED && page.headers()["hx-redirect"] == "/sign-in"
    );
    ensure!(at("/jobs/1/original").send().await?.status() == StatusCode::UNAUTHORIZED);
    let posted = client
        .post(format!("{}/demo", server.address))
        .send()
        .await?;
    ensure!(posted.status() == StatusCode::UNAUTHORIZED);
    ensure!(at("/static/app.css").send().await?.status() == StatusCode::OK);
    ensure!(
        at("/sign-in")
            .send()
            .await?
            .text()
            .await?
            .contains("Password")
    );
    let (status, _, words) = typed(&client, &server, "wrong horse", "/").await?;
    ensure!(
        status == StatusCode::UNAUTHORIZED && words.contains("not the password"),
        "{words}"
    );
    let (status, to, words) = typed(&client, &server, "correct horse", "/materials").await?;
    ensure!(
        status == StatusCode::SEE_OTHER && to == "/materials",
        "{status} {to}"
    );
    ensure!(
        words.contains("HttpOnly") && words.contains("SameSite=Lax"),
        "{words}"
    );
    ensure!(at("/").send().await?.status() == StatusCode::OK);
    // Nobody is sent to another site, and who goes out stays out.
    let (_, to, _) = typed(&client, &server, "correct horse", "//evil.example").await?;
    ensure!(to == "/", "{to}");
    client
        .post(format!("{}/sign-out", server.address))
        .send()
        .await?;
    ensure!(at("/").send().await?.status() == StatusCode::UNAUTHORIZED);
    Ok(())
}

#[tokio::test]
async fn wrong_tries_have_to_wait() -> Result<()> {
    let folder = TempDir::new()?;
    let server = kept(folder.path(), "127.0.0.1:0", "correct horse")?;
    let client = browser()?;
    for _ in 0..4 {
        let (status, ..) = typed(&client, &server, "guess", "/").await?;
        ensure!(status == StatusCode::UNAUTHORIZED);
    }
    // Even the right one, until the time is over.
    let (status, _, words) = typed(&client, &server, "correct horse", "/").await?;
    ensure!(
        status == StatusCode::TOO_MANY_REQUESTS && words.contains("Wait"),
        "{status}"
    );
    Ok(())
}

#[tokio::test]
async fn without_a_password_only_this_machine_is_served_and_the_address_told_works() -> Result<()> {
    let folder = TempDir::new()?;
    let refused = |args: &[&str]| -> Result<String> {
        let all = [&["serve", "--data", "d"], args].concat();
        let done = Command::new(INKY)
            .args(all)
            .current_dir(folder.path())
            .output()?;
        ensure!(done.status.code() == Some(1));
        Ok(String::from_utf8_lossy(&done.stderr).into_owned())
    };
    let said = refused(&["--addr", "0.0.0.0:0"])?;
    ensure!(
        said.contains("--password-file") && said.contains("127.0.0.1"),
        "{said}"
    );
    std::fs::write(folder.path().join("short"), "1234")?;
    let said = refused(&["--addr", "127.0.0.1:0", "--password-file", "short"])?;
    ensure!(said.contains("fewer than 8 characters"), "{said}");
    let said = refused(&["--addr", "127.0.0.1:0", "--password-file", "none"])?;
    ensure!(said.contains("cannot be read"), "{said}");
    let server = kept(folder.path(), "0.0.0.0:0", "correct horse")?;
    ensure!(!server.address.contains("0.0.0.0"), "{}", server.address);
    let page = browser()?
        .get(format!("{}/sign-in", server.address))
        .send()
        .await?;
    ensure!(page.status() == StatusCode::OK);
    Ok(())
}
