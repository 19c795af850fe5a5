"""A register map as a file: JSON, every field checked, problems named by the row and field. See docs/register-maps.md."""

from collections.abc import Mapping
from dataclasses import fields
from math import isfinite
from typing import Any

from rellux.core.calibration.schools import OffsetSchool
from rellux.core.errors import Problem, Refused, refuse_all
from rellux.core.runs.channels import OF_SOURCE, offered
from rellux.core.setup.dictionary import BY_NAME

from .register_map import RegisterMap, SafeOff
from .registers import HIGHEST_ADDRESS, LIVE, ORDERS, Coding, Register, RegisterTable, place_of

FORMAT, VERSION = "rellux-register-map", 1
MOST_REGISTERS, MOST_GAP, LONGEST_WORDS = 400, 120, 60
MOST_CHOICES, MOST_COUNT = 64, 2**32
NAMES = (*LIVE, *BY_NAME)
_KINDS: dict[str, tuple[type, ...]] = {
    "scale": (int, float),
    "low": (int, float),
    "high": (int, float),
    "bit": (int,),
    "endurance": (int,),
    "writable": (bool,),
    "stored": (bool,),
    "keeps": (str,),
    "unit": (str,),
    "unit_from": (str,),
    "decimals_from": (str,),
    "order": (str,),
}
_LISTS = {"choices": str, "codes": int, "no_value": int}


def plain(found: RegisterMap) -> dict[str, Any]:
    """A map as plain data, only what differs from the usual."""
    rows = []
    for r in found.registers:
        row: dict[str, Any] = {"name": r.name, "address": r.address, "table": r.table.value, "coding": str(r.coding)}
        for f in fields(Register):
            value = getattr(r, f.name)
            if f.name not in ("name", "address", "table", "coding", "words") and value != f.default:
                row[f.name] = list(value) if isinstance(value, tuple) else value
        rows.append(row)
    made: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "title": found.title,
        "registers": rows,
        "gap": found.gap,
    }
    if found.link_loss:
        made["link_loss"] = found.link_loss
    if found.offset_school:
        made["offset_school"] = found.offset_school.value
    if found.safe_off:
        made["safe_off"] = {
            "writes": [list(w) for w in found.safe_off.writes],
            "off_when": [list(w) for w in found.safe_off.off_when],
        }
    return made


def parse(data: Any, key: str) -> RegisterMap:
    """A map from plain data. Raises ``Refused`` with a problem for everything that is not right."""
    problems: list[Problem] = []
    if not isinstance(data, Mapping):
        raise Refused(Problem("map", "this is no register map", "an object with title and registers"))
    if data.get("format", FORMAT) != FORMAT or data.get("version", VERSION) != VERSION:
        problems.append(Problem("format", "this is another format or version", f"{FORMAT}, version {VERSION}"))
    known = {"format", "version", "title", "registers", "gap", "link_loss", "offset_school", "safe_off"}
    problems += [
        Problem(str(k), "is not part of a register map", ", ".join(sorted(known))) for k in data if k not in known
    ]
    title = _text(data.get("title"), "title", problems)
    rows = data.get("registers")
    if not isinstance(rows, list) or not 1 <= len(rows) <= MOST_REGISTERS:
        problems.append(Problem("registers", "a list of registers", f"1…{MOST_REGISTERS}"))
        rows = []
    registers = [_register(row, f"registers[{i}].", problems) for i, row in enumerate(rows)]
    good = [r for r in registers if r is not None]
    _together(registers, problems)
    gap = data.get("gap", 0)
    if isinstance(gap, bool) or not isinstance(gap, int) or not 0 <= gap <= MOST_GAP:
        problems.append(Problem("gap", "registers nobody asked for, read along", f"0…{MOST_GAP}"))
    school = data.get("offset_school")
    if school is not None and school not in [s.value for s in OffsetSchool]:
        problems.append(Problem("offset_school", f"{school!r} is unknown", ", ".join(s.value for s in OffsetSchool)))
    loss = _text(data.get("link_loss", ""), "link_loss", problems, most=200, may_be_empty=True)
    safe_off = _safe_off(data.get("safe_off"), problems)
    refuse_all(problems)
    return RegisterMap(key, title, tuple(good), safe_off, OffsetSchool(school) if school else None, int(gap), loss)


