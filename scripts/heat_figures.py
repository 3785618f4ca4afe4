"""Figures and numbers of docs/heat.md: limits of the closed solution, the plate on its grid, two textbook
cases.
"""

from __future__ import annotations

from pathlib import Path

import matplotlib

matplotlib.use("Agg")

import matplotlib.pyplot as plt
import numpy as np

from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.moving_source import rise_per_watt, thin_plate_rise_per_watt
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.plate_run import NO_LOSS, PlateRun

TARGET = Path("docs/heat")
K, RHO = 0.2, 2.7e-3
A = K / RHO
PLAIN = MetalHeat(RHO, K, 582, 652, simple=True)
REAL = MetalHeat(RHO, K, 582, 652)
INK, EMBER, FROST, MUTE = "#1d2125", "#b93d14", "#176b7d", "#8a8578"


def new(title: str, across: str, up: str) -> tuple[plt.Figure, plt.Axes]:
    figure, axes = plt.subplots(figsize=(6.4, 3.6), dpi=110, layout="constrained")
    axes.set(title=title, xlabel=across, ylabel=up)
    axes.spines[["top", "right"]].set_visible(False)
    return figure, axes


def save(figure: plt.Figure, name: str) -> None:
    TARGET.mkdir(exist_ok=True)
    figure.savefig(TARGET / f"{name}.png", metadata={"Software": None})
    plt.close(figure)


def limits() -> None:
    """The mirror-source solution against both of its limits, over thickness."""
    t = np.geomspace(0.3, 60, 60)
    y, v = 4.0, 3.6
    whole = np.array([rise_per_watt(Plate(each, v, K, A), -3.0, y, 0.0).item() for each in t])
    thin = np.array([thin_plate_rise_per_watt(Plate(each, v, K, A), -3.0, y) for each in t])
    r, kappa = np.hypot(3.0, y), v / (2 * A)
    thick = np.exp(-kappa * (r - 3.0)) / (2 * np.pi * K * r)
    figure, axes = new("One solution, both limits", "thickness, mm", "rise per watt, K/W")
    axes.loglog(t, whole, color=INK, label="mirror sources and series")
    axes.loglog(t, thin, "--", color=EMBER, label="thin plate")
    axes.axhline(thick, linestyle="--", color=FROST, label="thick plate")
    axes.legend(frameon=False)
    save(figure, "limits")
    print(f"thin limit at {t[0]:.1f} mm: {whole[0] / thin[0] - 1:+.3%}")
    print(f"thick limit at 60 mm: {whole[-1] / thick - 1:+.3%}")


def welded(
    metal: MetalHeat, grid: tuple[float, float], seconds: float, heat: float, size: tuple[float, float]
) -> PlateRun:
    """An arc along the middle, from 60 mm on, on cells and steps of ``grid``."""
    (cell, dt), v = grid, 4.0
    run = PlateRun(np.full((round(size[1] / cell), round(size[0] / cell)), 3.0), cell, metal, air=NO_LOSS)
    for n in range(round(seconds / dt)):
        run.step(dt, heat, *((60 + v * dt * each, size[1] / 2) for each in (n, n + 1)), sigma_mm=1.5)
    return run


