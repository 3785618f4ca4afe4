"""What is wrong with given data, as this product's one sentence a field."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from anvilsong.core import say
from anvilsong.core.errors import BadInput, Problem, describe
from anvilsong.core.units import UnitSystem

Model = TypeVar("Model", bound=BaseModel)
_SIDE_B = re.compile(r"(?<![^.])b(?=\.|$)")


def validated(model: type[Model], given: Any, units: UnitSystem = "mm") -> Model:
    """A pydantic value, with its complaints turned into this product's one sentence a field.

    ``units`` is what a bare number in text means (`core.typed`).
    """
    try:
        return model.model_validate(given, context={"units": units})
    except ValidationError as trouble:
        raise BadInput(*problems_of(trouble.errors(include_url=False))) from None


def problems_of(errors: Sequence[Any], skip: int = 0) -> list[Problem]:
    """Pydantic's complaints as one problem a field; ``skip`` leaves the first places of each path out
    (FastAPI's ``body``).
    """
    found: list[Problem] = []
    for error in errors:
        field = ".".join(str(part) for part in error["loc"][skip:] if not _is_branch(part))
        given = error["input"]
        said = error["msg"].removeprefix("Value error, ")
        if "|" in said:
            inner, said = said.split("|", 1)
            given, field = _dig(given, inner), f"{field}.{inner}" if field else inner
        words = _words(error, field, said)
        if error["type"] == "json_invalid":
            field, given = field if skip == 0 else "body", "what was sent"
        problem = Problem(
            field or "job", "nothing" if error["type"] == "missing" else say.guarded(describe(given)), words
        )
        # Where side b was filled from a, a's complaint says it all.
        as_a = replace(problem, field=_SIDE_B.sub("a", problem.field))
        if all(seen.field != problem.field for seen in found) and as_a not in found:
            found.append(problem)
    return found


def _words(error: Any, field: str, said: str) -> str:
    """What is allowed instead, as the end of a sentence; ``said`` is what the check itself says."""
    context = error.get("ctx", {})
    match error["type"]:
        case "missing":
            return "it must be given"
        case "literal_error":
            return f"allowed is {context['expected']}".replace("'", "")
        case "extra_forbidden":
            return "this is not a field of a job"
        case "greater_than":
            return f"allowed is more than {say.limit(context['gt'], field)}"
        case "greater_than_equal":
            return f"allowed is {say.limit(context['ge'], field)} or more"
        case "less_than":
            return f"allowed is less than {say.limit(context['lt'], field)}"
        case "less_than_equal":
            return f"allowed is {say.limit(context['le'], field)} at most"
        case "model_type" | "dict_type" | "model_attributes_type":
            return (
                "allowed is an object, such as {“alloy”: “6061”, “thickness”: “3 mm”}"
                if field in ("a", "b")
                else "allowed is an object"
            )
        case "tuple_type" | "list_type":
            return "allowed is a list in brackets"
        case "string_type" | "string_unicode":
            return "allowed is text in quotes"
        case "string_too_short":
            return (
                "give it at least one letter"
                if context["min_length"] == 1
                else f"give it at least {context['min_length']} letters"
            )
        case "string_too_long":
            return f"it may have {context['max_length']} letters at most"
        case "too_long":
            return f"there may be {context['max_length']} of them at most"
        case "too_short":
            return f"there must be at least {context['min_length']}"
        case "json_invalid":
            return "send a JSON object"
        case "float_parsing" | "float_type" | "int_parsing" | "int_type" | "int_from_float" | "finite_number":
            return "allowed is a number"
        case _:
            return said.replace("Input should be", "allowed is").rstrip(".")


def _is_branch(part: Any) -> bool:
    """Whether a place in pydantic's path names a branch of a union or a checking function, not a field."""
    return isinstance(part, str) and (part in ("str", "float", "constrained-str") or "[" in part)


def _dig(given: Any, path: str) -> Any:
    for part in path.split("."):
        given = (
            given.get(part, "this value") if isinstance(given, dict) else getattr(given, part, "this value")
        )
    return given
