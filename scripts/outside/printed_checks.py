"""A page to be printed and cut, as other programs see it.

Its boxes and its pictures by qpdf (pikepdf) and poppler (pdfinfo, pdfimages); what is shown of it by pdfium: marks where
they were told, pictures printed to the bleed and no farther, their colours carried on past the cut, pieces coloured in;
its code by OpenCV. The cut file is held against the page.
"""

import math
import re
import subprocess

import cv2
import numpy
import pikepdf
import pypdfium2
import scipy.ndimage
import shapely
from PIL import Image
from shapely.geometry import MultiPolygon, Point, Polygon

MM = 25.4 / 72
PPI = 600
BLEED = 2.0
NEAR = 0.05  # mm


def artwork(path):
    """A blot of slowly changing colours on white, 600 px wide."""
    y, x = numpy.mgrid[0:500, 0:600]
    turn, far = numpy.arctan2(y - 250, x - 300), numpy.hypot(y - 250, x - 300)
    inside = far < 190 + 35 * numpy.cos(5 * turn)
    colours = numpy.stack([60 + x / 5, 40 + y / 5, 150 - x / 8], axis=-1)
    pixels = numpy.where(inside[..., None], colours, 255).round().astype(numpy.uint8)
    Image.fromarray(pixels).save(path, **({"quality": 95} if path.suffix == ".jpg" else {}))
    return colours


def region(lines):
    return MultiPolygon([Polygon(line) for line in lines])


def printed(check, inky, folder, svg_lines):
    for name in ("art.jpg", "art.png"):
        for marks in (3, 4):
            page(check, inky, folder, svg_lines, (name, marks))
    coloured(check, inky, folder)


