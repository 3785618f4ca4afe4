"""A change in words: what to do, on the panel, and what it does."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.bead.next import NextChange
from anvilsong.core.heat.pedal import pedal_used
from anvilsong.core.machine import Machine, PanelLine, show_on_panel
from anvilsong.core.model import Consequences
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence


def plainly_said(
    before: Settings, after: Settings, key: str, words: tuple[Words, Words], machine: Machine
) -> Words:
    """A change of one setting, and literally nothing else; or whatever else on the set line moves, and why.

    ``words`` are the setting's own figures before and after.
    """
    said = [say.joined("Change ", say.within(BY_KEY[key].words), " from ", words[0], " to ", words[1], ".")]
    feet = [f"{settings.amps_run:.0f}" for settings in (before, after)]
    if key not in ("amps_run", "amps_set") and feet[0] != feet[1]:
        if after.amps_run == after.amps_set and before.amps_run == before.amps_set:
            said.append(sentence("bead.set_machine_instead_with", now=feet[1], before=feet[0]))
        else:
            said.append(sentence("bead.pedal_follows_about_instead", now=feet[1], before=feet[0]))
    said += [
        sentence(
            "bead.panel_goes_along",
            label=was.label,
            before=was.shown,
            now=now.shown,
            unit=f" {now.unit}".rstrip(),
        )
        for was, now in _also(before, after, key, machine)
    ]
    return say.joined(*(said if len(said) > 1 else [*said, "Nothing else."]), by=" ")


def _also(
    before: Settings, after: Settings, key: str, machine: Machine
) -> Iterator[tuple[PanelLine, PanelLine]]:
    """Controls that count in shares of another one, such as amps of the positive half, and so move too."""
    its_own = {key, "amps_set", *(("shape_ep",) if key == "shape_en" else ())}
    for was, now in zip(*(show_on_panel(each, machine).lines for each in (before, after)), strict=True):
        if was.setting not in its_own and was.shown != now.shown:
            yield was, now


def change_said(before: Settings, after: Settings, key: str, plainly: Words) -> Words:
    """A change in a sentence; one of the foot says which way to press."""
    if before.amps_run == after.amps_run or key not in ("amps_set", "amps_run"):
        return plainly
    more = after.amps_run > before.amps_run
    foot = sentence("bead.about_while_welding_instead", now=after.amps_run, before=before.amps_run)
    if key == "amps_run" or before.amps_set == after.amps_set:
        return say.joined(
            f"{'Press further' if more else 'Ease off'}: ",
            foot,
            f". The machine stays at {after.amps_set:.0f} A.",
        )
    if before.amps_run == before.amps_set and after.amps_run == after.amps_set:
        return plainly
    return sentence(
        "bead.set_machine_instead_press", now=after.amps_set, before=before.amps_set, welding=foot
    )


def change_on_panel(before: Settings, after: Settings, key: str, machine: Machine) -> str:
    """The change as the panel shows it, before and after; empty where the panel does not show it."""
    if key == "amps_run":
        shares = [percent(float(pedal_used(s.amps_run, s.start_amps, s.amps_set))) for s in (before, after)]
        return f"Pedal: {shares[0]} → {shares[1]} of its way"
    lines: list[PanelLine | None] = [
        next((line for line in show_on_panel(s, machine).lines if line.setting == key), None)
        for s in (before, after)
    ]
    if lines[0] is None or lines[1] is None:
        return ""
    unit = f" {lines[1].unit}" if lines[1].unit else ""
    return f"{lines[1].label}: {lines[0].shown} → {lines[1].shown}{unit}"


def effects_of(was: Consequences, now: Consequences) -> dict[str, float]:
    """After minus before of what a change is made for: load, heat W, border mm, pool mm."""
    names = ("tungsten_load", "work_heat_w", "border_mm", "pool_width_mm")
    return {name: getattr(now, name) - getattr(was, name) for name in names}


def effect_words(change: NextChange, was: Consequences) -> list[Words]:
    """The change's effects in words: tungsten, heat, border."""
    if not change.effects:
        return []
    load = change.effects["tungsten_load"]
    heat = change.effects["work_heat_w"] / was.work_heat_w
    same = abs(heat) < 0.005
    words: list[Words] = [
        f"Tungsten load {percent(was.tungsten_load)} → {percent(was.tungsten_load + load)}."
    ]
    words.append(
        sentence("bead.heat_into_work_stays")
        if same
        else f"Heat into the work {'+' if heat >= 0 else '−'}{abs(heat) * 100:.0f} %."
    )
    if change.expected_border_mm is not None:
        words.append(say.joined("Border expected ", say.mm(change.expected_border_mm), "."))
    return words
