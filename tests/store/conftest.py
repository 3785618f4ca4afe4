"""The store's tests run on both databases: `make_session` and `fresh` are logbooks of either kind."""

import shutil

import pytest

from anvilsong.store.database import open_database, sessions

KINDS = ("file", "server")


def pytest_generate_tests(metafunc):
    if "logbook_in" in metafunc.fixturenames:
        on_file = metafunc.definition.get_closest_marker("on_file") or "data_file" in metafunc.fixturenames
        metafunc.parametrize("logbook_in", KINDS[:1] if on_file else KINDS)


@pytest.fixture
def logbook(logbook_in, request, tmp_path):
    """Makes logbooks of a kind: empty, or with the workshop in it."""
    engines, places = [], []

    def make(name, is_empty=False, at=None):
        if at is not None:
            place = at
        elif logbook_in == "file":
            place = tmp_path / f"{name}.sqlite"
            if not is_empty:
                shutil.copy(request.getfixturevalue("workshop_file"), place)
        else:
            server = request.getfixturevalue("database_server")
            like = None if is_empty else request.getfixturevalue("workshop_on_server")
            place = server.place(tmp_path, like)
            places.append(place)
        engines.append(open_database(place))
        return sessions(engines[-1])

    yield make
    for engine in engines:
        engine.dispose()
    for place in places:
        request.getfixturevalue("database_server").drop(place)


@pytest.fixture
def make_session(logbook, request):
    """The workshop's logbook; in a test that asks for its file too, that of the file."""
    return logbook(
        "book", at=request.getfixturevalue("data_file") if "data_file" in request.fixturenames else None
    )


@pytest.fixture
def fresh(logbook):
    return logbook("fresh", is_empty=True)


@pytest.fixture
def van(make_session, logbook):
    """A copy of the workshop's logbook, as it was taken along."""
    return logbook("van")
