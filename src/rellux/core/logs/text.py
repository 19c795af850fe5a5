"""From the bytes of a log to its lines."""

import re

from ..errors import Refused, refuse

ENCODINGS = ("utf-8-sig", "utf-16", "cp1252", "latin-1")
MOST_CONTROLS = 0.01
"""Share of control characters above which a file is no text (our choice: a text log has none)."""
_UTF16 = (b"\xff\xfe", b"\xfe\xff")
_CONTROLS = re.compile(r"[\x00-\x08\x0b\x0e-\x1f]")
_BREAK = re.compile(r"\r\n|\n|\r")


def encoding_of(sample: bytes) -> str:
    """The encoding of a file that begins with ``sample``. Raises ``Refused`` for what is no text."""
    if sample.startswith(_UTF16):
        return "utf-16"
    if b"\x00" in sample:
        raise _no_text()
    try:
        sample.decode("utf-8-sig")
        encoding = "utf-8-sig"
    except UnicodeDecodeError as error:
        if error.start >= len(sample) - 4:  # a character cut at the end of the sample
            encoding = "utf-8-sig"
        else:
            encoding = "latin-1" if any(b in sample for b in b"\x81\x8d\x8f\x90\x9d") else "cp1252"
    text = sample.decode(encoding, "replace")
    if len(_CONTROLS.findall(text)) > MOST_CONTROLS * len(text):
        raise _no_text()
    return encoding


def _no_text() -> Refused:
    return refuse("file", "this is not a text file", "a CSV log: lines of text with columns")


def decode(sample: bytes) -> str:
    """The text of the first bytes of a file; a character cut at their end is left out."""
    encoding = encoding_of(sample)
    if encoding == "utf-16" and len(sample) % 2:
        sample = sample[:-1]
    return sample.decode(encoding, "ignore")


def lines_of(text: str) -> list[str]:
    """The lines as an editor counts them; a last line that is only begun is among them."""
    lines = _BREAK.split(text)
    return lines[:-1] if lines and not lines[-1] else lines
