"""The strip of clocks that runs on every page."""

from keeve.web.beside.clocks import routes

ROUTERS = (routes.router,)
