"""How a machine that is asked for counts its amps, and what that makes of the figures on its plate."""

from __future__ import annotations

from anvilsong.core.arc.waveform import SHAPES, Shape, Wave
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import amps_on_basis
from anvilsong.core.words import sentence
from anvilsong.web.scale_text import plain_number

COUNTS = {
    "": "not sure",
    "rms": sentence("web.clamp_meter_reads_rms"),
    "mean": sentence("web.mean_wave"),
    "peak": sentence("web.top_wave"),
}


def counted(answers: dict[str, str]) -> tuple[str, float]:
    """How the amps figure counts, and how many amps of peak one of it is, with the wave the machine has."""
    shapes: list[Shape] = [shape for shape in SHAPES if answers.get(f"shape_{shape}", "").strip()]
    shape: Shape = shapes[0] if shapes else "sine" if is_transformer(answers) else "square"
    basis = answers.get("amps_count", "")
    if basis not in ("peak", "mean", "rms"):
        basis = "rms" if shapes == ["sine"] or (not shapes and shape == "sine") else "peak"
    return basis, 1.0 / float(amps_on_basis(Wave(1.0, 0.5, 100.0, 0.0, shape, shape), basis))


def is_transformer(answers: dict[str, str]) -> bool:
    """An old machine: it has no control of balance or frequency, and no wave of its own was named."""
    named = any(answers.get(f"shape_{shape}", "").strip() for shape in SHAPES)
    balance = is_there(answers, "balance", "balance_label", "balance_most", "balance_least")
    return not (named or balance or is_there(answers, "frequency_hz", "frequency_hz_label"))


def times(text: str, factor: float) -> str:
    """A figure as it was typed, times a factor; as it was typed where it is no number."""
    if factor == 1.0:
        return text
    try:
        return f"{plain_number(text, 'amps') * factor:.1f}"
    except BadInput:
        return text


def is_there(answers: dict[str, str], key: str, *fields: str) -> bool:
    """Whether a control was ticked, or something was written for it: nothing typed is passed over."""
    return bool(answers.get(f"has_{key}")) or any(answers.get(field, "").strip() for field in fields)
