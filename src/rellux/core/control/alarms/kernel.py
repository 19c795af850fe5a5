"""The alarm machine, compiled: one look at the process moves alarms on. The only place in which it stands; planner, simulation,
recorder and log checker all call :func:`look`. :mod:`.alarm` is the face to use, :mod:`.table` shows it as a truth table.

An alarm is a row of settings and a row of state; what is seen is an array too. Indices are named below.
"""

from math import inf, nan

from ...compiled import compiled

# settings[]
KIND, VALUE, HYSTERESIS, ON_DELAY, OFF_DELAY, LATCHING, STANDBY, WINDOW, MOVE, GAP = range(10)
SETTINGS_SIZE = 10

# state[]
STATE, CONDITION, TIMER, MISSING, REFERENCE, OUTPUT_FOR, WAS_ON, VALID, SLOTS, SLOT_DUE = range(10)
RING = 10
"""Where the ring of a rate begins: pairs of (valid time, reading)."""
RING_LENGTH = 16
STATE_SIZE = RING + 2 * RING_LENGTH

# seen[]
STEP_S, READING, SETPOINT, OUTPUT, SECOND, CURRENT, FLAG, ACKNOWLEDGE, RESET, SETPOINT_MOVED = range(10)
SEEN_SIZE = 10

NORMAL, HELD, DELAYING, ACTIVE, ACKNOWLEDGED, RETURNED, LATCHED, LATCHED_ACKNOWLEDGED = range(8)
HIGH, LOW, ABOVE_SETPOINT, BELOW_SETPOINT, OUTSIDE_BAND, INSIDE_BAND, DISAGREE, EVENT = range(8)
SENSOR_BREAK, RISING, FALLING, LOOP_BREAK, HEATER_BREAK, CURRENT_WHILE_OFF, RISING_WHILE_OFF = range(8, 15)
NO_STANDBY, FIRST_TIME, EVERY_SETPOINT = range(3)
FULL, NOTHING = 99.5, 0.5
"""An output counts as full from here, and as off up to here, %."""
STANDS = inf
"""Nothing can be told now, and that is as it should be: what was found stands."""
TINY = 1e-9


