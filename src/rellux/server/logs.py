"""Logs that neither flood nor grow: the same message once a minute, files that rotate."""

import logging
import time

EVERY_S = 60.0


class Seldom(logging.Filter):
    """Lets the same message of the same place through once a minute, and says how often it was held back meanwhile."""

    def __init__(self) -> None:
        super().__init__()
        self._last: dict[tuple[str, int], tuple[float, int]] = {}

    def filter(self, record: logging.LogRecord) -> bool:
        place, now = (record.pathname, record.lineno), time.monotonic()
        since, held = self._last.get(place, (-EVERY_S, 0))
        if now - since < EVERY_S:
            self._last[place] = since, held + 1
            return False
        self._last[place] = now, 0
        if held:
            record.msg, record.args = f"{record.getMessage()} (and {held} times since)", None
        return True
