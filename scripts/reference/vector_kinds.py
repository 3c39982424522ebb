"""Small vector files, one kind of thing each, and what they are: size, length, area, what is left out.

    python3 -m venv v && v/bin/pip install -r scripts/outside/requirements.txt
    v/bin/python scripts/reference/vector_kinds.py

writes crates/formats/tests/kinds/. Where the figures come from, by kind of file:
  dxf   ezdxf: its own reading of the file, blocks exploded, paths flattened, unit by its table
  svg   svgpathtools for curves and arcs, shapely for areas by fill rule, else the formula beside it
  plt   HP-GL/2 and HP RTL Reference Guide, places worked by hand; lengths by the formula beside it
  nc    NIST IR 6556, places worked by hand
Every file is a few hundred bytes: of what ezdxf writes only the sections that matter are kept.
"""
import gzip
import io
import json
import math
import os

import ezdxf
import numpy as np
import svgpathtools
from ezdxf import disassemble, path, units
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import polygonize, unary_union

OUT = "crates/formats/tests/kinds/"
os.makedirs(OUT, exist_ok=True)
for old in os.listdir(OUT):
    if old != "README.md":
        os.remove(OUT + old)
INDEX = []


def keep(name, content, size, length, area, left_out=0, taken_for=None, layers=None):
    data = content if isinstance(content, bytes) else content.encode()
    with open(OUT + name, "wb") as out:
        out.write(data)
    INDEX.append({"file": name, "size_mm": [round(v, 6) for v in size], "length_mm": round(length, 6),
                  "area_mm2": round(area, 6), "left_out": left_out, "taken_for": taken_for, "layers": layers or []})


# ---- SVG -------------------------------------------------------------------------------------

def svg(body, root='width="100mm" height="60mm" viewBox="0 0 100 60"', ns='xmlns="http://www.w3.org/2000/svg"'):
    return f'<svg {ns} xmlns:xlink="http://www.w3.org/1999/xlink" {root}>{body}</svg>'


def along(d, scale=1.0):
    return svgpathtools.parse_path(d).length(error=1e-10) * scale


def ring(d, n=4000):
    p = svgpathtools.parse_path(d)
    pts = []
    for s in p:
        k = 1 if isinstance(s, svgpathtools.Line) else n
        pts += [s.point(i / k) for i in range(k)]
    return Polygon([(z.real, z.imag) for z in pts])


def around(rect_w, rect_h):
    return 2 * (rect_w + rect_h), rect_w * rect_h


page = [100, 60]
l, a = around(30, 20)
keep("svg-rect.svg", svg('<rect x="10" y="10" width="30" height="20"/>'), page, l, a)
keep("svg-open-subpaths.svg", svg('<path d="M10 10H40V30H10M50 10H80V30H50"/>'), page, 2 * l, 2 * a)
keep("svg-line-default-fill.svg", svg('<line x1="10" y1="10" x2="80" y2="50" stroke="#000"/>'), page, math.hypot(70, 40), 0)
keep("svg-flat-path-stroked.svg", svg('<path d="M10 10L80 50" stroke="#000"/>'), page, math.hypot(70, 40), 0)
keep("svg-open-line-no-fill.svg", svg('<path d="M10 10H40V30" fill="none" stroke="#000"/>'), page, 50, 0)
star = "M50 5L64.7 50.2L26.2 22.3L73.8 22.3L35.3 50.2Z"
corners = [(50, 5), (64.7, 50.2), (26.2, 22.3), (73.8, 22.3), (35.3, 50.2)]
# Nonzero: everything it runs around. Even-odd: the five points without the middle.
sides = unary_union([LineString([corners[i], corners[(i + 1) % 5]]) for i in range(5)])
faces = list(polygonize(sides))
middle = next(f for f in faces if all(f.distance(Point(c)) > 1 for c in corners))
points = [f for f in faces if f is not middle]
filled = unary_union(faces)
keep("svg-star-nonzero.svg", svg(f'<path d="{star}"/>'), page, filled.exterior.length, filled.area)
keep("svg-star-evenodd.svg", svg(f'<path fill-rule="evenodd" d="{star}"/>'), page,
     sum(p.exterior.length for p in points), sum(p.area for p in points))