def _text(value: Any, name: str, problems: list[Problem], most: int = LONGEST_WORDS, may_be_empty: bool = False) -> str:
    if not isinstance(value, str) or len(value) > most or (not value.strip() and not may_be_empty):
        problems.append(Problem(name, "a few words", f"up to {most} characters"))
        return ""
    return value


def _register(row: Any, at: str, problems: list[Problem]) -> Register | None:
    if not isinstance(row, Mapping):
        problems.append(Problem(at.rstrip("."), "not a register", "an object with name and address"))
        return None
    before = len(problems)
    known = {f.name for f in fields(Register)} - {"words"}
    problems += [
        Problem(f"{at}{k}", "is not part of a register", ", ".join(sorted(known))) for k in row if k not in known
    ]
    name = row.get("name")
    if name not in NAMES:
        problems.append(Problem(f"{at}name", f"{name!r} is no value Rellux knows", ", ".join(NAMES)))
    table, address = _place(row, at, problems)
    coding = row.get("coding")
    bits = table in (RegisterTable.COIL, RegisterTable.DISCRETE)
    codings = [Coding.BIT.value] if bits else [c.value for c in Coding]
    if coding is not None and coding not in codings:
        problems.append(Problem(f"{at}coding", f"{coding!r} cannot be in this table", ", ".join(codings)))
    given: dict[str, Any] = {}
    for key, kinds in _KINDS.items():
        value = row.get(key)
        if value is None:
            continue
        if not isinstance(value, kinds) or (isinstance(value, bool) and bool not in kinds) or not _bounded(value):
            problems.append(
                Problem(f"{at}{key}", f"{value!r} is of the wrong sort", " or ".join(k.__name__ for k in kinds))
            )
        else:
            given[key] = float(value) if float in kinds and isinstance(value, int | float) else value
    for key, of in _LISTS.items():
        value = row.get(key)
        if value is None:
            continue
        right = isinstance(value, list) and all(
            isinstance(v, of) and not isinstance(v, bool) and _bounded(v) for v in value
        )
        if not right or len(value) > MOST_CHOICES:
            problems.append(Problem(f"{at}{key}", "a list", f"of up to {MOST_CHOICES} {of.__name__}"))
        else:
            given[key] = tuple(value)
    if len(problems) > before:
        return None
    problems += _sensible(given, coding, table, at)
    if len(problems) > before:
        return None
    return Register(str(name), address, table=table, coding=Coding(coding) if coding else None, **given)


def _bounded(value: object) -> bool:
    """Whether a number can be one of a register, and a word is no more than some words."""
    if isinstance(value, str):
        return len(value) <= LONGEST_WORDS
    return isinstance(value, int | float) and isfinite(value) and abs(value) <= MOST_COUNT


def _place(row: Mapping[str, Any], at: str, problems: list[Problem]) -> tuple[RegisterTable, int]:
    """Table and address: zero-based with its table, or in the notation that counts from one."""
    address, table = row.get("address"), row.get("table", RegisterTable.HOLDING.value)
    if isinstance(address, str):
        try:
            return place_of(address)
        except Refused as refused:
            problems.append(Problem(f"{at}address", refused.problems[0].reason, refused.problems[0].accepted))
            return RegisterTable.HOLDING, 0
    if table not in [t.value for t in RegisterTable]:
        problems.append(Problem(f"{at}table", f"{table!r} is no table", ", ".join(t.value for t in RegisterTable)))
        table = RegisterTable.HOLDING.value
    if isinstance(address, bool) or not isinstance(address, int) or not 0 <= address <= HIGHEST_ADDRESS:
        problems.append(Problem(f"{at}address", "counted from zero, or as 40001", f"0…{HIGHEST_ADDRESS}"))
        address = 0
    return RegisterTable(table), address


