"""The files that leave the program, read by other people's libraries.

    python check.py path/to/inky

A picture drawn here is traced into every format. Sizes, rings, areas and places are compared: SVG by svgpathtools
and resvg, DXF by ezdxf (recover and audit), PDF by pdfium, PNG by Pillow, HPGL and G-code by
machine_readers.py, all against each other through GEOS (shapely). machine_checks.py holds what a machine
would do against the material.
"""

import ctypes
import io
import json
import math
import re
import subprocess
import sys
import tempfile
from pathlib import Path

import ezdxf
import ezdxf.path
import ezdxf.recover
import numpy
import pypdfium2
import pypdfium2.raw as pdfium
import resvg_py
import shapely
import shapely.affinity
from PIL import Image, ImageDraw
from shapely.geometry import LineString, MultiLineString, Polygon
from svgpathtools import svg2paths2

from machine_checks import machines
from machine_readers import gcode, hpgl
from printed_checks import printed

INKY = Path(sys.argv[1]).resolve()
WIDTH, HEIGHT = 120.0, 90.0  # mm, of the page that is looked at
OVERLAP = 0.05  # mm, how far the lines of any two formats may lie apart
passed = 0


def check(holds, what):
    global passed
    if not holds:
        sys.exit(f"outside check failed: {what}")
    passed += 1


def inky(*args):
    again = ["--force"] if args[0] in ("trace", "convert", "sheet") else []
    done = subprocess.run([INKY, *map(str, args), *again], capture_output=True, text=True)
    if done.returncode:
        sys.exit(f"inky {' '.join(map(str, args))}: {done.stderr}")
    return done.stdout


def artwork(path):
    """Three inks: a disc with a hole, a star, rounded and slanted bars; drawn at four times the size."""
    big = Image.new("RGB", (4800, 3600), "white")
    draw = ImageDraw.Draw(big)
    teal, brick, ink = (30, 110, 102), (176, 48, 48), (30, 30, 70)
    draw.ellipse((400, 500, 2200, 2300), fill=teal)
    draw.ellipse((900, 1000, 1500, 1600), fill="white")
    star = [
        (3300 + r * math.sin(n * math.pi / 5), 1100 - r * math.cos(n * math.pi / 5))
        for n in range(10)
        for r in [(800, 330)[n % 2]]
    ]
    draw.polygon(star, fill=brick)
    draw.rounded_rectangle((600, 2600, 2400, 3200), radius=200, fill=ink)
    draw.polygon([(2700, 3200), (3300, 2300), (4300, 2500), (3900, 3250)], fill=ink)
    draw.ellipse((3300, 2600, 3700, 2950), fill="white")
    big.resize((1200, 900), Image.Resampling.BOX).save(path)


def svg_lines(path):
    """Polylines of an SVG in mm, y down, and the area of each path by the even-odd rule."""
    paths, _, attributes = svg2paths2(str(path))
    width, height = (float(attributes[k].removesuffix("mm")) for k in ("width", "height"))
    check(attributes["viewBox"].split()[2:] == [attributes["width"][:-2], attributes["height"][:-2]], "a user unit is a mm")
    lines = []
    for one in paths:
        for ring in one.continuous_subpaths():
            points = []
            for segment in ring:
                steps = 1 if type(segment).__name__ == "Line" else 64
                points += [segment.point(n / steps) for n in range(steps)]
            points.append(ring[-1].end)
            lines.append(LineString([(p.real, p.imag) for p in points]))
    return lines, (width, height)


def down(strokes, height):
    return [LineString([(x, height - y) for x, y in s]) for s in strokes]


def dxf_lines(path, inches=False, open_lines=False):
    """Polylines of a DXF in mm, y up, after recovery and audit."""
    document, auditor = ezdxf.recover.readfile(path)
    check(not auditor.errors and not auditor.fixes, f"{path.name}: {auditor.errors} {auditor.fixes}")
    again = ezdxf.readfile(path).audit()
    check(not again.errors and not again.fixes, f"{path.name}: strict audit")
    unit = 25.4 if inches else 1.0
    check(document.header["$INSUNITS"] == (1 if inches else 4), f"{path.name}: unit")
    check(document.header["$MEASUREMENT"] == (0 if inches else 1), f"{path.name}: measurement")
    low, high = document.header["$EXTMIN"], document.header["$EXTMAX"]
    check(abs(low[0]) + abs(low[1]) < 1e-9, f"{path.name}: its lower left corner is 0, 0")
    check(abs(high[0] * unit - WIDTH) < 1e-3 and abs(high[1] * unit - HEIGHT) < 1e-3, f"{path.name}: extents {high}")
    lines = []
    for entity in document.modelspace():
        kind = entity.dxftype()
        check(kind in ("LWPOLYLINE", "POLYLINE", "SPLINE"), f"{path.name}: {kind}")
        closed = entity.closed if kind == "SPLINE" else entity.is_closed
        check(bool(closed) or open_lines, f"{path.name}: a {kind} is flagged closed")
        check(entity.dxf.layer in document.layers, f"{path.name}: layer {entity.dxf.layer} is in the table")
        points = ezdxf.path.make_path(entity).flattening(0.001 / unit, segments=16)
        lines.append(LineString([(p.x * unit, p.y * unit) for p in points]))
    handles = [e.dxf.handle for e in document.modelspace()]
    check(len(handles) == len(set(handles)), f"{path.name}: handles are unique")
    return lines


