"""Counts outer borders and holes of binary pictures as OpenCV's border following finds them.

Suzuki & Abe 1985, "Topological structural analysis of digitized binary images by border following".

    python3 -m venv venv && venv/bin/pip install opencv-python-headless && venv/bin/python scripts/reference/rings.py
"""
import pathlib

import cv2
import numpy as np

CELLS = 40

rows = []
for seed in (1, 2, 3, 5, 8):
    for share in (18, 30, 42):
        state, cells = seed, np.zeros((CELLS, CELLS), np.uint8)
        for y in range(CELLS):
            for x in range(CELLS):
                state = (state * 1664525 + 1013904223) % 2**32
                cells[y, x] = (state >> 16) % 100 < share
        # A margin of paper, so that no shape runs into the border of the picture.
        cells[[0, -1], :] = 0
        cells[:, [0, -1]] = 0
        picture = np.kron(cells, np.ones((3, 3), np.uint8))
        _, tree = cv2.findContours(picture, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
        holes = int((tree[0][:, 3] >= 0).sum())
        rows.append((seed, share, len(tree[0]) - holes, holes))
target = pathlib.Path(__file__).parents[2] / "crates/core/tests/reference/rings.in"
target.write_text("[\n" + "".join(f"    {row},\n" for row in rows) + "]\n")
print(rows)
