"""Doors for other programs."""

from keeve.web.ways_in.api import routes

ROUTERS = (routes.router,)
