"""Tables on the page: offered, looked at row by row, taken whole; bad rows named, and what changed in between looked at again."""

import re

from sqlalchemy import func, select

from anvilsong.store.models import CouponRow

HTML = {"accept": "text/html"}
HEAD = "job,bead width [mm],border left [mm],border right [mm],seconds [s],length [mm]\n"
GOOD = '"Rigger bracket, tube to foot",6.2,0.8,0.7,28,100\n'


def sent(client, text, name="t.csv"):
    return client.post("/book/sheet", files={"file": (name, text.encode())}, headers=HTML)


def counted(client):
    with client.app.state.sessions() as session:
        return session.scalar(select(func.count()).select_from(CouponRow))


def form_of(page):
    return {name: re.search(f'name="{name}" value="([^"]*)"', page)[1] for name in ("waiting", "counted")}


def test_every_table_is_offered_and_served(client):
    page = client.get("/book/care", headers=HTML).text
    links = re.findall(r'href="(/book/sheets/[^"]+)"', page)
    assert len(links) == 12
    for link in links:
        answer = client.get(link.replace("&amp;", "&"))
        assert answer.status_code == 200
        assert answer.headers["content-type"].startswith(
            "text/csv" if ".csv" in link else "application/vnd.openxml"
        )
        assert answer.content[:4] == (
            b"PK\x03\x04" if ".xlsx" in link else b"\xef\xbb\xbf" + answer.content[3:4]
        )
    for none in ("nothing.csv", "coupons.ods", "coupons", "..%2fcoupons.csv"):
        assert client.get(f"/book/sheets/{none}").status_code == 404
    assert client.get("/book/sheets/coupons.csv?decimal=dot").status_code == 422


def test_looked_at_then_taken_whole(client):
    before = counted(client)
    bad = sent(client, HEAD + GOOD + GOOD.replace("6.2", "six") + GOOD.replace("Rigger", "Nobody’s") + GOOD)
    assert bad.status_code == 422
    assert "2 of 4" in bad.text
    assert re.search(r"<td>3</td>\s*<td>cannot be taken</td>", bad.text)
    assert re.search(r"<td>4</td>\s*<td>cannot be taken</td>", bad.text)
    assert 'name="waiting"' not in bad.text
    good = sent(client, HEAD + GOOD + GOOD)
    assert good.status_code == 200
    assert counted(client) == before
    form = form_of(good.text)
    assert form["counted"] == "2-0-0"
    taken = client.post("/book/sheet/take", data=form)
    assert (taken.status_code, taken.headers["location"]) == (303, "/book")
    assert counted(client) == before + 2
    assert "From the table: 2 new" in client.get("/book", headers=HTML).text
    gone = client.post("/book/sheet/take", data=form, headers=HTML)
    assert (gone.status_code, "choose the file again" in gone.text) == (422, True)
    again = sent(client, HEAD + GOOD + GOOD)
    assert "2 already there" in re.sub(r"\s+", " ", again.text)
    assert 'name="waiting"' not in again.text


def test_what_changed_in_between_is_looked_at_again(client):
    form = form_of(sent(client, HEAD + GOOD).text)
    before = counted(client)
    other = client.post("/book/sheet/take", data=form | {"counted": "0-1-0"}, headers=HTML)
    assert other.status_code == 422
    assert "look again" in other.text
    assert form_of(other.text) == form
    assert counted(client) == before
    for name in ("", "../book.sqlite", ".book.sqlite.1-000000000000.sheet"):
        assert client.post("/book/sheet/take", data=form | {"waiting": name}, headers=HTML).status_code == 422


def test_no_table_and_too_large_a_one(client):
    assert "CSV or XLSX" in sent(client, "\0\0", "t.xlsx").text
    assert client.post("/book/sheet", headers=HTML).status_code == 422
    assert sent(client, "x" * 5_200_000).status_code == 413
