//! Bytes changed at random, the same for the same seed: bits turned over, ranges lost, doubled or taken from
//! elsewhere, figures replaced by odd ones.

use std::panic::{AssertUnwindSafe, catch_unwind};

use fastrand::Rng;

/// Figures that programs stumble over.
const ODD: [&str; 18] = [
    "0",
    "-0",
    "-1",
    "1",
    "2",
    "255",
    "65536",
    "2147483648",
    "4294967296",
    "-9223372036854775809",
    "99999999999999999999",
    "0.0000001",
    "1e-320",
    "1e38",
    "1e308",
    "-1e308",
    "1e999",
    "nan",
];

/// How many are tried of a kind: `INKY_MUTATIONS`, or else `few`.
pub(crate) fn runs(few: u64) -> u64 {
    let asked = std::env::var("INKY_MUTATIONS").ok();
    asked.and_then(|n| n.parse().ok()).unwrap_or(few)
}

/// Tries what is made of seeds `0..runs`; the seeds of those that panicked.
pub(crate) fn panicked(runs: u64, tried: impl Fn(u64)) -> Vec<u64> {
    (0..runs)
        .filter(|&seed| catch_unwind(AssertUnwindSafe(|| tried(seed))).is_err())
        .collect()
}

/// One of the samples, changed in one to six places.
pub(crate) fn mutated(seed: u64, samples: &[Vec<u8>]) -> Vec<u8> {
    let mut rng = Rng::with_seed(seed);
    let mut bytes = samples[rng.usize(..samples.len())].clone();
    for _ in 0..rng.usize(1..=6) {
        let other = &samples[rng.usize(..samples.len())];
        change(&mut bytes, other, &mut rng);
    }
    bytes
}

fn change(bytes: &mut Vec<u8>, other: &[u8], rng: &mut Rng) {
    if bytes.is_empty() {
        bytes.extend(other);
        return;
    }
    let at = rng.usize(..bytes.len());
    // Mostly short, now and then as long as all of it.
    let most = if rng.u8(..4) == 0 { bytes.len() } else { 40 };
    let end = (at + rng.usize(..=most)).min(bytes.len());
    match rng.u8(..8) {
        0 => bytes[at] ^= 1 << rng.u8(..8),
        1 => bytes[at] = rng.u8(..),
        2 => drop(bytes.drain(at..end)),
        3 => bytes.extend_from_within(at..end),
        4 => {
            let from = rng.usize(..=other.len());
            let to = (from + 200).min(other.len());
            bytes.splice(at..end, other[from..to].iter().copied());
        }
        5 if rng.u8(..4) == 0 => bytes.truncate(at),
        _ => figure(bytes, at, rng),
    }
}

/// Puts an odd figure in the place of the next one.
fn figure(bytes: &mut Vec<u8>, at: usize, rng: &mut Rng) {
    let digit = |b: &u8| b.is_ascii_digit() || matches!(b, b'.' | b'-');
    let Some(from) = bytes[at..].iter().position(digit).map(|n| at + n) else {
        return;
    };
    let long = bytes[from..].iter().take_while(|b| digit(b)).count();
    let odd = ODD[rng.usize(..ODD.len())];
    bytes.splice(from..from + long, odd.bytes());
}
