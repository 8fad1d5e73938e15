#!/usr/bin/python3
"""Weights of the clues to a snare's own strokes: a logistic regression over what stroke_study printed.
stroke_fit.py CLUES.json: prints the weights of snare_clues.cpp, and F of the strokes when all mics of one set are held
back, beside the likeness of the spectrum alone."""
import json
import sys

import numpy as np

PULL = 0.3  # towards 0


def fitted(x, y):
    w = np.zeros(x.shape[1])
    for _ in range(100):
        p = 1 / (1 + np.exp(-np.clip(x @ w, -30, 30)))
        slope = x.T @ (p - y) + PULL * w
        bend = (x * (p * (1 - p))[:, None]).T @ x + PULL * np.eye(len(w))
        w -= np.linalg.solve(bend, slope)
    return w


def counts(found, own):
    return np.array([(found & own).sum(), (found & ~own).sum(), (~found & own).sum()])


def f(c):
    return 2 * c[0] / (2 * c[0] + c[1] + c[2])


def main():
    items = json.load(open(sys.argv[1]))
    rows = [(i["set"], a) for i in items for a in i["attacks"]]
    sets = np.array([r[0] for r in rows])
    x = np.array([r[1]["clues"] for r in rows])
    own = np.array([r[1]["own"] for r in rows])
    sure = np.array([r[1]["sure"] for r in rows])
    for held in sorted(set(sets)):
        there, rest = sets == held, sets != held
        w = fitted(x[rest], own[rest])
        before, after = counts(sure[there] > 0, own[there]), counts(x[there] @ w > 0, own[there])
        print(f"{held}: F {f(before):.3f} by likeness, {f(after):.3f} by clues (found, wrong, missed: {after})")
    print(", ".join(f"{v:.3f}" for v in fitted(x, own)))


main()
