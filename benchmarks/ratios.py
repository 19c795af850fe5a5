"""Speed and memory bars as ratios measured in one run: ``PYTHONPATH=src python benchmarks/ratios.py``.

Each line says what was measured, the ratio, and the bar it must meet. Times are the best of several repeats.
"""

import json
import os
import sys
import tempfile
import time
import tracemalloc
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
os.environ["RELLUX_DATA"] = tempfile.mkdtemp(prefix="rellux-bench-")
os.environ["DJANGO_SETTINGS_MODULE"] = "rellux.server.settings"

import django
import numpy as np
import pandas as pd
import thermocouple_its90
from scipy.sparse import csc_matrix, identity
from scipy.sparse.linalg import spsolve

django.setup()

from benchmarks.large_rig import PURPOSE, large_rig  # noqa: E402
from django.core.management import call_command  # noqa: E402
from django.test import Client  # noqa: E402

from rellux.core.control.settings import ControllerSettings, Mode  # noqa: E402
from rellux.core.heating.protection_data import Practice  # noqa: E402
from rellux.core.plant import kernel  # noqa: E402
from rellux.core.plant.model import ThermalNetwork  # noqa: E402
from rellux.core.plant.simulation import Simulation  # noqa: E402
from rellux.core.sensing import thermocouples  # noqa: E402
from rellux.core.wiring.circuit.faults import analyse  # noqa: E402
from rellux.core.wiring.circuit.positions import table  # noqa: E402
from rellux.core.wiring.circuit.solve import Circuit  # noqa: E402
from rellux.core.wiring.rules import check, context_for  # noqa: E402
from rellux.server.demo.workshop import load_demo  # noqa: E402
from rellux.server.rigs.models import Rig  # noqa: E402
from rellux.server.runs import store  # noqa: E402
from rellux.server.runs.csv_import import Mapping, read_csv  # noqa: E402
from rellux.server.runs.models import Run  # noqa: E402

ROWS = 1_000_000
failed: list[str] = []


def best(work: Callable[[], object], repeats: int = 5) -> float:
    """Shortest time of several, s."""
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def report(what: str, value: float, bar: float, at_least: bool, unit: str = "×") -> None:
    met = value >= bar if at_least else value <= bar
    if not met:
        failed.append(what)
    print(
        f"{'ok  ' if met else 'MISS'} {what}: {value:.3g} {unit} (bar: {'≥' if at_least else '≤'} {bar:g} {unit})",
        flush=True,
    )


