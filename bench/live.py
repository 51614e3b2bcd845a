#!/usr/bin/env python3
"""A hundred phones on one run, twenty of them tapping: how long a tap takes to each, and pages meanwhile.

Run: .keeve/venv/bin/python bench/live.py [PHONES] [TAPPING]     beside the same with one phone that taps and hears
"""

import asyncio
import json
import statistics
import sys
import tempfile
import time
import urllib.request
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.fire import Demo, Writers

SECONDS = 12
BETWEEN_S = 1.0


class Line:
    """One connection that is kept, and what is asked on it."""

    def __init__(self, address: str, cookie: str) -> None:
        self.host, self.cookie = address.removeprefix("http://"), cookie

    async def open(self) -> "Line":
        host, port = self.host.split(":")
        self.reader, self.writer = await asyncio.open_connection(host, int(port), limit=2**22)
        return self

    async def ask(self, path: str, body: bytes = b"", token: str = "") -> float:
        """Ask, and read the answer whole; how long it took [s]."""
        began = time.perf_counter()
        more = (
            f"x-keeve-token: {token}\r\ncontent-type: application/json\r\ncontent-length: {len(body)}\r\n"
            if body
            else ""
        )
        head = (
            f"{'POST' if body else 'GET'} {path} HTTP/1.1\r\nhost: {self.host}\r\ncookie: {self.cookie}\r\n{more}\r\n"
        )
        self.writer.write(head.encode() + body)
        status = await self.reader.readline()
        assert b" 200 " in status, status
        length, chunked = 0, False
        while (line := await self.reader.readline()) != b"\r\n":
            length = int(line.split(b":")[1]) if line.lower().startswith(b"content-length") else length
            chunked |= line.lower().startswith(b"transfer-encoding")
        while chunked:
            size = int(await self.reader.readline(), 16)
            await self.reader.readexactly(size + 2)
            chunked = size > 0
        await self.reader.readexactly(length)
        return time.perf_counter() - began


async def hear(
    address: str, cookie: str, path: str, sent: dict[str, float], took: list[float], ready: asyncio.Event
) -> None:
    line = await Line(address, cookie).open()
    line.writer.write(f"GET {path} HTTP/1.1\r\nhost: {line.host}\r\ncookie: {cookie}\r\n\r\n".encode())
    while True:
        text = await line.reader.readline()
        assert text, "the stream ended"
        if text.startswith(b"event: ticket"):
            ready.set()
        if text.startswith(b"data: {") and b'"litres"' in text:
            id_ = json.loads(text[6:])["id"]
            if id_ in sent:
                took.append(time.perf_counter() - sent[id_])


def event_of(who: str, load: int, seq: int) -> dict[str, object]:
    now = datetime.now(UTC).isoformat()
    return {"id": str(uuid4()), "kind": "poured", "load": load, "mixer": "drum-small", "litres": 0.001,
            "rest_of": seq / 1000, "phone": f"{who}.1", "seq": seq, "at": now}  # fmt: skip


async def send(line: Line, writers: Writers, event: dict[str, object]) -> None:
    body = json.dumps({"sent_at": event["at"], "events": [event]}).encode()
    await line.ask(f"{writers.job}/events", body, writers.token)


async def tap(address: str, writers: Writers, n: int, sent: dict[str, float], until: float) -> None:
    line = await Line(address, writers.cookie).open()
    seq = 0
    await asyncio.sleep(n * BETWEEN_S / 20)
    while time.perf_counter() < until:
        seq += 1
        event = event_of(f"live{n}", 70 + n, seq)
        sent[str(event["id"])] = time.perf_counter()
        await send(line, writers, event)
        await asyncio.sleep(BETWEEN_S)


async def look(address: str, writers: Writers, paths: list[str], until: float) -> dict[str, float]:
    """Look at pages, each worked out anew: a tap of one's own comes before every look."""
    line = await Line(address, writers.cookie).open()
    found: dict[str, list[float]] = {path: [] for path in paths}
    seq = 0
    while time.perf_counter() < until:
        for path in paths:
            seq += 1
            await send(line, writers, event_of("look", 61, seq))
            found[path].append(await line.ask(path))
        await asyncio.sleep(0.1)
    return {path: statistics.median(times) * 1000 for path, times in found.items()}


async def live(address: str, writers: Writers, phones: int, tapping: int) -> tuple[float, float, dict[str, float]]:
    sent: dict[str, float] = {}
    took: list[float] = []
    with_n = json.loads(urllib.request.urlopen(f"{address}{writers.job}/events?after=0").read())["n"]
    ready = [asyncio.Event() for _ in range(phones)]
    path = f"{writers.job}/stream?after={with_n}"
    hearing = [asyncio.create_task(hear(address, writers.cookie, path, sent, took, one)) for one in ready]
    await asyncio.gather(*(one.wait() for one in ready))
    until = time.perf_counter() + SECONDS
    pages = asyncio.create_task(look(address, writers, [f"{writers.job}/mixer", "/", "/clocks"], until))
    await asyncio.gather(*(tap(address, writers, n, sent, until) for n in range(tapping)))
    shown = await pages
    await asyncio.sleep(1)
    for task in hearing:
        task.cancel()
    await asyncio.gather(*hearing, return_exceptions=True)
    assert len(took) == len(sent) * phones, (len(took), len(sent) * phones)
    ordered = sorted(took) or [0.0]
    return statistics.median(ordered) * 1000, ordered[int(len(ordered) * 0.95)] * 1000, shown


def main() -> None:
    phones = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    tapping = int(sys.argv[2]) if len(sys.argv) > 2 else 20
    with tempfile.TemporaryDirectory(prefix="keeve-live-") as name:
        home = Path(name)
        home.chmod(0o755)
        demo = Demo(home).start()
        try:
            writers = Writers(demo.address, 0)
            idle = asyncio.run(live(demo.address, writers, 0, 0))[2]
            one = asyncio.run(live(demo.address, writers, 1, 1))
            many = asyncio.run(live(demo.address, writers, phones, tapping))
        finally:
            demo.stop()
    for who, (median, late, shown) in (("1 phone", one), (f"{phones} phones, {tapping} tapping", many)):
        print(f"{who:28} tap to phone {median:6.1f} ms, 95th percentile {late:6.1f} ms")
        for path, ms in shown.items():
            print(f"    {path.replace(writers.job, '…'):12} {ms:6.1f} ms, {ms / idle[path]:4.1f} times idle")


if __name__ == "__main__":
    main()
