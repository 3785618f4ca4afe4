"""A book written in any order is what a plain list says it is, before and after an export; and merges of any two changes."""

import itertools
import random
import tempfile
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from anvilsong.core.bead import Readings
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.demo.machines import MACHINES
from anvilsong.store import book, coupons, recipes, shop
from anvilsong.store.database import open_database, sessions
from anvilsong.store.exchange import import_from
from anvilsong.store.export import export_book, export_to
from anvilsong.store.finding import meant
from anvilsong.store.lines import book_page
from anvilsong.store.merge import merge

TITLES = ("Float tank", "Rigger plate", "Mast step", "Housing lid")
ALLOYS = ("6061", "5083", "7075")  # the last is refused: a job without settings
STEPS = ("prep:degrease", "prep:brush", "torch:cup")
which = st.integers(0, 99)


class Book(RuleBasedStateMachine):
    """What was written, kept beside the store as plain dictionaries."""

    def __init__(self):
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.make_session = sessions(open_database(Path(self.folder.name) / "book.sqlite"))
        self.jobs = []
        with self.make_session.begin() as session:
            shop.add_machine(session, MACHINES[0])
            for name in ("Ottilie", "Bram"):
                shop.save_welder(
                    session,
                    None,
                    name,
                    read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}).school,
                    "",
                )
            self.welders = {row.name: row.id for row in shop.welders(session)}

    def teardown(self):
        self.folder.cleanup()

    def of(self, session, which):
        kept = self.jobs[which % len(self.jobs)]
        return kept, book.get_job(session, kept["id"])

    @rule(
        title=st.sampled_from(TITLES),
        alloy=st.sampled_from(ALLOYS),
        welder=st.sampled_from(["", "Ottilie", "Bram"]),
    )
    def add(self, title, alloy, welder):
        job = read_job({"a": {"alloy": alloy, "thickness": 3}, "joint": "butt", "machine": MACHINES[0].name})
        with self.make_session.begin() as session:
            row = book.add_job(session, title, job, self.welders.get(welder))
            self.jobs.append(
                {"id": row.id, "title": title, "alloy": alloy, "welder": welder, "revisions": [alloy != "7075"], "coupons": [], "ticks": set(),
                 "away": False, "recipes": {}, "note": ""}
            )  # fmt: skip

    @precondition(lambda self: self.jobs)
    @rule(which=which, more=st.booleans())
    def plan(self, which, more):
        with self.make_session.begin() as session:
            kept, row = self.of(session, which)
            planned = book.read_plan(book.find_plan(session, row.id)).plan
            moved = (
                planned.settings.model_copy(update={"travel_mm_s": 2.5})
                if more and planned.settings
                else None
            )
            book.add_plan(session, row, planned.job, "tune" if moved else "plan", "Again", moved)
            kept["revisions"].append(kept["alloy"] != "7075")

    @precondition(lambda self: self.jobs)
    @rule(
        which=which, width=st.sampled_from([5.0, 6.0, 7.0]), note=st.sampled_from(["", "zigzag", "peppered"])
    )
    def coupon(self, which, width, note):
        readings = Readings(
            bead_width_mm=width, border_left_mm=1, border_right_mm=1, length_mm=100, seconds=30, note=note
        )
        with self.make_session.begin() as session:
            kept, row = self.of(session, which)
            newest = book.find_plan(session, row.id)
            if kept["alloy"] == "7075":
                with pytest.raises(BadInput, match="refused"):
                    coupons.add_coupon(session, row, newest, readings)
                return
            made = coupons.add_coupon(session, row, newest, readings)
            assert made.number == len(kept["coupons"]) + 1
            kept["coupons"].append([(width, note)])
            kept["note"] += f" {note}"

    @precondition(lambda self: any(kept["coupons"] for kept in self.jobs))
    @rule(which=which, width=st.sampled_from([5.5, 6.5]))
    def correct(self, which, width):
        with self.make_session.begin() as session:
            kept = [kept for kept in self.jobs if kept["coupons"]][
                which % sum(bool(kept["coupons"]) for kept in self.jobs)
            ]
            number = which % len(kept["coupons"]) + 1
            row = coupons.find_coupon(session, kept["id"], number)
            coupons.correct_coupon(
                session, row, Readings.model_validate(row.readings[-1].document | {"bead_width_mm": width})
            )
            note = kept["coupons"][number - 1][-1][1]
            kept["coupons"][number - 1].append((width, note))

    @precondition(lambda self: self.jobs)
    @rule(which=which, step=st.sampled_from(STEPS), done=st.booleans())
    def tick(self, which, step, done):
        with self.make_session.begin() as session:
            kept, row = self.of(session, which)
            book.tick(session, row, step, done)
            (kept["ticks"].add if done else kept["ticks"].discard)(step)

    @precondition(lambda self: self.jobs)
    @rule(which=which)
    def away_or_back(self, which):
        with self.make_session.begin() as session:
            kept, row = self.of(session, which)
            (shop.bring_back if kept["away"] else shop.put_away)(session, row)
            kept["away"] = not kept["away"]

    @precondition(lambda self: self.jobs)
    @rule(which=which, name=st.sampled_from(["Bright", "bright ", "Tight"]), drop=st.booleans())
    def recipe(self, which, name, drop):
        with self.make_session.begin() as session:
            kept, row = self.of(session, which)
            plan = book.find_plan(session, row.id)
            if drop:
                recipes.drop_recipe(session, plan)
                kept["recipes"].pop(plan.revision, None)
                return
            others = {
                (each["id"], number): words.lower()
                for each in self.jobs
                for number, words in each["recipes"].items()
            }
            others.pop((kept["id"], plan.revision), None)
            if kept["alloy"] == "7075" or name.strip().lower() in others.values():
                with pytest.raises(BadInput, match=r"refused|no other recipe"):
                    recipes.keep_recipe(session, plan, name)
                return
            recipes.keep_recipe(session, plan, name)
            kept["recipes"][plan.revision] = name.strip()

    def check(self, session):
        for away in (False, True):
            here = {kept["id"] for kept in self.jobs if kept["away"] is away}
            page = book_page(session, away=away)
            assert page.jobs == len(here)
            assert {line.job_id for line in page.lines} == here
            for title, welder, note in itertools.product(("float", ""), ("ottilie", ""), ("zigzag", "")):
                wanted = {
                    kept["id"] for kept in self.jobs
                    if kept["away"] is away and title in kept["title"].lower() and welder in kept["welder"].lower() and note in kept["note"]
                }  # fmt: skip
                query = f"{title} {welder} {note}".strip()
                found = book.find_jobs(session, query, away=away)
                if meant(session, query).read_as:  # a word that no job has, read as one spelt like it
                    wanted = wanted or {row.id for row in found}
                assert {row.id for row in found} == wanted
        assert book.count_put_away(session) == sum(kept["away"] for kept in self.jobs)
        for line in book_page(session).lines:
            kept = next(kept for kept in self.jobs if kept["id"] == line.job_id)
            assert (line.title, line.welder, line.revision) == (
                kept["title"],
                kept["welder"],
                len(kept["revisions"]),
            )
            assert (line.coupons, line.refused) == (len(kept["coupons"]), not kept["revisions"][-1])
            assert bool(line.last_change) == bool(kept["coupons"])
        for kept in self.jobs:
            row = book.get_job(session, kept["id"])
            assert [bool(plan.settings) for plan in row.plans] == kept["revisions"]
            assert [plan.revision for plan in row.plans] == list(range(1, len(kept["revisions"]) + 1))
            assert {step.step for step in row.ticks} == kept["ticks"]
            said = [
                [(r.document["bead_width_mm"], r.document["note"]) for r in coupon.readings]
                for coupon in row.coupons
            ]
            assert said == kept["coupons"]
        named = sorted((name.lower(), name) for kept in self.jobs for name in kept["recipes"].values())
        assert [recipe.name for recipe in recipes.recipes(session)] == [name for _, name in named]

    @invariant()
    def the_store_says_the_same(self):
        with self.make_session() as session:
            self.check(session)

    @precondition(lambda self: self.jobs)
    @rule()
    def exported_and_imported(self):
        """Into an empty book everything comes; into this one nothing more."""
        place = Path(self.folder.name)
        with self.make_session() as session:
            export_to(session, place / "out.json")
            before = export_book(session)
        fresh = sessions(open_database(place / f"fresh{random.random()}.sqlite"))
        assert import_from(fresh, place / "out.json").jobs == len(self.jobs)
        with fresh() as session:
            after = export_book(session)
        same = ("jobs", "welders", "machines", "kits")
        assert {key: after[key] for key in same} == {key: before[key] for key in same}
        came = import_from(self.make_session, place / "out.json")
        assert (came.jobs, came.here_already) == (0, len(self.jobs))


