"""Station 3: how it is dosed with what is at hand."""

from keeve.web.stations.loads import routes

ROUTERS = (routes.router,)
