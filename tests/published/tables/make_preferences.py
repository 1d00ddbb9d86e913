#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Abilities of a Bradley-Terry model by Zermelo's iteration (1929; Hunter 2004, "MM algorithms for generalized
Bradley-Terry models", section 2), which shares nothing with the curvature that the program climbs by.

The wins are a season of seven teams, thirteen games each pair: the worked example of Agresti, Categorical Data
Analysis, on Bradley-Terry models (from memory). It prints abilities 1.58, 1.44, 1.29, 1.25, 1.11, 0.68, 0.

    python3 make_preferences.py > preferences.txt
"""

WINS = [
    [0, 7, 9, 7, 7, 9, 11],
    [6, 0, 7, 5, 11, 9, 9],
    [4, 6, 0, 7, 7, 8, 12],
    [6, 8, 6, 0, 6, 7, 10],
    [6, 2, 6, 7, 0, 7, 12],
    [4, 4, 5, 6, 6, 0, 6],
    [2, 4, 1, 3, 1, 7, 0],
]


def abilities(wins):
    n = len(wins)
    worth = [1.0] * n
    for _ in range(20000):
        worth = [
            sum(wins[i]) / sum((wins[i][j] + wins[j][i]) / (worth[i] + worth[j]) for j in range(n) if j != i)
            for i in range(n)
        ]
        total = sum(worth)
        worth = [each / total for each in worth]
    return worth


if __name__ == "__main__":
    import math

    worth = abilities(WINS)
    for i, row in enumerate(WINS):
        print("abcdefg"[i], *row, f"{math.log(worth[i] / worth[-1]):.10f}")
