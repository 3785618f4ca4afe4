"""A part drawn, welded and looked at: what is stored, what is refused, what is said; stopped, and never finished."""

import errno
import gzip
import re
import time

import pytest
from sqlalchemy import text

from anvilsong.core.said import in_units
from anvilsong.core.warming import PRESETS, HeatRun, PartDrawing
from anvilsong.store import heat_runs
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.web.heat_works import HeatWorks
from anvilsong.web.part_form import form_of_part, part_from_form
from anvilsong.work import tasks

SMALL = {
    "thickness_mm": "3 mm", "start_c": "20", "start": "waits", "cell_mm": "2.5",
    "s0_does": "metal", "s0_form": "rectangle", "s0_x_mm": "0", "s0_y_mm": "0", "s0_width_mm": "120", "s0_height_mm": "60",
    "s1_does": "hole", "s1_form": "circle", "s1_x_mm": "90", "s1_y_mm": "46", "s1_width_mm": "16",
    "r0_x_mm": "0", "r0_y_mm": "25", "r0_to_x_mm": "120", "r0_to_y_mm": "25",
    "m0_name": "Seal", "m0_x_mm": "90", "m0_y_mm": "35", "m0_most_c": "90 °C",
}  # fmt: skip


@pytest.fixture
def job(job_id):
    return job_id("Float tank")


def finished(client, address, seconds=400):
    run = int(re.search(r"run=(\d+)", address)[1])
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        seen = client.get(f"/api/heat-runs/{run}").json()
        if seen["state"] not in ("waits", "runs"):
            return run, seen
        time.sleep(0.05)
    raise AssertionError("not finished")


