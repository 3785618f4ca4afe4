"""The fault page: signs in, causes out; what was tried is counted, goes with the book, and nothing odd takes it down."""

import pytest

from anvilsong.core.bead import Tried, signs
from anvilsong.store.exchange import import_from
from anvilsong.store.export import export_to
from anvilsong.store.trials import trials

HTML = {"accept": "text/html"}


@pytest.mark.parametrize("job", range(1, 11))
def test_every_sign_on_every_job(client, job):
    for sign in signs():
        page = client.get(f"/jobs/{job}/faults?sign={sign.key}", headers=HTML)
        assert page.status_code == 200
        assert "This did not work" not in page.text
    every = "&".join(f"sign={sign.key}" for sign in signs())
    assert client.get(f"/jobs/{job}/faults?{every}", headers=HTML).status_code == 200


def test_what_did_not_help_gives_way_and_is_counted(client, make_session):
    said = client.get("/jobs/8/faults?sign=tip_blue", headers=HTML).text
    assert said.index("The gas stops too early") < said.index("The torch was lifted")
    sent = {
        "signs": "tip_blue",
        "ruled_out": "",
        "sign": "tip_blue",
        "cause": "post_flow_short",
        "helped": "0",
    }
    after = client.post("/jobs/8/faults", data=sent, headers=HTML)
    assert after.headers["location"] == "/jobs/8/faults?sign=tip_blue&out=post_flow_short#causes"
    second = client.get(after.headers["location"], headers=HTML).text
    assert "The gas stops too early" not in second
    assert second.index("The torch was lifted") < second.index("A leak")
    for _ in range(3):
        helped = sent | {"cause": "leak", "helped": "1", "ruled_out": "post_flow_short"}
        assert client.post("/jobs/8/faults", data=helped).headers["location"] == "/jobs/8/read"
    with make_session() as session:
        assert trials(session, ["tip_blue", "soot"]) == {
            ("tip_blue", "post_flow_short"): Tried(0, 1),
            ("tip_blue", "leak"): Tried(3, 3),
        }
    learned = client.get("/jobs/3/faults?sign=tip_blue", headers=HTML).text
    assert learned.index("A leak, or damp") < learned.index("The gas stops too early")
    assert "helped 3 of 3 times" in learned


def test_the_change_becomes_the_next_revision(client, make_session):
    taken = client.post("/jobs/8/faults/take", data={"sign": "border_thin", "cause": "share_low"})
    assert taken.headers["location"] == "/jobs/8/tune"
    page = client.get("/jobs/8/tune", headers=HTML).text
    assert "Change AC balance from 30 % EP to 35 % EP" in page
    before = page.count("<option")
    client.post("/jobs/8/faults/take", data={"sign": "border_thin", "cause": "oxide"})  # nothing to set
    assert client.get("/jobs/8/tune", headers=HTML).text.count("<option") == before


def test_odd_questions(client):
    assert (
        "They stand here once a sign is chosen"
        in client.get("/jobs/8/faults?sign=witchcraft", headers=HTML).text
    )
    assert client.get("/jobs/8/faults?" + "sign=soot&" * 40, headers=HTML).status_code == 422
    assert client.get("/jobs/99/faults", headers=HTML).status_code == 404
    every_out = "".join(f"&out={cause.key}" for cause in signs()[0].cause)
    said = client.get(f"/jobs/8/faults?sign=border_wide{every_out}", headers=HTML).text
    assert "Every cause of the table was tried" in said
    for wrong in ({"sign": "x", "cause": "y"}, {"sign": "soot", "cause": "leak"}, {}):
        sent = {"signs": "soot", "helped": "1"} | wrong
        assert client.post("/jobs/8/faults", data=sent, headers=HTML).status_code == 422
    assert (
        client.post("/jobs/8/faults/take", data={"sign": "x", "cause": "y"}, headers=HTML).status_code == 422
    )


def test_what_helped_goes_with_the_book(client, make_session, tmp_path):
    from anvilsong.store.database import open_database, sessions

    sent = {"signs": "soot", "sign": "soot", "cause": "long_arc", "helped": "1"}
    assert client.post("/jobs/8/faults", data=sent).status_code == 303
    with make_session() as session:
        export_to(session, tmp_path / "book.json")
    fresh = sessions(open_database(tmp_path / "fresh.sqlite"))
    for _ in range(2):  # the same file again adds nothing
        import_from(fresh, tmp_path / "book.json")
        with fresh() as session:
            assert trials(session, ["soot"]) == {("soot", "long_arc"): Tried(1, 1)}
