"""The kit on the shelf: what a plan may choose from, and what it costs."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, model_validator

from anvilsong.core import say
from anvilsong.core.errors import Unfit
from anvilsong.core.torch.cup import CUP_NUMBERS, LENS_CUP_NUMBERS
from anvilsong.core.torch.tungsten import TUNGSTEN_CLASS_NAMES, TungstenKey, tungsten_sizes
from anvilsong.core.typed import CURRENT, HOSE, LENGTH, NUMBER, PRESSURE, SHARE
from anvilsong.core.value import CupNumber, Name, RodMm, TungstenMm, Value, Word
from anvilsong.core.words import sentence


class Torch(Value):
    """A torch and its own rating on AC."""

    name: Name
    cooling: Literal["air", "water"] = "air"
    rated_a: Annotated[float, CURRENT] = Field(gt=0, le=1000)
    rated_duty: Annotated[float, SHARE] = Field(1.0, gt=0, le=1)
    hose_m: Annotated[float, HOSE] = Field(4.0, ge=1, le=30)
    hose_bore_mm: Annotated[float, LENGTH] = Field(4.0, ge=2, le=12)


class Cylinder(Value):
    """A gas cylinder: water volume L, full pressure bar, share of helium, price of a filling."""

    name: Name
    volume_l: float = Field(ge=0.1, le=500)
    full_bar: Annotated[float, PRESSURE] = Field(200, ge=1, le=400)
    helium_share: Annotated[float, SHARE] = Field(0, ge=0, le=1)
    price: Annotated[float, NUMBER] = Field(0, ge=0, le=1e6)


class StockedTungsten(Value, populate_by_name=True, serialize_by_alias=True):
    class_: str = Field(alias="class", max_length=40)
    diameter_mm: TungstenMm

    @model_validator(mode="after")
    def _known(self) -> StockedTungsten:
        sizes = [size.diameter_mm for size in tungsten_sizes()]
        if self.class_ not in TUNGSTEN_CLASS_NAMES:
            raise ValueError(f"class|known classes are {', '.join(TUNGSTEN_CLASS_NAMES)}")
        if self.diameter_mm not in sizes:
            raise Unfit(
                sentence("torch.diameter_mm_known_diameters", size=say.joined(*map(say.size, sizes), by=", "))
            )
        return self


def _every_size(class_key: TungstenKey) -> tuple[StockedTungsten, ...]:
    return tuple(StockedTungsten(class_=class_key, diameter_mm=size.diameter_mm) for size in tungsten_sizes())


class Kit(Value):
    """What the shop owns. Left out, every usual size is on the shelf, and the torch is the machine's own."""

    name: Name = "Everything"
    tungstens: tuple[StockedTungsten, ...] = Field(
        default_factory=lambda: _every_size("WLa 20"), min_length=1, max_length=60
    )
    cups: tuple[CupNumber, ...] = Field(CUP_NUMBERS, max_length=24)
    lens_cups: tuple[CupNumber, ...] = Field(LENS_CUP_NUMBERS, max_length=24)
    rods_mm: tuple[RodMm, ...] = Field((0.8, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0), min_length=1, max_length=24)
    fillers: tuple[Word, ...] | None = Field(None, max_length=24)
    torches: tuple[Torch, ...] = Field((), max_length=24)
    cylinders: tuple[Cylinder, ...] = Field((), max_length=24)
    cooler: Literal["none", "auto", "on"] = "on"
    chill_blocks: int = Field(0, ge=0, le=100)
    rod_price_kg: float = Field(0, ge=0, le=1e6)
    currency: Annotated[Word, Field(max_length=8)] = ""

    @model_validator(mode="after")
    def _some_cup(self) -> Kit:
        if not self.cups and not self.lens_cups:
            raise Unfit(sentence("torch.cups_name_least_one"))
        names = [cylinder.name for cylinder in self.cylinders]
        if len(names) != len(set(names)):
            raise Unfit(sentence("torch.cylinders_each_cylinder_has"))
        return self

    @cached_property
    def hose_m(self) -> float:
        """The longest hose of its torches, m."""
        return max((torch.hose_m for torch in self.torches), default=4.0)