def _sensible(given: dict[str, Any], coding: str | None, table: RegisterTable, at: str) -> list[Problem]:
    found = []
    scale = given.get("scale", 1.0)
    if not 1e-6 <= abs(scale) <= 1e6:
        found.append(Problem(f"{at}scale", f"{scale:g} counts for one unit", "0.000001…1000000"))
    if given.get("order", "ABCD") not in ORDERS:
        found.append(Problem(f"{at}order", f"{given['order']!r} is no order of four bytes", ", ".join(ORDERS)))
    if given.get("unit", "C") not in ("C", "F"):
        found.append(Problem(f"{at}unit", f"{given['unit']!r} is no unit", "C or F"))
    if "bit" in given and (coding != Coding.BIT.value or not 0 <= given["bit"] <= 15):
        found.append(Problem(f"{at}bit", "a bit of a register whose coding is bit", "0…15"))
    if "codes" in given and len(given["codes"]) != len(given.get("choices", ())):
        found.append(Problem(f"{at}codes", "one number for each choice", f"{len(given.get('choices', ()))} numbers"))
    if len(set(given.get("choices", ()))) != len(given.get("choices", ())):
        found.append(Problem(f"{at}choices", "the same word twice", "each once"))
    if given.get("writable") and table in (RegisterTable.INPUT, RegisterTable.DISCRETE):
        found.append(Problem(f"{at}writable", "this table can only be read", "a holding register or a coil"))
    if given.get("writable") and "bit" in given:
        found.append(
            Problem(f"{at}writable", "one bit of a register cannot be written alone", "a coil, or the whole register")
        )
    if given.get("low") is not None and given.get("high") is not None and given["low"] >= given["high"]:
        found.append(Problem(f"{at}high", "not above the low limit", f"more than {given['low']:g}"))
    if given.get("endurance") is not None and given["endurance"] < 1:
        found.append(Problem(f"{at}endurance", "writes its memory stands", "1 or more"))
    return found


def _together(registers: list[Register | None], problems: list[Problem]) -> None:
    """Names once, no two values in one place (bits of one register aside), helpers that exist. Rows that are wrong themselves are
    None."""
    names = [r.name if r else None for r in registers]
    for i, r in enumerate(registers):
        if r is None:
            continue
        at = f"registers[{i}]."
        if r.name in names[:i]:
            problems.append(Problem(f"{at}name", f"{r.name} is there twice", "each once"))
        taken = next((o for o in registers[:i] if o and _overlap(r, o)), None)
        if taken:
            problems.append(Problem(f"{at}address", f"{r.notation} is taken by {taken.name}", "another address"))
        for helper, name in (("decimals_from", r.decimals_from), ("unit_from", r.unit_from)):
            if name and (name not in names or name == r.name):
                there = ", ".join(n for n in names if n)
                problems.append(Problem(f"{at}{helper}", f"there is no {name} in this map", there))
    if registers and None not in names and not offered([n for n in names if n], controls=False):
        shown = ", ".join(("reading_c", *OF_SOURCE))
        problems.append(Problem("registers", "nothing in it is measured", f"at least one of {shown}"))


def _overlap(one: Register, other: Register) -> bool:
    """Whether two values lie in the same place; different bits of one register do not."""
    if one.table is not other.table or (one.bit is not None and other.bit is not None and one.bit != other.bit):
        return False
    return one.address < other.address + other.words and other.address < one.address + one.words


def _safe_off(data: Any, problems: list[Problem]) -> SafeOff | None:
    if data is None:
        return None
    sides: list[tuple[tuple[str, Any], ...]] = []
    for side in ("writes", "off_when"):
        rows = data.get(side) if isinstance(data, Mapping) else None
        good = isinstance(rows, list) and all(
            isinstance(r, list) and len(r) == 2 and isinstance(r[0], str) and isinstance(r[1], str | int | float)
            for r in rows
        )
        if not good or not rows:
            problems.append(Problem(f"safe_off.{side}", "a list of names with their values", '[["mode", "off"]]'))
            return None
        sides.append(tuple((r[0], r[1] if isinstance(r[1], str) else float(r[1])) for r in rows))
    return SafeOff(*sides)