def page(check, inky, folder, svg_lines, case):
    name, count = case
    art, pdf, cut = folder / f"print-{name}", folder / "page.pdf", folder / "page-cut.svg"
    colours = artwork(art)
    said = f"ORDER {count}-{name[-3:].upper()}"
    how = ["--code", said.lower(), "--width", "60mm", "--copies", "6", "--marks", str(count), "--printer-margins", "10mm,12mm,14mm,20mm"]
    inky("sheet", art, "--print", *how, "-o", pdf, "--cut", cut, "--spot", "none")
    what = f"{name}, {count} marks"

    # Boxes, and the picture as it came, once.
    with pikepdf.open(pdf) as document:
        check(not document.check_pdf_syntax(), f"{what}: qpdf finds {document.check_pdf_syntax()}")
        leaf = document.pages[0]
        media, trim, bleed = (numpy.array([float(v) for v in leaf[b]]) * MM for b in ("/MediaBox", "/TrimBox", "/BleedBox"))
        pictures = [o for o in document.objects if isinstance(o, pikepdf.Stream) and o.get("/Subtype") == "/Image"]
        own = [o for o in pictures if int(o.Width) == 600 and int(o.Height) == 500]
        check(len(own) == 1, f"{what}: {len(own)} pictures of its size")
        if name.endswith("jpg"):
            check(own[0].read_raw_bytes() == art.read_bytes(), f"{what}: the JPEG is another one")
        else:
            same = numpy.frombuffer(own[0].read_bytes(), numpy.uint8).reshape(500, 600, 3)
            check((same == numpy.array(Image.open(art).convert("RGB"))).all(), f"{what}: its pixels are others")
    check(numpy.abs(media - [0, 0, 210, 297]).max() < NEAR, f"{what}: media box {media}")

    by_poppler(check, pdf, name, what)

    # The first mark lies at the lower left of what is printable; the cut file begins there.
    half = 3.0
    x0, y0, x1, y1 = 10 + half, 20 + half, 210 - 14 - half, 297 - 12 - half
    lines, (width, height) = svg_lines(cut)
    check(abs(width - (x1 - x0)) < NEAR and abs(height - (y1 - y0)) < NEAR, f"{what}: cut file {width} × {height}")
    lines = [shapely.affinity.affine_transform(l, [1, 0, 0, -1, x0, y0 + height]) for l in lines]
    shape = region(lines)
    check(len(lines) == 6, f"{what}: {len(lines)} cut lines")
    check(numpy.abs(trim - shape.bounds).max() < NEAR, f"{what}: trim box {trim} of {shape.bounds}")
    grown = shape.bounds + numpy.array([-BLEED, -BLEED, BLEED, BLEED])
    check(numpy.abs(bleed - grown).max() < NEAR, f"{what}: bleed box {bleed} of {grown}")

    # What pdfium shows.
    picture = pypdfium2.PdfDocument(pdf)[0].render(scale=PPI / 72).to_numpy()[..., :3][..., ::-1].astype(int)
    high = picture.shape[0]
    px = PPI / 25.4
    ink = 1 - picture.mean(axis=2) / 255
    corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    for n, (x, y) in enumerate(corners if count == 4 else [corners[0], corners[1], corners[3]]):
        row, column, reach = int(high - y * px), int(x * px), int(3.3 * px)
        mark = ink[row - reach : row + reach, column - reach : column + reach]
        down, across = scipy.ndimage.center_of_mass(mark)
        down, across = down + row - reach, across + column - reach
        off = math.hypot((across + 0.5) / px - x, (high - down - 0.5) / px - y)
        check(off < NEAR, f"{what}: mark {n + 1} lies {off} mm off")
        area = mark.sum() / px**2
        meant = math.pi / 4 * ((36 - 4) if n == 0 else (36 - 16 + 4))
        check(abs(area / meant - 1) < 0.02, f"{what}: mark {n + 1} covers {area} mm², not {meant}")
        clear = shape.buffer(BLEED).distance(Point(x, y)) - half
        check(clear > 6.0 - NEAR, f"{what}: {clear} mm clear beside mark {n + 1}")

    # What the code says to OpenCV, the page as pdfium shows it at 300 pixels per inch.
    shown = pypdfium2.PdfDocument(pdf)[0].render(scale=300 / 72).to_numpy()[..., :3]
    read, places, _ = cv2.QRCodeDetector().detectAndDecode(numpy.ascontiguousarray(shown))
    check(read == said, f"{what}: the code says {read!r}, not {said!r}")

    # Printed to the bleed and no farther: places at random on lines beside the cut.
    white = lambda p: (picture[int(high - p.y * px), int(p.x * px)] > 245).all()
    for beside, there in ((0.2, True), (BLEED - 0.15, True), (BLEED + 0.15, False)):
        edge = shape.buffer(beside).boundary
        places = [edge.interpolate(k / 300, normalized=True) for k in range(300)]
        wrong = sum(white(p) == there for p in places)
        check(wrong == 0, f"{what}: {wrong} of 300 places {beside} mm outside the cut")

    # The colours outside are those of the nearest place inside. One sticker that lies upright, from its own box.
    scale = 600 / 60
    left = numpy.array(shape.geoms[0].bounds)
    own_edge = own_outline(numpy.array(Image.open(art).convert("L")) < 245)
    for n in range(200):
        p = shape.geoms[0].buffer(BLEED - 0.2).boundary.interpolate(n / 200, normalized=True)
        q = shape.geoms[0].boundary.interpolate(shape.geoms[0].boundary.project(p))
        column = own_edge[0] + (q.x - left[0]) * scale
        row = own_edge[1] + (left[3] - q.y) * scale
        want = colours[min(max(int(row), 0), 499), min(max(int(column), 0), 599)]
        got = picture[int(high - p.y * px), int(p.x * px)]
        check(numpy.abs(got - want).max() < 14, f"{what}: bleed of {got} beside {want}")


def by_poppler(check, pdf, name, what):
    """Its size and its pictures as pdfinfo and pdfimages tell them."""
    told = subprocess.run(["pdfinfo", "-box", pdf], capture_output=True, text=True, check=True).stdout
    size = [float(v) * MM for v in re.search(r"Page size:\s+([\d.]+) x ([\d.]+) pts", told).groups()]
    check(max(abs(size[0] - 210), abs(size[1] - 297)) < NEAR, f"{what}: pdfinfo tells {size} mm")
    listed = subprocess.run(["pdfimages", "-list", pdf], capture_output=True, text=True, check=True).stdout
    rows = [row.split() for row in listed.splitlines()[2:]]
    own = {row[10] for row in rows if row[3:5] == ["600", "500"]}
    check(len(own) == 1, f"{what}: pdfimages lists its picture as objects {own}")
    kinds = {row[8] for row in rows if row[10] in own}
    check(kinds == {"jpeg" if name.endswith("jpg") else "image"}, f"{what}: pdfimages tells {kinds}")
    # A picture of 600 px printed 60 mm wide.
    ppi = {float(row[12]) for row in rows if row[10] in own}
    check(all(abs(v - 254) < 1 for v in ppi), f"{what}: pdfimages tells {ppi} pixels per inch")


