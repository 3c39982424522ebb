//! The list of stones: how many of each size there are, what they cost and weigh.

use serde::{Deserialize, Serialize};

use super::{SIZES, StoneChoice};
use crate::limits::{OutOfRange, within};

/// A size of stone on a layer of stones.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StoneSize {
    /// Across, mm.
    pub across: f64,
    /// Its colour by name; empty where none was told.
    #[serde(default)]
    pub colour: String,
    /// What a hundred of them cost.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<f64>,
}

/// What a layer of stones is set with: its parts are the stones, its cut lines the holes of a template.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StoneLayer {
    /// The sizes, in the order in which they were set.
    pub sizes: Vec<StoneSize>,
    /// How much wider than its stone a hole is, mm.
    pub wider: f64,
}

/// A line of the list.
#[derive(Clone, Debug, PartialEq)]
pub struct Counted {
    /// The size.
    pub size: StoneSize,
    /// How many of it there are.
    pub count: usize,
    /// What they cost, where a price was told.
    pub cost: Option<f64>,
    /// What they weigh, g: glass with a flat back, estimated from the size.
    pub grams: f64,
}

/// Nearer than this to a size counts as that size, mm.
const SAME: f64 = 0.05;
/// Grams for each cubed mm of a stone's width: about 12 g for a gross of SS20 (from memory).
const GRAMS_PER_MM3: f64 = 0.0008;

impl StoneLayer {
    /// A layer that is set with these, its holes so much wider.
    #[must_use]
    pub fn new(choice: &StoneChoice, wider: f64) -> Self {
        let size = |&across: &f64| StoneSize {
            across,
            colour: String::new(),
            price: None,
        };
        Self {
            sizes: choice.sizes.iter().map(size).collect(),
            wider,
        }
    }

    /// Takes in the sizes of another; those that are there keep their colour and price.
    pub fn take_in(&mut self, other: Self) {
        self.wider = other.wider;
        for size in other.sizes {
            if !self.sizes.iter().any(|s| same(s.across, size.across)) {
                self.sizes.push(size);
            }
        }
    }

    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        for size in &self.sizes {
            within("a stone", size.across, &super::ACROSS_MM, "mm")?;
            if let Some(price) = size.price {
                within("a price", price, &(0.0..=1e6), "")?;
            }
        }
        within("a hole's clearance", self.wider, &super::WIDER_MM, "mm")
    }

    /// The list of stones of these widths, mm, the greatest size first; those of no size in it are not counted.
    #[must_use]
    pub fn counted(&self, widths: impl IntoIterator<Item = f64>) -> Vec<Counted> {
        let mut sizes = self.sizes.clone();
        sizes.sort_by(|a, b| b.across.total_cmp(&a.across));
        let mut counts = vec![0; sizes.len()];
        for width in widths {
            if let Some(n) = sizes.iter().position(|s| same(s.across, width)) {
                counts[n] += 1;
            }
        }
        let line = |(size, count): (StoneSize, usize)| Counted {
            cost: size.price.map(|hundred| hundred * count as f64 / 100.0),
            grams: GRAMS_PER_MM3 * size.across.powi(3) * count as f64,
            size,
            count,
        };
        sizes.into_iter().zip(counts).map(line).collect()
    }
}

fn same(a: f64, b: f64) -> bool {
    (a - b).abs() < SAME
}

/// How a size is called: by its trade name, or how far across it is.
#[must_use]
pub fn size_name(across: f64) -> String {
    let known = SIZES.iter().find(|(_, mm)| (mm - across).abs() < 1e-6);
    known.map_or_else(|| format!("{across} mm"), |(name, _)| (*name).to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn layer() -> StoneLayer {
        let choice = StoneChoice {
            sizes: vec![2.8, 4.7],
            gap: 0.3,
        };
        StoneLayer::new(&choice, 0.3)
    }

    #[test]
    fn stones_are_counted_by_their_width_and_priced_by_the_hundred() {
        let mut layer = layer();
        layer.sizes[1].price = Some(6.0);
        let list = layer.counted([2.8, 4.7, 4.7001, 3.3, 2.81]);
        let told: Vec<_> = list.iter().map(|c| (c.size.across, c.count)).collect();
        assert_eq!(told, [(4.7, 2), (2.8, 2)], "one is of no size");
        assert_eq!(list[0].cost, Some(0.12));
        assert_eq!(list[1].cost, None);
    }

    #[test]
    fn a_gross_of_twenties_weighs_what_it_usually_does() {
        // Some 12 g (from memory).
        let list = layer().counted([4.7; 144]);
        assert!((list[0].grams - 12.0).abs() < 1.0, "{}", list[0].grams);
    }

    #[test]
    fn sizes_set_later_are_taken_in_and_what_was_told_of_others_stays() {
        let mut layer = layer();
        layer.sizes[0].price = Some(3.0);
        "crystal".clone_into(&mut layer.sizes[0].colour);
        let more = StoneChoice {
            sizes: vec![2.8, 2.0],
            gap: 0.3,
        };
        layer.take_in(StoneLayer::new(&more, 0.4));
        assert_eq!(layer.sizes[0].colour, "crystal");
        assert_eq!(layer.sizes.len(), 3);
        assert_eq!((layer.sizes[0].price, layer.wider), (Some(3.0), 0.4));
        assert_eq!(size_name(2.8), "SS10");
        assert_eq!(size_name(3.3), "3.3 mm");
    }
}
