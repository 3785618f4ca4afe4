"""Exercises that were done: by welder, one after another, through a welder's new name, erased alone."""

from anvilsong.core.job import School
from anvilsong.core.practice import AnswerResult, Practised
from anvilsong.store import practice, shop
from anvilsong.store.models import WelderRow


def done(item="hold", score=80.0, **more):
    return Practised(skill=more.pop("skill", "pedal"), item=item, score=score, **more)


def test_exercises_are_kept_by_welder_and_erased_alone(make_session):
    with make_session.begin() as session:
        welder = session.query(WelderRow).first()
        name = welder.name
        rows = [
            practice.add_practised(session, who, each).id
            for who, each in (
                (name, done(score=40)),
                ("", done(score=50)),
                (name, done("hot")),
                (name, done(score=90)),
                (
                    name,
                    done(
                        "balance",
                        0,
                        skill="panels",
                        answer=AnswerResult(given={"a": "30"}, right={"a": "70"}),
                    ),
                ),
            )
        ]
    with make_session() as session:
        assert [one.score for _, one in practice.practised(session, name, "pedal")] == [90, 80, 40]
        assert [one.score for _, one in practice.practised(session, name, limit=2)] == [0, 90]
        last, _ = practice.find_practised(session, rows[3])
        assert practice.before(session, last)[1].score == 40  # of the same welder and exercise
        assert practice.before(session, practice.find_practised(session, rows[0])[0]) is None
        assert practice.find_practised(session, 999) is None
        assert practice.welders_practised(session) == ["", name]
    with make_session.begin() as session:
        shop.save_welder(session, session.get(WelderRow, welder.id), "Other", School(), "")
        assert practice.welders_practised(session) == ["", "Other"]
        session.get(type(last), rows[2]).document = {"damaged": True}
    with make_session.begin() as session:
        assert len(practice.practised(session, "Other")) == 3  # what cannot be read is passed over
        assert practice.erase(session, "Other") == 4
    with make_session() as session:
        assert practice.practised(session, "Other") == []
        assert [one.score for _, one in practice.practised(session, "")] == [50]
