"""The day: loads of several jobs on one line, held against the weather."""

from keeve.web.beside.day import routes, today

ROUTERS = (
    routes.router,
    today.router,
)
