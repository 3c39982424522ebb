//! SVG to outlines: transforms, `use`, style sheets, arcs and units resolved, in double precision.
//!
//! ```text
//!   bytes ─text─► XML ─style─► what is seen ─shape─► runs, user units ─place─► Found, mm
//!                          use, symbol, nested svg: walked again at their place
//! ```
//!
//! Nothing outside the file is opened. Arcs stay arcs where their map keeps circles. What draws
//! nothing here is counted by kind. Source: SVG 1.1 (2nd ed.); one px is 1/96 inch (CSS Values 3).

mod page;
mod place;
mod shape;
mod style;
mod usable;

use inky_core::inks::Rgb;
use inky_core::limits;
use inky_core::segment::Segment;
use kurbo::{Affine, Point, Size, Vec2};
use roxmltree::{Document, ParsingOptions};

use self::place::length;
use self::shape::Run;
use self::style::{Inked, Node, Sheets, Stated, Style};
use self::usable::Usable;
use super::{Asked, Filled, Found, PICTURES, Raw, TEXTS, VectorError, VectorFile, finish, text};

const SVG: &str = "http://www.w3.org/2000/svg";
/// Things that were to be seen, but not by what they are painted with.
const INVISIBLE: &str = "invisible shapes";
/// Elements of XML that are read at most.
const ELEMENTS: u32 = 2_000_000;

fn broken(why: impl ToString) -> VectorError {
    VectorError::Broken {
        format: "SVG",
        why: why.to_string(),
    }
}

/// Whether text, or the beginning of one, is an SVG document: its first element is `svg`, with any prefix.
pub(super) fn is_svg(text: &str) -> bool {
    let mut rest = text.trim_start_matches('\u{feff}').trim_start();
    loop {
        let end = if rest.starts_with("<?") {
            "?>"
        } else if rest.starts_with("<!--") {
            "-->"
        } else if rest.starts_with("<!DOCTYPE") {
            // Its inner part, where it has one, holds angle brackets of its own.
            let inner = rest.find('[').filter(|n| rest[..*n].find('>').is_none());
            if inner.is_some() { "]>" } else { ">" }
        } else {
            break;
        };
        match rest.find(end) {
            Some(n) => rest = rest[n + end.len()..].trim_start(),
            None => return false,
        }
    }
    let Some(name) = rest.strip_prefix('<') else {
        return false;
    };
    let name = name.split(|c: char| c.is_whitespace() || c == '>' || c == '/');
    let name = name.clone().next().unwrap_or("");
    name.rsplit(':').next() == Some("svg")
}

pub(super) fn read(bytes: &[u8], asked: &Asked) -> Result<VectorFile, VectorError> {
    let text = text::decoded(bytes);
    let options = ParsingOptions {
        allow_dtd: true,
        nodes_limit: ELEMENTS,
        ..ParsingOptions::default()
    };
    let xml = Document::parse_with_options(&text, options).map_err(broken)?;
    let rules: String = xml
        .descendants()
        .filter(|n| local(*n) == Some("style"))
        .filter_map(|n| n.text())
        .collect::<Vec<_>>()
        .join("\n");
    let mut walk = Walk {
        usable: Usable::of(&xml),
        sheets: Sheets::new(&rules),
        found: Found::new(asked),
    };
    let root = xml.root_element();
    let page = page::Page::of(root, asked);
    let window = Place {
        map: page.map,
        viewport: page.viewport,
        style: Style::default(),
        seen: 1.0,
        depth: 0,
    };
    let stated = walk.sheets.stated(root)?;
    let place = walk.place(&stated, &window);
    walk.children(root, &place)?;
    finish("SVG", walk.found, page.size, page.taken_for)
}

/// The name of an SVG element, whatever its prefix.
fn local<'a>(node: Node<'a>) -> Option<&'a str> {
    let name = node.tag_name();
    let ours = name.namespace().is_none_or(|space| space == SVG);
    (node.is_element() && ours).then_some(name.name())
}

/// Where the elements of a group come to lie, and what they take from it.
#[derive(Clone)]
struct Place {
    /// From user units to mm.
    map: Affine,
    /// What percentages are of, user units.
    viewport: Size,
    style: Style,
    /// How much of the group is seen, 0 to 1.
    seen: f64,
    depth: usize,
}

