"""What is said of every known mistake, word for word, as it was read and approved; ``RELLUX_RENEW=1`` writes it anew, to be read in the
difference before it is committed."""

import os
from pathlib import Path

import pytest

from rellux.core.findings import Finding
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.mistakes import MISTAKES
from tests.oracle.circuits import RIGS

APPROVED = Path(__file__).with_name("said.txt")


def said(finding: Finding) -> str:
    told = [
        f"{finding.severity.value}: {finding.title}",
        finding.reason,
        f"→ {finding.fix}",
        f"about {', '.join(finding.subjects)}",
    ]
    told += [f"{f.name} = {f.value:.6g} {f.kind.value}" for f in finding.figures]
    told += [f"⇒ {finding.proposal.target} {finding.proposal.value}"] if finding.proposal else []
    return "\n    ".join(told)


@pytest.mark.slow
def test_what_is_said_of_every_mistake_is_what_was_approved():
    lines = []
    lists = {name: usual(purpose, choice, Usual.PARTS) for name, (purpose, choice) in RIGS.items()}
    for mistake in MISTAKES:
        lines.append(f"# {mistake.title}: {mistake.rule}")
        alike: dict[str, list[str]] = {}
        for rig, (purpose, choice) in RIGS.items():
            changed = mistake.make(lists[rig])
            if isinstance(changed, ConnectionList):
                found = check(changed, context_for(purpose, choice.practice, choice.sensor))
                for text in (said(f) for f in found if f.rule == mistake.rule):
                    alike.setdefault(text, []).append(rig)
        lines += [f"{', '.join(rigs)}\n    {text}" for text, rigs in alike.items()]
    text = "\n".join(lines) + "\n"
    if os.environ.get("RELLUX_RENEW"):
        APPROVED.write_text(text)
    assert text == APPROVED.read_text()
