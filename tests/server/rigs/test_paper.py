"""The wiring sheet on paper: tags over nothing, the application's own fonts, page x of y, however many pages."""

import re
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.handover.safe_use import safe_use
from rellux.core.purpose.purpose import RigKind
from rellux.core.wiring.model import Connection
from rellux.core.wiring.schedule import schedule
from rellux.core.wiring.usual_circuits import Usual, usual
from rellux.server.sheets import lettering
from rellux.server.sheets.diagram import LETTER, TAG, Box, Drawn, Line, Pin, Point, tags
from rellux.server.sheets.guarding_sheet import spread
from rellux.server.sheets.handover_sheet import Handover, handover_pdf
from rellux.server.sheets.lettering import FONT, printed_in, settable
from rellux.server.sheets.wiring_sheet import PAPER, DrawingHead, WiringSheet, pages_of, wiring_pdf
from tests.oracle.circuits import RIGS

PLACES = st.tuples(st.integers(0, 60), st.integers(0, 40)).map(lambda p: Point(10.0 * p[0], 10.0 * p[1]))
BOXES = st.builds(
    lambda at, w, h: Box("K1", "Relay", at.x, at.y, 10.0 * w, 10.0 * h), PLACES, st.integers(3, 12), st.integers(3, 9)
)
PINS = st.builds(lambda at: Pin("A1", at.x, at.y, "left"), PLACES)
LINES = st.lists(st.tuples(st.lists(PLACES, min_size=2, max_size=5), st.one_of(st.none(), PLACES)), max_size=8)


@settings(max_examples=200, deadline=None)
@given(boxes=st.lists(BOXES, max_size=5), pins=st.lists(PINS, max_size=8), lines=LINES)
def test_no_tag_lies_over_a_part_a_pin_or_another_tag(boxes, pins, lines):
    drawn = Drawn("power", 700, 500, boxes, pins, [Line(i, points, tag) for i, (points, tag) in enumerate(lines, 1)])
    wires = {i: Connection(i, "A.1", "B.1", colour="brown") for i in range(1, len(lines) + 1)}
    found = [
        (x - w / 2, y - (TAG + 2) / 2, x + w / 2, y + (TAG + 2) / 2)
        for x, y, words in tags(drawn, wires)
        for w in [LETTER * TAG * len(words)]
    ]
    taken = [(b.x, b.y, b.x + b.width, b.y + b.height) for b in boxes] + [
        (p.x - 4, p.y - 4, p.x + 4, p.y + 4) for p in pins
    ]
    for i, one in enumerate(found):
        for other in (*taken, *found[:i]):
            assert not (one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3])


def test_a_wire_with_room_keeps_the_place_the_screen_gave_it():
    drawn = Drawn("power", 700, 500, [], [], [Line(1, [Point(0, 50), Point(400, 50)], Point(200, 50))])
    assert tags(drawn, {1: Connection(1, "A.1", "B.1")})[0][:2] == (200, 50)


@pytest.fixture
def written(monkeypatch):
    """What is written at the right edge of pages."""
    found = []
    plain = lettering.Pages.drawRightString
    monkeypatch.setattr(
        lettering.Pages, "drawRightString", lambda self, x, y, words: (found.append(words), plain(self, x, y, words))[1]
    )
    return found


def sheet(findings: int = 0, drawings: int = 1) -> WiringSheet:
    wiring = usual(*RIGS["kiln"], Usual.START)
    cuts, totals = schedule(wiring)
    wide = Drawn("control", 9000.0, 400.0, [Box(f"K{i}", "Relay", 300.0 * i, 50.0, 150.0, 90.0) for i in range(30)])
    positions = tuple((f"position {i}", "E1 3200 W") for i in range(findings))
    return WiringSheet(
        DrawingHead("Ofen Ä, 50 Ω", "2026", wiring.connections),
        (wide,) * drawings,
        "Calm.",
        (),
        (),
        positions,
        cuts,
        totals,
    )


@pytest.mark.parametrize(("findings", "drawings"), [(3, 1), (400, 6)])
def test_pages_are_numbered_x_of_y_however_many(written, findings, drawings):
    assert wiring_pdf(sheet(findings, drawings), "A4").startswith(b"%PDF")
    pages = [re.fullmatch(r"Rellux · page (\d+) of (\d+)", w) for w in written]
    numbers = [(int(m[1]), int(m[2])) for m in pages if m]
    assert numbers == [(i, len(numbers)) for i in range(1, len(numbers) + 1)] and (drawings == 1 or len(numbers) >= 10)


def test_a_pack_has_its_drawings_lying_across_and_its_pages_counted(written):
    one = sheet()
    use = safe_use(RigKind.KILN, RIGS["kiln"][0], None, 7200.0)
    rows = (("Works at", "{560 °C}"),)
    cuts, _ = schedule(usual(*RIGS["kiln"], Usual.START))
    pack = Handover(
        one.head, rows, ("Danger, open.",), use, (("Too hot", "{570 °C}", "beacon"),), "Never.", rows, "As left.", "Never.", rows,
        (), cuts, (("a", "b", "c"),), (), one.drawings,
    )  # fmt: skip
    paper = handover_pdf(pack)
    pages = [m for w in written if (m := re.fullmatch(r"Rellux · page (\d+) of (\d+)", w))]
    assert [int(m[1]) for m in pages] == list(range(1, int(pages[0][2]) + 1))
    across = len(re.findall(rb"MediaBox \[ 0 0 841", paper))
    assert across == len(pages_of(one.drawings, PAPER["A4"])) and len(pages) > across + 4


@settings(max_examples=200, deadline=None)
@given(st.lists(st.floats(0, 300), max_size=20).map(sorted), st.floats(4, 15))
def test_lettering_on_a_scale_keeps_its_order_and_apart_and_inside(wanted, apart):
    found = spread(wanted, apart, 0.0, 300.0)
    assert all(b - a >= apart - 1e-9 for a, b in pairwise(found)) and max(found, default=0.0) <= 300.0 + 1e-9
    if all(b - a >= apart for a, b in pairwise(wanted)):
        assert found == pytest.approx(wanted)
    if (len(wanted) - 1) * apart <= 300.0:
        assert min(found, default=0.0) >= -1e-9


def test_the_sheet_is_set_in_the_applications_own_font():
    lettering.fonts()
    assert b"BarlowSemiCondensed" in lettering.pdfmetrics.getFont(FONT).face.name
    assert b"BarlowSemiCondensed" in wiring_pdf(sheet(), "A3")


def test_a_sheet_is_in_its_readers_unit():
    with printed_in("F"):
        assert settable("at {60 °C}, {5 Δ°C} less") == "at 140 °F, 9 °F less"
    assert settable("at {60 °C}") == "at 60 °C"
    with pytest.raises(Refused, match="no unit to print in"), printed_in("K"):
        pass


@pytest.mark.parametrize(
    ("text", "words"), [("Ä 50 Ω, 3 × 4", "Ä 50 Ω, 3 × 4"), ("漢 b\x00", "? b"), ("5\u2060 °C", "5 °C")]
)
def test_what_no_font_has_is_spelt_out_or_marked(text, words):
    assert settable(text) == words
