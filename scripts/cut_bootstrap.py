"""Cut the vendored Bootstrap to the rules that this product can meet: ``python scripts/cut_bootstrap.py``.

A rule stays when every class it asks for stands as a word in a template, a script or a drawing. What it is
cut from stays
beside it, with the licence; a test compares the two.
"""

from __future__ import annotations

import re
from pathlib import Path

import tinycss2

WEB = Path(__file__).parents[1] / "src" / "anvilsong" / "web"
FOLDER = WEB / "static" / "vendor" / "bootstrap"
WHOLE, CUT = FOLDER / "bootstrap.min.css", FOLDER / "bootstrap.cut.css"
CLASS = re.compile(r"\.((?:\\.|[\w-])+)")
VARIABLE = re.compile(r"var\((--[\w-]+)")


def words_used() -> set[str]:
    """Every word that could be a class."""
    found: set[str] = set()
    for path in WEB.rglob("*"):
        if path.suffix in (".html", ".js", ".py") and "vendor" not in path.parts:
            found |= set(re.findall(r"[A-Za-z][\w-]*", path.read_text(encoding="utf-8")))
    return found


def cut(css: str, words: set[str]) -> str:
    """The style sheet without the rules that ask for other classes, and without variables that nothing
    reads.
    """
    rules = tinycss2.parse_stylesheet(css, skip_comments=False, skip_whitespace=True)
    kept = "".join(filter(None, (_kept(rule, words) for rule in rules)))
    return _without_unread(kept, set(VARIABLE.findall(kept + _own_styles())))


def _own_styles() -> str:
    return "".join(
        path.read_text(encoding="utf-8") for path in sorted((WEB / "static" / "css").glob("*.css"))
    )


def _kept(rule: tinycss2.ast.Node, words: set[str]) -> str:
    if rule.type == "comment":
        return f"/*{rule.value}*/\n" if rule.value.startswith("!") else ""
    if rule.type == "at-rule" and rule.lower_at_keyword == "media" and rule.content:
        inner = "".join(_kept(each, words) for each in tinycss2.parse_rule_list(rule.content, True, True))
        return f"@media{tinycss2.serialize(rule.prelude)}{{{inner}}}\n" if inner else ""
    if rule.type == "at-rule":
        return "" if "keyframes" in rule.lower_at_keyword else rule.serialize() + "\n"
    if rule.type != "qualified-rule":
        return ""
    wanted = [
        each for each in tinycss2.serialize(rule.prelude).split(",") if set(CLASS.findall(each)) <= words
    ]
    return f"{','.join(wanted)}{{{tinycss2.serialize(rule.content)}}}\n" if wanted else ""


def _without_unread(css: str, read: set[str]) -> str:
    """Without the declarations of variables that no rule reads."""
    return re.sub(r"(--[\w-]+):[^;{}]*;?", lambda found: found[0] if found[1] in read else "", css)


def main() -> None:
    text = cut(WHOLE.read_text(encoding="utf-8"), words_used())
    CUT.write_text(text, encoding="utf-8")
    print(f"{WHOLE.stat().st_size} bytes became {CUT.stat().st_size}")


if __name__ == "__main__":
    main()
