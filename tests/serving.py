"""The app behind the real server, in a thread, for tests."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

import uvicorn
from fastapi import FastAPI

from keeve.store.cluster import free_port
from keeve.web.server import configured


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
