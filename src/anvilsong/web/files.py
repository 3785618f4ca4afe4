"""Scripts, styles and fonts: under an address that holds a mark of their content they may be kept for
ever.
"""

from __future__ import annotations

import hashlib
from functools import cache
from importlib.resources import files
from pathlib import Path

from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

FOR_EVER = "public, max-age=31536000, immutable"
ASK_AGAIN = "no-cache"


def folder() -> Path:
    """Where the files lie."""
    return Path(str(files("anvilsong.web").joinpath("static")))


@cache
def mark() -> str:
    """A mark of everything that pages load: another release, another mark. Modules load one another beside
    themselves.
    """
    digest = hashlib.sha256()
    for path in sorted(folder().rglob("*")):
        if path.is_file() and "swagger-ui" not in path.parts:
            digest.update(path.relative_to(folder()).as_posix().encode() + path.read_bytes())
    return digest.hexdigest()[:12]


class MarkedFiles(StaticFiles):
    """The files under ``/static/<mark>/…``, kept for ever, and under ``/static/…``, asked for again each
    time.
    """

    def __init__(self) -> None:
        super().__init__(directory=str(folder()))

    async def get_response(self, path: str, scope: Scope) -> Response:
        first, _, rest = path.partition("/")
        marked = first == mark()
        answer = await super().get_response(rest if marked else path, scope)
        answer.headers["cache-control"] = FOR_EVER if marked else ASK_AGAIN
        return answer
