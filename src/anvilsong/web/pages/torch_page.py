"""Torch: tungsten, cup, gas, cooling. Change one and what hangs on it follows; keeping it makes a
revision.
"""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.arc.voltage import arc_voltage_v
from anvilsong.core.checks import outcome
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import Machine
from anvilsong.core.model import Consequences, Situation, run_duty, situation, torch_for
from anvilsong.core.plan import with_cup, with_tungsten
from anvilsong.core.prep import STUB_LOSS, rod_use
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings, Tungsten
from anvilsong.core.torch.balling import Balling, balling
from anvilsong.core.torch.cooling import allowed_torch_a, cooler_words
from anvilsong.core.torch.cup import bore_mm, longest_stick_out_mm, stick_out_needed_mm
from anvilsong.core.torch.cylinder import purge_s
from anvilsong.core.torch.gas import shop_rule_l_min
from anvilsong.core.torch.guides import guides
from anvilsong.core.torch.hand import SHOWN_DEG, tilted
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import (
    STATE_WORDS,
    balling_start_a,
    find_class,
    find_size,
    load_parts,
    load_state,
)
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import book
from anvilsong.web.bottles import gas_of
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.torch import access_drawing, assembly_drawing, balls_drawing, load_drawing
from anvilsong.web.frame import fragment, part, render, see_other, spoken_json, units
from anvilsong.web.job_view import JobView, job_view, kit_of, opened_view
from anvilsong.web.known import border_range
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, typed_query, whole
from anvilsong.web.saving import merged_settings, said_version

router = page_router()


def chosen_settings(at: Situation, settings: Settings, kit: Kit, tungsten: str, cup: str) -> Settings:
    """Settings with the tungsten and cup picked in the form: ``class|diameter`` and ``number|lens`` or
    ``number|plain``.
    """
    stocked = {f"{item.class_}|{item.diameter_mm:g}": item for item in kit.tungstens}
    if tungsten:
        if tungsten not in stocked:
            raise BadInput.one("tungsten", tungsten, sentence("web.take_one_shelf"))
        settings = with_tungsten(settings, stocked[tungsten].class_, stocked[tungsten].diameter_mm)
    if cup:
        number, _, body = cup.partition("|")
        shelf = kit.lens_cups if body == "lens" else kit.cups
        if whole(number) not in shelf:
            raise BadInput.one("cup", cup, sentence("web.take_one_shelf"))
        settings = with_cup(at, settings, whole(number) or shelf[0], body == "lens")
    return settings


def _live(view: JobView, settings: Settings, kit: Kit, system: UnitSystem) -> dict[str, Any]:
    """Everything on the page that follows tungsten and cup."""
    at = situation(view.job)
    tungsten = settings.tungsten or Tungsten(diameter_mm=kit.tungstens[0].diameter_mm)
    settings = settings.model_copy(update={"tungsten": tungsten})
    what = outcome(view.job, settings, view.machine, kit, view.c)
    seen = what.consequences
    en, ep = (
        float(part)
        for part in load_parts(
            settings.wave(), tungsten.diameter_mm, tungsten.class_, tungsten.tip, view.c.tungsten_limit
        )
    )
    corner = at.joint.access_deg < 180
    access = []
    for number in sorted(set(kit.lens_cups if settings.cup.gas_lens else kit.cups)):
        needed = stick_out_needed_mm(number, at.joint.access_deg, view.job.arc_length_mm)
        reach = longest_stick_out_mm(number, settings.cup.gas_lens)
        drawn = (
            access_drawing(
                number, max(needed, 0.4 * bore_mm(number)), reach, at.joint.access_deg, view.job.arc_length_mm
            )
            if corner
            else ""
        )
        access.append(
            {"number": number, "needed": needed, "reach": reach, "fits": needed <= reach, "drawing": drawn}
        )
    return {
        "s": settings,
        "c": seen,
        "kind": find_class(tungsten.class_),
        "size": find_size(tungsten.diameter_mm),
        "state_words": STATE_WORDS[load_state(seen.tungsten_load)],
        "load": load_drawing(tungsten, en, ep, seen.tungsten_load_set),
        "access": access if corner else [],
        "shop_rule": shop_rule_l_min(settings.cup.number),
        "ball_a": balling_start_a(tungsten.diameter_mm),
        "balling": (ball := _balling(settings, view.machine, view.c.tungsten_limit)),
        "balls": part("balls", lambda: balls_drawing(tungsten, ball.widths_mm)),
        "arcs": _arcs(view, settings, kit),
        "tilts": [tilted(deg, view.job.arc_length_mm, settings.cup.number) for deg in SHOWN_DEG],
        "warnings": [warning for warning in what.warnings if warning.setting in TORCH_SETTINGS],
        "margins": what.margins,
        "section": part("section", lambda: section_drawing(view.job, settings, seen, system)),
    }


def _arcs(view: JobView, settings: Settings, kit: Kit) -> list[tuple[float, Consequences, float]]:
    """What longer and shorter arcs do, all else as it is: length, mm, consequences, and volts at the arc."""
    lengths = sorted({*ARCS_MM, view.job.arc_length_mm})
    jobs = [view.job.model_copy(update={"arc_length_mm": length}) for length in lengths]
    found = [outcome(job, settings, view.machine, kit, view.c).consequences for job in jobs]
    return [
        (length, seen, float(arc_voltage_v(settings.amps_run, length)))
        for length, seen in zip(lengths, found, strict=True)
    ]


def _balling(settings: Settings, machine: Machine, limit: float) -> Balling:
    """How this tungsten is balled with the most positive share that the machine has."""
    assert settings.tungsten is not None
    plain = settings.model_copy(
        update={"ep_share": machine.most_ep_share, "ep_trim": 0.0, "pulse": None, "mix": None}
    )
    tungsten = settings.tungsten
    return balling(tungsten.diameter_mm, tungsten.class_, plain.wave(), machine.most_a, limit)


