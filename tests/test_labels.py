"""What a field is called in an error is what it is called on the screen: labels that a form brings itself, beside the one description."""

import re
from pathlib import Path

from rellux.core.fields import fields

WEB = Path(__file__).parent.parent / "web" / "src"
FIELD = re.compile(r"<[A-Z]\w*\b((?:[^<>]|=>|<(?=[^A-Za-z/]))*?)/>", re.DOTALL)
LABEL, PROBLEM = re.compile(r'\blabel="([^"]+)"'), re.compile(r"\bproblem=\{([^\n]*)\}")
NUMBER = re.compile(r"number\('([A-Z][^']*)',[^\n]*?'([a-z_]+\.[a-z_]+)'")
REFUSED = re.compile(r"""['`]([a-z$][\w.${}\[\] \-]*?)['`]""")


def own_labels():
    """(file, label on the screen, path it is refused by) of every field with both in a form."""
    for path in sorted(WEB.rglob("*.tsx")):
        if ".test." in path.name:
            continue
        text = path.read_text(encoding="utf-8")
        yield from ((path.name, label, name) for label, name in NUMBER.findall(text))
        for inside in FIELD.findall(text):
            label, problem = LABEL.search(inside), PROBLEM.search(inside)
            for name in REFUSED.findall(problem[1]) if label and problem else ():
                yield path.name, label[1], re.sub(r"\$\{[^}]*\}|\[[^\]]*\]?", "", name)


def described(path):
    known, names = {f.name: f.label for f in fields()}, path.split(".")
    return next((known[p] for p in (".".join(names[i:]) for i in range(len(names))) if p in known), None)


def test_a_label_of_a_forms_own_holds_what_the_field_is_called():
    found = list(own_labels())
    assert len(found) > 15
    wrong = [
        (f, said, path, described(path))
        for f, said, path in found
        if (described(path) or "?").lower() not in said.lower()
    ]
    assert not wrong, wrong
