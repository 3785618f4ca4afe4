"""What a job is found by once two logbooks were put together: its words, and the columns of lists."""

from __future__ import annotations

import sqlite3

from anvilsong.store.columns import read_document
from anvilsong.store.narrowing import columns_of
from anvilsong.store.spelling import terms_of
from anvilsong.store.words import searchable


def index_merged(here: sqlite3.Connection, job: int) -> None:
    """Write anew what a job that got more is found by, as ``store.words`` does for one that changed."""
    title, welder = here.execute(
        "SELECT title, (SELECT name FROM main.welders w WHERE w.id = welder_id) FROM main.jobs WHERE id = ?",
        (job,),
    ).fetchone()
    last, settings = here.execute(
        "SELECT job_document, settings FROM main.plans WHERE job_id = ? ORDER BY revision DESC LIMIT 1",
        (job,),
    ).fetchone() or ("{}", None)
    readings = here.execute(
        "SELECT r.document, r.change FROM main.coupons c LEFT JOIN main.readings r ON r.coupon_id = c.id"
        " WHERE c.job_id = ? ORDER BY c.number, r.revision",
        (job,),
    ).fetchall()
    kind = str(read_document(readings[-1][1]).get("kind") or "") if readings else None
    found = columns_of(read_document(last), settings not in (None, "null"), kind)
    named = ", ".join(f"{name} = ?" for name in found)
    here.execute(f"UPDATE main.jobs SET {named} WHERE id = ?", (*found.values(), job))
    notes = [str(note) for reading, _ in readings if (note := read_document(reading).get("note"))]
    words = searchable(title, read_document(last), welder or "", notes).encode(errors="replace").decode()
    here.execute("DELETE FROM main.words WHERE rowid = ?", (job,))
    here.execute("INSERT INTO main.words (rowid, text) VALUES (?, ?)", (job, words))
    terms = [(term,) for term in sorted(set(terms_of(words)))]
    here.executemany("INSERT OR IGNORE INTO main.terms (term) VALUES (?)", terms)
