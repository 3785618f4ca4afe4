"""Tune: the board. Lanes that can be dragged, stepped, typed and locked; the wave; the panel; what it will do."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable
from typing import Any

import numpy as np
from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, Response

from anvilsong.core import say
from anvilsong.core.arc.sampling import current_a, whole_period_s
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine.model import Machine
from anvilsong.core.plan.board import Lane, board
from anvilsong.core.plan.lane_input import read_lane
from anvilsong.core.plan.pulse import pulse_advice
from anvilsong.core.plan.resolve import ties
from anvilsong.core.plan.situation import situation
from anvilsong.core.quantities import UnitSystem, figure, to_shown, unit_words
from anvilsong.core.registry import BOARD, BY_KEY, Setting, get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.store.models import PlanRow
from anvilsong.store.reading import readable
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.pedal import pedal_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.drawings.trade import trade_drawing, warmth_words
from anvilsong.web.drawings.wave import overview_drawing, wave_drawing
from anvilsong.web.figures import difference_words, wave_figures
from anvilsong.web.frame import JobView, job_view, part, render, see_other, units
from anvilsong.web.requests import Fields, Revision, RowId, whole
from anvilsong.web.saving import merged_settings

# Lanes whose words are explained in the glossary.
LANE_TERMS = {
    "amps_set": "amps",
    "amps_run": "amps",
    "ep_share": "balance",
    "ep_trim": "trim",
    "frequency_hz": "frequency",
    "shape_en": "waveform",
    "stick_out_mm": "stick-out",
    "pulse_rate_hz": "pulse",
    "mix_ac_share": "mix",
    "up_slope_s": "downslope",
    "down_slope_s": "downslope",
}

router = APIRouter(include_in_schema=False)

SAMPLES_A_CYCLE, MOST_SAMPLES = 200, 40_000  # of the wave as CSV: a long pulse comes in coarser steps
LEAST_APART = 20.0  # per cent of the track, for words at arm's length
GROUP_WORDS = {
    "main": "",
    "pulse": "Pulse",
    "mix": "Mixed AC and DC",
    "more": "Start, end, gas times, torch and hand",
}


def _lane_row(lane: Lane, system: UnitSystem, machine: Machine) -> dict[str, Any]:
    """A lane with everything scaled to a track of 0..100 and printed in the reader's units."""
    span = lane.high - lane.low or 1.0

    def at(value: float) -> float:
        return max(0.0, min(100.0, 100 * (value - lane.low) / span))

    dimension: Any = lane.dimension
    shown = lane.value if lane.value is not None else lane.rest
    text = lane.names[round(shown)] if lane.names else figure(shown, dimension, system, lane.decimals)
    return {
        "lane": lane,
        "off": lane.value is None,
        "shown": shown,
        "at": at,
        "marks": _spread(
            [(name, at(float(place))) for place, name in enumerate(lane.names)]
            or [(words, at(value)) for words, value in lane.marks]
        ),
        "unit": ""
        if lane.names
        else unit_words(dimension, system) + (" EP" if lane.key == "ep_share" else ""),
        "figure": text,
        "factor": to_shown(1.0, dimension, system) - to_shown(0.0, dimension, system),
        "offset": to_shown(0.0, dimension, system),
        "changed": lane.value != lane.planned
        and (lane.value is None or lane.planned is None or abs(lane.value - lane.planned) > 0.4 * lane.step),
        "owner": lane_owner(BY_KEY[lane.key], machine),
        "outside": lane.value is not None
        and lane.window is not None
        and not lane.window[0] - 1e-9 <= lane.value <= lane.window[1] + 1e-9,
        "bands": _bands(lane, at, system),
    }


