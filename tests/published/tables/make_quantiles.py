#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes quantiles.txt: the nine sample quantiles of Hyndman and Fan (1996), The American Statistician 50(4):361-365 (from
memory), in exact rational arithmetic. Compared with R 4.2.2 quantile(x, p, type = k) and numpy.quantile(method = ...): equal
to 1e-12 but where n p is an integer that the product of doubles misses (R types 1, 2), and numpy 1.24 type 3 at half ties."""
from fractions import Fraction as F
from math import floor

vectors = {
    "A": "15 20 35 40 50",
    "B": "1 2 2 3 4 5 5 5 9 10",
    "C": " ".join(map(str, range(1, 11))),
    "D": "16.6 16.7 16.6 16.8 16.5 16.7 16.6 33.3 16.7 16.6 16.5 16.9 16.7 50.1 16.6 16.7 16.8 16.6 16.4 16.7",
    "E": " ".join(map(str, range(1, 101))),
    "F": " ".join(map(str, range(1, 1001))),
}
levels = "0.001 0.01 0.05 0.07 0.1 0.25 0.29 0.4 0.5 0.57 0.75 0.9 0.95 0.99 0.999".split()


def quantile(x, p, k):
    n = len(x)
    m = [F(0), F(0), F(-1, 2), F(0), F(1, 2), p, 1 - p, (p + 1) / 3, p / 4 + F(3, 8)][k - 1]
    j = floor(n * p + m)
    g = n * p + m - j
    w = [int(g > 0), F(1) if g > 0 else F(1, 2), 0 if g == 0 and j % 2 == 0 else 1, g, g, g, g, g, g][k - 1]
    at = lambda i: x[min(max(i, 1), n) - 1]
    return (1 - w) * at(j) + w * at(j + 1)


with open("quantiles.txt", "w") as out:
    for name, text in vectors.items():
        print("vector", name, text, file=out)
        x = sorted(F(v) for v in text.split())
        for p in levels:
            print("p", p, *(f"{float(quantile(x, F(p), k)):.15g}" for k in range(1, 10)), file=out)
