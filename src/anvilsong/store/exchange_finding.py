"""What a job is found by once two logbooks were put together: its words, and the columns of lists."""

from __future__ import annotations

from anvilsong.store.columns import read_document
from anvilsong.store.exchange_both import Both
from anvilsong.store.narrowing import columns_of
from anvilsong.store.spelling import terms_of
from anvilsong.store.words import searchable


def index_merged(here: Both, job: int) -> None:
    """Write anew what a job that got more is found by, as ``store.words`` does for one that changed."""
    ((title, welder),) = here.rows(
        "SELECT title, (SELECT name FROM main.welders w WHERE w.id = welder_id) FROM main.jobs WHERE id = ?",
        (job,),
    )
    newest = here.rows(
        "SELECT job_document, settings FROM main.plans WHERE job_id = ? ORDER BY revision DESC LIMIT 1",
        (job,),
    )
    last, settings = newest[0] if newest else ("{}", None)
    readings = here.rows(
        "SELECT r.document, r.change FROM main.coupons c LEFT JOIN main.readings r ON r.coupon_id = c.id"
        " WHERE c.job_id = ? ORDER BY c.number, r.revision",
        (job,),
    )
    kind = str(read_document(readings[-1][1]).get("kind") or "") if readings else None
    found = columns_of(read_document(last), settings not in (None, "null"), kind)
    named = ", ".join(f"{name} = ?" for name in found)
    here.change(f"UPDATE main.jobs SET {named} WHERE id = ?", (*found.values(), job))
    notes = [str(note) for reading, _ in readings if (note := read_document(reading).get("note"))]
    words = terms_of(searchable(title, read_document(last), welder or "", notes))
    here.change("DELETE FROM main.words WHERE rowid = ?", (job,))
    here.change("INSERT INTO main.words (rowid, text) VALUES (?, ?)", (job, " ".join(words)))
    for term in sorted(set(words)):
        here.change("INSERT INTO main.terms (term) VALUES (?) ON CONFLICT DO NOTHING", (term,))
