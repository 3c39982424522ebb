"""HPGL and G-code read from the published grammar, without any of the program's own code.

HPGL: HP-GL/2 and HP RTL Reference Guide (Hewlett-Packard 5961-3526): two letters, parameters, a terminator;
one plotter unit is 0.025 mm. G-code: NIST IR 6556: a block is a line of words, a letter and a number each;
G2 runs with the clock and G3 against it, I and J lead from the start to the middle.

Both give lists of polylines in mm, y up.
"""

import math
import re

UNIT_MM = 0.025


def hpgl(text):
    """Strokes with the pen down, and what SP, VS and FS said."""
    strokes, told = [], {"SP": [], "VS": [], "FS": []}
    at, down, absolute, stroke = (0.0, 0.0), False, True, []

    def lift():
        nonlocal stroke
        if len(stroke) > 1:
            strokes.append(stroke)
        stroke = []

    for word, figures in re.findall(r"([A-Z]{2})([^A-Z;]*);?", text):
        values = [float(v) for v in re.split(r"[,\s]+", figures.strip()) if v]
        if any(v < 0 or v != int(v) for v in values):
            raise ValueError(f"{word}{figures}: coordinates are whole and not negative")
        if word in ("PU", "PD"):
            if word == "PU":
                lift()
            elif not down or not stroke:
                stroke = [at]
            down = word == "PD"
        elif word in ("PA", "PR"):
            absolute = word == "PA"
        elif word in told:
            told[word] += values
            continue
        elif word == "IN":
            continue
        else:
            raise ValueError(f"{word} is not expected")
        for x, y in zip(values[::2], values[1::2]):
            here = (x * UNIT_MM, y * UNIT_MM)
            at = here if absolute else (at[0] + here[0], at[1] + here[1])
            if down:
                stroke.append(at)
    lift()
    return strokes, told


def arc(start, end, middle, clockwise, error=0.001):
    """Points along an arc after its start."""
    a = math.atan2(start[1] - middle[1], start[0] - middle[0])
    b = math.atan2(end[1] - middle[1], end[0] - middle[0])
    radius = math.dist(start, middle)
    if abs(radius - math.dist(end, middle)) > 0.002:
        raise ValueError(f"an arc with two radii: {radius} and {math.dist(end, middle)}")
    sweep = (a - b if clockwise else b - a) % (2 * math.pi)
    steps = max(1, math.ceil(sweep / (2 * math.acos(max(0.0, 1 - error / max(radius, error))) or 1)))
    way = -1 if clockwise else 1
    points = [
        (middle[0] + radius * math.cos(a + way * sweep * n / steps), middle[1] + radius * math.sin(a + way * sweep * n / steps))
        for n in range(1, steps)
    ]
    return points + [end]


def gcode(text):
    """Strokes with the beam on, or with the tool down; and the S and F that were met while drawing."""
    strokes, powers, feeds = [], set(), set()
    at, z, motion, on, power, feed, stroke = (0.0, 0.0), None, 0, False, 0.0, None, []
    beam = re.search(r"\bM0?[34]\b", text) is not None
    ended = False

    def lift():
        nonlocal stroke
        if len(stroke) > 1:
            strokes.append(stroke)
        stroke = []

    for line in text.splitlines():
        line = re.sub(r"\([^()]*\)", "", line).strip()
        if ended and line:
            raise ValueError("something stands after M2")
        words = {}
        for letter, number in re.findall(r"([A-Z])\s*([-+]?[0-9.]+)", line):
            value = float(number)
            if letter == "G" and value in (0, 1, 2, 3):
                motion = int(value)
            elif letter == "G" and value not in (17, 21, 90, 94):
                raise ValueError(f"G{number} is not expected")
            elif letter == "M" and value in (3, 4):
                on = True
            elif letter == "M" and value == 5:
                lift()
                on = False
            elif letter == "M" and value == 2:
                ended = True
            elif letter == "S":
                power = value
            elif letter == "F":
                feed = value
            elif letter in "XYZIJ":
                words[letter] = value
        if "Z" in words:
            z = words["Z"]
            if z > 0:
                lift()
        if "X" not in words and "Y" not in words:
            continue
        to = (words.get("X", at[0]), words.get("Y", at[1]))
        drawing = motion != 0 and ((on and power > 0) if beam else (z is not None and z <= 0))
        if drawing:
            powers.add(power)
            feeds.add(feed)
            stroke = stroke or [at]
            if motion == 1:
                stroke.append(to)
            else:
                middle = (at[0] + words.get("I", 0.0), at[1] + words.get("J", 0.0))
                stroke += arc(at, to, middle, motion == 2)
        else:
            lift()
        at = to
    lift()
    if not ended:
        raise ValueError("it does not end with M2")
    return strokes, powers, feeds