impl Place {
    /// A length that is stated, or another; `whole` is what a percentage is of.
    fn length(&self, stated: &Stated<'_>, name: &str, whole: f64) -> Option<f64> {
        let font = self.style.font_size;
        stated.get(name).and_then(|v| length(v, whole, font))
    }

    fn x(&self, stated: &Stated<'_>, name: &str) -> f64 {
        self.length(stated, name, self.viewport.width)
            .unwrap_or(0.0)
    }

    fn y(&self, stated: &Stated<'_>, name: &str) -> f64 {
        self.length(stated, name, self.viewport.height)
            .unwrap_or(0.0)
    }

    /// Radii across and down; one that is not stated is as the other.
    fn radii(&self, stated: &Stated<'_>) -> [f64; 2] {
        let rx = self.length(stated, "rx", self.viewport.width);
        let ry = self.length(stated, "ry", self.viewport.height);
        [rx.or(ry), ry.or(rx)].map(|r| r.unwrap_or(0.0))
    }

    /// A radius: a percentage is of the viewport's diagonal over √2.
    fn radius(&self, stated: &Stated<'_>, name: &str) -> Option<f64> {
        let Size { width, height } = self.viewport;
        let diagonal = width.hypot(height) / std::f64::consts::SQRT_2;
        self.length(stated, name, diagonal)
    }
}

struct Walk<'a> {
    usable: Usable<'a>,
    sheets: Sheets<'a>,
    found: Found,
}

impl<'a> Walk<'a> {
    fn children(&mut self, node: Node<'a>, place: &Place) -> Result<(), VectorError> {
        if place.depth > limits::NESTING {
            return Err(VectorError::TooDeep);
        }
        for child in node.children().filter(Node::is_element) {
            self.element(child, place)?;
        }
        Ok(())
    }

    fn element(&mut self, node: Node<'a>, outer: &Place) -> Result<(), VectorError> {
        let Some(name) = local(node) else {
            return Ok(());
        };
        let left_out = match name {
            "text" => TEXTS,
            "image" => PICTURES,
            "foreignObject" => "foreign objects",
            "script" => "scripts",
            "animate" | "animateTransform" | "animateMotion" | "set" => "animations",
            "g" | "a" | "switch" | "svg" | "use" | "path" | "rect" | "circle" | "ellipse"
            | "line" | "polyline" | "polygon" => "",
            // Definitions draw nothing by themselves.
            _ => return Ok(()),
        };
        self.found.step()?;
        let stated = self.sheets.stated(node)?;
        if stated.get("display") == Some(&"none") {
            self.leave_out_all(node, "hidden paths");
            return Ok(());
        }
        if !left_out.is_empty() {
            self.found.leave_out(left_out);
            return Ok(());
        }
        let place = self.place(&stated, outer);
        if place.seen <= 0.0 {
            self.leave_out_all(node, INVISIBLE);
            return Ok(());
        }
        match name {
            "g" | "a" => self.children(node, &place),
            "switch" => match node.children().find(|n| n.is_element() && chosen(*n)) {
                Some(child) => self.element(child, &place),
                None => Ok(()),
            },
            "svg" => self.viewport(node, &stated, place, None),
            "use" => self.used(node, &stated, place),
            _ => {
                let runs = self.runs(name, &stated, &place);
                self.shape(runs, &place)
            }
        }
    }

    /// How an element lies in the group around it.
    fn place(&mut self, stated: &Stated<'_>, outer: &Place) -> Place {
        let style = outer.style.with(stated, &self.usable);
        let (map, read) = place::transform(stated, outer.viewport, style.font_size);
        if !read {
            self.found
                .leave_out("transforms that cannot be read (left away)");
        }
        let kinds = [
            ("clip-path", "clippings"),
            ("mask", "masks"),
            ("filter", "filters"),
        ];
        for (property, kind) in kinds {
            if stated.get(property).is_some_and(|v| *v != "none") {
                self.found.leave_out(kind);
            }
        }
        Place {
            map: outer.map * map,
            viewport: outer.viewport,
            style,
            seen: outer.seen * style::opacity(stated),
            depth: outer.depth + 1,
        }
    }

    /// Counts the shapes of an element that is not seen.
    fn leave_out_all(&mut self, node: Node<'_>, kind: &'static str) {
        let shapes = node.descendants().filter_map(local).filter(|name| {
            matches!(
                *name,
                "path" | "rect" | "circle" | "ellipse" | "line" | "polyline" | "polygon" | "use"
            )
        });
        for _ in shapes {
            self.found.leave_out(kind);
        }
    }

