"""What a machine would do with the files, held against what the material says.

Feeds, powers and passes of a beam, speed and force of a blade, every engraved row, and the clearance of an
insert; rows and offsets are made anew here by GEOS (shapely) from the outlines of the SVG.
"""

import json
import math

import shapely
from shapely.geometry import LineString, MultiPolygon, Polygon

from machine_readers import gcode, hpgl

CUT = {"speed": 25.0, "least": 62.0, "most": 62.0, "passes": 2}
ENGRAVE = {"speed": 180.0, "least": 8.0, "most": 8.0, "passes": 1}
INTERVAL = 0.5  # mm, from row to row
KNIFE = {"force": 83.0, "speed": 270.0, "passes": 1, "overcut": 0.0, "offset": 0.25}
CLEARANCE = 0.3  # mm, across
NEAR = 0.02  # mm, how far lines may lie apart that are drawn by chords here and there
FULL = 1000

LIMITS = {"stroke": 0.5, "gap": 0.5, "part": 2.0, "hole": 0.5, "corner": 10.0, "nodes": 5.0, "parts": 1000}


def material(name, tool, operation, **more):
    plain = {"from_behind": False, "stencil": False, "overlap": 0.0, "thickness": 3.0, "kerf": 0.0, "price": 0.0}
    return {"name": name, "tool": tool, "operation": operation, "limits": LIMITS, **plain, **more}


def areas_of(lines):
    """Regions inside rings, by the even-odd rule."""
    region = Polygon()
    for line in lines:
        region = region.symmetric_difference(Polygon(line))
    return region


def shapes_of(region):
    return list(region.geoms) if isinstance(region, MultiPolygon) else [region]


def burnt_rows(strokes):
    """What is burnt at each height: the height and the spans from left to right."""
    rows = {}
    for stroke in strokes:
        for (x0, y0), (x1, y1) in zip(stroke, stroke[1:]):
            if abs(y0 - y1) > 1e-9:
                raise ValueError(f"a row that is not level: {y0} to {y1}")
            rows.setdefault(round(y0, 4), []).append((min(x0, x1), max(x0, x1)))
    return {y: sorted(spans) for y, spans in rows.items()}


def engraved(check, strokes, lines, height):
    """Every row of every shape, with its spans, is where GEOS finds it; and there is no other."""
    rows = burnt_rows(strokes)
    wanted = {}
    for shape in shapes_of(areas_of(lines)):
        left, top, right, bottom = shape.bounds
        count = max(1, round((bottom - top) / INTERVAL))
        first = top + (bottom - top - INTERVAL * (count - 1)) / 2
        for n in range(count):
            y = first + n * INTERVAL
            cut = shape.intersection(LineString([(left - 1, y), (right + 1, y)]))
            spans = [g.bounds for g in getattr(cut, "geoms", [cut]) if g.length > 0.05]
            wanted.setdefault(round(height - y, 1), []).extend((s[0], s[2]) for s in spans)
    found = {}
    for y, spans in rows.items():
        found.setdefault(round(y, 1), []).extend(s for s in spans if s[1] - s[0] > 0.05)
    check(len(rows) > 100, f"engraving: {len(rows)} rows")
    missing = [y for y, spans in wanted.items() if spans and y not in found and round(y + 0.1, 1) not in found and round(y - 0.1, 1) not in found]
    check(not missing, f"engraving: no row at {missing[:3]}")
    burnt = sum(b - a for spans in rows.values() for a, b in spans)
    area = areas_of(lines).area
    check(abs(burnt * INTERVAL / area - 1) < 0.01, f"engraving: {burnt} mm at {INTERVAL} mm for {area} mm²")
    region = areas_of(lines)
    for y, spans in rows.items():
        for a, b in spans:
            # The whole span lies inside, and both of its ends on an edge.
            inside = region.buffer(NEAR).contains(LineString([(a, height - y), (b, height - y)]))
            ends = [region.boundary.distance(shapely.Point(x, height - y)) for x in (a, b)]
            check(inside and max(ends) < NEAR, f"engraving: a span from {a} to {b} at {y}")


