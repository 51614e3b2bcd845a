"""The app behind the real server, in a thread, for tests."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

import uvicorn
from fastapi import FastAPI

from keeve.store.cluster import free_port
from keeve.web.app import give_state, make_app
from keeve.web.edge.server import configured
from keeve.web.edge.settings import Settings

_built: dict[str, FastAPI] = {}


def app_as_new(settings: Settings) -> FastAPI:
    """An app that remembers nothing. It is built once: to read its routes takes longer than many a test."""
    key = repr(settings)
    if key in _built:
        give_state(_built[key])
    else:
        _built[key] = make_app(settings)
    return _built[key]


@contextmanager
def served(app: FastAPI) -> Iterator[str]:
    """Serve an app on a free port of loopback; gives its address."""
    port = free_port()
    server = uvicorn.Server(configured(app, port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(timeout=10)