slides = "M14 14V4.5L9.5 0H4a2 2 0 0 0-2 2v12a2 2 0 0 0 2 2h8a2 2 0 0 0 2-2{} M9.5 3A1.5 1.5 0 0 0 11 4.5h2V14a1 1 0 0 1-1 1H4a1 1 0 0 1-1-1V2a1 1 0 0 1 1-1h5.5z"
outer, inner = slides.format("z").split(" M")
for name, z, root, mm in [("16px", "", 'width="16" height="16" viewBox="0 0 16 16"', 25.4 / 96),
                          ("16px-z", "z", 'width="16" height="16" viewBox="0 0 16 16"', 25.4 / 96),
                          ("160mm", "", 'width="160mm" height="160mm" viewBox="0 0 16 16"', 10)]:
    o, i = outer, "M" + inner
    keep(f"svg-hole-{name}.svg", svg(f'<path d="{slides.format(z)}"/>', root), [16 * mm] * 2,
         (along(o) + along(i)) * mm, (ring(o).area - ring(i).area) * mm * mm)
keep("svg-island-in-hole.svg", svg('<path fill-rule="evenodd" d="M10 10H60V55H10ZM15 15H55V50H15Z"/><path d="M20 20H50V45H20Z"/>'),
     page, 2 * (50 + 45) + 2 * (40 + 35) + 2 * (30 + 25), 50 * 45 - 40 * 35 + 30 * 25)
keep("svg-invisible.svg", svg('<rect x="10" y="10" width="20" height="20" fill-opacity="0"/><rect width="20" height="20" fill="transparent"/>'
                              '<rect width="20" height="20" opacity="0"/><g display="none"><rect width="5" height="5"/></g>'
                              '<rect visibility="hidden" width="5" height="5"/><rect x="60" y="10" width="30" height="20"/>'), page, l, a, 5)
for r in [0.5, 20, 200, 2000]:
    keep(f"svg-circle-{r}.svg", svg(f'<circle cx="{r}" cy="{r}" r="{r}"/>', f'width="{2 * r}mm" height="{2 * r}mm" viewBox="0 0 {2 * r} {2 * r}"'),
         [2 * r] * 2, 2 * math.pi * r, math.pi * r * r)
    # Two half turns, as files have them.
    keep(f"svg-half-turns-{r}.svg", svg(f'<path d="M0 {r}A{r} {r} 0 1 1 {2 * r} {r}A{r} {r} 0 1 1 0 {r}Z"/>', f'width="{2 * r}mm" height="{2 * r}mm" viewBox="0 0 {2 * r} {2 * r}"'),
         [2 * r] * 2, 2 * math.pi * r, math.pi * r * r)
d = "M10 45A12 6 20 0 1 40 50"
keep("svg-elliptic-arc.svg", svg(f'<path d="{d}" fill="none" stroke="#00f"/>'), page, along(d), 0)
d = "M10 10C20 0 30 20 40 10S60 30 40 35Q60 60 70 45T90 45"
keep("svg-curves.svg", svg(f'<path d="{d}" fill="none" stroke="#00f"/>'), page, along(d), 0)
keep("svg-rounded-rect.svg", svg('<rect x="5" y="5" width="40" height="30" rx="5"/>'), page, 2 * (30 + 20) + 2 * math.pi * 5, 1200 - (4 - math.pi) * 25)
keep("svg-css-transform.svg", svg('<rect x="10" y="10" width="30" height="20" style="transform:translate(10px,5px) rotate(20deg)"/>'), page, l, a)
keep("svg-transform-origin.svg", svg('<rect x="10" y="10" width="30" height="20" transform="scale(.5)" transform-origin="10 10"/>'), page, l / 2, a / 4)
keep("svg-transforms.svg", svg('<g transform="translate(5 5) scale(2)"><g transform="rotate(30 5 5) skewX(20)"><rect width="10" height="5"/></g></g>'),
     page, 2 * (20 + 10 / math.cos(math.radians(20))), 200)
keep("svg-style-sheet.svg", svg('<style>.a{fill:none} #b{fill:red} g rect.a{fill:blue} rect{stroke:none}</style>'
                                '<g><rect class="a" width="30" height="20"/></g><rect class="a" width="3" height="3"/><rect id="b" y="30" width="30" height="20"/>'),
     page, 2 * l, 2 * a, 1)
keep("svg-important.svg", svg('<style>rect{fill:none !important}</style><rect width="3" height="3" style="fill:red"/><circle cx="50" cy="30" r="10" style="fill:red"/>'),
     page, 20 * math.pi, 100 * math.pi, 1)
keep("svg-use.svg", svg('<defs><rect id="r" width="30" height="20"/></defs><use href="#r" x="5" y="5"/><use xlink:href="#r" x="50" transform="scale(.5)"/>'), page, 1.5 * l, 1.25 * a)
keep("svg-symbol.svg", svg('<symbol id="s" viewBox="0 0 10 10"><rect width="4" height="4"/><text y="9">Hi</text><image width="2" height="2"/></symbol><use href="#s" x="10" y="10" width="30" height="30"/>'),
     page, 48, 144, 2)
