"""Settings kept by name and used again; and coupons run with what a panel really showed."""

import re

import pytest
from sqlalchemy import select

from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.store.models import JobRow, PlanRow
from anvilsong.store.reading import readable


@pytest.fixture
def job(job_id):
    return job_id("Rigger bracket")


def newest(make_session, job):
    with make_session() as session:
        row = book.find_plan(session, job)
        return row.revision, row.origin, row.words, readable(Settings, row.settings)


def kept_number(make_session, name):
    with make_session() as session:
        return session.scalar(select(PlanRow.id).where(PlanRow.recipe == name))


def test_a_recipe_starts_a_job_with_exactly_its_settings(client, make_session, job):
    client.post(f"/jobs/{job}/as-set", data={"heat": "", "ep_share": "60", "frequency_hz": "90"})
    revision, _, _, proved = newest(make_session, job)
    answer = client.post(f"/jobs/{job}/recipe", data={"recipe": "Bracket, proved", "revision": str(revision)})
    assert answer.headers["location"] == "/recipes"
    assert "Bracket, proved" in client.get(f"/jobs/{job}/card").text

    client.post(f"/jobs/{job}/as-set", data={"ep_share": "75"})  # the job goes on; the recipe does not
    plan_id = kept_number(make_session, "Bracket, proved")
    assert "No coupon was run with it yet" in client.get("/recipes").text
    sent = {"title": "Another bracket", "uid": "d" * 32, "welder": ""}
    made = client.post(f"/recipes/{plan_id}/use", data=sent).headers["location"]
    assert client.post(f"/recipes/{plan_id}/use", data=sent).headers["location"] == made  # sent twice
    other = int(re.search(r"/jobs/(\d+)/tune", made)[1])
    revision, origin, words, settings = newest(make_session, other)
    assert (revision, origin, words) == (2, "recipe", "From the recipe Bracket, proved")
    assert settings == proved
    assert client.get(made).status_code == 200

    client.post(f"/recipes/{plan_id}/drop")
    assert "Bracket, proved" not in client.get("/recipes").text.split("<main")[1].split("Its version")[-1]
    assert client.post(f"/recipes/{plan_id}/use", data=sent | {"uid": "e" * 32}).status_code == 404
    assert client.post(f"/recipes/{plan_id}/drop").status_code == 404


def test_a_recipe_that_breaks_a_limit_now_is_planned_afresh(client, make_session, job):
    """Kept hot, by hand, past melting through: a job that starts from it has its own plan, and says so."""
    with make_session.begin() as session:
        row = book.find_plan(session, job)
        plan = book.read_plan(row).plan
        hot = plan.settings.model_copy(update={"amps_run": 400.0, "amps_set": 400.0})
        book.add_plan(session, row.job, plan.job, "board", "Set by you", hot)
    client.post(f"/jobs/{job}/recipe", data={"recipe": "Hot", "revision": "2"})
    plan_id = kept_number(make_session, "Hot")
    made = client.post(f"/recipes/{plan_id}/use", data={"title": "From a hot one"}).headers["location"]
    _, origin, words, settings = newest(make_session, int(re.search(r"/jobs/(\d+)/", made)[1]))
    assert origin == "recipe"
    assert "planned afresh: its own settings break a limit now" in words
    assert settings.amps_run == pytest.approx(plan.settings.amps_run, rel=0.03)


def test_a_swap_that_breaks_the_job_is_told_and_not_offered(client, make_session, job):
    with make_session() as session:
        read = book.read_plan(book.find_plan(session, job))
    mine = read.machine.name
    asked = {"job": job, "mine": mine, "theirs": mine, "typed_for": mine}
    assert "Not for this job" not in client.get("/swap", params=asked).text
    worst = {
        f"their_{key}": f"{max(read.machine.control(key).scale.points, key=lambda point: point[1])[0]:g}"
        for key in ("amps_set", "ep_share")
    }
    page = client.get("/swap", params=asked | worst).text
    told = page[page.index("Not for this job") :]
    assert "Tungsten at" in told
    assert f'action="/jobs/{job}/as-set"' not in page


def test_a_name_belongs_to_one_recipe(client, make_session, job, job_id):
    other = job_id("Float tank")
    client.post(f"/jobs/{job}/recipe", data={"recipe": "Proved"})
    for name, said in (("", "1 to 60 letters"), ("x" * 61, "1 to 60"), ("proved", "no other recipe has")):
        answer = client.post(f"/jobs/{other}/recipe", data={"recipe": name})
        assert answer.status_code == 422
        assert said in answer.text
        assert f'value="{name}"' in answer.text
    client.post(f"/jobs/{job}/recipe", data={"recipe": "Proved, again"})  # renamed, not doubled
    assert kept_number(make_session, "Proved") is None
    plan_id = kept_number(make_session, "Proved, again")
    refused = client.post(f"/recipes/{plan_id}/use", data={"title": " "})
    assert refused.status_code == 422
    with make_session() as session:
        jobs = len(session.scalars(select(JobRow.id)).all())
    client.post(f"/recipes/{plan_id}/use", data={"title": "Third"})
    with make_session() as session:
        assert len(session.scalars(select(JobRow.id)).all()) == jobs + 1


