"""Pages as one file: styles and fonts inside, so that they are read where nothing else can be loaded."""

from __future__ import annotations

import re
from base64 import b64encode
from functools import lru_cache
from pathlib import Path

from markupsafe import Markup

from anvilsong.web.files import folder

_ADDRESS = re.compile(r"""url\((["']?)([^"')]+)\1\)""")
TYPES = {".woff2": "font/woff2", ".svg": "image/svg+xml"}


@lru_cache(maxsize=8)
def one_style(names: tuple[str, ...]) -> Markup:
    """Style sheets one after the other, each file they name inside them."""
    css = folder() / "css"
    text = "\n".join(_inside(css / name) for name in names)
    return Markup(text.replace("</", "<\\/"))


def _inside(path: Path) -> str:
    def as_data(found: re.Match[str]) -> str:
        if found[2].startswith("data:"):
            return found[0]
        file = (path.parent / found[2]).resolve()
        data = b64encode(file.read_bytes()).decode("ascii")
        return f"url(data:{TYPES[file.suffix]};base64,{data})"

    return _ADDRESS.sub(as_data, path.read_text(encoding="utf-8"))
