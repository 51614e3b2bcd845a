"""The list of jobs, and the reader's own settings."""

from keeve.web.beside.jobs import place, routes

ROUTERS = (
    routes.router,
    place.router,
)
