"""The pages of test series: chosen, saved, typed in from one sheet, told and kept, and what is refused."""

import re

import pytest

from anvilsong.store import bench_trials, book, coupons

HTML = {"accept": "text/html"}
ROW = {"seconds": "28", "bead_width_mm": "5", "border_left_mm": "0.5", "border_right_mm": "0.5"}


def words_of(answer):
    return " ".join(re.sub(r"<[^>]+>", " ", answer.text).split())


@pytest.fixture
def job(job_id):
    return job_id("Survey raft")


@pytest.fixture
def sheet(client, job):
    answer = client.post(f"/jobs/{job}/series", data={"ready": "balance", "beads": "2", "revision": "1"})
    assert answer.status_code == 303
    return answer.headers["location"]


def rows(**numbered):
    return {f"{run}_{name}": text for run, row in numbered.items() for name, text in row.items()}


def test_what_is_foreseen_stands_before_anything_is_saved(client, make_session, job):
    page = words_of(client.get(f"/jobs/{job}/series?ready=balance"))
    assert re.search(r"Between these runs lie 0\.\d mm of border", page)
    assert all(f"{share} % EP" in page for share in (20, 30, 40))
    own = f"/jobs/{job}/series?first=frequency_hz&first_from=60&first_to=200&first_count=4&kept=amps"
    hertz = [int(said) for said in re.findall(r'run-said">(\d+) Hz', client.get(own).text)]
    assert hertz == pytest.approx([60, 90, 134, 200], abs=3)  # by ratio, in the panel's steps
    crossed = client.get(own + "&second=shape_en&second_count=2")
    assert crossed.text.count('class="run-said"') == 8
    with make_session() as session:
        assert bench_trials.trials_of(session, job, "series") == []


@pytest.mark.parametrize(
    ("query", "field", "words"),
    [
        ("first=ep_share&first_from=20&first_to=", "first_to", "type where AC balance begins and ends"),
        ("first=ep_share&first_from=20&first_to=900", "first_to", "goes from"),
        ("first=no_such&first_from=1&first_to=2", "first", "choose a setting of the list"),
        ("first=ep_trim&first_from=80&first_to=100", "first", "choose a setting of the list"),  # not on this panel
        ("first=ep_share&first_from=30&first_to=30.1", "values", "2 to 18 runs that differ"),
        ("first=ep_share&first_from=20&first_to=40&first_count=9", "first_count", "choose 2 to 6 values"),
        ("ready=no_such", "ready", "choose one of the list"),
        ("first=ep_share&first_from=20&first_to=40&second=ep_share&second_from=20&second_to=30", "second", "two different settings"),
    ],
)  # fmt: skip
def test_what_cannot_be_a_series_is_said_and_kept(client, job, query, field, words):
    answer = client.get(f"/jobs/{job}/series?{query}")
    assert answer.status_code == 422
    assert words in words_of(answer)
    for name, value in re.findall(r"(first_from)=([\d.]+)", query):
        assert f'name="{name}" value="{value}"' in answer.text
    saved = client.post(f"/jobs/{job}/series", data=dict(p.split("=") for p in query.split("&")))
    assert saved.status_code == 422


def test_from_the_sheet_to_a_kept_version(client, make_session, job, sheet):
    typed = rows(
        r1_1=ROW, r2_1=ROW | {"border_left_mm": "1.0", "border_right_mm": "1.0"},
        r3_1=ROW | {"border_left_mm": "1.6", "border_right_mm": "1.6"},
        r3_2={"judged_bright": "3", "overall": "keep"},
    )  # fmt: skip
    answer = client.post(sheet, data=typed)
    assert answer.headers["location"] == sheet
    with make_session() as session:
        series = bench_trials.series_of(bench_trials.trials_of(session, job, "series")[0])
        assert [run.coupons for run in series.runs] == [(1,), (2,), (3, 4)]
        run = coupons.find_coupons(session, job, 9)
        # One version a run, of its own settings; both coupons of the third belong to it.
        assert [coupon.plan.revision for coupon in run] == [2, 3, 4, 4]
        # What is typed in changes nothing of what the job is set to.
        first, newest = (book.read_plan(book.find_plan(session, job, each)).plan for each in (1, None))
        assert newest.settings == first.settings
        for coupon, made in zip(run, [*series.runs, series.runs[2]], strict=True):
            assert book.read_plan(coupon.plan).plan.settings == made.settings
    page = words_of(client.get(sheet))
    assert "The border changes with it" in page
    assert "Told apart: 1 and 2, 1 and 3 and 2 and 3" in page
    pointed = re.search(r"It points to (\d+) % EP: border about ([\d.]+) mm", page)
    assert 20 < int(pointed[1]) < 40
    assert float(pointed[2]) == pytest.approx(1.0, abs=0.3)
    for sent, share in (({}, int(pointed[1]) / 100), ({"run": "1"}, 0.2)):
        kept = client.post(f"{sheet}/keep", data=sent)
        assert kept.headers["location"] == f"/jobs/{job}/tune"
        with make_session() as session:
            newest = book.read_plan(book.find_plan(session, job))
            assert newest.plan.settings.ep_share == pytest.approx(share, abs=0.006)
    assert "Three balances: 20 % EP" in words_of(client.get(f"/jobs/{job}/tune"))


