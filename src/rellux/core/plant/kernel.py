"""The compiled simulation loop: plant, sensor, controller, alarms and time-proportioned actuator, one fixed step at a time.

Everything is flat arrays so the very same function also runs as plain Python on lists (the benchmark does).
Indices into the ``control`` and ``state`` arrays are named below; :mod:`rellux.core.plant.simulation` is the face to use.
"""

from math import nan

from ..compiled import compiled
from ..control.alarms import kernel as alarm_kernel
from ..control.alarms.kernel import ACKNOWLEDGED, ACTIVE, LATCHED, look
from ..control.settings import FULL_OUTPUT
from ..units import ABSOLUTE_ZERO_C

# control[]
MODE, OFF_AT, ON_AT, GAIN, TI, TD, FILTER_N, WEIGHT = 0, 1, 2, 3, 4, 5, 6, 7
OUT_LOW, OUT_HIGH, MANUAL, OFFSET, SAMPLE_STEPS, CYCLE_STEPS, MIN_ON_STEPS = 8, 9, 10, 11, 12, 13, 14
SETPOINT, AMBIENT, SENSOR_BROKEN, CYCLE_HALVES, STUCK = 15, 16, 17, 18, 19
SENSE, REST_STEPS, RUN_STEPS, ALIVE_AFTER_STEPS, ALIVE_STEPS = 20, 21, 22, 23, 24
WINDUP, TRACKED, WITHIN, RAMP = 25, 26, 27, 28
COOL_ON, COOL_OFF, SOFT_STEPS = 29, 30, 31
BESIDE, BESIDE_RISE = 32, 33
INNER_GAIN, INNER_TI, INNER_LOW, INNER_SPAN = 34, 35, 36, 37
COOL_REST_STEPS, COOL_RUN_STEPS = 38, 39
CONTROL_SIZE = 40
WINDUP_STOPS, WINDUP_TRACKS, WINDUP_LIMITS = 0.0, 1.0, 2.0
MODE_OFF, MODE_ON_OFF, MODE_PID, MODE_MANUAL = 0.0, 1.0, 2.0, 3.0

# plant[]
POWER, SENSOR_FRACTION, HEATER_NODE, SENSOR_NODE, STEP_S, DELAY_STEPS, HEATER_A = 0, 1, 2, 3, 4, 5, 6
COOLER, COOLANT, LATE_READING = 7, 8, 9
PLANT_SIZE = 10

# state[]
SENSOR, INTEGRAL, DERIVATIVE, LAST_PV, OUTPUT, CYCLE_POSITION, ON_STEPS, SWITCH, SWITCHES, CLOCK, DUTY, ON_S = range(12)
ALARM_SETPOINT, CUT, SINCE, DRIVEN, KEPT, WORKING = 12, 13, 14, 15, 16, 17
COOLING, COOLS_S, COOLINGS = 18, 19, 20
INNER_INTEGRAL, ASKED, HOTTEST = 21, 22, 23
COOL_CHANGED = 24
STATE_SIZE = 25

# what an alarm does, bit by bit
OUTPUT_OFF, OPENS_CONTACTOR = 1, 2


