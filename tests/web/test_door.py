"""The shop's network: nobody is in without the passphrase, guesses are slowed, tickets let one phone in, and who did what is noted."""

import json
import re
import ssl
import stat
import threading
from pathlib import Path

import httpx
import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.config import Config
from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.store.changes import changes, note_change
from anvilsong.web.app import PARTS, create_app
from anvilsong.web.change_words import CHANGE_WORDS
from anvilsong.web.door import Guesses, Visit, Visits, fresh_passphrase, lock_of, set_passphrase
from anvilsong.web.door.addresses import addresses
from anvilsong.web.door.certificate import certificate_of
from anvilsong.web.door.guesses import neighbourhood
from anvilsong.web.door.passphrase import lock_file

HTML = {"accept": "text/html"}
WORDS = "grind the toes twice"
OPEN = {"/enter", "/healthz", "/manifest.webmanifest", "/worker.js"}
# What draws, computes or lets in writes nothing into the book.
CHANGES_NOTHING = {
    "post_plan", "post_consequences", "post_resolve", "post_read", "post_sound", "draw_joint", "put_back_copy",
    "switch_units", "check_answers", "check_machine", "what_if_torch", "draw", "show_card_of_the_board",
    "show_nearest", "look_at_sheet", "enter", "choose_who", "leave",
}  # fmt: skip


@pytest.fixture
def shop(data_file):
    """A browser on a shop's network that has not come in yet."""
    set_passphrase(data_file, WORDS)
    app = create_app(Config(data=data_file).for_shop())
    with TestClient(app, base_url="http://192.168.1.20:8765", follow_redirects=False) as client:
        yield client


def come_in(client, who=""):
    answer = client.post("/enter", data={"passphrase": WORDS, "next": "/book"}, headers=HTML)
    assert answer.status_code == 303
    assert answer.headers["location"] == "/who?next=%2Fbook"  # the demo has welders
    if who:
        assert client.post("/who", data={"who": who, "next": "/book"}).headers["location"] == "/book"


def routes():
    for module in PARTS:
        for route in module.router.routes:
            yield route, re.sub(r"\{[^}]+\}", "1", route.path)


def test_nothing_is_served_before_somebody_came_in(shop, data_file):
    asked = 0
    for route, path in [
        *routes(),
        (None, "/nowhere"),
        (None, "/api/openapi.json"),
        (None, "/STATIC/x"),
        (None, "//static/x"),
    ]:
        for method in getattr(route, "methods", {"GET"}):
            if path in OPEN:
                continue
            asked += 1
            page = shop.request(method, path, headers=HTML)
            assert page.status_code in (303, 401), path
            assert page.status_code == 401 or page.headers["location"].startswith("/enter?next="), path
            program = shop.request(method, path, headers={"accept": "application/json"})
            assert (program.status_code, program.json()["title"]) == (401, "Not in yet"), path
            assert "Float" not in page.text + program.text
    assert asked > 150
    for path in OPEN:
        answer = shop.get(path, headers=HTML)
        assert answer.status_code == 200, path
        assert "Ottilie" not in answer.text
    # A note that was not signed here, one of another passphrase, and a half one are none.
    for note in (
        "",
        "x",
        Visits("0" * 64, data_file).note(Visit("1")),
        Visits(lock_of(data_file).secret, data_file).ticket(),
    ):
        assert shop.get("/book", headers=HTML | {"cookie": f"visit={note}"}).status_code == 303
    come_in(shop)
    assert shop.get("/book", headers=HTML).status_code == 200
    assert shop.get("/api/jobs").status_code == 200
    assert shop.cookies["visit"]
    set_passphrase(data_file, "another one altogether")
    assert shop.get("/book", headers=HTML).status_code == 303
    lock_file(data_file).write_text("{}")
    assert shop.get("/book", headers=HTML).status_code == 303
    lock_file(data_file).unlink()
    assert shop.post("/enter", data={"passphrase": WORDS}, headers=HTML).status_code == 403


