"""Skeletons of pictures that scikit-image ships, as its own thinning finds them.

The horse is by Andreas Preuss (CC0); the letters are from Wikimedia Commons, File:Corner.png (public
domain). Both are told in the documentation of `skimage.data`.
Thinning: Zhang & Suen 1984, "A fast parallel algorithm for thinning digital patterns".

    python3 -m venv venv && venv/bin/pip install scikit-image && venv/bin/python scripts/reference/skeleton.py
"""
import pathlib

import numpy as np
from skimage import data, measure, morphology

target = pathlib.Path(__file__).parents[2] / "crates/core/tests/reference/skeleton.in"


def rows(mask):
    """Every row as the columns at which it changes between off and on."""
    out = []
    for row in mask:
        changes = np.flatnonzero(np.diff(np.concatenate([[False], row, [False]]).astype(int)))
        out.append("&[" + ", ".join(str(c) for c in changes) + "]")
    return "&[" + ", ".join(out) + "]"


pictures = {"horse": ~data.horse(), "letters": data.text() < 100}
text = ["&[\n"]
for name, mask in pictures.items():
    mask = morphology.remove_small_objects(mask, max_size=12)
    if name == "letters":
        mask = mask[:, :220]
    thin = morphology.skeletonize(mask)
    parts = measure.label(thin, connectivity=2).max()
    holes = measure.label(~np.pad(thin, 1), connectivity=1).max() - 1
    text.append(f'    ("{name}", {mask.shape[1]}, {parts}, {holes}, {rows(mask)}, {rows(thin)}),\n')
    print(name, mask.shape, thin.sum(), parts, holes)
text.append("]\n")
target.write_text("".join(text))
print(target.stat().st_size)