    /// An element that is shown again.
    fn used(
        &mut self,
        node: Node<'a>,
        stated: &Stated<'a>,
        mut place: Place,
    ) -> Result<(), VectorError> {
        let Some(target) = self.usable.target(node) else {
            self.found.leave_out("uses of what is not in the file");
            return Ok(());
        };
        let at = Vec2::new(place.x(stated, "x"), place.y(stated, "y"));
        place.map *= Affine::translate(at);
        match local(target) {
            Some("symbol" | "svg") => {
                let own = self.sheets.stated(target)?;
                let size = [
                    place.length(stated, "width", place.viewport.width),
                    place.length(stated, "height", place.viewport.height),
                ];
                let inner = self.place(&own, &place);
                self.viewport(target, &own, inner, Some(size))
            }
            _ => self.element(target, &place),
        }
    }

    /// A viewport in another: its corner, its size, and the box that is fitted into it.
    fn viewport(
        &mut self,
        node: Node<'a>,
        stated: &Stated<'a>,
        mut place: Place,
        used: Option<[Option<f64>; 2]>,
    ) -> Result<(), VectorError> {
        let Size { width, height } = place.viewport;
        let [w, h] = used.unwrap_or_default();
        let own = Size::new(
            w.or_else(|| place.length(stated, "width", width))
                .unwrap_or(width),
            h.or_else(|| place.length(stated, "height", height))
                .unwrap_or(height),
        );
        if local(node) == Some("svg") {
            let corner = Vec2::new(place.x(stated, "x"), place.y(stated, "y"));
            place.map *= Affine::translate(corner);
        }
        if own.width <= 0.0 || own.height <= 0.0 {
            self.leave_out_all(node, INVISIBLE);
            return Ok(());
        }
        place.viewport = own;
        if let Some(view) = place::view_box(node.attribute("viewBox")) {
            place.map *= place::fitted(view, own, node.attribute("preserveAspectRatio"));
            place.viewport = Size::new(view.w, view.h);
        }
        self.children(node, &place)
    }

    /// What a shape is made of, user units.
    fn runs(&mut self, name: &str, stated: &Stated<'_>, place: &Place) -> Vec<Run> {
        let x = |name| place.x(stated, name);
        let y = |name| place.y(stated, name);
        match name {
            "path" => {
                let (runs, whole) = shape::path(stated.get("d").unwrap_or(&""));
                if !whole {
                    self.found.leave_out("ends of paths that cannot be read");
                }
                runs
            }
            "rect" => {
                let [rx, ry] = place.radii(stated);
                shape::rect([x("x"), y("y"), x("width"), y("height")], rx, ry)
            }
            "circle" => {
                let r = place.radius(stated, "r").unwrap_or(0.0);
                shape::ellipse(Point::new(x("cx"), y("cy")), r, r)
            }
            "ellipse" => {
                let [rx, ry] = place.radii(stated);
                shape::ellipse(Point::new(x("cx"), y("cy")), rx, ry)
            }
            "line" => shape::line(Point::new(x("x1"), y("y1")), Point::new(x("x2"), y("y2"))),
            _ => shape::polyline(stated.get("points").unwrap_or(&""), name == "polygon"),
        }
    }

    /// A shape as it is painted: an outline by its inside, else a line.
    fn shape(&mut self, runs: Vec<Run>, place: &Place) -> Result<(), VectorError> {
        if runs.is_empty() {
            return Ok(());
        }
        if !place.style.visible {
            self.found.leave_out("hidden paths");
            return Ok(());
        }
        if place.style.markers {
            self.found.leave_out("markers");
        }
        let moved = |run: Run| Run {
            segments: run
                .segments
                .iter()
                .flat_map(|s| s.moved(place.map))
                .collect(),
            closed: run.closed,
        };
        let runs: Vec<Run> = runs.into_iter().map(moved).collect();
        let all = runs.iter().flat_map(|r| &r.segments);
        self.found.count(all.clone().count())?;
        if !all.clone().all(within_reach) {
            self.found.leave_out("paths beyond any material");
            return Ok(());
        }
        let width = place.radius(&Stated::from([("w", &*place.style.stroke_width)]), "w");
        let pen = width.unwrap_or(1.0) * place.map.determinant().abs().sqrt();
        let stroke = place.style.strokes(place.seen).filter(|_| pen > 0.0);
        let Some(fill) = place.style.fills(place.seen) else {
            match stroke {
                Some(stroke) => self.lines(runs, stroke, pen, place),
                None => self.found.leave_out(INVISIBLE),
            }
            return Ok(());
        };
        // What has no inside is a line, though it is to be filled.
        let (flat, areas): (Vec<Run>, Vec<Run>) =
            runs.into_iter().partition(|run| is_flat(&run.segments));
        match stroke {
            _ if flat.is_empty() => {}
            Some(stroke) => self.lines(flat, stroke, pen, place),
            None => self.found.leave_out("fills without an area"),
        }
        if areas.is_empty() {
            return Ok(());
        }
        if stroke.is_some() {
            self.found.leave_out("strokes around filled shapes");
        }
        let colour = self.colour(fill);
        self.found.filled.push(Filled {
            colour,
            layer: None,
            nonzero: place.style.nonzero,
            rings: areas.into_iter().map(|run| run.segments).collect(),
        });
        Ok(())
    }