def pdf_lines(path, spot):
    """Polylines of a PDF in mm, y down, its page box, separation colour and hairline."""
    document = pypdfium2.PdfDocument(path)
    page = document[0]
    width, height = page.get_size()
    check(abs(width / 72 * 25.4 - WIDTH) < 1e-3 and abs(height / 72 * 25.4 - HEIGHT) < 1e-3, f"page box {width} × {height}")
    check(page.get_mediabox() == page.get_trimbox(), "trim box")
    check(b"/Separation /" + spot.replace(" ", "#20").encode() in path.read_bytes(), "separation colour")
    lines = []
    for found in page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_PATH]):
        stroke = ctypes.c_float()
        pdfium.FPDFPageObj_GetStrokeWidth(found.raw, stroke)
        check(abs(stroke.value - 0.25) < 1e-6, f"hairline of {stroke.value}")
        points = []
        for n in range(pdfium.FPDFPath_CountSegments(found.raw)):
            segment = pdfium.FPDFPath_GetPathSegment(found.raw, n)
            x, y = (ctypes.c_float() for _ in range(2))
            pdfium.FPDFPathSegment_GetPoint(segment, x, y)
            points.append((pdfium.FPDFPathSegment_GetType(segment), (x.value, y.value)))
        lines.append(LineString([(x / 72 * 25.4, HEIGHT - y / 72 * 25.4) for x, y in flattened(points)]))
    bitmap = page.render(scale=10).to_numpy()
    check((bitmap[..., :3].min(axis=2) < 200).any(), "pdfium draws the cut lines")
    return lines


def flattened(points):
    """Points of a PDF path: lines, and cubics as three points each."""
    out, n = [], 0
    while n < len(points):
        kind, p = points[n]
        if kind != pdfium.FPDF_SEGMENT_BEZIERTO:
            out.append(p)
            n += 1
            continue
        a, (b, c, d) = numpy.array(out[-1]), (numpy.array(points[n + k][1]) for k in range(3))
        for k in range(1, 33):
            t = k / 32
            u = 1 - t
            out.append(tuple(u**3 * a + 3 * u * u * t * b + 3 * u * t * t * c + t**3 * d))
        n += 3
    return out


def apart(a, b):
    """How far the lines of two files lie apart at most, mm."""
    a, b = (MultiLineString(lines).segmentize(0.25) for lines in (a, b))
    return shapely.hausdorff_distance(a, b)


def areas(lines):
    return sorted(abs(Polygon(line).area) for line in lines)


def same_areas(lines, others, name):
    check(len(lines) == len(others), f"{name}: {len(others)} rings of {len(lines)}")
    for a, b in zip(areas(lines), areas(others)):
        check(abs(a / b - 1) < 1e-3, f"{name}: area {b} of {a}")


def covers(alpha, lines, ppi, name):
    """Every pixel whose middle lies more than 0.05 mm off an edge is on the right side of it."""
    height, width = alpha.shape
    check(abs(width / ppi * 25.4 - WIDTH) < 25.4 / ppi and abs(height / ppi * 25.4 - HEIGHT) < 25.4 / ppi, f"{name}: size")
    x, y = numpy.meshgrid((numpy.arange(width) + 0.5) / ppi * 25.4, (numpy.arange(height) + 0.5) / ppi * 25.4)
    inside = numpy.zeros(alpha.shape, dtype=bool)
    edges = MultiLineString(lines)
    for line in lines:
        inside ^= shapely.contains_xy(Polygon(line), x, y)
    wrong = inside != (alpha > 127)
    far = [shapely.Point(px, py).distance(edges) for px, py in zip(x[wrong], y[wrong])]
    check(max(far, default=0.0) < OVERLAP, f"{name}: a pixel {max(far, default=0)} mm off is on the wrong side")


