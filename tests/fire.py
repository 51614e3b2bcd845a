"""A demo under fire: writers that go on whatever happens, and kills of the server and of its database, for tests."""

import contextlib
import http.client
import json
import os
import random
import re
import signal
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

from keeve.store.cluster import free_port

ROOT = Path(__file__).parents[1]
WAIT_S = 120
"""However busy the machine is."""


class Demo:
    """One `keeve demo`, or another command that serves, in a folder of its own."""

    def __init__(self, home: Path, command: str = "demo", port: int = 0) -> None:
        self.home, self.command, self.port = home, command, port or free_port()
        self.process: subprocess.Popen[str] | None = None
        self.address = ""

    def launch(self) -> None:
        """Start without waiting for it."""
        environment = {
            "PATH": os.environ["PATH"], "KEEVE_HOME": str(self.home), "KEEVE_ROOT": str(ROOT), "PYTHONUNBUFFERED": "1",
            "KEEVE_PORT": str(self.port),
        }  # fmt: skip
        self.process = subprocess.Popen(
            [sys.executable, "-m", "keeve.cli", self.command],
            env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
        )  # fmt: skip

    def start(self) -> "Demo":
        """Start, and wait until it says where it is."""
        self.launch()
        assert self.process is not None
        assert self.process.stdout is not None
        for line in self.process.stdout:
            found = re.search(r"http://127\.0\.0\.1:\d+", line)
            if found:
                self.address = found[0]
                return self
        raise AssertionError("it never said where it is")

    def stop(self, how: signal.Signals = signal.SIGINT) -> None:
        """Send a signal and wait for the end."""
        if self.process is None:
            return
        self.process.send_signal(how)
        self.process.wait(timeout=WAIT_S)
        assert self.process.stdout is not None
        self.process.stdout.close()
        self.process = None

    @property
    def database_pid(self) -> int | None:
        """Process of PostgreSQL; None while there is none."""
        with contextlib.suppress(OSError, ValueError, IndexError):
            pid = int((self.home / "postgres" / "data" / "postmaster.pid").read_text().splitlines()[0])
            if Path(f"/proc/{pid}").exists():
                return pid
        return None

    def kill_database(self) -> None:
        """Kill PostgreSQL as hard as can be, and wait until there is another."""
        pid = self.database_pid
        if pid is not None:
            os.kill(pid, signal.SIGKILL)
        wait_for(lambda: self.database_pid not in (None, pid))

    def get(self, path: str = "/") -> str:
        """Read a page."""
        request = urllib.request.Request(self.address + path, headers={"accept": "text/html"})
        with urllib.request.urlopen(request, timeout=WAIT_S) as answer:
            return str(answer.read().decode())


def wait_for(true: Any, seconds: float = WAIT_S) -> None:
    """Wait for a state."""
    until = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < until, "it never came to that"
        time.sleep(0.05)


class Writers:
    """People who tap, and tap again until they are told that it is kept; another puts files of the yard back in."""

    def __init__(self, address: str, many: int) -> None:
        page = urllib.request.urlopen(f"{address}/", timeout=WAIT_S)
        self.cookie = page.headers["set-cookie"].split(";")[0]
        html = page.read().decode()
        token = re.findall(r'name="token" content="([^"]+)"', html)[0]
        self._headers = {"cookie": self.cookie, "x-keeve-token": token, "content-type": "application/json"}
        self.job = re.findall(r'href="(/jobs/[^/"]+)/look-back"', html)[0]
        self._address = address
        self.token = token
        self.acked: list[str] = []
        self.restored = 0
        self._over = threading.Event()
        self._threads = [threading.Thread(target=self._write, args=(n,)) for n in range(many)]
        if many:
            self._threads.append(threading.Thread(target=self._restore))
        for thread in self._threads:
            thread.start()

    def _write(self, writer: int) -> None:
        seq = 0
        while not self._over.is_set():
            seq += 1
            tap = {
                "id": str(uuid4()), "kind": "poured", "load": 1, "mixer": "drum-small", "litres": 0.1,
                "phone": f"writer.{writer}", "seq": seq, "at": datetime.now(UTC).isoformat(),
            }  # fmt: skip
            while not self._sent(tap):
                if self._over.wait(0.05):
                    return

    def _restore(self) -> None:
        """Put files of this very yard, older and older, into it: nothing may come of that."""
        kept = b""
        while not self._over.wait(0.3):
            with contextlib.suppress(OSError, http.client.HTTPException):
                if not kept or self.restored % 3 == 0:
                    with urllib.request.urlopen(f"{self._address}/archive.jsonl", timeout=20) as answer:
                        kept = answer.read()
                if not kept.rstrip().splitlines()[-1].startswith(b'{"end"'):
                    kept = b""  # the server died while it was read
                    continue
                head, tail = self._form()
                headers = {"cookie": self.cookie, "content-type": "multipart/form-data; boundary=b"}
                asked = urllib.request.Request(f"{self._address}/archive/restore", head + kept + tail, headers)
                with urllib.request.urlopen(asked, timeout=60) as answer:
                    assert answer.status == 200
                    self.restored += 1

    def _form(self) -> tuple[bytes, bytes]:
        token = f'--b\r\ncontent-disposition: form-data; name="token"\r\n\r\n{self.token}\r\n'
        file = '--b\r\ncontent-disposition: form-data; name="file"; filename="yard.jsonl"\r\n\r\n'
        return (token + file).encode(), b"\r\n--b--\r\n"

    def _sent(self, tap: dict[str, Any]) -> bool:
        body = json.dumps({"sent_at": datetime.now(UTC).isoformat(), "events": [tap]}).encode()
        request = urllib.request.Request(f"{self._address}{self.job}/events", body, self._headers)
        try:
            with urllib.request.urlopen(request, timeout=20) as answer:
                found = json.loads(answer.read())
        except (OSError, http.client.HTTPException, ValueError):  # also an answer of which only half came
            return False
        assert found["refused"] == [], found
        assert [one["id"] for one in found["events"]] == [tap["id"]]
        self.acked.append(tap["id"])
        return True

    def end(self) -> None:
        """Let them go home."""
        self._over.set()
        for thread in self._threads:
            thread.join(WAIT_S)


def kept(address: str, job: str) -> list[dict[str, Any]]:
    """Read a whole log."""
    found: list[dict[str, Any]] = []
    while True:
        after = found[-1]["n"] if found else 0
        with urllib.request.urlopen(f"{address}{job}/events?after={after}", timeout=WAIT_S) as answer:
            more = json.loads(answer.read())["events"]
        if not more:
            return found
        found += more


@contextlib.contextmanager
def under_fire(home: Path, kills: int, seed: int) -> Iterator[tuple[Demo, Writers]]:
    """Kill the server and its database in turn, at moments nobody chose, while three people tap."""
    draw = random.Random(seed)
    demo = Demo(home).start()
    writers = Writers(demo.address, 3)
    try:
        for n in range(kills):
            enough = len(writers.acked) + draw.randint(1, 25)
            wait_for(lambda most=enough: len(writers.acked) >= most)
            if n % 4 == 0:  # some of the kills meet a yard that has just taken a file in, others one that is taking it
                restored = writers.restored
                wait_for(lambda most=restored: writers.restored > most)
            time.sleep(draw.random() * 0.05)
            if n % 2:
                demo.kill_database()
            else:
                demo.stop(signal.SIGKILL)
                demo.start()
        at_last = len(writers.acked) + 5
        wait_for(lambda: len(writers.acked) >= at_last)  # it is there again
        writers.end()
        yield demo, writers
    finally:
        writers.end()
        demo.stop()
