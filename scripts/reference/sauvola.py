"""Writes the Sauvola thresholds that the core's tests are checked against.

    python3 -m venv venv && venv/bin/pip install scikit-image && venv/bin/python scripts/reference/sauvola.py
"""
import pathlib

import numpy as np
from skimage.filters import threshold_sauvola

WIDTH, HEIGHT, WINDOW = 48, 36, 15

# The numbers of a linear congruential generator (Numerical Recipes) on a slope with a dark bar.
state, tones = 7, np.zeros((HEIGHT, WIDTH), np.uint8)
for y in range(HEIGHT):
    for x in range(WIDTH):
        state = (state * 1664525 + 1013904223) % 2**32
        base = 120 + 2 * x - (80 if 12 <= x + y // 3 < 20 else 0)
        tones[y, x] = base + (state >> 28)
found = threshold_sauvola(tones, window_size=WINDOW, k=0.2)
rows = [[round(float(found[y, x]), 6) for x in (0, 5, 17, 30, WIDTH - 1)] for y in (0, 9, 20, HEIGHT - 1)]
target = pathlib.Path(__file__).parents[2] / "crates/core/tests/reference/sauvola.in"
target.write_text("[\n" + "".join(f"    {row},\n" for row in rows) + "]\n")
print(rows)
