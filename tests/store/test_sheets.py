"""Tables out and back: every figure comes back, semicolons and commas are read, bad rows are named, and it is all or nothing."""

import csv
import io
import random
import zipfile
from datetime import datetime

import pytest
from openpyxl import Workbook, load_workbook
from sqlalchemy import func, select

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.shop import PartRun
from anvilsong.store import book, coupons, part_runs
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.models import CouponRow, JobRow
from anvilsong.store.sheets import KINDS, look_at, read_sheet, take, write_sheet
from anvilsong.store.sheets.columns import HEADS

FORMS = ("csv", "csv-comma", "xlsx")
JOB = "Rigger bracket, tube to foot"


@pytest.fixture
def written(make_session, tmp_path):
    """A workshop with awkward coupons and runs, and a way to write a table of it."""
    with make_session.begin() as session:
        row = session.scalar(select(JobRow).where(JobRow.title == JOB))
        plan = book.find_plan(session, row.id)
        dice = random.Random(7)
        for note in ("=1+1", "a;b,c\n“d”", "+40 A", "'quoted", "zwölf, ⅛″"):
            one = {
                name: round(dice.uniform(1, 9), dice.choice((0, 1, 3)))
                for name in ("bead_width_mm", "border_left_mm", "border_right_mm")
            }
            looks = Readings(
                **one,
                seconds=29.5,
                length_mm=101.6,
                judged={"bright": 2, "ease": 0},
                note=note,
                overall="nearly",
            )
            coupons.add_coupon(session, row, plan, looks)
            part_runs.add_run(
                session,
                row,
                plan,
                PartRun(seconds=one["bead_width_mm"] * 10, remarks=note, part="R-1", gas_l=1 / 3),
            )

    def write(kind, form):
        path = tmp_path / f".book.{kind}.came"  # as an upload lies beside the logbook
        with make_session() as session:
            write_sheet(session, kind, form, path)
        return path

    return write


def counts(make_session):
    with make_session() as session:
        return [session.scalar(select(func.count()).select_from(table)) for table in (CouponRow, PartRunRow)]


@pytest.mark.on_file
@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("kind", KINDS)
def test_every_table_has_its_heads_and_rows(written, kind, form):
    path = written(kind, form)
    if form == "xlsx":
        page = load_workbook(io.BytesIO(path.read_bytes())).worksheets[0]
        lines = [[cell.value for cell in row] for row in page.iter_rows()]
        assert all(cell.data_type != "f" for row in page.iter_rows() for cell in row)
    else:
        text = path.read_bytes().decode("utf-8-sig")
        lines = list(csv.reader(io.StringIO(text, newline=""), delimiter=";" if form == "csv-comma" else ","))
        assert not any(cell.startswith(("=", "+", "-", "@")) for line in lines for cell in line)
    assert tuple(lines[0]) == HEADS[kind]
    assert all(len(line) == len(HEADS[kind]) for line in lines)
    assert len(lines) > {"coupons": 8, "runs": 5, "recipes": 1, "memories": 0}[kind]


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("kind", ["coupons", "runs"])
def test_what_goes_out_comes_back_the_same(make_session, written, kind, form):
    before = counts(make_session)
    with make_session.begin() as session:
        looked = take(session, read_sheet(written(kind, form)))
    assert looked.kind == kind
    assert {row.state for row in looked.rows} == {"same"}
    assert looked.unread == ()
    assert counts(make_session) == before


def table(tmp_path, text, name="t.csv", encoding="utf-8"):
    path = tmp_path / name
    path.write_bytes(text.encode(encoding))
    return path


def look(make_session, path):
    with make_session() as session:
        return look_at(session, read_sheet(path))


def test_semicolons_commas_and_old_spreadsheets(make_session, tmp_path):
    text = (
        "Job;Bead  WIDTH [mm];border left [mm];border right [mm];seconds [s];length [mm];note;colour;when [UTC]\r\n"
        f"{JOB};6,25;0,8;1/32 in;28;10 cm;schön;blue;2026-03-01 10:15\r\n\r\n{JOB};6,250;0,8;0,8;28;100;;;01.03.2026 10:20\r\n"
    )
    path = table(tmp_path, text, encoding="cp1252")
    with make_session.begin() as session:
        looked = take(session, read_sheet(path))
    assert [(row.line, row.state) for row in looked.rows] == [(2, "new"), (4, "new")]
    assert looked.unread == ("colour",)
    with make_session() as session:
        row, last = session.scalars(select(CouponRow).order_by(CouponRow.id.desc()).limit(2)).all()[::-1]
        said = row.readings[-1].document
        assert (said["bead_width_mm"], said["note"], said["length_mm"]) == (6.25, "schön", 100)
        assert said["border_right_mm"] == pytest.approx(25.4 / 32)
        assert (row.made_at, row.number + 1) == (datetime(2026, 3, 1, 10, 15), last.number)
        assert last.readings[-1].document["bead_width_mm"] == 6.25
    again = look(make_session, path)  # the same table once more brings nothing twice
    assert {row.state for row in again.rows} == {"same"}


def test_a_corrected_row_corrects_its_coupon_and_leaves_what_has_no_column(make_session, tmp_path):
    with make_session() as session:
        row = session.scalars(select(CouponRow).order_by(CouponRow.id)).first()
        uid, was, readings = row.uid, dict(row.readings[-1].document), len(row.readings)
        title = session.get(JobRow, row.job_id).title
    path = table(tmp_path, f'uid,job,bead width [mm]\n{uid},"{title}",7.75\n')
    with make_session.begin() as session:
        looked = take(session, read_sheet(path))
    assert [(row.state, row.why) for row in looked.rows] == [("changed", "bead width")]
    with make_session() as session:
        row = session.scalar(select(CouponRow).where(CouponRow.uid == uid))
        assert len(row.readings) == readings + 1
        assert row.readings[-1].document == was | {"bead_width_mm": 7.75}


