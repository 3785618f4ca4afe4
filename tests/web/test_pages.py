"""Long lists come in pages: the book and a ladder, each thing once, true counts, links both ways."""

import re

from anvilsong.demo.machines import HERON
from anvilsong.demo.shelf import BENCH
from anvilsong.store import lines, shop
from anvilsong.web.files import SHARED_STYLES, folder
from anvilsong.web.pages import machine_page, read_page

HTML = {"accept": "text/html"}


def walked(client, address, pattern):
    """What every page from the first to the last shows, by its Older links."""
    found, back, start = [], 0, address
    while address:
        page = client.get(address, headers=HTML).text
        found.append(re.findall(pattern, page))
        back += 'rel="prev"' in page
        older = re.search(r'rel="next" href="([^"]+)"', page)
        address = older[1].replace("&amp;", "&") if older else None
        address = f"{start}{address}" if address and address.startswith("?") else address
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


def test_a_first_visit_asks_for_all_of_a_page_at_once(client, job_id):
    """One style sheet of all shared styles, in their order; beside each script every module that it needs."""
    page = client.get(f"/jobs/{job_id('Float tank')}/tune").text
    style = re.search(r'href="(/static/\w+/css/shared\.css)"', page)[1]
    sent = client.get(style)
    assert sent.headers["content-type"].startswith("text/css")
    assert "immutable" in sent.headers["cache-control"]
    assert client.get("/static/css/shared.css").headers["cache-control"] == "no-cache"
    places = [
        sent.text.index((folder() / "css" / f"{name}.css").read_text("utf-8")) for name in SHARED_STYLES
    ]
    assert places == sorted(places)
    scripts = set(re.findall(r'<script type="module" src="([^"]+)"', page))
    named = scripts | set(re.findall(r'rel="modulepreload" href="([^"]+)"', page))
    waiting, needed = list(scripts), set(scripts)
    while waiting:
        address = waiting.pop()
        for name in re.findall(r'from "\./([\w.]+)"', client.get(address).text):
            other = f"{address.rpartition('/')[0]}/{name}"
            if other not in needed:
                needed.add(other)
                waiting.append(other)
    assert named == needed
    assert any(address.endswith("/hold.js") for address in needed)  # which a module of a module needs


def test_a_large_workshop_comes_in_pages_each_list_by_itself(client, make_session):
    with make_session.begin() as session:
        for number in range(20):
            shop.add_machine(session, HERON.model_copy(update={"name": f"Sandpiper {number}"}))
            shop.save_kit(session, BENCH.model_copy(update={"name": f"Shelf {number}"}))
        names = [machine.name for machine in shop.machines(session)]
        kits = [kit.name for kit in shop.kits(session)]
    found, address = [], "/shop?kits=2"
    while address:
        page = client.get(address, headers=HTML).text
        found += re.findall(r'<h2><a href="/shop/machines/\d+">([^<]+)</a>', page)
        assert (
            re.findall(r'<h3><a href="/shop/kits/\d+">([^<]+)</a>', page) == kits[20:]
        )  # stays where it was
        links = re.search(r'aria-label="Pages of machines">(.*?)</nav>', page, flags=re.DOTALL)[1]
        older = re.search(r'rel="next" href="([^"]+)"', links)
        address = older[1].replace("&amp;", "&") if older else None
    assert found == names
    page = client.get("/shop?q=piper 1", headers=HTML).text
    assert "Curlew 220</a>" not in page
    assert len(re.findall("Sandpiper 1", page)) >= 8
    assert "No machine has such a name" in client.get("/shop?q=ostrich", headers=HTML).text


def test_ranked_machines_come_best_first_in_pages(client, job_id, monkeypatch):
    address = f"/jobs/{job_id('Float tank')}/machines"
    whole = re.findall(r"<div><b>([^<]+)</b>", client.get(address, headers=HTML).text)
    monkeypatch.setattr(machine_page, "FITS_A_PAGE", 3)
    pages, last = walked(client, address, r"<div><b>([^<]+)</b>")
    assert [name for page in pages for name in page] == whole
    assert f'start="{3 * (len(pages) - 1) + 1}"' in last