def test_a_job_that_was_changed_since_is_not_changed_back(client, make_session, job, sheet):
    """A sheet from before, typed in after the metal became thicker: refused, kept on the page, and nothing stored."""
    with make_session.begin() as session:
        row = book.find_jobs(session, "survey raft")[0]
        was = book.read_plan(book.find_plan(session, job)).plan.job
        thicker = was.model_copy(update={"a": was.a.model_copy(update={"thickness": "5 mm"})})
        book.add_plan(session, row, thicker, "plan", "Thicker")
    for answer in (client.post(sheet, data=rows(r1_1=ROW)), client.post(f"{sheet}/keep", data={"run": "1"})):
        assert answer.status_code == 422
        assert "the job was changed since this series was laid out" in answer.text
    assert 'value="28"' in client.post(sheet, data=rows(r1_1=ROW)).text
    with make_session() as session:
        assert book.read_plan(book.find_plan(session, job)).plan.job == thicker
        assert coupons.count_coupons(session, job) == 0


def test_one_wrong_row_stores_none(client, make_session, job, sheet):
    answer = client.post(sheet, data=rows(r1_1=ROW, r2_1=ROW | {"bead_width_mm": "half"}))
    assert answer.status_code == 422
    assert 'id="r2_1_bead_width_mm"' in answer.text
    assert 'value="half"' in answer.text
    assert client.post(sheet, data=rows(r1_1={"length_mm": "90"})).status_code == 422
    with make_session() as session:
        assert coupons.count_coupons(session, job) == 0
    assert client.post(f"{sheet}/keep", data={}).status_code == 404  # nothing is pointed to yet
    assert client.get(sheet.replace(f"/jobs/{job}/", "/jobs/1/"), headers=HTML).status_code == 404
    assert client.get(f"/jobs/{job}/series/999", headers=HTML).status_code == 404


def test_a_refused_job_has_no_series(client, job_id):
    refused = job_id("Rudder")
    assert "No settings for this" in client.get(f"/jobs/{refused}/series").text
    assert client.post(f"/jobs/{refused}/series", data={"ready": "balance"}).status_code == 422


def test_a_run_takes_no_coupon_too_many(client, make_session, job, sheet):
    """What a document may hold is asked before it is written: a series stays readable however often it is typed in."""
    from anvilsong.core.trials import MOST_OF_A_RUN
    from anvilsong.store.reading import document

    with make_session.begin() as session:
        trial = bench_trials.trials_of(session, job, "series")[0]
        series = bench_trials.series_of(trial)
        runs = (
            series.runs[0].model_copy(update={"coupons": tuple(range(1, MOST_OF_A_RUN + 1))}),
            *series.runs[1:],
        )
        trial.document = document(series.model_copy(update={"runs": runs}))
    answer = client.post(sheet, data=rows(r1_1=ROW))
    assert answer.status_code == 422
    assert "start another series" in answer.text
    assert client.get(sheet).status_code == 200


@pytest.mark.parametrize("title", ["!!!", "x" * 200, "a\u202eb"])
def test_a_name_that_is_none(client, job, title):
    sent = {"first": "ep_share", "first_from": "20", "first_to": "40", "title": title, "revision": "1"}
    assert client.post(f"/jobs/{job}/series", data=sent).status_code == 422
