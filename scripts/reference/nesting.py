"""How short a general-purpose strip packing library (spyrrow, PyPI) lays the parts of the nesting bench.

    INKY_PARTS=parts.json cargo bench --package inky-formats --bench sheets
    python nesting.py parts.json [seconds …]

The parts are those of crates/formats/benches/sheets.rs: sixty irregular ones, a strip 600 mm wide, 3 mm apart,
quarter turns. Its strip has a fixed height and grows in width, so x and y are exchanged.
"""

import json
import sys

import spyrrow

WIDTH, GAP, TURNS = 600.0, 3.0, [0, 90, 180, 270]

with open(sys.argv[1]) as file:
    parts = json.load(file)
items = []
for number, part in enumerate(parts):
    ring = part[:-1] if part[0] == part[-1] else part
    items.append(spyrrow.Item(str(number), [(y, x) for x, y in ring], 1, TURNS))
instance = spyrrow.StripPackingInstance("parts", WIDTH, items)
for seconds in map(int, sys.argv[2:] or ["10", "60"]):
    config = spyrrow.StripPackingConfig(
        early_termination=False,
        total_computation_time=seconds,
        num_workers=2,
        seed=1,
        min_items_separation=GAP,
    )
    found = instance.solve(config)
    print(f"{seconds} s: {found.width:.1f} mm, {found.density:.1%} used")
