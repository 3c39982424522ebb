"""Lengths and areas of iso-lines as scikit-image's marching squares finds them.

    python3 -m venv venv && venv/bin/pip install scikit-image && venv/bin/python scripts/reference/iso_lines.py
"""
import math
import pathlib

import numpy as np
from skimage.measure import find_contours

WIDTH, HEIGHT = 150, 110

picture = np.array([[round(127.5 + 70 * math.sin(x / 7) * math.sin(y / 6) + 50 * math.sin((x + 2 * y) / 17))
                     for x in range(WIDTH)] for y in range(HEIGHT)], float)
rows = []
for percent in (26, 41, 63):
    for line in find_contours(picture, 2.55 * percent):
        if (line[0] != line[-1]).any():
            continue  # It runs off the picture.
        y, x = line[:, 0] + 0.5, line[:, 1] + 0.5
        length = np.hypot(np.diff(x), np.diff(y)).sum()
        area = abs((x[:-1] * y[1:] - x[1:] * y[:-1]).sum()) / 2
        rows.append((percent, round(float(x.min()), 3), round(float(y.min()), 3), round(float(length), 3), round(float(area), 3)))
target = pathlib.Path(__file__).parents[2] / "crates/core/tests/reference/iso_lines.in"
target.write_text("&[\n" + "".join(f"    ({p}.0, {x}, {y}, {l}, {a}),\n" for p, x, y, l, a in rows) + "]\n")
print(len(rows))
