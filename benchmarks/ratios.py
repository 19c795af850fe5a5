"""Speed, memory and growth as ratios measured in one run: ``PYTHONPATH=src:. python benchmarks/ratios.py [part …]``.

Each line says what was measured, the ratio, and the bar it must meet. Parts: computing, identifying, guarding, profiles, menus,
proving, tuning, calibration, storing, serving, polling, growth.
"""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from benchmarks import measure

measure.prepare()

from benchmarks import (  # noqa: E402
    calibration,
    computing,
    growth,
    guarding,
    identifying,
    menus,
    polling,
    profiles,
    proving,
    serving,
    storing,
    tuning,
)
from django.core.management import call_command  # noqa: E402

from rellux.server.demo.workshop import load_demo  # noqa: E402


def store_and_look() -> None:
    run = storing.bring_in()
    storing.windows(run)
    type(run).objects.filter(source="csv").delete()


PARTS = {
    "computing": (computing.simulation, computing.inversion, computing.wiring_check),
    "identifying": (identifying.identification, identifying.grid, identifying.year),
    "guarding": (guarding.in_the_simulation, guarding.over_a_year),
    "profiles": (profiles.prediction,),
    "menus": (menus.walks,),
    "proving": (proving.plan_of_a_large_rig,),
    "tuning": (tuning.slider,),
    "calibration": (calibration.ranking, calibration.fleet),
    "storing": (store_and_look,),
    "serving": (serving.reads, serving.pasting, serving.script_size),
    "polling": (polling.many_devices, polling.a_slow_bus),
    "growth": (growth.growth,),
}


def main(wanted: list[str]) -> int:
    call_command("migrate", verbosity=0)
    load_demo()
    for part in wanted or PARTS:
        for measurement in PARTS[part]:
            measurement()
    return 1 if measure.failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
