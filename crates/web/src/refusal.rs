//! Figures that are refused are told in the unit the person reads.
//!
//! The core tells of a figure out of range in millimetres. Which unit a person reads is known to the
//! request alone, so the answer is written again on its way out.

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::middleware::Next;
use actix_web::{Error, FromRequest, ResponseError};
use inky_core::layers::LayerError;
use inky_core::limits::OutOfRange;
use inky_core::material::MaterialError;
use inky_core::recipe::RecipeError;
use inky_core::sheet::choice::SheetError;
use inky_core::tidy::EditError;
use inky_core::units::{MM_PER_INCH, Unit};

use crate::error::{WebError, wrong};
use crate::reader::Reader;

/// A refusal of the core.
pub(crate) trait Refusal: std::fmt::Display {
    /// The figure that is out of range, where that is why.
    fn figure(&self) -> Option<&OutOfRange>;

    /// The answer, beside the field `field`.
    fn beside(&self, field: &'static str) -> WebError {
        match self.figure() {
            Some(figure) => WebError::Figure {
                field,
                figure: figure.clone(),
            },
            None => wrong(field, self),
        }
    }
}

impl Refusal for RecipeError {
    fn figure(&self) -> Option<&OutOfRange> {
        match self {
            Self::OutOfRange(figure) => Some(figure),
            Self::Layers(error) => error.figure(),
            Self::Sheet(error) => error.figure(),
            _ => None,
        }
    }
}

impl Refusal for LayerError {
    fn figure(&self) -> Option<&OutOfRange> {
        match self {
            Self::OutOfRange(figure) => Some(figure),
            Self::Material(error) => error.figure(),
            _ => None,
        }
    }
}

impl Refusal for SheetError {
    fn figure(&self) -> Option<&OutOfRange> {
        match self {
            Self::OutOfRange(figure) => Some(figure),
            _ => None,
        }
    }
}

impl Refusal for MaterialError {
    fn figure(&self) -> Option<&OutOfRange> {
        match self {
            Self::OutOfRange(figure) => Some(figure),
            _ => None,
        }
    }
}

impl Refusal for EditError {
    fn figure(&self) -> Option<&OutOfRange> {
        match self {
            Self::OutOfRange(figure) => Some(figure),
            _ => None,
        }
    }
}

/// A figure out of range in the unit that is read.
pub(crate) fn told(figure: &OutOfRange, unit: Unit) -> String {
    let OutOfRange {
        what,
        found,
        least,
        greatest,
        unit: own,
    } = figure;
    let inches = |each: f64, symbol: &str| {
        let read = |v: &f64| (v / each * 1000.0).round() / 1000.0;
        format!(
            "{what} of {} {symbol} is outside {} to {} {symbol}",
            read(found),
            read(least),
            read(greatest)
        )
    };
    match (unit, *own) {
        (Unit::In, "mm") => inches(MM_PER_INCH, "in"),
        (Unit::In, "mm²") => inches(MM_PER_INCH * MM_PER_INCH, "in²"),
        _ => figure.to_string(),
    }
}

/// Writes a refused figure again where another unit is read.
pub(crate) async fn in_the_readers_unit(
    mut request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let (head, payload) = request.parts_mut();
    let Reader(unit) = Reader::from_request(head, payload).await?;
    let answer = next.call(request).await?;
    let error = answer.response().error();
    let refused = error.and_then(|e| e.as_error::<WebError>());
    let again = match refused {
        Some(WebError::Figure { field, figure }) if unit != Unit::Mm => {
            Some(wrong(field, told(figure, unit)).error_response())
        }
        _ => None,
    };
    Ok(match again {
        Some(again) => answer.into_response(again).map_into_boxed_body(),
        None => answer.map_into_boxed_body(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lengths_and_areas_are_told_in_inches_and_angles_as_they_are() {
        let figure = |found, range, unit| OutOfRange::of("a width", found, &range, unit);
        let width = figure(50_800.0, 2.54..=25_400.0, "mm");
        assert_eq!(
            told(&width, Unit::In),
            "a width of 2000 in is outside 0.1 to 1000 in"
        );
        assert_eq!(told(&width, Unit::Mm), width.to_string());
        let area = figure(-645.16, 0.0..=6_451.6, "mm²");
        assert_eq!(
            told(&area, Unit::In),
            "a width of -1 in² is outside 0 to 10 in²"
        );
        let angle = figure(400.0, 0.0..=360.0, "°");
        assert_eq!(told(&angle, Unit::In), angle.to_string());
    }
}
