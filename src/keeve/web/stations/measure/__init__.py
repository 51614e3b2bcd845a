"""Station 1: what has to be filled."""

from keeve.web.stations.measure import routes

ROUTERS = (routes.router,)
