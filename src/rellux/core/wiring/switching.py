"""The position somebody puts a circuit in: the controller's output, alarm and limiter, hand-operated parts, the supply."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Switching:
    """``operated``: names of switches, buttons, selectors, cut-outs and breakers that are in their other position."""

    output_on: bool = False
    limit_tripped: bool = False
    alarm_on: bool = False
    operated: frozenset[str] = frozenset()
    power: bool = True


OFF, ON, TRIPPED = Switching(), Switching(output_on=True), Switching(output_on=True, limit_tripped=True)