def test_a_form_sent_after_a_visit_ended_leads_back_to_its_page(shop):
    sent = shop.post(
        "/jobs/8/coupon",
        data={"seconds": "28"},
        headers=HTML | {"referer": "http://192.168.1.20:8765/jobs/8/coupon"},
    )
    assert sent.headers["location"] == "/enter?next=%2Fjobs%2F8%2Fcoupon"
    elsewhere = shop.post("/jobs/8/coupon", headers=HTML | {"referer": "http://elsewhere.example/x"})
    assert elsewhere.headers["location"] == "/enter?next=%2F"
    for where in ("//elsewhere.example", "https://elsewhere.example", "/\\elsewhere.example"):
        entered = shop.post("/enter", data={"passphrase": WORDS, "next": where}, headers=HTML)
        assert entered.headers["location"] == "/who?next=%2F"
        shop.cookies.clear()


def test_wrong_guesses_are_slowed(shop):
    said = [shop.post("/enter", data={"passphrase": f"no {n}"}, headers=HTML) for n in range(7)]
    assert [answer.status_code for answer in said] == [403] * 5 + [429] * 2
    assert 1 <= int(said[-1].headers["retry-after"]) <= 16
    assert "Wait" in said[-1].text
    # The right one waits too: else a guesser would know by the answer.
    assert shop.post("/enter", data={"passphrase": WORDS}, headers=HTML).status_code == 429


