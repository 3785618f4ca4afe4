"""Settings on paper and in files: favourites on one sheet in their panels' words, and a card that is read where nothing else is."""

import re

import zxingcpp
from PIL import Image
from playwright.sync_api import expect
from tests.forms import HTML

from anvilsong.core.machine import Machine, show_on_panel
from anvilsong.core.settings import Settings
from anvilsong.store import recipes

LID = "Tank lid, bright and tight"


def words_of(text):
    return " ".join(re.sub("<[^>]+>", " ", text).split())


def marked(client, make_session, **marks):
    with make_session() as session:
        (head,) = recipes.heads(session)
    page = client.get(f"/recipes/{head.plan_id}").text
    seen = re.search(r'name="seen" value="([^"]*)"', page)[1]
    assert client.post(f"/recipes/{head.plan_id}/mark", data={"seen": seen} | marks).status_code == 303
    return head.plan_id


def test_favourites_hang_on_the_wall_in_their_panels_words(client, make_session):
    assert "No favourite yet" in client.get("/recipes/wall").text
    plan_id = marked(client, make_session, favourite="1")
    page = client.get("/recipes/wall")
    said = words_of(page.text)
    assert LID in page.text
    with make_session() as session:
        plan = recipes.find_recipe(session, plan_id)
        settings = Settings.model_validate(plan.settings)
        panel = show_on_panel(settings, Machine.model_validate(plan.machine_document))
    assert panel.machine in said
    assert len(panel.lines) > 6
    for line in panel.lines:
        assert f"{line.label} {line.shown}" in said, line
    assert f"cup {settings.cup.number}" in said
    assert f"argon {settings.gas.flow_l_min:.1f} L/min" in said
    client.cookies.set("units", "inch")
    assert f"argon {settings.gas.flow_l_min / 0.4719:.0f} CFH" in words_of(client.get("/recipes/wall").text)
    marked(client, make_session, favourite="1", retired="1")
    assert "No favourite yet" in client.get("/recipes/wall").text


def test_a_card_in_one_file_needs_nothing_else(client, page, job_id, tmp_path):
    answer = client.get(f"/jobs/{job_id('Survey raft')}/card/file?steps=1", headers=HTML)
    assert answer.headers["content-disposition"] == (
        "attachment; filename*=UTF-8''Survey%20raft%20rail%2C%201%2F8%20in%206061%2C%20version%201.html"
    )
    assert not re.findall(r'(?:src|href)="(?!#|/help#)', answer.text)
    assert "url(data:font/woff2" in answer.text
    assert len(answer.content) < 400_000
    assert client.get("/jobs/9999/card/file").status_code == 404
    assert (
        client.get(f"/jobs/{job_id('Rudder stock')}/card/file").status_code == 404
    )  # refused: nothing to set

    file = tmp_path / "card.html"
    file.write_bytes(answer.content)
    asked = []
    page.on("request", lambda request: asked.append(request.url))
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(file.as_uri())
    expect(page.locator("h1")).to_have_text("Survey raft rail, 1/8 in 6061")
    assert [url for url in asked if not url.startswith(("file:", "data:"))] == []
    page.locator(".code svg").screenshot(path=tmp_path / "code.png")
    text = zxingcpp.read_barcode(Image.open(tmp_path / "code.png")).text
    assert "Survey raft rail, 1/8 in 6061, version 1" in text
    assert "Weld amps: 201 A" in text
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= 390
