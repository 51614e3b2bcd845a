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
from keeve.web.edge.static_files import address_of, files, modules_of
from keeve.web.pages.render import page

router = APIRouter(tags=["offline"], responses=REFUSALS)
_FONT: Final = re.compile(r'url\("(vendor/[^"]+)"\)')
_LOOKS: Final = ("vendor/bootstrap/bootstrap.min.css", "fonts.css", "keeve.css", "icon.svg")
_PLAIN: Final = ("house/early.js", "vendor/alpine/alpine-csp.min.js", "workers/tick.js")
_ENTRIES: Final = ("run/mixer.js", "workers/stream.js", "house/page.js")
"""What a run page begins with; what those import is found by reading them."""


def shell() -> list[str]:
    """List the addresses of all that a run page needs to open without a network."""
    fonts = _FONT.findall(files()["fonts.css"].decode())
    return [address_of(path) for path in (*_LOOKS, *fonts, *_PLAIN, *modules_of(*_ENTRIES))]


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
    icon = {"src": address_of("icon.svg"), "sizes": "any", "type": "image/svg+xml"}
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
