"""What the heading of a column says, in the common languages of Europe: tokens and what they hint at."""

import re
import unicodedata
from dataclasses import dataclass, field

from .values import unit_of

SETPOINT = (
    "sp", "wsp", "tsp", "sv", "set", "setp*", "soll*", "target*", "desired", "consign*", "gewenst*", "doel*", "zadan*", "cil*",
    "borv*", "tavoite*", "impost*", "nastav*", "wunsch*", "objetivo", "indstil*",
)  # fmt: skip
TEMPERATURE = (
    "pv", "ist", "istw*", "istt*", "actual", "measured", "reading", "tc", "thermocouple", "messwert*", "mesure*", "medid*", "misur*",
    "gemeten", "mierzon*", "process",
)  # fmt: skip
DEGREES = ("temp", "temps", "temperat*", "lampotila", "teplota", "isttemp*", "solltemp*", "ofentemp*")
PLACE = (
    "value", "wert", "valor", "valore", "waarde", "probe", "sensor", "chamber", "oven", "kiln", "furnace", "ofen", "four", "kammer",
    "load", "plate", "tip", "inside", "inner", "innen", "horno", "forno", "fuhler", "sonde", "t", "work", "part",
)  # fmt: skip
OTHER = (
    "ambient*", "room", "outer", "outside", "outlet", "inlet", "external", "board", "box", "case", "enclosure", "cj", "cjc", "cold",
    "junction", "limit*", "alarm*", "max", "maximum", "avg", "mean", "std", "err", "error", "deviation", "dev", "diff*", "delta",
    "ramp", "rate", "humidity", "rh", "pressure", "battery", "vbat", "umgebung*", "aussen*", "raum*", "kaltstelle*", "feuchte*",
    "gehause*", "exter*", "ambiant*", "fehler*", "abweich*", "heatsink", "sink", "wall", "surface", "offset", "hyst*", "gain",
    "band", "zone2", "backup", "spare", "reference", "ref", "kp", "ki", "kd", "step", "segment", "programme", "program",
)  # fmt: skip
OUTPUT = (
    "out", "output*", "op", "duty*", "pwm", "power", "pwr", "level", "drive", "cv", "co", "demand", "leist*", "heizleist*", "stellgr*",
    "stellw*", "ausgang*", "puissan*", "sortie*", "salida*", "potenz*", "potencia", "uscita*", "vermog*", "uitgang*", "effekt*",
    "teho*", "wyjs*", "moc", "vykon*", "vystup*", "saida",
)  # fmt: skip
STATE = (
    "state", "status", "switch", "relay*", "ssr", "heater*", "heating", "heat", "contactor", "relais*", "rele*", "heizung*", "heizer*",
    "schalter*", "zustand*", "chauff*", "etat", "estado", "stato", "riscald*", "verwarm*", "toestand", "stav", "topeni", "element*",
    "coil", "calefac*", "grzal*", "varme*", "onoff", "schutz*",
)  # fmt: skip
ELECTRICAL = (
    "current", "amps", "amp", "ampere*", "strom*", "courant*", "corrient*", "corrent*", "stroom", "prad", "proud", "ma", "volt*",
    "voltage", "spannung*", "tension*", "energy", "energie*", "watt*", "kwh", "mains",
)  # fmt: skip
TIME = (
    "time*", "timestamp*", "stamp", "zeit*", "uhrzeit", "elapsed", "heure*", "hora*", "tiempo*", "tempo", "ora", "tijd*", "czas*",
    "tid", "klokke*", "aika*", "cas", "millis", "epoch", "unix", "datetime", "temps", "when", "clock", "runtime", "laufzeit",
)  # fmt: skip
DATE = ("date*", "datum*", "fecha*", "data", "dato", "day", "tag", "jour", "dia", "pvm")
INDEX = (
    "no",
    "nr",
    "n",
    "index",
    "idx",
    "sample*",
    "row",
    "id",
    "record*",
    "count*",
    "lfd",
    "num",
    "number",
    "nummer",
    "scan",
    "line",
)
LIMITER = ("limit*", "overtemp*", "begrenz*", "lim")
LOAD = ("load", "part", "work", "core", "piece", "charge", "mould", "mold", "teil", "werkst*", "kern")
AIR = ("ambient*", "room", "umgebung*", "raum*", "ambiant*", "air", "luft", "aria")
JUNCTION = ("cj", "cjc", "junction", "kaltstelle*")
DOOR = ("door", "lid", "tur", "porte", "deckel", "porta", "puerta")
COOLER = ("cooling", "cooler", "cool", "coolant", "kuhl*", "refroid*", "enfri*", "raffredd*", "koel*", "chlad*")
HEATER = ("heater*", "heizer*", "heizung*", "element*", "chauff*", "riscald*", "verwarm*")
ZONE = ("zone*", "zona*", "zon")
_LISTS = {
    "limiter": LIMITER, "load": LOAD, "air": AIR, "cold_junction": JUNCTION, "door": DOOR, "cooler": COOLER, "heater": HEATER,
    "zone": ZONE,
    "setpoint": SETPOINT, "temperature": TEMPERATURE, "degrees": DEGREES, "place": PLACE, "other": OTHER, "output": OUTPUT, "state": STATE,
    "electrical": ELECTRICAL, "time": TIME, "date": DATE, "index": INDEX,
}  # fmt: skip
"""A word with * stands for every word that begins so."""
_EXACT = {hint: frozenset(w for w in words if w[-1] != "*") for hint, words in _LISTS.items()}
_STEMS = {hint: tuple(w[:-1] for w in words if w[-1] == "*") for hint, words in _LISTS.items()}
_PARTS = re.compile(r"[a-z]+\d*|\d+|%|#")
_CAMEL = re.compile(r"(?<=[a-z])(?=[A-Z])")
_BRACKETS = re.compile(r"[(\[{/]\s*([^)\]}/]+?)\s*[)\]}]?\s*$")


