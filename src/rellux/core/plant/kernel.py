"""The compiled simulation loop: plant, sensor, controller and time-proportioned actuator, one fixed step at a time.

Everything is flat arrays so the very same function also runs as plain Python on lists (the benchmark does).
Indices into the ``control`` and ``state`` arrays are named below; :mod:`rellux.core.plant.simulation` is the face to use.
"""

from numba import njit

# control[]
MODE, OFF_AT, ON_AT, GAIN, TI, TD, FILTER_N, WEIGHT = 0, 1, 2, 3, 4, 5, 6, 7
OUT_LOW, OUT_HIGH, MANUAL, OFFSET, SAMPLE_STEPS, CYCLE_STEPS, MIN_ON_STEPS = 8, 9, 10, 11, 12, 13, 14
SETPOINT, AMBIENT, SENSOR_BROKEN = 15, 16, 17
CONTROL_SIZE = 18
MODE_OFF, MODE_ON_OFF, MODE_PID, MODE_MANUAL = 0.0, 1.0, 2.0, 3.0

# plant[]
POWER, SENSOR_FRACTION, HEATER_NODE, SENSOR_NODE, STEP_S, DELAY_STEPS = 0, 1, 2, 3, 4, 5
PLANT_SIZE = 6

# state[]
SENSOR, INTEGRAL, DERIVATIVE, LAST_PV, OUTPUT, CYCLE_POSITION, ON_STEPS, SWITCH, SWITCHES, CLOCK, DUTY = range(11)
STATE_SIZE = 11


@njit(cache=True)
def run(
    steps, every, nodes, plant, transition, response, radiation, control, disturbance, x, flow, delay, state, record
):
    """Advance ``steps`` steps in place; write every ``every``-th into ``record``; return the number of rows written.

    nodes: number of nodes n. transition, response: n·n row by row. radiation: W/K⁴ per node (n). disturbance: triples of
    first step, last step, extra loss from the sensor's node in W/K. x: node rises (n). flow: scratch (n). delay: ring
    buffer of heat, ``DELAY_STEPS + 1`` long. record: rows of (time s, set-point, display, output % in force,
    switch) flat; a time-proportioned output is in force from the start of its cycle to the end.
    """
    n = nodes
    h = plant[STEP_S]
    ambient_k = control[AMBIENT] + 273.15
    ambient_k4 = ambient_k * ambient_k * ambient_k * ambient_k
    heater = int(plant[HEATER_NODE])
    sensed = int(plant[SENSOR_NODE])
    delay_steps = int(plant[DELAY_STEPS])
    sample_steps = int(control[SAMPLE_STEPS])
    cycle_steps = int(control[CYCLE_STEPS])
    sample_s = sample_steps * h
    mode = control[MODE]
    broken = control[SENSOR_BROKEN] > 0.0
    rows = 0
    for _ in range(steps):
        clock = int(state[CLOCK])
        display = state[SENSOR] + control[AMBIENT] + control[OFFSET]
        setpoint = control[SETPOINT]

        if clock % sample_steps == 0:
            u = 0.0
            if broken or mode == MODE_OFF:
                u = 0.0
            elif mode == MODE_ON_OFF:
                u = state[OUTPUT]
                if display >= setpoint + control[OFF_AT]:
                    u = control[OUT_LOW]
                elif display <= setpoint + control[ON_AT]:
                    u = control[OUT_HIGH]
            elif mode == MODE_PID:
                gain = control[GAIN]
                if control[TD] > 0.0:
                    lag = control[TD] / control[FILTER_N]
                    slope = (display - state[LAST_PV]) / sample_s
                    state[DERIVATIVE] += (slope - state[DERIVATIVE]) * sample_s / (lag + sample_s)
                wanted = (
                    gain * (control[WEIGHT] * setpoint - display - control[TD] * state[DERIVATIVE]) + state[INTEGRAL]
                )
                if control[WEIGHT] != 1.0:
                    wanted += gain * (1.0 - control[WEIGHT]) * control[AMBIENT]
                error = setpoint - display
                u = min(max(wanted, control[OUT_LOW]), control[OUT_HIGH])
                pushing_out = (wanted > control[OUT_HIGH] and error > 0.0) or (
                    wanted < control[OUT_LOW] and error < 0.0
                )
                if control[TI] > 0.0 and not pushing_out:
                    state[INTEGRAL] += gain / control[TI] * error * sample_s
            else:
                u = min(max(control[MANUAL], control[OUT_LOW]), control[OUT_HIGH])
            state[OUTPUT] = u
            state[LAST_PV] = display

        if cycle_steps == 0 or mode == MODE_ON_OFF:
            drive = state[OUTPUT] / 100.0
            state[DUTY] = state[OUTPUT]
            closed = 1.0 if state[OUTPUT] > 0.0 else 0.0
            state[CYCLE_POSITION] = 0.0
        else:
            position = int(state[CYCLE_POSITION])
            if position == 0:
                on = int(state[OUTPUT] / 100.0 * cycle_steps + 0.5)
                if on < control[MIN_ON_STEPS]:
                    on = 0
                state[ON_STEPS] = on
                state[DUTY] = 100.0 * on / cycle_steps
            closed = 1.0 if position < state[ON_STEPS] else 0.0
            drive = closed
            position += 1
            if position >= cycle_steps:
                position = 0
            state[CYCLE_POSITION] = position
        if broken:
            drive = 0.0
            closed = 0.0
            state[DUTY] = 0.0
        if closed > 0.5 and state[SWITCH] < 0.5:
            state[SWITCHES] += 1.0
        state[SWITCH] = closed

        if clock % every == 0:
            base = rows * 5
            record[base] = clock * h
            record[base + 1] = setpoint
            record[base + 2] = display
            record[base + 3] = state[DUTY]
            record[base + 4] = closed
            rows += 1

        for i in range(n):
            flow[i] = 0.0
            if radiation[i] > 0.0:
                kelvin = x[i] + ambient_k
                flow[i] = -radiation[i] * (kelvin * kelvin * kelvin * kelvin - ambient_k4)
        slot = clock % (delay_steps + 1)
        delay[slot] = drive * plant[POWER]
        flow[heater] += delay[(slot + 1) % (delay_steps + 1)]
        for k in range(0, len(disturbance), 3):
            if disturbance[k] <= clock < disturbance[k + 1]:
                flow[sensed] -= disturbance[k + 2] * x[sensed]

        # next node temperatures: the products use the old x, so collect them behind the flows first
        for i in range(n):
            total = 0.0
            for j in range(n):
                total += transition[i * n + j] * x[j] + response[i * n + j] * flow[j]
            flow[n + i] = total
        before = x[sensed]
        for i in range(n):
            x[i] = flow[n + i]
        state[SENSOR] += plant[SENSOR_FRACTION] * (0.5 * (before + x[sensed]) - state[SENSOR])
        if plant[SENSOR_FRACTION] >= 1.0:
            state[SENSOR] = x[sensed]
        state[CLOCK] = clock + 1.0
    return rows
