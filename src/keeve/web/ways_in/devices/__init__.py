"""Scales and meters on the run page."""

from keeve.web.ways_in.devices import routes

ROUTERS = (routes.router,)
