"""The compiled loop of a programme on a plant: every tick the programme sees the reading and moves the set-point, then the plant runs.

The face to use is :meth:`rellux.core.plant.simulation.Simulation.follow`.
"""

from ..compiled import compiled
from ..control.programme.kernel import ENDED, OFF, PHASE, SEGMENT, move
from ..units import ABSOLUTE_ZERO_C
from .kernel import AMBIENT, CLOCK, MODE, MODE_OFF, OFFSET, ON_S, SENSOR, SETPOINT, STEP_S, run

# columns of a row, before the temperature of every node
TIME, SET, READING, OUTPUT, AT, STANDS = range(6)
COLUMNS = 6


@compiled()
def follow(
    ticks,
    tick_steps,
    after,
    segments,
    programme,
    nodes,
    plant,
    transition,
    response,
    radiation,
    control,
    disturbance,
    x,
    flow,
    delay,
    state,
    scratch,
    alarms,
    alarm_states,
    does,
    seen,
    record,
):
    """Up to ``ticks`` ticks of ``tick_steps`` steps; ``after`` ticks more once the programme has ended. A row of ``record`` a tick: time
    in s, set-point, reading in °C, mean output in % over the tick, segment, phase, then every node in °C. Returns the number of rows.
    The other arguments are those of :func:`rellux.core.plant.kernel.run`.
    """
    h = plant[STEP_S]
    left = after
    rows = 0
    n = len(x) // 2
    for _ in range(ticks):
        display = state[SENSOR] + control[AMBIENT] + control[OFFSET]
        control[SETPOINT] = move(segments, programme, tick_steps * h if rows > 0 else 0.0, display)
        if programme[PHASE] == OFF:
            control[MODE] = MODE_OFF
        if programme[PHASE] >= ENDED:
            if left == 0:
                break
            left -= 1
        on = state[ON_S]
        record[rows, TIME], record[rows, SET], record[rows, READING] = state[CLOCK] * h, control[SETPOINT], display
        record[rows, AT], record[rows, STANDS] = programme[SEGMENT], programme[PHASE]
        for i in range(n):
            record[rows, COLUMNS + i] = max(x[i] + control[AMBIENT], ABSOLUTE_ZERO_C)
        run(
            tick_steps,
            tick_steps,
            nodes,
            plant,
            transition,
            response,
            radiation,
            control,
            disturbance,
            x,
            flow,
            delay,
            state,
            scratch,
            alarms,
            alarm_states,
            does,
            seen,
        )
        record[rows, OUTPUT] = 100.0 * (state[ON_S] - on) / (tick_steps * h)
        rows += 1
    return rows
