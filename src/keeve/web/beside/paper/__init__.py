"""Paper: the ticket as it is printed, and the other files it is handed on in."""

from keeve.web.beside.paper import routes

ROUTERS = (routes.router,)
