"""Sentences are data: every key in use has one, every one is in use, every one can be said in both systems, and none
stands in the program itself.
"""

import ast
import re
from pathlib import Path

import pytest

from anvilsong.core import say
from anvilsong.core.words import places, rooms, sentence, table

ROOT = Path(__file__).parents[2] / "src" / "anvilsong"
FILES = [path for path in sorted(ROOT.rglob("*.py")) if "migrations" not in path.parts]
KEYS = [f"{room}.{name}" for room in rooms() for name in table(room)]
# The demo's texts are the workshop's own; tables, SQL, formulas and policies are no sentences. Three modules say
# something to whoever writes the program, and to nobody else.
ITS_OWN = {"demo", "config.py"}
FOR_PROGRAMMERS = {"said.py", "formula.py", "roots.py"}
NO_SENTENCE = re.compile(
    r"SELECT |CASE WHEN |ORDER BY |CREATE |INSERT |UPDATE |DELETE |PRAGMA |REPLACE |WHERE |GROUP BY |ELSE uid|\w+_at$|^revision, |[<{]|class|-src |\(\?P<|^/|[a-z_]+_[a-z_]+.*[*/]|%s"
)
WORDS = 5


def literals():
    """Every text of the program that is no docstring: where it stands, and the text."""
    for path in FILES:
        tree = ast.parse(path.read_text(encoding="utf-8"))
        docs = {id(each.value) for each in ast.walk(tree) if isinstance(each, ast.Expr)}
        logs = {
            id(given)
            for each in ast.walk(tree)
            if isinstance(each, ast.Call) and ast.unparse(each.func).startswith(("log.", "logging."))
            for given in each.args
        }
        for each in ast.walk(tree):
            if isinstance(each, ast.Constant) and isinstance(each.value, str) and id(each) not in docs | logs:
                yield path.relative_to(ROOT), each.lineno, each.value


def test_no_sentence_stands_in_the_program():
    found = [
        f"{path}:{line}: {text[:80]}"
        for path, line, text in literals()
        if sum(bool(re.search("[A-Za-z]{2}", word)) for word in text.split()) >= WORDS
        and not ITS_OWN & {*path.parts}
        and path.name not in FOR_PROGRAMMERS
        and not NO_SENTENCE.search(text)
        and not re.match(r"(min|max)\(", text)  # a formula
    ]
    assert not found, "\n".join(found)


def test_every_key_in_use_has_a_sentence_and_every_sentence_is_used():
    used = {
        each.args[0].value
        for path in FILES
        for each in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(each, ast.Call)
        and getattr(each.func, "id", "") == "sentence"
        and isinstance(each.args[0], ast.Constant)
    }
    assert used == set(KEYS)


@pytest.mark.parametrize("key", KEYS)
def test_every_sentence_can_be_said(key):
    """With the largest and the smallest figures, in both systems: every place filled, no sign of a place left."""
    for value in (0.0, 1e-4, -40.0, 1e6):
        given = {name: value if kind else "it" for name, kind in places(key).items()}
        for system in ("mm", "inch"):
            said = say.in_units(sentence(key, **given), system)
            assert isinstance(said, str)
            assert not re.search(r"[{}]", said)
            assert said.strip()
    with pytest.raises(TypeError, match="has no place for"):
        sentence(key, **dict.fromkeys(places(key), 1.0), nobody=1)


def test_lengths_follow_the_reader_and_shares_do_not():
    said = sentence("checks.melt_through", top=25.4, root=12.7)
    assert (
        say.in_units(said, "mm")
        == "Pool 25 mm over a root of 12.7 mm: it melts through. Fewer amps, or faster."
    )
    assert "1.00 in over a root of 0.500 in" in say.in_units(said, "inch")
    with pytest.raises(KeyError):
        sentence("checks.melt_through", top=1.0)
    with pytest.raises(KeyError):
        sentence("checks.no_such_key")
