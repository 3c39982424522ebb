"""Writes the compressed disc that the formats' tests trace: its true edge is known exactly.

    python3 -m venv venv && venv/bin/pip install numpy pillow && venv/bin/python scripts/reference/disc.py

A red disc on white, each pixel the share of 8 x 8 samples inside it, saved by libjpeg (through
Pillow) at quality 60 with chroma at half the resolution.
"""
import pathlib

import numpy as np
from PIL import Image

SIDE, CENTRE, RADIUS, FINE = 200, (101.3, 98.7), 75.0, 8
RED = np.array((221, 46, 68), float)

at = (np.arange(SIDE * FINE) + 0.5) / FINE
inside = np.hypot(at[None, :] - CENTRE[0], at[:, None] - CENTRE[1]) < RADIUS
share = inside.reshape(SIDE, FINE, SIDE, FINE).mean((1, 3))[..., None]
pixels = np.round(255.0 * (1 - share) + RED * share).astype(np.uint8)
folder = pathlib.Path(__file__).parents[2] / "crates/formats/tests/files"
Image.fromarray(pixels).save(folder / "disc.jpg", quality=60, subsampling="4:2:0")
