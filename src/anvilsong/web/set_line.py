"""The set line: the panel's figures and the gas, in dial order."""

from __future__ import annotations

from dataclasses import dataclass

from anvilsong.core.machine import Machine, PanelLine, not_on_panel
from anvilsong.core.model import Plan
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import figure, unit_words
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence

# On the set line these stand large; the rest of the panel follows small.
LARGE = ("amps_set", "amps_run", "ep_share", "frequency_hz", "ep_trim", "shape_en", "post_flow_s")


@dataclass(frozen=True)
class SetFigure:
    """One figure of the set line: in the panel's words, and canonically."""

    key: str
    label: str
    shown: str
    unit: str
    canonical_label: str
    canonical: str
    canonical_unit: str
    changed: bool
    clipped: bool
    said: Words
    large: bool
    also: str = ""  # the unit of the canonical figure, where it stands beside the panel's own
    lacks: bool = False
    """Whether the panel does not show it."""


def set_line(plan: Plan, planned: Settings | None, machine: Machine, system: UnitSystem) -> list[SetFigure]:
    """The panel's lines and the gas, in dial order."""
    assert plan.settings is not None
    found = [
        _figure(line, plan.settings, planned, system) for line in plan.panel.lines if line.shown != "off"
    ]
    flow = plan.settings.gas.flow_l_min
    words, changed = (
        figure(flow, "flow", system),
        planned is not None and abs(planned.gas.flow_l_min - flow) > 0.04,
    )
    found += [_lacking(key, plan.settings, system) for key in not_on_panel(plan.settings, machine)]
    if plan.job.control == "pedal":
        found.insert(
            1 + next((i for i, item in enumerate(found) if item.key == "amps_set"), -1),
            _foot(plan.settings, planned),
        )
    label = plan.settings.gas.kind.split()[0].capitalize()
    found.append(
        SetFigure(
            "flow_l_min",
            label,
            words,
            unit_words("flow", system),
            "Gas flow",
            words,
            unit_words("flow", system),
            changed,
            False,
            "",
            True,
        )
    )
    return found


def _lacking(key: str, settings: Settings, system: UnitSystem) -> SetFigure:
    """What the plan needs and the panel does not show, in canonical words, marked so."""
    entry = BY_KEY[key]
    dimension = entry.dimension or "number"
    shown = figure(get_value(settings, key), dimension, system, entry.decimals)
    unit = unit_words(dimension, system)
    said = sentence("web.not_on_this_panel")
    return SetFigure(
        key, entry.words, shown, unit, entry.words, shown, unit, False, False, said, False, lacks=True
    )


def _foot(settings: Settings, planned: Settings | None) -> SetFigure:
    """The amps under the foot, which no panel shows."""
    entry, text = BY_KEY["amps_run"], f"{settings.amps_run:.0f}"
    changed = planned is not None and abs(planned.amps_run - settings.amps_run) > 0.4 * entry.step
    return SetFigure("amps_run", entry.words, text, "A", entry.words, text, "A", changed, False, "", True)


def _figure(line: PanelLine, settings: Settings, planned: Settings | None, system: UnitSystem) -> SetFigure:
    entry, value = BY_KEY[line.setting], get_value(settings, line.setting)
    was = get_value(planned, line.setting) if planned else value
    if entry.dimension is None:
        canonical, unit, changed = str(value), "", value != was
    elif value is None:
        canonical, unit, changed = "off", "", was is not None
    else:
        canonical, unit = (
            figure(value, entry.dimension, system, entry.decimals),
            unit_words(entry.dimension, system),
        )
        # A pulse or a mix that was off has nothing to differ from but that.
        changed = was is None or abs(value - was) > 0.4 * entry.step
    # Never 70 and 30 for one balance without saying which is which.
    same = f"{line.shown} {line.unit}" in (f"{canonical} {unit}", f"{canonical} % pos")
    also = "" if line.setting != "ep_share" or same else unit
    return SetFigure(
        line.setting,
        line.label,
        line.shown,
        line.unit,
        entry.words,
        canonical,
        unit,
        changed,
        line.clipped,
        line.said,
        line.setting in LARGE,
        also,
    )
