//! A sender and a machine at the two ends of a serial line: a pair of pseudo-terminals of the system.

use std::io::{Read, Write};
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use serialport::{SerialPort, TTYPort};

use super::*;
use crate::cutter::{self, Cutter};
use crate::sender::{Language, Program, Sender, Stand, Trouble};

/// A cutter at the end of a line, so many times as fast as the clock, until `ends`.
fn at_the_end(mut line: TTYPort, pace: f64, ends: &AtomicBool) -> Cutter {
    let mut cutter = Cutter::new(cutter::Model::default());
    line.set_timeout(Duration::from_millis(1)).unwrap();
    let (mut waiting, mut read, mut last) = (Vec::new(), [0; 512], Instant::now());
    while !ends.load(Ordering::Relaxed) {
        if waiting.is_empty()
            && let Ok(n) = line.read(&mut read)
        {
            waiting.extend_from_slice(&read[..n]);
        }
        let taken = cutter.receive(&waiting);
        waiting.drain(..taken);
        cutter.advance(last.elapsed().as_secs_f64() * pace);
        last = Instant::now();
        line.write_all(&cutter.answers()).unwrap();
    }
    cutter
}

fn rings(count: usize) -> String {
    let ring = |n: usize| {
        let (x, y) = (n % 20 * 600, n / 20 * 600);
        let (right, top) = (x + 400, y + 400);
        format!("PU{x},{y};PD{right},{y},{right},{top},{x},{top},{x},{y};")
    };
    let all: String = (0..count).map(ring).collect();
    format!("IN;SP1;VS40;FS80;{all}PU;SP0;")
}

#[test]
fn all_is_cut_over_a_serial_line() {
    let (machine, ours) = TTYPort::pair().unwrap();
    let address = format!("serial:{},38400,none,software", ours.name().unwrap());
    let address: Address = address.parse().unwrap();
    let ends = AtomicBool::new(false);
    std::thread::scope(|scope| {
        let cutter = scope.spawn(|| at_the_end(machine, 40.0, &ends));
        let mut sender = Sender::new(Program::of(Language::Hpgl, &rings(60)), 0);
        let gone = speak(&mut sender, &address, &mut || Wish::GoOn, &mut |_, _| {});
        ends.store(true, Ordering::Relaxed);
        assert_eq!(gone, Ok(()));
        assert_eq!((sender.stand(), sender.done()), (&Stand::Finished, 60));
        assert_eq!(cutter.join().unwrap().record().strokes.len(), 60);
    });
}

#[test]
fn a_line_that_nobody_answers_on_is_noticed_in_two_seconds() {
    let (_machine, ours) = TTYPort::pair().unwrap();
    let address = format!("serial:{},9600,none,none", ours.name().unwrap());
    let mut sender = Sender::new(Program::of(Language::Hpgl, &rings(3)), 0);
    let gone = speak(
        &mut sender,
        &address.parse().unwrap(),
        &mut || Wish::GoOn,
        &mut |_, _| {},
    );
    assert_eq!(gone, Ok(()));
    assert_eq!(sender.stand(), &Stand::Failed(Trouble::Silent));
    let nowhere: Address = "serial:/dev/no-such-port".parse().unwrap();
    let gone = speak(&mut sender, &nowhere, &mut || Wish::GoOn, &mut |_, _| {});
    assert!(matches!(gone, Err(Lost::NoAnswer { .. })), "{gone:?}");
}
