"""Every pattern of the pages on one page."""

from keeve.web.beside.patterns import routes

ROUTERS = (routes.router,)
