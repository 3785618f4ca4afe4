"""Put small faults into the code one at a time and see whether the tests notice: ``python
scripts/mutants.py``.

A fault is a sign, a comparison, a bound, a constant times 1.1, an ``and`` for an ``or``, a condition
dropped or turned round. Which tests run a line is learnt first, from one run of them all; each fault
then meets only those: the nearest and the widest first, and when they see nothing some eighty others.
Seeded: the same faults each time. ``--rooms core/plan,store`` and ``--faults 200`` narrow it.
"""

from __future__ import annotations

import argparse
import ast
import copy
import json
import os
import random
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
PACKAGE = ROOT / "src" / "anvilsong"
TESTS = ("tests/core", "tests/store", "tests/instruments", "tests/web")
FIRST_TESTS, MORE_TESTS, SECONDS_A_TEST, SECONDS = 40, 80, 60, 1200
# What looks at constants that are read before any test begins.
ALWAYS = {
    "core": ("tests/core/test_bounds.py", "tests/core/test_pinned.py", "tests/core/test_worked.py"),
    "store": ("tests/store/test_limits.py", "tests/core/test_bounds.py"),
}
TURNED: dict[type, type] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult,
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip


@dataclass(frozen=True)
class Fault:
    """One fault: where, what, and the whole module with it in."""

    path: Path
    line: int
    statement: int  # the line that it begins on, which is the one that tests are known by
    what: str
    source: str

    @property
    def room(self) -> str:
        parts = self.path.relative_to(PACKAGE).parts
        return "/".join(parts[:2]) if len(parts) > 2 else parts[0]


def faults_of(path: Path) -> Iterator[Fault]:
    """Every fault of a module, in order."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    spots = [node for node in ast.walk(tree) if _can_fail(node)]
    statements = [node for node in ast.walk(tree) if isinstance(node, ast.stmt)]
    for number, node in enumerate(spots):
        changed = copy.deepcopy(tree)
        twin = [each for each in ast.walk(changed) if _can_fail(each)][number]
        what = _spoil(twin)
        if what:
            within = (each for each in statements if each.lineno <= node.lineno <= (each.end_lineno or 0))
            statement = max((each.lineno for each in within), default=node.lineno)
            yield Fault(path, node.lineno, statement, what, ast.unparse(changed))


def _can_fail(node: ast.AST) -> bool:
    match node:
        case ast.BinOp(op=op) | ast.BoolOp(op=op) | ast.AugAssign(op=op):
            return type(op) in TURNED
        case ast.Compare(ops=[op]):
            return type(op) in TURNED
        case ast.Constant(value=value):
            return (
                isinstance(value, int | float) and not isinstance(value, bool) and value not in (0, 1, -1, 2)
            )
        case ast.If():
            return True
    return False


def _spoil(node: ast.AST) -> str:
    match node:
        case ast.BinOp() | ast.BoolOp() | ast.AugAssign():
            was = type(node.op).__name__
            node.op = TURNED[type(node.op)]()
            return f"{was} → {type(node.op).__name__}"
        case ast.Compare():
            was = type(node.ops[0]).__name__
            node.ops = [TURNED[type(node.ops[0])]()]
            return f"{was} → {type(node.ops[0]).__name__}"
        case ast.Constant():
            was = node.value
            node.value = was * 1.1 if isinstance(was, float) else was + max(1, round(0.1 * was))
            return f"{was} → {node.value}"
        case ast.If():
            node.test = ast.copy_location(ast.Constant(False), node.test)
            return "if … → never"
    return ""


# Put beside the tests while they are learnt: each test is a context of its own, in whatever thread it runs.
CONTEXTS = """
import coverage
import pytest


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_call(item):
    coverage.Coverage.current().switch_context(item.nodeid.partition("[")[0])
    yield
    coverage.Coverage.current().switch_context("")
