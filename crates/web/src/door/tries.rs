//! Wrong tries: the more there were from one address, the longer the next one waits.

use std::collections::BTreeMap;
use std::net::IpAddr;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

/// So many may be mistyped before anything waits.
const FREE: u32 = 3;
/// The longest wait, s.
const LONGEST: u64 = 60;
/// Addresses that are remembered.
const ADDRESSES: usize = 10_000;

/// How often each address was wrong, and until when it waits.
#[derive(Clone, Debug, Default)]
pub(super) struct Tries(Arc<Mutex<BTreeMap<IpAddr, (u32, Instant)>>>);

impl Tries {
    /// How long an address has to wait before it may try.
    pub(super) fn wait(&self, from: IpAddr, now: Instant) -> Option<Duration> {
        let tries = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let until = tries.get(&from)?.1;
        until.checked_duration_since(now).filter(|d| !d.is_zero())
    }

    pub(super) fn wrong(&self, from: IpAddr, now: Instant) {
        let mut tries = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if tries.len() >= ADDRESSES {
            tries.clear();
        }
        let count = tries.get(&from).map_or(0, |t| t.0) + 1;
        let doubled = count.saturating_sub(FREE).min(10);
        let wait = if doubled == 0 { 0 } else { 1_u64 << doubled };
        let until = now + Duration::from_secs(wait.min(LONGEST));
        tries.insert(from, (count, until));
    }

    pub(super) fn right(&self, from: IpAddr) {
        let mut tries = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        tries.remove(&from);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn who_is_wrong_often_waits_longer_and_others_do_not() {
        let tries = Tries::default();
        let [one, other] = [1, 2].map(|n| IpAddr::from([192, 168, 1, n]));
        let now = Instant::now();
        for _ in 0..FREE {
            tries.wrong(one, now);
            assert_eq!(tries.wait(one, now), None);
        }
        for seconds in [2, 4, 8, 16, 32, 60, 60] {
            tries.wrong(one, now);
            assert_eq!(tries.wait(one, now), Some(Duration::from_secs(seconds)));
        }
        assert_eq!(tries.wait(other, now), None);
        assert_eq!(tries.wait(one, now + Duration::from_secs(61)), None);
        tries.right(one);
        assert_eq!(tries.wait(one, now), None);
    }
}
