//! The shop's machines for those who are not on a page.

use inky_devices::drives::Drives;
use inky_devices::sender::Language;
use inky_store::StoredMachine;

use crate::machines::kept;

/// A machine of the shop's list.
#[derive(Clone, Debug)]
pub struct KnownMachine {
    /// What it is called.
    pub name: String,
    /// What it is sent; `None` for PDF.
    pub language: Option<Language>,
    /// Where it is; empty for one that ships with the program.
    pub address: String,
    /// What it reaches, mm: along its first axis, along its second.
    pub reach: [f64; 2],
    /// Whether it answers nothing.
    pub mute: bool,
    /// What its drives do, as far as that is known.
    pub drives: Drives,
}

impl KnownMachine {
    /// A machine as the store keeps it.
    ///
    /// # Errors
    /// Words for people, where it holds what is no machine.
    pub fn of(stored: &StoredMachine) -> Result<Self, String> {
        let machine = kept::listed(stored).map_err(|e| e.to_string())?.machine;
        Ok(Self {
            language: machine.kind.language(),
            drives: machine.drives(),
            name: machine.name,
            address: machine.address,
            reach: machine.reach,
            mute: machine.mute,
        })
    }
}
