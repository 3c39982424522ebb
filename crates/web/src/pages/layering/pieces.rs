//! Pieces that are let in or backed, and bridges that hold islands.

use inky_core::assembly::bridge::{self, Asked};
use inky_core::inks::{InkName, Rgb};
use inky_core::layers::Bridge;
use inky_core::offset::Join;
use inky_core::tidy::{Edit, Pigment};

use super::{Change, figures, fit, mm, number};
use crate::error::WebError;
use crate::error::wrong;

impl Change<'_> {
    pub(super) fn bridges(&mut self) -> Result<String, WebError> {
        let count = number("bridges", &self.asking.value)?;
        let width = mm("bridges", &self.asking.more, self.unit)?;
        let asked = Asked {
            count: if count.fract().abs() < 1e-9 && count > 0.0 {
                count.min(99.0) as usize
            } else {
                0
            },
            width,
        };
        let built = &self.outcome.checked().built;
        let sheets = built.layers.iter().filter(|l| l.sheet);
        let mut made = Vec::new();
        let mut any = false;
        for layer in sheets {
            any = true;
            if layer.islands.is_empty() {
                continue;
            }
            let found = bridge::auto(layer, &layer.islands, asked, self.recipe.size);
            made.extend(found.map_err(|e| wrong("bridges", e))?);
        }
        if !any {
            return Err(wrong(
                "bridges",
                "bridges hold the islands of a sheet; choose the sheet first",
            ));
        }
        if made.is_empty() {
            return Err(wrong("bridges", bridge::BridgeError::NoIsland));
        }
        let number = made.len();
        self.layers().bridges.extend(made);
        Ok(format!("{number} bridges"))
    }

    pub(super) fn bridge(&mut self) -> Result<String, WebError> {
        let ends = figures(&self.asking.value);
        let &[x0, y0, x1, y1] = ends.as_slice() else {
            return Err(wrong(
                "bridges",
                "drag from one side of what is cut out to the other",
            ));
        };
        if (x1 - x0).hypot(y1 - y0) < 0.2 {
            return Err(wrong(
                "bridges",
                "drag from one side of what is cut out to the other",
            ));
        }
        let size = self.recipe.size;
        let part = |x: f64, y: f64| [x / size.width.get(), y / size.height.get()];
        let (from, to) = (part(x0, y0), part(x1, y1));
        let moved = self.asking.other.parse::<usize>().ok();
        let old = moved.and_then(|n| self.recipe.layers.bridges.get_mut(n));
        if let Some(old) = old {
            (old.from, old.to) = (from, to);
            return Ok("Bridge moved".to_owned());
        }
        let width = mm("bridges", &self.asking.more, self.unit)?;
        self.layers().bridges.push(Bridge { from, to, width });
        Ok("Bridge".to_owned())
    }

    pub(super) fn inlay(&mut self) -> Result<String, WebError> {
        let items = self.items()?;
        let material = self.named(&self.asking.value)?;
        let clearance = fit(&self.asking.more, self.unit)?.unwrap_or(0.05);
        let ink = self.fresh_colour();
        self.keep(material.clone());
        self.edit(Edit::Inlay {
            items: items.clone(),
            pigment: Pigment::Colour(ink),
        });
        // In the colour in stock that looks most like what the pieces had.
        let drawing = self.outcome.drawing();
        let first = items.first().and_then(|&id| drawing.item(id));
        let paint = first
            .and_then(|i| self.outcome.design.inks.get(usize::from(i.ink.0)))
            .map(|ink| ink.paint);
        let like = paint.and_then(|p| material.nearest(p));
        let stock_colour = like.map(|c| c.name.clone());
        let layer = self.layers().of_mut(ink);
        layer.material = Some(material.name.clone());
        layer.colour = stock_colour;
        layer.clearance = Some(clearance);
        self.name(ink, "Inserts");
        Ok(format!("Inserts of {}", material.name))
    }

    pub(super) fn backing(&mut self) -> Result<String, WebError> {
        let material = self.named(&self.asking.value)?;
        let margin = mm("inlay", &self.asking.more, self.unit)?;
        let ink = self.fresh_colour();
        self.keep(material.clone());
        self.edit(Edit::Backing {
            margin,
            join: Join::Round,
            holes: false,
            pigment: Pigment::Colour(ink),
        });
        // It lies under all others.
        let built = &self.outcome.checked().built;
        let mut order: Vec<Rgb> = built.layers.iter().map(|l| l.colour).collect();
        order.insert(0, ink);
        let layers = self.layers();
        layers.order = order;
        layers.of_mut(ink).material = Some(material.name.clone());
        self.name(ink, "Backing");
        Ok(format!("Backing of {}", material.name))
    }

    /// What a layer that was made here is called.
    fn name(&mut self, colour: Rgb, name: &str) {
        let name = name.to_owned();
        self.recipe.inks.names.push(InkName { colour, name });
    }
}
