"""The pedal as a strip: from start amps to the machine's ceiling, with the zone the job is worked in and the
foot in it.

A piece of page and not a picture, so that its words keep their size on a narrow screen.
"""

from __future__ import annotations

from markupsafe import Markup

from anvilsong.core.heat.pedal import NO_RESERVE, TOO_COARSE, pedal_used
from anvilsong.core.job import Job
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import NOTHING, Drawn

WORDS_INSIDE = (25.0, 75.0)  # per cent: nearer to an end the foot's words lean inwards


def pedal_drawing(job: Job, settings: Settings, zone: tuple[float, float] | None) -> Drawn:
    """The strip for a pedal; nothing with a torch switch.

    Parameters
    ----------
    zone : amps under the foot with which the plan's aims are met; not drawn when left out
    """
    if job.control != "pedal":
        return NOTHING
    start, run, full = settings.start_amps, settings.amps_run, settings.amps_set
    used = float(pedal_used(run, start, full))

    def at(amps: float) -> float:
        return 100 * min(max(float(pedal_used(amps, start, full)), 0.0), 1.0)

    foot = at(run)
    lean = "left" if foot < WORDS_INSIDE[0] else "right" if foot > WORDS_INSIDE[1] else "middle"
    band = ""
    if zone is not None and at(zone[1]) > at(zone[0]):
        band = f'<span class="pedal-zone" style="left:{at(zone[0]):.1f}%;width:{at(zone[1]) - at(zone[0]):.1f}%"></span>'
    return Drawn(
        Markup(
            f'<p class="pedal-foot {lean}" style="left:{foot:.1f}%"><b>{run:.0f} A</b> while welding, {percent(used)} of the pedal</p><div class="pedal-way" aria-hidden="true">{band}<span class="pedal-mark" style="left:{foot:.1f}%"></span></div><p class="pedal-ends"><span>start {start:.0f} A</span><span>'
        ),
        _words(used),
        Markup(f"</span><span>machine amps {full:.0f} A</span></p>"),
    )


def _words(used: float) -> Words:
    if used < TOO_COARSE:
        return sentence("web.coarse_all_first_third")
    return (
        sentence("web.nothing_left_push_with") if used > NO_RESERVE else sentence("web.room_press_ease_off")
    )
