//! The server over HTTP: the same results as the command line, bad requests, and being killed.

use crate::support::run::{disc, inky, paths, text, written};
use crate::support::{Server, new_job, upload};
use anyhow::{Context, Result, ensure};
use reqwest::StatusCode;
use tempfile::TempDir;

#[tokio::test]
async fn the_page_and_the_command_line_give_the_same_outlines() -> Result<()> {
    let folder = TempDir::new()?;
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let bytes = inky_demo::SAMPLES[0].file();
    let job = new_job(&server, bytes.clone()).await?;
    let page = reqwest::get(format!("{}{job}/cut.svg", server.address))
        .await?
        .text()
        .await?;
    let (input, out) = (
        written(&folder, "disc.png", &bytes)?,
        folder.path().join("o.svg"),
    );
    ensure!(
        inky(&["trace", text(&input), "-o", text(&out)])?
            .status
            .success()
    );
    ensure!(paths(&page) == paths(&std::fs::read_to_string(out)?));
    ensure!(paths(&page).len() > 3);
    Ok(())
}

#[tokio::test]
async fn the_page_and_the_command_line_give_the_same_stroke_lines() -> Result<()> {
    let folder = TempDir::new()?;
    let data = TempDir::new()?;
    let server = Server::start("demo", data.path())?;
    let page = reqwest::get(format!("{}/jobs/2/cut.svg", server.address))
        .await?
        .text()
        .await?;
    let input = written(&folder, "twine.png", &inky_demo::SAMPLES[3].file())?;
    let (out, report) = (folder.path().join("o.svg"), folder.path().join("o.json"));
    let done = inky(&[
        "trace",
        text(&input),
        "--inks",
        "mono",
        "--edges",
        "centreline",
        "--width",
        "90mm",
        "-o",
        text(&out),
        "--report",
        text(&report),
    ])?;
    ensure!(done.status.success());
    let svg = std::fs::read_to_string(out)?;
    ensure!(paths(&page) == paths(&svg));
    let figures: serde_json::Value = serde_json::from_slice(&std::fs::read(report)?)?;
    ensure!(
        figures["strokes"] == 9 && figures["shapes"] == 0,
        "{figures}"
    );
    ensure!(svg.matches("stroke-linecap=\"round\"").count() == 9);
    // The ball is the only closed line.
    ensure!(svg.matches("Z\"").count() == 1);
    Ok(())
}

#[tokio::test]
async fn a_job_survives_kill_9_and_the_original_is_byte_for_byte() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let bytes = disc()?;
    let job = new_job(&server, bytes.clone()).await?;
    let chosen = reqwest::Client::new()
        .post(format!("{}{job}/choose", server.address))
        .form(&[
            ("revision", "0"),
            ("line", "size"),
            ("changed", "width"),
            ("width", "77mm"),
        ])
        .send()
        .await?;
    ensure!(chosen.status() == StatusCode::OK, "{}", chosen.status());
    server.kill()?;

    let server = Server::start("serve", data.path())?;
    let original = reqwest::get(format!("{}{job}/original", server.address))
        .await?
        .bytes()
        .await?;
    ensure!(original == bytes);
    let svg = reqwest::get(format!("{}{job}/cut.svg", server.address))
        .await?
        .text()
        .await?;
    ensure!(svg.contains("width=\"77mm\" height=\"57.75mm\""), "{svg}");
    ensure!(
        server.stop()? == Some(0),
        "asked to stop, it ends by itself"
    );
    Ok(())
}

#[tokio::test]
async fn bad_uploads_are_refused_and_the_server_stays_up() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let job = new_job(&server, disc()?).await?;
    for (bytes, status, words) in [
        (Vec::new(), StatusCode::UNPROCESSABLE_ENTITY, "empty"),
        (b"GIF89a".to_vec(), StatusCode::UNPROCESSABLE_ENTITY, "GIF"),
        (
            vec![0xff; (65 << 20) + 100],
            StatusCode::PAYLOAD_TOO_LARGE,
            "64 MB",
        ),
        (
            vec![0; (64 << 20) + 100],
            StatusCode::UNPROCESSABLE_ENTITY,
            "64 MB",
        ),
    ] {
        let refused = upload(&server, "x.png", bytes).await?;
        let (found, said) = (refused.status(), refused.text().await?);
        ensure!(
            found == status && said.contains(words) && said.contains("problem-file"),
            "{found}: {said}"
        );
    }
    let page = reqwest::get(format!("{}{job}", server.address)).await?;
    ensure!(page.status() == StatusCode::OK, "the job is unharmed");
    Ok(())
}

#[tokio::test]
async fn wrong_values_and_strangers_are_turned_away() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let job = new_job(&server, disc()?).await?;
    let client = reqwest::Client::new();
    let choose = |fields: &[(&str, &str)]| {
        client
            .post(format!("{}{job}/choose", server.address))
            .form(fields)
            .send()
    };
    for (field, value, words) in [
        ("width", "wide", "is not a number"),
        ("width", "0mm", "outside 1 to 20000 mm"),
        ("tolerance", "5 furlongs", "not a unit known here"),
        ("min_part", "-1", "outside 0 to 10000 mm²"),
        ("corner", "179", "outside 5 to 170 °"),
        ("count", "256", "outside 2 to 32"),
    ] {
        let refused = choose(&[("revision", "0"), ("changed", field), (field, value)]).await?;
        let (status, said) = (refused.status(), refused.text().await?);
        ensure!(
            status == StatusCode::UNPROCESSABLE_ENTITY,
            "{field}={value}: {status}"
        );
        ensure!(
            said.contains(words) && said.contains(&format!("problem-{field}")),
            "{field}={value}: {said}"
        );
    }
    ensure!(
        choose(&[("revision", "9"), ("changed", "edges"), ("edges", "outer")])
            .await?
            .status()
            == StatusCode::CONFLICT
    );
    let foreign = client
        .post(format!("{}{job}/delete", server.address))
        .header("Sec-Fetch-Site", "cross-site")
        .send()
        .await?;
    ensure!(foreign.status() == StatusCode::FORBIDDEN);
    let foreign = client
        .post(format!("{}{job}/delete", server.address))
        .header("Origin", "http://elsewhere.example")
        .send()
        .await?;
    ensure!(foreign.status() == StatusCode::FORBIDDEN);
    for missing in [
        "/jobs/999",
        "/jobs/1/nowhere",
        "/static/none.js",
        "/jobs/1/results/0/outlines.json",
    ] {
        let status = reqwest::get(format!("{}{missing}", server.address))
            .await?
            .status();
        ensure!(
            status == StatusCode::NOT_FOUND || status == StatusCode::GONE,
            "{missing}: {status}"
        );
    }
    Ok(())
}

