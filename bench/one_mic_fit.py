#!/usr/bin/python3
"""Weights of one_mic_weights.h: logistic regressions over what one_mic_study printed, kicks and snares against all else,
toms against snares. one_mic_fit.py CLUES.json: prints the weights, and what is found and named rightly when all mics of
one set are held back."""
import json
import sys

import numpy as np

PULL = 0.003  # towards 0, of the mean loss


def fitted(x, y):
    """Weights (the offset last) of clues as they are; both sides count as much."""
    mean, spread = x.mean(0), x.std(0) + 1e-9
    z = np.c_[(x - mean) / spread, np.ones(len(x))]
    count = np.where(y, 0.5 / max(1, y.sum()), 0.5 / max(1, (~y).sum()))
    pull = 2 * PULL * np.diag([1.0] * x.shape[1] + [0.0])
    w = np.zeros(z.shape[1])
    for _ in range(100):
        p = 1 / (1 + np.exp(-np.clip(z @ w, -30, 30)))
        slope = z.T @ (count * (p - y)) + pull @ w
        bend = (z * (count * p * (1 - p))[:, None]).T @ z + pull + 1e-9 * np.eye(len(w))
        w -= np.linalg.solve(bend, slope)
    own = w[:-1] / spread
    return np.append(own, w[-1] - own @ mean)


def report(name, rows, of, among, clues):
    found = np.zeros(3)
    for held in sorted({r[0] for r in rows}):
        pick = lambda out: [r for r in rows if (r[0] == held) == out and among(r[1])]
        train, test = pick(False), pick(True)
        if not train or not test:
            continue
        w = fitted(np.array([clues(r) for r in train]), np.array([of(r[1]) for r in train]))
        told = np.array([clues(r) for r in test]) @ w[:-1] + w[-1] > 0
        true = np.array([of(r[1]) for r in test])
        found += [(told & true).sum(), (told & ~true).sum(), (~told & true).sum()]
    chosen = [r for r in rows if among(r[1])]
    w = fitted(np.array([clues(r) for r in chosen]), np.array([of(r[1]) for r in chosen]))
    print("%s: held out %.3f found, %.3f of those named right" % (name, found[0] / (found[0] + found[2]), found[0] / (found[0] + found[1])))
    print("  offset %.3f weights %s" % (w[-1], np.round(w[:-1], 3).tolist()))


rows = [(item["set"], set(a["drums"]), a) for item in json.load(open(sys.argv[1])) for a in item["attacks"]]
two = lambda r: r[2]["loud"] + r[2]["share"]
tom = lambda drums: any(d.startswith("tom") for d in drums)
report("kick", rows, lambda d: "kick" in d, lambda d: True, two)
report("snare", rows, lambda d: "snare" in d, lambda d: True, two)
report("tom for snare", rows, lambda d: tom(d) and "snare" not in d, lambda d: tom(d) or "snare" in d, lambda r: two(r) + r[2]["ring"])
