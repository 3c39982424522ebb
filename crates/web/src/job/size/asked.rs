//! Sizes by a stock, by what is drawn, by a measured line, by per cent; and where the piece lies on its
//! stock.

use std::sync::Arc;

use inky_core::check;
use inky_core::stock::{Stock, StockKind};
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::form::{Figures, YesNo, chosen, parsed};
use crate::job::changing::Changing;
use crate::materials::stocked::offered;
use crate::refusal::Refusal;
use crate::text;
use crate::typed::{mm, mm_or_none, number};

/// One change.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub(crate) enum Change {
    /// Per cent of the size as it is.
    Scale {
        value: String,
    },
    /// A side of the part that is drawn.
    Drawn {
        side: Side,
        value: String,
    },
    /// The true length of a line drawn on the bench.
    Measured {
        /// None before a line was drawn.
        #[serde(deserialize_with = "chosen")]
        ends: Option<Figures<4>>,
        value: String,
    },
    /// A stock of the material by its number.
    Stock {
        #[serde(deserialize_with = "parsed")]
        value: usize,
    },
    /// A piece of one's own; without a length it is a roll.
    OwnStock {
        width: String,
        length: String,
    },
    /// As large as the stock takes.
    Fit {
        margin: String,
    },
    /// Where it lies on the stock.
    Place {
        value: Figures<2>,
    },
    Mirror {
        value: YesNo,
    },
}

#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Side {
    Width,
    Height,
}

/// A measured line has at least this length, mm.
const SHORTEST: f64 = 0.1;
/// Margin of a stock of one's own where no other is known, mm.
const MARGIN: f64 = 5.0;
/// Fitted to a stock, a piece is so much smaller that rounding never puts it outside.
const INSIDE: f64 = 0.9999;

impl Change {
    /// Does what is asked for; the name of the step.
    pub(crate) fn apply(self, to: &mut Changing) -> Result<String, WebError> {
        let unit = to.unit;
        Ok(match self {
            Self::Scale { value } => {
                let percent = number("scale", &value, "110 %")?;
                scale(to, percent / 100.0, "scale")?;
                format!("{percent:.1} %")
            }
            Self::Drawn { side, value } => {
                let wanted = mm("drawn", &value, unit)?;
                let drawn = to.outcome.design.bounds().map(|b| match side {
                    Side::Width => b.width(),
                    Side::Height => b.height(),
                });
                let drawn = drawn.filter(|w| *w > 0.0);
                let drawn = drawn.ok_or_else(|| wrong("drawn", "nothing is drawn yet"))?;
                scale(to, wanted / drawn, "drawn")?;
                format!("Drawn part {}", text::told_length(wanted, unit, 1))
            }
            Self::Measured { ends, value } => {
                let Some(Figures([x0, y0, x1, y1])) = ends else {
                    return Err(wrong(
                        "measured",
                        "draw a line on the bench first, along something whose length you know",
                    ));
                };
                let wanted = mm("measured", &value, unit)?;
                let drawn = (x1 - x0).hypot(y1 - y0);
                if drawn < SHORTEST {
                    return Err(wrong(
                        "measured",
                        "this line is too short to measure by; draw a longer one",
                    ));
                }
                scale(to, wanted / drawn, "measured")?;
                format!("Measured {}", text::told_length(wanted, unit, 1))
            }
            Self::Stock { value } => {
                let shop = to.stocked()?;
                let all = offered(&to.layers().material(), &shop);
                let found = all.into_iter().nth(value);
                let found =
                    found.ok_or_else(|| wrong("stock", "this stock is not in the list any more"));
                take_stock(to, found?)?
            }
            Self::OwnStock { width, length } => {
                let length = mm_or_none("stock", &length, unit)?;
                let kind = if length > 0.0 {
                    StockKind::Offcut
                } else {
                    StockKind::Roll
                };
                let stock = Stock {
                    name: String::new(),
                    kind,
                    width: mm("stock", &width, unit)?,
                    length,
                    margin: to.layers().stock().map_or(MARGIN, |s| s.margin),
                    shape: None,
                };
                take_stock(to, stock)?
            }
            Self::Fit { margin } => {
                let margin = mm_or_none("stock", &margin, unit)?;
                let outcome = Arc::clone(&to.outcome);
                if to.layers().stock().is_none() {
                    return Err(wrong("stock", "choose a stock to fit to first"));
                }
                let fit = check::to_fit(&outcome.checked().built, to.layers(), margin);
                let (times, place) = fit.ok_or_else(|| {
                    wrong(
                        "stock",
                        "these margins leave nothing of the stock; make them smaller",
                    )
                })?;
                scale(to, times * INSIDE, "stock")?;
                to.layers().place = Some(place);
                "Fitted to the stock".to_owned()
            }
            Self::Place { value: Figures(at) } => {
                to.layers().place = Some(at);
                "Moved on the stock".to_owned()
            }
            Self::Mirror { value } => {
                to.layers().mirror = value.chosen();
                "Mirroring".to_owned()
            }
        })
    }
}

/// Another finished size, as many times as large.
fn scale(to: &mut Changing, times: f64, field: &'static str) -> Result<(), WebError> {
    to.recipe.size = to.recipe.size.times(times);
    to.recipe.check().map_err(|e| e.beside(field))
}

fn take_stock(to: &mut Changing, stock: Stock) -> Result<String, WebError> {
    let layers = to.layers();
    layers.stock = Some(stock);
    layers.place = None;
    layers.check().map_err(|e| e.beside("stock"))?;
    Ok("Stock".to_owned())
}
