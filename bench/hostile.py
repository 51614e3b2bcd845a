#!/usr/bin/env python3
"""Five hundred spoilt sheets on every page and fifty spoilt files: no failure, and how long the slowest answer took.

Run: .keeve/venv/bin/python bench/hostile.py     (some minutes; starts a demo of its own)
"""

import re
import sys
import tempfile
import time
from pathlib import Path

import httpx2 as httpx

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.fire import Demo
from tests.hostile import files, sheets
from tests.web.test_hostile import STATIONS, send_file

SHEETS = 500


class Timed(httpx.Client):
    """Notes how long each answer took."""

    took: list[tuple[float, str]] = []

    def send(self, request: httpx.Request, **more: object) -> httpx.Response:  # type: ignore[override]
        began = time.perf_counter()
        answer = super().send(request, **more)  # type: ignore[arg-type]
        self.took.append((time.perf_counter() - began, f"{request.method} {request.url.path}"))
        assert answer.status_code < 500, (request.url, answer.text[:400])
        return answer


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="keeve-hostile-") as name:
        home = Path(name)
        home.chmod(0o755)
        demo = Demo(home).start()
        try:
            with Timed(base_url=demo.address, timeout=120) as client:
                attack(client)
        finally:
            demo.stop()


def attack(client: Timed) -> None:
    html = client.get("/").text
    token = re.findall(r'name="token" content="([^"]+)"', html)[0]
    job = re.findall(r'href="(/jobs/[^/"]+)/loads"', html)[0]
    for sheet in sheets(SHEETS, seed=8):
        client.put(f"{job}/sheet", json={"sheet": sheet}, headers={"x-keeve-token": token})
        for view in ("measure", "mix", "loads"):
            client.post(f"{job}/answer?view={view}", json=sheet)
        for path in (
            *(f"{job}/{station}" for station in STATIONS),
            f"{job}/list.csv",
            f"{job}/list.xlsx",
            "/",
            "/book",
        ):
            assert client.get(path, headers={"accept": "text/html"}).status_code == 200, (path, sheet)
        client.post(f"{job}/begin", data={"token": token})
    slowest = max(client.took)
    print(f"{SHEETS} sheets: {len(client.took)} answers, the slowest in {slowest[0]:.2f} s ({slowest[1]})")
    client.took.clear()
    for name, content in files():
        began = time.perf_counter()
        said = send_file(client, token, job, name, content)  # type: ignore[arg-type]
        print(
            f"  {name:18} {time.perf_counter() - began:5.2f} s  {' '.join(re.sub('<[^>]+>', ' ', said).split())[:110]}"
        )
    slowest = max(client.took)
    print(f"{len(files())} files: the slowest answer in {slowest[0]:.2f} s ({slowest[1]})")


if __name__ == "__main__":
    main()
