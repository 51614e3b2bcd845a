"""The mix book: every mix that ships and the crew's own, to find, set side by side, copy and change."""

from keeve.web.beside.book import own_admixtures, routes, sands

ROUTERS = (
    routes.router,
    sands.router,
    own_admixtures.router,
)
