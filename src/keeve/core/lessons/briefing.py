"""One load, one brief: ticket, run and what was learned of the sand brought together for the load that comes next.

`static/run/brief.js` is its twin: the phone that shows a brief writes it, with a network or without.
"""

from keeve.core.lessons.learning import Learning
from keeve.core.run.brief import Believed, Brief, Lead, written
from keeve.core.run.models import NextLoad
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.ticket import Ticket


def mark_l(card: TicketCard, *, us: bool) -> float:
    """Return the smallest mark of what a load's water is measured with, as it is read [L]. Plain arithmetic."""
    by = card.water.by
    return by.us_step_l if us and by.us_step_l > 0 else by.step_l


def brief(ticket: Ticket, following: NextLoad, learned: Learning | None, *, us: bool = False) -> Brief:
    """Write what is told of the next load.

    Parameters
    ----------
    ticket : it is mixed from
    following : the load
    learned : what the loads tell of the heap; None where nobody asks
    us : whether its reader reads the other side of a jug

    Returns
    -------
    its brief: led by the sand where the loads told of it, by the last load that was right, else by the ticket

    References
    ----------
    House ruling; figures as `moisture_filter.water_for` and `run.brief.written`.
    """
    card = ticket.cards[following.card]
    water = card.water.pour
    lead = Lead("ticket", water.target, None, water.high)
    if learned is not None and learned.next_l is not None and learned.now is not None:
        three = learned.next_l
        lead = Lead("sand", three.expected_l, three.first_l, three.ceiling_l)
    elif following.taught_by is not None:
        lead = Lead("load", following.aim_l, None, water.high, following.taught_by)
    told = written(card, lead, mark_l(card, us=us))
    believed = None
    if lead.leads == "sand" and learned is not None and learned.now is not None:
        believed = Believed(percent=learned.now.percent, sd_percent=learned.now.sd, at_ms=learned.at_ms)
    return told.model_copy(update={"card": following.card, "believed": believed})
