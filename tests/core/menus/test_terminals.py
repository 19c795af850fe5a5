"""One controller in place of another: each wire at it once, from what stands there to what stands on the new one, or the lack told."""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.menus.description import TerminalNumber
from rellux.core.menus.problems import check_description
from rellux.core.menus.shipped import SHIPPED
from rellux.core.menus.terminals import VARIANTS, moves, numbers_of
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Connection

WIRES = tuple(
    Connection(n, a, b, Circuit.CONTROL, 0.75, colour)
    for n, a, b, colour in (
        (1, "F1.2", "A1.L", "brown"), (2, "A1.IN+", "B1.+", "green"), (3, "A1.COM", "A1.AL1", "red"), (4, "F1.2", "K1.A1", "brown"),
    )
)  # fmt: skip


def test_every_wire_at_it_goes_from_its_old_place_to_its_new_one():
    old, new = ({"L": "11", "IN+": "1", "COM": "8", "AL1": "5"}, {"L": "a", "IN+": "p", "COM": "c"})
    found = moves(WIRES, "A1", old, new, {2})
    assert [(m.wire, m.terminal, m.before, m.after, m.other, m.done) for m in found] == [
        (1, "L", "11", "a", "F1.2", False), (2, "IN+", "1", "p", "B1.+", True),
        (3, "COM", "8", "c", "A1.AL1", False), (3, "AL1", "5", "", "A1.COM", False),
    ]  # fmt: skip
    assert [m.after for m in moves(WIRES, "A1", {}, {}, ())] == ["L", "IN+", "COM", "AL1"]
    assert moves(WIRES, "A2", old, new, ()) == ()


def test_the_shipped_ones_number_only_terminals_that_their_kind_has_each_once():
    for made in SHIPPED.values():
        for variant in VARIANTS:
            found = numbers_of(made, variant)
            assert len(set(found.values())) == len(found)
            assert all(PART_TYPES[variant].terminal(t) for t in found)
    assert numbers_of(SHIPPED["teasel"], "controller_ssr")["OUT+"] == "k"
    assert "OUT+" not in numbers_of(SHIPPED["teasel"], "controller_relay") and numbers_of(None, "controller_ssr") == {}


TERMINALS = st.tuples(
    st.sampled_from("12345"),
    st.sampled_from(["L", "N", "IN+", "OUT+", "COM"]),
    st.sampled_from(["", "controller_relay", "controller_ssr"]),
)


@given(st.lists(TERMINALS, max_size=5))
def test_what_is_taken_has_no_number_with_two_roles_on_any_part(rows):
    made = replace(SHIPPED["larch"], terminals=tuple(TerminalNumber(*r) for r in rows))
    try:
        check_description(made)
    except Refused:
        return
    for variant in VARIANTS:
        roles = [
            (t.number, t.terminal)
            for t in made.terminals
            if t.variant in ("", variant) and PART_TYPES[variant].terminal(t.terminal)
        ]
        assert len({n for n, _ in roles}) == len({t for _, t in roles}) == len(roles)