def coloured(check, inky, folder):
    """A ring drawn in black: what it encloses in stripes, white under all of it, an ellipse around it."""
    art, pdf = folder / "ring.png", folder / "ring.pdf"
    y, x = numpy.mgrid[0:400, 0:400]
    far = numpy.hypot(y - 199.5, x - 199.5)
    ring = numpy.where((far > 120) & (far < 160), 0, 255).astype(numpy.uint8)
    Image.fromarray(ring).convert("RGB").save(art)
    tile = folder / "tile.png"
    halves = numpy.zeros((10, 20, 3), numpy.uint8)
    halves[:, :10], halves[:, 10:] = (160, 0, 160), (0, 160, 160)
    Image.fromarray(halves).save(tile)
    fills = ["--fill", "40,40=stripes:#ff0000:#00ff00:5mm:0", "--fill", f"#000000=picture:{tile}::4mm"]
    inky("sheet", art, "--print", "--width", "80mm", "--along", "ellipse", "--white", "0.5mm", *fills, "-o", pdf)
    with pikepdf.open(pdf) as document:
        check(not document.check_pdf_syntax(), f"coloured in: qpdf finds {document.check_pdf_syntax()}")
        spaces = document.pages[0].Resources.ColorSpace
        names = sorted(str(space[1]) for space in spaces.values() if space[0] == "/Separation")
        check(names == ["/Cut line", "/White"], f"coloured in: separations {names}")
        layers = [str(o.Name) for o in document.Root.OCProperties.OCGs]
        check(layers == ["White", "Print", "Cut line"], f"coloured in: layers {layers}")
        trim = [float(v) * MM for v in document.pages[0].TrimBox]
    # The ring is 64 mm across; the ellipse through the corners of its box √2 of that.
    wide = trim[2] - trim[0]
    check(abs(wide - 64 * math.sqrt(2)) < 0.1, f"coloured in: {wide} mm across")
    px = PPI / 25.4
    picture = pypdfium2.PdfDocument(pdf)[0].render(scale=PPI / 72).to_numpy()[..., :3][..., ::-1].astype(int)
    middle = [picture.shape[0] - (trim[1] + trim[3]) / 2 * px, (trim[0] + trim[2]) / 2 * px]
    reach = int(15 * px)
    inside = picture[int(middle[0]) - reach : int(middle[0]) + reach, int(middle[1]) - reach : int(middle[1]) + reach]
    red = (inside[..., 0] > 200) & (inside[..., 1] < 60)
    green = (inside[..., 1] > 200) & (inside[..., 0] < 60)
    check((red | green).mean() > 0.99, f"coloured in: {1 - (red | green).mean():.3f} is neither")
    check(abs(red.mean() - 0.5) < 0.01, f"coloured in: stripes cover {red.mean():.3f}")
    # Stripes of 2.5 mm run across.
    runs = numpy.flatnonzero(numpy.diff(red[:, reach].astype(int)))
    check(abs(numpy.diff(runs).mean() / px - 2.5) < 0.05, f"coloured in: stripes of {numpy.diff(runs).mean() / px} mm")
    # The ring shows the picture, 4 mm wide, and what lies outside of it white.
    turns = numpy.linspace(0, 2 * math.pi, 4000, endpoint=False)
    around = lambda mm: picture[
        (middle[0] + mm * px * numpy.sin(turns)).astype(int), (middle[1] + mm * px * numpy.cos(turns)).astype(int)
    ]
    ring = around(28)
    purple, teal = (numpy.abs(ring - colour).max(axis=1) < 40 for colour in ((160, 0, 160), (0, 160, 160)))
    check((purple | teal).mean() > 0.95, f"coloured in: {1 - (purple | teal).mean():.3f} of the ring is neither")
    check(abs(purple.mean() - 0.5) < 0.05, f"coloured in: {purple.mean():.3f} of the ring is one half of the picture")
    changes = (numpy.diff(purple[:1000].astype(int)) != 0).sum()
    # A quarter of it, 28 mm across, crosses a half of 2 mm fourteen times.
    check(12 <= changes <= 18, f"coloured in: the picture changes {changes} times in a quarter")
    check((around(38) > 240).all(), "coloured in: something is printed beside the ring")


def own_outline(dark):
    """The left and upper end of what is drawn, px."""
    rows, columns = numpy.where(dark)
    return columns.min(), rows.min()