keep("svg-nested.svg", svg('<svg x="10" y="10" width="50%" height="50%" viewBox="0 0 10 10"><rect width="10" height="10"/></svg>'), page, 4 * 30, 900)
keep("svg-unit-q.svg", svg('<rect x="10" y="10" width="30" height="20"/>', 'width="400Q" height="240Q" viewBox="0 0 100 60"'), page, l, a)
for unit, mm in [("px", 25.4 / 96), ("pt", 25.4 / 72), ("pc", 25.4 / 6), ("cm", 10), ("in", 25.4)]:
    keep(f"svg-unit-{unit}.svg", svg('<rect width="3" height="2"/>', f'width="10{unit}" height="6{unit}" viewBox="0 0 10 6"'), [10 * mm, 6 * mm], 10 * mm, 6 * mm * mm)
keep("svg-no-size.svg", svg('<rect width="30" height="20"/>', 'viewBox="0 0 100 60"'), [v * 25.4 / 96 for v in page], l * 25.4 / 96, a * (25.4 / 96) ** 2, 0, "px")
keep("svg-percent-size.svg", svg('<rect width="30" height="20"/>', 'width="100%" height="100%" viewBox="0 0 100 60"'), [v * 25.4 / 96 for v in page], l * 25.4 / 96, a * (25.4 / 96) ** 2, 0, "px")
keep("svg-far-view-box.svg", svg('<rect x="5000010.3" y="6000010.7" width="30.25" height="20.25"/><circle cx="5000070" cy="6000030" r="15"/>',
                                 'width="100mm" height="60mm" viewBox="5000000 6000000 100 60"'), page, 101 + 30 * math.pi, 30.25 * 20.25 + 225 * math.pi)
keep("svg-stretched.svg", svg('<circle cx="50" cy="50" r="50"/>', 'width="200mm" height="100mm" viewBox="0 0 100 100" preserveAspectRatio="none"'),
     [200, 100], along("M0 50A100 50 0 0 1 200 50A100 50 0 0 1 0 50Z"), math.pi * 100 * 50)
keep("svg-prefixed.svg", '<n:svg xmlns:n="http://www.w3.org/2000/svg" width="100mm" height="60mm" viewBox="0 0 100 60"><n:rect width="30" height="20"/></n:svg>', page, l, a)
keep("svg-no-namespace.svg", '<svg width="100mm" height="60mm" viewBox="0 0 100 60"><rect width="30" height="20"/></svg>', page, l, a)
plain = svg('<rect id="é" width="30" height="20"/>')
keep("svg-long-comment.svg", "<?xml version='1.0'?>\n<!-- " + "licence text " * 600 + "-->\n" + plain, page, l, a)
keep("svg-utf16le.svg", plain.encode("utf-16-le"), page, l, a)
keep("svg-utf16be-mark.svg", b"\xfe\xff" + plain.encode("utf-16-be"), page, l, a)
keep("svg-latin1.svg", b"<?xml version='1.0' encoding='ISO-8859-1'?>" + plain.encode("latin-1"), page, l, a)
packed = io.BytesIO()
with gzip.GzipFile(fileobj=packed, mode="wb", mtime=0, filename="") as z:
    z.write(plain.encode())
keep("svg-packed.svgz", packed.getvalue(), page, l, a)
keep("svg-marker.svg", svg('<marker id="m"><path d="M0 0L4 2L0 4Z"/></marker><path d="M10 30H80" stroke="#000" fill="none" marker-end="url(#m)"/>'), page, 70, 0, 1)
keep("svg-root-transform.svg", svg('<rect width="30" height="20"/>', 'width="100mm" height="60mm" viewBox="0 0 100 60" transform="scale(.5)"'), page, l / 2, a / 4)
keep("svg-switch.svg", svg('<switch><rect systemLanguage="de" width="5" height="5"/><rect width="30" height="20"/></switch>'), page, l, a)
keep("svg-current-colour.svg", svg('<g color="#0f0"><rect fill="currentColor" width="30" height="20"/></g>'), page, l, a)

# ---- DXF -------------------------------------------------------------------------------------

SECTIONS = {"HEADER", "TABLES", "BLOCKS", "ENTITIES"}


