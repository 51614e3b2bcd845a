"""The whole program as a person starts and stops it."""

import json
import os
import re
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import psycopg
import pytest

from tests.prose import PROSE

ROOT = Path(__file__).parents[2]


def start(home: Path, command: str) -> tuple[subprocess.Popen[str], str]:
    environment = {
        "PATH": os.environ["PATH"],
        "KEEVE_HOME": str(home),
        "KEEVE_ROOT": str(ROOT),
        "PYTHONUNBUFFERED": "1",
    }
    process = subprocess.Popen(
        [sys.executable, "-m", "keeve.cli", command],
        env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    assert process.stdout is not None
    for line in process.stdout:
        found = re.search(r"http://127\.0\.0\.1:\d+", line)
        if found:
            return process, found[0]
    raise AssertionError("it never said where it is")


@pytest.mark.parametrize("stop", [signal.SIGINT, signal.SIGTERM])
def test_the_demo_serves_and_leaves_nothing_running(tmp_path: Path, stop: signal.Signals) -> None:
    tmp_path.chmod(0o755)
    process, address = start(tmp_path, "demo")
    with urllib.request.urlopen(address, timeout=5) as answer:
        assert "Lantern Yard" in answer.read().decode()
    pid = int((tmp_path / "postgres" / "data" / "postmaster.pid").read_text().splitlines()[0])
    process.send_signal(stop)
    process.wait(timeout=20)
    for _ in range(100):
        try:
            os.kill(pid, 0)
        except ProcessLookupError:
            break
        time.sleep(0.05)
    else:
        pytest.fail("PostgreSQL is still running")
    assert process.stdout is not None
    process.stdout.close()


def test_a_user_may_bring_a_database_of_his_own(database_url: str, tmp_path: Path) -> None:
    environment = os.environ | {"KEEVE_HOME": str(tmp_path), "KEEVE_ROOT": str(ROOT), "DATABASE_URL": database_url}
    done = subprocess.run(
        [sys.executable, "-m", "keeve.cli", "setup"], env=environment, capture_output=True, text=True, check=True
    )
    assert PROSE["keeve-is-set-up"] in done.stdout
    assert not (tmp_path / "postgres").exists()
    with psycopg.connect(database_url.replace("+psycopg", "")) as connection:
        assert connection.execute("select count(*) from crews").fetchone() == (0,)


def test_the_open_api_document_is_whole() -> None:
    from keeve.web.app import make_app
    from keeve.web.edge.settings import Settings

    document = make_app(Settings(database_url="postgresql+psycopg://127.0.0.1:1/x", secret="s")).openapi()
    text = json.dumps(document)
    assert "/api/plan" in document["paths"]
    assert "/jobs" in document["paths"]
    for reference in re.findall(r'"#/components/schemas/([^"]+)"', text):
        assert reference in document["components"]["schemas"]
