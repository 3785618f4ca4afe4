"""Long lists come in pages: the book and a ladder, each thing once, true counts, links both ways."""

import re

from anvilsong.store import lines
from anvilsong.web.pages import read_page

HTML = {"accept": "text/html"}


def walked(client, address, pattern):
    """What every page from the first to the last shows, by its Older links."""
    found, back = [], 0
    while address:
        page = client.get(address, headers=HTML).text
        found.append(re.findall(pattern, page))
        back += 'rel="prev"' in page
        older = re.search(r'rel="next" href="([^"]+)"', page)
        address = older[1].replace("&amp;", "&") if older else None
    assert back == len(found) - 1  # every page but the first leads back
    return found, page


def test_every_job_stands_once_in_the_book(client, monkeypatch):
    whole = re.findall(r'<a href="/jobs/(\d+)/', client.get("/book", headers=HTML).text)
    assert "rel=" not in re.sub(
        r"<head>.*?</head>", "", client.get("/book", headers=HTML).text, flags=re.DOTALL
    )
    monkeypatch.setattr(lines, "LINES_A_PAGE", 4)
    pages, last = walked(client, "/book", r'<a href="/jobs/(\d+)/')
    assert [job for page in pages for job in page] == whole
    assert f"<h1>{len(whole)} jobs" in last
    assert f"Page {len(pages)} of {len(pages)}" in last
    # A search stays the search on its later pages.
    monkeypatch.setattr(lines, "LINES_A_PAGE", 1)
    found, last = walked(client, "/book?q=tee", r'<a href="/jobs/(\d+)/')
    assert len(found) > 1
    assert f"{len(found)} jobs for “tee”" in last
    # Past the end is the last page; what is no number is refused in words.
    assert f"Page {len(found)} of" in client.get("/book?q=tee&page=999", headers=HTML).text
    assert client.get("/book?page=-1", headers=HTML).status_code == 422


def test_a_long_ladder_keeps_its_newest_verdict(client, job_id, monkeypatch):
    job = job_id("Float tank")
    rungs = r'<a href="/jobs/\d+/coupon\?correct=(\d+)">correct'
    verdict = re.search(r"<h1 class=\"verdict.*?</h1>", client.get(f"/jobs/{job}/read", headers=HTML).text)[0]
    whole = re.findall(rungs, client.get(f"/jobs/{job}/read", headers=HTML).text)
    monkeypatch.setattr(read_page, "RUNGS_A_PAGE", 1)
    pages, last = walked(client, f"/jobs/{job}/read", rungs)
    assert list(reversed(pages)) == [[number] for number in whole]
    assert verdict in last
    # What changed since the rung before is said on whatever page it stands.
    second = client.get(f"/jobs/{job}/read?page=2", headers=HTML).text
    assert "Change " in re.search(r'<p class="changed-words">(.*?)</p>', second)[1]


def test_what_the_panel_does_not_show_stands_on_the_set_line(client, make_session):
    """A fast pulse on a machine that shows its rate alone: the rest is marked, and warned of."""
    import json

    from anvilsong.core.job import read_job
    from anvilsong.core.machine import Machine
    from anvilsong.store import book, shop

    panel = [
        {"setting": "amps_set", "label": "Amps", "scale": {"points": [[5, 5], [250, 250]]}},
        {
            "setting": "pulse_rate_hz",
            "label": "Beats",
            "scale": {"points": [[0.5, 0.5], [200, 200]], "step": 0.5},
        },
    ]
    with make_session.begin() as session:
        shop.add_machine(session, Machine.model_validate({"name": "Rate alone", "controls": panel}))
        given = {"a": {"alloy": "5052", "thickness": 2}, "joint": "butt", "machine": "Rate alone"}
        given["school"] = {"pulse": "fast"}
        job = book.add_job(session, "Pulsed", read_job(json.loads(json.dumps(given)))).id
    page = " ".join(client.get(f"/jobs/{job}/tune").text.split())
    assert page.count("not on this panel") == 2
    assert "Rate alone shows no peak time and background amps" in page