def reduced(text, entities_only=False):
    """Only the variables, tables and blocks that matter: a few hundred bytes of what was written."""
    raw = text.split("\n")
    pairs = [(raw[i].strip(), raw[i + 1]) for i in range(0, len(raw) - 1, 2)]
    out, i = [], 0
    while i < len(pairs):
        if pairs[i] != ("0", "SECTION"):
            i += 1
            continue
        end = next(j for j in range(i, len(pairs)) if pairs[j] == ("0", "ENDSEC"))
        name, body = pairs[i + 1][1], pairs[i + 2:end]
        i = end + 1
        if name not in SECTIONS:
            continue
        starts = [j for j, p in enumerate(body) if p[0] in ("9" if name == "HEADER" else "0",)]
        chunks = [body[s:e] for s, e in zip(starts, starts[1:] + [len(body)])]
        if name == "HEADER":
            chunks = [c for c in chunks if c[0][1] in ("$ACADVER", "$INSUNITS", "$MEASUREMENT", "$DWGCODEPAGE")]
        elif name == "TABLES":
            chunks = [c for c in chunks if c[0][1] == "LAYER"]
        elif name == "BLOCKS":
            kept, skip = [], False
            for c in chunks:
                if c[0][1] == "BLOCK":
                    skip = next(v for k, v in c if k == "2")[:1] in "*_"
                if not skip:
                    kept.append(c)
            chunks = kept
        if chunks:
            out += [("0", "SECTION"), ("2", name)] + [p for c in chunks for p in c] + [("0", "ENDSEC")]
    out.append(("0", "EOF"))
    # Handles, owners and class marks tell nothing that is read.
    out = [p for p in out if p[0] not in ("5", "330", "100", "105", "102", "360", "390", "347", "348")]
    return "".join(f"{k}\n{v}\n" for k, v in out)


def outlines(e):
    """Points along an entity. Its path module draws arcs as cubics, so arcs are stepped by their own."""
    kind = e.dxftype()
    if kind in ("CIRCLE", "ARC", "ELLIPSE"):
        return [[(v.x, v.y) for v in e.flattening(1e-7)]]
    if kind in ("LWPOLYLINE", "POLYLINE") and not (kind == "POLYLINE" and e.is_3d_polyline):
        pts = []
        for part in e.virtual_entities():
            ends = [(v.x, v.y) for v in (part.flattening(1e-7) if part.dxftype() == "ARC" else (part.dxf.start, part.dxf.end))]
            if pts and math.dist(pts[-1], ends[-1]) < math.dist(pts[-1], ends[0]):
                ends.reverse()
            elif not pts and len(ends) > 2 and abs(e[0][-1] if kind == "LWPOLYLINE" else 0) and e[0][-1] < 0:
                ends.reverse()
            pts += ends
        return [pts]
    found = path.from_hatch(e) if kind == "HATCH" else [path.make_path(e)]
    closed = kind in ("SOLID", "TRACE")
    rings = [[(v.x, v.y) for v in p.flattening(1e-6, segments=400)] for p in found]
    return [r + [r[0]] if closed else r for r in rings]


def measured(doc, mm=1.0):
    """Length, area of closed paths (those in another taken out), and the box, by ezdxf."""
    length, polygons, boxes = 0.0, [], []
    for e in disassemble.recursive_decompose(doc.modelspace()):
        if e.dxftype() in ("TEXT", "MTEXT", "ATTRIB", "POINT", "ATTDEF", "INSERT"):
            continue
        layer = doc.layers.get(e.dxf.layer) if e.dxf.layer in doc.layers else None
        if layer is not None and (layer.is_off() or layer.is_frozen()):
            continue
        for pts in outlines(e):
            length += sum(math.dist(s, t) for s, t in zip(pts, pts[1:]))
            boxes += pts
            if math.dist(pts[0], pts[-1]) < 1e-6 and len(pts) > 3:
                polygons.append(Polygon(pts))
    area = 0.0
    for poly in polygons:
        inside = sum(1 for other in polygons if other is not poly and other.contains(poly))
        area += poly.area if inside % 2 == 0 else -poly.area
    xs, ys = [p[0] for p in boxes], [p[1] for p in boxes]
    return [(max(xs) - min(xs)) * mm, (max(ys) - min(ys)) * mm], length * mm, area * mm * mm


def dxf(name, draw, version="R2000", left_out=0, unit=4, taken_for=None, layers=None, mm=1.0, whole=False, metric=1, joined=0.0):
    doc = ezdxf.new(version)
    doc.header["$INSUNITS"] = unit
    doc.header["$MEASUREMENT"] = metric
    draw(doc, doc.modelspace())
    size, length, area = measured(doc, mm)
    area += joined  # lines that meet become an outline
    stream = io.StringIO()
    doc.write(stream)
    text = stream.getvalue().replace("\r\n", "\n")
    keep(f"dxf-{name}.dxf", text if whole else reduced(text), size, length, area, left_out, taken_for, layers)


def square(msp, x=0, y=0, s=10, **attribs):
    msp.add_lwpolyline([(x, y), (x + s, y), (x + s, y + s), (x, y + s)], close=True, dxfattribs=attribs)


def unit_drawing(doc, msp):
    square(msp)
    msp.add_circle((20, 5), 5)


