#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Optima of 1,000 multiple-choice knapsacks under four resources, by HiGHS (Debian, package python3-scipy), which
shares nothing with the search of the program: binaries x of every item, one a group, at most the capacities.

Drawn by splitmix64 (Steele, Lea and Flood 2014) in whole numbers, so that the test draws the same. Kinds: "levels",
where each next level of a setting costs more on the resources it pays on and gains less; and uncorrelated, weakly and
strongly correlated values (Kellerer, Pferschy and Pisinger 2004, 11.9, with four resources in the place of one).

    python3 make_knapsacks.py > knapsacks.txt

Lines: kind, groups, seed, the sum of all values and uses, the optimum; -1 where nothing fits.
"""
import sys

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import lil_matrix

KINDS = [("levels", 25, 300), ("uncorrelated", 25, 400), ("weakly", 12, 200), ("strongly", 7, 100)]
ITEMS, RESOURCES, WHOLE = 5, 4, (1 << 64) - 1


class Mix:
    def __init__(self, state):
        self.state = state & WHOLE

    def below(self, n):
        self.state = (self.state + 0x9E3779B97F4A7C15) & WHOLE
        z = self.state
        z = ((z ^ (z >> 30)) * 0xBF58476D1CE4E5B9) & WHOLE
        z = ((z ^ (z >> 27)) * 0x94D049BB133111EB) & WHOLE
        return (z ^ (z >> 31)) % n


def drawn(kind, groups, seed):
    mix = Mix(1000003 * seed + kind)
    values, uses = [], []
    for _ in range(groups):
        pays = [mix.below(100) < 60]
        pays.append(mix.below(100) < 40 or not pays[0])
        pays += [mix.below(100) < 30, pays[0]]
        use, value = [0] * RESOURCES, 0
        for level in range(ITEMS):
            if kind == 0:
                values.append(value)
                uses.append(list(use))
                steps = [mix.below(400) for _ in range(3)]
                steps.append(steps[0] * (85 + mix.below(31)) // 100)
                value += mix.below(2500) // (level + 1)
                use = [u + (s if p else 0) for u, s, p in zip(use, steps, pays)]
                continue
            row = [1 + mix.below(1000) for _ in range(RESOURCES)]
            mean = sum(row) // RESOURCES
            uses.append(row)
            drawn_value = mix.below(1000)
            values.append([0, 1 + drawn_value, max(1, mean + drawn_value % 201 - 100), mean + 100][kind])
    capacity = []
    for r in range(RESOURCES):
        rows = [[uses[ITEMS * g + i][r] for i in range(ITEMS)] for g in range(groups)]
        capacity.append((sum(map(min, rows)) + sum(map(max, rows))) // 2)
    return values, uses, capacity


def optimum(values, uses, capacity):
    n = len(values)
    one = lil_matrix((n // ITEMS, n))
    for i in range(n):
        one[i // ITEMS, i] = 1
    result = milp(-np.array(values, dtype=float), integrality=np.ones(n), bounds=Bounds(0, 1),
                  constraints=[LinearConstraint(one.tocsr(), 1, 1), LinearConstraint(np.array(uses).T, -np.inf, capacity)],
                  options={"mip_rel_gap": 0, "time_limit": 60})
    if result.status == 2:
        return -1
    if result.status != 0:
        sys.exit(f"not solved: {result.message}")
    return round(-result.fun)


for kind, (name, groups, count) in enumerate(KINDS):
    for seed in range(1, count + 1):
        values, uses, capacity = drawn(kind, groups, seed)
        print(name, groups, seed, sum(values) + sum(map(sum, uses)), optimum(values, uses, capacity))
