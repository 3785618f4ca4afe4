"""Scripts, styles and fonts: under an address that holds a mark of their content they may be kept for
ever. The styles that every page has are one file, and a page names beside its script the modules which that
imports, so that a first visit asks for all of it at once.
"""

from __future__ import annotations

import hashlib
import re
from functools import cache
from importlib.resources import files
from pathlib import Path

from markupsafe import Markup
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

FOR_EVER = "public, max-age=31536000, immutable"
ASK_AGAIN = "no-cache"
# In the order in which a later one overrules an earlier one.
SHARED_STYLES = (
    "theme", "frame", "set_line", "told", "drawings", "margins", "forms", "lanes", "prep", "torch", "board",
    "card", "read", "coupon", "shop", "door", "touch", "narrow",
)  # fmt: skip
SHARED = "css/shared.css"
_IMPORTED = re.compile(r'from "\./([\w.]+)\.js"')


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


@cache
def shared_styles() -> str:
    """The styles that every page has, one after the other."""
    styles = (folder() / "css" / f"{name}.css" for name in SHARED_STYLES)
    return "".join(style.read_text(encoding="utf-8") for style in styles)


@cache
def imported_by(module: str) -> tuple[str, ...]:
    """The modules that a script needs, those of its modules too, each once."""
    found, waiting = dict[str, None](), [module]
    while waiting:
        text = (folder() / "js" / f"{waiting.pop(0)}.js").read_text(encoding="utf-8")
        fresh = [name for name in _IMPORTED.findall(text) if name not in found and name != module]
        found |= dict.fromkeys(fresh)
        waiting += fresh
    return tuple(found)


@cache
def script(module: str) -> Markup:
    """A page's script, with what it imports."""
    place = f"/static/{mark()}/js"
    needs = [f'<link rel="modulepreload" href="{place}/{name}.js">' for name in imported_by(module)]
    return Markup("\n".join([f'<script type="module" src="{place}/{module}.js"></script>', *needs]))


class MarkedFiles(StaticFiles):
    """The files under ``/static/<mark>/…``, kept for ever, and under ``/static/…``, asked for again each
    time.
    """

    def __init__(self) -> None:
        super().__init__(directory=str(folder()))

    async def get_response(self, path: str, scope: Scope) -> Response:
        first, _, rest = path.partition("/")
        marked = first == mark()
        asked = rest if marked else path
        if asked == SHARED:
            answer = Response(shared_styles(), media_type="text/css")
        else:
            answer = await super().get_response(asked, scope)
        answer.headers["cache-control"] = FOR_EVER if marked else ASK_AGAIN
        return answer
