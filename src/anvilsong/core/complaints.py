"""What is wrong with given data, as this product's one sentence a field."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from anvilsong.core import say
from anvilsong.core.errors import BadInput, Problem, Unfit, describe
from anvilsong.core.said import Words
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence

SIDE = "{“alloy”: “6061”, “thickness”: “3 mm”}"
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
        cause = error.get("ctx", {}).get("error")
        words = cause.words if isinstance(cause, Unfit) else error["msg"].removeprefix("Value error, ")
        inner, words = say.parted(words, "|")
        if inner:
            given, field = _dig(given, inner), f"{field}.{inner}" if field else inner
        words = _words(error, field, words)
        if error["type"] == "json_invalid":
            field, given = field if skip == 0 else "body", "what was sent"
        problem = Problem(field or "job", "nothing" if error["type"] == "missing" else describe(given), words)
        # Where side b was filled from a, a's complaint says it all.
        as_a = replace(problem, field=_SIDE_B.sub("a", problem.field))
        if all(seen.field != problem.field for seen in found) and as_a not in found:
            found.append(problem)
    return found


def _words(error: Any, field: str, said: Words) -> Words:
    """What is allowed instead, as the end of a sentence; ``said`` is what the check itself says."""
    context = error.get("ctx", {})
    match error["type"]:
        case "missing":
            return sentence("typed.must_be_given")
        case "literal_error":
            return sentence("typed.one_of", expected=str(context["expected"]).replace("'", ""))
        case "extra_forbidden":
            return sentence("typed.no_field_of_job")
        case "greater_than":
            return sentence("typed.more_than", limit=say.limit(context["gt"], field))
        case "greater_than_equal":
            return sentence("typed.or_more", limit=say.limit(context["ge"], field))
        case "less_than":
            return sentence("typed.less_than", limit=say.limit(context["lt"], field))
        case "less_than_equal":
            return sentence("typed.at_most", limit=say.limit(context["le"], field))
        case "model_type" | "dict_type" | "model_attributes_type":
            return (
                sentence("typed.side_object", example=SIDE)
                if field in ("a", "b")
                else sentence("typed.object")
            )
        case "tuple_type" | "list_type":
            return sentence("typed.list_in_brackets")
        case "string_type" | "string_unicode":
            return sentence("typed.text_in_quotes")
        case "string_too_short":
            least = context["min_length"]
            return (
                sentence("typed.one_letter")
                if least == 1
                else sentence("typed.letters_at_least", letters=least)
            )
        case "string_too_long":
            return sentence("typed.letters_at_most", letters=context["max_length"])
        case "too_long":
            return sentence("typed.of_them_at_most", count=context["max_length"])
        case "too_short":
            return sentence("typed.of_them_at_least", count=context["min_length"])
        case "json_invalid":
            return sentence("typed.json_object")
        case "float_parsing" | "float_type" | "int_parsing" | "int_type" | "int_from_float" | "finite_number":
            return sentence("typed.a_number")
        case _:
            if isinstance(said, str):
                said = said.replace("Input should be", "allowed is")
            return say.without_stop(said)


def _is_branch(part: Any) -> bool:
    """Whether a place in pydantic's path names a branch of a union or a checking function, not a field."""
    return isinstance(part, str) and (part in ("str", "float", "constrained-str") or "[" in part)


def _dig(given: Any, path: str) -> Any:
    for part in path.split("."):
        given = (
            given.get(part, "this value") if isinstance(given, dict) else getattr(given, part, "this value")
        )
    return given
