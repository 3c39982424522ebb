//! Files held against a machine of the server's list, and files for a printer.

use std::fs;
use std::process::{Command, Output};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, ensure};
use tempfile::TempDir;

use crate::machines::{Machine, design, said};
use crate::support::{INKY, Server};

#[test]
fn a_file_is_held_against_a_machine_of_the_list_while_its_server_runs() -> Result<()> {
    let folder = TempDir::new()?;
    let (data, file) = (folder.path().join("data"), design(&folder, "plt")?);
    fs::create_dir(&data)?;
    let ask = |args: &[&str]| -> Result<Output> {
        let mut send = Command::new(INKY);
        send.arg("send").arg(&file).arg("--data").arg(&data);
        Ok(send.args(args).output()?)
    };
    let none = ask(&["--machine", "Practice cutter"])?;
    ensure!(said(&none).contains("has kept anything"), "{}", said(&none));
    let _server = Server::start("serve", &data)?;
    let to = ["--to", "tcp://127.0.0.1:1", "--dry-run"];
    for (name, rest, words) in [
        (
            "Practice cutter",
            &to[..],
            "would send paths 1 to 3 to tcp://127.0.0.1:1, about ",
        ),
        ("Practice cutter", &to[2..], "ships with the server"),
        (
            "Practice laser",
            &to[..],
            "is sent G-code, and this is HPGL",
        ),
        (
            "Big cutter",
            &to[..],
            "there are Practice cutter, Practice laser, Practice printer",
        ),
    ] {
        let mut args = vec!["--machine", name];
        args.extend(rest);
        let output = ask(&args)?;
        ensure!(said(&output).contains(words), "{args:?}: {}", said(&output));
    }
    fs::write(&file, "IN;SP1;PU0,0;PD400,30000;PU;SP0;")?;
    let far = ask(&["--machine", "Practice cutter", "--to", "tcp://127.0.0.1:1"])?;
    ensure!(
        said(&far).contains("10 × 750 mm") && far.status.code() == Some(1),
        "{}",
        said(&far)
    );
    Ok(())
}

#[test]
fn a_pdf_is_printed_in_its_own_size() -> Result<()> {
    let folder = TempDir::new()?;
    let (svg, file, print) = (
        folder.path().join("a.svg"),
        folder.path().join("a.pdf"),
        folder.path().join("print.png"),
    );
    fs::write(
        &svg,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"80mm\" height=\"50mm\" viewBox=\"0 0 80 50\">\
         <rect x=\"10\" y=\"10\" width=\"60\" height=\"30\"/></svg>",
    )?;
    let made = Command::new(INKY)
        .arg("convert")
        .arg(&svg)
        .arg("-o")
        .arg(&file)
        .output()?;
    ensure!(made.status.success(), "{}", said(&made));
    let printer = Machine::start(
        "printer",
        &["--pace", "100", "--out", &print.to_string_lossy()],
    )?;
    let sent = printer.send(&file, &[])?;
    ensure!(
        sent.status.success() && said(&sent).contains("sent to tcp://"),
        "{}",
        said(&sent)
    );
    let started = Instant::now();
    let picture = loop {
        if let Ok(picture) = image::open(&print) {
            break picture.to_rgb8();
        }
        ensure!(
            started.elapsed() < Duration::from_secs(20),
            "nothing was printed"
        );
        std::thread::sleep(Duration::from_millis(20));
    };
    // 100 points an inch, and the printer prints half a millimetre beside at most.
    let mm = |px: u32| f64::from(px) * 25.4 / 100.0;
    let places = picture.enumerate_pixels().filter(|(_, _, p)| p.0[1] < 200);
    let places: Vec<(u32, u32)> = places.map(|(x, y, _)| (x, y)).collect();
    let ends = |all: &mut dyn Iterator<Item = u32>| -> Option<(f64, f64)> {
        let all: Vec<u32> = all.collect();
        Some((mm(*all.iter().min()?), mm(*all.iter().max()?)))
    };
    let (left, right) = ends(&mut places.iter().map(|p| p.0)).context("a line")?;
    let (top, bottom) = ends(&mut places.iter().map(|p| p.1)).context("a line")?;
    for (is, side) in [(right - left, 60.0), (bottom - top, 30.0)] {
        ensure!((is - side).abs() < 0.8, "{is} mm of {side} mm");
    }
    let odd = printer.send(&svg, &[])?;
    ensure!(!odd.status.success(), "{}", said(&odd));
    let refused = Command::new(INKY)
        .args(["machine", "printer", "--out", "a.svg"])
        .output()?;
    ensure!(said(&refused).contains("is a .png"), "{}", said(&refused));
    Ok(())
}