def _bands(lane: Lane, at: Callable[[float], float], system: UnitSystem) -> dict[str, Any]:
    """A lane's two bands on its track, and in words with what gives at the ends."""
    dimension: Any = lane.dimension

    def place(band: tuple[float, float] | None) -> dict[str, float] | None:
        return (
            {"left": at(band[0]), "width": at(band[1]) - at(band[0])} if band and band[1] > band[0] else None
        )

    if lane.names or lane.window is None:
        return {"sound": None, "best": None, "words": lane.empty}
    low, high = (figure(end, dimension, system, lane.decimals) for end in lane.window)
    words = [
        f"{low} ({lane.ends[0]})" if lane.ends[0] else low,
        f"{high} ({lane.ends[1]})" if lane.ends[1] else high,
    ]
    said = f"Sound from {words[0]} to {words[1]}"
    if lane.best:
        best = [figure(end, dimension, system, lane.decimals) for end in lane.best]
        said += f"; best {best[0]} to {best[1]}"
    return {
        "sound": place(lane.window),
        "best": place(lane.best),
        "words": f"{said}. {lane.empty}".strip(),
    }


def _spread(marks: list[tuple[str, float]]) -> list[tuple[str, float, float]]:
    """Each mark's place on the track, and its words' place, moved apart where they would lie on one another."""
    marks = sorted(marks, key=lambda mark: mark[1])
    places = [at for _, at in marks]
    for _ in range(20):
        for i in range(len(places) - 1):
            short = LEAST_APART - (places[i + 1] - places[i])
            if short > 0:
                places[i], places[i + 1] = places[i] - short / 2, places[i + 1] + short / 2
    if places:
        inwards = max(0.0, 5 - places[0]) - max(0.0, places[-1] - 95)
        places = [min(max(place + inwards, 5.0), 93.0) for place in places]
    return [(words, at, place) for (words, at), place in zip(marks, places, strict=True)]


def _groups(view: JobView, system: UnitSystem) -> list[dict[str, Any]]:
    planned = view.plan.model_copy(update={"settings": view.planned}) if view.planned else view.plan
    rows = [_lane_row(lane, system, view.machine) for lane in board(planned, view.settings, view.machine)]
    groups = []
    for key, words in GROUP_WORDS.items():
        lanes = [row for row in rows if row["lane"].group == key]
        if lanes:
            on = key in ("main", "more") or not lanes[0]["off"]
            groups.append(
                {
                    "key": key,
                    "words": words,
                    "lanes": lanes,
                    "on": on,
                    "open": key == "main" or (on and key != "more") or any(row["changed"] for row in lanes),
                }
            )
    return groups


def _ghost(view: JobView, compare: int | None) -> tuple[PlanRow | None, Settings | None]:
    """The revision to compare with, and its settings."""
    row = next((plan for plan in view.row.plans if plan.revision == compare), None)
    return row, readable(Settings, row.settings) if row is not None and row.settings else None


def _page(
    request: Request,
    view: JobView,
    trouble: BadInput | None = None,
    typed: dict[str, str] | None = None,
    large: bool = False,
    compare: int | None = None,
    as_it_was: bool = False,
) -> HTMLResponse:
    system = units(request)
    if view.plan.refused or view.plan.consequences is None:
        return render(request, "tune.html", view=view, here="tune")
    seen, settings = view.plan.consequences, view.settings
    ghost_row, ghost = _ghost(view, compare)
    changed = frozenset(item.key for item in view.set_line if item.changed)
    state = {
        "job": view.job.model_dump(mode="json", by_alias=True),
        "settings": settings.model_dump(mode="json", by_alias=True),
        "planned": (view.planned or settings).model_dump(mode="json", by_alias=True),
        "ghost": ghost.model_dump(mode="json", by_alias=True) if ghost else None,
        "large": large,
        "ripple_mm": seen.ripple_mm,
        "foot": view.plan.best.get("amps_run"),
        "job_id": view.row.id,
        "revision": view.plan_row.revision,
        "trouble": trouble is not None,
        "as_it_was": as_it_was,
    }
    return render(
        request,
        "tune.html",
        422 if trouble else 200,
        lane_terms=LANE_TERMS,
        on_board=True,
        view=view,
        here="tune",
        groups=_groups(view, system),
        trouble=trouble,
        typed=typed or {},
        wrong=_wrong(trouble),
        large=large,
        as_it_was=as_it_was,
        section=part("section", lambda: section_drawing(view.job, settings, seen, system)),
        wave=part("wave", lambda: wave_drawing(settings, ghost, large)),
        overview=part("pulse", lambda: overview_drawing(settings)),
        pedal=part("pedal", lambda: pedal_drawing(view.job, settings, view.plan.best.get("amps_run"))),
        trade=part("curve", lambda: trade_drawing(view.plan, view.machine)),
        warmth=warmth_words(view.plan),
        figures=wave_figures(settings, seen),
        panel=part("panel", lambda: panel_drawing(view.plan.panel, view.machine, changed)),
        ties=ties(settings, seen, view.machine),
        ghost_row=ghost_row,
        differences=difference_words(ghost, settings, view.job, view.machine) if ghost else [],
        pulse_advice=pulse_advice(situation(view.job)),
        state=state,
    )


