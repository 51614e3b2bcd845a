"""The listeners on the yard's own network, beside the one on loopback; only started when somebody asks for them."""

import hashlib
import socket
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.responses import HTMLResponse, Response

from keeve.store.cluster import ClusterError
from keeve.web.edge.server import Beside, Listener, configured
from keeve.web.edge.static_files import STATIC
from keeve.web.pages.render import environment_in
from keeve.web.ways_in.lan.authority import Address, Papers, own_addresses, own_names, papers
from keeve.words.catalogues import ENGLISH
from keeve.words.reader import METRIC


class Lan:
    """Two listeners on one private address: the runs behind TLS, and in the open the page that explains the trust."""

    def __init__(self, folder: Path, port: int, address: Address | None = None) -> None:
        found = [address] if address else own_addresses()
        if not found:
            raise ClusterError("This machine has no private network: nobody could come over it. Start without --lan.")
        self.address = found[0]
        self.names = own_names()
        self.papers: Papers = papers(folder, found, self.names)
        self._runs = _bound(self.address, port)
        self._trust = _bound(self.address, port + 1)
        host = f"[{self.address}]" if self.address.version == 6 else str(self.address)
        self.runs_at = f"https://{host}:{self._runs.getsockname()[1]}"
        self.trust_at = f"http://{host}:{self._trust.getsockname()[1]}"

    @property
    def hosts(self) -> str:
        """Return the names a phone may ask for."""
        return ", ".join([str(self.address), *self.names])

    def beside(self, app: FastAPI) -> list[Listener]:
        """Return the listeners, each with its socket."""
        tls = {"ssl_certfile": str(self.papers.leaf), "ssl_keyfile": str(self.papers.key)}
        runs = configured(app, lifespan="off", log_level="warning", **tls)
        trust = configured(trust_app(self.papers, self.hosts), lifespan="off", log_level="warning")
        return [(Beside(runs), self._runs), (Beside(trust), self._trust)]


def _bound(address: Address, port: int) -> socket.socket:
    """Return a socket on the first free port from one on."""
    family = socket.AF_INET6 if address.version == 6 else socket.AF_INET
    for tried in (*range(port, port + 20), 0):
        bound = socket.socket(family, socket.SOCK_STREAM)
        bound.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            bound.bind((str(address), tried))
        except OSError:
            bound.close()
            continue
        return bound
    raise ClusterError(f"No port is free on {address}.")


def trust_app(found: Papers, names: str) -> FastAPI:
    """Build the little app that hands out the yard's certificate and says what it is for; it holds nothing else."""
    app = FastAPI(docs_url=None, redoc_url=None, openapi_url=None)
    der = found.authority.read_bytes()
    digest = hashlib.sha256(der).hexdigest().upper()
    fingerprint = " ".join(digest[i : i + 4] for i in range(0, len(digest), 4))
    told: dict[str, Any] = {"reader": METRIC, "names": names, "fingerprint": fingerprint}
    html = environment_in(ENGLISH).get_template("lan/trust.html").render(told)
    plain = {"x-content-type-options": "nosniff", "content-security-policy": "default-src 'self'"}

    @app.get("/")
    async def explained() -> HTMLResponse:
        return HTMLResponse(html, headers=plain)

    @app.get("/keeve.css")
    async def style() -> Response:
        return Response((STATIC / "keeve.css").read_bytes(), media_type="text/css", headers=plain)

    @app.get("/keeve-yard.crt")
    async def certificate() -> Response:
        return Response(der, media_type="application/x-x509-ca-cert", headers=plain)

    return app
