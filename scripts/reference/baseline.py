"""A general-purpose way from a picture to polylines, timed: k-means, border following, Douglas-Peucker.

OpenCV does all of it: `kmeans` on every fourth pixel each way, the nearest centre for all, contours
of every centre's mask (Suzuki & Abe 1985), `approxPolyDP` within half a pixel.

    python3 -m venv venv && venv/bin/pip install opencv-python-headless
    venv/bin/python scripts/reference/baseline.py FOLDER/*.png    # as the benches write them
"""
import sys
import time

import cv2
import numpy as np

INKS = 4
cv2.setRNGSeed(1)

for path in sys.argv[1:]:
    times = []
    for _ in range(3):
        start = time.perf_counter()
        picture = cv2.imread(path, cv2.IMREAD_COLOR)
        decoded = time.perf_counter()
        sample = picture[::4, ::4].reshape(-1, 3).astype(np.float32)
        stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_MAX_ITER, 20, 1.0)
        _, _, centres = cv2.kmeans(sample, INKS, None, stop, 3, cv2.KMEANS_PP_CENTERS)
        best = np.full(picture.shape[:2], np.inf, np.float32)
        labels = np.zeros(picture.shape[:2], np.uint8)
        for n, centre in enumerate(centres):
            away = ((picture.astype(np.float32) - centre) ** 2).sum(2)
            nearer = away < best
            best[nearer], labels[nearer] = away[nearer], n
        points = 0
        for n in range(INKS):
            contours, _ = cv2.findContours((labels == n).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
            points += sum(len(cv2.approxPolyDP(c, 0.5, True)) for c in contours)
        times.append((time.perf_counter() - start, decoded - start, points))
    whole, decode, points = sorted(times)[1]
    print(f"{path}: {whole * 1e3:.0f} ms, of it decoding {decode * 1e3:.0f}, {points} points")
