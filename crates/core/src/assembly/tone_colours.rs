//! Colours in stock for tones: each its own, darker from one to the next.
//!
//! The nearest colour to each would give two tones the same card where few are in stock.

use super::Layer;
use crate::inks::{Rgb, difference};
use crate::layers::LayerChoice;
use crate::material::StockColour;

/// Gives the layers of tones that name no colour their own, where the material has as many colours.
pub(super) fn given(layers: &mut [Layer], choice: &LayerChoice) {
    let free = |l: &Layer| l.tone.is_some() && choice.of(l.colour).colour.is_none();
    let tones: Vec<usize> = (0..layers.len()).filter(|&n| free(&layers[n])).collect();
    let Some(&first) = tones.first() else { return };
    let material = layers[first].material.clone();
    if tones.iter().any(|&n| layers[n].material != material) {
        return;
    }
    let named = layers.iter().filter(|l| l.tone.is_some() && !free(l));
    let taken: Vec<String> = named.filter_map(|l| l.stock_colour.clone()).collect();
    let mut stock = material.colours.clone();
    stock.retain(|c| !taken.contains(&c.name));
    stock.sort_by_key(|c| std::cmp::Reverse(weight(c.colour)));
    let inks: Vec<Rgb> = tones.iter().map(|&n| layers[n].colour).collect();
    for (&n, colour) in tones.iter().zip(chosen(&inks, &stock)) {
        layers[n].paint = colour.colour;
        layers[n].stock_colour = Some(colour.name.clone());
    }
}

/// How light a colour is: ITU-R BT.601 luma, thousandths.
fn weight(Rgb([r, g, b]): Rgb) -> u32 {
    299 * u32::from(r) + 587 * u32::from(g) + 114 * u32::from(b)
}

/// For tones from the lightest one colour each of a stock from the lightest, in the same order, that look most like
/// them together; nothing where there are too few.
fn chosen<'a>(tones: &[Rgb], stock: &'a [StockColour]) -> Vec<&'a StockColour> {
    if stock.len() < tones.len() {
        return Vec::new();
    }
    // least[t][s]: the least difference of the first t tones with colours of the first s.
    let mut least = vec![vec![f64::INFINITY; stock.len() + 1]; tones.len() + 1];
    least[0].fill(0.0);
    for (t, &tone) in tones.iter().enumerate() {
        for (s, colour) in stock.iter().enumerate() {
            let taken = least[t][s] + difference(tone, colour.colour);
            least[t + 1][s + 1] = taken.min(least[t + 1][s]);
        }
    }
    let mut found = Vec::new();
    let mut s = stock.len();
    for t in (1..=tones.len()).rev() {
        while s > t && least[t][s - 1] <= least[t][s] {
            s -= 1;
        }
        s -= 1;
        found.push(&stock[s]);
    }
    found.reverse();
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::inks::tones::grey;
    use crate::material::presets;

    #[test]
    fn every_tone_has_its_own_card_and_each_is_darker_than_the_last() {
        let card = presets().into_iter().find(|m| m.name.starts_with("Card"));
        let mut stock = card.unwrap().colours;
        stock.sort_by_key(|c| std::cmp::Reverse(weight(c.colour)));
        for count in 2..=6 {
            let tones: Vec<Rgb> = (0..count).map(|n| grey(n, count)).collect();
            let found = chosen(&tones, &stock);
            assert_eq!(found.len(), count);
            assert!(found.is_sorted_by(|a, b| weight(a.colour) > weight(b.colour)));
        }
        let few = chosen(&[Rgb::WHITE, Rgb::BLACK], &stock[..1]);
        assert!(few.is_empty());
    }
}
