"""The run of a job: its log folded over its tickets. The only reader of a log; `static/run/fold.js` is its twin."""

from collections.abc import Iterable, Mapping

from keeve.core.run.clocks import set_pace
from keeve.core.run.events import Event
from keeve.core.run.models import Run
from keeve.core.run.raw_loads import Loads, read_into
from keeve.core.run.rest import heap_told, next_load, to_fill, used_kg
from keeve.core.run.state import state_of
from keeve.core.run.tap_order import Tap, TapOrder
from keeve.core.run.teaching import eras_of, teach, teaches
from keeve.core.ticket.ticket import Ticket


class Folding:
    """The log of a job as it is read: what comes later is read on from there."""

    def __init__(self, tickets: Mapping[int, Ticket]) -> None:
        self.tickets = dict(tickets)
        self._order = TapOrder()
        self._loads: Loads = {}

    def take(self, events: Iterable[Event]) -> "Folding":
        """Read further entries, in any order.

        Parameters
        ----------
        events : those that are known are not read again

        Returns
        -------
        itself

        References
        ----------
        Common practice, no source.
        """
        stood = self._order.take(events)
        if stood == 0:
            self._loads = {}
        read_into(self._loads, self._order.standing, stood, self.tickets)
        return self

    @property
    def taps(self) -> list[Tap]:
        """All taps in the order they happened, what was taken back among them."""
        return self._order.taps

    def run(self) -> Run:
        """Say how the run stands. Common practice, no source."""
        taps, loads, tickets = self._order.standing, list(self._loads.values()), self.tickets
        for load in loads:
            load.count()
        eras = eras_of(tickets)
        teachers = sorted((load for load in loads if teaches(load, tickets)), key=lambda load: -load.end_at)
        for load in loads:
            teach(load, teachers, tickets, eras)
        for load in loads:
            set_pace(load, loads, tickets)
        states = tuple(state_of(load, tickets) for load in sorted(loads, key=lambda one: (one.number, one.first)))
        now = max(tickets) if tickets else None
        slots = to_fill(tickets, now, loads, taps)
        following = next_load(tickets, now, loads, teachers, eras, slots)
        current = tickets[now] if now is not None else None
        round_ = [s for s in states if current and s.ticket in tickets and tickets[s.ticket].round == current.round]
        return Run(
            ticket=now,
            loads=states,
            to_fill=tuple(card for _, card in slots),
            made_m3=sum(s.made_m3 for s in round_ if s.ended == "accepted"),
            thrown_m3=sum(s.made_m3 for s in round_ if s.ended == "thrown_away"),
            to_make_m3=sum(current.cards[card].volume_m3 for _, card in slots) if current else 0.0,
            next=following,
            used_kg=used_kg(states, tickets),
            poured_l=sum(s.poured_l for s in states),
            heap=heap_told(taps),
            done=bool(states) and not slots and all(s.ended for s in states),
            standing=tuple(tap.event.id for tap in taps),
        )


def fold(tickets: Mapping[int, Ticket], events: Iterable[Event]) -> Run:
    """Read the log of a job.

    Parameters
    ----------
    tickets : the job's tickets by revision; one that cannot be read is not among them
    events : the job's log in any order

    Returns
    -------
    the run as it stands; the same for every order of arrival

    References
    ----------
    Common practice, no source.
    """
    return Folding(tickets).take(events).run()
