"""What the crew owns: its vessels."""

from keeve.web.beside.yard import archive, routes, stock

ROUTERS = (
    routes.router,
    stock.router,
    archive.router,
)
