"""What pages take from a request: typed fields, row numbers, and marks that tell a form sent twice."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Depends, HTTPException, Path, Query, Request
from starlette.datastructures import UploadFile

from anvilsong.web.frame import read_in_units_of

LARGEST_ID = 2**63 - 1
MOST_FIELDS, MOST_FILES = 2000, 20


async def _fields(request: Request) -> dict[str, str]:
    form = await request.form(max_files=MOST_FILES, max_fields=MOST_FIELDS)
    read_in_units_of(request, form)
    return {name: value for name, value in form.items() if isinstance(value, str)}


Fields = Annotated[dict[str, str], Depends(_fields)]
"""The text fields of a form, read before the page's own function runs in a thread."""
RowId = Annotated[int, Path(ge=1, le=LARGEST_ID)]
PageNumber = Annotated[int, Query(ge=1, le=10**6)]
Revision = Annotated[int | None, Query(ge=1, le=10**9)]


def typed_query(request: Request) -> dict[str, str]:
    """What stands behind the ? of an address, as typed."""
    return dict(request.query_params.items())


def whole(text: Any) -> int | None:
    """A whole number of few digits in a field; None for anything else (² is no digit here)."""
    text = str(text or "").strip()
    return int(text) if text.isascii() and text.isdecimal() and len(text) <= 18 else None


def file_label(name: str) -> str | None:
    """A file's name as far as it can be shown; None where nothing of it can."""
    bare = "".join(letter for letter in name.replace("\\", "/").rpartition("/")[2] if letter.isprintable())
    return bare[:40] if any(letter.isalnum() for letter in bare[:40]) else None


def uid_of(form: dict[str, str]) -> str | None:
    """The mark that a form carries so that sending it twice stores it once."""
    mark = form.get("uid", "")
    return mark if len(mark) == 32 and all(letter in "0123456789abcdef" for letter in mark) else None


def found(row: Any) -> Any:
    """The row, or a page that says there is none."""
    if row is None:
        raise HTTPException(404)
    return row


def own_address(text: str, otherwise: str) -> str:
    """An address within this program to go back to; anything that could lead elsewhere becomes
    ``otherwise``.
    """
    fits = (
        text.startswith("/")
        and not text.startswith(("//", "/\\"))
        and "\\" not in text
        and text.isprintable()
    )
    return text if fits and len(text) <= 2000 else otherwise


async def _uploads(request: Request) -> dict[str, UploadFile]:
    form = await request.form(max_files=MOST_FILES, max_fields=MOST_FIELDS)
    read_in_units_of(request, form)
    return {name: value for name, value in form.items() if isinstance(value, UploadFile)}


Uploads = Annotated[dict[str, UploadFile], Depends(_uploads)]
"""The files of a form; large ones lie on the disk, not in memory."""
