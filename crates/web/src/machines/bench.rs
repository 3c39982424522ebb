//! What the Machines page shows, put together from the store, the runs under way and the machines themselves.

use askama::Template;
use askama_web::WebTemplate;
use inky_core::units::Unit;
use inky_store::MachineId;

use crate::Shop;
use crate::error::WebError;
use crate::machines::drawn;
use crate::machines::hands::{self, Hands};
use crate::machines::kept::{self, Kind, Listed};
use crate::machines::marks::shown::lying;
use crate::machines::pace::{self, Pace};
use crate::machines::shown::{self, Card, Fact, Figures, RunRow, Work};
use crate::machines::simulated::One;
use crate::machines::state::{Phase, Run};
use crate::machines::tray::{self, Tray};
use crate::machines::waiting::{self, Waiting};

/// Runs that are over and told.
const TOLD: u32 = 12;

#[derive(Template, WebTemplate)]
#[template(path = "machines/page.html")]
pub(crate) struct MachinesPage {
    pub(crate) cards: Vec<Card>,
    pub(crate) open: Option<Open>,
    pub(crate) unit: &'static str,
    pub(crate) swap: bool,
}

/// The machine that is looked at.
pub(crate) struct Open {
    pub(crate) id: MachineId,
    pub(crate) name: String,
    pub(crate) hands: Option<Hands>,
    pub(crate) bench: Bench,
    pub(crate) over: Vec<RunRow>,
    /// `None` where there is none to be found.
    pub(crate) pace: Option<Pace>,
    pub(crate) own: bool,
}

/// What changes with the phase of a run.
pub(crate) struct Bench {
    pub(crate) machine: MachineId,
    pub(crate) facts: Vec<Fact>,
    pub(crate) work: Option<Work>,
    pub(crate) figures: Option<Figures>,
    pub(crate) queue: Vec<Waiting>,
    /// What a simulated printer has in its tray.
    pub(crate) tray: Option<Tray>,
}

#[derive(Template, WebTemplate)]
#[template(path = "machines/_bench.html")]
pub(crate) struct BenchAlone {
    pub(crate) b: Bench,
    pub(crate) cards: Vec<Card>,
    pub(crate) swap: bool,
}

impl BenchAlone {
    /// The bench of a machine as it is now, with the list beside it.
    pub(crate) fn of(shop: &Shop, machine: MachineId, unit: Unit) -> Result<Self, WebError> {
        let all = kept::all(&shop.store)?;
        let listed = all.iter().find(|m| m.id == machine);
        Ok(Self {
            b: bench(shop, listed.ok_or(WebError::NoPage)?, unit)?,
            cards: cards(shop, &all, Some(machine))?,
            swap: true,
        })
    }
}

/// The run a machine is at or has to do first, as it stands at this moment.
pub(crate) fn first(shop: &Shop, listed: &Listed) -> Result<(Option<Run>, Vec<Run>), WebError> {
    let machine = listed.id;
    let queue = shop.store.queue(Some(machine))?;
    let queue: Result<Vec<Run>, WebError> = queue.into_iter().map(Run::of).collect();
    let mut queue = queue?;
    let live = shop.under_way.of(machine);
    // What is under way comes before whatever was put before it.
    let at = live
        .as_ref()
        .and_then(|l| queue.iter().position(|r| r.stored.id == l.run));
    if queue.is_empty() {
        return Ok((None, queue));
    }
    let run = queue.remove(at.unwrap_or(0));
    let run = shop.under_way.now(run, listed.machine.kind);
    Ok((Some(run), queue))
}

/// Its runs that are over and told, the latest first.
pub(super) fn over(shop: &Shop, listed: &Listed) -> Result<Vec<Run>, WebError> {
    let over = shop.store.ended_runs(listed.id, TOLD)?;
    over.into_iter().map(Run::of).collect()
}

pub(crate) fn figures(shop: &Shop, listed: &Listed, run: &Run, unit: Unit) -> Figures {
    let kind = listed.machine.kind;
    let one = shop.simulated.of(&listed.machine);
    // Before a run begins, what the machine did was for another one.
    let fresh = run.state.phase == Phase::Ready && run.state.stop == 0;
    let really = one.filter(|_| !fresh).map(One::strokes);
    let live = shop
        .under_way
        .of(listed.id)
        .filter(|l| l.run == run.stored.id);
    let make = || drawn::on_the_stock(run, kind);
    let unkept = live.as_ref().is_some_and(|l| l.is_unkept());
    let drawn = match live {
        Some(live) => drawn::drawn(run, (live.paths(make), kind), really.as_deref()),
        None => drawn::drawn(run, (&make(), kind), really.as_deref()),
    };
    // The page that lies there is of this run once its marks were looked for.
    let of_page = run.stop().and_then(|s| s.marks.as_ref());
    let looked = of_page.is_some_and(|m| m.found.iter().any(Option::is_some));
    let lying = one.filter(|_| looked).and_then(|one| lying(one, listed));
    Figures {
        unkept,
        lying,
        ..shown::figures(listed, run, drawn, unit)
    }
}

pub(crate) fn bench(shop: &Shop, listed: &Listed, unit: Unit) -> Result<Bench, WebError> {
    let (run, queue) = first(shop, listed)?;
    // With nothing to do, what it did last.
    let shown_run = match &run {
        Some(run) => Some(run.clone()),
        None => {
            let last = shop.store.ended_runs(listed.id, 1)?.pop();
            last.map(Run::of).transpose()?
        }
    };
    Ok(Bench {
        machine: listed.id,
        facts: shown::facts(listed, &address(shop, listed), unit),
        work: run.as_ref().map(|r| shown::work(r, &listed.machine, unit)),
        figures: shown_run.map(|r| figures(shop, listed, &r, unit)),
        queue: waiting::rows(run.as_ref(), &queue),
        tray: tray::of(shop, listed, unit),
    })
}

/// Where a machine is at this moment.
pub(crate) fn address(shop: &Shop, listed: &Listed) -> String {
    let one = shop.simulated.of(&listed.machine);
    one.map_or_else(|| listed.machine.address.clone(), One::address)
}

pub(crate) fn cards(
    shop: &Shop,
    all: &[Listed],
    open: Option<MachineId>,
) -> Result<Vec<Card>, WebError> {
    let cards = all.iter().map(|m| {
        let (run, _) = first(shop, m)?;
        Ok(shown::card(m, open == Some(m.id), run.as_ref()))
    });
    cards.collect()
}

pub(crate) fn page(
    shop: &Shop,
    id: Option<MachineId>,
    unit: Unit,
) -> Result<MachinesPage, WebError> {
    let all = kept::all(&shop.store)?;
    let open = match id {
        Some(id) => Some(all.iter().find(|m| m.id == id).ok_or(WebError::NoPage)?),
        None => all.first(),
    };
    let cards = cards(shop, &all, open.map(|o| o.id))?;
    let open = open.map(|m| {
        let over = over(shop, m)?;
        let own = m.machine.address.is_empty();
        let one = shop.simulated.of(&m.machine);
        Ok::<_, WebError>(Open {
            id: m.id,
            name: m.machine.name.clone(),
            hands: one.map(|one| hands::hands(one, m.machine.kind, unit)),
            bench: bench(shop, m, unit)?,
            over: over.iter().map(shown::row).collect(),
            pace: match m.machine.kind {
                Kind::Printer => None,
                _ => Some(pace::shown(m, over.iter(), unit)),
            },
            own,
        })
    });
    Ok(MachinesPage {
        cards,
        open: open.transpose()?,
        unit: unit.symbol(),
        swap: false,
    })
}