@pytest.mark.parametrize(("head", "other"), [("version", "1"), ("when [UTC]", "2026-01-02 03:04")])
def test_a_known_row_stays_with_its_version_and_moment(make_session, tmp_path, head, other):
    with make_session() as session:
        rows = session.scalars(select(CouponRow).order_by(CouponRow.id.desc()))
        row = next(
            row for row in rows if row.readings[-1].document.get("bead_width_mm") and row.plan.revision > 1
        )
        uid, title = row.uid, session.get(JobRow, row.job_id).title
        width = row.readings[-1].document["bead_width_mm"]
        as_it_is = str(row.plan.revision) if head == "version" else f"{row.made_at:%Y-%m-%d %H:%M:%S}"
    assert as_it_is != other
    for value, state in ((as_it_is, "same"), ("", "same"), (other, "bad")):
        text = f'uid,job,{head},bead width [mm]\n{uid},"{title}",{value},{width}\n'
        (seen,) = look(make_session, table(tmp_path, text)).rows
        assert seen.state == state, (value, seen)


BAD = [
    ("no such job,,,6,28", "no job is called"),
    (f'"{JOB}",99,,6,28', "no such version"),
    (f'"{JOB}",x,,6,28', "no such version"),
    (f'"{JOB}",,,six,28', "bead width [mm]: "),
    (f'"{JOB}",,,-6,28', "bead width [mm]: "),
    (f'"{JOB}",,,"6,250",28', "a comma before three figures"),
    (f'"{JOB}",,,6,0.1', "seconds [s]: "),
    (f'"{JOB}",,{"0" * 31}g,6,28', "leave it empty"),
    (f'"{JOB}",,,,', "measure one thing"),
]


def test_bad_rows_are_named_and_nothing_is_taken(make_session, tmp_path):
    good = f'"{JOB}",,,6.1,28\n'
    path = table(
        tmp_path,
        "job,version,uid,bead width [mm],seconds [s]\n" + good + "".join(f"{row}\n" for row, _ in BAD) + good,
    )
    before = counts(make_session)
    looked = look(make_session, path)
    assert [row.state for row in looked.rows] == ["new", *["bad"] * len(BAD), "new"]
    for row, (_, why) in zip(looked.rows[1:], BAD, strict=False):
        assert why in str(row.why.in_units("mm") if hasattr(row.why, "in_units") else row.why), row
    with pytest.raises(BadInput, match="line 3"), make_session.begin() as session:
        take(session, read_sheet(path))
    assert counts(make_session) == before


def test_uids_that_clash(make_session, tmp_path):
    with make_session() as session:
        row = session.scalars(select(CouponRow).order_by(CouponRow.id)).first()
        uid, own = row.uid, session.get(JobRow, row.job_id).title
        other = session.scalar(select(JobRow.title).where(JobRow.id != row.job_id).limit(1))
    text = f'uid,job,bead width [mm]\n{uid},"{other}",7\n{uid},"{own}",7\n{uid},"{own}",7\n'
    said = [row.state for row in look(make_session, table(tmp_path, text)).rows]
    assert said == ["bad", "bad", "bad"]  # of another job, and three times in one table


@pytest.mark.parametrize(
    ("content", "why"),
    [
        (b"", "no row"),
        (b"job,bead width [mm]\n", "no row"),
        (b"\x00\x01\x02", "CSV or XLSX"),
        (b"PK\x03\x04 nothing more", "CSV or XLSX"),
        (b"job,job\na,b\n", "headed"),
        (b"job,note\n" + b"a,b\n" * 2001, "2000 rows"),
        (b'job,note\n"' + b"x" * 200_000 + b'",1\n', "damaged"),
    ],
)
def test_what_is_no_table(tmp_path, content, why):
    path = tmp_path / "t"
    path.write_bytes(content)
    with pytest.raises(CannotRead, match=why):
        read_sheet(path)


def test_a_spreadsheet_that_lies_about_its_size(tmp_path):
    """A small file whose page claims a million rows of a million columns is read as far as rows are taken."""
    path = tmp_path / "t.xlsx"
    book_ = Workbook()
    book_.active.append(["job", "bead width [mm]"])
    book_.active.append([JOB, 6.2])
    book_.save(path)
    wide = tmp_path / "wide.xlsx"
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(wide, "w") as new:
        for name in old.namelist():
            content = old.read(name)
            if name.endswith("sheet1.xml"):
                content = content.replace(b'ref="A1:B2"', b'ref="A1:XFD1048576"').replace(
                    b'r="2"', b'r="1048576"'
                )
            new.writestr(name, content)
    with pytest.raises(CannotRead, match="no row"):
        read_sheet(wide)
    assert read_sheet(path).rows == ((2, {"job": JOB, "bead width [mm]": "6.2"}),)


def test_a_table_of_neither_kind_says_which_heads_it_needs(make_session, tmp_path):
    for text in ("colour,size\nred,4\n", "job,colour\na,red\n", "bead width [mm]\n6\n"):
        with pytest.raises(BadInput, match="job uid"):
            look(make_session, table(tmp_path, text))