# Units whose drawing is still a material: of the others those beyond any are refused.
for code, mm in [(0, 1.0), (1, 25.4), (2, 304.8), (4, 1.0), (5, 10.0), (6, 1000.0), (9, 0.0254), (10, 914.4), (13, 1e-3),
                 (14, 100.0), (15, 1e4), (21, 1200000 / 3937), (22, 100000 / 3937), (23, 3600000 / 3937)]:
    try:
        table = units.conversion_factor(code, 4)
        assert abs(table / mm - 1) < 1e-6, (code, table)
    except TypeError:
        pass  # ezdxf converts the common ones; the others by their definition
    dxf(f"unit-{code}", unit_drawing, "R2010", unit=code, mm=mm, taken_for=None if code else "mm")
dxf("unit-0-imperial", unit_drawing, "R2010", unit=0, metric=0, mm=25.4, taken_for="in")
for version in ["R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018"]:
    def drawing(doc, msp, version=version):
        msp.add_line((0, 0), (30, 0))
        msp.add_line((30, 0), (30, 20))
        msp.add_line((0, 0), (30, 20))
        msp.add_circle((50, 10), 8)
        msp.add_arc((80, 10), 5, 30, 300)
        msp.add_polyline2d([(0, 40, 0), (20, 40, 0.5), (20, 60, 0)], format="xyb", close=True)
    dxf(f"version-{version}", drawing, version, taken_for="mm" if version == "R12" else None, joined=300)
for version in ["R12", "R2000"]:
    doc = ezdxf.new(version)
    doc.header["$INSUNITS"] = 4
    unit_drawing(doc, doc.modelspace()) if version != "R12" else (doc.modelspace().add_circle((20, 5), 5), doc.modelspace().add_line((0, 0), (9, 3)))
    size, length, area = measured(doc)
    stream = io.BytesIO()
    doc.write(stream, fmt="bin")
    # R12 knows no units.
    keep(f"dxf-binary-{version}.dxf", stream.getvalue(), size, length, area, taken_for="mm" if version == "R12" else None)


def paper(doc, msp):
    square(msp)
    doc.layout("Layout1").add_circle((100, 100), 50)
    doc.layout("Layout1").add_viewport((5, 5), (10, 10), (5, 5), 10)


dxf("paper-space", paper, left_out=1)


def from_below(doc, msp):
    block = doc.blocks.new("A")
    for p, q in [((0, 0), (20, 0)), ((20, 0), (20, 8)), ((20, 8), (0, 0))]:
        block.add_line(p, q)
    msp.add_blockref("A", (10, 10))
    msp.add_blockref("A", (-60, 10), dxfattribs={"extrusion": (0, 0, -1)})
    msp.add_arc((5, 40), 8, 20, 150, dxfattribs={"extrusion": (0, 0, -1)})
    msp.add_lwpolyline([(0, 60, .5), (30, 60, 0), (30, 70, -.3)], format="xyb", close=True, dxfattribs={"extrusion": (0, 0, -1)})


dxf("extrusion-below", from_below, joined=160)


def tilted(doc, msp):
    n = (0, -math.sin(math.radians(40)), math.cos(math.radians(40)))
    msp.add_circle((10, 10, 5), 8, dxfattribs={"extrusion": n})
    msp.add_arc((40, 10, 2), 8, 10, 200, dxfattribs={"extrusion": (0.3, 0.2, 0.9)})
    msp.add_ellipse((80, 10), (10, 0), 0.5, 0, 2, dxfattribs={"extrusion": (0, 0, -1)})


dxf("extrusion-tilted", tilted)
fit = [(0, 0), (20, 30), (50, 10), (70, 40), (100, 20)]
dxf("spline-fit", lambda doc, msp: msp.add_spline(fit))
dxf("spline-control", lambda doc, msp: msp.add_open_spline(fit))
dxf("spline-quadratic", lambda doc, msp: msp.add_open_spline(fit, degree=2))
dxf("spline-quartic", lambda doc, msp: msp.add_open_spline(fit, degree=4))
dxf("spline-rational", lambda doc, msp: msp.add_rational_spline(fit, weights=[1, 3, 1, .5, 1], degree=3))


def layers(doc, msp):
    doc.layers.add("CUT", color=1)
    doc.layers.add("ENGRAVE", color=1)
    square(msp, layer="CUT", s=30)
    msp.add_circle((15, 15), 8, dxfattribs={"layer": "ENGRAVE"})
    msp.add_line((0, -10), (30, -10), dxfattribs={"layer": "CUT"})
    msp.add_line((30, -10), (60, -20), dxfattribs={"layer": "ENGRAVE"})


