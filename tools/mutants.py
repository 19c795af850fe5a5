"""Mutants of the core by hand: a seeded, stratified sample, each against the tests of its subject that reach its line.

``pip install -e .[mutants]``, then ``python tools/mutants.py``, two hours on two cores; it works on copies of the committed tree.
Strings and annotations are left out. What came of it, and which survivors mean the same as the original: tests/mutants.md.
"""

import ast
import json
import os
import random
import re
import subprocess
import sys
import tempfile
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import coverage
from cosmic_ray.commands.init import _all_work_items
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator

ROOT = Path(__file__).resolve().parents[1]
CORE = Path("src/rellux/core")
EACH, SEED, COPIES = 150, 600, 2
ASIDE = ("core/VariableReplacer", "core/VariableInserter")
SUBJECTS: dict[str, list[str]] = {
    "heating": ["tests/core/heating", "tests/core/questions"],
    "sensing": ["tests/core/sensing", "tests/core/questions"],
    "tuning": ["tests/core/tuning"],
    "wiring/rules": ["tests/core/wiring", "--deselect", "tests/core/wiring/test_nudges.py"],
}
PINS = {"wiring/rules": ["tests/core/wiring/test_nudges.py"]}
PYTEST = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider"]
Job = dict[str, Any]


def annotations(tree: ast.AST) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Where types stand."""
    found = []
    for node in ast.walk(tree):
        of = getattr(node, "annotation", None) or (node.returns if isinstance(node, ast.FunctionDef) else None)
        if of is not None:
            found.append(((of.lineno, of.col_offset), (of.end_lineno, of.end_col_offset)))
    return found


def sample(copy: Path) -> list[Job]:
    """So many places of each subject, with one mutation of each."""
    rng, jobs = random.Random(SEED), []
    for subject in SUBJECTS:
        files = sorted((copy / CORE / subject).rglob("*.py"))
        typed = {str(f): annotations(ast.parse(f.read_text())) for f in files}
        sites = defaultdict(list)
        for item in _all_work_items(files, {}):
            m = item.mutations[0]
            path, start, end = str(m.module_path), tuple(m.start_pos), tuple(m.end_pos)
            if m.operator_name not in ASIDE and not any(a <= start and end <= b for a, b in typed[path]):
                sites[path, start, end].append((m.operator_name, m.occurrence))
        for path, start, end in rng.sample(sorted(sites), EACH):
            operator, at = rng.choice(sorted(sites[path, start, end]))
            lines = range(start[0], end[0] + 1)
            jobs.append(
                {
                    "subject": subject,
                    "path": str(Path(path).relative_to(copy)),
                    "lines": lines,
                    "op": operator,
                    "at": at,
                }
            )
    rng.shuffle(jobs)
    return jobs


def environment(copy: Path) -> dict[str, str]:
    return {
        **os.environ,
        "PYTHONPATH": "src:.",
        "RELLUX_DATA": str(copy / "data"),
        "NUMBA_CACHE_DIR": str(copy / "numba"),
    }


class Reached:
    """Which tests of a subject come to a line, the quickest first."""

    def __init__(self, copy: Path, subject: str) -> None:
        where, env = copy / f"cov-{subject.replace('/', '-')}", environment(copy)
        command = [
            *PYTEST,
            "-vv",
            f"--cov={CORE / subject}",
            "--cov-context=test",
            "--cov-report=",
            "--durations=0",
            *SUBJECTS[subject],
        ]
        told = subprocess.run(
            command, cwd=copy, env={**env, "COVERAGE_FILE": str(where)}, capture_output=True, text=True, check=True
        ).stdout
        self.seconds: dict[str, float] = defaultdict(float)
        for s, test in re.findall(r"^([\d.]+)s (?:setup|call|teardown)\s+(\S.*)$", told, re.MULTILINE):
            self.seconds[test] += float(s)
        self.data, self.copy = coverage.CoverageData(basename=str(where)), copy
        self.data.read()

    def tests(self, job: Job) -> tuple[list[str], bool]:
        """And whether it is only run when it is loaded, or by what is compiled: then all that come to the file."""
        by_line = self.data.contexts_by_lineno(str(self.copy / job["path"]))
        of = {line: {c.split("|")[0] for c in contexts if c} for line, contexts in by_line.items()}
        here = set().union(*(of.get(line, set()) for line in job["lines"]))
        return sorted(here or set().union(*of.values(), self.seconds), key=self.seconds.__getitem__), not here


def put_through(job: Job, copy: Path, reached: Reached) -> str:
    """What became of a mutant."""
    file = copy / job["path"]
    before = file.read_text()
    changed = mutate_code(before, get_operator(job["op"])(), job["at"])
    assert changed is not None
    tests, is_static = reached.tests(job)
    runs = [tests] + ([PINS.get(job["subject"], ["tests/core/test_limits.py"])] if is_static else [])
    try:
        file.write_text(changed)
        job["diff"] = next(
            (
                f"{a.strip()} → {b.strip()}"
                for a, b in zip(before.splitlines(), changed.splitlines(), strict=False)
                if a != b
            ),
            "",
        )
        for run in runs:
            (copy / "these").write_text("\n".join(run))
            limit = 60.0 + 6.0 * sum(reached.seconds[t] for t in run) if run is tests else 900.0
            try:
                done = subprocess.run(
                    [*PYTEST, "-x", "@these"], cwd=copy, env=environment(copy), capture_output=True, timeout=limit
                )
            except subprocess.TimeoutExpired:
                return "timeout"
            if done.returncode != 0:
                return "killed"
        return "survived"
    finally:
        file.write_text(before)


def main() -> None:
    work = Path(tempfile.mkdtemp(prefix="rellux-mutants-"))
    copies = [work / str(i) for i in range(COPIES)]
    for copy in copies:
        copy.mkdir()
        tree = subprocess.run(
            ["git", "archive", "HEAD", "src", "tests", "pyproject.toml", "docs", "benchmarks"],
            cwd=ROOT,
            capture_output=True,
        )
        subprocess.run(["tar", "x", "-C", str(copy)], input=tree.stdout, check=True)
    jobs = sample(copies[0])
    reached = {subject: Reached(copies[0], subject) for subject in SUBJECTS}
    counts: dict[str, dict[str, int]] = defaultdict(lambda: defaultdict(int))

    def work_off(i: int) -> None:
        for job in jobs[i::COPIES]:
            outcome = put_through(job, copies[i], reached[job["subject"]])
            counts[job["subject"]][outcome] += 1
            if outcome == "survived":
                print(job["path"], job["diff"], flush=True)

    with ThreadPoolExecutor(COPIES) as pool:
        list(pool.map(work_off, range(COPIES)))
    print(json.dumps(counts))


if __name__ == "__main__":
    main()
