//! What elements refer to by a name: shapes used again, gradients.

use std::collections::BTreeMap;
use std::str::FromStr;

use inky_core::inks::Rgb;
use roxmltree::Document;
use simplecss::DeclarationTokenizer;
use svgtypes::Color;

use super::style::Node;

/// Gradients that take their colours from another are followed so far.
const FOLLOWED: usize = 16;
const XLINK: &str = "http://www.w3.org/1999/xlink";

/// Elements by their name.
pub(super) struct Usable<'a> {
    named: BTreeMap<&'a str, Node<'a>>,
}

impl<'a> Usable<'a> {
    pub(super) fn of(xml: &'a Document<'a>) -> Self {
        let mut named = BTreeMap::new();
        for node in xml.descendants() {
            if let Some(id) = node.attribute("id") {
                // Of two with one name the first counts.
                named.entry(id).or_insert(node);
            }
        }
        Self { named }
    }

    /// What an element refers to, if it lies in this file.
    pub(super) fn target(&self, node: Node<'a>) -> Option<Node<'a>> {
        let link = node
            .attribute("href")
            .or_else(|| node.attribute((XLINK, "href")))?;
        self.named.get(link.trim().strip_prefix('#')?).copied()
    }

    /// The first colour of a gradient; black of another server of paint, `None` where there is none.
    pub(super) fn first_stop(&self, id: &str) -> Option<Rgb> {
        let mut node = *self.named.get(id)?;
        for _ in 0..FOLLOWED {
            let stop = node.children().find(|n| n.tag_name().name() == "stop");
            if let Some(stop) = stop {
                return Some(stop_colour(stop));
            }
            match self.target(node) {
                Some(next) => node = next,
                None => break,
            }
        }
        Some(Rgb([0, 0, 0]))
    }
}

fn stop_colour(stop: Node<'_>) -> Rgb {
    let own = DeclarationTokenizer::from(stop.attribute("style").unwrap_or(""));
    let own = own.filter(|d| d.name == "stop-color").last();
    let value = own.map(|d| d.value).or(stop.attribute("stop-color"));
    let colour = value.and_then(|v| Color::from_str(v.trim()).ok());
    let colour = colour.unwrap_or(Color::black());
    Rgb([colour.red, colour.green, colour.blue])
}
