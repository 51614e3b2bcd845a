"""Taking in what was measured elsewhere: lists, drawings, meshes."""

from keeve.web.ways_in.imports import models, routes

ROUTERS = (
    routes.router,
    models.router,
)
