"""The derivation that travels with a figure, from the formula to the screen."""

from dataclasses import KW_ONLY, dataclass

from .units import UNIT, Kind


@dataclass(frozen=True)
class Input:
    """One quantity a figure was computed from."""

    name: str
    value: float
    kind: Kind
    symbol: str = ""
    source: str = ""


@dataclass(frozen=True)
class Figure:
    """A computed value together with how it was found.

    ``value`` is in the core's unit of ``kind``; ``low``/``high`` give an interval where one is known (95 % unless
    ``reason`` says otherwise). ``formula`` is written in the symbols of ``inputs``. ``school`` names the practice
    followed where practitioners differ.
    """

    name: str
    value: float
    kind: Kind
    _: KW_ONLY
    formula: str = ""
    inputs: tuple[Input, ...] = ()
    reason: str = ""
    source: str = ""
    school: str = ""
    symbol: str = ""
    low: float | None = None
    high: float | None = None

    @property
    def unit(self) -> str:
        return UNIT[self.kind]

    def as_input(self, symbol: str = "") -> Input:
        """This figure as an input of the next one."""
        return Input(self.name, self.value, self.kind, symbol or self.symbol, "computed")
