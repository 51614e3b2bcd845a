"""Station 4: do it, step by step."""

from keeve.web.stations.mixer import routes

ROUTERS = (routes.router,)
