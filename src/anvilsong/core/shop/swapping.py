"""Somebody's settings on their machine → mine: heat and cleaning kept, and what cannot come along."""

from __future__ import annotations

from collections.abc import Mapping

from pydantic import BaseModel, ConfigDict

from anvilsong.core import say
from anvilsong.core.arc.waveform import cycle_means, work_heat_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import Control
from anvilsong.core.machine import (
    SHAPE_WORDS,
    Machine,
    Panel,
    on_panel,
    read_panel,
    show_on_panel,
    within_machine,
)
from anvilsong.core.model import with_equal_heat
from anvilsong.core.registry import BY_KEY, PANEL, foot_within, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence

NEVER_ALONG: tuple[Words, ...] = (
    sentence("shop.cup_lens_stick_out"),
    sentence("shop.tungsten_tip_wear"),
    sentence("shop.arc_length_torch_angle"),
    sentence("shop.how_clean_metal_was"),
)


class Swap(BaseModel):
    """Theirs canonically, mine, my panel, and what differs in effect."""

    model_config = ConfigDict(frozen=True)

    theirs: Settings
    mine: Settings
    panel: Panel
    heat_theirs_w: float
    heat_mine_w: float
    cleaning_theirs_a: float
    cleaning_mine_a: float
    differs: list[Words]
    not_along: list[Words]

    @property
    def keeps_heat(self) -> bool:
        return abs(self.heat_mine_w / self.heat_theirs_w - 1) <= 0.01


def swap(
    values: Mapping[str, float],
    theirs: Machine,
    mine: Machine,
    base: Settings,
    c: Coefficients | None = None,
    control: Control = "pedal",
) -> Swap:
    """Read their panel, set mine, keep the work's heat.

    What my panel cannot show (share, shape, trim, frequency past its ends) is clipped first; the amps are
    then moved so that the
    heat is theirs again, as far as my machine reaches, and in its panel's own steps. Under a pedal that is
    the ceiling; the foot, as in
    ``base``, keeps its
    own heat as long as the ceiling lets it.
    """
    return brought_to(read_panel(values, theirs, base, control), mine, c, control)


def brought_to(
    canonical: Settings, mine: Machine, c: Coefficients | None = None, control: Control = "pedal"
) -> Swap:
    """Settings on another machine, as ``swap``, from the settings themselves."""
    c = c or nominal()
    reachable = within_machine(canonical, mine)
    shaped = on_panel(reachable, mine, control)
    # Everything but the amps stands; now the amps give the same heat. A panel that shows EP amps follows
    # them.
    equal = with_equal_heat(canonical, shaped, c)
    full = min(max(equal.amps_set, mine.least_a), mine.most_a)
    aimed = foot_within(equal.model_copy(update={"amps_set": full}), control)
    panel = show_on_panel(aimed, mine)
    # What is kept is measured on what the panel's own steps make of it.
    limited = on_panel(aimed, mine, control)
    heats = [float(work_heat_w(settings.wave(settings.amps_set), c)) for settings in (canonical, limited)]
    cleaning = [float(cycle_means(settings.wave(settings.amps_set)).ep) for settings in (canonical, limited)]
    differs = _differences(canonical, limited, mine)
    if abs(heats[1] / heats[0] - 1) > 0.01:
        differs.insert(0, f"Heat: {mine.name} reaches {percent(heats[1] / heats[0])} of theirs.")
    if abs(cleaning[1] / cleaning[0] - 1) > 0.05:
        differs.append(sentence("shop.cleaning_ep_half_carries", cleaning=cleaning[1] / cleaning[0]))
    differs += [line.said for line in panel.lines if line.said]
    return Swap(
        theirs=canonical,
        mine=limited,
        panel=panel,
        heat_theirs_w=heats[0],
        heat_mine_w=heats[1],
        cleaning_theirs_a=cleaning[0],
        cleaning_mine_a=cleaning[1],
        differs=list(dict.fromkeys(differs)),
        not_along=[*NEVER_ALONG, *_not_on(canonical, mine)],
    )


def _differences(theirs: Settings, mine: Settings, machine: Machine) -> list[Words]:
    found = list[Words]()
    for key in ("ep_share", "frequency_hz", "ep_trim", "shape_en"):
        entry, was, now = BY_KEY[key], get_value(theirs, key), get_value(mine, key)
        if entry.dimension is None:
            if was != now:
                found.append(
                    sentence(
                        "shop.instead_amps_are_moved",
                        words=entry.words,
                        now=SHAPE_WORDS[now].lower(),
                        before=SHAPE_WORDS[was].lower(),
                    )
                )
        elif abs(was - now) > entry.step:
            found.append(
                say.joined(
                    f"{entry.words}: ",
                    say.setting(now, entry.dimension, entry.decimals),
                    " instead of ",
                    say.setting(was, entry.dimension, entry.decimals),
                    ".",
                )
            )
    for name in ("pulse", "mix"):
        if getattr(theirs, name) is not None and getattr(mine, name) is None:
            what = "pulse" if name == "pulse" else "mixed AC and DC"
            can = machine.can_pulse if name == "pulse" else machine.can_mix
            lacks = sentence("shop.leaves_no_room_few", what=what) if can else f"has no {what}"
            found.append(sentence("shop.same_mean_heat_run", name=machine.name, lacks=lacks))
    return found


def _not_on(theirs: Settings, mine: Machine) -> list[Words]:
    """Settings of theirs that my panel has no control for."""
    if not mine.controls:
        return []
    missing = [
        say.within(entry.words)
        for entry in PANEL
        if get_value(theirs, entry.key) is not None
        and mine.control(entry.key) is None
        and not entry.key.startswith("shape_ep")
    ]
    return (
        [say.joined(f"No control on {mine.name} for ", say.joined(*missing, by=", "), ".")] if missing else []
    )
