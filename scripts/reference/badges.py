"""Writes badges whose lettering is thin and of another colour than the ground outside: a dark disc on
white with a ring and bars of 3 to 5 px in a light ink, compressed with chroma at half the resolution.

    python3 scripts/reference/badges.py crates/formats/tests/files

Needs Pillow (libjpeg). The colours are those of `crates/formats/tests/compressed_inks.rs`.
"""

import sys

from PIL import Image, ImageDraw

BADGES = [
    ("gold", "#1d2f4f", "#f0d8a0", 40),
    ("yellow", "#c02020", "#ffe020", 60),
    ("pale-blue", "#802020", "#b0d8f0", 25),
    ("white", "#205040", "#ffffff", 60),
]
TIMES = 4


def badge(disc, ink):
    image = Image.new("RGB", (240 * TIMES, 240 * TIMES), "white")
    draw = ImageDraw.Draw(image)

    def box(*sides):
        return [side * TIMES for side in sides]

    draw.ellipse(box(10, 10, 230, 230), fill=disc)
    draw.ellipse(box(22, 22, 218, 218), outline=ink, width=3 * TIMES)
    for n, wide in enumerate([3, 4, 5, 4, 3]):
        left = 62 + 24 * n
        draw.rectangle(box(left, 70, left + wide, 110), fill=ink)
        draw.rectangle(box(left, 90, left + 14, 90 + wide), fill=ink)
        draw.ellipse(box(left - 4, 130, left + 16, 160), outline=ink, width=wide * TIMES)
    return image.resize((240, 240), Image.LANCZOS)


for name, disc, ink, quality in BADGES:
    badge(disc, ink).save(f"{sys.argv[1]}/badge-{name}.jpg", quality=quality)
