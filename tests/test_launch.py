"""Starting, watching and stopping the processes; and the one-command script on a machine that lacks something."""

import contextlib
import os
import re
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.request
import zipfile
from pathlib import Path

import pytest

from rellux.folder import Unusable, claim, is_prepared
from rellux.launch import Child, port_is_free, supervise

ROOT = Path(__file__).resolve().parents[1]


def sleeper(name="sleeper"):
    return Child(name, [sys.executable, "-c", "import time; time.sleep(60)"])


def run_family(family, during, seconds=10.0):
    """Supervise in the main thread (signals need it) while ``during`` runs beside; it ends with SIGTERM."""

    def beside():
        try:
            during()
        finally:
            os.kill(os.getpid(), signal.SIGTERM)

    before = signal.getsignal(signal.SIGTERM), signal.getsignal(signal.SIGINT)
    helper = threading.Thread(target=beside)
    helper.start()
    try:
        supervise(family, 1)
    finally:
        helper.join(seconds)
        signal.signal(signal.SIGTERM, before[0])
        signal.signal(signal.SIGINT, before[1])


def until(condition, seconds=10.0):
    deadline = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < deadline, "it never happened"
        time.sleep(0.05)


def alive(child):
    return child.process is not None and child.process.poll() is None


def test_one_that_dies_is_started_again_and_all_are_stopped():
    first, second = sleeper("one"), sleeper("two")
    pids = []

    def during():
        until(lambda: alive(first) and alive(second))
        pids.append(first.process.pid)
        first.process.kill()
        until(lambda: alive(first) and first.process.pid != pids[0])

    run_family([first, second], during)
    assert not alive(first) and not alive(second)
    assert first.deaths == 1 and second.deaths == 0


def test_one_that_keeps_dying_is_tried_more_and_more_slowly():
    child = Child("broken", [sys.executable, "-c", "raise SystemExit(1)"])
    gaps = []
    for _ in range(3):
        child.due_at = time.monotonic()
        child.look()
        child.process.wait(20)
        child.look()
        gaps.append(child.due_at - time.monotonic())
    assert gaps[0] < gaps[1] < gaps[2] <= 30


def test_a_taken_port_is_noticed():
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        s.listen()
        assert not port_is_free(s.getsockname()[1])


def free_port():
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return s.getsockname()[1]


def script(path, *arguments, root=ROOT):
    environment = {"PATH": str(path), "HOME": str(path)}
    return subprocess.run(
        [shutil.which("sh"), str(root / "rellux"), *arguments], env=environment, capture_output=True, text=True
    )


@pytest.fixture
def bare(tmp_path):
    """A machine with the usual small tools but neither Python nor Node, and a checkout without an environment."""
    tools = tmp_path / "bin"
    tools.mkdir()
    for name in ("dirname", "cat", "cksum", "tr", "basename", "find", "sort", "id", "mktemp"):
        (tools / name).symlink_to(shutil.which(name))
    checkout = tmp_path / "checkout"
    checkout.mkdir()
    shutil.copy(ROOT / "rellux", checkout)
    for name in ("requirements.txt", "requirements-test.txt"):
        shutil.copy(ROOT / name, checkout)
    return tools, checkout


def test_missing_python_is_told_in_one_plain_sentence(bare):
    tools, checkout = bare
    done = script(tools, "demo", root=checkout)
    assert done.returncode == 1 and done.stderr == "rellux: Python 3.11 or newer is needed and was not found.\n"


def test_missing_and_old_node_are_told(bare):
    tools, checkout = bare
    (checkout / "web").mkdir()
    (checkout / "web/package-lock.json").write_text("{}")
    stub = tools / "python3"
    stub.write_text("#!/bin/sh\nexit 0\n")
    stub.chmod(0o755)
    fake = checkout / ".venv/bin"
    fake.mkdir(parents=True)
    shutil.copy(stub, fake / "python")
    done = script(tools, "api", root=checkout)
    assert "Node.js 20 or newer with npm is needed" in done.stderr and done.returncode == 1
    for name, body in (("node", "echo 18"), ("npm", "exit 0")):
        (tools / name).write_text(f"#!/bin/sh\n{body}\n")
        (tools / name).chmod(0o755)
    assert "this is Node 18" in script(tools, "api", root=checkout).stderr


