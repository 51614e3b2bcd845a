"""The words of the trade, explained where they stand."""

from keeve.web.beside.glossary import routes

ROUTERS = (routes.router,)