def test_a_part_is_welded_and_kept(client, make_session, job):
    answer = client.post(f"/jobs/{job}/part", data=SMALL | {"uid": "e" * 32, "others": "1"})
    assert answer.status_code == 303
    again = client.post(f"/jobs/{job}/part", data=SMALL | {"uid": "e" * 32, "others": "1"})
    assert again.headers["location"] == answer.headers["location"]  # sent twice
    run, seen = finished(client, answer.headers["location"])
    assert seen == {"state": "done", "share": 1.0, "said": ""}
    page = " ".join(client.get(f"/jobs/{job}/part").text.split())  # the newest, without being asked for
    for words in (
        "width of the pool",
        "A once it moves",
        "From the other end",
        "over the 90 °C it may have",
        "can be touched (50 °C)",
    ):
        assert words in page
    assert 'value="90 °C"' in page
    assert re.search(
        r"Without a drawing: 1\d\d A in the middle of a large plate; \d+ A at 6.2 mm beside an edge", page
    )
    with make_session() as session:
        row = heat_runs.find_heat_run(session, run)
        result = heat_runs.result_of(row)
        assert isinstance(result.run, HeatRun)
        assert [way.words for way in result.others] == ["As drawn", "From the other end"]
        size = result.film
        assert result.foot.amps(1.0) == pytest.approx(112, abs=4)
        assert (
            len(gzip.decompress(heat_runs.film_of(session, run)))
            == len(size.seconds) * size.rows * size.columns
        )
    tune, card = (" ".join(client.get(f"/jobs/{job}/{each}").text.split()) for each in ("tune", "card"))
    assert re.search(r"the part as drawn</span> <span><b>\d+ A</b> once it moves</span>", tune)
    assert re.search(r"On the part as drawn: <b>\d+ A</b> once it moves, <b>\d+ A</b> at the end\.", card)
    film = client.get(f"/api/heat-runs/{run}/film")
    assert len(film.content) == len(size.seconds) * size.rows * size.columns
    first, last = film.content[: size.rows * size.columns], film.content[-size.rows * size.columns :]
    assert set(first) == {255, 20 // 3}
    assert min(last) > 20 // 3
    client.cookies.set("units", "inch")
    inch = " ".join(client.get(f"/jobs/{job}/part?run={run}").text.split())
    assert 'value="194 °F"' in inch
    assert "can be touched (122 °F)" in inch


@pytest.mark.parametrize(
    ("change", "named"),
    [
        ({"a": {"thickness": "5 mm"}, "b": {"thickness": "5 mm"}}, "thickness"),
        ({"a": {"alloy": "1050A"}, "b": {"alloy": "1050A"}}, "alloy"),
        ({"control": "switch_4"}, "control"),
        ({"settings": {"preheat_c": 55.0}}, "preheat"),
        ({"settings": {"amps_set": 150.0}}, "amps set"),
        ({"settings": {"travel_mm_s": 2.5}}, "travel"),
        ({"settings": {"shape_en": "triangle"}}, "heat of an ampere"),
        ({"title": "Another name"}, ""),
    ],
)
def test_a_part_of_another_job_says_so_and_leaves_the_board(client, make_session, job, change, named):
    """What was computed for another sheet, warmth or setting is out of date, and no foot on Tune, card or Prep."""
    from anvilsong.store import book

    finished(client, client.post(f"/jobs/{job}/part", data=SMALL | {"cell_mm": "4"}).headers["location"])
    assert "Out of date." not in client.get(f"/jobs/{job}/part").text
    with make_session.begin() as session:
        row, read = book.get_job(session, job), book.read_plan(book.find_plan(session, job))
        given = read.plan.job.model_dump(mode="json")
        for side in ("a", "b"):
            given[side] = given[side] | change.get(side, {})
        given["control"] = change.get("control", given["control"])
        moved = change.get("settings", {})
        book.add_plan(
            session,
            row,
            type(read.plan.job).model_validate(given),
            "tuned",
            "Other",
            read.plan.settings.model_copy(update=moved),
        )
    page, tune = (" ".join(client.get(f"/jobs/{job}/{each}").text.split()) for each in ("part", "tune"))
    assert ("Out of date." in page) == bool(named)
    assert re.search(rf"Since version \d+ other: [\w ,]*{named}", page) or not named
    assert ("the part as drawn" in tune) != bool(named)


def test_a_short_machine_is_told_by_its_part(client, make_session, job_id):
    """200 A on 6 mm: Prep sends to the part, and the part answers there."""
    job = job_id("Keel")
    with make_session() as session:
        from anvilsong.store import book

        drawn = book.read_plan(book.find_plan(session, job)).plan.job.thin_mm
    page = client.get(f"/jobs/{job}/prep").text
    assert "The machine is short" in page
    assert "Simulate it" in page
    small = SMALL | {
        "thickness_mm": f"{drawn} mm",
        "cell_mm": "4",
        "s1_does": "metal",
        "s1_x_mm": "60",
        "s1_y_mm": "30",
    }
    finished(client, client.post(f"/jobs/{job}/part", data=small).headers["location"])
    page = " ".join(client.get(f"/jobs/{job}/prep").text.split())
    assert re.search(r"On <a [^>]*>the part as drawn</a> the pool of \d+\.\d mm at \d\.\d mm/s is", page)


def test_only_some_films_are_kept(client, make_session, job):
    runs = [
        finished(client, client.post(f"/jobs/{job}/part", data=SMALL).headers["location"])[0]
        for _ in range(4)
    ]
    with make_session() as session:
        assert [heat_runs.film_of(session, run) is None for run in runs] == [True, False, False, False]
    page = client.get(f"/jobs/{job}/part?run={runs[0]}").text
    assert "A once it moves" in page  # its figures stay
    assert 'id="film-bar"' not in page
    assert client.get(f"/api/heat-runs/{runs[0]}/film").status_code == 404


def test_stopped_and_never_finished(client, make_session, job):
    """In the middle of it: a fine grid, stopped as soon as it has come a little way."""
    address = client.post(f"/jobs/{job}/part", data=SMALL | {"cell_mm": "0.6", "others": "1"}).headers[
        "location"
    ]
    run = int(re.search(r"run=(\d+)", address)[1])
    until = time.monotonic() + 400
    while not 0 < (seen := client.get(f"/api/heat-runs/{run}").json())["share"] < 1:
        assert seen["state"] in ("waits", "runs")
        assert time.monotonic() < until
        time.sleep(0.02)
    page = client.get(address).text
    assert f"/jobs/{job}/part/{run}/stop" in page
    client.post(f"/jobs/{job}/part/{run}/stop")
    _, seen = finished(client, address)
    assert seen["state"] == "stopped"
    assert "The drawing is saved" in client.get(address).text
    assert 'value="Seal"' in client.get(f"/jobs/{job}/part").text
    with make_session.begin() as session:  # as after a server that was stopped in the middle
        row = heat_runs.find_heat_run(session, run)
        other = heat_runs.add_heat_run(session, book_job(session, job), 1, heat_runs.part_of(row)).id
    assert "did not come to its end" in client.get(f"/jobs/{job}/part?run={other}").text
    assert client.get(f"/api/heat-runs/{other}").json()["state"] == "stopped"


def book_job(session, job):
    from anvilsong.store import book

    return book.get_job(session, job)


@pytest.mark.parametrize(
    ("change", "field", "said"),
    [
        ({"s0_width_mm": "half"}, "s0_width_mm", "half"),
        ({"r0_to_x_mm": "1"}, "r0_to_x_mm", "at least 5 mm"),
        ({"thickness_mm": "900"}, "thickness_mm", "900"),
        ({"m0_most_c": "nan"}, "m0_most_c", "nan"),
        ({"s1_form": "outline", "s1_corners": "0,0 x"}, "s1_corners", "pairs such as"),
        (
            {"cell_mm": "0.2", "s0_width_mm": "2900", "s0_height_mm": "2900", "r0_to_x_mm": "2900"},
            "cell_mm",
            "minutes",
        ),
        (
            {"r0_x_mm": "82", "r0_y_mm": "46", "r0_to_x_mm": "120", "r0_to_y_mm": "46"},
            "r0",
            "where there is no metal",
        ),
    ],
)
def test_what_cannot_be_welded_stays_as_typed(client, make_session, job, change, field, said):
    answer = client.post(f"/jobs/{job}/part", data=SMALL | change)
    assert answer.status_code == 422
    assert said in answer.text
    for typed in change.values():
        assert f'value="{typed}"' in answer.text or f'value="{typed}" selected' in answer.text
    if field.count("_") > 1:
        assert f"problem-{field}" in answer.text
    with make_session() as session:
        assert heat_runs.newest_heat_run(session, job) is None


def test_the_drawing_follows_what_is_typed(client):
    seen = client.post("/api/parts/draw", data=SMALL).json()
    assert seen["problems"] == {}
    assert 'class="part-hole"' in seen["drawing"]
    assert "Seal" in seen["drawing"]
    wrong = client.post("/api/parts/draw", data=SMALL | {"s1_width_mm": "-4"}).json()
    assert list(wrong["problems"]) == ["s1_width_mm"]
    assert client.post("/api/parts/draw", data={}).json()["drawing"] == ""


@pytest.mark.parametrize("system", ["mm", "inch"])
@pytest.mark.parametrize("preset", PRESETS)
def test_form_and_back(preset, system):
    drawn = PRESETS[preset][1]()
    back = part_from_form(form_of_part(drawn, system), system)
    near = PartDrawing.model_validate(back.model_dump())
    assert [run.length_mm for run in near.runs] == pytest.approx(
        [run.length_mm for run in drawn.runs], rel=1e-4
    )
    assert [shape.does for shape in near.shapes] == [shape.does for shape in drawn.shapes]
    assert near.thickness_mm == pytest.approx(drawn.thickness_mm, rel=1e-4)


def test_every_preset_has_its_page_in_the_jobs_own_sheet(client, job, job_id):
    for preset in (*PRESETS, "nothing", ""):
        page = client.get(f"/jobs/{job}/part", params={"preset": preset})
        assert page.status_code == 200
        assert 'class="part-drawing"' in page.text
    refused = client.get(f"/jobs/{job_id('Rudder')}/part")
    assert refused.status_code == 200
    assert client.post(f"/jobs/{job_id('Rudder')}/part", data=SMALL).status_code == 422
    assert client.get(f"/jobs/{job}/part?run=999").status_code == 404
    assert client.get("/api/heat-runs/999").status_code == 404
    assert client.post(f"/jobs/{job}/part/999/stop").status_code == 404


def ended(work, seconds=400):
    until = time.monotonic() + seconds
    while work.state in ("waits", "runs"):
        assert time.monotonic() < until, "not ended"
        time.sleep(0.02)
    return work.state, in_units(work.said)


def test_few_wait_and_a_fault_is_said():
    """Four at most; one that is asked for twice is one; what was stopped, refused or could not be kept says so."""
    works, kept = HeatWorks(), []
    first = [works.start(str(n), kept.append, time.sleep, 30) for n in range(4)]
    with pytest.raises(Exception, match="Other parts are being computed"):
        works.start("9", kept.append, time.sleep, 0)
    assert works.start("0", kept.append, time.sleep, 30) is first[0]
    works.close()
    assert [ended(work)[0] for work in first] == ["stopped"] * 4
    refused = works.start("5", kept.append, tasks.read_outlines, b"no drawing", "x.svg")
    state, said = ended(refused)
    assert (state, "SVG or DXF" in said) == ("failed", True)

    def full(found):
        raise OSError(errno.ENOSPC, "No space left on device")

    state, said = ended(works.start("6", full, str, 7))
    assert (state, said) == (
        "failed",
        "The disk is full, so nothing was stored. Make room and try again. The drawing is saved.",
    )
    assert ended(works.start("7", kept.append, str, 7)) == ("done", "")
    assert ended(works.start("8", kept.append, int, "x")) == (
        "failed",
        "This part could not be computed. The drawing is saved.",
    )
    assert kept == ["7"]


def test_a_part_computed_while_a_backup_is_restored_is_no_other_job_s(
    client, make_session, job, job_id, data_file, tmp_path
):
    """In the backup the part of this number belongs to another job: that one stays without a result."""
    other = job_id("Survey raft rail")
    first = client.post(f"/jobs/{other}/part", data=SMALL)
    run = int(re.search(r"run=(\d+)", first.headers["location"])[1])
    client.post(f"/jobs/{other}/part/{run}/stop")
    finished(client, first.headers["location"])
    with make_session.begin() as session:
        session.execute(text("UPDATE heat_runs SET result = NULL, film = NULL"))
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    with make_session.begin() as session:
        session.execute(text("DELETE FROM heat_runs"))
    again = client.post(f"/jobs/{job}/part", data=SMALL)
    assert int(re.search(r"run=(\d+)", again.headers["location"])[1]) == run
    with make_session() as session:
        uid = heat_runs.find_heat_run(session, run).uid
    restore_from(data_file, copy)
    assert ended(client.app.state.heat_works.find(uid))[0] == "done"
    with make_session() as session:
        row = heat_runs.find_heat_run(session, run)
        assert (row.job_id, row.result, row.film) == (other, None, None)


def test_an_outline_is_taken_and_not_stored(client, make_session, job):
    plate = b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="90" height="50"/><circle cx="60" cy="20" r="8"/></svg>'
    # It does not say its size: the field asks, and keeps what was typed.
    asked = client.post(f"/jobs/{job}/part/outline", files={"file": ("part.svg", plate)})
    assert asked.status_code == 422
    assert "it does not say its size: type how wide it is" in asked.text
    for wide in ("5", "9999", "much"):
        again = client.post(
            f"/jobs/{job}/part/outline", data={"outline_wide": wide}, files={"file": ("part.svg", plate)}
        )
        assert again.status_code == 422
        assert f'value="{wide}"' in again.text
    inch = {"outline_wide": "3.543307", "typed_in": "inch"}
    page = client.post(f"/jobs/{job}/part/outline", data=inch, files={"file": ("part.svg", plate)})
    assert "The drawing was read as 3.54 in wide and 1.97 in high." in page.text
    wide = {"outline_wide": "90"}
    page = client.post(f"/jobs/{job}/part/outline", data=wide, files={"file": ("part.svg", plate)})
    assert page.status_code == 200
    assert re.search(r"The drawing was read as 90(\.0)? mm wide and 50(\.0)? mm high\.", page.text)
    assert page.text.count('class="part-hole"') == 1
    assert "data-fresh=1" in page.text
    rows = dict(re.findall(r'id="(\w+)" name="\w+" value="([^"]*)"', page.text))
    assert rows["s0_corners"].startswith("0,")
    sent = {name: value for name, value in rows.items() if not name.startswith(("mNN", "rNN", "sNN"))}
    drawn = client.post(
        "/api/parts/draw", data=sent | {"s0_form": "outline", "s1_form": "outline", "s1_does": "hole"}
    ).json()
    assert drawn["problems"] == {}
    refused = client.post(f"/jobs/{job}/part/outline", files={"file": ("part.dxf", b"nothing")})
    assert refused.status_code == 422
    assert "SVG or DXF" in refused.text
    assert client.post(f"/jobs/{job}/part/outline").status_code == 422
    with make_session() as session:
        assert heat_runs.newest_heat_run(session, job) is None


def test_a_job_of_any_size_has_a_first_part(client, make_session, job):
    """Sizes that a part may not have are cut to what can be drawn; and after another travel the old foot is not told."""
    from anvilsong.core.job import Job
    from anvilsong.store import book

    for size in (
        {"width_mm": 3, "length_mm": 3},
        {"width_mm": 20000, "length_mm": 20000},
        {"width_mm": 0, "length_mm": 0},
    ):
        with make_session.begin() as session:
            was = book.read_plan(book.find_plan(session, job)).plan.job.model_dump()
            given = Job.model_validate(was | {"part": {"kind": "plate"} | size, "weld_length_mm": 5})
            book.add_plan(session, book.get_job(session, job), given, "plan", "Another size")
        page = client.get(f"/jobs/{job}/part")
        assert page.status_code == 200
        assert 'class="part-drawing"' in page.text
    finished(client, client.post(f"/jobs/{job}/part", data=SMALL).headers["location"])
    assert "On the part as drawn" in client.get(f"/jobs/{job}/card").text
    with make_session.begin() as session:
        made = book.read_plan(book.find_plan(session, job)).plan
        slower = made.settings.model_copy(update={"travel_mm_s": made.settings.travel_mm_s * 0.8})
        book.add_plan(session, book.get_job(session, job), made.job, "tuned", "Slower", slower)
    assert "On the part as drawn" not in client.get(f"/jobs/{job}/card").text


def test_with_a_torch_switch_it_says_slope_and_rests(client, job_id):
    """Nobody takes the heat back: no word of a foot, and what to do instead on Part, Tune and card."""
    job = job_id("Deck plate, old stock")
    drawn = SMALL | {"thickness_mm": "4 mm", "s0_width_mm": "200", "s0_height_mm": "60", "r0_to_x_mm": "200"}
    answer = client.post(f"/jobs/{job}/part", data=drawn | {"uid": "b" * 32})
    assert answer.status_code == 303
    _, seen = finished(client, answer.headers["location"])
    assert seen["state"] == "done"
    part, tune, card = (
        " ".join(client.get(f"/jobs/{job}/{each}").text.split()) for each in ("part", "tune", "card")
    )
    assert "<h2>With constant amps</h2>" in part
    assert "What the pedal does" not in part
    assert "comes off by the end" not in part
    said = re.search(
        r"(\d+) A all the way: the pool is ([\d.]+) mm wide once it moves, ([\d.]+) mm after 100 mm", part
    )
    assert float(said[3]) > float(said[2])
    slope = re.search(
        r"To stay at its width they would have to fall from (\d+) A to (\d+) A over \d+ s: a slope", part
    )
    assert int(slope[1]) > int(slope[2])
    assert re.search(
        r"At the \d+ A that (the start wants|are set),? rests with the arc out (do it too|are no way): ", part
    )
    assert f"<b>{slope[1]} A</b> for this pool at first" in tune
    assert f"<b>{slope[2]} A</b> at the end" in card
