//! A printer that takes PDF as it comes over the line, and lays what it printed into a tray.
//!
//! ```text
//!   bytes … the line is closed ─► a file ─► its pages ─► paper goes by, mm/s ─► tray
//!                                   └─ no PDF, in part, too large: told in the tray
//! ```
//!
//! As real ones it answers nothing, and prints a little beside: shifted, turned, stretched and skewed by its [`Slip`].
//! Source of the file: ISO 32000-2:2020; of a job ending with its line: common practice of printers on a raw port, no
//! source.

mod colour;
mod page;

use std::collections::VecDeque;
use std::sync::Arc;

use hayro_syntax::Pdf;
use hayro_syntax::object::Number;

/// By how much what is printed lies beside where it should.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Slip {
    /// Shift to the right and down, mm.
    pub shift: [f64; 2],
    /// Turn about the upper left corner, degrees, clockwise.
    pub turn: f64,
    /// Stretch across and along, times.
    pub stretch: [f64; 2],
    /// Sideways by this part of the way down.
    pub skew: f64,
}

impl Slip {
    /// Nothing lies beside.
    pub const NONE: Self = Self {
        shift: [0.0; 2],
        turn: 0.0,
        stretch: [1.0; 2],
        skew: 0.0,
    };
}

/// What a printer is and can do.
#[derive(Clone, Debug, PartialEq)]
pub struct Model {
    /// Width and length of what it prints at most, mm.
    pub media: [f64; 2],
    /// Paper that goes by, mm/s.
    pub speed: f64,
    /// Points of the picture of what was printed, per inch.
    pub ppi: f64,
    /// How far beside it prints.
    pub slip: Slip,
}

impl Default for Model {
    fn default() -> Self {
        Self {
            media: [610.0, 5000.0],
            speed: 20.0,
            ppi: 100.0,
            slip: Slip {
                shift: [0.7, -0.4],
                turn: 0.1,
                stretch: [1.0015, 0.999],
                skew: 0.001,
            },
        }
    }
}

/// A sheet in the tray.
#[derive(Clone, Debug, PartialEq)]
pub struct Sheet {
    /// Its size, mm.
    pub size: [f64; 2],
    /// What was printed.
    pub print: Option<Print>,
    /// Why it was not printed, or what of it was left out; empty where all was.
    pub told: String,
}

/// What lies on paper.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Print {
    /// Pixels across and down.
    pub pixels: [u32; 2],
    /// Red, green, blue, alpha of each, rows from the top; all of it is opaque.
    pub rgba: Vec<u8>,
}

/// A page that is to be printed.
#[derive(Clone, Debug)]
struct Waiting {
    file: Arc<Vec<u8>>,
    page: usize,
    size: [f64; 2],
    /// Time that is left, s.
    left: f64,
}

/// Bytes of a file at most.
const LARGEST: usize = 64 << 20;
/// Sheets that the tray holds; older ones fall out.
const HELD: usize = 12;
/// Pages of a file at most.
const PAGES: usize = 200;
/// A PDF ends with this, within so many bytes of its end.
const END: (&[u8], usize) = (b"%%EOF", 1024);
const MM_PER_POINT: f64 = 25.4 / 72.0;

/// A printer.
#[derive(Clone, Debug)]
pub struct Printer {
    model: Model,
    coming: Vec<u8>,
    /// Whether more came than it holds.
    too_long: bool,
    waiting: VecDeque<Waiting>,
    tray: VecDeque<Arc<Sheet>>,
    slow: f64,
    seconds: f64,
}

impl Printer {
    /// A printer that was just switched on.
    #[must_use]
    pub const fn new(model: Model) -> Self {
        Self {
            model,
            coming: Vec::new(),
            too_long: false,
            waiting: VecDeque::new(),
            tray: VecDeque::new(),
            slow: 1.0,
            seconds: 0.0,
        }
    }

    /// What it is.
    #[must_use]
    pub const fn model(&self) -> &Model {
        &self.model
    }

    /// What lies in its tray, the latest last.
    #[must_use]
    pub fn tray(&self) -> Vec<Arc<Sheet>> {
        self.tray.iter().cloned().collect()
    }

    /// Empties the tray.
    pub fn empty(&mut self) {
        self.tray.clear();
    }

