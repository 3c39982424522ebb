//! The machines that ship with the program: started when they are first looked for, spoken to over a port of this
//! machine as any other is.

use std::net::{Ipv4Addr, SocketAddr, TcpListener};
use std::sync::{Arc, Mutex, MutexGuard, OnceLock};

use inky_devices::cutter::eye::Laid;
use inky_devices::cutter::{self, Cutter, Faults};
use inky_devices::laser::{self, Laser};
use inky_devices::line::{self, Hands};
use inky_devices::machine::Machine;
use inky_devices::printer::{self, Printer, Sheet};
use kurbo::Point;

use crate::machines::kept::{self, Kind};
use crate::machines::lock;

/// One of them.
#[derive(Debug)]
pub(crate) struct One {
    addr: SocketAddr,
    machine: Arc<Mutex<Machine>>,
    hands: Arc<Mutex<Hands>>,
    faults: Mutex<Faults>,
}

/// One of each kind.
#[derive(Clone, Debug, Default)]
pub(crate) struct Simulated {
    cutter: Arc<OnceLock<Option<One>>>,
    laser: Arc<OnceLock<Option<One>>>,
    printer: Arc<OnceLock<Option<One>>>,
}

impl Simulated {
    /// The one that a machine of the list is; `None` of a real one, or where no port was to be had.
    pub(crate) fn of(&self, machine: &kept::Machine) -> Option<&One> {
        let ships = machine.address.is_empty();
        ships.then(|| self.one(machine.kind)).flatten()
    }

    fn one(&self, kind: Kind) -> Option<&One> {
        let (cell, machine): (_, fn() -> Machine) = match kind {
            Kind::Cutter => (&self.cutter, || {
                Machine::Cutter(Box::new(Cutter::new(cutter::Model::default())))
            }),
            Kind::Laser => (&self.laser, || {
                Machine::Laser(Laser::new(laser::Model::default()))
            }),
            Kind::Printer => (&self.printer, || {
                Machine::Printer(Printer::new(printer::Model::default()))
            }),
        };
        let started = cell.get_or_init(|| {
            let started = One::start(machine());
            if let Err(error) = &started {
                tracing::error!(%error, "a simulated machine cannot listen");
            }
            started.ok()
        });
        started.as_ref()
    }
}

impl One {
    fn start(machine: Machine) -> std::io::Result<Self> {
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, 0))?;
        let one = Self {
            addr: listener.local_addr()?,
            machine: Arc::new(Mutex::new(machine)),
            hands: Arc::default(),
            faults: Mutex::default(),
        };
        let (machine, hands) = (Arc::clone(&one.machine), Arc::clone(&one.hands));
        std::thread::Builder::new()
            .name("simulated machine".to_owned())
            .spawn(move || {
                let ended = line::listen(&listener, &machine, &hands, &|| true, &|| {});
                if let Err(error) = ended {
                    tracing::error!(%error, "a simulated machine listens no more");
                }
            })?;
        Ok(one)
    }

    /// Where it is.
    pub(crate) fn address(&self) -> String {
        format!("tcp://{}", self.addr)
    }

    /// Where its tool went in the material, mm.
    pub(crate) fn strokes(&self) -> Vec<Vec<Point>> {
        lock(&self.machine).strokes()
    }

    /// What lies in its tray, the latest last, and whether more is to come.
    pub(crate) fn tray(&self) -> (Vec<Arc<Sheet>>, bool) {
        let machine = lock(&self.machine);
        (machine.tray(), !machine.is_idle())
    }

    /// What is set at its line, to be looked at and changed.
    pub(crate) fn hands(&self) -> MutexGuard<'_, Hands> {
        lock(&self.hands)
    }

    /// Its faults as they are.
    pub(crate) fn faults(&self) -> Faults {
        *lock(&self.faults)
    }

    /// Puts faults in force.
    pub(crate) fn set_faults(&self, faults: Faults) {
        *lock(&self.faults) = faults;
        lock(&self.machine).set_faults(faults);
    }

    /// Lays a printed sheet on it, or takes it away.
    pub(crate) fn lay(&self, laid: Option<Laid>) {
        lock(&self.machine).lay(laid);
    }

    /// The printed sheet that lies on it.
    pub(crate) fn laid(&self) -> Option<Laid> {
        lock(&self.machine).laid().cloned()
    }

    /// Fresh stock: what it did is forgotten. Nothing happens while it works.
    pub(crate) fn renew(&self) {
        let mut machine = lock(&self.machine);
        if machine.is_idle() {
            machine.renew();
        }
    }
}