def _border(session: Session, view: JobView) -> dict[str, Any]:
    """How far the border may lie from what is expected, as factors of it."""
    expected = view.plan.consequences.border_mm if view.plan.consequences else 0.0
    found = border_range(session, view)
    share = expected if expected > 0 else 1.0
    return {"border_from": found.low / share, "border_to": found.high / share}


ARCS_MM = (2.0, 3.0, 4.0, 6.0)
PICKED = tuple(BY_KEY[key].words for key in ("tungsten_mm", "tungsten_class", "cup_number"))
TORCH_SETTINGS = (
    "tungsten_mm",
    "tungsten_class",
    "cup_number",
    "stick_out_mm",
    "flow_l_min",
    "post_flow_s",
    "ep_share",
)


@router.get("/jobs/{job_id}/torch", response_class=HTMLResponse)
def show_torch(request: Request, job_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return _page(request, session, job_id, {})


def _page(
    request: Request, session: Session, job_id: int, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    """The page as the job stands; after a refusal with the tungsten and cup that were picked."""
    view = job_view(session, job_id, units(request))
    if view.plan.refused:
        return render(request, "torch.html", view=view, here="torch")
    kit = kit_of(session, view)
    torch = torch_for(view.job, view.settings, kit)
    duty = run_duty(view.job, view.settings)
    settings = view.settings
    if settings.tungsten is None:
        view.notices.append(sentence("web.no_tungsten_set_job"))
        settings = with_tungsten(settings, kit.tungstens[0].class_, kit.tungstens[0].diameter_mm)
    with suppress(BadInput):  # what is not on the shelf cannot be shown as picked
        picked = form.get("tungsten", ""), form.get("cup", "")
        settings = chosen_settings(situation(view.job), settings, kit, *picked)
    live = _live(view, settings, kit, units(request)) | _border(session, view)
    rms = live["c"].rms_a
    rod = rod_use(situation(view.job), view.settings, live["c"], view.c, view.plan.passes)
    return render(
        request,
        "torch.html",
        422 if trouble else 200,
        trouble=trouble,
        view=view,
        here="torch",
        kit=kit,
        torch=torch,
        torch_allowed=allowed_torch_a(torch, duty) if torch else None,
        cooler=cooler_words(torch, kit.cooler, rms) if torch else "",
        rms=rms,
        duty=duty,
        gas=gas_of(view, kit, session, typed_query(request)),
        purge={after: purge_s(torch, view.settings.gas.flow_l_min, after) for after in ("night", "break")},
        rod_cost=rod.mass_g / 1000 / (1 - STUB_LOSS) * kit.rod_price_kg if rod else 0.0,
        guides=guides(),
        assembly=assembly_drawing(view.settings.cup.gas_lens),
        steps=[step for step in view.plan.run_sheet if step.station == "torch"],
        ticked={tick.step for tick in view.row.ticks},
        **live,
    )


@router.post("/api/jobs/{job_id}/torch")
def what_if_torch(request: Request, job_id: RowId, form: Fields) -> Response:
    """Another tungsten or cup, not kept: the pieces of the page that follow."""
    system = units(request)
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, system)
        kit = kit_of(session, view)
        border = {} if view.plan.refused else _border(session, view)
    if view.plan.refused:
        raise BadInput.one("job", view.row.title, sentence("web.refused_there_no_torch"))
    settings = chosen_settings(
        situation(view.job), view.settings, kit, form.get("tungsten", ""), form.get("cup", "")
    )
    live = _live(view, settings, kit, system) | border
    return spoken_json(
        request,
        {
            "live": fragment(request, "torch_live.html", **live),
            "section": live["section"],
            "flow_l_min": settings.gas.flow_l_min,
        },
    )


@router.post("/jobs/{job_id}/torch")
def keep_torch(request: Request, job_id: RowId, form: Fields) -> Response:
    """Keep the tungsten and cup that were picked, on top of what somebody else kept since."""
    make = request.app.state.sessions
    try:
        make.write(lambda session: _keep(request, session, job_id, form))
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, job_id, form, trouble)
    return see_other(f"/jobs/{job_id}/torch")


def _merged(opened: Settings, mine: Settings, theirs: Settings, system: UnitSystem, by: Words) -> Settings:
    """My pick on top of theirs; where both picked, only the picks are told, not what follows from them."""
    try:
        return merged_settings(opened, mine, theirs, system, by)
    except BadInput as clash:
        picked = [problem for problem in clash.problems if problem.field in PICKED]
        raise BadInput(*(picked or clash.problems)) from None


def _keep(request: Request, session: Session, job_id: int, form: dict[str, str]) -> None:
    view = job_view(session, job_id)
    opened = opened_view(session, job_id, form.get("from_revision"))
    if not view.plan.refused and not opened.plan.refused:
        kit = kit_of(session, view)
        settings = chosen_settings(
            situation(view.job), opened.settings, kit, form.get("tungsten", ""), form.get("cup", "")
        )
        if opened.plan_row.id != view.plan_row.id:
            by = said_version(view.plan_row)
            settings = _merged(opened.settings, settings, view.settings, units(request), by)
        if settings != view.settings and settings.tungsten:
            words = say.joined(
                f"Torch: {settings.tungsten.class_} ",
                say.size(settings.tungsten.diameter_mm),
                f", cup {settings.cup.number}{' lens' if settings.cup.gas_lens else ' plain'}",
            )
            book.add_plan(session, view.row, view.job, "tuned", words, settings)