doc = ezdxf.new("R2000")
doc.header["$INSUNITS"] = 4
layers(doc, doc.modelspace())
size, length, _ = measured(doc)
stream = io.StringIO()
doc.write(stream)
# On layers of their own the circle is no hole.
keep("dxf-layers-one-colour.dxf", reduced(stream.getvalue().replace("\r\n", "\n")), size, length, 900 + 64 * math.pi, layers=["CUT", "ENGRAVE"])


def layer_0(doc, msp):
    doc.layers.add("red", color=1)
    doc.layers.add("blue", color=5)
    square(doc.blocks.new("A"))
    msp.add_blockref("A", (0, 0), dxfattribs={"layer": "red"})
    msp.add_blockref("A", (20, 0), dxfattribs={"layer": "blue"})


dxf("block-layer-0", layer_0, layers=["red", "blue"])


def case(doc, msp):
    doc.layers.add("Cut", color=3)
    doc.layers.add("Off", color=3).off()
    square(doc.blocks.new("Blk"))
    msp.add_blockref("BLK", (0, 0))
    square(msp, 20, 0, layer="cut")
    square(msp, 40, 0, layer="OFF")


dxf("names-any-case", case, left_out=1)


def attributes(doc, msp):
    block = doc.blocks.new("A")
    square(block)
    block.add_attdef("T", (0, 0))
    msp.add_blockref("A", (0, 0)).add_attrib("T", "words", (2, 2))


dxf("attributes", attributes, left_out=1)
dxf("width-closed", lambda doc, msp: msp.add_lwpolyline([(0, 0, 1), (10, 0, 1)], format="xyb", close=True, dxfattribs={"const_width": 2}), left_out=1)
dxf("polyline-3d", lambda doc, msp: msp.add_polyline3d([(0, 0, 3), (20, 0, 3), (20, 10, 3)]))
dxf("polyline-3d-rising", lambda doc, msp: msp.add_polyline3d([(0, 0, 0), (20, 0, 5), (20, 10, 9)]), left_out=1)


def nested(doc, msp):
    a, b, c = doc.blocks.new("A"), doc.blocks.new("B"), doc.blocks.new("C")
    square(a)
    a.add_arc((15, 5), 4, 20, 290)
    b.add_blockref("A", (0, 0))
    b.add_blockref("A", (30, 0), dxfattribs={"yscale": -1, "rotation": 45})
    c.add_blockref("B", (0, 0), dxfattribs={"xscale": 2, "yscale": 0.5, "rotation": 10})
    msp.add_blockref("C", (5, 5), dxfattribs={"xscale": -1, "rotation": -30})


doc = ezdxf.new("R2000")
doc.header["$INSUNITS"] = 4
nested(doc, doc.modelspace())
stream = io.StringIO()
doc.write(stream)


def turned(t):
    t = math.radians(t)
    return np.array([[math.cos(t), -math.sin(t), 0], [math.sin(t), math.cos(t), 0], [0, 0, 1]])


def shifted(x, y):
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])


# By the maps that INSERT is defined by: ezdxf cannot keep a square that is sheared as one entity.
outer = shifted(5, 5) @ turned(-30) @ np.diag([-1, 1, 1]) @ turned(10) @ np.diag([2, 0.5, 1])
length, seen = 0.0, []
for m in (outer, outer @ shifted(30, 0) @ turned(45) @ np.diag([1, -1, 1])):
    for pts in ([(0, 0), (10, 0), (10, 10), (0, 10), (0, 0)],
                [(15 + 4 * math.cos(math.radians(t)), 5 + 4 * math.sin(math.radians(t))) for t in np.linspace(20, 290, 40001)]):
        moved = [tuple((m @ np.array([x, y, 1]))[:2]) for x, y in pts]
        length += sum(math.dist(p, q) for p, q in zip(moved, moved[1:]))
        seen += moved
seen = np.array(seen)
keep("dxf-insert-nested.dxf", reduced(stream.getvalue().replace("\r\n", "\n")), list(seen.max(0) - seen.min(0)), length, 200)


def rows(doc, msp):
    square(doc.blocks.new("A", base_point=(5, 5)), 5, 5, 4)
    msp.add_blockref("A", (0, 0), dxfattribs={"column_count": 4, "row_count": 3, "column_spacing": 9, "row_spacing": 8, "rotation": 15})


doc = ezdxf.new("R2000")
doc.header["$INSUNITS"] = 4
rows(doc, doc.modelspace())
stream = io.StringIO()
doc.write(stream)
c, s = math.cos(math.radians(15)), math.sin(math.radians(15))
keep("dxf-insert-rows.dxf", reduced(stream.getvalue().replace("\r\n", "\n")), [31 * c + 20 * s, 31 * s + 20 * c], 12 * 16, 12 * 16)