@router.get("/jobs/{job_id}/tune", response_class=HTMLResponse)
def show_tune(
    request: Request, job_id: RowId, revision: Revision = None, compare: Revision = None
) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return _page(
            request,
            job_view(session, job_id, units(request), revision),
            compare=compare,
            as_it_was=revision is not None,
        )


@router.get("/jobs/{job_id}/wave", response_class=HTMLResponse)
def show_wave(request: Request, job_id: RowId, compare: Revision = None) -> HTMLResponse:
    """The wave drawn large, with the board under it."""
    with request.app.state.sessions() as session:
        return _page(request, job_view(session, job_id, units(request)), large=True, compare=compare)


@router.get("/jobs/{job_id}/wave.svg")
def wave_svg(request: Request, job_id: RowId) -> Response:
    """The wave as a drawing of its own."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id)
    if view.plan.refused:
        raise HTTPException(404)
    style = "<style>.frost-fill{fill:#bfdde2}.ember-fill{fill:#f3cdb9}.wave-line{stroke:#1d2125;stroke-width:2;fill:none}.zero-line{stroke:#5d5a52}.label{font:16px sans-serif}</style>"
    return Response(
        say.in_units(
            wave_drawing(view.settings, large=True, handles=False).replace("<title>", style + "<title>", 1),
            units(request),
        ),
        media_type="image/svg+xml",
    )


@router.get("/jobs/{job_id}/wave.csv")
def wave_csv(request: Request, job_id: RowId) -> PlainTextResponse:
    """The current against time at full press: two AC cycles, or a whole pulse or mix cycle."""
    with request.app.state.sessions() as session:
        view = job_view(session, job_id)
    if view.plan.refused:
        raise HTTPException(404)
    wave = view.settings.wave(view.settings.amps_set)
    span = max(2 / view.settings.frequency_hz, whole_period_s(wave))
    samples = min(int(np.ceil(span * view.settings.frequency_hz * SAMPLES_A_CYCLE)), MOST_SAMPLES)
    time = np.arange(samples) * span / samples
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(["time_s", "current_a"])
    writer.writerows((f"{t:.7f}", f"{i:.2f}") for t, i in zip(time, current_a(wave, time), strict=True))
    return PlainTextResponse(
        text.getvalue(),
        media_type="text/csv",
        headers={"content-disposition": f'attachment; filename="wave-{job_id}.csv"'},
    )


@router.post("/jobs/{job_id}/tune")
def keep_settings(request: Request, job_id: RowId, form: Fields) -> Response:
    """Keep the board's settings as a new revision, on top of what somebody else kept since the board was opened."""
    system = units(request)
    make = request.app.state.sessions
    own: dict[str, str] = {}
    try:
        with make.begin() as session:
            newest = job_view(session, job_id, system)
            opened = job_view(session, job_id, system, whole(form.get("from_revision")))
            if newest.plan.refused or opened.plan.refused:
                return see_other(f"/jobs/{job_id}/tune")
            settings, words = _typed_settings(opened, form, system)
            own = _own_fields(opened, form, system)
            settings, words = _on_top(
                newest, opened, settings, words, system, as_it_was=bool(form.get("as_it_was"))
            )
            if words:
                book.add_plan(
                    session, newest.row, newest.job, "tuned", "Tuned: " + ", ".join(words), settings
                )
    except BadInput as trouble:
        with make() as session:
            return _page(request, job_view(session, job_id, system), trouble, own or form)
    return see_other(f"/jobs/{job_id}/{'wave' if form.get('from') == 'wave' else 'tune'}")


