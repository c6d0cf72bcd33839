"""Zero-lag low pass by SciPy, for comparison with core/signal.

Reads {"rate", "cutoff", "x"} cases as JSON on standard input and writes the
filtered series. SciPy's filtfilt with odd padding of 9 samples; the cut-off is
corrected for the second pass as in Winter, Biomechanics and Motor Control of
Human Movement. `--table` writes the cases and results that core/signal's test
reads.
"""
import json
import sys

import numpy as np
from scipy.signal import butter, filtfilt

CORRECTION = (np.sqrt(2) - 1) ** 0.25


def smooth(case):
    b, a = butter(2, case["cutoff"] / CORRECTION / (case["rate"] / 2))
    return filtfilt(b, a, case["x"], padtype="odd", padlen=9).tolist()


def cases():
    rng = np.random.default_rng(8470)
    for rate, cutoff, n in [(240, 8, 90), (120, 6, 60), (60, 10, 40), (30, 6, 33)]:
        t = np.arange(n) / rate
        x = 300 + 80 * np.sin(2 * np.pi * 1.4 * t) + 12 * np.sin(2 * np.pi * 5.2 * t + 1) + rng.normal(0, 2, n)
        yield {"rate": rate, "cutoff": cutoff, "x": np.round(x, 6).tolist()}


if __name__ == "__main__":
    if "--table" in sys.argv:
        print(json.dumps([{**c, "want": smooth(c)} for c in cases()]))
    else:
        print(json.dumps([smooth(c) for c in json.load(sys.stdin)]))
