//! Files sent to simulated machines over TCP: what they really did is what was sent.

use std::fs;
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, ensure};
use inky_formats::vector;
use tempfile::TempDir;

use crate::support::INKY;

/// A machine that is ended with the test.
pub(crate) struct Machine {
    child: Child,
    pub(crate) address: String,
}

impl Machine {
    pub(crate) fn start(kind: &str, args: &[&str]) -> Result<Self> {
        let mut child = Command::new(INKY)
            .args(["machine", kind, "--listen", "127.0.0.1:0"])
            .args(args)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()?;
        let mut line = String::new();
        let stdout = child.stdout.take().context("its output")?;
        BufReader::new(stdout).read_line(&mut line)?;
        let address = line.trim().rsplit(' ').next().unwrap_or_default();
        Ok(Self {
            child,
            address: address.to_owned(),
        })
    }

    pub(crate) fn send(&self, file: &Path, args: &[&str]) -> Result<Output> {
        let mut send = Command::new(INKY);
        send.arg("send").arg(file).args(["--to", &self.address]);
        Ok(send.args(args).output()?)
    }
}

impl Drop for Machine {
    fn drop(&mut self) {
        // It may be gone already.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// A file once it is whole.
fn written(path: &Path) -> Result<vector::VectorFile> {
    let started = Instant::now();
    loop {
        if let Ok(bytes) = fs::read(path)
            && bytes.ends_with(b"</svg>\n")
        {
            return Ok(vector::read(&bytes)?);
        }
        ensure!(started.elapsed() < Duration::from_secs(20), "no picture");
        std::thread::sleep(Duration::from_millis(20));
    }
}

pub(crate) fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

/// Two rings and a bar, 60 mm wide, in the format of an ending.
pub(crate) fn design(folder: &TempDir, ending: &str) -> Result<std::path::PathBuf> {
    let svg = folder.path().join("design.svg");
    fs::write(
        &svg,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"60mm\" height=\"40mm\" viewBox=\"0 0 60 40\">\
         <path d=\"M5 5h20v30h-20zM30 20a10 10 0 1 0 20 0a10 10 0 1 0 -20 0z\"/><rect x=\"53\" y=\"1\" width=\"6\" height=\"38\"/></svg>",
    )?;
    let out = folder.path().join(format!("design.{ending}"));
    let material = if ending == "plt" {
        "Cast vinyl"
    } else {
        "Ply 3 mm"
    };
    let made = Command::new(INKY)
        .arg("convert")
        .arg(&svg)
        .arg("-o")
        .arg(&out)
        .args(["--material", material])
        .output()?;
    ensure!(made.status.success(), "{}", said(&made));
    Ok(out)
}

/// So many triangles along the roll.
fn triangles(count: usize) -> String {
    let one = |n: usize| {
        let x = n * 800;
        format!("PU{x},0;PD{},0,{},400,{x},0;", x + 400, x + 400)
    };
    (0..count).map(one).collect()
}

#[test]
fn what_was_sent_is_what_was_done() -> Result<()> {
    for (kind, ending) in [("cutter", "plt"), ("laser", "gcode")] {
        let folder = TempDir::new()?;
        let file = design(&folder, ending)?;
        let picture = folder.path().join("done.svg");
        let out = picture.to_string_lossy().into_owned();
        let machine = Machine::start(kind, &["--pace", "200", "--out", &out])?;
        let sent = machine.send(&file, &[])?;
        ensure!(sent.status.success(), "{kind}: {}", said(&sent));
        ensure!(
            said(&sent).contains("done: 3 paths"),
            "{kind}: {}",
            said(&sent)
        );
        let (done, asked) = (written(&picture)?, vector::read(&fs::read(&file)?)?);
        if kind == "cutter" {
            // The same without a word from it: as much again is cut.
            let sent = machine.send(&file, &["--mute"])?;
            ensure!(sent.status.success(), "{}", said(&sent));
            let started = Instant::now();
            let strokes =
                || fs::read_to_string(&picture).map_or(0, |svg| svg.matches("<path").count());
            while strokes() < 6 {
                ensure!(
                    started.elapsed() < Duration::from_secs(20),
                    "it was not cut again"
                );
                std::thread::sleep(Duration::from_millis(20));
            }
        }
        let length = |file: &vector::VectorFile| -> f64 {
            let paths = file.parts.iter().flat_map(|p| &p.paths);
            let segments = paths.filter_map(|p| p.segments().ok()).flatten();
            segments.map(|s| s.length()).sum()
        };
        // A blade goes on past the end of each of the three by its overcut, which the reader takes off again.
        let overcut = if kind == "cutter" { 3.0 * 0.3 } else { 0.0 };
        let (was, is) = (length(&asked) + overcut, length(&done));
        ensure!(
            (was - is).abs() < 0.1,
            "{kind}: {was} mm asked, {is} mm done"
        );
    }
    Ok(())
}

#[test]
fn a_stop_is_told_with_the_path_to_go_on_with() -> Result<()> {
    let folder = TempDir::new()?;
    let file = folder.path().join("rings.plt");
    let rings = triangles(60);
    fs::write(&file, format!("IN;SP1;VS20;FS80;{rings}PU;SP0;"))?;
    let picture = folder.path().join("done.svg");
    let out = picture.to_string_lossy().into_owned();
    let machine = Machine::start("cutter", &["--out", &out])?;
    let mut send = Command::new(INKY);
    send.arg("send").arg(&file).args(["--to", &machine.address]);
    let send = send.stderr(Stdio::piped()).spawn()?;
    std::thread::sleep(Duration::from_millis(1500));
    // As Ctrl-C in a terminal.
    let interrupt = Command::new("kill")
        .args(["-INT", &send.id().to_string()])
        .status()?;
    ensure!(interrupt.success());
    let ended = send.wait_with_output()?;
    let words = said(&ended);
    ensure!(
        ended.status.code() == Some(1) && words.contains("stopped"),
        "{words}"
    );
    let figures: Vec<usize> = words
        .split(|c: char| !c.is_ascii_digit())
        .filter_map(|n| n.parse().ok())
        .collect();
    let [done, 60, next] = figures[..] else {
        anyhow::bail!("{words}")
    };
    let begun = written(&picture)?
        .parts
        .iter()
        .map(|p| p.paths.len())
        .sum::<usize>();
    ensure!(
        next == done + 1 && (begun == done || begun == next),
        "{words}: {begun} begun"
    );
    // What is left, from there.
    let rest = machine.send(&file, &["--from", &(55.max(next)).to_string()])?;
    ensure!(rest.status.success(), "{}", said(&rest));
    Ok(())
}

#[test]
fn what_cannot_be_sent_is_said() -> Result<()> {
    let folder = TempDir::new()?;
    let file = design(&folder, "plt")?;
    let machine = Machine::start("cutter", &["--pace", "1000"])?;
    for (args, words) in [
        (&["--from", "9"][..], "it has 3 paths"),
        (&["--from", "0"], "it has 3 paths"),
        (&["--dry-run"], "would send paths 1 to 3"),
    ] {
        let output = machine.send(&file, args)?;
        ensure!(said(&output).contains(words), "{args:?}: {}", said(&output));
    }
    let text = folder.path().join("notes.txt");
    fs::write(&text, "hello")?;
    ensure!(said(&machine.send(&text, &[])?).contains("neither HPGL, G-code nor PDF"));
    let address = machine.address.clone();
    drop(machine);
    let gone = Command::new(INKY)
        .arg("send")
        .arg(&file)
        .args(["--to", &address])
        .output()?;
    ensure!(
        !gone.status.success() && said(&gone).contains("nothing answers at tcp://"),
        "{}",
        said(&gone)
    );
    // One that loses bytes stands elsewhere in the end.
    let rings = folder.path().join("rings.plt");
    let all = triangles(120);
    fs::write(&rings, format!("IN;SP1;VS40;FS80;{all}PU;SP0;"))?;
    let loses = Machine::start("cutter", &["--pace", "200", "--fault", "overrun"])?;
    let lost = loses.send(&rings, &[])?;
    ensure!(
        lost.status.code() == Some(1) && said(&lost).contains("bytes were lost"),
        "{}",
        said(&lost)
    );
    // Another kind of machine, and one that says nothing.
    let laser = Machine::start("laser", &[])?;
    let odd = laser.send(&file, &[])?;
    ensure!(!odd.status.success(), "{}", said(&odd));
    let silent = std::net::TcpListener::bind("127.0.0.1:0")?;
    let to = format!("tcp://{}", silent.local_addr()?);
    let unheard = Command::new(INKY)
        .arg("send")
        .arg(&file)
        .args(["--to", &to])
        .output()?;
    ensure!(
        said(&unheard).contains("does not answer") && said(&unheard).contains("0 of 3 paths"),
        "{}",
        said(&unheard)
    );
    let refused = Command::new(INKY)
        .args(["machine", "laser", "--fault", "tired=1"])
        .output()?;
    ensure!(refused.status.code() == Some(2), "{}", said(&refused));
    Ok(())
}

#[test]
fn a_line_that_comes_back_tells_exactly_how_far_it_is() -> Result<()> {
    let folder = TempDir::new()?;
    let file = folder.path().join("rings.plt");
    let rings = triangles(60);
    fs::write(&file, format!("IN;SP1;VS20;FS80;{rings}PU;SP0;"))?;
    let picture = folder.path().join("done.svg");
    let out = picture.to_string_lossy().into_owned();
    let machine = Machine::start("cutter", &["--pace", "4", "--out", &out])?;
    // Between them lies what somebody pulls at, once.
    let between = std::net::TcpListener::bind("127.0.0.1:0")?;
    let to = format!("tcp://{}", between.local_addr()?);
    let far = machine.address.trim_start_matches("tcp://").to_owned();
    std::thread::spawn(move || -> std::io::Result<()> {
        for after in [Duration::from_millis(1200), Duration::from_secs(3600)] {
            let (near, _) = between.accept()?;
            let far = std::net::TcpStream::connect(&far)?;
            let ends = [
                (near.try_clone()?, far.try_clone()?),
                (far.try_clone()?, near.try_clone()?),
            ];
            for (mut from, mut to) in ends {
                std::thread::spawn(move || {
                    let copied = std::io::copy(&mut from, &mut to);
                    to.shutdown(std::net::Shutdown::Both).and(copied)
                });
            }
            std::thread::sleep(after);
            // One end may be gone already: the copying hears of the other first.
            let _ = near.shutdown(std::net::Shutdown::Both);
            let _ = far.shutdown(std::net::Shutdown::Both);
        }
        Ok(())
    });
    let sent = Command::new(INKY)
        .arg("send")
        .arg(&file)
        .args(["--to", &to])
        .output()?;
    let words = said(&sent);
    ensure!(words.contains("the line to the machine is gone"), "{words}");
    let last = words.lines().last().unwrap_or_default();
    let figures: Vec<usize> = last
        .split(|c: char| !c.is_ascii_digit())
        .filter_map(|n| n.parse().ok())
        .collect();
    let [done, 60, next] = figures[..] else {
        anyhow::bail!("{words}")
    };
    let begun: usize = written(&picture)?.parts.iter().map(|p| p.paths.len()).sum();
    ensure!((2..60).contains(&done) && next == done + 1, "{words}");
    // One may have been broken off, in the midst of an instruction.
    ensure!(begun.abs_diff(done) <= 1, "{words}: {begun} cut");
    Ok(())
}