def test_guesses_by_the_clock():
    now = [0.0]
    guesses = Guesses(lambda: now[0])
    assert [guesses.begin("10.0.0.1") for _ in range(5)] == [0] * 5
    assert guesses.begin("10.0.0.1") == 15
    assert guesses.begin("10.0.0.2") == 0
    waits = []
    for _ in range(8):
        waits.append(guesses.begin("10.0.0.1"))
        now[0] += waits[-1]
        assert guesses.begin("10.0.0.1") == 0
    assert waits == [15, 30, 60, 120, 240, 480, 900, 900]
    guesses.right("10.0.0.1")
    assert guesses.begin("10.0.0.1") == 0
    # A thousand addresses are no faster than one.
    spread = Guesses(lambda: now[0])
    free = sum(spread.begin(f"10.1.{n // 250}.{n % 250}") == 0 for n in range(1000))
    assert free == 60
    now[0] += 3601
    assert spread.begin("10.1.0.1") == 0
    # Guesses at once are no more than guesses one after the other.
    many, let = Guesses(lambda: now[0]), []
    threads = [threading.Thread(target=lambda: let.append(many.begin("10.0.0.9") == 0)) for _ in range(40)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sum(let) == 5


def test_one_host_is_one_address():
    assert (
        neighbourhood("2001:db8::1") == neighbourhood("2001:db8::ffff:1") != neighbourhood("2001:db8:0:1::1")
    )
    assert neighbourhood("::ffff:10.0.0.1") == neighbourhood("10.0.0.1") == "10.0.0.1"
    assert neighbourhood("fe80::1%eth0") == "fe80::/64"
    assert neighbourhood("testclient") == "testclient"


def test_the_passphrase_is_kept_as_a_hash(data_file):
    for few in ("short", "a b c d e", "- - - - - - - - - - - -", "x" * 201):
        with pytest.raises(BadInput, match=r"10 to 200 letters"):
            set_passphrase(data_file, few)
    assert lock_of(data_file) is None
    lock = set_passphrase(data_file, "Kefu-9RTA-mm3x")
    kept = lock_file(data_file)
    assert stat.S_IMODE(kept.stat().st_mode) == 0o600
    assert "kefu" not in kept.read_text().lower()
    assert lock_of(data_file) == lock
    assert lock.fits("kefu9rta mm3x ")
    assert not lock.fits("kefu9rtamm3")
    assert not lock.fits("")
    assert set_passphrase(data_file, "Kefu-9RTA-mm3x").secret != lock.secret
    kept.write_text('{"hash": "x", "secret": "short"}')
    with pytest.raises(CannotRead, match="anvilsong passphrase"):
        lock_of(data_file)
    assert len({fresh_passphrase() for _ in range(100)}) == 100


@given(st.text(max_size=200))
@settings(max_examples=60)
def test_no_text_is_a_visit(text):
    visits = Visits("0" * 64, Path("nowhere"))
    assert visits.read(text) is None
    assert visits.take(text) is None


def test_a_ticket_lets_one_phone_in_once(shop):
    come_in(shop, "Bram")
    page = shop.get("/phone?to=/jobs/8/card", headers=HTML)
    assert "ticket=" not in page.text  # it stands in the code alone, not as a text to be copied about
    assert page.headers["cache-control"] == "no-store"
    ticket = shop.app.state.keeper.visits().ticket("Bram")
    phone = TestClient(shop.app, base_url="http://192.168.1.20:8765", follow_redirects=False)
    entered = phone.get(f"/enter?ticket={ticket}&next=/jobs/8/card", headers=HTML)
    assert (entered.status_code, entered.headers["location"]) == (303, "/jobs/8/card")
    assert "httponly" in entered.headers["set-cookie"].lower()
    assert 'id="who"' in phone.get("/jobs/8/card", headers=HTML).text
    assert "Bram" in phone.get("/book", headers=HTML).text
    other = TestClient(shop.app, base_url="http://192.168.1.20:8765", follow_redirects=False)
    again = other.get(f"/enter?ticket={ticket}", headers=HTML)
    assert (again.status_code, "set-cookie" in again.headers) == (403, False)
    left = phone.post("/leave", headers=HTML)
    assert left.headers["location"] == "/enter"
    assert "storage" in left.headers["clear-site-data"]
    assert phone.get("/book", headers=HTML).status_code == 303


def test_who_did_what(shop, client):
    come_in(shop, "Bram")
    assert shop.post("/who", data={"who": "Nobody of ours"}, headers=HTML).status_code == 422
    made = shop.post(
        "/jobs/new", data={"title": "Oar lock", "a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
    )
    job = int(re.search(r"/jobs/(\d+)/", made.headers["location"])[1])
    shop.post(f"/jobs/{job}/coupon", data={"bead_width_mm": "6", "seconds": "28", "length_mm": "100"})
    assert (
        shop.post(f"/jobs/{job}/coupon", data={"bead_width_mm": "-6"}, headers=HTML).status_code == 422
    )  # stored nothing
    # A coupon that waited on a phone belongs to who recorded it, not to who is at the phone when it is sent.
    page = shop.get(f"/jobs/{job}/coupon", headers=HTML).text
    assert re.search(r'name="recorded_by" value="(.*?)"', page)[1] == "Bram"
    shop.post("/who", data={"who": "Ottilie", "next": "/"})
    waited = {"bead_width_mm": "6.1", "seconds": "28", "length_mm": "100"}
    shop.post(f"/jobs/{job}/coupon", data=waited | {"recorded_by": "Bram"})
    shop.post(f"/jobs/{job}/coupon", data=waited | {"note": "a", "recorded_by": "Nobody of ours"})
    shop.post("/who", data={"who": "", "next": "/"})
    assert "recorded_by" not in shop.get(f"/jobs/{job}/coupon", headers=HTML).text
    shop.post(f"/jobs/{job}/put-away", data={})
    with shop.app.state.sessions() as session:
        said = [(one.who, one.what, one.job) for _, one in changes(session, job)]
    assert said == [
        ("", "put_away_job", "Oar lock"),
        ("Ottilie", "record_coupon", "Oar lock"),
        ("Bram", "record_coupon", "Oar lock"),
        ("Bram", "record_coupon", "Oar lock"),
        ("Bram", "create_job", "Oar lock"),
    ]
    page = shop.get(f"/book/changes?job={job}", headers=HTML).text
    assert "a coupon recorded" in page
    assert "Bram" in page
    assert shop.get("/book/changes?job=99999", headers=HTML).status_code == 404
    # What is brought in or put back is done beside the request, and is noted all the same.
    shop.post("/who", data={"who": "Bram", "next": "/"})
    export, backup = shop.get("/book/export.json").content, shop.get("/book/backup").content
    shop.post("/book/import", files={"file": ("a.json", export)})
    shop.post("/book/restore", files={"file": ("a.sqlite", backup)}, headers={"accept": "application/json"})
    with shop.app.state.sessions() as session:
        assert next((one.who, one.what) for _, one in changes(session)) == ("Bram", "put_back")
    shop.post("/book/import", files={"file": ("a.json", export)})
    with shop.app.state.sessions() as session:
        assert next((one.who, one.what) for _, one in changes(session)) == ("Bram", "bring_in")
    # At the bench machine itself a name can be said too.
    assert client.post("/who", data={"who": "Ottilie", "next": "/"}).status_code == 303
    client.post("/jobs/8/put-away", data={})
    with client.app.state.sessions() as session:
        assert next(iter(changes(session, 8)))[1].who == "Ottilie"


def test_changes_come_page_by_page(make_session):
    with make_session.begin() as session:
        for number in range(230):
            note_change(session, "", f"n{number}", None)
    with make_session() as session:
        found, before = [], None
        while page := changes(session, before=before):
            found += [one.what for _, one in page]
            before = page[-1][0]
    assert found == [f"n{number}" for number in reversed(range(230))]


def test_every_change_has_words():
    writing = {
        route.endpoint.__name__
        for route, _ in routes()
        if getattr(route, "methods", set()) & {"POST", "PUT", "PATCH", "DELETE"}
    }
    assert writing - CHANGES_NOTHING == set(CHANGE_WORDS)


def test_addresses_are_what_a_phone_can_open():
    assert addresses(Config(host="10.1.2.3", port=81)) == ["http://10.1.2.3:81"]
    assert addresses(Config(host="fd00::5", port=81, https=True)) == ["https://[fd00::5]:81"]
    everywhere = addresses(Config().for_shop())
    assert all("127.0.0.1" not in each and "0.0.0.0" not in each for each in everywhere)
    assert everywhere[-1].endswith(".local:8765")
    assert Config(host="10.1.2.3").for_shop().host == "10.1.2.3"
    assert Config(host="10.1.2.3").asks_who
    assert not Config().asks_who


def test_a_certificate_of_its_own(data_file, serve):
    server = serve(data_file, ANVILSONG_SHOP="1", ANVILSONG_HTTPS="1")
    said = server.said_file.read_text()
    assert re.search(r"Passphrase: [a-z2-9]{4}-[a-z2-9]{4}-[a-z2-9]{4} ", said)
    files = certificate_of(data_file)
    assert stat.S_IMODE(files.key.stat().st_mode) == 0o600
    knows = ssl.create_default_context(cafile=str(files.authority))
    address = f"https://127.0.0.1:{server.port}"
    assert httpx.get(f"{address}/healthz", verify=knows).json() == {"status": "ok"}
    with pytest.raises(httpx.ConnectError):
        httpx.get(f"{address}/healthz", verify=ssl.create_default_context())
    passphrase = re.search(r"Passphrase: (\S+)", said)[1]
    entered = httpx.post(f"{address}/enter", data={"passphrase": passphrase}, verify=knows)
    assert "secure" in entered.headers["set-cookie"].lower()
    held = files.chain.read_bytes()
    assert certificate_of(data_file).chain.read_bytes() == held  # kept for as long as it holds
    files.key.write_bytes(b"damaged")
    certificate_of(data_file)
    assert files.chain.read_bytes() != held


def test_the_command_sets_a_passphrase(run, data_file):
    done = run("passphrase", data=data_file, given=f"{WORDS}\n")
    assert (done.returncode, done.stdout) == (
        0,
        "The passphrase is set. Every device has to come in again.\n",
    )
    assert lock_of(data_file).fits(WORDS)
    invented = run("passphrase", data=data_file, given="\n")
    assert lock_of(data_file).fits(re.search(r"Passphrase: (\S+)", invented.stdout)[1])
    short = run("passphrase", data=data_file, given="short\n")
    assert (short.returncode, short.stderr.startswith("passphrase: ")) == (2, True)


def test_what_a_phone_installs(shop):
    manifest = json.loads(shop.get("/manifest.webmanifest").text)
    assert manifest["start_url"] == "/"
    for icon in manifest["icons"]:
        assert shop.get(icon["src"]).headers["content-type"] == "image/png"
    assert shop.get("/worker.js").headers["content-type"].startswith("text/javascript")
