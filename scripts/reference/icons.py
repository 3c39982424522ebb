"""Renders the open icons that the program is tested on.

    npm pack @iconify-json/game-icons@1.2.4 @iconify-json/twemoji@1.2.5   # unpacked into FOLDER/<set>
    pip install resvg_py && python3 scripts/reference/icons.py FOLDER
"""
import json
import pathlib
import sys

import resvg_py

target = pathlib.Path(__file__).parents[2] / "crates/cli/tests/files"
for icon_set, names, side in [("game-icons", ["anchor", "padlock"], 512), ("twemoji", ["red-apple", "balloon"], 36)]:
    icons = json.loads((pathlib.Path(sys.argv[1]) / icon_set / "package/icons.json").read_text())["icons"]
    for name in names:
        body = icons[name]["body"].replace("currentColor", "#000000")
        svg = (f'<svg xmlns="http://www.w3.org/2000/svg" width="384" height="384" viewBox="0 0 {side} {side}">'
               f'<rect width="{side}" height="{side}" fill="#ffffff"/>{body}</svg>')
        (target / f"{icon_set}-{name}.png").write_bytes(bytes(resvg_py.svg_to_bytes(svg_string=svg)))
