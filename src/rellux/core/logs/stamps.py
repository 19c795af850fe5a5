"""Taking time stamps apart one by one, for the sample that is guessed from."""

import math
from collections.abc import Sequence

import numpy as np

from .times import STAMP, Stamps, month_of, of_day


def zone_s(text: str | None) -> float:
    """What a zone like +02:00 puts the clock ahead of UTC, s; NaN without one."""
    if not text:
        return math.nan
    if text[0] not in "+-":
        return 0.0
    digits = text[1:].replace(":", "").ljust(4, "0")
    return (1.0 if text[0] == "+" else -1.0) * (int(digits[:2]) * 3600.0 + int(digits[2:]) * 60.0)


def taken_apart(cells: Sequence[str]) -> Stamps:
    """The stamps of some cells; NaN in every part of one that is none."""
    rows = []
    for cell in cells:
        m = STAMP.fullmatch(cell.strip())
        month = m and (float(m["b"]) if m["b"].isdigit() else month_of(m["b"]))
        if not m or month is None:
            rows.append((math.nan,) * 5)
            continue
        half = math.nan if not m["half"] else float(m["half"][0] in "Pp")
        clock = [float((m[k] or "0").replace(",", ".")) for k in "hms"]
        day_s = of_day(*(np.array([x]) for x in (*clock, half)))
        rows.append((float(m["a"]), month, float(m["c"]), float(day_s[0]), zone_s(m["zone"])))
    return Stamps(*np.array(rows, dtype=np.float64).reshape(-1, 5).T)
