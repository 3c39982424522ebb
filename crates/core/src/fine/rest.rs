//! Rest: stretches in which nothing changes any more are left alone for a while.
//!
//! Most steps of a descent are wholly ink or wholly ground after a few rounds, and stay so. A stretch
//! whose every step did not move at all in two rounds lies the same in both of its covers, now and
//! ahead; it rests, and is looked at again some rounds later.

/// The longest stretch, px: short ones come to rest sooner.
pub(super) const LONGEST: usize = 16;
/// Rounds without any change after which a stretch rests, and for how long.
const STILL: u8 = 2;
const REST: u8 = 4;

/// Rounds in which nothing changed, and those of resting after them.
#[derive(Clone, Copy, Default)]
pub(super) struct Still(u8);

impl Still {
    /// Whether the stretch rests in this round.
    pub(super) fn rests(&mut self) -> bool {
        if self.0 < STILL {
            return false;
        }
        self.0 += 1;
        if self.0 > STILL + REST {
            self.0 = STILL - 1;
        }
        true
    }

    /// Counts a round.
    pub(super) fn after(&mut self, changed: bool) {
        self.0 = if changed { 0 } else { self.0 + 1 };
    }
}
