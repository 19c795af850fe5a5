"""What took long to work out is kept beside the rows it came from, for the processes that come after this one."""

import pickle
import sqlite3

import pytest
from django.db import DatabaseError, connection, transaction

from rellux.server.answers import lasting, once, version
from rellux.server.answers.models import LastingAnswer
from rellux.server.answers.once import remembered
from tests.server.kept_rows import _remembered as remembered_functions
from tests.server.workshop import load_demo

pytestmark = pytest.mark.django_db
ASKED = []


@pytest.fixture(autouse=True)
def everything_is_worth_keeping(monkeypatch):
    ASKED.clear()
    monkeypatch.setattr(once, "WORTH_S", -1.0)


def slow(*key):
    ASKED.append(key)
    return {"of": key}


def another_process():
    """As it would begin: with nothing in memory."""
    return remembered(8, lasts=True)(slow)


def test_the_next_process_takes_what_was_worked_out():
    assert another_process()("a", 1) == another_process()("a", 1) == {"of": ("a", 1)}
    assert ASKED == [("a", 1)]
    assert another_process()("a", 2) == {"of": ("a", 2)} and len(ASKED) == 2


def test_another_version_of_the_code_works_it_out_itself(monkeypatch):
    another_process()("a")
    monkeypatch.setattr(lasting, "code_version", lambda: "another")
    another_process()("a")
    assert len(ASKED) == 2


def test_the_version_changes_with_what_any_file_says(tmp_path, monkeypatch):
    monkeypatch.setattr(version, "PACKAGE", tmp_path)
    (tmp_path / "rules.py").write_text("LIMIT = 2")
    told = version.code_version.__wrapped__
    before = told()
    assert told() == before
    (tmp_path / "rules.py").write_text("LIMIT = 3")
    assert told() != before


def test_what_is_taken_back_with_its_rows_is_not_remembered():
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        another_process()("a")
        raise ZeroDivisionError
    another_process()("a")
    assert len(ASKED) == 2


class Harm:
    def __reduce__(self):
        return (ASKED.append, ("ran",))


def test_an_answer_that_was_not_signed_here_is_not_even_opened():
    another_process()("a")
    row = LastingAnswer.objects.get()
    row.answer = bytes(row.answer)[:32] + pickle.dumps(Harm())
    row.save()
    assert another_process()("a") == {"of": ("a",)}
    assert ASKED == [("a",), ("a",)]
    assert another_process()("a") and len(ASKED) == 2  # kept anew


def test_one_answer_is_not_passed_off_as_another():
    another_process()("a"), another_process()("b")
    first, second = LastingAnswer.objects.order_by("at")
    LastingAnswer.objects.filter(pk=second.pk).update(answer=first.answer)
    assert another_process()("b") == {"of": ("b",)}


def test_a_database_that_takes_nothing_does_not_stop_the_answer(monkeypatch):
    def refuses(*args, **named):
        raise DatabaseError("database or disk is full")

    monkeypatch.setattr(LastingAnswer.objects, "update_or_create", refuses)
    assert another_process()("a") == {"of": ("a",)}


@pytest.mark.django_db(transaction=True)
def test_who_reads_does_not_wait_for_a_long_write():
    other = sqlite3.connect(connection.settings_dict["NAME"], isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    assert another_process()("a") == {"of": ("a",)} and not LastingAnswer.objects.exists()
    other.execute("ROLLBACK")
    other.close()
    with connection.cursor() as cursor:
        assert cursor.execute("PRAGMA busy_timeout").fetchone() == (20_000,)  # whoever changes something does wait
    assert another_process()("a") and LastingAnswer.objects.count() == 1


def test_the_newest_are_kept_and_what_is_forgotten_is_gone(monkeypatch):
    monkeypatch.setattr(lasting, "MOST", 3)
    function = another_process()
    for key in range(5):
        function(key)
    assert LastingAnswer.objects.count() == 3
    ASKED.clear()
    assert [another_process()(key)["of"] for key in (4, 3, 2, 1)] == [(4,), (3,), (2,), (1,)] and ASKED == [(1,)]
    size = len(bytes(LastingAnswer.objects.first().answer))
    monkeypatch.setattr(lasting, "MOST_BYTES", 2 * size + 4)
    function(9)
    assert LastingAnswer.objects.count() == 2
    function.cache_clear()
    assert not LastingAnswer.objects.exists()


@pytest.mark.long
def test_every_page_of_the_demo_says_the_same_to_the_next_process(api):
    load_demo()
    paths = [
        f"rigs/{rig['slug']}{page}"
        for rig in api.ok("GET", "rigs")
        for page in ("", "/parts", "/wiring", "/wiring/faults", "/guarding", "/proving", "/calibration")
    ]

    def read():
        return {path: api.ok("GET", path) for path in paths}

    for function in remembered_functions():
        function.cache_clear()
    worked_out = read()
    lasting_ones = LastingAnswer.objects.count()
    for function in remembered_functions():
        function._kept.clear()
    assert read() == worked_out and LastingAnswer.objects.count() == lasting_ones > 20
