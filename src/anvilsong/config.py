"""Settings of the program itself, from the environment.

ANVILSONG_DATA (the database file, or the address of a database on a PostgreSQL server), ANVILSONG_FOLDER
(with the second: for what belongs to this machine), ANVILSONG_HOST, ANVILSONG_PORT (or PORT),
ANVILSONG_HOSTS (more names it answers to), ANVILSONG_SHOP and ANVILSONG_HTTPS (as the options of
``anvilsong serve``),
ANVILSONG_COPIES (0: no daily copies).
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any, Self

from pydantic import AliasChoices, Field, ValidationError, field_validator, model_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from anvilsong.core.errors import BadInput, Problem, describe
from anvilsong.core.said import in_units
from anvilsong.core.words import sentence
from anvilsong.store.places import SCHEME, OnServer, Place, beside, without_password

EVERYWHERE = "0.0.0.0"


class Config(BaseSettings):
    """Where the logbook is and where the pages are served."""

    model_config = SettingsConfigDict(env_prefix="ANVILSONG_", extra="ignore", populate_by_name=True)

    data: Place = Path("data/anvilsong.sqlite")
    folder: Path = Path("data")
    """Where the passphrase, the certificate and files that wait lie for a logbook on a server."""
    host: str = "127.0.0.1"
    port: int = Field(8765, ge=1, le=65535, validation_alias=AliasChoices("ANVILSONG_PORT", "PORT"))
    hosts: str = ""
    """Names, with commas between, under which other devices of the shop may ask for pages."""
    shop: bool = False
    """Whether other devices of the shop may come in, with a passphrase."""
    https: bool = False
    """Whether pages are served with a certificate of this program's own."""
    copies: bool = True
    """Whether a copy of the logbook is made on each day on which something changed."""
    answer_within_s: float = Field(20.0, gt=0)
    """After this long a request is told that it takes too long, and nothing of it is stored."""
    whole_request_within_s: float = Field(20.0, gt=0)
    """A request must have come in whole by then."""

    @field_validator("data", mode="before")
    @classmethod
    def _place(cls, given: Any) -> Any:
        if not isinstance(given, str) or "://" not in given:
            return given
        place = OnServer(given, Path("data"))
        if not place.is_sound:
            raise ValueError(in_units(sentence("command.address_of_database", scheme=SCHEME)))
        return place

    @model_validator(mode="after")
    def _with_folder(self) -> Self:
        if isinstance(self.data, OnServer):
            self.data = replace(self.data, folder=self.folder)
        return self

    @property
    def beside(self) -> Path:
        """The name that files of the logbook lie beside."""
        return beside(self.data)

    @property
    def is_local(self) -> bool:
        """Whether only this machine can reach the pages."""
        return self.host in ("localhost", "::1") or self.host.startswith("127.")

    @property
    def scheme(self) -> str:
        """How addresses of the pages begin."""
        return "https" if self.https else "http"

    @property
    def asks_who(self) -> bool:
        """Whether nobody gets in without the passphrase: on the shop's network, and wherever else another
        machine can reach the pages.
        """
        return self.shop or not self.is_local

    def for_shop(self) -> Config:
        """The same, reached from the shop's network; an address that was named stays."""
        host = EVERYWHERE if self.is_local else self.host
        return self.model_copy(update={"shop": True, "host": host})


def read_config() -> Config:
    """The configuration.

    Raises
    ------
    BadInput : an environment variable cannot be used; named as it is in the environment
    """
    try:
        return Config()
    except ValidationError as trouble:
        raise BadInput(*(_problem(error) for error in trouble.errors(include_url=False))) from None


def _problem(error: object) -> Problem:
    assert isinstance(error, dict)
    name = str(error["loc"][0]).upper()
    name = name if name.startswith(("ANVILSONG", "PORT")) else f"ANVILSONG_{name}"
    words = {"int_parsing": "type a whole number, such as 8765"}.get(
        error["type"], str(error["msg"]).replace("Input should be", "allowed is")
    )
    given = error["input"]
    return Problem(name, describe(without_password(given) if isinstance(given, str) else given), words)
