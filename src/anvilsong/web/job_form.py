"""The job form: its fields are those of a job (`web.forms`), its name and its welder."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, get_args

from anvilsong.core.job import Job, School, read_job
from anvilsong.core.units import UnitSystem
from anvilsong.web.forms import form_of, given_from

SCHOOLS: dict[str, tuple[str, ...]] = {
    name: get_args(field.annotation) for name, field in School.model_fields.items()
}


def job_from_form(form: Mapping[str, Any], system: UnitSystem) -> Job:
    """The job that was typed.

    Raises
    ------
    BadInput : one problem for each field that cannot be used, all at once
    """
    given = given_from(Job, form)
    if "angle_deg" not in given.get("bevel", {}):
        given.pop("bevel", None)  # a root face without an angle is no bevel
    return read_job(given, system)


def form_from_job(job: Job, title: str, welder_id: int | None, system: UnitSystem) -> dict[str, str]:
    """A job's data as the form shows it."""
    return form_of(job, system) | {"title": title, "welder": str(welder_id or "")}