def hatched(doc, msp):
    hatch = msp.add_hatch(color=2)
    hatch.paths.add_polyline_path([(0, 0), (30, 0, 0.3), (30, 20), (0, 20)], is_closed=True)
    hatch.paths.add_polyline_path([(5, 5), (15, 5), (15, 15), (5, 15)], is_closed=True, flags=16)
    edges = msp.add_hatch(color=3).paths.add_edge_path()
    edges.add_arc((60, 10), 8, 0, 180)
    edges.add_line((52, 10), (68, 10))


dxf("hatch", hatched)
dxf("solid", lambda doc, msp: msp.add_solid([(0, 0), (10, 0), (2, 8), (12, 8)]))
dxf("ellipses", lambda doc, msp: (msp.add_ellipse((10, 8), (8, 4), 0.4), msp.add_ellipse((50, 8), (200, 0), 0.5, math.pi / 4, 3 * math.pi / 2)))

# ---- HP-GL/2 ---------------------------------------------------------------------------------

keep("plt-rotated.plt", "IN;RO90;SP1;PU0,0;PD4000,0,4000,2000,0,2000,0,0;PU;", [50, 100], 300, 5000)
keep("plt-lower-case.plt", "in;sp1;pu0,0;pd4000,0,4000,2000,0,2000,0,0;pu;", [100, 50], 300, 5000)
# A half circle through (50, 100) mm.
keep("plt-arc-three-points.plt", "IN;SP1;PU4000,2000;PD;AT2000,4000,0,2000;PD4000,2000;PU;", [100, 50], 100 + 50 * math.pi, math.pi * 1250)
keep("plt-arc-three-relative.plt", "IN;SP1;PU4000,2000;PD;RT-2000,2000,-4000,0;PD4000,2000;PU;", [100, 50], 100 + 50 * math.pi, math.pi * 1250)
bz = "M0 0C0 50 100 50 100 0"
keep("plt-bezier.plt", "IN;SP1;PU0,0;PD;BZ0,2000,4000,2000,4000,0;PD0,0;PU;", [100, 37.5], along(bz) + 100, ring(bz + "Z").area)
keep("plt-bezier-relative.plt", "IN;SP1;PU400,400;PD;BR0,2000,4000,2000,4000,0;PD400,400;PU;", [100, 37.5], along(bz) + 100, ring(bz + "Z").area)
keep("plt-label-end.plt", "IN;DT*;SP1;PU0,0;LBhello*;PD4000,0,4000,2000,0,0;PU;", [100, 50], 150 + math.hypot(100, 50), 2500, 1)
keep("plt-arcs.plt", "IN;SP1;PU4000,0;PD;AA0,0,90;PU;PU8000,0;PD;AR-2000,0,-180;PU;", [200, 150], 50 * math.pi + 50 * math.pi, 0)
keep("plt-circle.plt", "IN;SP2;PU2000,2000;CI800;", [40, 40], 40 * math.pi, 400 * math.pi)
keep("plt-rectangles.plt", "IN;SP1;PU0,0;EA2000,1000;PU4000,0;ER2000,1000;PU0,2000;RA2000,3000;PU4000,2000;RR2000,1000;", [150, 75], 4 * 150, 4 * 1250)
# A quarter of a disc of 25 mm.
keep("plt-wedge.plt", "IN;SP1;PU2000,2000;EW1000,0,90;", [25, 25], 50 + 12.5 * math.pi, 625 * math.pi / 4)
keep("plt-polygon.plt", "IN;SP1;PU0,0;PM0;PD4000,0,4000,2000,0,2000;PM1;PU1000,500;PD2000,500,2000,1000,1000,1000;PM2;FP;", [100, 50], 300 + 75, 5000 - 312.5)
keep("plt-scaled.plt", "IN;IP0,0,4000,2000;SC0,10,0,10;SP1;PU0,0;PD5,0,5,5,0,5,0,0;PU;", [50, 25], 150, 1250)
keep("plt-window.plt", "IN;IW0,0,100,100;SP1;PU0,0;PD4000,0;PU;", [100, 0], 100, 0, 1)


def packed_lines(moves, seven):
    bits, last = (5, 95) if seven else (6, 191)
    out = "7" if seven else ""
    for up, x, y in moves:
        out += "<" if up else ""
        for v in (x, y):
            n = 2 * abs(v) + (v < 0)
            while True:
                digit = n % (1 << bits)
                n >>= bits
                out += chr(digit + (last if n == 0 else 63))
                if n == 0:
                    break
    return out


