"""How cost grows: the exponent of time against size, printed for parts, samples and rigs. 31 M samples: a year at one a second."""

from collections.abc import Callable, Sequence
from datetime import UTC, datetime

import numpy as np
from benchmarks.large_rig import PURPOSE, large_rig
from benchmarks.measure import best, report
from benchmarks.storing import POINTS, new_run
from django.test import Client

from rellux.core.heating.conductor_tables import Practice
from rellux.core.runs.series import Series
from rellux.core.wiring.circuit.faults import analyse
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import Connection, ConnectionList, Part
from rellux.core.wiring.rules import check, context_for
from rellux.server.rigs.models import Rig
from rellux.server.runs import store


def exponent(what: str, sizes: Sequence[int], cost: Callable[[int], float], bar: float) -> None:
    """Fitted over all sizes; ``bar``: what it may be."""
    times = [cost(n) for n in sizes]
    slope = float(np.polyfit(np.log(sizes), np.log(times), 1)[0])
    report(f"growth of {what}, {sizes[0]}…{sizes[-1]}", slope, bar, unit="(exponent)")
    print("     " + ", ".join(f"{n}: {t * 1000:.3g} ms" for n, t in zip(sizes, times, strict=True)))


def several(count: int) -> ConnectionList:
    """About ``count`` parts: as many zones of the large rig's ovens, side by side, each with its own supply."""
    one = large_rig()
    copies = max(1, round(count / len(one.parts)))
    if copies == 1:
        names = [p.name for p in one.parts][:count]
        kept = set(names)
        wires = tuple(w for w in one.connections if {w.a.partition(".")[0], w.b.partition(".")[0]} <= kept)
        return ConnectionList(tuple(p for p in one.parts if p.name in kept), wires)
    parts: list[Part] = []
    wires_: list[Connection] = []
    for i in range(copies):
        parts += [Part(f"{p.name}x{i}", p.type, p.ratings) for p in one.parts]
        for w in one.connections:
            a, b = (end.replace(".", f"x{i}.", 1) for end in (w.a, w.b))
            wires_.append(Connection(len(wires_) + 1, a, b, w.circuit, w.area_mm2, w.colour))
    return ConnectionList(tuple(parts), tuple(wires_))


def of_parts() -> None:
    context = context_for(PURPOSE, Practice.IEC, "K")

    def cost(count: int) -> float:
        wiring = several(count)

        def whole() -> None:
            circuit = CircuitSolver(wiring, PURPOSE.control_voltage_v)
            check(wiring, context, circuit)
            table(circuit)
            analyse(circuit)

        return best(whole, 2)

    exponent("rules, positions and failures with parts", (10, 30, 60, 120, 180), cost, 3.0)


def of_samples() -> None:
    def cost(rows: int) -> float:
        run, step = new_run(rows), 1_000_000
        for start in range(0, rows, step):
            t = np.arange(start, min(start + step, rows), dtype=np.float64)
            wave = 60 + 3 * np.sin(t / 300)
            store.append(run, Series(t, np.full(len(t), 60.0), wave, np.full(len(t), 50.0), np.full(len(t), np.nan)))
        middle = rows / 2
        narrow = best(lambda: store.window(run, middle, middle + 3600, POINTS), 5)
        whole = best(lambda: store.window(run, 0, rows, POINTS), 3)
        print(f"     {rows} samples: an hour {narrow * 1000:.3g} ms, all {whole * 1000:.3g} ms", flush=True)
        run.delete()
        return narrow

    exponent("an hour's window with samples", (1_000_000, 4_000_000, 31_000_000), cost, 0.2)


def of_rigs() -> None:
    client = Client(headers={"host": "localhost"})
    pattern = Rig.objects.get(slug="cement-cabinet")

    def cost(count: int) -> float:
        have = Rig.objects.count()
        for i in range(have, count):
            fields = {
                f.name: getattr(pattern, f.name)
                for f in Rig._meta.concrete_fields
                if f.name not in ("id", "slug", "name")
            }
            Rig.objects.create(**{**fields, "slug": f"rig-{i}", "name": f"Rig {i}", "created_at": datetime.now(UTC)})
        client.get("/api/v1/rigs")
        one = best(lambda: client.get("/api/v1/rigs/cement-cabinet"), 5)
        every = best(lambda: client.get("/api/v1/rigs"), 5)
        print(f"     {count} rigs: one {one * 1000:.3g} ms, workshop {every * 1000:.3g} ms", flush=True)
        return one

    exponent("one rig's page with rigs", (4, 20, 200), cost, 0.1)


def growth() -> None:
    of_parts()
    of_rigs()
    of_samples()