def machines(check, inky, art, folder, svg_lines):
    laser = {"cut": CUT, "engrave": ENGRAVE, "interval": INTERVAL}
    listed = folder / "materials.json"
    listed.write_text(
        json.dumps(
            [
                material("Board cut", "laser", "cut-through", laser=laser),
                material("Board engraved", "laser", "engrave", laser=laser),
                material("Film", "blade", "kiss-cut", blade=KNIFE),
            ]
        )
    )

    def made(name, kind, *more):
        path = folder / name
        args = ["--width", "120mm", "--materials", listed, "--material", kind, *more]
        inky("trace", art, "-o", path, *args)
        return path

    lines, (_, height) = svg_lines(made("board.svg", "Board cut"))

    text = made("board.gcode", "Board cut", "--full-power", str(FULL)).read_text()
    strokes, powers, feeds = gcode(text)
    check(feeds == {CUT["speed"] * 60}, f"cut: F {feeds}, mm in a minute")
    check(powers == {CUT["most"] / 100 * FULL}, f"cut: S {powers}")
    check(len(strokes) == CUT["passes"] * len(lines), f"cut: {len(strokes)} strokes of {len(lines)} rings")
    outlines = shapely.MultiLineString(lines)
    for stroke in strokes:
        # A lead-in comes from the waste; all else lies on the outlines.
        off = [outlines.distance(shapely.Point(x, height - y)) for x, y in stroke[1:]]
        check(max(off) < NEAR, f"cut: {max(off)} mm off the outlines")

    text = made("engraved.gcode", "Board engraved", "--full-power", str(FULL)).read_text()
    strokes, powers, feeds = gcode(text)
    check(feeds == {ENGRAVE["speed"] * 60}, f"engraving: F {feeds}, mm in a minute")
    check(powers == {ENGRAVE["most"] / 100 * FULL}, f"engraving: S {powers}")
    engraved(check, strokes, lines, height)

    _, told = hpgl(made("film.plt", "Film").read_text())
    # VS is in cm/s, FS in grams (HP-GL/2 reference guide; FS in grams is common practice, no source).
    check(set(told["VS"]) == {KNIFE["speed"] / 10}, f"blade: VS {told['VS']}")
    check(set(told["FS"]) == {KNIFE["force"]}, f"blade: FS {told['FS']}")

    inserts(check, inky, art, folder, svg_lines)


def inserts(check, inky, art, folder, svg_lines):
    """An insert is its hole made smaller by half the clearance on every side."""

    def made(name, layers):
        recipe = folder / f"{name}.json"
        size = {"width": 120.0, "height": 90.0, "locked": True}
        recipe.write_text(json.dumps({"version": 1, "size": size, "layers": {"layers": layers}}))
        path = folder / f"{name}.svg"
        inky("trace", art, "-o", path, "--recipe", recipe)
        return path

    plain, _ = svg_lines(made("as-drawn", []))
    inks = [(30, 110, 102), (176, 48, 48), (30, 30, 70)]
    ink = lambda c: {"ink": "#%02x%02x%02x" % c, "clearance": CLEARANCE}
    smaller, _ = svg_lines(made("inserts", [ink(c) for c in inks]))
    check(len(plain) == len(smaller), f"inserts: {len(smaller)} rings of {len(plain)}")
    wanted = areas_of(plain).buffer(-CLEARANCE / 2, join_style="mitre", mitre_limit=10)
    found = areas_of(smaller)
    # What differs is a hair along the edges: its area over their length is how wide it is.
    wide = wanted.symmetric_difference(found).area / wanted.length
    check(wide < NEAR / 2, f"inserts: {wide} mm off GEOS's own offset")
    check(areas_of(plain).contains(found), "inserts lie in their holes")
    apart = shapely.hausdorff_distance(wanted.boundary.segmentize(0.25), found.boundary.segmentize(0.25))
    check(apart < 0.1 and not math.isnan(apart), f"inserts: {apart} mm apart")
