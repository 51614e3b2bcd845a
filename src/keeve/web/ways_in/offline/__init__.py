"""What goes on without a network: the worker that keeps run pages, and the app as a phone installs it."""

from keeve.web.ways_in.offline import routes

ROUTERS = (routes.router,)