@compiled(forceinline=True)
def look(settings, state, seen):
    """One look of n alarms: settings (n, SETTINGS_SIZE), state (n, STATE_SIZE); ``seen`` holds what is read ``STEP_S`` seconds after the
    look before. Afterwards ``state[i, STATE]`` is where each stands.

    Each kind has a measure in which more is worse; NaN where it is missing, ``STANDS`` where it is not told now. Delays run on valid
    time: while what is watched is missing, condition and delays stand still. Missing for longer than ``GAP``, an alarm is active at
    once: a gap is never normal.

    It is one long function because handing arrays from one compiled function to another costs more than all of its arithmetic.
    """
    y, setpoint, output = seen[READING], seen[SETPOINT], seen[OUTPUT]
    for i in range(len(settings)):
        kind, limit, step = int(settings[i, KIND]), settings[i, VALUE], seen[STEP_S]
        was = int(state[i, STATE])
        if seen[SETPOINT_MOVED] > 0.0 and settings[i, STANDBY] == EVERY_SETPOINT and (was in (NORMAL, DELAYING)):
            was = HELD
            state[i, STATE], state[i, CONDITION] = HELD, 1.0
        inclusive = True
        if kind == HIGH:
            value = y
        elif kind == LOW:
            value, limit = -y, -limit
        elif kind == ABOVE_SETPOINT:
            value = y - setpoint
        elif kind == BELOW_SETPOINT:
            value = setpoint - y
        elif kind == OUTSIDE_BAND:
            value, inclusive = abs(y - setpoint), False
        elif kind == INSIDE_BAND:
            value, limit, inclusive = -abs(y - setpoint), -limit, False
        elif kind == DISAGREE:
            value = abs(y - seen[SECOND])
        elif kind == EVENT:
            value = seen[FLAG]
        elif kind == SENSOR_BREAK:
            value = -inf if y == y else nan
        elif kind in (RISING, FALLING):  # between now and the newest reading at least one window old
            value = nan
            if y == y:
                if state[i, MISSING] > 0.0:  # anew after every gap
                    state[i, SLOTS], state[i, SLOT_DUE] = 0.0, 0.0
                state[i, VALID] += step
                slots, window, now_s = int(state[i, SLOTS]), settings[i, WINDOW], state[i, VALID]
                at = max(slots - RING_LENGTH, 0)
                while at + 1 < slots and now_s - state[i, RING + 2 * ((at + 1) % RING_LENGTH)] >= window:
                    at += 1
                value, place = 0.0, RING + 2 * (at % RING_LENGTH)
                if slots > 0 and now_s - state[i, place] >= window:
                    value = (y - state[i, place + 1]) / max(now_s - state[i, place], TINY) * 60.0
                if kind == FALLING:
                    value = -value
                state[i, SLOT_DUE] -= step
                if state[i, SLOT_DUE] <= 0.0:
                    place = RING + 2 * (slots % RING_LENGTH)
                    state[i, place], state[i, place + 1] = now_s, y
                    state[i, SLOTS] = slots + 1
                    state[i, SLOT_DUE] = max(state[i, SLOT_DUE] + window / (RING_LENGTH - 1), 0.0)
        elif output != output:
            value = nan
        elif kind == LOOP_BREAK:  # how long it has been full while the reading did not rise by ``MOVE``
            value = nan
            if y == y:
                full = output >= FULL
                if not full or state[i, WAS_ON] <= 0.0 or y - state[i, REFERENCE] >= settings[i, MOVE]:
                    state[i, REFERENCE], state[i, OUTPUT_FOR] = y, 0.0
                    state[i, WAS_ON] = 1.0 if full else -1.0
                else:
                    state[i, OUTPUT_FOR] += step
                value = state[i, OUTPUT_FOR]
        else:
            on = output > NOTHING
            if state[i, WAS_ON] != 0.0 and on == (state[i, WAS_ON] > 0.0):
                state[i, OUTPUT_FOR] += step
            else:
                state[i, OUTPUT_FOR] = 0.0
                state[i, WAS_ON] = 1.0 if on else -1.0
            told = state[i, OUTPUT_FOR] >= settings[i, WINDOW]
            value = STANDS
            if kind == HEATER_BREAK:
                limit, inclusive = -limit, False
                if on and told:
                    value = -seen[CURRENT]
            elif kind == CURRENT_WHILE_OFF:
                if told and not on:
                    value = seen[CURRENT]
            elif y != y:
                value = nan
            elif on or not told:
                state[i, REFERENCE] = y
            else:  # from the lowest since the stored heat has had its time
                state[i, REFERENCE] = min(state[i, REFERENCE], y)
                value = y - state[i, REFERENCE]

        condition, broken = state[i, CONDITION] > 0.0, False
        if kind == SENSOR_BREAK and value == -inf:
            state[i, MISSING], condition = 0.0, False
        elif value == STANDS:
            step = 0.0
        elif value == value:
            state[i, MISSING] = 0.0
            beyond = value >= limit if inclusive else value > limit
            condition = beyond or (condition and value >= limit - settings[i, HYSTERESIS])
        else:
            state[i, MISSING] += step
            step = 0.0
            broken = state[i, MISSING] > settings[i, GAP]
            condition = condition or broken
        state[i, CONDITION] = 1.0 if condition else 0.0
        if was == NORMAL and not condition:
            continue

        acting = was in (ACTIVE, ACKNOWLEDGED)
        timer = state[
            i, TIMER
        ]  # how long condition and state have disagreed, from 0 at the first look; -1 while they do not
        timer = -1.0 if condition == acting else timer + step if timer >= 0.0 else 0.0
        now = _next(
            was,
            condition,
            broken,
            timer >= (settings[i, OFF_DELAY] if acting else settings[i, ON_DELAY]),
            settings[i, LATCHING] > 0.0,
            seen[ACKNOWLEDGE] > 0.0,
            seen[RESET] > 0.0,
        )
        if (now in (ACTIVE, ACKNOWLEDGED)) != acting or now == HELD:
            timer = -1.0
        state[i, STATE], state[i, TIMER] = now, timer


@compiled(forceinline=True)
def _next(was, condition, broken, over, latching, acknowledged, reset):
    """The machine: where an alarm goes from where it stands. ``broken``: no reading for too long, which waits for nothing; ``over``: the
    delay that runs is over; ``acknowledged``, ``reset``: what a person does."""
    if was in (LATCHED, LATCHED_ACKNOWLEDGED):
        if condition:
            return ACTIVE
        if reset:
            return NORMAL
        return LATCHED_ACKNOWLEDGED if acknowledged else was
    if was in (ACTIVE, ACKNOWLEDGED):
        known = was == ACKNOWLEDGED or acknowledged
        if condition or not over:
            return ACKNOWLEDGED if known else ACTIVE
        if latching:
            return LATCHED_ACKNOWLEDGED if known else LATCHED
        return NORMAL if known else RETURNED
    if broken:
        return ACTIVE
    if was == HELD:
        return HELD if condition else NORMAL
    if condition and over:
        return ACTIVE
    if was == RETURNED and not acknowledged:
        return RETURNED
    return DELAYING if condition else NORMAL
