//! `inky machine`: a simulated machine behind a TCP port, and a picture of what it really did.

use std::fmt::Write as _;
use std::io;
use std::net::{SocketAddr, TcpListener};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

use clap::{Args as ClapArgs, ValueEnum};
use inky_core::picture::{Picture, PictureError};
use inky_devices::cutter::{self, Cutter};
use inky_devices::laser::{self, Laser};
use inky_devices::line::{self, Hands};
use inky_devices::machine::Machine;
use inky_devices::printer::{self, Print, Printer};
use inky_formats::png::{self, PngError};
use inky_formats::vector::{self, VectorError};

use crate::save::{self, SaveFailed};
use crate::say;

/// Kinds of simulated machines.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum MachineKind {
    /// A roll cutter that takes HPGL
    Cutter,
    /// A laser that takes G-code
    Laser,
    /// A printer that takes PDF
    Printer,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct MachineArgs {
    /// What it is
    pub(crate) kind: MachineKind,
    /// Address to listen on; port 0 takes a free one
    #[arg(long, default_value = "127.0.0.1:9100")]
    pub(crate) listen: SocketAddr,
    /// A picture of what it really did, .svg or .png (of a printer .png: its last sheet), written whenever a sender is gone
    #[arg(long)]
    pub(crate) out: Option<PathBuf>,
    /// So many times faster than the clock
    #[arg(long, default_value_t = 1.0, value_parser = pace)]
    pub(crate) pace: f64,
    /// A fault: slow=TIMES, astray=MM with each stroke, media-end=MM, overrun (bytes are lost); may be given several times
    #[arg(long = "fault", value_parser = fault)]
    pub(crate) faults: Vec<Fault>,
}

/// A fault of a simulated machine.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Fault {
    /// So many times slower.
    Slow(f64),
    /// So far astray with each stroke, mm.
    Astray(f64),
    /// The media ends here, mm.
    MediaEnd(f64),
    /// Bytes are lost.
    Overrun,
}

fn pace(text: &str) -> Result<f64, String> {
    let pace: f64 = text.parse().map_err(|_| "a pace is a number, such as 10")?;
    if (0.01..=10_000.0).contains(&pace) {
        Ok(pace)
    } else {
        Err("a pace lies between 0.01 and 10000".to_owned())
    }
}

fn fault(text: &str) -> Result<Fault, String> {
    let known = "faults are slow=3, astray=0.1, media-end=300 and overrun";
    if text == "overrun" {
        return Ok(Fault::Overrun);
    }
    let (name, figure) = text.split_once('=').ok_or(known)?;
    let figure: f64 = figure.parse().map_err(|_| known)?;
    match name {
        "slow" if (0.01..=1000.0).contains(&figure) => Ok(Fault::Slow(figure)),
        "astray" if figure.abs() <= 100.0 => Ok(Fault::Astray(figure)),
        "media-end" if (0.0..=100_000.0).contains(&figure) => Ok(Fault::MediaEnd(figure)),
        _ => Err(known.to_owned()),
    }
}

