//! The shop's machines as the store keeps them.

use inky_core::material::Tool;
use inky_devices::drives::Drives;
use inky_devices::sender::Language;
use inky_devices::{cutter, laser, printer};
use inky_formats::files::Format;
use inky_store::{MachineId, Store, StoredMachine};
use serde::{Deserialize, Serialize};

use crate::error::WebError;

/// What a machine is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Kind {
    Cutter,
    Laser,
    Printer,
}

impl Kind {
    /// Format of what it is sent.
    pub(crate) const fn format(self) -> Format {
        match self {
            Self::Cutter => Format::Hpgl,
            Self::Laser => Format::Gcode,
            Self::Printer => Format::Pdf,
        }
    }

    /// What it is told path by path; `None` where it takes a file as a whole.
    pub(crate) const fn language(self) -> Option<Language> {
        match self {
            Self::Cutter => Some(Language::Hpgl),
            Self::Laser => Some(Language::Gcode),
            Self::Printer => None,
        }
    }

    /// Whether it holds such a tool.
    pub(crate) const fn holds(self, tool: Tool) -> bool {
        matches!(
            (self, tool),
            (Self::Cutter, Tool::Blade | Tool::Pen) | (Self::Laser, Tool::Laser)
        )
    }

    /// What a stop on it is counted in.
    pub(crate) const fn counts(self) -> &'static str {
        match self {
            Self::Cutter | Self::Laser => "path",
            Self::Printer => "sheet",
        }
    }

    pub(crate) const fn word(self) -> &'static str {
        match self {
            Self::Cutter => "roll cutter",
            Self::Laser => "laser",
            Self::Printer => "printer",
        }
    }
}

/// What lies in a machine.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Loaded {
    /// Material and colour, as sheets are called.
    pub(crate) name: String,
    /// Length that is left, mm, where it is known.
    pub(crate) left: Option<f64>,
}

/// Whether what lies in a machine does for a stop.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Does {
    /// It is another stock, or nothing.
    Not,
    /// It is that stock, of which only so much is left, mm.
    TooLittle(f64),
    /// It does.
    Well,
}

/// Common practice, no source: printers do not print on the outermost 5 mm.
const fn usual_white() -> f64 {
    5.0
}

/// A machine of the shop.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Machine {
    pub(crate) name: String,
    pub(crate) kind: Kind,
    /// Where it is; empty for one that ships with the program.
    pub(crate) address: String,
    /// What it reaches, mm: along its first axis, along its second.
    pub(crate) reach: [f64; 2],
    /// Greatest speed, mm/s.
    pub(crate) speed: f64,
    /// Whether it answers nothing: then what the line took counts as done.
    #[serde(default)]
    pub(crate) mute: bool,
    #[serde(default)]
    pub(crate) loaded: Option<Loaded>,
    /// What its drives do, where that was found from its runs.
    #[serde(default)]
    pub(crate) drives: Option<Drives>,
    /// What a printer leaves white at every edge, mm.
    #[serde(default = "usual_white")]
    pub(crate) white: f64,
    /// Through the middles of the marks that stick on its bed, mm: left, low, width, height.
    #[serde(default)]
    pub(crate) bed: Option<[f64; 4]>,
}

impl Machine {
    /// Whether what lies in it does for so many mm of a stock.
    pub(crate) fn does_for(&self, stock: &str, used: f64) -> Does {
        match self.loaded.as_ref().filter(|l| l.name == stock) {
            None => Does::Not,
            Some(Loaded {
                left: Some(left), ..
            }) if *left < used => Does::TooLittle(*left),
            Some(_) => Does::Well,
        }
    }

    /// Where marks would stick on its bed, while nobody said where they do, mm.
    pub(crate) fn bed(&self) -> [f64; 4] {
        let [first, second] = self.reach.map(|mm| mm.min(600.0));
        self.bed.unwrap_or([0.0, 0.0, first, second])
    }

    /// What its drives do, or are taken to do.
    pub(crate) fn drives(&self) -> Drives {
        self.drives.unwrap_or(Drives {
            speed: self.speed,
            ..Drives::usual(self.kind.language().unwrap_or(Language::Hpgl))
        })
    }
}

/// A machine of the shop's list.
#[derive(Clone, Debug)]
pub(crate) struct Listed {
    pub(crate) id: MachineId,
    pub(crate) machine: Machine,
}

pub(super) fn listed(stored: &StoredMachine) -> Result<Listed, WebError> {
    Ok(Listed {
        id: stored.id,
        machine: serde_json::from_str(&stored.body)?,
    })
}

/// Puts one simulated machine of each kind into an empty list.
pub(crate) fn fill(store: &Store) -> Result<(), WebError> {
    if !store.machines()?.is_empty() {
        return Ok(());
    }
    let (roll, bed) = (cutter::Model::default(), laser::Model::default());
    let paper = printer::Model::default();
    for (name, kind, reach, speed) in [
        ("Practice cutter", Kind::Cutter, roll.size, roll.speed),
        ("Practice laser", Kind::Laser, bed.bed, bed.speed),
        ("Practice printer", Kind::Printer, paper.media, paper.speed),
    ] {
        let machine = Machine {
            name: name.to_owned(),
            kind,
            address: String::new(),
            reach,
            speed,
            mute: false,
            loaded: None,
            drives: None,
            white: usual_white(),
            bed: None,
        };
        store.add_machine(&serde_json::to_string(&machine)?)?;
    }
    Ok(())
}

/// All of them.
pub(crate) fn all(store: &Store) -> Result<Vec<Listed>, WebError> {
    store.machines()?.iter().map(listed).collect()
}

/// One by its number.
pub(crate) fn one(store: &Store, id: MachineId) -> Result<Listed, WebError> {
    let all = all(store)?;
    all.into_iter().find(|m| m.id == id).ok_or(WebError::NoPage)
}

/// Those that a tool is sent to, those for another tool last.
pub(crate) fn usual_for(store: &Store, tool: Tool) -> Result<Vec<Listed>, WebError> {
    let mut all = all(store)?;
    all.sort_by_key(|m| !m.machine.kind.holds(tool));
    Ok(all)
}

/// Keeps a machine as it is now.
pub(crate) fn keep(store: &Store, listed: &Listed) -> Result<(), WebError> {
    store.change_machine(listed.id, &serde_json::to_string(&listed.machine)?)?;
    Ok(())
}
