"""What a controller's menus are, as data: groups of pages, the keys that lead through them, how a value is changed and kept.

Everything shown is counted in the last digit (*counts*): 12.5 with one decimal is 125; of a choice its number in the list. A description
is entered once from a manual; :mod:`rellux.core.menus.problems` says what cannot be.
"""

import re
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from ..control.languages import Language
from ..profiles.controller_table import ProgrammeForm

PLAIN_LANGUAGE = Language()
FORMAT = 1
"""Version of the file: one with another is refused."""


class Press(StrEnum):
    """What is done to the controller: a key pressed shortly or held, the supply switched on with it held, a switch on the board moved (the
    case is open for that), or nothing for a while."""

    TAP = "tap"
    HOLD = "hold"
    POWER = "power"
    SWITCH = "switch"
    WAIT = "wait"


@dataclass(frozen=True)
class Gesture:
    """``key`` as it is marked; two at once as ``A+B``. ``seconds`` that it is held, or that nothing is done."""

    press: Press
    key: str = ""
    seconds: float = 0.0


@dataclass(frozen=True)
class Condition:
    """``page`` stands at one of ``counts``."""

    page: str
    counts: tuple[int, ...]


class SideEffectKind(StrEnum):
    """What happens to another page: it takes a value, its default, or is converted to the other unit of temperature."""

    SETS = "sets"
    DEFAULTS = "defaults"
    CONVERTS = "converts"


@dataclass(frozen=True)
class SideEffect:
    """When its own page changes to one of ``when`` (empty: to any), ``page`` takes ``counts``, its default, or is converted."""

    page: str
    kind: SideEffectKind = SideEffectKind.DEFAULTS
    counts: int = 0
    when: tuple[int, ...] = ()


@dataclass(frozen=True)
class PageChoice:
    """One choice: ``code`` as shown, what it means, the values of the parameters that the page sets (as many, or none). ``guarded``: taking
    it does what cannot be taken back, like a factory reset, or starts something, like an auto-tune. ``option``: it is there only with that
    in it."""

    code: str
    means: str = ""
    values: tuple[str, ...] = ()
    guarded: bool = False
    option: str = ""


class Counted(StrEnum):
    """What the counts of a page are."""

    PLAIN = "plain"
    TEMPERATURE = "temperature"
    DIFFERENCE = "difference"


@dataclass(frozen=True)
class Page:
    """One page. ``code`` as shown, ``sets`` the neutral parameters it stands for (none: nothing this dictionary knows). A page without
    choices and with ``low`` = ``high`` only shows something. ``scale``: what one of its units is of the parameter's, 60 where it shows
    minutes of a time in seconds. ``low_from``, ``high_from``: pages that bound it too. ``forgets``: back at home it is at its default,
    like an access code. ``register``: where a link reads and writes it, where that is known; ``manual``: where its manual tells of it;
    ``option``: it is there only with that in it."""

    key: str
    code: str
    title: str = ""
    sets: tuple[str, ...] = ()
    choices: tuple[PageChoice, ...] = ()
    low: int = 0
    high: int = 0
    decimals: int = 0
    scale: float = 1.0
    default: int = 0
    counted: Counted = Counted.PLAIN
    low_from: str = ""
    high_from: str = ""
    shown_when: tuple[Condition, ...] = ()
    effects: tuple[SideEffect, ...] = ()
    forgets: bool = False
    register: int | None = None
    manual: str = ""
    option: str = ""

    @property
    def is_set(self) -> bool:
        """Whether anything can be set on it."""
        return bool(self.choices) or self.low < self.high

    @property
    def least(self) -> int:
        return 0 if self.choices else self.low

    @property
    def most(self) -> int:
        return len(self.choices) - 1 if self.choices else self.high


class AfterLast(StrEnum):
    """What comes after the last page of a group."""

    FIRST = "first"
    LEAVES = "leaves"


AFTER_LAST = {AfterLast.FIRST: "the first again", AfterLast.LEAVES: "out"}


@dataclass(frozen=True)
class Group:
    """Pages in their order. ``leaves_to``: the group one comes to (empty: home). ``outputs_stop`` while inside."""

    key: str
    title: str
    pages: tuple[Page, ...]
    next: Gesture
    previous: Gesture | None = None
    after_last: AfterLast = AfterLast.FIRST
    leave: Gesture | None = None
    leaves_to: str = ""
    outputs_stop: bool = False


@dataclass(frozen=True)
class Way:
    """How one gets into a group: ``at`` a group, and there at one page or at any (empty)."""

    gesture: Gesture
    at: str
    to: str
    at_page: str = ""
    when: tuple[Condition, ...] = ()


class Keeps(StrEnum):
    """What makes a changed value stay: each step, the store gesture, going on to another page, leaving, a pause, the time-out."""

    STEP = "step"
    STORE = "store"
    NEXT = "next"
    LEAVE = "leave"
    PAUSE = "pause"
    TIMEOUT = "timeout"


KEPT_BY = {
    Keeps.STEP: "each step",
    Keeps.STORE: "a key that keeps",
    Keeps.NEXT: "going on",
    Keeps.LEAVE: "leaving",
    Keeps.PAUSE: "a pause",
    Keeps.TIMEOUT: "the time-out",
}