TestBook = Book.TestCase
TestBook.settings = settings(max_examples=3, stateful_step_count=12, deadline=None, derandomize=True)

plain = st.recursive(
    st.sampled_from([0, 1, "a"]),
    lambda inner: st.dictionaries(st.sampled_from("xyz"), inner, max_size=3),
    max_leaves=6,
)
documents = st.dictionaries(st.sampled_from("xyz"), plain, max_size=3)


@given(documents, documents, documents)
def test_a_merge_keeps_what_only_one_changed(base, mine, theirs):
    """One that changed nothing gives way; twice the same is that; and both ways round the same places clash."""
    assert merge(base, base, theirs) == merge(base, theirs, theirs)
    assert merge(base, base, theirs).document == theirs
    assert merge(base, mine, base).document == mine
    one, other = merge(base, mine, theirs), merge(base, theirs, mine)
    assert sorted(clash.path for clash in one.clashes) == sorted(clash.path for clash in other.clashes)
    assert {(c.path, str(c.mine), str(c.theirs)) for c in one.clashes} == {
        (c.path, str(c.theirs), str(c.mine)) for c in other.clashes
    }
    if not one.clashes:
        assert one.document == other.document
        # What was merged has nothing left to merge from either side.
        assert merge(mine, mine, one.document).document == one.document


def test_a_group_may_count_as_one_piece():
    base, mine, theirs = (
        {"bevel": {"angle": 60, "face": 1}},
        {"bevel": {"angle": 70, "face": 1}},
        {"bevel": {"angle": 60, "face": 2}},
    )
    assert merge(base, mine, theirs).document == {"bevel": {"angle": 70, "face": 2}}
    (clash,) = merge(base, mine, theirs, whole=["bevel"]).clashes
    assert (clash.path, clash.mine, clash.theirs) == ("bevel", mine["bevel"], theirs["bevel"])
    (gone,) = merge(base, {}, theirs, whole=["bevel"]).clashes
    assert gone.mine is None
