"""Heating calculators that need no rig."""

from dataclasses import dataclass, field

from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.heating.banks import Bank, Load, Network, Solved, solve
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply


@dataclass(frozen=True)
class BankInput:
    """Equal elements as a bank on a supply; ``lost`` supply terminals and ``failed`` (open) elements are faults."""

    network: Network
    supply_v: float
    bank: Bank
    count: int
    power_w: float
    voltage_v: float
    lost: list[str] = field(default_factory=list)
    failed: list[int] = field(default_factory=list)


class ElementBank(APIView):
    @endpoint("solveBank", Solved, BankInput)
    def post(self, request: Request) -> Response:
        g = read(request, BankInput)
        load = Load(g.network, g.supply_v, g.bank, g.count, g.power_w, g.voltage_v, tuple(g.lost), tuple(g.failed))
        return reply(solve(load))
