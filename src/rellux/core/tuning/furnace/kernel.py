"""What a network of element, chamber, lining and load shows under a recorded output: one compiled pass."""

import numpy as np

from ...compiled import compiled
from ...units import ABSOLUTE_ZERO_C


@compiled()
def shown_into(out, transition, response, power_w, x, heater, sensor, radiates, room_c, sensor_keeps):
    """The sensor's rise above ``room_c`` after every step, into ``out`` (n). ``transition``, ``response`` (k, k): one exact step of the
    conductances; ``power_w`` (n): the heat of each step; ``x`` (k): where it begins, changed in place; ``radiates``: W/K⁴ of the sensor's
    node, taken at the middle of the step as its last one foretells it, of second order; ``sensor_keeps``: e^(−h/lag) of the sensor."""
    k = len(x)
    seen, moved = x[sensor], 0.0
    room = room_c - ABSOLUTE_ZERO_C
    still = room**4
    flow, now = np.zeros(k), np.empty(k)
    for i in range(len(power_w)):
        middle = x[sensor] + 0.5 * moved
        begins = x[sensor]
        flow[:] = 0.0
        flow[heater] = power_w[i]
        flow[sensor] -= radiates * ((middle + room) ** 4 - still)
        for a in range(k):
            total = 0.0
            for b in range(k):
                total += transition[a, b] * x[b] + response[a, b] * flow[b]
            now[a] = total
        x[:] = now
        moved = x[sensor] - begins
        # it follows what its node does, straight over a step
        seen = x[sensor] + (seen - begins) * sensor_keeps
        if sensor_keeps > 0.0:
            seen -= moved * (1.0 - sensor_keeps) / -np.log(sensor_keeps)
        out[i] = seen