def agree(make, name, size, pictures=True):
    """Writes a page in every format and holds all against each other; the lines of its SVG."""
    global WIDTH, HEIGHT
    svg = make("art.svg")
    lines, (WIDTH, HEIGHT) = svg_lines(svg)
    if size:
        check(abs(WIDTH - size[0]) < 1e-3 and abs(HEIGHT - size[1]) < 1e-3, f"{name}: SVG of {WIDTH} × {HEIGHT}")
    closed = [line for line in lines if math.dist(line.coords[0], line.coords[-1]) < 1e-6]
    if pictures:
        check(len(closed) == len(lines), f"{name}: every ring is closed")

    found = {"SVG": lines}
    for kind, args in [("splines", []), ("arcs", ["--dxf", "arcs"]), ("r12", ["--dxf", "r12"])]:
        path = make(f"{kind}.dxf", *args)
        own = dxf_lines(path, open_lines=not pictures)
        found[f"DXF {kind}"] = down([l.coords for l in own], HEIGHT)
        inch = dxf_lines(make(f"{kind}-in.dxf", "--out-unit", "in", *args), True, not pictures)
        check(apart(down([l.coords for l in inch], HEIGHT), lines) < OVERLAP, f"{name}: DXF {kind} in inches")
        if pictures:
            same_areas(lines, found[f"DXF {kind}"], f"{name}: DXF {kind}")

    strokes, told = hpgl(make("art.plt").read_text())
    check(told["SP"][-1] == 0 and told["SP"][0] == 1 and told["VS"] and told["FS"], f"{name}: HPGL: {told}")
    found["HPGL"] = down(strokes, HEIGHT)

    # A blade has no lead-in, so its lines are the outlines and nothing else.
    strokes, _, feeds = gcode(make("art.gcode").read_text())
    check(None not in feeds, f"{name}: G-code: every line has its feed")
    found["G-code"] = down(strokes, HEIGHT)

    found["PDF"] = pdf_lines(make("art.pdf", "--spot", "Knife one"), "Knife one")
    for one, own in found.items():
        for other, others in found.items():
            if one < other:
                far = apart(own, others)
                check(far < OVERLAP, f"{name}: {one} and {other} lie {far:.4f} mm apart")
    if pictures:
        same_areas(lines, found["PDF"], f"{name}: PDF")
        png = Image.open(make("art-out.png", "--png-dpi", "600"))
        check(all(abs(d - 600) < 0.1 for d in png.info["dpi"]), f"{name}: PNG: {png.info}")
        covers(numpy.asarray(png)[..., 3], lines, 600, f"{name}: PNG")
        drawn = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_path=str(svg), dpi=600))))
        covers(numpy.asarray(drawn.convert("RGBA"))[..., 3], lines, 600, f"{name}: SVG drawn by resvg")
    return found


def odd_plate(path, seed):
    """A plate of no regular shape with two holes, as SVG in mm; what is stock of it."""
    random = numpy.random.default_rng(seed)
    turns = numpy.sort(random.uniform(0, 2 * math.pi, 14))
    far = random.uniform(0.55, 1.0, 14)
    outer = Polygon([(230 + 225 * r * math.cos(t), 180 + 175 * r * math.sin(t)) for t, r in zip(turns, far)]).buffer(0)
    outer = max(getattr(outer, "geoms", [outer]), key=lambda p: p.area)
    near = outer.buffer(-45).representative_point()
    holes = [near.buffer(random.uniform(8, 20)), shapely.Point(outer.exterior.coords[3]).buffer(15)]
    lines = [outer.exterior, *(h.exterior for h in holes)]
    data = "".join("M" + " ".join(f"{x:.3f},{y:.3f}" for x, y in line.coords) + "Z" for line in lines)
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="460mm" height="360mm" viewBox="0 0 460 360">'
        + "".join(f'<path fill="none" stroke="black" d="M{d}"/>' for d in data.split("M")[1:])
        + "</svg>"
    )
    # Parts are told from the corner of the outline's box.
    left, top = outer.bounds[:2]
    stock = shapely.affinity.translate(outer.difference(shapely.union_all(holes)), -left, -top)
    return stock


