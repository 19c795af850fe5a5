"""Renews web/src/testing/answers.json: what the server answers to every page of the demo, for the tests of the interface's components.

Long columns are thinned; tests/server/test_contract.py holds the file against the API.
"""

import json
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.browser.chromium import chromium  # noqa: E402
from tests.browser.conftest import Stack  # noqa: E402
from tests.browser.page import Page  # noqa: E402

ANSWERS = ROOT / "web" / "src" / "testing" / "answers.json"
LISTEN = """
window.__answers = []
const fetched = window.fetch
window.fetch = async (input, init) => {
  const request = new Request(input, init)
  const response = await fetched(request)
  const { pathname, search } = new URL(request.url)
  if (pathname.startsWith('/api/'))
    response.clone().json().then((body) => window.__answers.push({ method: request.method, path: pathname, search, body }))
  return response
}
"""
RIG, COLD, WATCHED = "cement-cabinet", "detector-cold-box", "cement-store"
STATIONS = """
purpose parts wiring wiring?look=faults proving setup setup?look=keys guarding tuning profiles runs runs/import calibration book bench
"""
PAGES = (
    *("/", "/new", "/library", "/equipment?piece=1", "/maps", "/controllers", "/wall", "/zones", "/zones/1"),
    *("/questions", "/questions/bank", "/questions/cables", "/questions/cascade"),
    *(f"/rigs/{RIG}/{station}" for station in STATIONS.split()),
    *(f"/rigs/{COLD}/{station}" for station in ("purpose", "guarding")),
    f"/rigs/{WATCHED}/guarding",
)
ROWS = 40
"""Of a long column."""
WAIT_S = 8.0


def thinned(value: Any) -> Any:
    """Columns of numbers, or of points, with about ``ROWS`` of their rows; all of one length alike."""
    if isinstance(value, dict):
        return {k: thinned(v) for k, v in value.items()}
    if not isinstance(value, list):
        return value
    if len(value) > ROWS and not any(isinstance(v, dict | str) for v in value):
        return value[:: -(-len(value) // ROWS)]
    return [thinned(v) for v in value]


def record(address: str) -> list[dict[str, Any]]:
    found: dict[tuple[str, str], dict[str, Any]] = {}
    with chromium() as driver:
        driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": LISTEN})
        for path in PAGES:
            Page(driver).open(address, path)
            time.sleep(WAIT_S)
            for it in driver.execute_script("return window.__answers"):
                found.setdefault((it["method"], it["path"] + it.pop("search")), it)
    return [
        {"request": f"{method} {path}", "answer": thinned(it["body"])} for (method, path), it in sorted(found.items())
    ]


def main() -> None:
    stack = Stack("demo", Path(tempfile.mkdtemp(prefix="rellux-answers-")), Path(tempfile.mkdtemp()))
    try:
        rows = [json.dumps(r, ensure_ascii=False, separators=(",", ":")) for r in record(stack.address)]
    finally:
        stack.stop()
    ANSWERS.write_text("[\n" + ",\n".join(rows) + "\n]\n")


if __name__ == "__main__":
    main()
