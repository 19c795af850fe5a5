"""What is slow is worked out once, also while many ask for it at the same moment."""

import time
from concurrent.futures import ThreadPoolExecutor
from threading import Event

import pytest

from rellux.server.answers.once import remembered


def test_many_who_ask_at_once_get_one_answer():
    calls = []

    @remembered(8)
    def slow(key):
        calls.append(key)
        time.sleep(0.2)
        return object()

    with ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(slow, ["a", "b"] * 6))
    assert sorted(calls) == ["a", "b"] and len(set(map(id, answers))) == 2


def test_a_failure_is_not_kept_and_leaves_nobody_waiting():
    calls = []

    @remembered(8)
    def fails_once(key):
        calls.append(key)
        if len(calls) == 1:
            raise ValueError("not yet")
        return key

    with pytest.raises(ValueError):
        fails_once("a")
    assert fails_once("a") == fails_once("a") == "a" and len(calls) == 2


def test_the_oldest_goes_and_what_was_forgotten_meanwhile_is_not_kept():
    calls, going, go = [], Event(), Event()

    @remembered(2)
    def square(x):
        calls.append(x)
        if x == 9:
            going.set()
            go.wait(5)
        return x * x

    assert [square(x) for x in (1, 2, 1, 3, 1, 2)] == [1, 4, 1, 9, 1, 4] and calls == [1, 2, 3, 2]
    with ThreadPoolExecutor(1) as pool:
        slow = pool.submit(square, 9)
        going.wait(5)
        square.cache_clear()
        go.set()
        assert slow.result() == 81
    calls.clear()
    assert square(9) == 81 and calls == [9]


def test_what_asks_itself_for_another_answer_does_not_wait_for_itself():
    @remembered(64)
    def count(n):
        return 0 if n == 0 else 1 + count(n - 1)

    assert count(20) == 20
