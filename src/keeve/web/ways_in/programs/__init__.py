"""Programs that may change something for the crew."""

from keeve.web.ways_in.programs import routes

ROUTERS = (routes.router,)