def _on_top(
    newest: JobView,
    opened: JobView,
    settings: Settings,
    words: list[str],
    system: UnitSystem,
    as_it_was: bool,
) -> tuple[Settings, list[str]]:
    """The typed settings where the book stands now. An older revision that was opened on purpose comes back as it was."""
    if newest.plan_row.id == opened.plan_row.id:
        return settings, words
    if as_it_was:
        return settings, [f"as revision {opened.plan_row.revision}", *words]
    by = f"revision {newest.plan_row.revision} ({newest.plan_row.words})"
    merged = merged_settings(opened.settings, settings, newest.settings, system, by)
    return merged, words if merged != newest.settings else []


def _own_fields(view: JobView, form: dict[str, str], system: UnitSystem) -> dict[str, str]:
    """The fields that really were typed: those that do not say what the page had printed."""
    return {
        entry.key: form[entry.key]
        for entry in BOARD
        if entry.key in form and form[entry.key].strip().replace("-", "−") != _printed(view, entry, system)
    }


def _printed(view: JobView, entry: Setting, system: UnitSystem) -> str:
    """What the page printed in a lane's field."""
    value = get_value(view.settings, entry.key)
    if entry.dimension is None:
        return str(value)
    if entry.key == "preheat_c" and value is None:
        value = view.job.part_temperature_c
    return "" if value is None else figure(value, entry.dimension, system, entry.decimals)


def _typed_settings(view: JobView, form: dict[str, str], system: UnitSystem) -> tuple[Settings, list[str]]:
    """The settings with every lane's field applied, and which of them changed.

    Raises
    ------
    BadInput : one problem for each field that cannot be read or lies outside its lane
    """
    settings, changed, problems = view.settings, list[str](), list[Problem]()
    exact = _exact(form)
    lanes = {lane.key: lane for lane in board(view.plan, view.settings, view.machine)}
    for group in ("pulse", "mix"):
        # A group that is switched off goes first, since both cannot be on.
        if f"{group}_off" in form and getattr(settings, group) is not None:
            settings = settings.model_copy(update={group: None})
            changed.append(f"{group} off")
    for entry in BOARD:
        typed, lane = form.get(entry.key, "").strip(), lanes.get(entry.key)
        if not typed or (entry.group and f"{entry.group}_off" in form):
            continue
        if entry.dimension is None:
            if typed != get_value(settings, entry.key):
                settings = with_value(with_value(settings, "shape_en", typed), "shape_ep", typed)
                changed.append(entry.words.lower())
            continue
        # A field that still says what the page printed was not touched: keep the exact value behind it.
        if typed.replace("-", "−") == _printed(view, entry, system):
            continue
        try:
            limits = (lane.low, lane.high) if lane else None
            read = read_lane(entry, typed, system, limits, lane_owner(entry, view.machine))
            read = exact.get(entry.key, read)
        except BadInput as trouble:
            problems.extend(trouble.problems)
            continue
        settings = with_value(settings, entry.key, read, view.job.control)
        changed.append(entry.words.lower())
    if problems:
        raise BadInput(*problems)
    return settings, changed


def _wrong(trouble: BadInput | None) -> dict[str, str]:
    """The sentence for each lane that something is wrong with, by the lane's key."""
    keys = {entry.words: entry.key for entry in BOARD}
    problems = trouble.problems if trouble else ()
    return {
        keys[problem.field]: f"{problem.given} cannot be used; {problem.allowed}."
        for problem in problems
        if problem.field in keys
    }


def _exact(form: dict[str, str]) -> dict[str, float]:
    """Values behind the printed fields, where the board's script knows them better than their print."""
    try:
        sent = json.loads(form.get("exact") or "{}")
        return {
            key: float(value)
            for key, (text, value) in sent.items()
            if form.get(key) == text and abs(float(value)) < 1e6
        }
    except (ValueError, TypeError, AttributeError, RecursionError, OverflowError):
        return {}


def lane_owner(entry: Setting, machine: Machine) -> str:
    """Whose limits a lane's ends are, in words."""
    return machine.name if entry.panel else "this lane"
