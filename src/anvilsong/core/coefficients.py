"""The model's coefficients: nominal values from a table, moved by coupons, always passed as an argument."""

from __future__ import annotations

from functools import cache
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from anvilsong.core.tables import Row, read_table

# No shop is a hundred times another; what is outside was not fitted by this program.
Positive = Annotated[float, Field(ge=1e-3, le=1e2)]


class CoefficientRow(Row):
    key: str
    nominal: float
    unit: str
    words: str
    source: str
    fitted: bool


class CoefficientTable(Row):
    coefficient: list[CoefficientRow]


class Coefficients(BaseModel):
    """One value for each coefficient of ``data/coefficients.toml``; units as written there."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    work_w_per_a_en: Positive
    work_w_per_a_ep: Positive
    heat_factor: Positive
    clearing_dose_c_mm2: Positive
    foot: Positive
    foot_base_mm: Positive
    foot_per_pool: Positive
    foot_trim_power: Positive
    width_frequency_power: float = Field(ge=-1, le=1)
    filler_j_per_mm3: Positive
    tungsten_limit: Positive = 1.0
    """What was stored before tips were read has none."""


def coefficient_rows() -> list[CoefficientRow]:
    """Every coefficient with its unit, words and source, in the table's order."""
    return read_table("coefficients", CoefficientTable).coefficient


@cache
def nominal() -> Coefficients:
    """The coefficients before any coupon has moved them."""
    return Coefficients(**{row.key: row.nominal for row in coefficient_rows()})
