"""The kit on the shelf: what a plan may choose from, and what it costs."""

from __future__ import annotations

from functools import cached_property
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from anvilsong.core.torch.cup import CUP_NUMBERS, LENS_CUP_NUMBERS
from anvilsong.core.torch.tungsten import TUNGSTEN_CLASS_NAMES, tungsten_sizes


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Torch(_Value):
    """A torch and its own rating on AC."""

    name: str = Field(min_length=1, max_length=60)
    cooling: Literal["air", "water"] = "air"
    rated_a: float = Field(gt=0, le=1000)
    rated_duty: float = Field(1.0, gt=0, le=1)
    hose_m: float = Field(4.0, ge=1, le=30)
    hose_bore_mm: float = Field(4.0, ge=2, le=12)


class Cylinder(_Value):
    """A gas cylinder: water volume L, full pressure bar, share of helium, price of a filling."""

    name: str = Field(min_length=1, max_length=60)
    volume_l: float = Field(gt=0, le=500)
    full_bar: float = Field(200, gt=0, le=400)
    helium_share: float = Field(0, ge=0, le=1)
    price: float = Field(0, ge=0)


class StockedTungsten(_Value):
    class_: str = Field(alias="class")
    diameter_mm: float

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True)

    @model_validator(mode="after")
    def _known(self) -> StockedTungsten:
        sizes = [size.diameter_mm for size in tungsten_sizes()]
        if self.class_ not in TUNGSTEN_CLASS_NAMES:
            raise ValueError(f"tungstens|known classes are {', '.join(TUNGSTEN_CLASS_NAMES)}")
        if self.diameter_mm not in sizes:
            raise ValueError(f"tungstens|known diameters are {', '.join(f'{size:g}' for size in sizes)} mm")
        return self


def _every_size(class_key: str) -> tuple[StockedTungsten, ...]:
    return tuple(StockedTungsten(class_=class_key, diameter_mm=size.diameter_mm) for size in tungsten_sizes())


class Kit(_Value):
    """What the shop owns. Left out, every usual size is on the shelf, and the torch is the machine's own."""

    name: str = Field("Everything", min_length=1, max_length=60)
    tungstens: tuple[StockedTungsten, ...] = Field(default_factory=lambda: _every_size("WLa 20"), min_length=1)
    cups: tuple[int, ...] = CUP_NUMBERS
    lens_cups: tuple[int, ...] = LENS_CUP_NUMBERS
    rods_mm: tuple[float, ...] = Field((0.8, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0), min_length=1)
    fillers: tuple[str, ...] | None = None
    torches: tuple[Torch, ...] = ()
    cylinders: tuple[Cylinder, ...] = ()
    cooler: Literal["none", "auto", "on"] = "on"
    chill_blocks: int = Field(0, ge=0, le=100)
    rod_price_kg: float = Field(0, ge=0)
    currency: str = Field("", max_length=8)

    @model_validator(mode="after")
    def _some_cup(self) -> Kit:
        if not self.cups and not self.lens_cups:
            raise ValueError("cups|name at least one cup, plain or for a lens")
        if any(not 3 <= cup <= 24 for cup in (*self.cups, *self.lens_cups)):
            raise ValueError("cups|cup numbers are 3 to 24")
        return self

    @cached_property
    def hose_m(self) -> float:
        """The longest hose of its torches, m."""
        return max((torch.hose_m for torch in self.torches), default=4.0)
