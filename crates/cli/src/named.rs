//! A machine of the server's list, by its name: where it is, and whether it can take a file.

use std::path::{Path, PathBuf};

use inky_devices::dry;
use inky_devices::line::Address;
use inky_devices::sender::{Language, Program};
use inky_store::{StoreError, machines_in};
use inky_web::KnownMachine;

/// A machine of the list.
pub(crate) struct Named(KnownMachine);

/// Why a file is not sent to it.
#[derive(Debug, thiserror::Error)]
pub(crate) enum Unsuited {
    #[error("no server has kept anything in {}; say with --data where it does", .0.display())]
    NoList(PathBuf),
    #[error("no machine on the list is called '{name}'; there are {known}")]
    NotListed { name: String, known: String },
    #[error("the list of machines cannot be read: {0}")]
    Store(#[from] StoreError),
    #[error("the list of machines cannot be read: {0}")]
    Body(String),
    #[error("{name} is sent {wanted}, and this is {is}")]
    Language {
        name: String,
        wanted: &'static str,
        is: &'static str,
    },
    #[error(
        "this reaches {x:.0} × {y:.0} mm from the origin, and {name} reaches {across:.0} × {along:.0} mm"
    )]
    Reach {
        name: String,
        x: f64,
        y: f64,
        across: f64,
        along: f64,
    },
    #[error(
        "{0} ships with the server and has no address of its own; say with --to where one listens"
    )]
    Ships(String),
    #[error(transparent)]
    Address(#[from] inky_devices::line::AddressError),
}

const fn word(language: Option<Language>) -> &'static str {
    match language {
        Some(Language::Hpgl) => "HPGL",
        Some(Language::Gcode) => "G-code",
        None => "PDF",
    }
}

/// A place this little beyond what is reached counts as there, mm.
const NOTHING: f64 = 1e-3;

impl Named {
    /// One of the list that a server keeps in a folder.
    pub(crate) fn find(data: &Path, name: &str) -> Result<Self, Unsuited> {
        let all = machines_in(data)?.ok_or_else(|| Unsuited::NoList(data.to_owned()))?;
        let all: Result<Vec<KnownMachine>, String> = all.iter().map(KnownMachine::of).collect();
        let all = all.map_err(Unsuited::Body)?;
        let known: Vec<&str> = all.iter().map(|m| m.name.as_str()).collect();
        let known = known.join(", ");
        let found = all.into_iter().find(|m| m.name == name);
        let found = found.ok_or_else(|| Unsuited::NotListed {
            name: name.to_owned(),
            known,
        });
        found.map(Self)
    }

    /// Whether it takes a program and reaches all of it.
    pub(crate) fn holds(&self, program: &Program) -> Result<(), Unsuited> {
        let (name, wanted) = (self.0.name.clone(), self.0.language);
        if Some(program.language) != wanted {
            return Err(Unsuited::Language {
                name,
                wanted: word(wanted),
                is: word(Some(program.language)),
            });
        }
        let [across, along] = self.0.reach;
        let mut machine = self.0.drives.machine(program.language);
        let strokes = dry::strokes(&mut machine, program);
        let points = strokes.iter().flatten().flatten();
        let (x, y) = points.fold((0.0f64, 0.0f64), |(x, y), p| (x.max(p.x), y.max(p.y)));
        if x > across + NOTHING || y > along + NOTHING {
            return Err(Unsuited::Reach {
                name,
                x,
                y,
                across,
                along,
            });
        }
        Ok(())
    }

    /// Whether it takes PDF.
    pub(crate) fn prints(&self) -> Result<(), Unsuited> {
        match self.0.language {
            None => Ok(()),
            wanted @ Some(_) => Err(Unsuited::Language {
                name: self.0.name.clone(),
                wanted: word(wanted),
                is: word(None),
            }),
        }
    }

    /// How long a text takes on it, s.
    pub(crate) fn seconds(&self, language: Language, text: &str) -> f64 {
        self.0.drives.seconds(language, text)
    }

    /// Where it is.
    pub(crate) fn address(&self) -> Result<Address, Unsuited> {
        if self.0.address.is_empty() {
            return Err(Unsuited::Ships(self.0.name.clone()));
        }
        Ok(self.0.address.parse()?)
    }

    /// Whether it answers nothing.
    pub(crate) const fn is_mute(&self) -> bool {
        self.0.mute
    }
}
