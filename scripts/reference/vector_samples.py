"""A DXF file and an SVG file with one of each thing, and what other libraries make of them.

    python3 -m venv v && v/bin/pip install ezdxf==1.4.4 svgpathtools==1.7.2
    v/bin/python scripts/reference/vector_samples.py

writes crates/formats/tests/files/{everything.dxf, everything.svg, vector_samples.json}: lengths by
ezdxf's own path module and by svgpathtools, mm.
"""
import json
import math

import ezdxf
import svgpathtools
from ezdxf import disassemble, path

OUT = "crates/formats/tests/files/"
doc = ezdxf.new("R2000")
doc.header["$INSUNITS"] = 1  # inches
doc.layers.add("CUT", color=1)
doc.layers.add("HIDDEN", color=2).off()
msp = doc.modelspace()
for a, b in [((0, 0), (4, 0)), ((4, 3), (4, 0)), ((0, 0), (4, 3))]:
    msp.add_line(a, b, dxfattribs={"layer": "CUT"})
msp.add_circle((8, 2), 1.5)
msp.add_arc((12, 2), 1, 30, 300)
msp.add_lwpolyline([(0, 6, 0, 0, 0.5), (3, 6, 0, 0, 0), (3, 9, 0, 0, -0.3), (0, 9, 0, 0, 0)], close=True)
msp.add_polyline2d([(5, 6), (7, 6), (7, 8)], close=False)
msp.add_ellipse((10, 8), (2, 1), 0.4)
msp.add_ellipse((15, 8), (2, 0), 0.5, math.pi / 4, 3 * math.pi / 2)
msp.add_open_spline([(0, 12), (2, 15), (4, 10), (6, 14), (8, 12)])
msp.add_rational_spline([(10, 12), (12, 15), (14, 12)], weights=[1, 2, 1], degree=2)
inner = doc.blocks.new("inner")
inner.add_circle((0, 0), 0.5)
outer = doc.blocks.new("outer", base_point=(1, 1))
outer.add_line((1, 1), (3, 1))
outer.add_blockref("inner", (2, 2), dxfattribs={"xscale": 2, "yscale": 1})
msp.add_blockref("outer", (16, 1), dxfattribs={"rotation": 30, "xscale": 1.5, "yscale": 1.5})
msp.add_text("words", dxfattribs={"insert": (0, 20)})
msp.add_point((1, 20))
msp.add_line((0, 30), (9, 30), dxfattribs={"layer": "HIDDEN"})
doc.saveas(OUT + "everything.dxf")

visible = [e for e in disassemble.recursive_decompose(msp)
           if e.dxftype() not in ("TEXT", "POINT") and e.dxf.layer != "HIDDEN"]
length = sum(sum(a.distance(b) for a, b in zip(v, v[1:]))
             for v in (list(path.make_path(e).flattening(1e-5, segments=64)) for e in visible))

svg = """<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="60mm" viewBox="0 0 100 60">
<path d="M10 10h20v15h-20z" fill="#c02020"/>
<path d="M40 10 C50 0 60 20 70 10 S80 30 70 35 L40 35 Z" fill="none" stroke="#2020c0" stroke-width="0.5"/>
<path d="M10 45 A12 6 20 0 1 40 50" fill="none" stroke="#2020c0"/>
<path d="M50 45 Q60 60 70 45 T90 45" fill="none" stroke="#20a020"/>
</svg>
"""
with open(OUT + "everything.svg", "w") as out:
    out.write(svg)
paths, _ = svgpathtools.svg2paths(OUT + "everything.svg")
json.dump({"dxf_length_mm": length * 25.4, "svg_lengths_mm": [p.length(error=1e-9) for p in paths]},
          open(OUT + "vector_samples.json", "w"), indent=1)
print(length * 25.4, len(visible), "ezdxf", ezdxf.__version__)
