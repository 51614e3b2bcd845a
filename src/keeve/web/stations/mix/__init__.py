"""Station 2: which mix goes in."""

from keeve.web.stations.mix import routes

ROUTERS = (routes.router,)
