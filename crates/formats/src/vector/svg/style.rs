//! What an element looks like: attributes, style sheets and inheritance.
//!
//! Source: SVG 1.1 (2nd ed.), chapter 6; CSS 2.1, chapter 6.4 for what wins: attributes, then rules
//! by how closely they name an element, then its own `style`, then what is `!important`.

use std::cell::Cell;
use std::collections::BTreeMap;
use std::str::FromStr;

use inky_core::inks::Rgb;
use simplecss::{AttributeOperator, DeclarationTokenizer, PseudoClass, Rule, StyleSheet};
use svgtypes::{Color, Paint, PaintFallback};

use super::place::length;
use super::usable::Usable;
use crate::vector::VectorError;

/// A node of the file.
pub(super) type Node<'a> = roxmltree::Node<'a, 'a>;

/// Rules and elements that are compared at most: about a second's work.
const COMPARISONS: usize = 10_000_000;

/// What was stated for one element, by property.
pub(super) type Stated<'a> = BTreeMap<&'a str, &'a str>;

/// The style sheets of a file.
pub(super) struct Sheets<'a> {
    /// Those that name an element more closely come later.
    rules: Vec<Rule<'a>>,
    /// Comparisons that are left.
    left: Cell<usize>,
}

impl<'a> Sheets<'a> {
    pub(super) fn new(text: &'a str) -> Self {
        // The library takes the square of a sheet's length, so it is given a few rules at a time.
        let mut rules: Vec<Rule<'a>> = pieces(text)
            .into_iter()
            .flat_map(|piece| StyleSheet::parse(piece).rules)
            .collect();
        rules.sort_by_key(|rule| rule.selector.specificity());
        Self {
            rules,
            left: Cell::new(COMPARISONS),
        }
    }

    /// All that is stated for an element.
    ///
    /// # Errors
    /// When rules and elements were compared too often.
    pub(super) fn stated(&self, node: Node<'a>) -> Result<Stated<'a>, VectorError> {
        let mut stated = Stated::new();
        for attribute in node.attributes() {
            if attribute.namespace().is_none() {
                stated.insert(attribute.name(), attribute.value().trim());
            }
        }
        let mut urgent = Stated::new();
        let element = Element {
            node,
            left: &self.left,
        };
        let fitting = self.rules.iter();
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
        if self.left.get() == 0 {
            return Err(VectorError::TooMany {
                what: "comparisons of its style rules with its elements",
                limit: COMPARISONS,
            });
        }
        stated.extend(urgent);
        Ok(stated)
    }
}

/// A style sheet is read in pieces of at least so many bytes.
const PIECE: usize = 2048;

/// A style sheet cut between its rules, outside comments and blocks.
fn pieces(text: &str) -> Vec<&str> {
    let (mut pieces, mut from, mut depth, mut comment) = (Vec::new(), 0, 0_usize, false);
    let bytes = text.as_bytes();
    for (at, byte) in bytes.iter().enumerate() {
        match (byte, comment) {
            (b'*', false) if at > 0 && bytes[at - 1] == b'/' => comment = true,
            (b'/', true) if bytes[at - 1] == b'*' => comment = false,
            (b'{', false) => depth += 1,
            (b'}', false) => {
                depth = depth.saturating_sub(1);
                if depth == 0 && at + 1 - from >= PIECE {
                    pieces.push(&text[from..=at]);
                    from = at + 1;
                }
            }
            _ => {}
        }
    }
    pieces.push(&text[from..]);
    pieces
}

/// The name under which a transform of a style is kept apart from one of an attribute.
pub(super) const CSS_TRANSFORM: &str = "css transform";

/// An element as style sheets see it. A rule may be compared with every element around one, and that
/// for every part of it: what is left of the work is counted down, and nothing fits once it is done.
struct Element<'a, 'n> {
    node: Node<'a>,
    left: &'n Cell<usize>,
}

impl Element<'_, '_> {
    fn compared(&self) -> bool {
        let left = self.left.get().saturating_sub(1);
        self.left.set(left);
        left > 0
    }
}

impl simplecss::Element for Element<'_, '_> {
    fn parent_element(&self) -> Option<Self> {
        let node = self.node.parent_element()?;
        self.compared().then_some(Self { node, ..*self })
    }

    fn prev_sibling_element(&self) -> Option<Self> {
        let node = self.node.prev_sibling_element()?;
        self.compared().then_some(Self { node, ..*self })
    }

    fn has_local_name(&self, name: &str) -> bool {
        self.compared() && self.node.tag_name().name() == name
    }

    fn attribute_matches(&self, local_name: &str, operator: AttributeOperator<'_>) -> bool {
        let value = self.node.attribute(local_name);
        self.compared() && value.is_some_and(|value| operator.matches(value))
    }

    fn pseudo_class_matches(&self, class: PseudoClass<'_>) -> bool {
        matches!(class, PseudoClass::FirstChild) && self.node.prev_sibling_element().is_none()
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_long_sheet_is_cut_between_its_rules() {
        let rule = "a{fill:red} /* } */ @media print{b{fill:blue}}";
        let text = rule.repeat(200);
        let pieces = pieces(&text);
        assert!(pieces.len() > 3 && pieces.concat() == text);
        let level = |c: char| pieces.iter().map(move |p| p.matches(c).count());
        // The comment has one more closing bracket than opening ones.
        let comments = pieces.iter().map(|p| p.matches("/*").count());
        for ((open, close), comments) in level('{').zip(level('}')).zip(comments) {
            assert_eq!(open + comments, close);
        }
    }
}
