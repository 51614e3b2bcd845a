"""Before the first load: what is looked at, the air, and what happened since."""

from keeve.web.beside.before import air, routes

ROUTERS = (
    routes.router,
    air.router,
)
