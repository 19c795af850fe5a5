"""What is wrong with the parts of a chain: whatever carries more than it may."""

from ..findings import Finding, Severity, worst_first
from ..heating.plugs import COOL_SHARE
from ..messages import of_kind, percent
from .chain import Chain, Piece

HEATER_SHARE = 1.1
"""A heater's power may lie this far above its nameplate (common practice, ±5 % of voltage)."""
ALLOWED = 1.0001
FIX = {
    "plug": "A larger plug and inlet, or fixed wiring by a licensed person.",
    "breaker": "A larger breaker with the wire to match, or less load.",
    "conductor": "Thicker wire.",
    "limit": "A larger contactor.",
    "actuator": "A larger switch.",
    "heater": "One for this voltage, or several alike in series.",
    "sensor": "A sensor that still reads at the highest allowed temperature.",
}


def chain_findings(chain: Chain) -> list[Finding]:
    """One finding for every piece whose duty is beyond its rating, and for a plug near its limit for hours."""
    return worst_first([*(_overloaded(p) for p in chain.pieces if is_overloaded(p)), *_plug(chain)])


def _plug(chain: Chain) -> list[Finding]:
    found = []
    plug = next((p for p in chain.pieces if p.key == "plug"), None)
    if plug and COOL_SHARE < plug.fill <= ALLOWED:
        found.append(
            Finding(
                "parts.plug-hours",
                Severity.FAULT,
                title=f"The plug carries {percent(plug.fill)} of what it may, for hours",
                reason="Its contacts are loosely sprung and get hotter with every year: near the full rating they brown and melt.",
                fix="The next larger plug and socket, or fixed wiring by a licensed person.",
                subjects=(plug.title,),
                figures=(plug.duty,),
                source="common practice, no source",
            )
        )
    return found


def is_overloaded(piece: Piece) -> bool:
    return piece.fill > (HEATER_SHARE if piece.key == "heater" else ALLOWED)


def _overloaded(piece: Piece) -> Finding:
    return Finding(
        f"parts.{piece.key}",
        Severity.DANGER if piece.key in ("heater", "conductor") else Severity.FAULT,
        title=f"{piece.title}: {of_kind(piece.duty.value, piece.duty.kind, '.3g')} on "
        f"a rating of {of_kind(piece.rating, piece.duty.kind, '.3g')}",
        reason=f"It is used at {percent(piece.fill)} of what it may carry for hours.",
        fix=FIX[piece.key],
        subjects=(piece.title,),
        figures=(piece.duty,),
    )