    /// How long paper went by, s.
    #[must_use]
    pub const fn seconds(&self) -> f64 {
        self.seconds
    }

    /// It goes so many times slower.
    pub const fn slow_down(&mut self, times: f64) {
        self.slow = times;
    }

    /// Whether nothing is left to print and nothing is coming.
    #[must_use]
    pub fn is_idle(&self) -> bool {
        self.waiting.is_empty() && self.coming.is_empty()
    }

    /// Takes what comes.
    pub fn receive(&mut self, bytes: &[u8]) {
        self.too_long |= self.coming.len() + bytes.len() > LARGEST;
        if !self.too_long {
            self.coming.extend_from_slice(bytes);
        }
    }

    /// The line was closed: what came is a file, or a part of one.
    pub fn line_closed(&mut self) {
        let file = std::mem::take(&mut self.coming);
        let too_long = std::mem::take(&mut self.too_long);
        if file.is_empty() {
            return;
        }
        let tail = &file[file.len().saturating_sub(END.1)..];
        let whole = tail.windows(END.0.len()).any(|w| w == END.0);
        let taken = match (too_long, file.starts_with(b"%PDF-"), whole) {
            (true, ..) => Err("A file of more than 64 MB came, and was not printed."),
            (_, false, _) => Err("What came is no PDF, and was not printed."),
            (.., false) => Err("A file came in part, and was not printed."),
            (false, true, true) => self.take(file),
        };
        if let Err(why) = taken {
            self.lay(Sheet {
                size: [0.0; 2],
                print: None,
                told: why.to_owned(),
            });
        }
    }

    fn take(&mut self, file: Vec<u8>) -> Result<(), &'static str> {
        let file = Arc::new(file);
        let pdf = Pdf::new(Arc::clone(&file));
        let pdf = pdf.map_err(|_| "The PDF that came cannot be read, and was not printed.")?;
        if pdf.pages().is_empty() || pdf.pages().len() > PAGES {
            return Err("The PDF that came has no page, or more than 200, and was not printed.");
        }
        for (number, page) in pdf.pages().iter().enumerate() {
            let (wide, long) = page.render_dimensions();
            let unit = page.raw().get::<Number>("UserUnit");
            let unit = unit.map_or(1.0, |n| n.as_f64());
            let size = [wide, long].map(|v| f64::from(v) * unit * MM_PER_POINT);
            let [most_wide, most_long] = self.model.media;
            if size[0] > most_wide + 0.5 || size[1] > most_long + 0.5 {
                self.lay(Sheet {
                    size,
                    print: None,
                    told: format!(
                        "A page of {:.0} × {:.0} mm is larger than {most_wide:.0} × {most_long:.0} mm, and was not printed.",
                        size[0], size[1]
                    ),
                });
            } else {
                self.waiting.push_back(Waiting {
                    file: Arc::clone(&file),
                    page: number,
                    size,
                    left: size[1] / self.model.speed,
                });
            }
        }
        Ok(())
    }

    fn lay(&mut self, sheet: Sheet) {
        if self.tray.len() >= HELD {
            self.tray.pop_front();
        }
        self.tray.push_back(Arc::new(sheet));
    }

    /// Lets time go by, s.
    pub fn advance(&mut self, seconds: f64) {
        let mut left = seconds / self.slow.max(1e-9);
        while let Some(first) = self.waiting.front_mut() {
            let used = left.min(first.left);
            first.left -= used;
            left -= used;
            self.seconds += used * self.slow;
            if first.left > 0.0 {
                return;
            }
            if let Some(page) = self.waiting.pop_front() {
                let sheet = self.printed(page);
                self.lay(sheet);
            }
        }
    }

    fn printed(&self, page: Waiting) -> Sheet {
        let print = page::print(&page.file, page.page, &self.model);
        let (print, told) = match print {
            Some((print, 0)) => (Some(print), String::new()),
            Some((print, left_out)) => (
                Some(print),
                format!(
                    "{left_out} things that are neither lines, areas nor plain pictures were left out."
                ),
            ),
            None => (
                None,
                "A page could not be drawn, and was not printed.".to_owned(),
            ),
        };
        Sheet {
            size: page.size,
            print,
            told,
        }
    }
}

#[cfg(test)]
mod tests;
