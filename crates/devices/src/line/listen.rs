//! A simulated machine behind a TCP port.

use std::io::{self, ErrorKind, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::sync::{Mutex, PoisonError};
use std::time::Instant;

use super::{LOOK, SaidLast};
use crate::machine::Machine;

/// What somebody who stands beside a simulated machine does to it and to its line.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Hands {
    /// So many times faster than the clock.
    pub pace: f64,
    /// The line is pulled out.
    pub unplugged: bool,
    /// Answers are garbled on their way.
    pub garbled: bool,
}

impl Default for Hands {
    fn default() -> Self {
        Self {
            pace: 1.0,
            unplugged: false,
            garbled: false,
        }
    }
}

/// What a garbled answer looks like.
const GARBLED: &[u8] = b"\x07#?&\r\n";

/// Serves one sender after the other as long as `goes_on`. `rested` is told after each, once the machine has done what
/// it still held.
///
/// # Errors
/// Of the socket that is listened at; a sender that goes away is none.
pub fn listen(
    listener: &TcpListener,
    machine: &Mutex<Machine>,
    hands: &Mutex<Hands>,
    goes_on: &dyn Fn() -> bool,
    rested: &dyn Fn(),
) -> io::Result<()> {
    listener.set_nonblocking(true)?;
    let mut clock = Instant::now();
    let mut owed = false;
    while goes_on() {
        match listener.accept() {
            // The door is there, but nobody behind it.
            Ok((stream, _)) if lock(hands).unplugged => drop(stream),
            Ok((stream, _)) => {
                serve(stream, machine, hands, goes_on, &mut clock);
                lock(machine).unplugged();
                owed = true;
            }
            Err(e) if e.kind() == ErrorKind::WouldBlock => {
                pass(machine, &mut clock, lock(hands).pace);
                // Nobody hears what it answers now.
                lock(machine).answers();
                if owed && lock(machine).is_idle() {
                    owed = false;
                    rested();
                }
                std::thread::sleep(LOOK);
            }
            Err(e) => return Err(e),
        }
    }
    Ok(())
}

fn lock<T>(shared: &Mutex<T>) -> std::sync::MutexGuard<'_, T> {
    shared.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Lets the machine do what the clock has gone on.
fn pass(machine: &Mutex<Machine>, clock: &mut Instant, pace: f64) {
    let now = Instant::now();
    let seconds = now.duration_since(*clock).as_secs_f64() * pace;
    *clock = now;
    lock(machine).advance(seconds);
}

/// One sender, until the line is closed.
fn serve(
    mut stream: TcpStream,
    machine: &Mutex<Machine>,
    hands: &Mutex<Hands>,
    goes_on: &dyn Fn() -> bool,
    clock: &mut Instant,
) {
    if stream.set_nonblocking(true).is_err() {
        return;
    }
    let _ = stream.set_nodelay(true);
    let mut waiting: Vec<u8> = Vec::new();
    let mut answers: Vec<u8> = Vec::new();
    let mut read = [0; 4096];
    let mut last = SaidLast::new();
    while goes_on() {
        let Hands {
            pace,
            unplugged,
            garbled,
        } = *lock(hands);
        if unplugged {
            return;
        }
        // What does not fit is left on the line, and holds the sender up.
        if waiting.is_empty() {
            match stream.read(&mut read) {
                Ok(0) => return,
                Ok(n) => waiting.extend_from_slice(&read[..n]),
                Err(e) if e.kind() == ErrorKind::WouldBlock => {}
                Err(_) => return,
            }
        }
        let busy = !waiting.is_empty();
        let taken = lock(machine).receive(&waiting);
        waiting.drain(..taken);
        pass(machine, clock, pace);
        let said = lock(machine).answers();
        let said_something = !said.is_empty();
        match garbled && !said.is_empty() {
            true => answers.extend(GARBLED),
            false => answers.extend(said),
        }
        match stream.write(&answers) {
            Ok(n) => drop(answers.drain(..n)),
            Err(e) if e.kind() == ErrorKind::WouldBlock => {}
            Err(_) => return,
        }
        last.rest(busy || said_something);
    }
}