def simulation() -> None:
    """24 h of a six-node plant under PID at 0.25 s, against the very same loop as plain Python on lists."""
    network = ThermalNetwork(
        (300, 900, 1500, 2500, 4000, 800),
        ((0, 1, 20), (1, 2, 4), (2, 3, 3), (3, 4, 2), (1, 5, 5)),
        (0, 1, 0, 0, 2, 0),
        500,
        sensor_node=1,
        sensor_lag_s=10,
        dead_time_s=20,
    )
    loop = ControllerSettings(100, Mode.PID, period_s=20)
    Simulation(network, loop, 20.0).advance(1)
    compiled = best(lambda: Simulation(network, loop, 20.0).advance(86_400, 60))

    s = Simulation(network, loop, 20.0)
    arrays = (s._plant, s._transition, s._response, s._radiation, s._control, s._disturbance)
    lists = [a.tolist() for a in (*arrays, s._x, s._flow, s._delay, s._state)]
    steps = 86_400 * 4 // 48  # half an hour is enough to know the time per step
    plain = best(lambda: kernel.run.machine().py_func(steps, 240, 6, *lists, [0.0] * 5 * (steps // 240 + 2))) * 48
    report("simulation against the same loop in plain Python", plain / compiled, 100, at_least=True)
    print(f"     24 h in {compiled * 1000:.0f} ms compiled, {plain:.1f} s plain")


def inversion() -> None:
    """A million type K voltages to 1 mK, against the reference library a value and against numpy.interp."""
    emf = np.random.default_rng(1).uniform(*thermocouples.emf_range("K"), ROWS)
    thermocouples.temperature("K", emf[:10])
    ours = best(lambda: thermocouples.temperature("K", emf))
    reference = thermocouple_its90.get("K")
    sample = emf[:5000]
    theirs = best(lambda: [reference.temperature(e) for e in sample], 3) / len(sample) * ROWS
    grid = np.linspace(-270, 1372, 1643)
    plain = best(lambda: np.interp(emf, thermocouples.emf("K", grid), grid))
    report("inversion against the reference library", theirs / ours, 200, at_least=True)
    report("inversion against numpy.interp", ours / plain, 15, at_least=False)
    back = thermocouples.emf("K", thermocouples.temperature("K", emf))
    print(f"     a million in {ours * 1000:.0f} ms; worst return {np.abs(back - emf).max() * 1e6:.2g} nV")


def csv_import() -> Run:
    """A million rows checked and stored, against pandas merely parsing them; then windows of 2,000 points."""
    path = Path(os.environ["RELLUX_DATA"]) / "million.csv"
    t = np.arange(ROWS) * 0.5
    rng = np.random.default_rng(2)
    frame = pd.DataFrame(
        {
            "time": t,
            "setpoint": np.full(ROWS, 60.0),
            "reading": np.round(60 + 3 * np.sin(t / 300) + rng.normal(0, 0.1, ROWS), 2),
            "output": np.round(rng.uniform(0, 100, ROWS), 1),
        }
    )
    frame.to_csv(path, index=False)
    mapping = Mapping(",", ".", True, "seconds", "C", {"time": 0, "setpoint": 1, "reading": 2, "output": 3})
    rig = Rig.objects.first()
    runs: list[Run] = []

    def bring_in() -> None:
        imported = read_csv(path, mapping)
        run = Run.objects.create(rig=rig, name="million", source="csv", status="finished", started_at=datetime.now(UTC))
        store.append(run, imported.series)
        runs.append(run)

    pairs = [(best(lambda: pd.read_csv(path), 1), best(bring_in, 1)) for _ in range(7)]  # taking turns: load hits both
    parse, ours = (min(times) for times in zip(*pairs, strict=True))
    report("import of a million rows against pandas parsing", ours / parse, 3, at_least=False)
    tracemalloc.start()
    bring_in()
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    frame_bytes = int(frame.memory_usage().sum())
    print(f"     pandas {parse:.2f} s, Rellux {ours:.2f} s; peak memory {peak / frame_bytes:.1f} × the table itself")
    return runs[-1]


def windows(run: Run) -> None:
    """95th percentile of reading a 2,000-point window, narrow to whole."""
    rng = np.random.default_rng(3)
    store.window(run, 0, 1e9, 2000)
    times = []
    for _ in range(200):
        width = run.length_s * 10 ** rng.uniform(-3, 0)
        start = rng.uniform(0, run.length_s - width)
        begin = time.perf_counter()
        store.window(run, start, start + width, 2000)
        times.append(time.perf_counter() - begin)
    report(
        "2,000-point window of a million rows, p95",
        float(np.percentile(times, 95)) * 1000,
        50,
        at_least=False,
        unit="ms",
    )


def api_reads() -> None:
    """95th percentile of every read the stations make, on the demo."""
    client, times = Client(headers={"host": "localhost"}), []
    number = Rig.objects.get(slug="cement-cabinet").runs.exclude(name="million").first().pk  # type: ignore[union-attr]
    paths = ["rigs"]
    for slug in ("cement-cabinet", "blank-annealer"):
        paths += [
            f"rigs/{slug}{p}" for p in ("", "/parts", "/wiring", "/setup", "/tuning", "/runs", "/calibration", "/book")
        ]
    paths += [f"rigs/cement-cabinet/runs/{number}/{p}" for p in ("window", "metrics")]
    for path in paths:
        client.get(f"/api/v1/{path}")
        for _ in range(10):
            begin = time.perf_counter()
            assert client.get(f"/api/v1/{path}").status_code == 200
            times.append(time.perf_counter() - begin)
    report("API reads on the demo, p95", float(np.percentile(times, 95)) * 1000, 50, at_least=False, unit="ms")


def wiring_check() -> None:
    """A three-phase oven of three zones in 60 parts: rules, positions and every failure, against solving each position and
    failure from scratch: the matrix assembled and given to a general sparse solver, once for AC and once for DC, as often as
    contacts move."""
    wiring = large_rig()
    context = context_for(PURPOSE, Practice.IEC, "K")
    solves: list[int] = []

    def whole() -> None:
        circuit = Circuit(wiring, PURPOSE.control_voltage_v)
        check(wiring, context, circuit)
        table(circuit)
        analyse(circuit)
        solves.append(circuit.known)

    ours = best(whole, 3)
    scratch = best(lambda: from_scratch(Circuit(wiring, PURPOSE.control_voltage_v)), 3)
    what = "60 parts: rules, positions and failures against solving each from scratch"
    report(what, solves[-1] * scratch / ours, 20, at_least=True)
    print(f"     {solves[-1]} positions and failures in {ours:.2f} s; one from scratch {scratch * 1000:.1f} ms")


def from_scratch(circuit: Circuit) -> None:
    """One position, its matrix made anew each time contacts move, by scipy's general sparse solver."""
    net = circuit.net
    for _ in range(MOVES):
        rows = np.concatenate((net.a, net.b, net.a, net.b))
        columns = np.concatenate((net.a, net.b, net.b, net.a))
        values = np.concatenate((net.conductance, net.conductance, -net.conductance, -net.conductance))
        size = len(net.index)
        matrix = csc_matrix((values, (rows, columns)), shape=(size, size)) + identity(size, format="csc") * 1e-9
        side = np.ones(size)
        spsolve(matrix.astype(complex), side.astype(complex))
        spsolve(matrix, side)


MOVES = 3
"""How often contacts of this rig move, on average, until a position rests."""


def pasting() -> None:
    """500 wires pasted and answered with the whole view, through the API."""
    client = Client(headers={"host": "localhost"})
    blocks = [{"name": f"X{i}", "kind": "terminal_block"} for i in range(1, 131)]
    lines = [f"X{1 + i // 4}.{1 + i % 4}, X{2 + i // 4}.{8 - i % 4}" for i in range(500)]
    seconds = []
    for _ in range(3):
        view = client.get("/api/v1/rigs/pitch-plate/wiring").json()
        text = json.dumps({"format": "rellux-wiring", "version": 1, "parts": blocks, "wires": []})
        url = "/api/v1/rigs/pitch-plate/wiring"
        body = {"revision": view["revision"], "text": text}
        emptied = client.post(f"{url}/import", body, content_type="application/json").json()
        begin = time.perf_counter()
        answer = client.post(
            f"{url}/paste", {"revision": emptied["revision"], "text": "\n".join(lines)}, content_type="application/json"
        )
        seconds.append(time.perf_counter() - begin)
        assert answer.status_code == 200, answer.json()
    report("500 wires pasted, answered", min(seconds), 1.0, at_least=False, unit="s")


def script_size() -> None:
    """Gzipped JavaScript fetched before the first station is shown."""
    import gzip
    import re

    page = Path(__file__).resolve().parents[1] / "web/dist"
    if not page.exists():
        print("     the interface is not built; its size was not measured")
        return
    scripts = re.findall(r'(?:src|href)="/app/([^"]+\.js)"', (page / "index.html").read_text())
    size = sum(len(gzip.compress((page / s).read_bytes())) for s in scripts) / 1024
    report("initial script, gzipped", size, 350, at_least=False, unit="kB")


def main() -> int:
    call_command("migrate", verbosity=0)
    load_demo()
    simulation()
    inversion()
    run = csv_import()
    windows(run)
    Run.objects.filter(name="million").delete()
    api_reads()
    wiring_check()
    pasting()
    script_size()
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
