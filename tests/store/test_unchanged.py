"""What is read once for as long as the logbook stays as it is: never older than what the transaction sees."""

from concurrent.futures import ThreadPoolExecutor
from contextlib import closing

import pytest

from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.torch.kit import Kit
from anvilsong.demo.machines import HERON
from anvilsong.demo.shelf import BENCH
from anvilsong.store import book, shop
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.store.database import open_database, sessions
from anvilsong.store.models import MachineRow
from anvilsong.store.reading import MOST_KNOWN_LETTERS, readable_text
from anvilsong.store.unchanged import MOST_HELD, unchanged

WREN = HERON.model_copy(update={"name": "Wren 200"})
JOB = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "machine": "Heron 320"})


def named(session):
    return [machine.name for machine in shop.machines(session)]


def test_a_file_that_nobody_changes_is_read_once(data_file):
    make, read = sessions(open_database(data_file)), []
    for _ in range(3):
        with make() as session:
            unchanged(session, "here", lambda: read.append(1))
    assert len(read) == 1
    with make() as session:
        for number in range(MOST_HELD + 2):
            unchanged(session, number, lambda: read.append(1))
        assert len(session.connection().info["unchanged"][1]) <= MOST_HELD + 1


def test_every_change_is_seen_by_whoever_may_see_it(make_session, logbook_in):
    with make_session() as reader:
        assert "Wren 200" not in named(reader)
        with make_session.begin() as writer:
            assert "Wren 200" not in named(writer)
            shop.add_machine(writer, WREN)
            assert "Wren 200" in named(writer)
            with make_session() as other:
                assert "Wren 200" not in named(other)  # not yet committed
        assert "Wren 200" not in named(reader)  # sees the logbook as it stood when it began
    with make_session() as session:
        assert "Wren 200" in named(session)


def test_what_was_undone_is_not_held(make_session):
    class Undone(Exception):
        pass

    def add_and_undo():
        with make_session.begin() as session:
            shop.add_machine(session, WREN)
            assert "Wren 200" in named(session)
            raise Undone

    with pytest.raises(Undone):
        add_and_undo()
    with make_session() as session:
        assert "Wren 200" not in named(session)


def test_another_program_s_change_is_seen(data_file):
    here, there = (sessions(open_database(data_file)) for _ in range(2))
    with here() as session:
        before = shop.bench_of(session, JOB).machine
        session.rollback()
        with there.begin() as other:
            row = other.query(MachineRow).filter(MachineRow.name == "Heron 320").one()
            shop.change_machine(other, row, before.model_copy(update={"most_a": 200.0}))
        assert shop.bench_of(session, JOB).machine.most_a == 200


def test_a_machine_that_is_not_there_is_asked_for_again(make_session):
    gone = JOB.model_copy(update={"machine": "Wren 200"})
    with make_session.begin() as session:
        with pytest.raises(BadInput, match="known machines are Curlew 220, Heron 320"):
            shop.bench_of(session, gone)
        shop.add_machine(session, WREN)
        assert shop.bench_of(session, gone).machine == WREN


def test_a_plan_is_read_from_its_texts_once_and_anew_where_it_was_changed(make_session):
    with make_session.begin() as session:
        row = book.find_jobs(session, "float tank")[0]
        plan = book.find_plan(session, row.id)
        made = book.read_plan(plan)
        assert book.read_plan(plan) is made
        assert made.is_as_stored
        plan.plan = {}
        again = book.read_plan(plan)
        assert not again.is_as_stored
        assert again.plan.settings == made.plan.settings
        assert len(again.notices) == 1


def test_what_is_asked_many_times_a_second_is_read_again_after_every_commit(data_file, tmp_path):
    """Of this program and of another, and after a restore; others that ask at once share it."""
    here, there = (sessions(open_database(data_file)) for _ in range(2))
    copy, read = backup_to(data_file, tmp_path / "copy.sqlite"), []

    def most_a():
        def asked(session):
            read.append(1)
            return shop.find_machine(session, "Heron 320").most_a

        return here.unchanged("heron", asked)

    assert {most_a() for _ in range(5)} == {320}
    assert len(read) == 1
    for make, amps in ((here, 210.0), (there, 220.0)):
        with make.begin() as session:
            row = session.query(MachineRow).filter(MachineRow.name == "Heron 320").one()
            shop.change_machine(session, row, HERON.model_copy(update={"most_a": amps}))
            assert most_a() != amps  # not yet committed
        assert most_a() == amps
    restore_from(data_file, copy)
    assert most_a() == 320
    with ThreadPoolExecutor(8) as threads:
        assert set(threads.map(lambda _: most_a(), range(200))) == {320}
    with closing(here._watch._connection) as broken:
        assert broken is not None
    assert most_a() == 320  # asked plainly, and watched by another connection from then on
    assert most_a() == 320


def test_on_a_server_it_is_read_each_time(make_session, logbook_in):
    read = []
    for _ in range(3):
        make_session.unchanged("here", lambda session: read.append(1))
    assert len(read) == (1 if logbook_in == "file" else 3)


def test_a_logbook_that_was_closed_is_one_whole_file(data_file):
    """What was committed stands in the file itself, to be copied, also where a what-if was asked before."""
    engine = open_database(data_file)
    make = sessions(engine)
    assert make.unchanged("here", lambda session: 1) == 1
    with make.begin() as session:
        shop.add_machine(session, WREN)
    assert data_file.with_name(data_file.name + "-wal").stat().st_size
    engine.dispose()
    assert not data_file.with_name(data_file.name + "-wal").exists()
    assert make.unchanged("here", lambda session: 2) == 2  # opened again where it is asked again
    engine.dispose()


def test_a_large_document_is_read_anew_and_a_small_one_is_known():
    kit = BENCH.model_dump_json(by_alias=True)
    assert readable_text(Kit, kit) is readable_text(Kit, kit)
    large = f"{kit}{' ' * MOST_KNOWN_LETTERS}"
    assert readable_text(Kit, large) == readable_text(Kit, kit)
    assert readable_text(Kit, large) is not readable_text(Kit, large)
