"""A phone joins by a code: the yard's own network, an authority of its own, and links to one run."""

from keeve.web.ways_in.lan import routes

ROUTERS = (routes.router,)
