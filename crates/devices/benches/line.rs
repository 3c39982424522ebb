//! 2,000 and 10,000 rings over TCP to the simulated cutter running 1,000 times as fast as a real one, how soon a stop
//! and a pause are obeyed, and how long it takes to tell how long a file will take; figures for `docs/benchmarks.md`.
//!
//! `cargo bench -p inky-devices --bench line`

use std::cell::Cell;
use std::error::Error;
use std::net::TcpListener;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use inky_devices::cutter::{self, Cutter};
use inky_devices::drives::Drives;
use inky_devices::laser::{self, Laser};
use inky_devices::line::{self, Address, Hands, Said, Wish};
use inky_devices::machine::Machine;
use inky_devices::sender::{Language, Program, Sender};

type Done = Result<(), Box<dyn Error>>;

fn rings(count: usize) -> String {
    let ring = |n: usize| {
        let (x, y) = (n % 100 * 200, n / 100 * 200);
        let side = |k: usize| {
            let (sin, cos) = (std::f64::consts::TAU * k as f64 / 24.0).sin_cos();
            let (right, up) = ((80.0 + 80.0 * cos) as usize, (80.0 + 80.0 * sin) as usize);
            format!("{},{}", x + right, y + up)
        };
        let sides: Vec<String> = (1..=24).map(side).collect();
        format!("PU{};PD{};", side(0), sides.join(","))
    };
    let all: String = (0..count).map(ring).collect();
    format!("IN;SP1;VS40;FS80;{all}PU;SP0;")
}

fn lines(count: usize) -> String {
    let line = |n: usize| {
        let x = n % 20 * 20;
        format!("G0 X{x} Y{}\nG1 X{} F6000\n", n / 20, x + 18)
    };
    let all: String = (0..count).map(line).collect();
    format!("G21 G90\nM4 S500\n{all}M5\nM2\n")
}

/// A machine behind a port while `work` runs.
fn with(machine: Machine, pace: f64, work: impl FnOnce(&Address, &Mutex<Machine>) -> Done) -> Done {
    let listener = TcpListener::bind("127.0.0.1:0")?;
    let address: Address = format!("tcp://{}", listener.local_addr()?).parse()?;
    let (machine, over) = (Mutex::new(machine), AtomicBool::new(false));
    let hands = Mutex::new(Hands {
        pace,
        ..Hands::default()
    });
    let goes_on = || !over.load(Ordering::Relaxed);
    std::thread::scope(|scope| {
        scope.spawn(|| line::listen(&listener, &machine, &hands, &goes_on, &|| {}));
        let done = work(&address, &machine);
        over.store(true, Ordering::Relaxed);
        done
    })
}

fn moved(machine: &Mutex<Machine>) -> f64 {
    let machine = machine.lock().unwrap_or_else(PoisonError::into_inner);
    machine.seconds()
}

/// The most memory that was held so far, MB.
fn memory() -> f64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find_map(|l| l.strip_prefix("VmHWM:"));
    let kilobytes = line.and_then(|l| l.split_whitespace().next()?.parse::<f64>().ok());
    kilobytes.unwrap_or(f64::NAN) / 1024.0
}

fn throughput(count: usize) -> Done {
    let text = rings(count);
    let cutter = Machine::Cutter(Box::new(Cutter::new(cutter::Model::default())));
    with(cutter, 1000.0, |address, machine| {
        let mut sender = Sender::new(Program::of(Language::Hpgl, &text), 0);
        let began = Instant::now();
        line::speak(&mut sender, address, &mut || Wish::GoOn, &mut |_, _| {})?;
        let seconds = began.elapsed().as_secs_f64();
        let rate = text.len() as f64 / seconds / 1000.0;
        let done = machine.lock().map_or(0, |m| m.strokes().len());
        eprintln!(
            "{count} rings, {} bytes: {seconds:.2} s, {rate:.1} kB/s, {done} strokes, {:.0} MB at most",
            text.len(),
            memory()
        );
        Ok(())
    })
}

/// After so long without moving a machine stands still.
const STILL: Duration = Duration::from_millis(300);

/// The time from a press until the tool moves no more: the longest of 50 tries.
fn latency(name: &str, press: Wish, language: Language) -> Done {
    let mut longest = Duration::ZERO;
    for n in 0..50 {
        let (text, machine) = match language {
            Language::Hpgl => (
                rings(300),
                Machine::Cutter(Box::new(Cutter::new(cutter::Model::default()))),
            ),
            Language::Gcode => (
                lines(300),
                Machine::Laser(Laser::new(laser::Model::default())),
            ),
        };
        with(machine, 1.0, |address, machine| {
            let mut sender = Sender::new(Program::of(language, &text), 0);
            let began = Instant::now();
            let at = Duration::from_millis(250 + 7 * n);
            let (pressed, moved_last) = (Cell::new(None), Cell::new((0.0, began)));
            let stands = || moved_last.get().1.elapsed() > STILL;
            let mut wish = || {
                if began.elapsed() < at {
                    return Wish::GoOn;
                }
                let since = pressed.get().unwrap_or_else(Instant::now);
                pressed.set(Some(since));
                // Once it stands there is nothing more to measure.
                match since.elapsed() > STILL && stands() {
                    true => Wish::Stop,
                    false => press,
                }
            };
            let look = || {
                let now = moved(machine);
                if now > moved_last.get().0 {
                    moved_last.set((now, Instant::now()));
                }
            };
            line::speak(
                &mut sender,
                address,
                &mut wish,
                &mut |_: &Sender, _: Said<'_>| look(),
            )?;
            // A stop ends the line before the machine has heard it.
            while !stands() {
                look();
                std::thread::sleep(Duration::from_millis(1));
            }
            let since = pressed.get().unwrap_or(began);
            longest = longest.max(moved_last.get().1.saturating_duration_since(since));
            Ok(())
        })?;
    }
    eprintln!("{name}: {} ms at most, of 50", longest.as_millis());
    Ok(())
}

/// How long it takes to tell how long a file will take on a machine.
fn foretold(count: usize) {
    let text = rings(count);
    let began = Instant::now();
    let told = Drives::usual(Language::Hpgl).seconds(Language::Hpgl, &text);
    let took = began.elapsed().as_secs_f64() * 1000.0;
    eprintln!("{count} rings take {told:.0} s, told in {took:.0} ms");
}

fn main() -> Done {
    foretold(2000);
    foretold(10_000);
    throughput(2000)?;
    throughput(10_000)?;
    latency("stop, cutter", Wish::Stop, Language::Hpgl)?;
    latency("stop, laser", Wish::Stop, Language::Gcode)?;
    latency("pause, laser", Wish::Pause, Language::Gcode)
}