/// The status of a request, and the answer's text.
async fn asked(request: reqwest::RequestBuilder) -> Result<(StatusCode, String)> {
    let answer = request.send().await?;
    Ok((answer.status(), answer.text().await?))
}

#[tokio::test]
async fn only_names_of_this_machine_are_answered() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let client = reqwest::Client::new();
    let port = server.address.rsplit(':').next().context("a port")?;
    for (host, status) in [
        (format!("localhost:{port}"), StatusCode::OK),
        (format!("127.0.0.1:{port}"), StatusCode::OK),
        (
            format!("evil.example:{port}"),
            StatusCode::MISDIRECTED_REQUEST,
        ),
        (
            "127.0.0.1.evil.example".to_owned(),
            StatusCode::MISDIRECTED_REQUEST,
        ),
    ] {
        // What a proxy would say counts for nothing.
        let request = client.get(&server.address).header("Host", &host);
        let request = request.header("X-Forwarded-Host", "localhost");
        let (found, words) = asked(request).await?;
        ensure!(found == status, "{host}: {found} {words}");
    }
    let posted = client
        .post(format!("{}/units?to=in", server.address))
        .header("Origin", "http://evil.example")
        .header("X-Forwarded-Host", "evil.example");
    ensure!(asked(posted).await?.0 == StatusCode::FORBIDDEN);
    Ok(())
}

#[tokio::test]
async fn heads_are_answered_other_methods_are_not_and_the_lost_get_a_page() -> Result<()> {
    let data = TempDir::new()?;
    let server = Server::start("serve", data.path())?;
    let client = reqwest::Client::new();
    let head = client.head(&server.address).send().await?;
    ensure!(head.status() == StatusCode::OK && head.text().await?.is_empty());
    for method in ["PUT", "DELETE", "PATCH"] {
        let method = reqwest::Method::from_bytes(method.as_bytes())?;
        let answer = client.request(method, &server.address).send().await?;
        ensure!(answer.status() == StatusCode::METHOD_NOT_ALLOWED);
        ensure!(answer.headers()["allow"] == "GET, HEAD, POST");
    }
    // Addresses that only take what is sent, and one that is only looked at.
    for address in ["demo", "jobs/1/undo"] {
        let sent_only = client.get(format!("{}/{address}", server.address));
        let answer = sent_only.header("Accept", "text/html").send().await?;
        ensure!(
            answer.status() == StatusCode::METHOD_NOT_ALLOWED
                && answer.headers()["allow"] == "POST",
            "{address}"
        );
        ensure!(
            answer.text().await?.contains("All jobs"),
            "a person gets our page"
        );
    }
    let answer = client
        .post(format!("{}/bin", server.address))
        .send()
        .await?;
    ensure!(answer.status() == StatusCode::METHOD_NOT_ALLOWED);
    ensure!(answer.headers()["allow"] == "GET, HEAD");
    for lost in ["/nowhere", "/jobs/999", "/jobs/many"] {
        let address = format!("{}{lost}", server.address);
        let person = client.get(&address).header("Accept", "text/html,*/*");
        let (status, page) = asked(person).await?;
        ensure!(status == StatusCode::NOT_FOUND, "{lost}");
        ensure!(page.contains("There is nothing at this address") && page.contains("All jobs"));
        let (status, words) = asked(client.get(&address).header("HX-Request", "true")).await?;
        ensure!(
            status == StatusCode::NOT_FOUND && !words.contains("<html"),
            "{lost}"
        );
    }
    Ok(())
}

#[tokio::test]
async fn the_log_has_a_line_for_a_request_and_calls_no_refusal_an_error() -> Result<()> {
    let (data, log) = (TempDir::new()?, tempfile::NamedTempFile::new()?);
    let server = Server::logging("serve", data.path(), log.reopen()?)?;
    let job = new_job(&server, disc()?).await?;
    let refused = reqwest::Client::new()
        .post(format!("{}{job}/choose", server.address))
        .form(&[
            ("revision", "0"),
            ("changed", "tolerance"),
            ("tolerance", "900"),
            ("line", "trace"),
        ]);
    ensure!(asked(refused).await?.0 == StatusCode::UNPROCESSABLE_ENTITY);
    ensure!(server.stop()? == Some(0));
    let log = std::fs::read_to_string(log.path())?;
    let of = |path: &str| log.lines().filter(|l| l.contains(path)).count();
    ensure!(of(&format!("{job}/choose")) == 1, "{log}");
    ensure!(log.contains("422") && log.contains("outside"), "{log}");
    ensure!(!log.contains("ERROR") && !log.contains("WARN"), "{log}");
    Ok(())
}