@dataclass(frozen=True)
class Editing:
    """How a value is changed. ``opens``: what begins it (none: the keys act at once). With ``shift`` digit by digit, beginning at the last
    digit or the first, ``carry`` into the next digit or not; else by whole steps, ``per_second`` of them while held, and through a list of
    choices ``round`` from its end to its beginning or not. ``moves_on``: to the next page once it is kept by the store gesture."""

    up: str
    down: str = ""
    opens: Gesture | None = None
    shift: str = ""
    from_first: bool = False
    carry: bool = False
    per_second: int = 0
    round: bool = True
    kept_by: tuple[Keeps, ...] = (Keeps.STEP,)
    store: Gesture | None = None
    moves_on: bool = False
    pause_s: float = 0.0


@dataclass(frozen=True)
class Shown:
    """A display of an error, or a lamp with its rhythm: what it means, what to do."""

    shows: str
    means: str
    todo: str = ""


@dataclass(frozen=True)
class TerminalNumber:
    """What stands at a terminal of it: ``terminal`` as the wiring calls it, ``variant`` the kind of part that has it (empty: every one)."""

    number: str
    terminal: str
    variant: str = ""


@dataclass(frozen=True)
class Description:
    """A controller. The first group is home, its first page what it shows in ordinary work. ``timeout_s``: back home after so long without
    a key (0: never). ``digits``: places of its display; ``language``: how its PID numbers are meant, as
    :class:`rellux.core.control.languages.Language` has it; ``programme``: what its programmes hold, where it runs any;
    ``offset_school``, ``hysteresis_school``, ``anti_windup``: how it is made, as the sheet says it, empty where nobody knows; ``options``:
    what may be in one or not, like a board with a second output."""

    title: str
    keys: tuple[str, ...]
    groups: tuple[Group, ...]
    ways: tuple[Way, ...]
    editing: Editing
    digits: int = 4
    timeout_s: float = 0.0
    lamps: tuple[Shown, ...] = ()
    errors: tuple[Shown, ...] = ()
    note: str = ""
    format: int = FORMAT
    language: Language = PLAIN_LANGUAGE
    terminals: tuple[TerminalNumber, ...] = ()
    programme: ProgrammeForm | None = None
    offset_school: str = ""
    hysteresis_school: str = ""
    anti_windup: str = ""
    options: tuple[str, ...] = ()

    @cached_property
    def pages(self) -> tuple[Page, ...]:
        """All pages, in the order of their groups."""
        return tuple(p for g in self.groups for p in g.pages)

    @cached_property
    def index(self) -> dict[str, int]:
        """Where a page stands in :attr:`pages`, by its key."""
        return {p.key: i for i, p in enumerate(self.pages)}

    @cached_property
    def group_index(self) -> dict[str, int]:
        return {g.key: i for i, g in enumerate(self.groups)}

    @cached_property
    def first_of(self) -> tuple[int, ...]:
        """For each group, where its first page stands in :attr:`pages`."""
        found, at = [], 0
        for group in self.groups:
            found.append(at)
            at += len(group.pages)
        return tuple(found)

    @cached_property
    def group_of(self) -> tuple[int, ...]:
        """For each page, its group."""
        return tuple(i for i, g in enumerate(self.groups) for _ in g.pages)

    def page(self, key: str) -> Page:
        return self.pages[self.index[key]]


Values = tuple[int, ...]
"""The counts of every page, in the order of :attr:`Description.pages`."""


def shown(page: Page, counts: int) -> str:
    """What stands on the display for a value.

    >>> shown(Page("sp", "SP", high=9999, decimals=1), 125), shown(Page("x", "X", low=-99, high=99, decimals=1), -5)
    ('12.5', '-0.5')
    """
    if page.choices:
        return page.choices[counts].code if 0 <= counts < len(page.choices) else "?"
    if not page.is_set:
        return ""
    if not page.decimals:
        return str(counts)
    digits = f"{abs(counts):0{page.decimals + 1}d}"
    return f"{'-' if counts < 0 else ''}{digits[: -page.decimals]}.{digits[-page.decimals :]}"


def counts_of(page: Page, text: str) -> int | None:
    """The counts of what was read off the display; ``None`` where the page cannot show that.

    >>> page = Page("h", "H", low=-99, high=999, decimals=1)
    >>> counts_of(page, "12.5"), counts_of(page, "−0,5"), counts_of(page, "100"), counts_of(page, "warm")
    (125, -5, None, None)
    """
    asked = text.strip().replace(",", ".").replace("−", "-")
    if page.choices:
        return next((i for i, c in enumerate(page.choices) if c.code.lower() == asked.lower()), None)
    if not re.fullmatch(r"-?\d{1,12}(\.\d{0,6})?", asked, re.ASCII):
        return None
    counts = round(float(asked) * 10**page.decimals)
    return counts if page.is_set and page.low <= counts <= page.high else None


def may_show(page: Page) -> str:
    """What a page can show, in words."""
    if page.choices:
        return ", ".join(c.code for c in page.choices)
    return f"{shown(page, page.low)}…{shown(page, page.high)}"