"""


def tests_by_line(folder: Path) -> dict[str, dict[int, list[str]]]:
    """Which tests run each line of each module."""
    from coverage import CoverageData

    (folder / "contexts.py").write_text(CONTEXTS)
    (folder / "rc").write_text(f"[run]\nsource = {PACKAGE}\ndata_file = {folder / 'data'}\n")
    measured = [sys.executable, "-m", "coverage", "run", f"--rcfile={folder / 'rc'}"]
    command = [*measured, "-m", "pytest", "-q", "-x", "-p", "contexts", *TESTS]
    search = os.pathsep.join(filter(None, [str(folder), str(PACKAGE.parent), os.environ.get("PYTHONPATH")]))
    subprocess.run(
        command, cwd=ROOT, check=True, stdout=subprocess.DEVNULL, env=os.environ | {"PYTHONPATH": search}
    )
    data = CoverageData(str(folder / "data"))
    data.read()
    return {
        file: {
            line: sorted({context for context in contexts if context})
            for line, contexts in data.contexts_by_lineno(file).items()
        }
        for file in data.measured_files()
    }


def tests_of(rows: dict[int, list[str]]) -> Counter[str]:
    """The tests that run a module, by how many of its lines."""
    return Counter(test for tests in rows.values() for test in tests)


def is_noticed(fault: Fault, tests: list[str], folder: Path) -> bool:
    """Whether any of these tests fails with the fault in."""
    spoilt = Path(tempfile.mkdtemp(dir=folder))
    target = spoilt / "anvilsong"
    subprocess.run(["cp", "-rs", str(PACKAGE), str(target)], check=True)
    place = target / fault.path.relative_to(PACKAGE)
    place.unlink()
    place.write_text(fault.source, encoding="utf-8")
    environment = os.environ | {"PYTHONPATH": str(spoilt), "PYTHONDONTWRITEBYTECODE": "1"}
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "--no-header"]
    command += [f"--timeout={SECONDS_A_TEST}", *tests]  # a test that goes round for ever fails by itself
    try:
        done = subprocess.run(
            command,
            cwd=ROOT,
            env=environment,
            timeout=SECONDS,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        return done.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        subprocess.run(["rm", "-rf", str(spoilt)], check=False)


class Bench:
    """Which tests run a line, and how wide each of them is."""

    def __init__(self, lines: dict[str, dict[int, list[str]]], folder: Path) -> None:
        self.lines, self.folder = lines, folder
        # What runs little else was written for it.
        self.breadth = sum((tests_of(rows) for rows in lines.values()), Counter[str]())

    def tests_for(self, fault: Fault) -> tuple[list[str], list[str]]:
        """The nearest and the widest tests of the fault's line, and some others."""
        rows = self.lines.get(str(fault.path), {})
        # A constant runs when its module is read: whoever runs most of that meets it first. What
        # is compiled runs unseen: there the module's neighbours tell.
        widest = tests_of(rows) or sum(
            (tests_of(self.lines.get(str(path), {})) for path in fault.path.parent.glob("*.py")), Counter()
        )
        running = rows.get(fault.statement) or list(widest)
        floor = fault.room.partition("/")[0]

        def is_far(test: str) -> bool:  # a room's own tests look closest
            return not test.startswith(f"tests/{floor}/")

        near = sorted(running, key=lambda t: (is_far(t), self.breadth[t], t))[: FIRST_TESTS // 2]
        wide = sorted(running, key=lambda t: (is_far(t), -widest[t], t))[: FIRST_TESTS // 2]
        first = list(dict.fromkeys([*near, *wide]))
        if not rows.get(fault.statement):
            first += ALWAYS.get(floor, ())
        rest = sorted(set(running) - set(first), key=lambda t: (self.breadth[t], t))[:MORE_TESTS]
        return first, rest

    def meet(self, fault: Fault) -> tuple[Fault, bool]:
        """The fault, and whether any of its tests noticed it."""
        return fault, any(is_noticed(fault, tests, self.folder) for tests in self.tests_for(fault) if tests)


def learnt(folder: Path, kept: Path | None) -> dict[str, dict[int, list[str]]]:
    """Which tests run each line: as kept, or learnt now and kept."""
    if kept and kept.exists():
        files = json.loads(kept.read_text())
        return {file: {int(line): tests for line, tests in rows.items()} for file, rows in files.items()}
    lines = tests_by_line(folder)
    if kept:
        kept.write_text(json.dumps(lines))
    return lines


def chosen(rooms: str, faults: int, seed: int) -> list[Fault]:
    """So many faults of some rooms, the same for the same seed."""
    paths = [path for room in rooms.split(",") for path in sorted((PACKAGE / room).rglob("*.py"))]
    every = [fault for path in paths if "migrations" not in path.parts for fault in faults_of(path)]
    return random.Random(seed).sample(every, min(faults, len(every)))


def main() -> int:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--faults", type=int, default=200)
    options.add_argument("--seed", type=int, default=11)
    options.add_argument("--rooms", default="core,store")
    options.add_argument(
        "--lines", type=Path, help="keep which tests run a line here, and read it when it is there"
    )
    options.add_argument("--processes", type=int, default=os.cpu_count() or 2)
    given = options.parse_args()
    noticed, met = Counter[str](), Counter[str]()
    with tempfile.TemporaryDirectory() as name, ThreadPoolExecutor(given.processes) as pool:
        bench = Bench(learnt(Path(name), given.lines), Path(name))
        for fault, was_noticed in pool.map(bench.meet, chosen(given.rooms, given.faults, given.seed)):
            met[fault.room] += 1
            noticed[fault.room] += was_noticed
            where = f"{fault.path.relative_to(ROOT)}:{fault.line}: {fault.what}"
            print("." if was_noticed else f"s\n{where}\n", end="", flush=True)
    print()
    for room in sorted(met):
        print(f"{room}: {noticed[room]} of {met[room]} noticed ({100 * noticed[room] / met[room]:.0f} %)")
    all_noticed, all_met = sum(noticed.values()), sum(met.values())
    print(f"all: {all_noticed} of {all_met} ({100 * all_noticed / all_met:.0f} %)")
    return 0


if __name__ == "__main__":
    sys.exit(main())
