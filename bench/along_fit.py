#!/usr/bin/python3
"""Weights of the clues to what is struck along: logistic regressions over what along_study printed.
along_fit.py CLUES.json: prints the weights of struck_along.cpp, and F of the toms and cymbals when all kits of one set
are held back."""
import json
import sys

import numpy as np

PULL = 3  # towards 0, of clues in units of their spread


def fitted(x, y):
    spread = x.std(0)
    spread[spread == 0] = 1
    x = x / spread
    w = np.zeros(x.shape[1])
    pull = np.full(len(w), float(PULL))
    pull[0] = 1e-3
    for _ in range(100):
        p = 1 / (1 + np.exp(-np.clip(x @ w, -30, 30)))
        slope = x.T @ (p - y) + pull * w
        bend = (x * (p * (1 - p))[:, None]).T @ x + np.diag(pull)
        w -= np.linalg.solve(bend, slope)
    return w / spread


def f(found, true):
    return 2 * (found & true).sum() / max(1, found.sum() + true.sum())


def main():
    rows = [(i["set"], h) for i in json.load(open(sys.argv[1])) for h in i["hits"]]
    for drum in ("tom", "cymbal"):
        some = [(s, h) for s, h in rows if drum == "cymbal" or h["with"][0] or h["with"][1]]
        sets = np.array([s for s, _ in some])
        clues = np.array([h[drum + "Clues"] for _, h in some])
        x = np.hstack([clues] + [clues * np.array([h["with"][k] for _, h in some])[:, None] for k in range(3)])
        true = np.array([h[drum] for _, h in some])
        for held in sorted(set(sets)):
            there, rest = sets == held, sets != held
            found = x[there] @ fitted(x[rest], true[rest]) > 0
            print(f"{drum}, {held}: F {f(found, true[there]):.3f} of {true[there].sum()} in {there.sum()} hits, "
                  f"{(found & ~true[there]).sum()} wrong")
        for row in fitted(x, true).reshape(4, -1):
            print("    {" + ", ".join(f"{v:.3f}" for v in row) + "},")


main()