@compiled(fastmath={"contract"})
def run(
    steps,
    every,
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
    record,
    alarms,
    alarm_states,
    does,
    seen,
):
    """Advance ``steps`` steps in place; write every ``every``-th into ``record``; return the number of rows written.

    nodes: number of nodes n, unsigned when compiled (an index that cannot be negative is cheaper). transition, response:
    n·n row by row. radiation: W/K⁴ per node (n). disturbance: triples of first step, last step, extra loss from the
    sensor's node in W/K. x: node rises, then as much again of scratch (2 n). flow: scratch (n), zero. delay: ring buffer
    of heat, ``DELAY_STEPS + 1`` long. A time-proportioned output is on for whole half-cycles, of which a cycle has
    ``CYCLE_HALVES``; a step in which it opens gets just that share of the power. record: rows of (time s, set-point, display,
    output % in force, switch) flat; a time-proportioned output is in force from its cycle's start to its end. alarms, alarm_states:
    rows of the alarm machine (:mod:`rellux.core.control.alarms.kernel`), which look at every sample of the controller; does: what each
    does, as bits; seen: scratch of theirs. ``SENSE`` is 1 where the output heats, −1 where it cools; what is
    switched on and off stays off for ``REST_STEPS`` and on for ``RUN_STEPS`` at least, counted by ``SINCE`` from when it really came on or
    went off. A fire that was off for ``ALIVE_AFTER_STEPS`` (0: for as long as may be) is kept alight for ``ALIVE_STEPS``, unless the
    controller is off, the sensor is broken or an alarm has stopped it. A switch that is ``STUCK`` is closed whatever it is told; a
    contactor that an alarm opened stops it all the same. At full output, or none, the integral does as ``WINDUP`` says: ``TRACKED`` is the
    share of what the output lacks by which it is drawn back at each sample; farther than ``WITHIN`` from the set-point it stands still.
    With a ``RAMP``, °C a sample, control and its alarms go by a ``WORKING`` set-point that moves to the other no faster and begins at the
    display: where control begins, or the sensor is back (not a number before). A ``COOLER`` (W/K, from the sensor's node to a ``COOLANT``
    that is so much warmer than ambient) is on from ``COOL_ON`` above that set-point down to ``COOL_OFF`` above it, and nothing heats
    meanwhile; it is off while the controller is off, on hand, or blind, and goes on when an alarm stops the heat. Otherwise it is off for
    ``COOL_REST_STEPS`` and on for ``COOL_RUN_STEPS`` at least, counted from the step in which it ``COOL_CHANGED``. For ``SOFT_STEPS`` from
    the beginning, when the power came on, PID is let up to its highest output little by little. What lies ``BESIDE`` the sensor's node is
    joined with it by so many W/K, and ``BESIDE_RISE`` warmer than ambient. With an ``INNER_GAIN`` what PID gives is what it asks of a
    loop round the heater's node, ``ASKED`` °C: ``INNER_LOW`` at 0 %, ``INNER_SPAN`` more at 100 %. While that gives all or nothing PID
    integrates no further that way. ``HOTTEST``: of that node's rises. A ``LATE_READING`` is late by
    the delay, instead of the heat.
    """
    n = nodes
    h = plant[STEP_S]
    power = plant[POWER]
    heater = int(plant[HEATER_NODE])
    sensed = int(plant[SENSOR_NODE])
    fraction = plant[SENSOR_FRACTION]
    slots = int(plant[DELAY_STEPS]) + 1
    mode = control[MODE]
    off_at, on_at = control[OFF_AT], control[ON_AT]
    gain, integral_time, derivative_time = control[GAIN], control[TI], control[TD]
    filter_n, weight = control[FILTER_N], control[WEIGHT]
    out_low, out_high, manual = control[OUT_LOW], control[OUT_HIGH], control[MANUAL]
    offset, target, ambient = control[OFFSET], control[SETPOINT], control[AMBIENT]
    ramp, setpoint = control[RAMP], control[SETPOINT] if control[RAMP] <= 0.0 else state[WORKING]
    sample_steps = int(control[SAMPLE_STEPS])
    cycle_steps = int(control[CYCLE_STEPS])
    min_on_steps = control[MIN_ON_STEPS]
    halves = control[CYCLE_HALVES]
    broken = control[SENSOR_BROKEN] > 0.0
    windup, tracked, within = control[WINDUP], control[TRACKED], control[WITHIN]
    sample_s = sample_steps * h
    per_sample = 1.0 / sample_s
    derivative_share = sample_s / (derivative_time / filter_n + sample_s)
    integral_gain = 0.0
    if integral_time > 0.0:
        integral_gain = gain / integral_time * sample_s
    ambient_k = ambient - ABSOLUTE_ZERO_C
    ambient_k4 = ambient_k * ambient_k * ambient_k * ambient_k
    radiates = False
    for i in range(n):
        if radiation[i] > 0.0:
            radiates = True

    sensor, integral, derivative = state[SENSOR], state[INTEGRAL], state[DERIVATIVE]
    last_pv, output, duty = state[LAST_PV], state[OUTPUT], state[DUTY]
    position, on_steps = int(state[CYCLE_POSITION]), state[ON_STEPS]
    switch, switches = state[SWITCH], state[SWITCHES]
    clock = int(state[CLOCK])
    on_s = state[ON_S]
    n_alarms, cut, alarm_setpoint = len(alarms), int(state[CUT]), state[ALARM_SETPOINT]
    stuck = control[STUCK] > 0.0
    sense, rest_steps, run_steps, since = control[SENSE], control[REST_STEPS], control[RUN_STEPS], state[SINCE]
    works, kept = state[DRIVEN], state[KEPT]
    alive_after, alive = control[ALIVE_AFTER_STEPS], control[ALIVE_STEPS]
    soft_steps = control[SOFT_STEPS]
    beside, beside_rise = control[BESIDE], control[BESIDE_RISE]
    cooler, coolant, cool_on, cool_off = plant[COOLER], plant[COOLANT], control[COOL_ON], control[COOL_OFF]
    cooling, cools_s, coolings = state[COOLING], state[COOLS_S], state[COOLINGS]
    cool_changed, cool_rest, cool_run = state[COOL_CHANGED], control[COOL_REST_STEPS], control[COOL_RUN_STEPS]
    inner_gain, inner_ti, inner_low, inner_span = (
        control[INNER_GAIN],
        control[INNER_TI],
        control[INNER_LOW],
        control[INNER_SPAN],
    )
    inner_integral, asked, hottest = state[INNER_INTEGRAL], state[ASKED], state[HOTTEST]
    late_reading = plant[LATE_READING] > 0.5
    until_sample = (sample_steps - clock % sample_steps) % sample_steps
    until_record = (every - clock % every) % every
    slot = clock % slots
    now = n - n
    rows = 0
    for _ in range(steps):
        display = sensor + ambient + offset

        if until_sample == 0:
            until_sample = sample_steps
            if ramp > 0.0:
                if broken or mode in (MODE_OFF, MODE_MANUAL):
                    setpoint = nan
                else:
                    if setpoint != setpoint:
                        setpoint = display
                    setpoint += min(max(target - setpoint, -ramp), ramp)
            u = 0.0
            if broken or mode == MODE_OFF:
                u = 0.0
            elif mode == MODE_ON_OFF:
                u = output
                beyond = sense * (display - setpoint)
                if beyond >= off_at:
                    u = out_low
                elif beyond <= on_at:
                    u = out_high
                if works < 0.5 and u > 0.0 and since < rest_steps:
                    u = 0.0
                elif works > 0.5 and u <= 0.0 and since < run_steps:
                    u = out_high
            elif mode == MODE_PID:
                if derivative_time > 0.0:
                    slope = (display - last_pv) * per_sample
                    derivative += (slope - derivative) * derivative_share
                # set-point weighting is taken from ambient, so that it does not depend on the zero of the scale
                weighted = weight * (setpoint - ambient) + ambient
                wanted = gain * sense * (weighted - display - derivative_time * derivative) + integral
                error = sense * (setpoint - display)
                top = out_high
                if clock < soft_steps:
                    top = max(out_high * clock / soft_steps, out_low)
                u = min(max(wanted, out_low), top)
                pushing_out = (wanted > top and error > 0.0) or (wanted < out_low and error < 0.0)
                if inner_gain > 0.0:
                    pushing_out = (
                        pushing_out or (output >= FULL_OUTPUT and error > 0.0) or (output <= 0.0 and error < 0.0)
                    )
                if (within <= 0.0 or abs(error) <= within) and not (pushing_out and windup == WINDUP_STOPS):
                    integral += integral_gain * error
                if windup == WINDUP_TRACKS:
                    integral += tracked * (u - wanted)
                elif windup == WINDUP_LIMITS:
                    integral = min(max(integral, out_low), out_high)
                if inner_gain > 0.0:
                    asked = inner_low + 0.01 * u * inner_span
                    lacks = asked - x[now + heater] - ambient
                    given = inner_gain * lacks + inner_integral
                    u = min(max(given, 0.0), FULL_OUTPUT)
                    if (
                        inner_ti > 0.0
                        and not (given > FULL_OUTPUT and lacks > 0.0)
                        and not (given < 0.0 and lacks < 0.0)
                    ):
                        inner_integral += inner_gain / inner_ti * sample_s * lacks
            else:
                u = min(max(manual, out_low), out_high)
            if cooler > 0.0:
                past = display - setpoint
                cools, cool_since = cooling, clock - cool_changed
                if broken or mode in (MODE_OFF, MODE_MANUAL) or (past <= cool_off and cool_since >= cool_run):
                    cools = 0.0
                elif past >= cool_on and cool_since >= cool_rest:
                    cools = 1.0
                if cools != cooling:
                    coolings += cools
                    cooling, cool_changed = cools, clock + 0.0
                if cooling > 0.5:
                    u = 0.0
            output = u
            last_pv = display
            if n_alarms:
                seen[alarm_kernel.STEP_S] = sample_s if clock > 0 else 0.0
                seen[alarm_kernel.READING] = nan if broken else display
                seen[alarm_kernel.SETPOINT], seen[alarm_kernel.OUTPUT] = (
                    target if setpoint != setpoint else setpoint,
                    output,
                )
                seen[alarm_kernel.CURRENT] = plant[HEATER_A] if switch > 0.5 and not cut & OPENS_CONTACTOR else 0.0
                seen[alarm_kernel.SETPOINT_MOVED] = 1.0 if target != alarm_setpoint else 0.0
                alarm_setpoint = target
                look(alarms, alarm_states, seen)
                cut = 0
                for i in range(n_alarms):
                    stands = alarm_states[i, alarm_kernel.STATE]
                    if stands in (ACTIVE, ACKNOWLEDGED) or stands >= LATCHED:
                        cut |= does[i]
                if cut & OUTPUT_OFF:
                    output = 0.0
        until_sample -= 1

        if broken:
            drive, closed, duty = 0.0, 0.0, 0.0
        elif cycle_steps == 0 or mode == MODE_ON_OFF:
            drive = output * 0.01
            closed = 1.0 if output > 0.0 else 0.0
            duty = output
            position = 0
        else:
            if position == 0:
                on_steps = int(output * 0.01 * halves + 0.5) / halves * cycle_steps
                if on_steps < min_on_steps:
                    on_steps = 0.0
                duty = 100.0 * on_steps / cycle_steps
            drive = min(max(on_steps - position, 0.0), 1.0)
            closed = 1.0 if drive >= 0.5 or (position == 0 and on_steps > 0.0) else 0.0
            position += 1
            if position >= cycle_steps:
                position = 0
        if alive_after > 0.0:
            if drive <= 0.0 and works < 0.5 and since >= alive_after:
                kept = 1.0
            elif kept > 0.5 and works > 0.5 and since >= alive:
                kept = 0.0
            if broken or mode == MODE_OFF or cut:
                kept = 0.0
            if kept > 0.5:
                drive, closed = 1.0, 1.0
        if cooling > 0.5:  # a pulse that had begun ends too, and does not go on afterwards
            drive, closed, duty, on_steps = 0.0, 0.0, 0.0, 0.0
            cools_s += h
        if stuck:
            drive, closed = 1.0, 1.0
        if cut & OPENS_CONTACTOR:
            drive = 0.0
        on_s += drive * h
        since += 1.0
        if (drive > 0.5) != (works > 0.5):
            works, since = drive, 0.0
        if closed > 0.5 and switch < 0.5:
            switches += 1.0
        switch = closed

        if until_record == 0:
            until_record = every
            base = rows * 5
            record[base] = clock * h
            record[base + 1] = target
            record[base + 2] = display
            record[base + 3] = duty
            record[base + 4] = closed
            rows += 1
        until_record -= 1

        flow[heater] = 0.0  # the other nodes' flows stay zero unless they radiate
        flow[sensed] = 0.0
        if radiates:
            for i in range(n):
                kelvin = x[now + i] + ambient_k
                flow[i] = -radiation[i] * (kelvin * kelvin * kelvin * kelvin - ambient_k4)
        if late_reading:
            flow[heater] += drive * power
        else:
            delay[slot] = drive * power
            slot += 1
            if slot == slots:
                slot = 0
            flow[heater] += delay[slot]
        if cooling > 0.5:
            flow[sensed] -= cooler * (x[now + sensed] - coolant)
        flow[sensed] -= beside * (x[now + sensed] - beside_rise)
        for k in range(0, len(disturbance), 3):
            if disturbance[k] <= clock < disturbance[k + 1]:
                flow[sensed] -= disturbance[k + 2] * x[now + sensed]

        following = n - now  # the two halves of x take turns
        for i in range(n):
            stored = 0.0  # two sums, so that the processor need not wait for one to begin the other
            driven = 0.0
            for j in range(n):
                stored += transition[i * n + j] * x[now + j]
                driven += response[i * n + j] * flow[j]
            x[following + i] = stored + driven
        felt = x[following + sensed] if fraction >= 1.0 else 0.5 * (x[now + sensed] + x[following + sensed])
        if late_reading:
            delay[slot] = felt
            slot += 1
            if slot == slots:
                slot = 0
            felt = delay[slot]
        if fraction >= 1.0:
            sensor = felt
        else:
            sensor += fraction * (felt - sensor)
        hottest = max(hottest, x[following + heater])
        now = following
        clock += 1

    if now:
        for i in range(n):
            x[i] = x[n + i]

    state[SENSOR], state[INTEGRAL], state[DERIVATIVE] = sensor, integral, derivative
    state[LAST_PV], state[OUTPUT], state[DUTY] = last_pv, output, duty
    state[CYCLE_POSITION], state[ON_STEPS] = position, on_steps
    state[SWITCH], state[SWITCHES] = switch, switches
    state[CLOCK] = clock
    state[ON_S] = on_s
    state[SINCE], state[DRIVEN], state[KEPT] = since, works, kept
    state[CUT], state[ALARM_SETPOINT], state[WORKING] = cut, alarm_setpoint, setpoint
    state[COOLING], state[COOLS_S], state[COOLINGS] = cooling, cools_s, coolings
    state[COOL_CHANGED] = cool_changed
    state[INNER_INTEGRAL], state[ASKED], state[HOTTEST] = inner_integral, asked, hottest
    return rows