def on_the_grid() -> None:
    """Behind a long run: the plate on its grid against the thin-plate solution."""
    v, heat, size = 4.0, 900.0, (330.0, 240.0)
    run = welded(PLAIN, (1.0, 0.05), 50.0, heat, size)
    x = 60 + v * 50
    along = np.arange(-120, 25, 1.0)
    figure, axes = new("Behind a long run, constants fixed", "along the run, mm from the arc", "°C")
    for side, colour in ((6.0, EMBER), (10.0, INK), (20.0, FROST)):
        found = [run.at_c(x + xi, size[1] / 2 + side) for xi in along]
        wanted = [20 + heat * thin_plate_rise_per_watt(Plate(3.0, v, K, A), xi, side) for xi in along]
        axes.plot(along, found, color=colour, label=f"{side:.0f} mm aside")
        axes.plot(along[::6], wanted[::6], "o", color=colour, markersize=3)
    axes.legend(frameon=False, title="line: grid; dots: Rosenthal")
    save(figure, "plate")
    print(f"energy: {run.gained_j / run.put_in_j - 1:+.3%}")
    base = None
    for name, cell, dt in (
        ("1 mm, 0.05 s", 1.0, 0.05),
        ("0.5 mm, 0.05 s", 0.5, 0.05),
        ("1 mm, 0.025 s", 1.0, 0.025),
    ):
        real = welded(REAL, (cell, dt), 15.0, 950.0, (220.0, 140.0))
        width = real.pool_width_mm(120.0, 70.0, (1.0, 0.0), 20.0)
        base = base or width
        print(f"pool at {name}: {width:.3f} mm ({width / base - 1:+.2%})")


def cases() -> None:
    """Cooling rate on the centre line and peak temperatures beside the bead, after Adams (1958), for 3 mm
    plate.
    """
    v, heat, size, t = 6.0, 1000.0, (420.0, 260.0), 3.0
    dt, cell = 0.05, 1.0
    run = PlateRun(np.full((round(size[1]), round(size[0])), t), cell, PLAIN, air=NO_LOSS)
    place, peaks = 200.0, np.zeros(60)
    history: list[tuple[float, float]] = []
    for n in range(round(56 / dt)):
        run.step(dt, heat, *((60 + v * dt * each, size[1] / 2) for each in (n, n + 1)), sigma_mm=1.0)
        history.append((run.time_s, run.at_c(place, size[1] / 2)))
        column = run.temperature_c[round(size[1] / 2) :, round(place)][: peaks.size]
        peaks = np.maximum(peaks, column)
    times, temperatures = np.array(history).T
    net, tm = heat / v, 617.0
    figure, axes = new(
        "Peak temperature beside the bead, 3 mm, 167 J/mm", "mm from the edge of the melt", "°C"
    )
    y = np.arange(peaks.size) + 0.5
    edge = float(np.interp(-tm, -peaks, y))
    beside = np.linspace(1, 50, 60)
    adams = 20 + 1 / (4.13 * RHO * 1.0 * t * beside / net + 1 / (tm - 20))
    axes.plot(y - edge, peaks, color=INK, label="plate on its grid")
    axes.plot(beside, adams, "o", color=EMBER, markersize=3, label="Adams 1958")
    axes.set_xlim(0, 50)
    axes.legend(frameon=False)
    save(figure, "peaks")
    for mm in (5.0, 10.0, 20.0, 40.0):
        ours, theirs = float(np.interp(mm + edge, y, peaks)), float(np.interp(mm, beside, adams))
        apart = (ours - 20) / (theirs - 20) - 1
        print(f"peak {mm:.0f} mm beside the melt: grid {ours:.0f} °C, Adams {theirs:.0f} °C ({apart:+.1%})")
    cooling = times > times[int(np.argmax(temperatures))]
    rate = -np.gradient(temperatures, times)
    figure, axes = new("Cooling rate on the centre line", "temperature, °C", "K/s")
    level = np.linspace(150, 420, 40)
    ours = np.interp(-level, -temperatures[cooling], rate[cooling])
    theirs = 2 * np.pi * K * RHO * 1.0 * (t / net) ** 2 * (level - 20) ** 3
    axes.plot(level, ours, color=INK, label="plate on its grid")
    axes.plot(level[::3], theirs[::3], "o", color=EMBER, markersize=3, label="Adams 1958, thin plate")
    axes.legend(frameon=False)
    save(figure, "cooling")
    for c in (200.0, 300.0, 400.0):
        one, other = float(np.interp(c, level, ours)), float(np.interp(c, level, theirs))
        print(f"cooling at {c:.0f} °C: grid {one:.1f} K/s, Adams {other:.1f} K/s ({one / other - 1:+.1%})")


if __name__ == "__main__":
    limits()
    on_the_grid()
    cases()
