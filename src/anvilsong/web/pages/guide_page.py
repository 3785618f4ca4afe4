"""A new machine, asked for one control at a time; the panel as it would stand is drawn beside the answers."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import SHAPE_WORDS
from anvilsong.store import shop
from anvilsong.web.drawings.wave import shape_drawing
from anvilsong.web.field_words import in_words
from anvilsong.web.frame import part, render, see_other, spoken_json
from anvilsong.web.machine_counts import COUNTS
from anvilsong.web.machine_guide import FIGURES, PLAIN, TRIMS, machine_of, shown_of
from anvilsong.web.once import page_router
from anvilsong.web.pages.machine_page import sample_panel
from anvilsong.web.requests import Fields

router = page_router()


def _page(request: Request, answers: dict[str, str], trouble: BadInput | None = None) -> HTMLResponse:
    drawing = ""
    if answers.get("amps_high"):
        try:
            machine = machine_of(answers | {"name": answers.get("name") or "New machine"})
            drawing = part("panel", lambda: sample_panel(machine))
        except BadInput:
            drawing = ""
    return render(
        request,
        "machine_guide.html",
        422 if trouble else 200,
        form=shown_of(answers),
        trouble=trouble,
        problems={problem.field: problem for problem in trouble.problems} if trouble else {},
        drawing=drawing,
        plain=PLAIN,
        figures=FIGURES,
        trims=TRIMS,
        counts=COUNTS,
        shapes=[(shape, SHAPE_WORDS[shape], shape_drawing(shape)) for shape in SHAPES],
        here="shop",
    )


@router.get("/shop/machines/new", response_class=HTMLResponse)
def ask_for_machine(request: Request) -> HTMLResponse:
    return _page(request, {})


@router.post("/shop/machines/new")
def keep_machine(request: Request, form: Fields) -> Response:
    """The machine of the answers, kept; its editor shows what was made of them."""
    try:
        with request.app.state.sessions.begin() as session:
            kept = shop.add_machine(session, machine_of(form)).id
    except BadInput as trouble:
        return _page(request, form, trouble)
    return see_other(
        f"/shop/machines/{kept}", "Kept. Compare the drawing with the panel; every row can be corrected here."
    )


@router.post("/api/machine/guided")
def check_answers(request: Request, form: Fields) -> Response:
    """The answers as they stand → the panel they make, or what is still to be answered."""
    try:
        machine = machine_of(form | {"name": form.get("name", "").strip() or "New machine"})
    except BadInput as trouble:
        return spoken_json(
            request, {"problems": [f"{in_words(p.field)}: {p.said}" for p in trouble.problems]}
        )
    return spoken_json(request, {"problems": [], "drawing": part("panel", lambda: sample_panel(machine))})