for name, seven in [("8-bit", False), ("7-bit", True)]:
    moves = [(True, 400, 400), (False, 4000, 0), (False, 0, 2000), (False, -4000, 0), (False, 0, -2000)]
    keep(f"plt-packed-{name}.plt", f"IN;SP1;PU0,0;PE{packed_lines(moves, seven)};PU;".encode("latin-1"), [100, 50], 300, 5000)

# ---- RS-274 ----------------------------------------------------------------------------------

box = "G1 X100\nY50\nX0\nY0\n"
start = "G0 Z5\nG0 X0 Y0\nG1 Z-1 F100\n"
keep("nc-remarks.nc", "G21 G90\n" + start + "G1 X100 (side 1)\nY50 (side 2)\nX0 (side 3)\nY0 (side 4)\nG0 Z5\nM2\n", [100, 50], 300, 5000)
keep("nc-m30.nc", "%\nG21 G90 G17\n" + start + box + "G0 Z5\nM30\n%\n", [100, 50], 300, 5000)
keep("nc-spindle.nc", "G21 G90 G17\nS12000 M3\n" + start + box + "G1 Z5\nG1 X200 Y200 F3000\nM5\nM30\n", [100, 50], 300, 5000)
keep("nc-program-number.nc", "%\nO0001 (PART)\nG21 G90\n" + start + box + "G0 Z5\nM2\n%\n", [100, 50], 300, 5000, )
keep("nc-full-circle.nc", "G21 G90\nG0 Z5\nG0 X100 Y50\nG1 Z-1 F100\nG2 X100 Y50 I-50 J0\nG0 Z5\nM2\n", [100, 100], 100 * math.pi, 2500 * math.pi)
keep("nc-full-circle-no-end.nc", "G21 G90\nG0 Z5\nG0 X100 Y50\nG1 Z-1 F100\nG3 I-50\nG0 Z5\nM2\n", [100, 100], 100 * math.pi, 2500 * math.pi)
keep("nc-absolute-centres.nc", "G21 G90 G90.1\nG0 Z5\nG0 X100 Y50\nG1 Z-1 F100\nG3 X0 Y50 I50 J50\nG3 X100 Y50 I50 J50\nG0 Z5\nM2\n", [100, 100], 100 * math.pi, 2500 * math.pi)
keep("nc-radius.nc", "G21 G90\nG0 Z5\nG0 X0 Y0\nG1 Z-1 F100\nG2 X50 Y0 R25\nG3 X100 Y0 R-25\nG0 Z5\nM2\n", [100, 50], 50 * math.pi, 0)
keep("nc-drilled.nc", "G21 G90\n" + start + "X50\nY50\nX0 Y0\nG0 Z5\nG81 X10 Y10 Z-3 R2 F50\nX20 Y10\nG80\nM2\n", [50, 50], 100 + math.hypot(50, 50), 1250, 2)
keep("nc-offset.nc", "G21 G90\nG92 X10 Y10\nG0 Z5\nG0 X10 Y10\nG1 Z-1 F100\nG1 X110\nY60\nX10\nY10\nG0 Z5\nG92 X500 Y500\nG0 X520 Y505\nG1 Z-1\nX540\nY515\nX520 Y505\nG0 Z5\nM2\n",
     [100, 50], 300 + 30 + math.hypot(20, 10), 4900)
keep("nc-inch.nc", "G20 G90\n" + start + "G1 X4\nY2\nX0\nY0\nG0 Z5\nM2\n", [101.6, 50.8], 12 * 25.4, 8 * 25.4 ** 2)
keep("nc-relative.nc", "G21 G91\nG0 Z5\nG1 Z-6 F100\nX100\nY50\nX-100\nY-50\nG0 Z6\nM2\n", [100, 50], 300, 5000)
keep("nc-no-unit.nc", "G90\n" + start + box + "G0 Z5\nM2\n", [100, 50], 300, 5000, 0, "mm")
keep("nc-ramp.nc", "G21 G90\nG0 Z1\nG0 X0 Y0\nG1 X20 Y0 Z-1 F100\nX60\nG0 Z5\nM2\n", [50, 0], 50, 0)
keep("nc-beam.nc", "G21 G90\nM4 S0\nG0 X0 Y0\nG1 X10 S0 F600\nG1 X60 S500\nG1 X70 S0\nM5\nM2\n", [50, 0], 50, 0)
keep("nc-spaced.nc", "g21 g90\ng0 z5\ng0x0y0\ng1 z - 1 f100\nN40 g1 x 1 0 0\ny5 0\nx0\ny0\ng0z5\nm2\n", [100, 50], 300, 5000)

with open(OUT + "index.json", "w") as out:
    json.dump(INDEX, out, indent=1)
print(len(INDEX), "files,", sum(os.path.getsize(OUT + e["file"]) for e in INDEX), "bytes; ezdxf", ezdxf.__version__)
