//! A file on its way to a printer: it goes as a whole, and what the line took is all that is known.

use std::cell::Cell;

use inky_devices::line::{self, Address, Wish};

use crate::machines::state::{Phase, Run, State};
use crate::machines::under_way::Live;

/// Sends the stop that a run is at; how it ended, with what is to be kept of what was said.
pub(super) fn hand_over(run: &Run, address: &Address, live: &Live) -> (State, String) {
    let file = run.stop().map(|stop| stop.file()).unwrap_or_default();
    let gone = Cell::new(0);
    let mut wish = || {
        let wish = live.wished();
        live.is_at(match wish {
            Wish::Pause => Phase::Paused,
            Wish::GoOn | Wish::Stop => Phase::Running,
        });
        wish
    };
    let handed = line::hand_over(&file, address, &mut wish, &mut |n| gone.set(n));
    let state = live.state();
    let said = format!("{} of {} bytes of PDF were sent\n", gone.get(), file.len());
    let state = match handed {
        Ok(true) => State {
            done: 1,
            begun: 1,
            ..state
        }
        .at(Phase::Finished),
        Ok(false) => state.broken("by hand"),
        Err(why) => state.broken(why),
    };
    (state, said)
}