def test_without_a_command_it_says_what_there_is(bare):
    done = script(bare[0], root=bare[1])
    assert done.returncode == 2 and "./rellux demo" in done.stderr


def start(folder, port, **environment):
    """Start Rellux on a folder where it is expected to refuse: (exit code, what it said)."""
    done = subprocess.run(
        [sys.executable, "-m", "rellux.launch", "serve", "--port", str(port)],
        env={**os.environ, "RELLUX_DATA": str(folder), "PYTHONPATH": str(ROOT / "src"), **environment},
        capture_output=True,
        text=True,
        timeout=60,
    )
    return done.returncode, done.stderr.strip()


def made(folder, *statements):
    with contextlib.closing(sqlite3.connect(folder / "rellux.sqlite3")) as base:
        for statement in statements:
            base.execute(statement)
        base.commit()


NEWER = ("CREATE TABLE django_migrations (app, name)", "INSERT INTO django_migrations VALUES ('rigs', '9999_later')")


def test_a_second_start_on_the_same_folder_is_told_the_first_address(tmp_path):
    with claim(tmp_path, "http://127.0.0.1:8499"):
        code, said = start(tmp_path, 18431)
    assert code == 2 and "http://127.0.0.1:8499" in said and len(said.splitlines()) == 1
    with claim(tmp_path, "http://127.0.0.1:8500"):
        pass  # free again as soon as the first has ended
    first = claim(tmp_path, "http://127.0.0.1:8501")
    first.__enter__()
    with pytest.raises(Unusable, match="8501"), claim(tmp_path, "z"):
        pass
    first.__exit__(None, None, None)
    with claim(tmp_path, "y"):  # while the first object still lives: it was released, not forgotten
        assert first


def test_the_lock_of_a_killed_rellux_is_free(tmp_path):
    holder = "import sys, time; from pathlib import Path; from rellux.folder import claim; "
    holder += "held = claim(Path(sys.argv[1]), 'x'); held.__enter__(); print('held', flush=True); time.sleep(60)"
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    process = subprocess.Popen(
        [sys.executable, "-c", holder, str(tmp_path)], stdout=subprocess.PIPE, env=environment, text=True
    )
    assert process.stdout.readline() == "held\n"
    with pytest.raises(Unusable, match="already runs"), claim(tmp_path, "y"):
        pass
    process.kill()
    process.wait()
    process.stdout.close()
    with claim(tmp_path, "y"):
        pass


@pytest.mark.parametrize(
    ("what", "says"), [("damaged", "is damaged"), ("newer", "a newer Rellux"), ("text", "is damaged")]
)
def test_what_cannot_be_started_is_said_in_a_sentence(tmp_path, what, says):
    if what == "newer":
        made(tmp_path, *NEWER)
    elif what == "text":
        (tmp_path / "rellux.sqlite3").write_text("this is a shopping list " * 100)
    elif what == "damaged":
        made(tmp_path, "CREATE TABLE t (x)", "INSERT INTO t SELECT hex(randomblob(9000))")
        with (tmp_path / "rellux.sqlite3").open("r+b") as file:
            file.seek(4096)
            file.write(b"\xff" * 4096)
    code, said = start(tmp_path, 18432)
    assert code == 2 and says in said and len(said.splitlines()) == 1


def test_a_start_prepares_just_what_is_not_prepared(tmp_path):
    assert not is_prepared(tmp_path, demo=False)
    environment = {**os.environ, "RELLUX_DATA": str(tmp_path)}
    subprocess.run([sys.executable, "-m", "rellux.server.manage", "prepare"], env=environment, cwd=ROOT, check=True)
    assert is_prepared(tmp_path, demo=False) and not is_prepared(tmp_path, demo=True)  # there is no rig in it
    with contextlib.closing(sqlite3.connect(tmp_path / "rellux.sqlite3")) as base:
        base.execute("DELETE FROM django_migrations WHERE app = 'rigs' AND name LIKE '0019%'")
        base.commit()
    assert not is_prepared(tmp_path, demo=False)
    (tmp_path / "rellux.sqlite3").write_bytes(b"not a database at all, but some bytes")
    assert not is_prepared(tmp_path, demo=False)


