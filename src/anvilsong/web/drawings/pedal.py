"""The pedal as a strip: from start amps to the machine's ceiling, with the zone the job is worked in and the foot in it."""

from __future__ import annotations

from anvilsong.core.heat.pedal import NO_RESERVE, TOO_COARSE, pedal_used
from anvilsong.core.job import Job
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Settings
from anvilsong.web.drawings.svg import Drawing

WIDTH, HEIGHT, LEFT, RIGHT, TOP, THICK = 640.0, 84.0, 8.0, 632.0, 30.0, 18.0


def pedal_drawing(job: Job, settings: Settings, zone: tuple[float, float] | None) -> str:
    """The strip for a pedal; nothing with a torch switch.

    Parameters
    ----------
    zone : amps under the foot with which the plan's aims are met; not drawn when left out
    """
    if job.control != "pedal":
        return ""
    start, run, full = settings.start_amps, settings.amps_run, settings.amps_set
    used = float(pedal_used(run, start, full))

    def x(amps: float) -> float:
        return LEFT + (RIGHT - LEFT) * min(max(float(pedal_used(amps, start, full)), 0.0), 1.0)

    place = _words(used)
    title = f"Pedal: starts at {start:.0f} A, {run:.0f} A under the foot, the machine at {full:.0f} A"
    drawing = Drawing(
        WIDTH, HEIGHT, title, f"The foot lies at {percent(used)} of the pedal, {place}.", "pedal"
    )
    drawing.rect(LEFT, TOP, RIGHT - LEFT, THICK, "pedal-way", 4)
    if zone is not None and x(zone[1]) > x(zone[0]):
        drawing.rect(x(zone[0]), TOP, x(zone[1]) - x(zone[0]), THICK, "pedal-zone")
    foot = x(run)
    drawing.polygon([(foot - 7, TOP - 9), (foot + 7, TOP - 9), (foot, TOP + 2)], "pedal-foot")
    drawing.line((foot, TOP), (foot, TOP + THICK), "pedal-foot-line")
    anchor = "start" if foot < LEFT + 150 else "end" if foot > RIGHT - 150 else "middle"
    drawing.text(
        (foot, TOP - 13), f"{run:.0f} A under the foot, {percent(used)} of the pedal", "label", anchor
    )
    drawing.text((LEFT, HEIGHT - 14), f"start {start:.0f} A", "label")
    drawing.text((WIDTH / 2, HEIGHT - 14), place, "label soft", "middle")
    drawing.text((RIGHT, HEIGHT - 14), f"machine at {full:.0f} A", "label", "end")
    return drawing.render()


def _words(used: float) -> str:
    if used < TOO_COARSE:
        return "coarse: all of it in the first third"
    return "nothing left to push with" if used > NO_RESERVE else "room to press and to ease off"
