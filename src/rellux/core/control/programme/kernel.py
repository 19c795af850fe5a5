"""The programme machine, compiled: time passes and a reading is seen, the set-point moves on. The only place in which it stands; the
planner and whoever writes set-points to a controller call :func:`move`. :mod:`.programme` is the face to use.

Segments are rows, loops already unrolled; the state is a row too. Indices are named below.
"""

from math import isnan

from ...compiled import compiled

# segments[]
KIND, TARGET, RATE, TIME, BELOW, ABOVE = range(6)
"""Target in °C, rate in °C/s, time in s; the clock waits while the set-point is more than ``BELOW`` above the reading, or the reading
more than ``ABOVE`` above the set-point, °C (0: it does not)."""
SEGMENT_SIZE = 6
RAMP_RATE, RAMP_TIME, SOAK, STEP, WAIT_PERSON, WAIT_ABOVE, WAIT_BELOW, END_HOLD, END_OFF = range(9)

# state[]
SEGMENT, ELAPSED, SETPOINT, FROM, HELD, PHASE, RELEASED = range(7)
"""Which segment, how much of it is done, s; the set-point, what it was when the segment began, °C; how long the clock has waited in
all, s; where it stands; whether a person said to go on."""
STATE_SIZE = 7
RUNNING, HOLDING, WAITING, ENDED, OFF = range(5)
TINY_S = 1e-9


@compiled()
def move(segments, state, step_s, reading):
    """Let ``step_s`` seconds pass with the reading as it is, °C (NaN: there is none). Returns the set-point, °C.

    segments: (n, SEGMENT_SIZE); state: (STATE_SIZE). What is left of the time when a segment ends belongs to the next one, so nothing
    adds up. A missing reading is in no band: the clock waits. Steps take no time; their set-point is in force at once.
    """
    left = step_s
    n = len(segments)
    while True:
        i = int(state[SEGMENT])
        if i >= n:
            state[PHASE] = ENDED
            return state[SETPOINT]
        kind = int(segments[i, KIND])
        target = segments[i, TARGET]
        if kind >= END_HOLD:
            state[PHASE] = ENDED if kind == END_HOLD else OFF
            return state[SETPOINT]
        done = False
        if kind == STEP:
            state[SETPOINT] = target
            done = True
        elif kind >= WAIT_PERSON:
            done = (
                (kind == WAIT_PERSON and state[RELEASED] > 0.0)
                or (kind == WAIT_ABOVE and reading >= target)
                or (kind == WAIT_BELOW and reading <= target)
            )
            if not done:
                state[PHASE] = WAITING
                state[HELD] += left
                return state[SETPOINT]
            state[RELEASED] = 0.0
        else:
            below, above = segments[i, BELOW], segments[i, ABOVE]
            behind = state[SETPOINT] - reading
            if (below > 0.0 or above > 0.0) and (
                isnan(behind) or (below > 0.0 and behind > below) or (above > 0.0 and -behind > above)
            ):
                state[PHASE] = HOLDING
                state[HELD] += left
                return state[SETPOINT]
            start = state[FROM]
            needed = segments[i, TIME]
            if kind == RAMP_RATE:
                needed = abs(target - start) / segments[i, RATE]
            taken = min(left, needed - state[ELAPSED])
            state[ELAPSED] += taken
            left -= taken
            state[PHASE] = RUNNING
            done = state[ELAPSED] >= needed - TINY_S
            if kind != SOAK:
                state[SETPOINT] = target if done else start + (target - start) * (state[ELAPSED] / needed)
        if done:
            state[SEGMENT] = i + 1
            state[ELAPSED] = 0.0
            state[FROM] = state[SETPOINT]
        elif left <= 0.0:
            return state[SETPOINT]


@compiled()
def through(segments, state, time_s, reading, setpoint, start_s, moved, planned, at, held):
    """Go through a recorded series (n rows, s and °C) from ``start_s`` on. Where it waits for a person, a recorded set-point that moves by
    more than ``moved`` says that one came. ``planned`` (°C), ``at`` (row of the programme) and ``held`` (s waited) are filled until its
    end, and left as they are elsewhere."""
    before = start_s
    for i in range(len(time_s)):
        if time_s[i] < start_s:
            continue
        was = state[HELD]
        planned[i] = move(segments, state, max(time_s[i] - before, 0.0), reading[i])
        if state[PHASE] == WAITING and i > 0 and abs(setpoint[i] - setpoint[i - 1]) > moved:
            state[RELEASED] = 1.0
        at[i] = int(state[SEGMENT])
        held[i] = state[HELD] - was
        before = time_s[i]
        if state[PHASE] >= ENDED:
            return