@pytest.mark.parametrize("port", ["0", "70000", "http", ""])
def test_a_port_that_does_not_exist_is_refused_in_words(tmp_path, port):
    code, said = start(tmp_path, port)
    assert code == 2 and "port" in said.lower() and "Traceback" not in said


def test_the_interface_is_built_once_and_its_stamp_is_of_its_sources():
    """`./rellux test` has built it before this runs: nothing is left to do, and the stamp is what the sources give."""
    names = [ROOT / "web" / name for name in ("index.html", "vite.config.ts", "package-lock.json")]
    for folder in ("src", "public"):
        names += [p for p in (ROOT / "web" / folder).rglob("*") if p.is_file()]
    ordered = sorted((str(p.relative_to(ROOT)) for p in names), key=lambda name: name.encode())
    data = b"".join((ROOT / name).read_bytes() for name in ordered)
    summed = (
        subprocess.run(["cksum"], input=data, capture_output=True, check=True).stdout.decode().replace(" ", "").strip()
    )
    assert (ROOT / "web/dist/.built").read_text() == summed
    assert not (ROOT / "web/.building").exists() and not (ROOT / "web/dist.next").exists()


WITHOUT_POSIX = """
import builtins, os, sys
HERE, REAL = os.path.dirname(os.__file__), builtins.__import__
GONE = {"fcntl", "resource", "pwd", "grp", "termios", "tty", "pty", "syslog"}
def without(name, globals=None, *rest, **more):
    by = (globals or {}).get("__file__") or ""
    if name in GONE and by and (not by.startswith(HERE) or "site-packages" in by):
        raise ImportError(f"no {name} on this system")
    return REAL(name, globals, *rest, **more)
builtins.__import__ = without
"""


@pytest.fixture(scope="module")
def wheel(tmp_path_factory):
    """What ``./rellux package`` makes, unpacked, beside a start-up file that takes away what only POSIX systems have."""
    folder = tmp_path_factory.mktemp("wheel")
    subprocess.run([ROOT / "rellux", "package", folder], check=True, capture_output=True)
    (made,) = folder.glob("rellux-*.whl")
    with zipfile.ZipFile(made) as packed:
        packed.extractall(folder / "site")
    (folder / "site/sitecustomize.py").write_text(WITHOUT_POSIX)
    return folder / "site"


def page(address, seconds=60.0):
    """The body at an address, once something answers there."""
    deadline = time.monotonic() + seconds
    while True:
        try:
            with urllib.request.urlopen(address, timeout=5) as answer:
                return answer.read().decode()
        except OSError:
            assert time.monotonic() < deadline, "it never answered"
            time.sleep(0.1)


@pytest.mark.long
def test_the_wheel_runs_without_checkout_node_or_posix_and_ends_with_its_launcher(wheel, tmp_path):
    port = free_port()
    environment = {
        "PYTHONPATH": str(wheel),
        "HOME": str(tmp_path),
        "XDG_DATA_HOME": str(tmp_path / "share"),
        "PATH": "",
    }
    command = [sys.executable, "-m", "rellux.launch", "serve", "--port", str(port)]
    with subprocess.Popen(
        command, env=environment, cwd=tmp_path, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
    ) as launcher:
        try:
            html = page(f"http://127.0.0.1:{port}/")
            script = re.search(r'src="(/app/assets/[^"]+)"', html)
            assert script and len(page(f"http://127.0.0.1:{port}{script[1]}")) > 10_000
            assert page(f"http://127.0.0.1:{port}/api/v1/rigs") == "[]"
            assert (tmp_path / "share/rellux/own/rellux.sqlite3").exists()
        finally:
            launcher.kill()
    until(lambda: port_is_free(port), 20)


def test_nothing_that_runs_is_for_one_system_only():
    modules = r"import (?:fcntl|resource|pwd|grp)|/proc/|/tmp/"
    calls = r"preexec_fn|SIGKILL|SIGHUP|SIGUSR|os\.(?:fork|kill|setsid|getuid|geteuid|statvfs|uname)\b"
    posix_only = re.compile(f"{modules}|{calls}")
    found = [str(p) for p in (ROOT / "src/rellux").rglob("*.py") if posix_only.search(p.read_text())]
    assert not found
