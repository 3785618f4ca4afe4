"""One plain job, for drawings and causes where no job of the logbook is meant."""

from __future__ import annotations

from anvilsong.core.job import Job

PLAIN_JOB = Job.model_validate({"a": {"alloy": "6061", "thickness": 3.0}, "joint": "butt"})