def odd_stock(folder, part):
    """No part lies off an odd plate, over a hole or nearer to an edge than the margin; what is left is what is not cut out."""
    margin, rounding = 4.0, 0.05
    for seed in range(12):
        plate, laid, rest = folder / "plate.svg", folder / "laid.svg", folder / "rest.svg"
        stock = odd_plate(plate, seed)
        how = ["--nest", "--turns", "fine"] if seed % 4 == 0 else []
        how = ["--copies", "4", "--gap", "2mm", "--margin", f"{margin}mm", "--single", "--rest", rest, *how]
        inky("sheet", part, "-o", laid, "--stock", plate, *how)
        rings = [Polygon(l) for l in svg_lines(laid)[0]]
        usable = stock.buffer(-(margin - rounding), quad_segs=32)
        check(len(rings) >= 12, f"plate {seed}: {len(rings)} rings")
        for ring in rings:
            check(usable.buffer(1e-6).covers(ring.exterior), f"plate {seed}: a line lies off it or too near to an edge")
        outer = [r for r in rings if not any(o is not r and o.contains(r) for o in rings)]
        for n, one in enumerate(outer):
            check(all(one.distance(other) > 2.0 - rounding for other in outer[n + 1 :]), f"plate {seed}: two parts are too near")
        whole = shapely.union_all([Polygon(r.exterior) for r in outer])
        left = stock.difference(whole)
        largest = max(getattr(left, "geoms", [left]), key=lambda p: p.area)
        found = sorted((Polygon(l) for l in svg_lines(rest)[0]), key=lambda p: -p.area)
        area = found[0].area - sum(p.area for p in found[1:])
        check(abs(area - largest.area) < 1e-3 * stock.area, f"plate {seed}: {area} mm² are left, not {largest.area}")


def main():
    with tempfile.TemporaryDirectory() as folder:
        folder = Path(folder)
        art = folder / "art.png"
        artwork(art)

        def traced(name, *args):
            path = folder / name
            inky("trace", art, "-o", path, "--width", "120mm", *args)
            return path

        found = agree(traced, "trace", (120, 90))
        lines = found["SVG"]

        for units in (72, 90, 96):
            path = traced(f"{units}.svg", "--per-inch", str(units))
            head = re.search(r'width="([0-9.]+)" height="([0-9.]+)"', path.read_text())
            check(abs(float(head[1]) - 120 / 25.4 * units) < 1e-3, f"{units} units an inch: {head[1]}")

        beam = traced("beam.gcode", "--material", "Ply 3 mm", "--full-power", "255")
        strokes, powers, feeds = gcode(beam.read_text())
        check(strokes and max(powers) <= 255 and len(feeds) == 1, f"beam: {powers} {feeds}")

        machines(check, inky, art, folder, svg_lines)

        # Converted there and back, a page keeps its size and its lines.
        for name in ("splines.dxf", "art.plt", "art.gcode"):
            back = folder / f"{name}.svg"
            inky("convert", folder / name, "-o", back)
            again, _ = svg_lines(back)
            left = min(l.bounds[0] for l in lines)
            top = min(l.bounds[1] for l in lines)
            moved = [shapely.affinity.translate(l, left, top) for l in again]
            check(apart(moved, lines) < OVERLAP, f"{name} read back")
            check(len(again) == len(lines), f"{name}: {len(again)} rings of {len(lines)}")

        plan = json.loads(inky("plan", folder / "art.plt", "--json"))
        length = MultiLineString(found["HPGL"]).length
        check(abs(plan["cut_mm"] / length - 1) < 1e-3, f"plan: {plan['cut_mm']} of {length}")

        # Three copies nested on a roll 300 mm wide; then in rows with weed boxes and relief lines.
        once = folder / "once.svg"
        inky("trace", art, "-o", once, "--width", "60mm", "--inks", "4")

        def laid(*how):
            def made(name, *args):
                path = folder / f"sheet-{name}"
                inky("sheet", once, "-o", path, "--stock", "300mm", "--copies", "3", *how, *args)
                return path

            return made

        nested = agree(laid("--nest", "--gap", "4mm"), "nested sheet", None)["SVG"]
        check(abs(WIDTH - 300) < 1e-6 and len(nested) == 3 * 6, f"nested sheet: {WIDTH} mm, {len(nested)} rings")
        weeded = agree(laid("--weed-box", "5mm", "--relief", "20mm"), "weeded sheet", None, pictures=False)["SVG"]
        parts = [Polygon(l) for l in weeded if len(l.coords) > 5]
        relief = [l for l in weeded if len(l.coords) == 2]
        check(len(relief) > 10, f"{len(relief)} relief lines")
        for line in relief:
            near = min(line.distance(p.exterior) for p in parts)
            check(near > 0.45, f"a relief line comes as near as {near} mm to a part")
        odd_stock(folder, once)
        printed(check, inky, folder, svg_lines)
    print(f"outside checks: {passed} passed, 0 failed")


main()
