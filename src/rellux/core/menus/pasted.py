"""Pages out of a list copied from a manual: a page a line, its code first; what it stands for guessed from its words.

A line in brackets, or one that ends in a colon, begins a group. Choices stand behind a colon or bar, separated by commas, each with what it
means behind an equals sign; a range is two numbers with dots, a dash or *to* between; *default* names what it is delivered with.
"""

import re
from dataclasses import dataclass, replace

from ..errors import refuse
from ..setup.dictionary import BY_NAME
from ..setup.dictionary.alarms import ALARM_NUMBERS
from .description import Counted, Page, PageChoice
from .problems import LONGEST_CODE

MADE_UP = ("0", "999")
"""A range where the list says none; it is told."""
MOST_TEXT = 40_000
"""Letters of a list, as much as a long chapter (our choice)."""
ALARM_WORDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("type", ("type", "kind", "mode", "function")),
    ("hysteresis_c", ("hysteresis", "differential", "deadband", "dead band")),
    ("delay_s", ("delay", "waits")),
    ("latch", ("latch", "hold")),
    ("standby", ("standby", "stand-by", "suppression")),
    ("contact", ("contact", "relay")),
    ("at_c", ("value", "set", "limit", "temperature", "at", "threshold")),
)
"""Words behind the number of an alarm."""
WORDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("input_type", ("input type", "sensor type", "type of sensor", "type of input")),
    ("display_unit", ("temperature unit", "unit", "degrees", "°c/°f", "celsius", "fahrenheit")),
    ("link_address", ("address", "station number", "slave id", "unit id")),
    ("link_baud", ("baud", "transmission speed", "communication speed")),
    ("link_parity", ("parity",)),
    ("link_stop_bits", ("stop bit",)),
    ("link_lost", ("link lost", "communication lost", "comms lost", "communication time-out")),
    ("write_enable", ("write enable", "may be written", "writing allowed")),
    ("protocol", ("protocol",)),
    *((f"alarm_{n}_{part}", tuple(f"alarm {n} {word}" for word in words)) for n in ALARM_NUMBERS for part, words in ALARM_WORDS),
    ("heater_break_a", ("heater break", "heater burn-out", "heater current", "heater failure")),
    ("loop_break_s", ("loop break", "loop alarm")),
    ("retransmission_low_c", ("retransmission low", "transmission low", "analogue output low", "analog output low")),
    ("retransmission_high_c", ("retransmission high", "transmission high", "analogue output high", "analog output high")),
    ("retransmission", ("retransmission", "retransmitted")),
    ("display_decimals", ("decimal",)),
    ("scale_low_c", ("scale low", "input low", "lower range", "range low", "zero of the range")),
    ("scale_high_c", ("scale high", "input high", "upper range", "range high", "full scale")),
    ("gain_correction", ("gain correction", "span correction", "slope")),
    ("filter_s", ("filter", "damping")),
    ("second_setpoint_c", ("second set", "sp2", "standby set", "stand-by set", "boost set")),
    ("start_setpoint_c", ("start-up set", "startup set", "power-on set")),
    ("after_power", ("after power", "power cut", "power return", "power failure", "start mode", "when power comes")),
    ("setpoint_source", ("remote", "set-point source", "setpoint source")),
    ("ramp_c_per_min", ("ramp",)),
    ("soft_start_s", ("soft start",)),
    ("idle_s", ("idle",)),
    ("output_low", ("output low", "minimum output", "least output", "low limit of output")),
    ("fan_run_on_s", ("run-on", "run on", "overrun")),
    ("fan_speed", ("fan speed",)),
    ("fan_above_c", ("fan",)),
    ("lock", ("lock", "access level", "key protection")),
    ("setpoint_high_c", ("set-point high", "setpoint high", "sp high", "high limit of set", "upper limit", "highest set", "upper set")),
    ("setpoint_low_c", ("set-point low", "setpoint low", "sp low", "low limit of set", "lower limit", "lowest set", "lower set")),
    ("sensor_failure_output", ("sensor fail", "sensor break", "sensor fault", "output on failure", "blind", "burn-out", "burnout")),
    ("output_high", ("output high", "output limit", "maximum output", "most output", "power limit", "max power")),
    ("minimum_off_s", ("minimum off", "least time off", "compressor delay", "rest time", "off delay")),
    ("minimum_on_s", ("minimum on", "least time on")),
    ("hysteresis_c", ("hysteresis", "differential", "dead band", "deadband")),
    ("proportional_band_c", ("proportional", "prop. band", "p band", "gain")),
    ("integral_time_s", ("integral", "reset time", "reset rate")),
    ("derivative_time_s", ("derivative", "rate time", "differential time")),
    ("period_s", ("control period", "cycle time", "cycle", "period")),
    ("offset_c", ("offset", "pv bias", "correction", "calibration shift", "shift")),
    ("mode", ("control mode", "control type", "kind of control", "algorithm", "on/off or pid")),
    ("action", ("heating or cooling", "heat/cool", "action", "direct/reverse", "output acts")),
    ("setpoint_c", ("set-point", "setpoint", "set point", "target")),
    ("input_type", ("sensor", "probe", "thermocouple", "input")),
)  # fmt: skip
"""Words of manuals for a parameter; the first that is found counts, narrow ones before wide ones (common practice, no source)."""
MEANS: dict[str, tuple[tuple[str, tuple[str, ...]], ...]] = {
    "display_unit": (("F", ("fahrenheit", "°f", "f")), ("C", ("celsius", "°c", "c"))),
    "mode": (("on_off", ("on/off", "on-off", "onoff", "thermostat", "two-point")), ("pid", ("pid",)), ("off", ("off", "none", "stopped"))),
    "alarm_type": (
        ("above_setpoint", ("above set", "deviation high", "high deviation", "upper deviation")),
        ("below_setpoint", ("below set", "deviation low", "low deviation", "lower deviation")),
        ("inside_band", ("inside", "inverse band")), ("outside_band", ("band", "outside")),
        ("high", ("high", "upper", "over")), ("low", ("low", "lower", "under")), ("off", ("off", "none", "not used")),
    ),
    "after_power": (("stand_by", ("standby", "stand-by", "stop", "off")), ("go_on", ("continue", "go on", "hot start", "before", "run"))),
    "lock": (("all", ("all", "everything", "nothing can")), ("setpoint", ("set-point", "setpoint")), ("none", ("none", "unlocked"))),
    "action": (("cooling", ("cool", "direct")), ("heating", ("heat", "reverse"))),
}  # fmt: skip
_RANGE = re.compile(r"(-?\d+(?:[.,]\d+)?)\s*(?:…|\.\.\.?|–|—|to|bis|-)\s*([-+−]?\d+(?:[.,]\d+)?)", re.IGNORECASE)
_DEFAULT = re.compile(r"\bdefault\s*[:=]?\s*(\S+)", re.IGNORECASE)
_HEAD = re.compile(r"^(?:\[(?P<a>.+)\]|(?P<b>[^|=…]+):)$")


