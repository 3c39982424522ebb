"""Writes the Otsu thresholds that the core's tests are checked against.

    python3 -m venv venv && venv/bin/pip install scikit-image && venv/bin/python scripts/reference/otsu.py
"""
import pathlib

import numpy as np
from skimage.filters import threshold_otsu

tones = np.arange(256)


def hump(at, half):
    return np.maximum(half - np.abs(tones - at), 0) * 10


histograms = [
    hump(60, 10) + hump(180, 10),
    hump(50, 8) + 12 * hump(210, 14),
    hump(30, 6) + hump(110, 12) + 3 * hump(220, 9),
    tones,
]
values = [int(threshold_otsu(hist=(h, tones))) for h in histograms]
target = pathlib.Path(__file__).parents[2] / "crates/core/tests/reference/otsu.in"
target.write_text(f"{values}\n")
print(values)
