"""What every benchmark shares: a folder of its own, the shortest of several times, and a line a bar."""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
failed: list[str] = []


def prepare() -> None:
    """Django on an empty data folder of its own."""
    os.environ["RELLUX_DATA"] = tempfile.mkdtemp(prefix="rellux-bench-")
    os.environ["DJANGO_SETTINGS_MODULE"] = "rellux.server.settings"
    sys.path.insert(0, str(ROOT))
    import django

    django.setup()


def best(work: Callable[[], object], repeats: int = 5) -> float:
    """Shortest time of several, s."""
    return min(timed(work) for _ in range(repeats))


def timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def turns(ours: Callable[[], object], theirs: Callable[[], object], repeats: int = 7) -> float:
    """Our shortest time as a multiple of theirs, measured in turns, so that a busy minute hits both."""
    pairs = [(timed(ours), timed(theirs)) for _ in range(repeats)]
    return min(a for a, _ in pairs) / min(b for _, b in pairs)


def report(what: str, value: float, bar: float, at_least: bool = False, unit: str = "×") -> None:
    met = value >= bar if at_least else value <= bar
    if not met:
        failed.append(what)
    sign = "≥" if at_least else "≤"
    print(f"{'ok  ' if met else 'MISS'} {what}: {value:.3g} {unit} (bar: {sign} {bar:g} {unit})", flush=True)
