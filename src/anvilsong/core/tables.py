"""Read the tables of the trade: TOML in ``core/data``, checked when read, read once."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import TypeVar, cast

from pydantic import BaseModel, ConfigDict

from anvilsong.core import say

Table = TypeVar("Table", bound=BaseModel)


class Row(BaseModel):
    """A value of a table: frozen, and strict about names, so a typing slip in a table fails at once."""

    model_config = ConfigDict(frozen=True, extra="forbid")


def read_table(name: str, shape: type[Table]) -> Table:
    """The table ``core/data/<name>.toml`` as a checked value of ``shape``."""
    return cast(Table, _checked(name, shape))


@cache
def _checked(name: str, shape: type[BaseModel]) -> BaseModel:
    text = files("anvilsong.core").joinpath("data", f"{name}.toml").read_text(encoding="utf-8")
    return shape.model_validate(say.all_marked(tomllib.loads(text)))
