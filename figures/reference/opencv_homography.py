"""Homographies by OpenCV, for comparison with core/ground.

Reads {"from", "to"} cases as JSON on standard input and writes findHomography's
matrices (all points, least squares refined). `--table` writes the cases and
results that core/ground's test reads.
"""
import json
import sys

import cv2
import numpy as np


def solve(case):
    h, _ = cv2.findHomography(np.array(case["from"]), np.array(case["to"]), 0)
    return h.ravel().tolist()


def cases():
    rng = np.random.default_rng(8470)
    for n, sigma in [(4, 0), (6, 1.0), (12, 2.0), (30, 3.0)]:
        h = np.array([[62, -14, 500], [3, 21, 420], [0.004, -0.03, 1]])
        p = np.column_stack([rng.uniform(-4, 10, n), rng.uniform(-5, 2, n)])
        q = np.column_stack([p, np.ones(n)]) @ h.T
        q = q[:, :2] / q[:, 2:] + rng.normal(0, sigma, (n, 2)) * (sigma > 0)
        yield {"from": np.round(p, 6).tolist(), "to": np.round(q, 6).tolist()}


if __name__ == "__main__":
    if "--table" in sys.argv:
        print(json.dumps([{**c, "want": solve(c)} for c in cases()]))
    else:
        print(json.dumps([solve(c) for c in json.load(sys.stdin)]))