def test_a_refused_plan_is_no_recipe(client, make_session, job):
    with make_session.begin() as session:
        row = book.find_plan(session, job)
        broken = book.read_plan(row).plan.job.model_dump() | {"b": {"alloy": "7075", "thickness": 3.2}}
        book.add_plan(session, row.job, type(book.read_plan(row).plan.job)(**broken), "plan", "Refused")
    assert client.post(f"/jobs/{job}/recipe", data={"recipe": "Never"}).status_code == 422
    assert client.get(f"/jobs/{job}/recipe").status_code == 200
    assert client.get(f"/jobs/{job}/as-set").status_code == 200
    assert client.post(f"/jobs/{job}/as-set", data={"ep_share": "60"}).status_code == 422


def test_a_share_of_a_pulse_that_is_off_switches_none_on(client, make_session, job):
    """Panels show the pulse's shares all the same; only its rate switches it on."""
    assert newest(make_session, job)[3].pulse is None
    client.post(
        f"/jobs/{job}/as-set",
        data={"pulse_peak_share": "40", "pulse_base_share": "30", "pulse_rate_hz": "off", "ep_share": "62"},
    )
    settings = newest(make_session, job)[3]
    assert settings.pulse is None
    assert settings.ep_share == pytest.approx(0.38)
    client.post(f"/jobs/{job}/as-set", data={"pulse_peak_share": "40", "pulse_rate_hz": "2"})
    pulse = newest(make_session, job)[3].pulse
    assert (pulse.rate_hz, pulse.peak_share) == (2.0, pytest.approx(0.4))


def test_what_the_panel_proposes_is_coupon_one(client, make_session, job):
    page = client.get(f"/jobs/{job}/as-set").text
    shown = dict(re.findall(r'name="(\w+)" value="([^"]*)"\s+autocomplete', page))
    assert shown["ep_share"] == "70"
    # As planned: nothing new.
    assert client.post(f"/jobs/{job}/as-set", data=shown).headers["location"] == f"/jobs/{job}/coupon"
    assert newest(make_session, job)[0] == 1
    client.post(f"/jobs/{job}/as-set", data=shown | {"ep_share": "62", "source": "panel"})
    revision, origin, words, settings = newest(make_session, job)
    assert (revision, origin, words) == (2, "rung", "As the panel proposed")
    assert settings.ep_share == pytest.approx(0.38)
    measured = {
        "bead_width_mm": "6",
        "border_left_mm": "1",
        "border_right_mm": "1",
        "length_mm": "100",
        "seconds": "28",
    }
    client.post(f"/jobs/{job}/coupon", data=measured | {"revision": "2"})
    assert "As the panel proposed" in client.get(f"/jobs/{job}/read").text


def test_the_pulse_can_be_off_and_on(client, make_session, job):
    shown = {"pulse_rate_hz": "1.5", "pulse_peak_share": "40", "pulse_base_share": "30"}
    client.post(f"/jobs/{job}/as-set", data=shown)
    made = newest(make_session, job)[3]
    pulse = made.pulse
    assert (pulse.rate_hz, pulse.peak_share, pulse.base_share) == pytest.approx(
        (1.5, 0.4, 30 / made.amps_set)
    )  # this panel’s base is in amps
    client.post(f"/jobs/{job}/as-set", data=shown | {"pulse_rate_hz": "off"})
    assert newest(make_session, job)[3].pulse is None


@pytest.mark.parametrize("text", ["620", "half", "-3", "nan", "1e400"])
def test_a_panel_that_cannot_show_it_says_so(client, make_session, job, text):
    answer = client.post(
        f"/jobs/{job}/as-set", data={"ep_share": text, "frequency_hz": "90", "source": "hand"}
    )
    assert answer.status_code == 422
    assert 'id="ep_share"' in answer.text
    assert f'value="{text}"' in answer.text
    assert 'aria-invalid="true"' in answer.text
    assert newest(make_session, job)[0] == 1


def test_settings_of_another_machine_are_run_next(client, make_session, job):
    with make_session() as session:
        mine = book.read_plan(book.find_plan(session, job)).machine.name
    page = client.get("/swap", params={"job": job, "mine": mine, "theirs": mine, "typed_for": mine}).text
    form = page[page.index(f'action="/jobs/{job}/as-set"') :].split("</form>")[0]
    sent = dict(re.findall(r'name="(\w+)" value="([^"]*)"', form))
    assert client.post(f"/jobs/{job}/as-set", data=sent | {"ep_share": "64"}).status_code == 303
    assert newest(make_session, job)[2] == "As somebody told"
    other = client.get("/swap", params={"job": job, "mine": "no such", "theirs": mine}).text
    assert "as-set" not in other or mine in other
