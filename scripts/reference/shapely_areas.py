"""Areas of random polygons put together and offset, by Shapely (GEOS).

    python3 -m venv v && v/bin/pip install shapely==2.1.2 && v/bin/python scripts/reference/shapely_areas.py

writes crates/core/tests/data/shapely_areas.json: for each case two simple polygons and the areas of
their union, difference, intersection and symmetric difference, and of the first one grown and shrunk
by r with round corners (512 steps to a quarter circle) and grown with mitred ones where no mitre is
longer than its limit.
"""
import json
import math
import random

import shapely

random.seed(20261125)


def star(cx, cy):
    """A simple polygon: corners around a middle at growing angles."""
    n = random.randint(5, 14)
    angles = sorted(random.uniform(0, 2 * math.pi) for _ in range(n))
    points = [(cx + r * math.cos(a), cy + r * math.sin(a)) for a in angles for r in [random.uniform(3, 20)]]
    return [(round(x, 3), round(y, 3)) for x, y in points]


def sharpest(points):
    """The longest mitre of a polygon's outer corners, in distances."""
    n, longest = len(points), 1.0
    for i in range(n):
        (ax, ay), (bx, by), (cx, cy) = points[i - 1], points[i], points[(i + 1) % n]
        u, v = (bx - ax, by - ay), (cx - bx, cy - by)
        turn = math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])
        if turn > 0:
            longest = max(longest, 1 / max(1e-9, math.cos(turn / 2)))
    return longest


cases = []
while len(cases) < 300:
    a, b = star(0, 0), star(random.uniform(-12, 12), random.uniform(-12, 12))
    p, q = shapely.Polygon(a), shapely.Polygon(b)
    if not (p.is_valid and q.is_valid and p.exterior.is_ccw and q.exterior.is_ccw):
        continue
    r = round(random.uniform(0.2, 4), 3)
    mitred = p.buffer(r, join_style="mitre", mitre_limit=4).area if sharpest(a) < 3.9 else None
    cases.append({
        "a": a, "b": b, "r": r,
        "union": p.union(q).area, "difference": p.difference(q).area,
        "intersection": p.intersection(q).area, "either": p.symmetric_difference(q).area,
        "grown": p.buffer(r, quad_segs=512).area, "shrunk": p.buffer(-r, quad_segs=512).area,
        "mitred": mitred,
    })
lines = ",\n".join(json.dumps(c) for c in cases)
with open("crates/core/tests/data/shapely_areas.json", "w") as out:
    out.write(f"[\n{lines}\n]\n")
print(len(cases), "cases,", sum(c["mitred"] is not None for c in cases), "mitred, Shapely", shapely.__version__, "GEOS", shapely.geos_version_string)
