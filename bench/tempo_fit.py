#!/usr/bin/python3
"""Weights of the clues to a recording's tempo and bars: a conditional logit over what tempo_study printed.
tempo_fit.py CLUES.json: prints the weights of tempo_level.cpp and bar_lines.cpp, and how often each choice is right when
all recordings of one set are held back."""
import json
import re
import sys

import numpy as np
from scipy.optimize import minimize

PULL = 0.01  # towards 0, of standardised weights


def recording(item):
    """Variants and excerpts of one recording count as one."""
    return item["set"] + re.sub(r"-(single|tiled|lead|half|noisy|oh|mix|cut\d?)$", "", item["name"])


class Choices:
    def __init__(self, items, kind, weight):
        self.items = [i for i in items if any(c["right"] for c in i[kind])]
        wide = max(len(i[kind]) for i in self.items)
        n = len(self.items[0][kind][0]["clues"])
        self.x, self.there = np.zeros((len(self.items), wide, n)), np.zeros((len(self.items), wide), bool)
        self.right = np.zeros_like(self.there)
        for row, item in enumerate(self.items):
            for k, c in enumerate(item[kind]):
                self.x[row, k], self.there[row, k], self.right[row, k] = c["clues"], True, c["right"]
        self.spread = self.x[self.there].std(0) + 1e-9
        names = [recording(i) for i in self.items]
        self.weight = np.array([weight(i) / np.sqrt(names.count(m)) for i, m in zip(self.items, names)])
        self.sets = np.array([i["set"] for i in self.items])

    def likelihoods(self, rows, w):
        s = self.x[rows] @ w
        s[~self.there[rows]] = -1e9
        e = np.exp(s - s.max(1, keepdims=True))
        return e / e.sum(1, keepdims=True)

    def fit(self, rows):
        v = self.weight[rows]

        def loss(u):
            p = self.likelihoods(rows, u / self.spread)
            good = p * self.right[rows]
            t = good.sum(1) + 1e-12
            slope = np.einsum("i,ij,ijk->k", v, good / t[:, None] - p, self.x[rows] / self.spread)
            return -(v * np.log(t)).sum() / v.sum() + PULL * (u @ u) / 2, -slope / v.sum() + PULL * u

        return minimize(loss, np.zeros(len(self.spread)), jac=True, method="L-BFGS-B").x / self.spread

    def hits(self, rows, w):
        p = self.likelihoods(rows, w)
        return self.right[rows][np.arange(len(p)), p.argmax(1)]

    def report(self, title):
        everything = np.ones(len(self.items), bool)
        held = np.zeros(len(self.items), bool)
        for s in sorted(set(self.sets)):
            held[self.sets == s] = self.hits(self.sets == s, self.fit(self.sets != s))
        w = self.fit(everything)
        print(f"{title}: {len(self.items)} of {len(ITEMS)} can be right")
        print("  weights", ", ".join(f"{x:.3f}" for x in w))
        own = self.hits(everything, w)
        for kind in ("group", "meter"):
            for g in sorted({i[kind] for i in self.items}):
                of = np.array([i[kind] == g for i in self.items])
                print(f"  {g:8s} {of.sum():4d}  set held back {held[of].mean():.3f}   own {own[of].mean():.3f}")


ITEMS = json.load(open(sys.argv[1]))
# Without drums a waltz's level is a matter of taste (it may be felt in one, or in two against its three): such pieces are
# judged, not learned from. A meter with a question mark: so is that recording's level, by half.
Choices(ITEMS, "levels", lambda i: 0 if i["group"].startswith("keys") else 0.5 if i["meter"].endswith("?") else 1).report("tempo level")
Choices(ITEMS, "bars", lambda i: 1 if i["meter"].startswith("4/4") else 4).report("bars")
