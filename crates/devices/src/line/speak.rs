//! A sender at its end of the line.

use std::fmt;
use std::io::{ErrorKind, Read, Write};
use std::net::{TcpStream, ToSocketAddrs};
use std::str::FromStr;
use std::time::{Duration, Instant};

use super::LOOK;
use crate::sender::{Sender, Stand};

/// Where a machine is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Address {
    host: String,
    port: u16,
}

/// An address that cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("'{0}' is no address of a machine; write tcp://HOST:PORT")]
pub struct AddressError(String);

impl FromStr for Address {
    type Err = AddressError;

    fn from_str(text: &str) -> Result<Self, AddressError> {
        let wrong = || AddressError(text.to_owned());
        let rest = text.strip_prefix("tcp://").ok_or_else(wrong)?;
        let (host, port) = rest.rsplit_once(':').ok_or_else(wrong)?;
        let host = host.trim_start_matches('[').trim_end_matches(']');
        let port = port.parse().map_err(|_| wrong())?;
        if host.is_empty() || port == 0 {
            return Err(wrong());
        }
        Ok(Self {
            host: host.to_owned(),
            port,
        })
    }
}

impl fmt::Display for Address {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "tcp://{}:{}", self.host, self.port)
    }
}

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

/// A line that could not be made or is gone.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Lost {
    /// Nothing answers there.
    #[error("nothing answers at {address} ({why}); is the machine on, and is this its address?")]
    NoAnswer {
        /// Where.
        address: String,
        /// The system's words.
        why: String,
    },
    /// The other end is gone.
    #[error("the line to the machine is gone")]
    Gone,
}

/// How long a line may take to be made.
const CONNECT: Duration = Duration::from_secs(3);
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
    let mut stream = connect(address)?;
    let started = Instant::now();
    let mut waiting: Vec<u8> = Vec::new();
    let mut read = [0; 4096];
    let mut over_since = None;
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
        waiting.extend(sender.poll(now));
        let over = !matches!(sender.stand(), Stand::Running | Stand::Paused);
        let written: Vec<u8> = match stream.write(&waiting) {
            Ok(n) => waiting.drain(..n).collect(),
            Err(e) if e.kind() == ErrorKind::WouldBlock => Vec::new(),
            Err(_) => return Err(Lost::Gone),
        };
        let heard = match stream.read(&mut read) {
            Ok(0) => return Err(Lost::Gone),
            Ok(n) => &read[..n],
            Err(e) if e.kind() == ErrorKind::WouldBlock => &[],
            Err(_) => return Err(Lost::Gone),
        };
        sender.hear(heard, now);
        let said = Said {
            written: &written,
            heard,
        };
        told(sender, said);
        if over {
            // A machine that reads nothing any more keeps nobody for ever.
            let since = over_since.get_or_insert_with(Instant::now);
            if waiting.is_empty() || since.elapsed() > LAST_WORDS {
                return Ok(());
            }
        }
        std::thread::sleep(LOOK);
    }
}

fn connect(address: &Address) -> Result<TcpStream, Lost> {
    let no_answer = |why: std::io::Error| Lost::NoAnswer {
        address: address.to_string(),
        why: why.to_string(),
    };
    let found = (address.host.as_str(), address.port).to_socket_addrs();
    let mut last = std::io::Error::from(ErrorKind::NotFound);
    for at in found.map_err(no_answer)? {
        match TcpStream::connect_timeout(&at, CONNECT) {
            Ok(stream) => {
                stream.set_nonblocking(true).map_err(no_answer)?;
                let _ = stream.set_nodelay(true);
                return Ok(stream);
            }
            Err(e) => last = e,
        }
    }
    Err(no_answer(last))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_read_or_refused() {
        let read = |text: &str| text.parse::<Address>().map(|a| a.to_string());
        assert_eq!(
            read("tcp://127.0.0.1:9100").as_deref(),
            Ok("tcp://127.0.0.1:9100")
        );
        assert!(read("tcp://[::1]:9100").is_ok());
        for bad in [
            "",
            "127.0.0.1:9100",
            "tcp://host",
            "tcp://:9",
            "tcp://host:0",
            "tcp://host:99999",
            "serial:/dev/x",
        ] {
            assert!(read(bad).is_err(), "{bad}");
        }
    }
}
