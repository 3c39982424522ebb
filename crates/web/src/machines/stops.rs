//! The stops of a run: sheet by sheet, what to load and what is sent, and what stands in the way.

use std::sync::Arc;

use inky_core::check::Severity;
use inky_core::material::Material;
use inky_core::plan::page::Page;
use inky_core::units::Unit;
use inky_devices::sender::Program;
use inky_formats::files::{self, Options};
use inky_formats::hpgl::Blade;
use inky_store::Store;
use serde::{Deserialize, Serialize};

use crate::error::{WebError, wrong};
use crate::job::sheet::print::page_file;
use crate::machines::kept::{Kind, Machine};
use crate::machines::marks::Marks;
use crate::text;
use crate::workshop::{Laid, OnSheet, Outcome, PrintedSheet};

/// What is sent in one go.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Stop {
    /// Material and colour that is to be loaded.
    pub(crate) stock: String,
    /// The stock in words, such as `610 mm roll`.
    pub(crate) size: String,
    /// Whether it is the trial piece, to be looked at before the rest is cut.
    pub(crate) trial: bool,
    /// What is sent: text, or a character for each byte of a file that goes as a whole.
    pub(crate) text: String,
    /// Number of its paths.
    pub(crate) paths: usize,
    /// What it takes on this machine, s, as far as its drives are known.
    pub(crate) seconds: f64,
    /// Length of the stock that is used, mm.
    pub(crate) used: f64,
    /// Length of the stock, mm, where it is known.
    pub(crate) length: Option<f64>,
    /// Marks of the printed page that it is cut from.
    #[serde(default)]
    pub(crate) marks: Option<Marks>,
}

/// What a printed page is called as a stock.
const PRINTED: &str = "Printed page";

/// Trial pieces have layers of their own, called so.
const TRIAL: &str = "Trial ";

impl Stop {
    /// A page for a machine; what is to be loaded for it is said by the caller.
    pub(crate) fn of_page(page: &Page, title: &str, machine: &Machine) -> Result<Self, WebError> {
        let kind = machine.kind;
        let options = Options {
            // A roll goes along the first axis of a cutter; its width lies along the second.
            blade: Blade {
                turned: kind == Kind::Cutter,
                ..Blade::default()
            },
            ..Options::default()
        };
        let bytes = files::write(page, title, kind.format(), &options)?;
        let (paths, seconds, text) = match kind.language() {
            Some(language) => {
                let text = String::from_utf8_lossy(&bytes).into_owned();
                let paths = Program::of(language, &text).paths.len();
                (paths, machine.drives().seconds(language, &text), text)
            }
            None => {
                let paper = page.cutting().size[1] / machine.speed;
                (1, paper, bytes.into_iter().map(char::from).collect())
            }
        };
        Ok(Self {
            stock: title.to_owned(),
            size: String::new(),
            trial: false,
            paths,
            seconds,
            text,
            used: 0.0,
            length: None,
            marks: None,
        })
    }

    /// A printed page: its file for a printer, its cut lines with its marks for the others.
    fn printed(
        store: &Store,
        on: &OnSheet,
        printed: &PrintedSheet,
        machine: &Machine,
        unit: Unit,
    ) -> Result<Self, WebError> {
        let [wide, long] = printed.page.choice.page.map(|mm| unit.length(mm, 0));
        let size = format!("{wide} × {long}");
        if machine.kind == Kind::Printer {
            let file = page_file::pdf(store, on, None)?;
            return Ok(Self {
                stock: PRINTED.to_owned(),
                size,
                trial: false,
                text: file.into_iter().map(char::from).collect(),
                paths: 1,
                seconds: printed.page.choice.page[1] / machine.speed,
                used: 0.0,
                length: None,
                marks: None,
            });
        }
        let stop = Self::of_page(&on.on_paper(printed), PRINTED, machine)?;
        Ok(Self {
            size,
            marks: Some(Marks::of(&printed.page, &stop.text, machine.kind)),
            ..stop
        })
    }

    /// Whether it is a printed page, on its way to a printer or to be cut.
    pub(crate) fn is_printed_page(&self) -> bool {
        self.stock == PRINTED
    }

    /// The bytes of a file that goes as a whole.
    pub(crate) fn file(&self) -> Vec<u8> {
        self.text.chars().map(|c| c as u8).collect()
    }

    fn of(
        on: &OnSheet,
        page: &Arc<Page>,
        machine: &Machine,
        trial: bool,
        unit: Unit,
    ) -> Result<Self, WebError> {
        let sheet = &on.sheet;
        Ok(Self {
            size: crate::job::sheet::shown::stock_words(sheet, unit),
            trial,
            used: sheet.left.used_length,
            length: (sheet.stock.length > 0.0).then_some(sheet.stock.length),
            ..Self::of_page(page, &sheet.name, machine)?
        })
    }
}

