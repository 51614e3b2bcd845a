"""Station 5: what happened, and what to change."""

from keeve.web.stations.look_back import afterwards, crew_log, notes, own, pin, proofs, record, routes, traced

ROUTERS = tuple(one.router for one in (routes, proofs, notes, pin, traced, afterwards, record, crew_log, own))
