"""The odds of `instruments/sureness.py`, fitted anew to pictures of both simulated cameras.

Prints a base and a weight a sign: a logistic fit, no weight below zero, to whether each border was read
within 0.35 mm or 10 %. Its pictures are none of those that `bench/measure.py` judges by.
"""

from __future__ import annotations

import sys
from multiprocessing import Pool
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

sys.path.insert(0, str(Path(__file__).parents[1] / "bench"))

import measure
from anvilsong.instruments.bead_reader import grey_of, trace
from anvilsong.instruments.edges import edges_of
from anvilsong.instruments.profiles import profiles_of
from anvilsong.instruments.sections import OTHERWISE, USUAL, sections_of
from anvilsong.instruments.strip import unroll
from anvilsong.instruments.sureness import Signs, signs_of, terms

SEED, PICTURES = 11, {"lit, clean": 80, "painted, clean": 80, "lit, bad": 160, "painted, bad": 140}
NEAR_MM, NEAR_SHARE, STIFF = 0.35, 0.1, 0.25

Case = tuple[Signs, bool]


def cases_of(picture: tuple[str, int]) -> list[Case]:
    """The signs of each side of one picture, looked at each way, and whether its border was right."""
    name, number = picture
    take, _ = measure.SETS[name]
    pixels, marks, truth, _ = take(np.random.default_rng([SEED, number]), SEED * 1000 + number)
    profiles = profiles_of(unroll(grey_of(pixels), marks))
    found = []
    for way in (USUAL, *OTHERWISE):
        sections = sections_of(profiles, way)
        if sections is None:
            continue
        edges = edges_of(profiles, sections)
        outer_left, toe_left, toe_right, outer_right = (np.mean(trace(edge, profiles)) for edge in edges)
        widths = (toe_left - outer_left, outer_right - toe_right)
        for signs, width, true in zip(signs_of(profiles, sections, edges), widths, truth[1:], strict=True):
            found.append((signs, bool(abs(width - true) <= max(NEAR_MM, NEAR_SHARE * true))))
    return found


def fitted(cases: list[Case]) -> tuple[float, dict[str, float]]:
    """Base and weights."""
    names = list(terms(cases[0][0]))
    given = np.array([[terms(signs)[name] for name in names] for signs, _ in cases])
    right = np.array([near for _, near in cases], dtype=float)
    spread = given.std(axis=0)

    def miss(weights: np.ndarray) -> float:
        odds = weights[0] + given @ weights[1:]
        return float(
            np.sum(np.logaddexp(0, odds) - right * odds) + STIFF * np.sum((weights[1:] * spread) ** 2)
        )

    bounds = [(None, None), *[(0, None)] * len(names)]
    found = minimize(miss, np.zeros(len(names) + 1), bounds=bounds).x
    return float(found[0]), dict(zip(names, found[1:].round(2).tolist(), strict=True))


def main() -> None:
    """Fit and print."""
    pictures = [(name, number) for name, count in PICTURES.items() for number in range(count)]
    with Pool() as pool:
        cases = [case for found in pool.imap(cases_of, pictures, chunksize=8) for case in found]
    base, weights = fitted(cases)
    print(f"{len(cases)} borders, {np.mean([near for _, near in cases]):.0%} right")
    print(f"BASE = {base:.2f}")
    print(f"ODDS = {weights}")


if __name__ == "__main__":
    main()
