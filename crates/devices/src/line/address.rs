//! Where a machine is, and the line to it: a socket or a serial port.
//!
//! ```text
//!   tcp://192.168.1.20:9100
//!   serial:/dev/ttyUSB0                     9600 baud, no parity, hardware handshake
//!   serial:/dev/ttyUSB0,19200,even,software
//! ```

use std::fmt;
use std::io::{self, ErrorKind, Read, Write};
use std::net::{TcpStream, ToSocketAddrs};
use std::str::FromStr;
use std::time::Duration;

use serialport::{FlowControl, Parity};

/// Where a machine is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Address {
    /// A socket.
    Tcp {
        /// Its host by name or number.
        host: String,
        /// Its port.
        port: u16,
    },
    /// A serial port, 8 bits, one stop bit.
    Serial {
        /// The system's name for it.
        path: String,
        /// Bits a second.
        baud: u32,
        /// What is added to each byte.
        parity: Parity,
        /// How the machine says that it has no room.
        handshake: FlowControl,
    },
}

/// An address that cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error(
    "'{0}' is no address of a machine; write tcp://HOST:PORT or serial:/dev/ttyUSB0, then a comma each: 9600, none, hardware"
)]
pub struct AddressError(String);

/// Bits a second that serial ports go at.
const BAUDS: std::ops::RangeInclusive<u32> = 300..=4_000_000;
/// Usual speed of plotters, bits a second (common practice, no source).
const USUAL: &str = "9600";
const PARITIES: [(&str, Parity); 3] = [
    ("none", Parity::None),
    ("odd", Parity::Odd),
    ("even", Parity::Even),
];
const HANDSHAKES: [(&str, FlowControl); 3] = [
    ("none", FlowControl::None),
    ("hardware", FlowControl::Hardware),
    ("software", FlowControl::Software),
];

fn named<T: Copy>(all: &[(&str, T)], name: &str) -> Option<T> {
    all.iter()
        .find(|(n, _)| *n == name)
        .map(|(_, value)| *value)
}

fn name_of<T: PartialEq>(all: &[(&'static str, T)], value: &T) -> &'static str {
    all.iter()
        .find(|(_, v)| v == value)
        .map_or("none", |(n, _)| n)
}

fn socket(rest: &str) -> Option<Address> {
    let (host, port) = rest.rsplit_once(':')?;
    let host = host.trim_start_matches('[').trim_end_matches(']');
    let port = port.parse().ok().filter(|port| *port != 0)?;
    (!host.is_empty()).then(|| Address::Tcp {
        host: host.to_owned(),
        port,
    })
}

fn serial(rest: &str) -> Option<Address> {
    let mut parts = rest.split(',').map(str::trim);
    let path = parts.next().filter(|path| !path.is_empty())?;
    let mut or = |usual: &'static str| parts.next().map_or(Some(usual), Some);
    let baud = or(USUAL)?.parse().ok().filter(|b| BAUDS.contains(b))?;
    let parity = named(&PARITIES, or("none")?)?;
    let handshake = named(&HANDSHAKES, or("hardware")?)?;
    parts.next().is_none().then(|| Address::Serial {
        path: path.to_owned(),
        baud,
        parity,
        handshake,
    })
}

impl FromStr for Address {
    type Err = AddressError;

    fn from_str(text: &str) -> Result<Self, AddressError> {
        let found = match (text.strip_prefix("tcp://"), text.strip_prefix("serial:")) {
            (Some(rest), _) => socket(rest),
            (_, Some(rest)) => serial(rest),
            _ => None,
        };
        found.ok_or_else(|| AddressError(text.to_owned()))
    }
}

impl fmt::Display for Address {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Tcp { host, port } if host.contains(':') => write!(f, "tcp://[{host}]:{port}"),
            Self::Tcp { host, port } => write!(f, "tcp://{host}:{port}"),
            Self::Serial {
                path,
                baud,
                parity,
                handshake,
            } => {
                let (parity, handshake) =
                    (name_of(&PARITIES, parity), name_of(&HANDSHAKES, handshake));
                write!(f, "serial:{path},{baud},{parity},{handshake}")
            }
        }
    }
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

/// A line whose either way waits for nobody.
pub(super) trait Wire: Read + Write {}

impl<T: Read + Write> Wire for T {}

/// How long a line may take to be made.
const CONNECT: Duration = Duration::from_secs(3);
/// How long a serial port is waited for in a look at it.
const GLANCE: Duration = Duration::from_millis(1);

/// Whether there is only nothing to read yet, or no room to write.
pub(super) fn waits(error: &io::Error) -> bool {
    matches!(
        error.kind(),
        ErrorKind::WouldBlock | ErrorKind::TimedOut | ErrorKind::Interrupted
    )
}

impl Address {
    /// Whether instructions are parted when the line is gone: on a serial line byte follows byte, over TCP what is
    /// written at once comes at once.
    #[must_use]
    pub const fn parts_instructions(&self) -> bool {
        matches!(self, Self::Serial { .. })
    }

    pub(super) fn connect(&self) -> Result<Box<dyn Wire>, Lost> {
        let no_answer = |why: io::Error| Lost::NoAnswer {
            address: self.to_string(),
            why: why.to_string(),
        };
        match self {
            Self::Tcp { host, port } => {
                let found = (host.as_str(), *port).to_socket_addrs();
                let mut last = io::Error::from(ErrorKind::NotFound);
                for at in found.map_err(no_answer)? {
                    match TcpStream::connect_timeout(&at, CONNECT) {
                        Ok(stream) => {
                            stream.set_nonblocking(true).map_err(no_answer)?;
                            let _ = stream.set_nodelay(true);
                            return Ok(Box::new(stream));
                        }
                        Err(e) => last = e,
                    }
                }
                Err(no_answer(last))
            }
            Self::Serial {
                path,
                baud,
                parity,
                handshake,
            } => {
                let port = serialport::new(path, *baud)
                    .parity(*parity)
                    .flow_control(*handshake)
                    .timeout(GLANCE)
                    .open();
                match port {
                    Ok(port) => Ok(Box::new(port)),
                    Err(e) => Err(no_answer(e.into())),
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_read_or_refused() {
        let read = |text: &str| text.parse::<Address>().map(|a| a.to_string());
        for (text, told) in [
            ("tcp://127.0.0.1:9100", "tcp://127.0.0.1:9100"),
            ("tcp://[::1]:9100", "tcp://[::1]:9100"),
            (
                "serial:/dev/ttyUSB0",
                "serial:/dev/ttyUSB0,9600,none,hardware",
            ),
            (
                "serial:COM3,19200,even,software",
                "serial:COM3,19200,even,software",
            ),
        ] {
            assert_eq!(read(text).as_deref(), Ok(told));
        }
        for bad in [
            "",
            "127.0.0.1:9100",
            "tcp://host",
            "tcp://:9",
            "tcp://host:0",
            "tcp://host:99999",
            "serial:",
            "serial:/dev/x,fast",
            "serial:/dev/x,9600,maybe",
            "serial:/dev/x,9600,none,hardware,more",
            "serial:/dev/x,1",
        ] {
            assert!(read(bad).is_err(), "{bad}");
        }
    }
}
