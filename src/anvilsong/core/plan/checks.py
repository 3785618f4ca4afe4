"""Limits that settings break or come near, as values: warnings and margins."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.arc.sampling import ac_cycles_in_shorter_phase
from anvilsong.core.arc.sound import LOUD_DB, loudness_db, noise_words
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, NO_RESERVE, TOO_COARSE, allowed_duty
from anvilsong.core.job import Job
from anvilsong.core.machine.model import Machine
from anvilsong.core.metal.chemistry import watch_over
from anvilsong.core.metal.preheat import strictest
from anvilsong.core.plan.consequences import OVER_WIDTH_AMBER, OVER_WIDTH_RED, ROOT_SHORT
from anvilsong.core.plan.situation import LEAST_BORDER_MM, MOST_BORDER_MM, STILL_GOOD_BORDER_MM, Situation
from anvilsong.core.plan.values import Consequences, Margin, Warning
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm, longest_stick_out_mm
from anvilsong.core.torch.gas import LEAST_REYNOLDS, TURBULENT_REYNOLDS, planned_flow_l_min
from anvilsong.core.torch.tungsten import (
    LOAD_AT_RUN,
    LOAD_BALLS,
    LOAD_MELTS,
    LOAD_WANDERS,
    STATE_WORDS,
    find_class,
    find_size,
    load_state,
)

MELT_AMBER = OVER_WIDTH_AMBER / OVER_WIDTH_RED
MOST_SQUARE_MM = 6.4  # that amps alone can melt through, where it is asked for
ABOUT_MM = 0.03  # that a plan, made from rounded steps, may miss an aim by
WIDE_OVER_AIM, TUNGSTEN_AMBER = 1.2, 0.9


def refusals(at: Situation) -> list[Warning]:
    """Reasons this job gets no settings at all."""
    found = [
        Warning(code=f"filler_rule_{row.rule}", level="stop", message=_sentence(row.reason))
        for row in at.filler.pair_refused
    ]
    limit = strictest(at.job.a.metal, at.job.b.metal, at.job.temper)
    if at.job.part_temperature_c > limit.limit_c:
        text = f"The part is at {say.celsius(at.job.part_temperature_c)} and may be at most at {say.celsius(limit.limit_c)}: {limit.words}. Let it cool."
        found.append(
            Warning(
                code="part_too_hot",
                level="stop",
                setting="part_temperature_c",
                message=text,
                numbers={"part_c": at.job.part_temperature_c, "limit_c": limit.limit_c},
            )
        )
    if at.surface.refused:
        found.append(
            Warning(code="surface_refused", level="stop", message=at.surface.refused, setting="surface")
        )
    return found


def _sentence(text: str) -> str:
    return text if text.endswith(".") else text + "."


def warnings_for(at: Situation, settings: Settings, seen: Consequences, machine: Machine) -> list[Warning]:
    """Every limit that these settings break or come near, worst first."""
    found = [
        *_pool(at, seen),
        *_cleaning(at, seen),
        *_tungsten(settings, seen),
        *_gas(at.job, settings, seen),
        *_machine(at, settings, seen, machine),
        *_pulse_and_mix(at, settings, machine),
        *_metal(at),
    ]
    return worst_first(found)


def worst_first(warnings: list[Warning]) -> list[Warning]:
    """Stops, then what to watch, then notes; else in their order."""
    order = {"stop": 0, "watch": 1, "note": 2}
    return sorted(warnings, key=lambda warning: order[warning.level])


def _pool(at: Situation, seen: Consequences) -> Iterator[Warning]:
    top, root = seen.pool_width_mm, seen.root_width_mm
    amps = "amps_run" if at.job.control == "pedal" else "amps_set"
    if seen.melt_through >= 1:
        yield Warning(
            code="melt_through",
            level="stop",
            setting=amps,
            message=f"Pool {say.mm(top)} over a root of {say.mm(root)}: it melts through. Fewer amps, or faster.",
            numbers={"melt_through": seen.melt_through},
        )
    elif seen.melt_through >= MELT_AMBER:
        yield Warning(
            code="melt_through_near",
            level="watch",
            setting=amps,
            message=f"Pool {say.mm(top)} wide, root {say.mm(root)}: near sagging. Ten per cent of heat is the difference.",
            numbers={"melt_through": seen.melt_through},
        )
    if at.wants_root and root <= 0:
        yield Warning(
            code="no_root",
            level="stop",
            setting=amps,
            message=f"Full penetration is asked for and the root is not reached ({say.mm(at.root_depth_mm or 0)} deep). More amps, slower, or a bevel.",
        )
    elif at.wants_root and root < ROOT_SHORT * top:
        yield Warning(
            code="short_root",
            level="watch",
            setting=amps,
            message=f"Root {say.mm(root)} under a pool of {say.mm(top)}: little reserve for full penetration.",
        )
    if seen.work_heat_w < 0.85 * seen.heat_wanted_w:
        yield Warning(
            code="cold",
            level="watch",
            setting=amps,
            message=f"{seen.work_heat_w:.0f} W go in, the joint wants {seen.heat_wanted_w:.0f} W: the pool is slow to form and stays narrow.",
            numbers={"work_heat_w": seen.work_heat_w, "heat_wanted_w": seen.heat_wanted_w},
        )
    if seen.filler_heat_share > 0.20:
        yield Warning(
            code="chill",
            level="watch",
            setting="filler_mm",
            message=f"The rod takes {percent(seen.filler_heat_share)} of the heat: over 20 % it lies in lumps. Smaller weld, slower, or hotter.",
            numbers={"filler_heat_share": seen.filler_heat_share},
        )


def _cleaning(at: Situation, seen: Consequences) -> Iterator[Warning]:
    border = seen.border_mm
    if seen.cleaned_width_mm < seen.pool_width_mm:
        yield Warning(
            code="oxide_at_toes",
            level="watch",
            setting="ep_share",
            message=f"Only {say.mm(seen.cleaned_width_mm)} is cleaned and the bead is {say.mm(seen.pool_width_mm)} wide: oxide stays at the toes. Clean better first, then more positive share.",
        )
    elif border < LEAST_BORDER_MM:
        yield Warning(
            code="thin_border",
            level="watch",
            setting="ep_share",
            message=f"Border {say.mm(border)} a side: under {say.mm(LEAST_BORDER_MM)} specks and dull toes are likely.",
        )
    elif "appearance" in at.job.purposes and border > at.aim.high_mm + ABOUT_MM:
        yield Warning(
            code="border_for_look",
            level="watch",
            setting="ep_share",
            message=f"Border {say.mm(border)} a side; {say.mm(at.aim.high_mm)} at most is wanted for the look: trim the positive half, less of it, or faster.",
        )
    elif border > MOST_BORDER_MM:
        yield Warning(
            code="wide_border",
            level="watch",
            setting="ep_share",
            message=f"Border {say.mm(border)} a side: wasted heat and a hot tungsten.",
        )


def _tungsten(settings: Settings, seen: Consequences) -> Iterator[Warning]:
    tungsten = settings.tungsten
    if tungsten is None:
        return
    if find_class(tungsten.class_).never_proposed:
        yield Warning(
            code="thorium",
            level="watch",
            setting="tungsten_class",
            message="Thoriated tungsten: its dust is radioactive. Buy WLa 20; until then grind with extraction, never dry and loose.",
        )
    worst = max(seen.tungsten_load, seen.tungsten_load_set / LOAD_BALLS * LOAD_AT_RUN)
    numbers = {"tungsten_load": seen.tungsten_load, "tungsten_load_set": seen.tungsten_load_set}
    if seen.tungsten_load > LOAD_MELTS:
        yield Warning(
            code="tungsten_melts",
            level="stop",
            setting="tungsten_mm",
            message=f"Tungsten at {percent(seen.tungsten_load)}: {STATE_WORDS['melts']}. Bigger tungsten, less positive share or fewer amps.",
            numbers=numbers,
        )
    elif worst > LOAD_AT_RUN:
        yield Warning(
            code="tungsten_hot",
            level="watch",
            setting="tungsten_mm",
            message=f"Tungsten at {percent(seen.tungsten_load)} under the foot, {percent(seen.tungsten_load_set)} at full press: {STATE_WORDS[load_state(max(seen.tungsten_load, seen.tungsten_load_set))]}.",
            numbers=numbers,
        )
    elif seen.tungsten_load < LOAD_WANDERS:
        yield Warning(
            code="tungsten_cool",
            level="note",
            setting="tungsten_mm",
            message=f"Tungsten at {percent(seen.tungsten_load)}: {STATE_WORDS['wanders']} at low amps.",
            numbers=numbers,
        )
    least = find_size(tungsten.diameter_mm).post_flow_least_s
    if settings.post_flow_s < least:
        yield Warning(
            code="post_flow_short",
            level="watch",
            setting="post_flow_s",
            message=f"Post-flow {settings.post_flow_s:.0f} s: this tungsten needs at least {least:.0f} s, or its tip turns blue.",
        )


def _gas(job: Job, settings: Settings, seen: Consequences) -> Iterator[Warning]:
    least = LEAST_REYNOLDS
    numbers = {"reynolds": seen.reynolds}
    if (
        settings.gas.flow_l_min
        < planned_flow_l_min(least, bore_mm(settings.cup.number), job.helium_share) - 0.05
    ):
        yield Warning(
            code="gas_weak",
            level="watch",
            setting="flow_l_min",
            message=f"Reynolds number {seen.reynolds:.0f} in the cup, under {least:.0f}: draught and stick-out win. More flow.",
            numbers=numbers,
        )
    elif seen.reynolds > TURBULENT_REYNOLDS:
        yield Warning(
            code="gas_turbulent",
            level="watch",
            setting="flow_l_min",
            message=f"Reynolds number {seen.reynolds:.0f} in the cup, over {TURBULENT_REYNOLDS:.0f}: the stream turns turbulent and pulls air in. Less flow.",
            numbers=numbers,
        )
    if job.draught_m_s > 1.0:
        yield Warning(
            code="draught",
            level="stop",
            message=f"Air moves at {say.m_s(job.draught_m_s)} at the joint: over {say.m_s(1, 0)} no flow shields it. Put up a screen.",
        )
    elif job.draught_m_s > 0.5:
        yield Warning(
            code="draught",
            level="watch",
            message=f"Air moves at {say.m_s(job.draught_m_s)} at the joint: put up a screen.",
        )
    longest = longest_stick_out_mm(settings.cup.number, settings.cup.gas_lens)
    if settings.cup.stick_out_mm > longest + 1e-6:
        yield Warning(
            code="stick_out_long",
            level="watch",
            setting="stick_out_mm",
            message=f"Stick-out {say.near_mm(settings.cup.stick_out_mm)}: cup {settings.cup.number} covers {say.near_mm(longest)}.",
        )


def _reach(at: Situation, settings: Settings, seen: Consequences, machine: Machine) -> Iterator[Warning]:
    """What the joint wants at this speed against what the machine has: heat goes with the amps."""
    need = settings.amps_run * seen.heat_wanted_w / max(seen.work_heat_w, 1e-9)
    if need > 1.01 * machine.most_a:
        bevel = at.joint.kind == "butt" and at.job.bevel is None
        # Without a speed of one's own the plan has already tried as slowly as a hand goes.
        fast = at.job.travel_mm_s is not None or settings.travel_mm_s > at.usual_travel_mm_s
        ways = f"{'bevel and more passes' if bevel else 'more passes'}, preheat, {'travel slower, ' if fast else ''}or take a bigger machine"
        yield Warning(
            code="machine_short",
            level="stop",
            setting="amps_set",
            message=f"The joint wants {need:.0f} A and {machine.name} stops at {machine.most_a:.0f} A: {ways}.",
            numbers={"need_a": need, "most_a": machine.most_a},
        )
    elif need < 0.99 * machine.least_a:
        yield Warning(
            code="machine_minimum",
            level="stop" if seen.melt_through >= 1 else "watch",
            setting="amps_set",
            message=f"The joint wants {need:.0f} A and {machine.name} holds no less than {machine.least_a:.0f} A: {percent(machine.least_a / need - 1)} too much heat. Travel fast, feed thin rod often, pulse.",
            numbers={"need_a": need, "least_a": machine.least_a},
        )


def _machine(at: Situation, settings: Settings, seen: Consequences, machine: Machine) -> Iterator[Warning]:
    job = at.job
    yield from _reach(at, settings, seen, machine)
    if settings.amps_set > machine.most_a + 0.5:
        yield Warning(
            code="over_machine",
            level="stop",
            setting="amps_set",
            message=f"{machine.name} stops at {machine.most_a:.0f} A; {settings.amps_set:.0f} A is set.",
        )
    if job.control not in machine.triggers:
        asked = "a pedal" if job.control == "pedal" else f"{job.control.removeprefix('switch_')}-step"
        yield Warning(
            code="trigger",
            level="watch",
            message=f"{machine.name} does not take {asked}: choose another control for this job.",
        )
    if job.control == "pedal":
        if settings.up_slope_s > 0 or settings.down_slope_s > 0:
            yield Warning(
                code="slopes_under_pedal",
                level="watch",
                setting="up_slope_s",
                message="Slopes are on under a pedal: the foot does them. Set both to zero.",
            )
        if seen.pedal_used < TOO_COARSE:
            yield Warning(
                code="pedal_coarse",
                level="watch",
                setting="amps_set",
                message=f"The whole job happens in the first {percent(max(seen.pedal_used, 0))} of the pedal: set fewer amps.",
            )
        elif seen.pedal_used > NO_RESERVE:
            yield Warning(
                code="pedal_no_reserve",
                level="watch",
                setting="amps_set",
                message=f"The pedal is at {percent(seen.pedal_used)}: nothing left to push with.",
            )
    if seen.shortest_half_ms < machine.least_half_ms - 1e-9:
        yield Warning(
            code="half_too_short",
            level="watch",
            setting="frequency_hz",
            message=f"The shorter half lasts {seen.shortest_half_ms:.2f} ms; this machine needs {machine.least_half_ms:g} ms. Lower the frequency or move the balance.",
        )
    yield from _duty(settings, seen, machine)


def _duty(settings: Settings, seen: Consequences, machine: Machine) -> Iterator[Warning]:
    """Duty and torch at the foot, and as a note at full press, where the foot may go for moments but not for a run."""
    duty = min(1.0, seen.arc_time_s / DUTY_CYCLE_S)
    for amps, level, where in (
        (settings.amps_run, "watch", f"At {settings.amps_run:.0f} A"),
        (settings.amps_set, "note", f"Pressed to {settings.amps_set:.0f} A"),
    ):
        rest = float(allowed_duty(amps, machine.duty.amps, machine.duty.share))
        if duty > rest:
            yield Warning(
                code="duty" if level == "watch" else "duty_full_press",
                level=level,
                setting="amps_set",
                message=f"{where} this machine may weld {rest * 10:.1f} of ten minutes, and the run takes {seen.arc_time_s / 60:.1f}.",
                numbers={"amps": amps, "allowed": rest},
            )
            break
    # Runs follow one another, so a short run allows no more than the rating itself.
    allowed = machine.torch_amps * min(1.0, (machine.torch_duty / max(duty, 1e-9)) ** 0.5)
    cooling = "water-cooled" if machine.water_cooled else "air-cooled"
    numbers = {"allowed_a": allowed, "rms_a": seen.rms_a, "rms_set_a": seen.rms_set_a}
    if seen.rms_a > allowed:
        yield Warning(
            code="torch_rating",
            level="watch",
            setting="amps_set",
            message=f"The {cooling} torch bears {allowed:.0f} A on AC for a run this long; {seen.rms_a:.0f} A rms flow through it. A hot handle means stop.",
            numbers=numbers,
        )
    elif seen.rms_set_a > allowed:
        yield Warning(
            code="torch_full_press",
            level="note",
            setting="amps_set",
            message=f"Pressed all the way, {seen.rms_set_a:.0f} A rms flow through the {cooling} torch, which bears {allowed:.0f} A for a run this long: for moments only.",
            numbers=numbers,
        )


def _pulse_and_mix(at: Situation, settings: Settings, machine: Machine) -> Iterator[Warning]:
    if settings.pulse is not None:
        cycles = ac_cycles_in_shorter_phase(settings.wave())
        if cycles < 2:
            yield Warning(
                code="pulse_beats",
                level="watch",
                setting="pulse_rate_hz",
                message=f"Only {cycles:.1f} AC cycles fit the shorter phase of the pulse: pulse and AC beat. Slower pulse or higher frequency.",
                numbers={"cycles": cycles},
            )
        if settings.pulse.base_share * settings.amps_run < machine.least_a:
            yield Warning(
                code="pulse_base_low",
                level="watch",
                setting="pulse_base_share",
                message=f"Base {settings.pulse.base_share * settings.amps_run:.0f} A is under the {machine.least_a:.0f} A this machine holds.",
            )
        if not machine.can_pulse:
            yield Warning(
                code="no_pulse",
                level="stop",
                setting="pulse_rate_hz",
                message=f"{machine.name} has no pulse.",
            )
    if settings.mix is not None:
        if max(at.job.a.thickness_mm, at.job.b.thickness_mm) < 3:
            yield Warning(
                code="mix_on_thin",
                level="watch",
                setting="mix_ac_share",
                message="Mixed AC and DC on thin sheet: heat is hard to hold.",
            )
        if not machine.can_mix:
            yield Warning(
                code="no_mix",
                level="stop",
                setting="mix_ac_share",
                message=f"{machine.name} has no mixed AC and DC.",
            )
    db = loudness_db(settings.wave(), at.job.arc_length_mm)
    if db > LOUD_DB:
        yield Warning(
            code="noise",
            level="note",
            setting="shape_en",
            message=f"The arc is {noise_words(db)}.",
            numbers={"db": db},
        )


def _metal(at: Situation) -> Iterator[Warning]:
    job, best = at.job, at.filler.best
    for side in dict.fromkeys((job.a.alloy, job.b.alloy)):
        metal = (job.a if job.a.alloy == side else job.b).metal
        if metal.stands_in_for:
            yield Warning(
                code="unknown_alloy",
                level="watch",
                message=f"The alloy is a guess: planned as {metal.name}. Run a coupon on the same metal first. If it may be magnesium, stop: file a spot bright, put a drop of vinegar on it, and do not weld if it fizzes.",
            )
        if metal.heat_treatable and "strength" in job.purposes:
            yield Warning(
                code="softened_zone",
                level="watch",
                message=f"{metal.name} is hardened by heat treatment: beside the weld it drops to roughly 60 % of its strength. Design for it.",
            )
    if best and best.sensitivity > watch_over():
        safe = best.largest_safe_dilution
        how = (
            f"keep dilution under {percent(safe)}: more rod, a bevel or a gap"
            if safe
            else "take another filler"
        )
        yield Warning(
            code="crack_range",
            level="watch",
            setting="filler_class",
            message=f"Weld metal of {best.filler} at {percent(at.filler.dilution)} dilution stands at {best.sensitivity:.2f} of the crack range (watch over {watch_over()}): {how}. Qualitative.",
            numbers={"sensitivity": best.sensitivity, "dilution": at.filler.dilution},
        )
    for text in at.filler.watches:
        yield Warning(code="filler_watch", level="watch", setting="filler_class", message=text)
    thick = max(job.a.thickness_mm, job.b.thickness_mm)
    if (
        at.joint.kind == "butt"
        and at.job.bevel is None
        and at.thickness_mm > MOST_SQUARE_MM
        and job.penetration != "partial"
    ):
        yield Warning(
            code="bevel",
            level="watch",
            message=f"Over {say.about_mm(MOST_SQUARE_MM)} a square edge does not melt through from one side: bevel 60 to 90°, root face {say.size(1.6)}, or weld from both sides.",
        )
    if thick > 6 and job.part_temperature_c < 60 and not at.is_casting:
        yield Warning(
            code="preheat_advised",
            level="note",
            setting="preheat_c",
            message=f"Over {say.about_mm(6)}: preheat within the alloy's limit, or have amps to spare.",
        )
    if at.surface.key == "stored":
        yield Warning(code="surface", level="watch", message=at.surface.note)


def margins(at: Situation, settings: Settings, seen: Consequences, machine: Machine) -> list[Margin]:
    """The bars beside the board: melt-through, cleaning, tungsten, machine."""
    return [
        _through_margin(at, seen),
        _cleaning_margin(at, seen),
        _tungsten_margin(settings, seen),
        _machine_margin(settings, seen, machine),
    ]


def _state(used: float, near: float) -> str:
    return "over" if used > 1 else "near" if used >= near else "good"


def _margin(key: str, words: str, used: float, near: float, said: str) -> Margin:
    return Margin(key=key, words=words, used=used, state=_state(used, near), said=said)


def _through_margin(at: Situation, seen: Consequences) -> Margin:
    if at.wants_root and seen.root_width_mm < ROOT_SHORT * seen.pool_width_mm:
        said = "root not reached" if seen.root_width_mm <= 0 else "root is short"
        return Margin(
            key="melt_through",
            words="Through",
            used=seen.melt_through,
            state="over" if seen.root_width_mm <= 0 else "near",
            said=said,
        )
    said = {"good": "holds", "near": "near sagging", "over": "melts through"}[
        _state(seen.melt_through, MELT_AMBER)
    ]
    return _margin("melt_through", "Through", seen.melt_through, MELT_AMBER, said)


def _cleaning_margin(at: Situation, seen: Consequences) -> Margin:
    """Used: the border against the widest wanted; too little counts as over as well, in its own words."""
    border, aim = seen.border_mm, at.aim
    used = border / aim.high_mm
    if border < aim.low_mm - ABOUT_MM:
        return Margin(
            key="cleaning",
            words="Border",
            used=used,
            state="over" if border < LEAST_BORDER_MM * 0.5 else "near",
            said=f"{say.mm(border)}, thin",
        )
    if border > aim.high_mm + ABOUT_MM:
        # A little over the aim harms nothing but the look, where that is asked for.
        wide = (
            border > max(WIDE_OVER_AIM * aim.high_mm, STILL_GOOD_BORDER_MM) or "appearance" in at.job.purposes
        )
        return Margin(
            key="cleaning",
            words="Border",
            used=used,
            state="over" if border > MOST_BORDER_MM else "near" if wide else "good",
            said=f"{say.mm(border)}, {'wide' if wide else 'a little wide'}",
        )
    return Margin(
        key="cleaning", words="Border", used=used, state="good", said=f"{say.mm(border)}, as wanted"
    )


def _tungsten_margin(settings: Settings, seen: Consequences) -> Margin:
    used = max(seen.tungsten_load, seen.tungsten_load_set * LOAD_AT_RUN)
    said = (
        f"{percent(seen.tungsten_load)}, {STATE_WORDS[load_state(used)].split(':')[0]}"
        if settings.tungsten
        else "none"
    )
    return _margin("tungsten", "Tungsten", used, TUNGSTEN_AMBER, said)


def _machine_margin(settings: Settings, seen: Consequences, machine: Machine) -> Margin:
    """What the run takes of the machine, with the foot where the pool is: a full press is for moments."""
    allowed = float(allowed_duty(settings.amps_run, machine.duty.amps, machine.duty.share))
    reach = settings.amps_run / machine.most_a
    # A machine that may weld all the time has no duty to use up.
    duty = 0.0 if allowed >= 1 else min(1.0, seen.arc_time_s / DUTY_CYCLE_S) / allowed
    said = f"{percent(duty)} of its duty" if duty > reach else f"{percent(reach)} of its amps"
    # With a torch switch nothing has to be in hand.
    near = 1.0 if settings.amps_set == settings.amps_run and reach >= duty else NO_RESERVE
    return _margin("machine", "Machine", max(reach, duty), near, said)