/// Why there is no machine, or no picture of what it did.
#[derive(Debug, thiserror::Error)]
pub(crate) enum MachineFailed {
    #[error("cannot listen at {address}: {why}")]
    Listen { address: String, why: io::Error },
    #[error(transparent)]
    Line(#[from] io::Error),
    #[error(transparent)]
    Save(#[from] SaveFailed),
    #[error("a picture is an .svg or a .png")]
    Ending,
    #[error("what a printer prints is a .png")]
    PrintEnding,
}

pub(crate) fn run(args: &MachineArgs) -> Result<(), MachineFailed> {
    if let Some(out) = &args.out
        && !["svg", "png"]
            .iter()
            .any(|e| out.extension().is_some_and(|x| x == *e))
    {
        return Err(MachineFailed::Ending);
    }
    if matches!(args.kind, MachineKind::Printer)
        && args
            .out
            .as_ref()
            .is_some_and(|out| out.extension().is_some_and(|x| x == "svg"))
    {
        return Err(MachineFailed::PrintEnding);
    }
    let listener = TcpListener::bind(args.listen).map_err(|why| MachineFailed::Listen {
        address: args.listen.to_string(),
        why,
    })?;
    let machine = Mutex::new(made(args));
    println_address(&listener)?;
    let rested = || {
        let machine = machine.lock().unwrap_or_else(PoisonError::into_inner);
        say::done(format_args!("really done: {}", machine.told()));
        if let Some(out) = &args.out
            && let Err(why) = picture(&machine, out)
        {
            say::note(why);
        }
    };
    let hands = Mutex::new(Hands {
        pace: args.pace,
        ..Hands::default()
    });
    line::listen(&listener, &machine, &hands, &|| true, &rested)?;
    Ok(())
}

fn println_address(listener: &TcpListener) -> io::Result<()> {
    let address = listener.local_addr()?;
    use io::Write as _;
    writeln!(io::stdout(), "listening on tcp://{address}")
}

fn made(args: &MachineArgs) -> Machine {
    match args.kind {
        MachineKind::Cutter => {
            let mut cutter = Cutter::new(cutter::Model::default());
            for fault in &args.faults {
                match *fault {
                    Fault::Slow(times) => cutter.faults().slow = times,
                    Fault::Astray(mm) => cutter.faults().astray = [mm, 0.0],
                    Fault::MediaEnd(mm) => cutter.faults().media_end = Some(mm),
                    Fault::Overrun => cutter.faults().overruns = true,
                }
            }
            Machine::Cutter(Box::new(cutter))
        }
        MachineKind::Laser => {
            let mut laser = Laser::new(laser::Model::default());
            for fault in &args.faults {
                if let Fault::Slow(times) = *fault {
                    laser.slow_down(times);
                }
            }
            Machine::Laser(laser)
        }
        MachineKind::Printer => {
            let mut printer = Printer::new(printer::Model::default());
            for fault in &args.faults {
                if let Fault::Slow(times) = *fault {
                    printer.slow_down(times);
                }
            }
            Machine::Printer(printer)
        }
    }
}

/// Why a picture was not written.
#[derive(Debug, thiserror::Error)]
enum PictureFailed {
    #[error(transparent)]
    Save(#[from] SaveFailed),
    #[error(transparent)]
    Read(#[from] VectorError),
    #[error(transparent)]
    Png(#[from] PngError),
    #[error(transparent)]
    Picture(#[from] PictureError),
}

/// What it did, as lines of 0.1 mm.
fn picture(machine: &Machine, out: &Path) -> Result<(), PictureFailed> {
    if let Machine::Printer(printer) = machine {
        let last = printer.tray().into_iter().rev();
        let print = last.map(|sheet| sheet.print.clone()).next().flatten();
        let Some(Print { pixels, rgba }) = print else {
            return Ok(());
        };
        let (pixel, _) = rgba.as_chunks::<4>();
        let picture = Picture::new(pixels[0], pixels[1], pixel.to_vec())?;
        return Ok(save::save(out, &png::write_picture(&picture)?)?);
    }
    let svg = drawn(machine);
    if out.extension().is_some_and(|e| e == "svg") {
        return Ok(save::save(out, svg.as_bytes())?);
    }
    let file = vector::read(svg.as_bytes())?;
    let Some((picture, _)) = file.rendered() else {
        return Ok(());
    };
    Ok(save::save(out, &png::write_picture(&picture)?)?)
}

/// Strokes as SVG in mm, y down, at the size of all of them from the machine's corner.
fn drawn(machine: &Machine) -> String {
    let strokes = machine.strokes();
    let points = || strokes.iter().flatten();
    let wide = points().map(|p| p.x).fold(1.0, f64::max).ceil() + 1.0;
    let high = points().map(|p| p.y).fold(1.0, f64::max).ceil() + 1.0;
    let mut svg = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{wide}mm\" height=\"{high}mm\" viewBox=\"0 0 {wide} {high}\">\n\
         <g fill=\"none\" stroke=\"#1d2440\" stroke-width=\"0.1\">\n"
    );
    for stroke in &strokes {
        svg.push_str("<path d=\"");
        for (n, p) in stroke.iter().enumerate() {
            let letter = if n == 0 { 'M' } else { 'L' };
            // Text is made of what is put into it.
            let _ = write!(svg, "{letter}{:.3} {:.3}", p.x, high - p.y);
        }
        svg.push_str("\"/>\n");
    }
    svg.push_str("</g>\n</svg>\n");
    svg
}
