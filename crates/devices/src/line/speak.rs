//! A sender at its end of the line.

use std::io::{Read as _, Write as _};
use std::time::{Duration, Instant};

use super::address::{Address, Lost, waits};
use super::{LOOK, SaidLast};
use crate::finder::Finder;
use crate::sender::{Known, Program, Sender, Stand};

/// What a person wants meanwhile.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Wish {
    /// That it goes on.
    GoOn,
    /// That it waits.
    Pause,
    /// That it stops.
    Stop,
}

/// What was said over the line since it was told last.
#[derive(Clone, Copy, Debug)]
pub struct Said<'a> {
    /// What was written.
    pub written: &'a [u8],
    /// What was read.
    pub heard: &'a [u8],
}

/// How long what was said last is given to arrive.
const LAST_WORDS: Duration = Duration::from_secs(2);

/// Sends all there is, doing what `wish` says and telling `told` how far it is and what was said, until it stands
/// otherwise than running or paused.
///
/// # Errors
/// [`Lost`]; how far it came stands in the sender.
pub fn speak(
    sender: &mut Sender,
    address: &Address,
    wish: &mut dyn FnMut() -> Wish,
    told: &mut dyn FnMut(&Sender, Said<'_>),
) -> Result<(), Lost> {
    let mut wire = address.connect()?;
    let started = Instant::now();
    let mut waiting: Vec<u8> = Vec::new();
    let mut read = [0; 4096];
    let mut over_since = None;
    let mut last = SaidLast::new();
    loop {
        let now = started.elapsed().as_secs_f64();
        match wish() {
            Wish::GoOn => sender.go_on(),
            Wish::Pause => sender.pause(),
            Wish::Stop => {
                // What is still on this side is never sent.
                waiting.clear();
                sender.stop();
            }
        }
        // Where nothing is answered, the line alone says when there is room.
        if waiting.is_empty() || !sender.is_mute() {
            waiting.extend(sender.poll(now));
        }
        let over = !matches!(sender.stand(), Stand::Running | Stand::Paused);
        let written: Vec<u8> = match wire.write(&waiting) {
            Ok(n) => waiting.drain(..n).collect(),
            Err(e) if waits(&e) => Vec::new(),
            Err(_) => return Err(Lost::Gone),
        };
        let heard = match wire.read(&mut read) {
            Ok(0) => return Err(Lost::Gone),
            Ok(n) => &read[..n],
            Err(e) if waits(&e) => &[],
            Err(_) => return Err(Lost::Gone),
        };
        sender.hear(heard, now);
        let busy = !written.is_empty() || !heard.is_empty();
        let said = Said {
            written: &written,
            heard,
        };
        told(sender, said);
        if over {
            // A machine that reads nothing any more keeps nobody for ever.
            let since = over_since.get_or_insert_with(Instant::now);
            let kept_up = *sender.stand() == Stand::Finished && sender.is_mute();
            if waiting.is_empty() || (since.elapsed() > LAST_WORDS && !kept_up) {
                return Ok(());
            }
        }
        last.rest(busy);
    }
}

/// How long a line that is gone is left alone before the one try to have it back.
const AGAIN: Duration = Duration::from_millis(300);

/// Asks a machine whose line was gone with which path to go on; `None` where the line stays gone, it cannot tell, or
/// somebody stops it.
pub fn ask_again(
    program: Program,
    known: Known,
    address: &Address,
    wish: &mut dyn FnMut() -> Wish,
    told: &mut dyn FnMut(&Sender, Said<'_>),
) -> Option<usize> {
    std::thread::sleep(AGAIN);
    let mut sender = Sender::asking(program, known);
    speak(&mut sender, address, wish, told).ok()?;
    sender.found()
}

/// Looks for the marks of a printed page with a machine's eye; whether it answered to the end. A machine that is silent
/// for `patience`, s, is not waited for any more.
///
/// # Errors
/// [`Lost`].
pub fn find(finder: &mut Finder, address: &Address, patience: f64) -> Result<bool, Lost> {
    let mut wire = address.connect()?;
    let mut read = [0; 256];
    let mut waiting: Vec<u8> = Vec::new();
    let mut last = Instant::now();
    while !finder.is_over() {
        waiting.extend(finder.poll());
        match wire.write(&waiting) {
            Ok(n) => drop(waiting.drain(..n)),
            Err(e) if waits(&e) => {}
            Err(_) => return Err(Lost::Gone),
        }
        match wire.read(&mut read) {
            Ok(0) => return Err(Lost::Gone),
            Ok(n) => {
                finder.hear(&read[..n]);
                last = Instant::now();
            }
            Err(e) if waits(&e) => {}
            Err(_) => return Err(Lost::Gone),
        }
        if last.elapsed().as_secs_f64() > patience {
            return Ok(false);
        }
        std::thread::sleep(LOOK);
    }
    Ok(!finder.is_garbled())
}

/// Sends a file to a machine that takes it as a whole and answers nothing, such as a printer; the line is closed behind
/// it. Whether all of it went: a stop leaves it in part.
///
/// # Errors
/// [`Lost`].
pub fn hand_over(
    file: &[u8],
    address: &Address,
    wish: &mut dyn FnMut() -> Wish,
    told: &mut dyn FnMut(usize),
) -> Result<bool, Lost> {
    let mut wire = address.connect()?;
    let mut read = [0; 256];
    let mut gone = 0;
    while gone < file.len() {
        let wish = wish();
        if wish == Wish::Stop {
            return Ok(false);
        }
        let written = match wish {
            Wish::GoOn => wire.write(&file[gone..]),
            Wish::Pause | Wish::Stop => Ok(0),
        };
        match written {
            Ok(n) => gone += n,
            Err(e) if waits(&e) => {}
            Err(_) => return Err(Lost::Gone),
        }
        match wire.read(&mut read) {
            Ok(0) => return Err(Lost::Gone),
            Err(e) if !waits(&e) => return Err(Lost::Gone),
            Ok(_) | Err(_) => {}
        }
        told(gone);
        if gone < file.len() {
            std::thread::sleep(LOOK);
        }
    }
    Ok(true)
}
