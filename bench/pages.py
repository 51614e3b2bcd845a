#!/usr/bin/env python3
"""Each page of the demo beside a bare page, and beside the pages of another checkout if one is named.

The bare page is what the same framework gives at its quickest for the same bytes: one route, one Jinja template, one
indexed query of the same database, no guard, no cookie.

Run: .keeve/venv/bin/python bench/pages.py [FOLDER]     (starts demos of its own in folders for the time)

FOLDER is a checkout of another commit; its requirements must be met by this venv. Requests go in turn, and the other
way round each second time, so that neither a slow moment of the machine nor the place in the row favours one; what is
compared is the median of the ratios of neighbours. A checkout beside itself stands within three in a hundred of 1.
"""

import http.client
import json
import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
from contextlib import ExitStack
from pathlib import Path

HERE = Path(__file__).resolve().parents[1]
ROUNDS = 160
EDITS = 60
WARM = 12
PAGES = ("", "/measure", "/mix", "/loads", "/look-back")
BARE = """
import gc, jinja2, sys, uvicorn
from fastapi import FastAPI
from fastapi.responses import HTMLResponse
from sqlalchemy import text
from sqlalchemy.orm import Session
from keeve.store.database import make_engine
engine = make_engine(sys.argv[1])
pages = jinja2.Environment(autoescape=True)
page = pages.from_string("<p>{{ name }}</p>" + "{% for line in lines %}<p>{{ line }}</p>\\n{% endfor %}")
app = FastAPI()
@app.get("/{n}")
def bare(n: int):
    with Session(engine) as session:
        name = session.execute(text("select name from crews where id = (select id from crews limit 1)")).scalar_one()
    lines = ["x" * 400] * (n // 408)
    return HTMLResponse(page.render(name=name, lines=lines))
gc.freeze()
class Server(uvicorn.Server):
    async def startup(self, sockets=None):
        await super().startup(sockets)
        print(f"http://127.0.0.1:{self.servers[0].sockets[0].getsockname()[1]}", flush=True)
Server(uvicorn.Config(app, port=0, access_log=False, log_level="warning", lifespan="off")).run()
"""


def start(stack: ExitStack, folder: Path | None, url: str = "") -> tuple[http.client.HTTPConnection, str]:
    command = [sys.executable, "-c", BARE, url] if folder is None else [sys.executable, "-m", "keeve.cli", "demo"]
    env = dict(os.environ)
    home = stack.enter_context(tempfile.TemporaryDirectory(prefix="keeve-bench-"))
    if folder is not None:
        env |= {"PYTHONPATH": str(folder / "src"), "KEEVE_ROOT": str(folder), "KEEVE_HOME": home}
    process = stack.enter_context(
        subprocess.Popen(command, env=env, cwd=folder or HERE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
    )
    stack.callback(process.terminate)
    for line in process.stdout or ():
        found = re.search(rb"http://127\.0\.0\.1:(\d+)", line)
        if found:
            return http.client.HTTPConnection("127.0.0.1", int(found[1])), "" if folder is None else url_of(Path(home))
    raise SystemExit(f"no server from {folder}")


def url_of(home: Path) -> str:
    """Address of the database a demo keeps."""
    cluster = home / "postgres"
    port = (cluster / "data" / "postmaster.pid").read_text().splitlines()[3]
    return f"postgresql+psycopg://keeve:{(cluster / 'password').read_text().strip()}@127.0.0.1:{port}/keeve"


def get(server: http.client.HTTPConnection, path: str) -> tuple[float, bytes]:
    began = time.perf_counter()
    server.request("GET", path, headers={"Cookie": "keeve_visitor=bench"})
    answer = server.getresponse()
    body = answer.read()
    taken_ms = (time.perf_counter() - began) * 1000
    assert answer.status == 200, f"{path}: {answer.status}"
    return taken_ms, body


def pages_of(server: http.client.HTTPConnection) -> dict[str, str]:
    body = get(server, "/")[1].decode()
    href = next(a for a, name in re.findall(r'href="(/jobs/[^"/]+)[^"]*"[^>]*>(.*?)</a>', body, re.S) if "Gate" in name)
    found = {"jobs": "/"} | {path[1:]: href + path for path in PAGES if path}
    server.request("GET", f"{href}/mixer", headers={"Cookie": "keeve_visitor=bench"})
    at_mixer = server.getresponse()
    at_mixer.read()
    return found | ({"mixer": f"{href}/mixer"} if at_mixer.status == 200 else {}) | {"book": "/book"}


def after_edits(mine: http.client.HTTPConnection, bare: http.client.HTTPConnection, name: str, path: str) -> None:
    body = get(mine, path)[1].decode()
    token = re.findall(r'name="token" content="([^"]+)"', body)[0]
    sheet = json.loads(re.findall(r'<script type="application/json" data-sheet>(.*?)</script>', body, re.S)[0])
    taken = []
    for i in range(EDITS):
        write = json.dumps({"sheet": sheet | {"waste_percent": str(3 + i % 7)}})
        headers = {"Cookie": "keeve_visitor=bench", "X-Keeve-Token": token, "Content-Type": "application/json"}
        mine.request("PUT", path.rsplit("/", 1)[0] + "/sheet", write, headers)
        answer = mine.getresponse()
        assert answer.status == 200, answer.read()
        answer.read()
        took, page = get(mine, path)
        taken.append((took, get(bare, f"/{len(page)}")[0]))
    ms, bare_ms = statistics.median(t[0] for t in taken[WARM:]), statistics.median(t[1] for t in taken[WARM:])
    print(f"{name:10} {len(page):7} {ms:7.2f} {bare_ms:8.2f} {ms / bare_ms:8.2f}")


def main() -> None:
    other = Path(sys.argv[1]).resolve() if len(sys.argv) > 1 else None
    with ExitStack() as stack:
        mine, url = start(stack, HERE)
        bare, _ = start(stack, None, url)
        theirs = start(stack, other)[0] if other else None
        there = pages_of(theirs) if theirs else {}
        print(
            f"{'page':10} {'bytes':>7} {'ms':>7} {'bare ms':>8} {'to bare':>8}" + ("  to the other" if theirs else "")
        )
        for name, path in pages_of(mine).items():
            size = len(get(mine, path)[1])
            asked = [(mine, path), (bare, f"/{size}")]
            if theirs and name in there:
                asked.append((theirs, there[name]))
            taken: list[list[float]] = []
            for i in range(WARM + ROUNDS):
                turn = asked[::-1] if i % 2 else asked
                times = [get(server, address)[0] for server, address in turn]
                if i >= WARM:
                    taken.append(times[::-1] if i % 2 else times)
            ms, bare_ms = statistics.median(t[0] for t in taken), statistics.median(t[1] for t in taken)
            beside = statistics.median(t[0] / t[2] for t in taken) if len(asked) > 2 else 0.0
            print(
                f"{name:10} {size:7} {ms:7.2f} {bare_ms:8.2f} {ms / bare_ms:8.2f}"
                + (f" {beside:8.3f}" if beside else "")
            )
        print("\nfirst seen after an edit")
        for name, path in pages_of(mine).items():
            if name in ("measure", "mix", "loads"):
                after_edits(mine, bare, name, path)


main()
