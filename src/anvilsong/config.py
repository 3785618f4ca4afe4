"""Settings of the program itself, from the environment: ANVILSONG_DATA, ANVILSONG_HOST, ANVILSONG_PORT."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Config(BaseSettings):
    """Where the database file is and where the pages are served."""

    model_config = SettingsConfigDict(env_prefix="ANVILSONG_", extra="ignore")

    data: Path = Path("data/anvilsong.sqlite")
    host: str = "127.0.0.1"
    port: int = Field(8765, ge=1, le=65535)
