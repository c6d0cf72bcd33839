"""Lucas-Kanade by OpenCV on the same frames as core/optic.

Usage: opencv_follow.py FOLDER. The folder holds frames.raw (grey bytes), and
ask.json: {"width", "height", "frames", "points": [[x, y], ...]}. Follows the points
from frame to frame with the same window (21 px), levels (3) and end of search
(30 rounds, 0.005 px), and writes {"paths": frame -> points, "seconds"}: the time of
the following with its pyramids, not of reading.
"""
import json
import sys
import time

import cv2
import numpy as np

folder = sys.argv[1]
ask = json.load(open(folder + "/ask.json"))
w, h, n = ask["width"], ask["height"], ask["frames"]
raw = np.fromfile(folder + "/frames.raw", np.uint8).reshape(n, h, w)
cv2.setNumThreads(1)
points = np.array(ask["points"], np.float32).reshape(-1, 1, 2)
paths = [points.reshape(-1, 2).tolist()]
seconds = 0.0
for i in range(1, n):
    begin = time.perf_counter()
    points, status, _ = cv2.calcOpticalFlowPyrLK(
        raw[i - 1], raw[i], points, None, winSize=(21, 21), maxLevel=3,
        criteria=(cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 30, 0.005))
    seconds += time.perf_counter() - begin
    paths.append(points.reshape(-1, 2).tolist())
print(json.dumps({"paths": paths, "seconds": seconds}))
