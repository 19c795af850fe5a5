"""What a page says to somebody who cannot see it: WCAG rules checked in the browser."""

import json
from pathlib import Path

AXE = (Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js").read_text()


EVERY = ("wcag2a", "wcag2aa", "wcag21aa", "wcag22aa")


def violations(page, only=EVERY, by="tag"):
    """What axe finds, by tags of rules or by rules."""
    page.driver.execute_script(AXE)
    found = page.driver.execute_async_script(
        "const done = arguments[2];"
        "axe.run(document, {runOnly: {type: arguments[0], values: arguments[1]}}).then(r => done(JSON.stringify("
        "r.violations.map(v => [v.id, v.nodes.map(n => n.html.slice(0, 120) + ' ' + (n.any[0]?.message ?? ''))]))))",
        by,
        list(only),
    )
    return json.loads(found)
