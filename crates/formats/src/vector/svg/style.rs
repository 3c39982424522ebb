//! What an element looks like: attributes, style sheets and inheritance.
//!
//! Source: SVG 1.1 (2nd ed.), chapter 6; CSS 2.1, chapter 6.4 for what wins: attributes, then rules
//! by how closely they name an element, then its own `style`, then what is `!important`.

use std::collections::BTreeMap;
use std::str::FromStr;

use inky_core::inks::Rgb;
use simplecss::{AttributeOperator, DeclarationTokenizer, PseudoClass, StyleSheet};
use svgtypes::{Color, Paint, PaintFallback};

use super::place::length;
use super::usable::Usable;
use crate::vector::VectorError;

/// A node of the file.
pub(super) type Node<'a> = roxmltree::Node<'a, 'a>;

/// Rules times elements that are compared at most: about a second's work.
const COMPARISONS: usize = 20_000_000;

/// What was stated for one element, by property.
pub(super) type Stated<'a> = BTreeMap<&'a str, &'a str>;

/// The style sheets of a file.
pub(super) struct Sheets<'a> {
    rules: StyleSheet<'a>,
}

impl<'a> Sheets<'a> {
    /// The rules in `text`, for a file of so many elements.
    ///
    /// # Errors
    /// When there are more than can be compared with every element.
    pub(super) fn new(text: &'a str, elements: usize) -> Result<Self, VectorError> {
        // A rule cannot be told from the text of another, so braces are counted before it is read.
        let most = text.bytes().filter(|b| *b == b'{').count();
        if most.saturating_mul(elements) > COMPARISONS {
            return Err(VectorError::TooMany {
                what: "style rules for its elements",
                limit: COMPARISONS / elements.max(1),
            });
        }
        let rules = StyleSheet::parse(text);
        Ok(Self { rules })
    }

    /// All that is stated for an element.
    pub(super) fn stated(&self, node: Node<'a>) -> Stated<'a> {
        let mut stated = Stated::new();
        for attribute in node.attributes() {
            if attribute.namespace().is_none() {
                stated.insert(attribute.name(), attribute.value().trim());
            }
        }
        let mut urgent = Stated::new();
        let element = Element(node);
        let fitting = self.rules.rules.iter();
        let fitting = fitting.filter(|r| r.selector.matches(&element));
        let own = node.attribute("style").unwrap_or("");
        let own = DeclarationTokenizer::from(own);
        for declared in fitting
            .flat_map(|r| r.declarations.iter().copied())
            .chain(own)
        {
            let to = if declared.important {
                &mut urgent
            } else {
                &mut stated
            };
            // A transform of CSS has a grammar of its own.
            let name = match declared.name {
                "transform" => CSS_TRANSFORM,
                name => name,
            };
            to.insert(name, declared.value.trim());
        }
        stated.extend(urgent);
        stated
    }
}

/// The name under which a transform of a style is kept apart from one of an attribute.
pub(super) const CSS_TRANSFORM: &str = "css transform";

/// An element as style sheets see it.
struct Element<'a>(Node<'a>);

impl simplecss::Element for Element<'_> {
    fn parent_element(&self) -> Option<Self> {
        self.0.parent_element().map(Self)
    }

    fn prev_sibling_element(&self) -> Option<Self> {
        self.0.prev_sibling_element().map(Self)
    }

    fn has_local_name(&self, name: &str) -> bool {
        self.0.tag_name().name() == name
    }

    fn attribute_matches(&self, local_name: &str, operator: AttributeOperator<'_>) -> bool {
        self.0
            .attribute(local_name)
            .is_some_and(|value| operator.matches(value))
    }

    fn pseudo_class_matches(&self, class: PseudoClass<'_>) -> bool {
        matches!(class, PseudoClass::FirstChild) && self.0.prev_sibling_element().is_none()
    }
}

/// How something is painted.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Inked {
    /// Not at all.
    None,
    /// In one colour, 0 to 1 of it.
    Plain(Rgb, f64),
    /// In several, of which this is the first.
    Mixed(Rgb),
}

/// What an element passes on to those in it.
#[derive(Clone, Debug)]
pub(super) struct Style {
    pub(super) fill: Inked,
    pub(super) stroke: Inked,
    fill_opacity: f64,
    stroke_opacity: f64,
    /// Width of strokes as it is stated.
    pub(super) stroke_width: String,
    pub(super) nonzero: bool,
    pub(super) dashed: bool,
    pub(super) visible: bool,
    pub(super) markers: bool,
    colour: Color,
    /// Height of its type, user units.
    pub(super) font_size: f64,
}