/// The stops that a job is sent in: its own material first, then those of inserts and backs.
pub(crate) fn stops(
    store: &Store,
    laid: &Laid,
    own: &Material,
    machine: &Machine,
    unit: Unit,
) -> Result<Vec<Stop>, WebError> {
    let mut sheets: Vec<&OnSheet> = laid.sheets.iter().collect();
    sheets.sort_by_key(|on| on.sheet.material.name != own.name);
    let mut stops = Vec::new();
    for on in sheets {
        if let Some(printed) = &on.printed {
            stops.push(Stop::printed(store, on, printed, machine, unit)?);
            continue;
        }
        let page = on.page();
        if on.sheet.trial.is_none() {
            stops.push(Stop::of(on, &page, machine, false, unit)?);
            continue;
        }
        for trial in [true, false] {
            let part = page.only(|layer| layer.name.starts_with(TRIAL) == trial);
            if !part.cutting().is_empty() {
                stops.push(Stop::of(on, &part, machine, trial, unit)?);
            }
        }
    }
    if stops.is_empty() {
        return Err(wrong("send", "there is nothing to cut; switch a layer on"));
    }
    Ok(stops)
}

/// What stands in the way of sending a job to a machine, each with what helps.
pub(crate) fn in_the_way(
    outcome: &Outcome,
    laid: &Laid,
    machine: &Machine,
    unit: Unit,
) -> Vec<String> {
    let mut all = Vec::new();
    if laid.sheets.is_empty() {
        all.push("Nothing is laid out: keep an ink and switch a layer on.".to_owned());
    }
    // Paper is not spoiled.
    let prints = machine.kind == Kind::Printer;
    let stopping = outcome.checked().kinds(|s| s == Severity::Stop);
    if let (n @ 1.., false) = (stopping, prints) {
        let kinds = text::some(n, "finding");
        all.push(format!(
            "{kinds} of the checks would spoil the piece: mend them under To look at, or set them aside there."
        ));
    }
    let told = |mm: f64| unit.length(mm, 0);
    for on in &laid.sheets {
        let (sheet, material) = (&on.sheet, &on.sheet.material);
        if !prints && !machine.kind.holds(material.tool) {
            all.push(format!(
                "{} is worked by a {}, and {} is a {}: choose another machine, or another material under Layers.",
                sheet.name,
                crate::materials::shown::tool(material.tool),
                machine.name,
                machine.kind.word()
            ));
        }
        if let Some([wide, long, across, along]) = beyond(on, machine) {
            all.push(format!(
                "{} needs {} × {}, and {} reaches {} × {}: lay it on smaller stock under Sheet.",
                sheet.name,
                told(wide),
                told(long),
                machine.name,
                told(across),
                told(along)
            ));
        }
        if !sheet.outside.is_empty() {
            all.push(format!(
                "{} of {} lie off what can be cut: lay them out under Sheet.",
                text::some(sheet.outside.len(), "part"),
                sheet.name
            ));
        }
        let fastest = material_speed(on);
        if !prints && fastest > machine.speed + 1e-6 {
            all.push(format!(
                "{} is run at {fastest:.0} mm/s, and {} goes {:.0} mm/s at most: set a lower speed under Materials.",
                sheet.name, machine.name, machine.speed
            ));
        }
    }
    all.dedup();
    all
}

/// What a sheet needs across and along, and what a machine reaches of that, mm; `None` where it reaches all.
pub(crate) fn beyond(on: &OnSheet, machine: &Machine) -> Option<[f64; 4]> {
    let [first, second] = machine.reach;
    let (across, along) = match machine.kind {
        Kind::Cutter => (second, first),
        Kind::Laser | Kind::Printer => (first, second),
    };
    let page = on.page();
    let (lines, size) = match &on.printed {
        Some(printed) => (printed.page.cutting.bounds(), printed.page.choice.page),
        None => (page.cutting().bounds(), page.cutting().size),
    };
    let (wide, long) = match lines {
        Some(_) if machine.kind == Kind::Printer => size.into(),
        lines => lines.map_or((0.0, 0.0), |b| (b.x1, b.y1)),
    };
    let is_beyond = wide > across + 1e-6 || long > along + 1e-6;
    is_beyond.then_some([wide, long, across, along])
}

/// The fastest of what is done on a sheet, mm/s.
fn material_speed(on: &OnSheet) -> f64 {
    let page = on.page();
    let layers = page.cutting().layers.iter();
    let speeds = layers.map(|l| inky_core::plan::run(&l.material, l.operation).0);
    speeds.fold(0.0, f64::max)
}