@dataclass(frozen=True)
class Heading:
    """What a heading hints at (keys of the lists above) and the unit it names (a key of ``UNITS``, or "")."""

    name: str
    hints: frozenset[str] = field(default_factory=frozenset)
    unit: str = ""


def plain(text: str) -> str:
    """Without accents and in small letters: "Öl" is "ol"."""
    parted = unicodedata.normalize("NFKD", _CAMEL.sub(" ", text).replace("ß", "ss").replace("ø", "o").replace("ł", "l"))
    return "".join(c for c in parted if not unicodedata.combining(c)).lower()


def heading(name: str, units_cell: str = "") -> Heading:
    """Read a heading; ``units_cell`` is what a row of units says below it."""
    tokens = _PARTS.findall(
        plain(name).replace("set point", "setpoint").replace("set-point", "setpoint").replace("on/off", "onoff")
    )
    hints = {
        hint
        for hint in _LISTS
        for token in tokens
        if token in _EXACT[hint]
        or token.rstrip("0123456789") in _EXACT[hint]
        or (_STEMS[hint] and token.startswith(_STEMS[hint]))
    }
    unit = unit_of(units_cell) or _bracketed(name) or _tail(name, hints)
    if unit in ("A", "V", "W"):
        hints.add("electrical")
    if unit == "%" and "other" not in hints:
        hints.add("output")
    if unit in ("C", "F", "K"):
        hints.add("degrees")
    return Heading(name, frozenset(hints), unit)


def _bracketed(name: str) -> str:
    """The unit in brackets or behind a stroke: "Oven [°F]", "t/min"."""
    found = _BRACKETS.search(name)
    return unit_of(found[1]) if found else ""


def _tail(name: str, hints: set[str]) -> str:
    """The unit as last word, "temp_f", "Oven temp °C", "elapsedMin"; one letter only where the words before it can have that unit."""
    name = name.strip()
    head, _, last = max((name.rpartition(mark) for mark in "_ .,-"), key=lambda parted: len(parted[0]))
    camel = _CAMEL.split(name)
    if not head and len(camel) > 1:
        last = camel[-1]
    unit = unit_of(last)
    fits = {
        "A": {"electrical"}, "V": {"electrical"}, "W": {"electrical", "output"}, "s": {"time", "place"}, "h": {"time", "place"},
        "K": {"degrees", "temperature", "setpoint", "place"}, "C": _LISTS.keys(), "F": _LISTS.keys(),
    }  # fmt: skip
    if unit and len(last) == 1 and last.isalpha() and (name == last or not hints & set(fits.get(unit, ()))):
        return ""
    if name == last and unit in ("A", "V", "W", "C", "F", "K"):
        return "" if len(last) < 3 and "°" not in last else unit
    return unit or ("C" if "°c" in name.lower() else "F" if "°f" in name.lower() else "")