impl Default for Style {
    fn default() -> Self {
        Self {
            fill: Inked::Plain(Rgb([0, 0, 0]), 1.0),
            stroke: Inked::None,
            fill_opacity: 1.0,
            stroke_opacity: 1.0,
            stroke_width: "1".to_owned(),
            nonzero: true,
            dashed: false,
            visible: true,
            markers: false,
            colour: Color::black(),
            font_size: 16.0,
        }
    }
}

impl Style {
    /// What an element in this one looks like.
    pub(super) fn with(&self, stated: &Stated<'_>, usable: &Usable<'_>) -> Self {
        let mut own = self.clone();
        let said = |name: &str| stated.get(name).copied().filter(|v| *v != "inherit");
        if let Some(colour) = said("color").and_then(|v| Color::from_str(v).ok()) {
            own.colour = colour;
        }
        if let Some(size) =
            said("font-size").and_then(|v| length(v, self.font_size, self.font_size))
        {
            own.font_size = size;
        }
        if let Some(paint) = said("fill") {
            own.fill = own.painted(paint, usable).unwrap_or(self.fill);
        }
        if let Some(paint) = said("stroke") {
            own.stroke = own.painted(paint, usable).unwrap_or(self.stroke);
        }
        if let Some(part) = said("fill-opacity").and_then(part) {
            own.fill_opacity = part;
        }
        if let Some(part) = said("stroke-opacity").and_then(part) {
            own.stroke_opacity = part;
        }
        if let Some(width) = said("stroke-width") {
            width.clone_into(&mut own.stroke_width);
        }
        if let Some(rule) = said("fill-rule") {
            own.nonzero = rule != "evenodd";
        }
        if let Some(dashes) = said("stroke-dasharray") {
            own.dashed = dashes != "none" && dashes.contains(|c: char| ('1'..='9').contains(&c));
        }
        if let Some(visibility) = said("visibility") {
            own.visible = visibility == "visible";
        }
        for name in ["marker", "marker-start", "marker-mid", "marker-end"] {
            if let Some(marker) = said(name) {
                own.markers = marker != "none";
            }
        }
        own
    }

    /// Whether the inside is seen, given how much of the group is.
    pub(super) fn fills(&self, group: f64) -> Option<Inked> {
        seen(self.fill, self.fill_opacity * group)
    }

    /// Whether the line is seen.
    pub(super) fn strokes(&self, group: f64) -> Option<Inked> {
        seen(self.stroke, self.stroke_opacity * group)
    }

    fn painted(&self, value: &str, usable: &Usable<'_>) -> Option<Inked> {
        let plain =
            |c: Color| Inked::Plain(Rgb([c.red, c.green, c.blue]), f64::from(c.alpha) / 255.0);
        Some(match Paint::from_str(value).ok()? {
            Paint::None => Inked::None,
            Paint::CurrentColor => plain(self.colour),
            Paint::Color(c) => plain(c),
            Paint::FuncIRI(id, fallback) => match (usable.first_stop(id), fallback) {
                (Some(colour), _) => Inked::Mixed(colour),
                (None, Some(PaintFallback::Color(c))) => plain(c),
                (None, Some(PaintFallback::CurrentColor)) => plain(self.colour),
                (None, _) => Inked::None,
            },
            _ => return None,
        })
    }
}

fn seen(ink: Inked, part: f64) -> Option<Inked> {
    match ink {
        Inked::Plain(_, own) if own * part > 0.0 => Some(ink),
        Inked::Mixed(_) if part > 0.0 => Some(ink),
        _ => None,
    }
}

/// A part of the whole, 0 to 1, also as a percentage.
pub(super) fn part(value: &str) -> Option<f64> {
    let (figure, by) = match value.strip_suffix('%') {
        Some(figure) => (figure, 100.0),
        None => (value, 1.0),
    };
    let part = figure.trim().parse::<f64>().ok()? / by;
    part.is_finite().then(|| part.clamp(0.0, 1.0))
}

/// How much of an element and what is in it is seen, 0 to 1.
pub(super) fn opacity(stated: &Stated<'_>) -> f64 {
    stated.get("opacity").and_then(|v| part(v)).unwrap_or(1.0)
}
