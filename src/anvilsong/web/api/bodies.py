"""What the JSON addresses take and give, as values with units and bounds; the OpenAPI at /api/docs is made
from them.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import Body as ApiBody
from pydantic import BaseModel, ConfigDict, Field

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.model import Consequences, LimitWarning
from anvilsong.core.registry import SettingKey
from anvilsong.core.said import in_units
from anvilsong.core.settings import Pulse, Settings
from anvilsong.core.value import Amps, Value
from anvilsong.core.words import sentence

Face = Literal[
    "panel",
    "panel_drawing",
    "margins",
    "section",
    "wave",
    "overview",
    "ties",
    "figures",
    "differences",
    "pedal",
]

JOB_EXAMPLE: dict[str, Any] = {
    "a": {"alloy": "6061", "thickness": "3.2 mm"},
    "joint": "tee",
    "position": "flat",
    "purposes": ["strength"],
}
SETTINGS_EXAMPLE: dict[str, Any] = {
    "amps_run": 131,
    "amps_set": 164,
    "ep_share": 0.3,
    "frequency_hz": 110,
    "tungsten": {"class": "WLa 20", "diameter_mm": 2.4},
    "cup": {"number": 7, "stick_out_mm": 6},
    "gas": {"flow_l_min": 8.4},
    "filler": {"class": "4043", "diameter_mm": 2.4},
    "travel_mm_s": 3.6,
}


JobBody = Annotated[
    Job,
    ApiBody(
        description=in_units(sentence("web.job_lengths_mm_text")),
        openapi_examples={"tee": {"summary": "A tee of 6061", "value": JOB_EXAMPLE}},
    ),
]


class Body(BaseModel):
    """A body: fields it does not know are refused, so that a mistyped one is noticed."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class ConsequencesBody(Body):
    """Job and settings; ``show`` asks for faces of the same values, ``ghost`` is a second setting to compare
    with.

    ``foot`` is the band of amps under the foot that the pedal's strip shades as its working zone.
    """

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"job": JOB_EXAMPLE, "settings": SETTINGS_EXAMPLE}]}
    )

    job: Job
    settings: Settings
    show: list[Face] = Field([], max_length=20)
    ghost: Settings | None = None
    foot: tuple[Amps, Amps] | None = None
    coefficients: Coefficients | None = None
    """Those that a plan was made with; what coupons say by now when left out."""
    large: bool = False


class ConsequencesAnswer(BaseModel):
    """What the settings do: heat W, widths mm, shares 0..1. ``consequences`` is null when the job is
    refused.
    """

    model_config = ConfigDict(extra="allow")

    consequences: Consequences | None
    warnings: list[LimitWarning]


class ResolveBody(Body):
    """Job and settings, and the settings that must stay as they are."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [{"job": JOB_EXAMPLE, "settings": SETTINGS_EXAMPLE, "locked": ["ep_share"]}]
        },
    )

    job: Job
    settings: Settings
    locked: list[SettingKey] = Field([], max_length=60)
    coefficients: Coefficients | None = None


class ResolveAnswer(BaseModel):
    """The settings solved again, what moved, and what still conflicts."""

    settings: Settings
    moved: list[str]
    conflicts: list[LimitWarning]
    kept_back: bool


class ReadBody(Body):
    """What somebody typed for a setting, the limits it must keep (inside units), and whose limits they
    are.
    """

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"setting": "flow_l_min", "typed": "15 cfh"}]}
    )

    setting: SettingKey
    typed: str = Field(max_length=200)
    low: float | None = Field(None, ge=-1e9, le=1e9)
    high: float | None = Field(None, ge=-1e9, le=1e9)
    whose: str = Field("this lane", max_length=60)


class ReadAnswer(BaseModel):
    """What it means, in the inside unit of the setting, and how it is said back."""

    value: float
    said: str


class SoundBody(Body):
    """Settings to listen to."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"settings": SETTINGS_EXAMPLE}]}
    )

    settings: Settings


class SoundAnswer(BaseModel):
    """Harmonics as (Hz, amplitude, loudest is 1), loudness in dB and in words, and the pulse that beats in
    it.
    """

    harmonics: list[tuple[float, float]]
    loudness_db: float
    words: str
    pulse: Pulse | None


class ProblemField(BaseModel):
    """One field that cannot be used, and what it may be."""

    field: str
    given: str
    allowed: str


class ProblemAnswer(BaseModel):
    """An error, RFC 9457."""

    type: str
    title: str
    status: int
    detail: str
    field: str | None = None
    problems: list[ProblemField] = []


class Health(Value):
    """Alive."""

    status: Literal["ok"]


PROBLEMS: dict[int | str, dict[str, Any]] = {
    code: {
        "description": words,
        "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/ProblemAnswer"}}},
    }
    for code, words in (
        (400, in_units(sentence("web.body_not_json"))),
        (422, "A field cannot be used"),
        (503, in_units(sentence("web.not_now_busy_took"))),
    )
}