    fn lines(&mut self, runs: Vec<Run>, stroke: Inked, pen: f64, place: &Place) {
        if place.style.dashed {
            self.found.leave_out("dashes (drawn through)");
        }
        let colour = self.colour(stroke);
        let line = |run: Run| Raw {
            colour,
            layer: None,
            pen,
            segments: run.segments,
            closed: run.closed,
        };
        self.found.lines.extend(runs.into_iter().map(line));
    }

    fn colour(&mut self, ink: Inked) -> Rgb {
        match ink {
            Inked::Plain(colour, _) => colour,
            Inked::Mixed(first) => {
                self.found
                    .leave_out("gradients and patterns (drawn in one colour)");
                first
            }
            Inked::None => Rgb([0, 0, 0]),
        }
    }
}

/// Whether a child of a `switch` is the one to show.
fn chosen(node: Node<'_>) -> bool {
    let speaks = node
        .attribute("systemLanguage")
        .is_none_or(|l| l.split(',').any(|l| l.trim().starts_with("en")));
    speaks && !node.has_attribute("requiredExtensions") && local(node).is_some()
}

/// Figures beyond this are no places on any material, mm.
const FAR: f64 = 1e6;

fn points(segment: &Segment) -> [Point; 4] {
    match *segment {
        Segment::Line(l) => [l.p0, l.p0, l.p1, l.p1],
        Segment::Arc(a) => [a.p0, a.eval(1.0 / 3.0), a.eval(2.0 / 3.0), a.p1],
        Segment::Cubic(c) => [c.p0, c.p1, c.p2, c.p3],
    }
}

fn within_reach(segment: &Segment) -> bool {
    let near = |p: &Point| p.x.abs() < FAR && p.y.abs() < FAR;
    points(segment).iter().all(near)
}

/// Narrower than this an area is none, mm.
const NO_AREA: f64 = 1e-6;

/// Whether all of a run lies on one straight line.
fn is_flat(segments: &[Segment]) -> bool {
    let Some(start) = segments.first().map(Segment::start) else {
        return true;
    };
    let all = || segments.iter().flat_map(points);
    let far = all().max_by(|a, b| a.distance(start).total_cmp(&b.distance(start)));
    let way = far.map_or(Vec2::ZERO, |p| p - start);
    let length = way.hypot();
    length < NO_AREA || all().all(|p| (way.cross(p - start) / length).abs() < NO_AREA)
}

#[cfg(test)]
mod tests {
    use super::is_svg;

    #[test]
    fn a_document_is_known_by_its_first_element() {
        let long = format!("<!-- {} -->", "words ".repeat(5000));
        for head in [
            "",
            "<?xml version=\"1.0\"?>\n",
            &long,
            "\u{feff}",
            "<!DOCTYPE svg>",
        ] {
            assert!(is_svg(&format!("{head}<svg/>")), "{}", head.len());
            assert!(is_svg(&format!("{head}<a:svg xmlns:a=\"x\">")));
            assert!(!is_svg(&format!("{head}<html><svg/></html>")));
        }
        let entities = "<!DOCTYPE svg [<!ENTITY a \"<b>\">]>";
        assert!(is_svg(&format!("{entities}<svg>")));
        assert!(!is_svg("<!-- <svg>") && !is_svg("svg") && !is_svg(""));
    }
}
