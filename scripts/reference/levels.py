"""Writes the multi-level Otsu thresholds that the core's tests are checked against, with the histograms they are of:
three of the pictures that scikit-image ships.

    python3 -m venv venv && venv/bin/pip install scikit-image && venv/bin/python scripts/reference/levels.py
"""
import pathlib

import numpy as np
from skimage import data
from skimage.filters import threshold_multiotsu

tones = np.arange(256)
rows = []
for name in ["camera", "coins", "page"]:
    histogram = np.bincount(getattr(data, name)().ravel(), minlength=256)
    levels = [
        [int(v) for v in threshold_multiotsu(hist=(histogram, tones), classes=classes)]
        for classes in (2, 3, 4, 5)
    ]
    print(name, levels)
    parts = ", ".join(f"&{part}" for part in levels)
    rows.append(f'("{name}", {[int(n) for n in histogram]}, [{parts}])')
target = pathlib.Path(__file__).parents[2] / "crates/core/tests/reference/levels.in"
target.write_text("[\n" + ",\n".join(rows) + ",\n]\n")
