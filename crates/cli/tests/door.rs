//! Who is let in: a program that others can reach asks for a password, and says so when it has none.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::Arc;

use anyhow::{Context, Result, ensure};
use reqwest::multipart::{Form, Part};
use reqwest::redirect::Policy;
use reqwest::{Client, StatusCode};
use rustls::pki_types::pem::PemObject as _;
use rustls::pki_types::{CertificateDer, ServerName};
use tempfile::TempDir;

use crate::support::INKY;
use crate::support::run::disc;

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

fn kept(folder: &Path, addr: &str, more: &[&str]) -> Result<Kept> {
    std::fs::write(folder.join("password"), "correct horse\n")?;
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
        .args(more)
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
    let server = kept(folder.path(), "127.0.0.1:0", &[])?;
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
    let page = at("/").send().await?;
    ensure!(page.status() == StatusCode::OK && page.text().await?.contains("Sign out"));
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
    let server = kept(folder.path(), "127.0.0.1:0", &[])?;
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
    let said = refused(&["--addr", "127.0.0.1:0", "--behind-proxy"])?;
    ensure!(said.contains("--password-file"), "{said}");
    std::fs::write(folder.path().join("short"), "1234")?;
    let said = refused(&["--addr", "127.0.0.1:0", "--password-file", "short"])?;
    ensure!(said.contains("fewer than 8 characters"), "{said}");
    let said = refused(&["--addr", "127.0.0.1:0", "--password-file", "none"])?;
    ensure!(said.contains("cannot be read"), "{said}");
    let server = kept(folder.path(), "0.0.0.0:0", &[])?;
    ensure!(!server.address.contains("0.0.0.0"), "{}", server.address);
    let page = browser()?
        .get(format!("{}/sign-in", server.address))
        .send()
        .await?;
    ensure!(page.status() == StatusCode::OK);
    Ok(())
}

#[tokio::test]
async fn who_signs_in_with_a_name_is_told_in_the_history() -> Result<()> {
    let folder = TempDir::new()?;
    let server = kept(folder.path(), "127.0.0.1:0", &[])?;
    let signed_in = async |name: &'static str| -> Result<Client> {
        let client = browser()?;
        let form = [("password", "correct horse"), ("name", name)];
        let address = format!("{}/sign-in", server.address);
        let answer = client.post(address).form(&form).send().await?;
        ensure!(answer.status() == StatusCode::SEE_OTHER);
        Ok(client)
    };
    let ada = signed_in(" Ada  <b>").await?;
    let file = Part::bytes(disc()?).file_name("ring.png");
    let jobs = format!("{}/jobs", server.address);
    let form = Form::new().part("file", file);
    let made = ada.post(&jobs).multipart(form).send().await?;
    ensure!(made.status() == StatusCode::CREATED, "{}", made.status());
    let ben = signed_in("Ben").await?;
    let change = [("revision", "0"), ("line", "inks"), ("edit", "")];
    let refused = ben.post(format!("{jobs}/1/edit")).form(&change).send();
    ensure!(!refused.await?.status().is_success(), "nothing to do");
    let change = [
        ("revision", "0"),
        ("line", "inks"),
        ("changed", "mode"),
        ("mode", "mono"),
    ];
    let changed = ben.post(format!("{jobs}/1/choose")).form(&change).send();
    let changed = changed.await?;
    ensure!(
        changed.status().is_success(),
        "{} {}",
        changed.status(),
        changed.text().await?
    );
    let page = ada.get(format!("{jobs}/1")).send().await?.text().await?;
    ensure!(
        page.contains("Artwork brought in, by Ada &#60;b&#62;"),
        "{page}"
    );
    ensure!(page.contains(", by Ben"), "{page}");
    Ok(())
}

#[tokio::test]
async fn behind_a_proxy_its_word_counts_and_otherwise_nobodys_does() -> Result<()> {
    let folder = TempDir::new()?;
    let shop = ["--behind-proxy", "--host", "shop.example"];
    let server = kept(folder.path(), "127.0.0.1:0", &shop)?;
    let client = browser()?;
    let sign_in = |password: &'static str, from: &'static str, host: &'static str| {
        let form = [("password", password)];
        let asked = client.post(format!("{}/sign-in", server.address));
        let asked = asked.header("X-Forwarded-For", from);
        let asked = asked.header("X-Forwarded-Proto", "https");
        asked.header("X-Forwarded-Host", host).form(&form).send()
    };
    let other = sign_in("correct horse", "10.0.0.1", "evil.example").await?;
    ensure!(other.status() == StatusCode::MISDIRECTED_REQUEST);
    for _ in 0..4 {
        let wrong = sign_in("guess", "10.0.0.1", "shop.example").await?;
        ensure!(wrong.status() == StatusCode::UNAUTHORIZED);
    }
    // Who guessed waits; somebody else behind the same proxy does not.
    let waits = sign_in("correct horse", "10.0.0.1", "shop.example").await?;
    ensure!(waits.status() == StatusCode::TOO_MANY_REQUESTS);
    let right = sign_in("correct horse", "10.0.0.2", "shop.example").await?;
    ensure!(right.status() == StatusCode::SEE_OTHER);
    let cookie = right.headers()["set-cookie"].to_str()?;
    ensure!(cookie.contains("Secure"), "{cookie}");
    Ok(())
}

/// A certificate for `localhost` and 127.0.0.1 that signs itself, and its key: see `files/README.md`.
const CERTIFICATE: &str = concat!(
    env!("CARGO_MANIFEST_DIR"),
    "/tests/files/localhost-cert.pem"
);
const KEY: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/files/localhost-key.pem");

#[test]
fn with_a_certificate_the_address_is_safe_and_the_cookie_too() -> Result<()> {
    let folder = TempDir::new()?;
    let server = kept(folder.path(), "127.0.0.1:0", &["--tls", CERTIFICATE, KEY])?;
    let address = server.address.strip_prefix("https://");
    let address = address.with_context(|| format!("it is at {}", server.address))?;
    let mut trusted = rustls::RootCertStore::empty();
    trusted.add(CertificateDer::from_pem_file(CERTIFICATE)?)?;
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    let client = rustls::ClientConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()?
        .with_root_certificates(trusted)
        .with_no_client_auth();
    let name = ServerName::try_from("localhost")?;
    let connection = rustls::ClientConnection::new(Arc::new(client), name)?;
    let mut line = rustls::StreamOwned::new(connection, TcpStream::connect(address)?);
    let form = "password=correct+horse";
    write!(
        line,
        "POST /sign-in HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\nContent-Length: {}\r\n\
         Content-Type: application/x-www-form-urlencoded\r\n\r\n{form}",
        form.len()
    )?;
    let mut answer = String::new();
    line.read_to_string(&mut answer)?;
    ensure!(answer.starts_with("HTTP/1.1 303"), "{answer}");
    ensure!(answer.contains("Secure"), "{answer}");
    // What is no certificate is said.
    let nothing = folder.path().join("password");
    let done = Command::new(INKY)
        .args(["serve", "--addr", "127.0.0.1:0", "--data", "e", "--tls"])
        .args([&nothing, Path::new(KEY)])
        .current_dir(folder.path())
        .output()?;
    let said = String::from_utf8_lossy(&done.stderr);
    ensure!(
        done.status.code() == Some(1) && said.contains("certificate"),
        "{said}"
    );
    Ok(())
}
