//! Sizes by a stock, by what is drawn, by a measured line, by per cent.

use inky_core::size::Size;
use inky_core::stock::{Stock, StockKind};
use inky_core::units::Mm;

use super::{Change, figures, mm};
use crate::error::WebError;
use crate::error::wrong;
use crate::refusal::Refusal;

impl Change<'_> {
    pub(super) fn stock(&mut self) -> Result<String, WebError> {
        let a = self.asking;
        let layers = &self.recipe.layers;
        let stock = match a.value.as_str() {
            "own" => {
                let width = mm("stock", &a.more, self.unit)?;
                let length = if a.other.trim().is_empty() {
                    0.0
                } else {
                    mm("stock", &a.other, self.unit)?
                };
                let margin = layers.stock().map_or(5.0, |s| s.margin);
                Stock {
                    name: String::new(),
                    kind: if length > 0.0 {
                        StockKind::Offcut
                    } else {
                        StockKind::Roll
                    },
                    width,
                    length,
                    margin,
                }
            }
            n => {
                let all = layers.material().stocks;
                let at = n.parse().unwrap_or(usize::MAX);
                let found = all.into_iter().nth(at);
                found.ok_or_else(|| wrong("stock", "this stock is not in the list any more"))?
            }
        };
        let layers = self.layers();
        layers.stock = Some(stock);
        layers.place = None;
        layers.check().map_err(|e| e.beside("stock"))?;
        Ok("Stock".to_owned())
    }

    pub(super) fn fit(&mut self) -> Result<String, WebError> {
        let margin = if self.asking.value.trim().is_empty() {
            0.0
        } else {
            mm("stock", &self.asking.value, self.unit)?
        };
        let own = self.outcome.checked().built.bounds;
        let stock = self.recipe.layers.stock();
        let stock = stock.ok_or_else(|| wrong("stock", "choose a stock to fit to first"))?;
        let scale = stock.scale_to_fit(own.width(), own.height(), margin);
        let scale = scale.ok_or_else(|| {
            wrong(
                "stock",
                "these margins leave nothing of the stock; make them smaller",
            )
        })?;
        self.scale(scale * 0.9999, "stock")?;
        self.layers().place = Some([stock.margin + margin, stock.margin + margin]);
        Ok("Fitted to the stock".to_owned())
    }

    /// Another finished size, as many times as large.
    pub(super) fn scale(&mut self, times: f64, field: &'static str) -> Result<(), WebError> {
        let size = self.recipe.size;
        let side = |mm: Mm| Mm::new(mm.get() * times);
        let new = Size {
            width: side(size.width),
            height: side(size.height),
            ..size
        };
        self.recipe.size = new;
        self.recipe.check().map_err(|e| e.beside(field))
    }

    pub(super) fn drawn(&mut self) -> Result<String, WebError> {
        let (a, value) = (self.asking, self.asking.value.as_str());
        let wanted = mm("drawn", value, self.unit)?;
        let bounds = self.outcome.design.bounds();
        let own = bounds.map(|b| {
            if a.more == "height" {
                b.height()
            } else {
                b.width()
            }
        });
        let own = own.filter(|w| *w > 0.0);
        let own = own.ok_or_else(|| wrong("drawn", "nothing is drawn yet"))?;
        self.scale(wanted / own, "drawn")?;
        Ok(format!("Drawn part {wanted:.1} mm"))
    }

    pub(super) fn measured(&mut self) -> Result<String, WebError> {
        let (a, value) = (self.asking, self.asking.value.as_str());
        let wanted = mm("measured", value, self.unit)?;
        let ends = figures(&a.more);
        let &[x0, y0, x1, y1] = ends.as_slice() else {
            return Err(wrong(
                "measured",
                "draw a line on the bench first, along something whose length you know",
            ));
        };
        let own = (x1 - x0).hypot(y1 - y0);
        if own < 0.1 {
            return Err(wrong(
                "measured",
                "this line is too short to measure by; draw a longer one",
            ));
        }
        self.scale(wanted / own, "measured")?;
        Ok(format!("Measured {wanted:.1} mm"))
    }
}
