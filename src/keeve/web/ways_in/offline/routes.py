"""The service worker, the app's manifest, and the page that stands in where nothing was kept."""

import hashlib
import json
import re
from functools import cache
from pathlib import Path
from typing import Any, Final

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, PlainTextResponse, Response

from keeve.web.edge.answers import PAGE, REFUSALS, file_of
from keeve.web.pages.render import STATIC, page, static_hash

router = APIRouter(tags=["offline"], responses=REFUSALS)
_FONT: Final = re.compile(r'url\("(vendor/[^"]+)"\)')
_ON_RUN_PAGES: Final = (
    "vendor/bootstrap/bootstrap.min.css", "fonts.css", "keeve.css", "icon.svg", "early.js", "words.js", "run_time.js",
    "alarms.js", "run_taps.js", "run_fold.js", "run_queue.js", "run_source.js", "run_stream.js", "run_clocks.js",
    "run_beside.js", "weighing.js", "mixer.js", "house.js", "clocks.js", "offline.js",
    "vendor/alpine/alpine-csp.min.js", "stream_worker.js", "tick_worker.js",
)  # fmt: skip
"""What a run page needs to open without a network."""


def shell() -> list[str]:
    """List the addresses of all that a run page needs."""
    fonts = _FONT.findall((STATIC / "fonts.css").read_text(encoding="utf-8"))
    return [f"/static/{path}?v={static_hash(path)}" for path in _ON_RUN_PAGES] + [f"/static/{path}" for path in fonts]


@cache
def _worker() -> str:
    text = Path(__file__).with_name("worker.js").read_text(encoding="utf-8")
    kept = json.dumps(shell())
    version = hashlib.sha256((text + kept).encode()).hexdigest()[:12]
    return text.replace("__VERSION__", version).replace("__SHELL__", kept)


@router.get("/worker.js", name="worker", **file_of("text/javascript"))
async def worker() -> Response:
    """Give the service worker; its text changes with whatever it keeps."""
    return PlainTextResponse(_worker(), media_type="text/javascript", headers={"cache-control": "no-cache"})


@router.get("/manifest.webmanifest", name="manifest", **file_of("application/manifest+json"))
async def manifest() -> Response:
    """Say how a phone installs the app."""
    icon = {"src": f"/static/icon.svg?v={static_hash('icon.svg')}", "sizes": "any", "type": "image/svg+xml"}
    told: dict[str, Any] = {
        "name": "Keeve",
        "short_name": "Keeve",
        "start_url": "/",
        "display": "standalone",
        "background_color": "#f3efe2",
        "theme_color": "#1d2a24",
        "icons": [icon],
    }
    return JSONResponse(told, media_type="application/manifest+json")


@router.get("/offline", name="offline", **PAGE)
def offline(request: Request) -> Response:
    """Show what stands in for a page that was not kept."""
    return page(request, "offline/page.html")
