//! Marks looked for: by a machine's eye, or by moving its head there.

use std::str::FromStr;
use std::sync::Arc;

use inky_devices::cutter::UNITS_PER_MM;
use inky_devices::cutter::eye::Laid;
use inky_devices::finder::Finder;
use inky_devices::line::{self, Address, Wish};
use kurbo::{Point, Vec2};

use super::{FIELD, Marks};
use crate::Shop;
use crate::error::{WebError, wrong};
use crate::machines::bench::address;
use crate::machines::kept::{self, Kind, Listed};
use crate::machines::state::Run;

/// How long an eye is waited for, s.
const PATIENCE: f64 = 10.0;

/// The printed sheet that somebody lays on a simulated cutter: the last one of the page's size that a simulated printer
/// printed. Nothing lies on it where there is none.
fn lay(shop: &Shop, listed: &Listed, run: &Run, page: [f64; 2]) -> Result<(), WebError> {
    let Some(one) = shop.simulated.of(&listed.machine) else {
        return Ok(());
    };
    let mut sheet = None;
    for other in kept::all(&shop.store)? {
        let Some(printer) = shop.simulated.of(&other.machine) else {
            continue;
        };
        let of_size = |s: &inky_devices::printer::Sheet| {
            s.print.is_some() && (0..2).all(|k| (s.size[k] - page[k]).abs() < 1.0)
        };
        let printed = printer.tray().0.into_iter().rev();
        sheet = printed.into_iter().find(|s| of_size(s)).or(sheet);
    }
    one.renew();
    // Laid as well as a hand lays it: each run a little otherwise.
    one.lay(sheet.map(|s| Laid::at_random(Arc::clone(&s), run.stored.id.unsigned_abs())));
    Ok(())
}

/// Looks for the marks of a run with the machine's eye; what was found before is looked for anew where `anew`.
pub(in crate::machines) fn by_eye(
    shop: &Shop,
    listed: &Listed,
    run: &mut Run,
    anew: bool,
) -> Result<(), WebError> {
    let at = run.state.stop;
    let Some(mut marks) = run.stops.get(at).and_then(|s| s.marks.clone()) else {
        return Ok(());
    };
    if listed.machine.kind != Kind::Cutter || listed.machine.mute {
        return Err(wrong(
            FIELD,
            format!(
                "{} has no eye: move its head to the marks, or take a photograph.",
                listed.machine.name
            ),
        ));
    }
    let fresh = marks.found.iter().all(Option::is_none);
    if anew || fresh {
        marks.forgotten();
        lay(shop, listed, run, marks.page)?;
    }
    let address = Address::from_str(&address(shop, listed)).map_err(|e| wrong(FIELD, e))?;
    let mut finder = Finder::new(&marks.meant, &marks.found);
    let answered = line::find(&mut finder, &address, PATIENCE).map_err(|e| wrong(FIELD, e))?;
    marks.found = finder.found().to_vec();
    marks.by = match (answered, marks.found.iter().flatten().count()) {
        (false, _) => "its eye does not answer".to_owned(),
        (true, 0) => "its eye sees none of them".to_owned(),
        (true, _) => "by its eye".to_owned(),
    };
    keep(shop, run, (marks, listed.machine.kind))
}

/// Moves the head from where a mark is, or should be, and takes the place for the mark's.
pub(super) fn by_hand(
    shop: &Shop,
    listed: &Listed,
    run: &mut Run,
    number: usize,
    by: Vec2,
) -> Result<(), WebError> {
    let at = run.state.stop;
    let marks = run.stops.get(at).and_then(|s| s.marks.clone());
    let mut marks = marks.ok_or(WebError::NoPage)?;
    let place = *marks.found.get(number).ok_or(WebError::NoPage)?;
    let [length, width] = listed.machine.reach;
    let to = place.unwrap_or(likely(&marks, number)) + by;
    let to = Point::new(to.x.clamp(0.0, length), to.y.clamp(0.0, width));
    moved_to(shop, listed, to)?;
    marks.found[number] = Some(to);
    "by hand".clone_into(&mut marks.by);
    keep(shop, run, (marks, listed.machine.kind))
}

/// The head goes to a place, tool up.
fn moved_to(shop: &Shop, listed: &Listed, to: Point) -> Result<(), WebError> {
    let address = Address::from_str(&address(shop, listed)).map_err(|e| wrong(FIELD, e))?;
    let said = match listed.machine.kind {
        Kind::Cutter => {
            let unit = |mm: f64| (mm * UNITS_PER_MM).round() as i64;
            format!("PU{},{};", unit(to.x), unit(to.y))
        }
        Kind::Laser | Kind::Printer => format!("G21G90G0X{:.3}Y{:.3}\n", to.x, to.y),
    };
    line::hand_over(said.as_bytes(), &address, &mut || Wish::GoOn, &mut |_| {})
        .map(drop)
        .map_err(|e| wrong(FIELD, e))
}

/// Where a mark lies by the others that were found.
fn likely(marks: &Marks, number: usize) -> Point {
    Finder::new(&marks.meant, &marks.found).likely(number)
}

/// Keeps what is known of the marks of the stop that a run is at.
pub(super) fn keep(
    shop: &Shop,
    run: &mut Run,
    (marks, kind): (Marks, Kind),
) -> Result<(), WebError> {
    let at = run.state.stop;
    if let Some(stop) = run.stops.get_mut(at) {
        stop.text = marks.sent(kind)?;
        stop.marks = Some(marks);
    }
    run.keep_stops(&shop.store)
}
