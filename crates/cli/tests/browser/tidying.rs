//! Steps of the Tidy line that several tests take.

use anyhow::{Context, Result};
use thirtyfour::prelude::*;

use crate::chrome::Browser;
pub(crate) use crate::settled::{open, settled, step};

/// The teapot: 150 × 112.5 mm, five shapes. A place in each of them.
pub(crate) const TEAPOT: &str = "/jobs/5/tidy";
pub(crate) const KNOB: (f64, f64) = (70.8, 14.0);
pub(crate) const LID: (f64, f64) = (60.0, 30.0);
pub(crate) const BODY: (f64, f64) = (100.0, 60.0);
pub(crate) const STAR: (f64, f64) = (71.0, 64.0);
pub(crate) const FOOT: (f64, f64) = (70.0, 97.5);

pub(crate) async fn picked(b: &Browser, words: &str) -> Result<()> {
    b.until_text("#picked", words).await
}

pub(crate) async fn with_shift(b: &Browser, place: (f64, f64)) -> Result<()> {
    let (x, y) = b.on_screen(place).await?;
    let chain = b.hand().key_down(Key::Shift).move_to(x, y).click();
    chain.key_up(Key::Shift).perform().await?;
    Ok(())
}

pub(crate) async fn type_in(b: &Browser, css: &str, text: &str) -> Result<()> {
    b.reveal(css).await?;
    b.retype(css, text).await
}

/// The box around what is picked: x, y, width, height as the page says them.
pub(crate) async fn place(b: &Browser) -> Result<[f64; 4]> {
    let mut found = [0.0; 4];
    for (value, name) in found.iter_mut().zip(["x", "y", "w", "h"]) {
        let text = b.value(&format!("#place-{name}")).await?;
        *value = text.parse().with_context(|| format!("{name} is {text}"))?;
    }
    Ok(found)
}

/// Draws an open line from place to place.
pub(crate) async fn line(b: &Browser, from: (f64, f64), to: (f64, f64)) -> Result<()> {
    b.point(from).await?;
    b.point_twice(to).await
}
