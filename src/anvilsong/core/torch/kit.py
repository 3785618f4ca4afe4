"""The kit on the shelf: what a plan may choose from."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from anvilsong.core.torch.cup import CUP_NUMBERS, LENS_CUP_NUMBERS


class Kit(BaseModel):
    """Stocked sizes. Left out, every usual size is on the shelf."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    tungsten_class: str = "WLa 20"
    tungstens_mm: tuple[float, ...] = (1.0, 1.6, 2.4, 3.2, 4.0, 4.8)
    cups: tuple[int, ...] = CUP_NUMBERS
    lens_cups: tuple[int, ...] = LENS_CUP_NUMBERS
    rods_mm: tuple[float, ...] = (0.8, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0)
    hose_m: float = 4.0
