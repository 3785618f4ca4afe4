"""The model's coefficients: nominal values from a table, moved by coupons, always passed as an argument."""

from __future__ import annotations

from functools import cache

from pydantic import BaseModel, ConfigDict

from anvilsong.core.tables import Row, read_table


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

    model_config = ConfigDict(frozen=True, extra="forbid")

    work_w_per_a_en: float
    work_w_per_a_ep: float
    heat_factor: float
    clearing_dose_c_mm2: float
    foot: float
    foot_base_mm: float
    foot_per_pool: float
    foot_trim_power: float
    width_frequency_power: float
    filler_j_per_mm3: float


def coefficient_rows() -> list[CoefficientRow]:
    """Every coefficient with its unit, words and source, in the table's order."""
    return read_table("coefficients", CoefficientTable).coefficient


@cache
def nominal() -> Coefficients:
    """The coefficients before any coupon has moved them."""
    return Coefficients(**{row.key: row.nominal for row in coefficient_rows()})