@dataclass(frozen=True)
class PastedGroup:
    """A group as it was found; ``doubts``: lines nothing could be made of, and pages whose range had to be made up."""

    title: str
    pages: tuple[Page, ...]
    doubts: tuple[str, ...]


def pasted(text: str, taken: frozenset[str] = frozenset()) -> tuple[PastedGroup, ...]:
    """Groups with their pages; ``taken``: keys of pages that are there already. Raises ``Refused`` for nothing, or far too much.

    >>> (group,) = pasted("Hy  Hysteresis  0.1…20.0 default 1.0")
    >>> page = group.pages[0]
    >>> page.code, page.sets, page.low, page.high, page.decimals, page.default
    ('Hy', ('hysteresis_c',), 1, 200, 1, 10)
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if not lines:
        raise refuse("text", "there is nothing in it", "a page a line, its code first")
    if len(text) > MOST_TEXT:
        raise refuse("text", f"{len(text)} letters", f"up to {MOST_TEXT}")
    found: list[tuple[str, list[Page], list[str]]] = []
    used = set(taken)
    for line in lines:
        head = _HEAD.match(line)
        if head:
            found.append(((head["a"] or head["b"]).strip(), [], []))
            continue
        if not found:
            found.append(("", [], []))
        page = page_from(line)
        if page is None:
            found[-1][2].append(line)
            continue
        key = page.key
        while page.key in used:
            page = replace(page, key=f"{key}-{len(used)}")
        used.add(page.key)
        if not page.choices and not _RANGE.search(_DEFAULT.sub("", line)):
            found[-1][2].append(f"{page.code} says no range: {MADE_UP[0]}…{MADE_UP[1]} taken")
        found[-1][1].append(page)
    return tuple(PastedGroup(title, tuple(pages), tuple(doubts)) for title, pages, doubts in found)


def page_from(line: str) -> Page | None:
    """A page out of one line; ``None`` where there is no code before words."""
    parts = re.split(r"\t+|\s{2,}|\s*\|\s*", line.strip())
    if len(parts) == 1:
        parts = line.strip().split(None, 1)
    if len(parts) < 2 or len(parts[0]) > LONGEST_CODE:
        return None
    code, rest = parts[0], " ".join(parts[1:])
    words, _, listed = rest.partition(":")
    default = _DEFAULT.search(rest)
    plain = _DEFAULT.sub("", words).strip()
    span = _RANGE.search(_DEFAULT.sub("", rest))
    title = _RANGE.sub("", plain).strip(" ,;()[]")
    name = guess(title)
    sets = (name, name.replace("_at_", "_away_")) if name.startswith("alarm_") and name.endswith("_at_c") else (name,)
    made = Page(code, code, title, sets if name else ())
    choices = [c.strip() for c in _DEFAULT.sub("", listed).split(",") if c.strip()]
    if len(choices) > 1:
        return _with_choices(made, choices, default[1] if default else "")
    if name and BY_NAME[name].choices and not all(c.isdigit() for c, _ in BY_NAME[name].choices):
        made = replace(made, sets=())  # a number does not say which choice it is
    return _with_range(made, span, default[1] if default else "", name)


def guess(words: str) -> str:
    """The parameter that words of a manual mean, as its name; empty where none is likely.

    >>> guess("Upper limit of the set value"), guess("PV bias"), guess("Brightness")
    ('setpoint_high_c', 'offset_c', '')
    """
    low = words.lower()
    return next((name for name, said in WORDS if any(w in low for w in said)), "")


def _with_choices(page: Page, choices: list[str], default: str) -> Page:
    made = []
    for choice in choices:
        code, _, means = (part.strip() for part in choice.partition("="))
        made.append(PageChoice(code, means, (_value(page.sets[0], means or code),) if page.sets else ()))
    at = next((i for i, c in enumerate(made) if c.code.lower() == default.lower()), 0)
    return replace(page, choices=tuple(made), default=at)


def _value(name: str, words: str) -> str:
    """The value of a parameter that the words of a choice mean; empty where it is none."""
    low, choices = words.lower(), BY_NAME[name].choices
    for value, said in MEANS.get(re.sub(r"_\d_", "_", name), ()):
        if any(w == low or (len(w) > 1 and w in low) for w in said):
            return value
    exact = [v for v, _ in choices if v.lower() in re.split(r"[\s,()/]+", low)]
    return exact[0] if exact else ""


def _with_range(page: Page, span: re.Match[str] | None, default: str, name: str) -> Page:
    ends = [e.replace(",", ".").replace("−", "-") for e in span.groups()] if span else list(MADE_UP)
    decimals = max(len(e.partition(".")[2]) for e in ends)
    low, high = sorted(round(float(e) * 10**decimals) for e in ends)
    counted = {"temperature": Counted.TEMPERATURE, "temperature_difference": Counted.DIFFERENCE}
    kind = BY_NAME[name].kind if name else None
    try:
        at = round(float(default.rstrip(".;)").replace(",", ".")) * 10**decimals)
    except ValueError:
        at = low
    return replace(
        page, low=low, high=high, decimals=decimals, default=min(max(at, low), high),
        counted=counted.get(kind.value if kind else "", Counted.PLAIN),
    )  # fmt: skip
