"""Logs, and what they fold to: written into tests/fixtures/fold, where the core and the browser are held to them.

    .keeve/venv/bin/python -m tests.vectors

writes them anew after the fold was changed on purpose. Each log comes in the bits it is sent in.
"""

import json
import random
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any, Final, NamedTuple

from keeve.core.lessons.briefing import brief
from keeve.core.lessons.learning import HeapEvent, learn
from keeve.core.run.events import milliseconds, read_event
from keeve.core.run.folding import fold
from keeve.core.ticket.ticket import LoadKey, Ticket
from keeve.core.ticket.ticket_past import open_ticket
from tests.core.run.test_run import BOTH, DAMP, random_events, ticket_of
from tests.taps import BEGIN, Phone

MUCH: Final = [{"kind": "known", "volume_l": 1600}]
FOLDER: Final = Path(__file__).parent / "fixtures" / "fold"
Bits = list[list[dict[str, Any]]]
KINDS: Final = (
    "poured", "poured", "poured", "judged", "judged", "step_done", "step_back", "dry_added", "accepted", "accepted",
    "thrown_away", "undone", "undone", "one_more", "started", "settled", "measured", "weighed", "stage_seen", "briefed",
    "looked", "happened",
)  # fmt: skip


class Vector(NamedTuple):
    """A log over a set of tickets, in bits."""

    name: str
    tickets: str
    bits: Bits
    heap: tuple[tuple[int, str], ...] = ()
    """What was told of the heap in the yard: when [ms], and what."""

    @property
    def events(self) -> list[dict[str, Any]]:
        return [event for bit in self.bits for event in bit]


def ticket_sets() -> dict[str, dict[int, Ticket]]:
    """Tickets of several kinds: two moistures, ice, hemp, plaster that takes nothing, an admixture, a second round."""
    first = ticket_of(moisture_percent=DAMP)
    plaster = ticket_of(mix="casting-plaster-70", mixer=None)
    card = first.cards[0]
    no_water = card.water.model_copy(update={"pour": card.water.pour.model_copy(update={"low": 0, "target": 0})})
    dry = tuple(step.model_copy(update={"water_l": 0.0}) for step in card.steps)
    much = ticket_of(moisture_percent=DAMP, shapes=MUCH)
    sands = tuple(dose.model_copy(update={"role": "ballast"}) if dose.heap else dose for dose in much.cards[0].doses)
    again = first.model_copy(update={"revision": 2, "round": 2, "counted": (LoadKey(number=1, mixer="drum-site"),)})
    hemp = ticket_of(mix="hemp-lime-wall", mixer=None)
    screed = ticket_of(**SCREED, moisture_percent={"screed-sand": "wet"})
    return {
        "two": BOTH,
        "less to fill": {1: first, 2: ticket_of(2, already_m3=0.1, moisture_percent=DAMP)},
        "ice": {1: ticket_of(moisture_percent=DAMP, ice_percent=40).model_copy(update={"air_c": 31.0})},
        "can": {1: ticket_of(moisture_percent=DAMP, admixtures=[{"admixture": "plasticiser", "dose": "400 mL/100 kg"}])},
        "hemp": {1: hemp},
        "on a scale": {
            1: ticket_of(moisture_percent=DAMP, scales=["hanging-50"], measured={"sharp-sand": "scale"}),
        },
        "hemp, takes dry": {1: hemp.model_copy(update={"rescue": first.rescue})},
        "plaster": {1: plaster},
        "again": {1: first, 2: again},
        "one lost": {2: BOTH[2]},
        "screed": {1: screed},
        "screed, looked at again": {1: screed, 2: ticket_of(2, **SCREED, moisture_percent={"screed-sand": "damp"})},
        "screed, by a pan": {1: ticket_of(**SCREED, moisture_percent={"screed-sand": 5.2})},
        "screed, never looked at": {1: ticket_of(**SCREED)},
        "all in the heap": {1: first.model_copy(update={"cards": (card.model_copy(update={"water": no_water, "steps": dry}),)})},
        "two heaps": {1: much.model_copy(update={"cards": (much.cards[0].model_copy(update={"doses": sands}),)})},
        "designed": {1: ticket_of(mix="concrete-designed", moisture_percent=DAMP, shapes=MUCH)},
        "none": {},
    }  # fmt: skip


def random_vectors(many: int, seed: int = 20260914) -> Iterator[Vector]:
    """Taps without much sense: a fold must stand whatever fingers do."""
    rng, sets = random.Random(seed), list(ticket_sets())
    for n in range(many):
        name = sets[n % len(sets)]
        a, b = (rng.choices(KINDS, k=rng.randrange(16)) for _ in range(2))
        events = [event.model_dump(mode="json", exclude_none=True) for event in random_events(n, a, b)]
        if n % 3:  # mostly in the order they happened in, as phones with a network send them
            events.sort(key=lambda event: str(event["at"]))
        step = 1 + n % 2
        yield Vector(f"random {n}", name, [events[i : i + step] for i in range(0, len(events), step)])


def _poured_twice() -> Bits:
    """One pour told by two phones: the same litres at one moment, the same rest, and both at once."""
    a, b = Phone("a.1"), Phone("b.1")
    a.tap(0, "started", ticket=1)
    a.tap(1, "poured", litres=2.0)
    b.tap(1.01, "poured", litres=2.0)
    a.tap(1.5, "poured", litres=2.0, rest_of=4.0)
    b.tap(1.52, "poured", litres=2.0, rest_of=4.0)
    a.tap(2, "poured", litres=1.5, rest_of=6.0)
    b.tap(3, "poured", litres=1.0, rest_of=6.0)
    b.tap(3.5, "poured", litres=1.0)
    a.tap(4, "poured", litres=0.5, rest_of=9.0)
    b.tap(4.01, "poured", litres=0.5)
    a.tap(4.02, "poured", litres=0.5, rest_of=9.0)
    a.tap(5, "settled", about=b.raw[0]["id"], twice=True)
    return [a.raw, b.raw]


def _hot_and_late() -> Bits:
    """Its life was used up before anybody measured again."""
    phone = Phone()
    phone.tap(0, "started", ticket=1, slot=0)
    for step in range(6):
        phone.tap(1 + step, "step_done", step=step)
    phone.tap(7, "measured", what="slump", value=90.0)
    phone.tap(8, "measured", what="temperature", value=38.0)
    phone.tap(2000, "measured", what="temperature", value=20.0)
    phone.tap(2001, "measured", what="slump", value=80.0)
    return [[one] for one in phone.raw]


def _weighed(mixer: str, part: str) -> Bits:
    """One vessel of a dose was read, and then another; the load goes on."""
    phone = Phone(mixer=mixer)
    phone.tap(0, "started", ticket=1, slot=0)
    phone.tap(1, "weighed", part=part, vessel=0, kg=9.25)
    phone.tap(2, "weighed", part="a part of another ticket", vessel=0, kg=3.0)
    phone.tap(3, "poured", litres=4.0)
    phone.tap(4, "weighed", part=part, vessel=1, kg=8.75)
    phone.tap(5, "judged", verdict="wet")
    phone.tap(6, "accepted")
    return [[one] for one in phone.raw]


def _paced(mixer: str) -> Bits:
    """Stages that were seen of one bucket set the pace of the next."""
    phone = Phone(mixer=mixer)
    for n in range(3):
        phone.tap(30 * n, "started", ticket=1)
        if n == 2:
            phone.tap(30 * n + 0.5, "stage_seen", stage="cheese")  # before there was powder in it: says nothing
        for step in range(5):
            phone.tap(30 * n + 1 + step, "step_done", step=step)
        if not n:
            phone.tap(19, "stage_seen", stage="nothing of ours")
            phone.tap(20, "stage_seen", stage="cheese")
        phone.load += 1
    return [phone.raw]


def _ties() -> Bits:
    """One counter given twice, one moment for two, one id told anew, one that comes late: order is settled all the same."""
    a, b = Phone("a.1"), Phone("b.1")
    a.tap(0, "started", ticket=1, slot=0)
    for minutes in (2, 1, 1):
        a.tap(minutes, "poured", litres=minutes)
        a.raw[-1]["seq"] = 7
    b.tap(1, "poured", litres=3.0)
    twin = dict(b.tap(1, "poured", litres=4.0))
    earlier = twin | {"at": (BEGIN + timedelta(seconds=30)).isoformat()}
    later = twin | {"at": (BEGIN + timedelta(minutes=9)).isoformat()}
    same = [twin | {"phone": "c.1"}, twin | {"phone": "0.1"}, twin | {"seq": 1}, twin]
    late = dict(b.tap(0.5, "judged", verdict="dry")) | {"seq": 0}
    return [a.raw, b.raw[:2], b.raw[:2], [later], same, [earlier], [late], a.raw]


def _taken_back_first() -> Bits:
    """Taken back before it came, with another taking the taking back back."""
    a, b = Phone("a.1"), Phone("b.1")
    a.tap(0, "started", ticket=1, slot=0)
    pour = a.tap(1, "poured", litres=5.0)
    b.tap(0.5, "undone", undoes=pour["id"])
    b.tap(2, "undone", undoes=b.raw[0]["id"])
    a.mixer = "pan-150"
    begun = a.tap(3, "started", ticket=1)
    b.tap(2.5, "undone", undoes=begun["id"])
    return [b.raw[:1], a.raw[:2], b.raw[1:], a.raw[2:]]


def _lost() -> Bits:
    """A load that a later ticket had counted is thrown away: it is made up."""
    phone = Phone()
    phone.mix(0, 9.0, end="")
    phone.tap(8, "dry_added", dry_kg=2.0, parts={"nothing of the ticket": 2.0})
    phone.tap(9, "thrown_away")
    return [phone.raw]


def _from_a_newer_phone() -> Bits:
    """Kinds that are not known here, and known ones that tell more: neither ends, begins nor turns a load."""
    phone = Phone()
    phone.mix(0, 9.0, end="")
    phone.tap(2, "vibrated", seconds=20, deep={"as": ["it", "likes"]})
    phone.tap(3, "accepted_in_part", share=0.5)
    phone.raw[-1].pop("load")
    phone.tap(4, "poured", litres=0.5, by="hose")
    phone.tap(5, "undone", undoes=phone.raw[2]["id"])
    return [[one] for one in phone.raw]


def _wet(mixer: str) -> Bits:
    phone = Phone(mixer=mixer)
    phone.tap(0, "started", ticket=1, slot=0)
    phone.tap(1, "poured", litres=200.0)
    phone.tap(2, "judged", verdict="wet")
    phone.tap(3, "dry_added", dry_kg=3.0)
    phone.tap(4, "judged", verdict="wet")
    return [phone.raw]


def _dry_then_wet(verdict: str) -> Bits:
    phone = Phone()
    phone.tap(0, "started", ticket=1, slot=0)
    phone.tap(1, "poured", litres=8.0)
    phone.tap(2, "judged", verdict=verdict)
    phone.tap(3, "poured", litres=1.5)
    phone.tap(4, "judged", verdict="wet")
    return [phone.raw]


def _plain() -> Bits:
    phone = Phone()
    phone.mix(0, 9.0)
    phone.tap(20, "one_more", ticket=1)
    phone.mix(21, 8.0)
    return [phone.raw]


SCREED: Final[dict[str, Any]] = {
    "mix": "screed-semi-dry", "mixer": "pan-forced", "shapes": MUCH,
}  # fmt: skip
_DAY: Final = (0.0, 0.3, -0.5, 1.2, 3.0, 9.0, -3.0, 0.1, 14.0, 20.0, 30.0)
"""How much more each load of a day wanted than it was told [L]."""


def _ms(minutes: float) -> int:
    return milliseconds(BEGIN + timedelta(minutes=minutes))


def _by_briefs(
    tickets: dict[int, Ticket], *, us: bool = False, heap: tuple[HeapEvent, ...] = (), loads: int = 99
) -> Bits:
    """A day mixed by its briefs, by two hands in two mixers: sipped up, rescued, too wet as it is, a night between."""
    phone = Phone(mixer=tickets[1].mixer.key)
    first, minutes = phone.mixer, 0.0
    for number, more in enumerate(_DAY[:loads], 1):
        run = fold(tickets, phone.events)
        if run.next is None or len(run.to_fill) < 2:
            break
        told = brief(tickets[run.next.ticket], run.next, learn(run, tickets, heap), us=us)
        phone.load, phone.mixer = number, first if number != 6 else "drum-site#2"
        said = told.model_dump(mode="json", exclude_none=number % 2 == 0)
        phone.tap(minutes, "started", ticket=run.next.ticket, slot=run.next.slot, brief=said)
        for at, litres in enumerate(told.steps_l):
            if litres > 0:
                phone.tap(minutes + 1 + at, "poured", litres=round(litres, 4))
        if more > 0.2:
            phone.tap(minutes + 8, "judged", verdict="dry")
            phone.tap(minutes + 8.2, "poured", litres=more / 2)
            phone.tap(minutes + 8.4, "judged", verdict="dry")
            phone.tap(minutes + 8.6, "poured", litres=more / 2)
        if number == 3:
            phone.tap(minutes + 8.7, "judged", verdict="wet")
            phone.tap(minutes + 8.8, "dry_added", dry_kg=4.0)
        if number != 8:
            phone.tap(minutes + 9, "judged", verdict={5: "dry", 7: "wet"}.get(number, "right"))
        phone.tap(minutes + 12, "accepted")
        minutes += 900 if number == 4 else 20
    return [[one] for one in phone.raw]


def _looked_beside(tickets: dict[int, Ticket]) -> Bits:
    """A look that confirms, one that does not, rain and bags told, and a ticket that says what was looked at."""
    (taps,) = ([one for bit in _by_briefs({1: tickets[1]}, loads=4) for one in bit],)
    phone = Phone("b.1", tickets[1].mixer.key)
    phone.tap(25, "looked", of="screed-sand", look="wet", ticket=1)
    phone.tap(45, "happened", what="rain")
    phone.tap(46, "happened", what="bags", of="portland-cement")
    phone.tap(47, "looked", of="gravel of another job", look="dry", ticket=1)
    phone.tap(61, "looked", of="screed-sand", look="damp", ticket=1)
    return [taps, phone.raw]


def _another_morning(mixer: str) -> Bits:
    phone = Phone(mixer=mixer)
    phone.mix(0, 7.0, ticket=1)
    return [phone.raw]


def _looked_first(tickets: dict[int, Ticket]) -> Bits:
    phone = Phone("b.1", tickets[1].mixer.key)
    phone.tap(-9, "looked", of="screed-sand", look="dripping", ticket=1)
    phone.tap(0, "started", ticket=1, slot=0)
    return [phone.raw]


def _looked_at_meanwhile(tickets: dict[int, Ticket]) -> Bits:
    """A brief that changes before water, after it, and one that another phone poured by."""
    a, b = Phone("a.1", tickets[1].mixer.key), Phone("b.1", tickets[1].mixer.key)
    run = fold(tickets, [])
    assert run.next is not None
    told = brief(tickets[1], run.next, None)
    drier = told.model_copy(update={"why": "look", "leads": "sand", "target_l": told.target_l * 1.2, "ceiling_l": 99.0})
    wetter = told.model_copy(update={"why": "look", "ceiling_l": told.target_l * 0.9, "leads": "sand"})
    for load, named in ((1, False), (2, True), (3, False)):
        a.load = b.load = load
        began = a.tap(load * 20, "started", ticket=1, slot=load - 1, brief=told.model_dump(mode="json"))
        b.tap(load * 20 + 1, "briefed", brief=drier.model_dump(mode="json"))
        a.tap(load * 20 + 2, "poured", litres=2.0, **({"brief": began["id"]} if named else {}))
        if load < 3:
            b.tap(load * 20 + 3, "briefed", brief=wetter.model_dump(mode="json"))
            b.tap(load * 20 + 3.5, "started", ticket=1, slot=load - 1, brief=wetter.model_dump(mode="json"))
    a.load = 4
    a.tap(90, "poured", litres=1.0)
    a.tap(91, "briefed", brief=drier.model_dump(mode="json"))
    a.tap(92, "started", ticket=1, slot=3)
    return [a.raw, b.raw]


ASKED_L: Final = ((0.0, 0.0, 0.0), (6.0, 3.0, 8.0), (11.0, 10.2, 13.5), (14.0, 14.0, 14.0), (30.0, 15.0, 22.0))
"""Water the sand was reckoned to want, the first of it, and the most the mix bears [L]."""


def _by_the_sand(mixer: str) -> Bits:
    """Loads that begin with what the loads before told of the sand."""
    phone = Phone(mixer=mixer)
    for n, told in enumerate(ASKED_L):
        phone.tap(n, "started", ticket=1, **dict(zip(("expected_l", "first_l", "ceiling_l"), told, strict=True)))
        phone.load += 1
    return [phone.raw]


def _named_anew(vector: Vector) -> Vector:
    """The same with ids counted within it, so that one more changes no other."""
    text, ids = json.dumps(vector.bits), dict.fromkeys(event["id"] for event in vector.events)
    for n, old in enumerate(ids, 1):
        text = text.replace(old, f"00000000-0000-4000-9000-{n:012d}")
    return vector._replace(bits=json.loads(text))


def made() -> list[Vector]:
    """All that are kept."""
    sets = ticket_sets()
    plaster, hemp = sets["plaster"][1].mixer.key, sets["hemp"][1].mixer.key
    crafted = [
        Vector("one pour told twice", "two", _poured_twice()),
        Vector("used up before it was measured again", "ice", _hot_and_late()),
        Vector("one bucket sets the pace of the next", "plaster", _paced(plaster)),
        Vector("ties", "two", _ties()),
        Vector("taken back before it came", "two", _taken_back_first()),
        Vector("a counted load is lost", "two", _lost()),
        Vector("from a newer phone", "two", _from_a_newer_phone()),
        Vector("too wet, placed by its mass", "hemp, takes dry", _wet(hemp)),
        Vector("weighed pail by pail", "on a scale", _weighed("drum-site", "sharp-sand")),
        Vector("weighed, placed by its mass", "hemp", _weighed(hemp, "hemp-shiv")),
        Vector("too wet", "two", _wet("drum-site")),
        Vector("too dry, then too wet", "two", _dry_then_wet("dry")),
        Vector("right, then too wet", "two", _dry_then_wet("right")),
        Vector("no water to pour", "all in the heap", _plain()),
        *(
            Vector(f"by the sand, {name}", name, _by_the_sand("drum-site"))
            for name in ("two", "can", "hemp", "plaster")
        ),
        Vector("no ticket can be read", "none", _plain()),
        *(
            Vector(f"by the briefs, {name}", name, _by_briefs(sets[name], us=us, heap=heap), heap)
            for name, us, heap in (
                ("screed", False, (HeapEvent(_ms(65), "rain"),)),
                ("screed, by a pan", True, ()),
                ("two", False, ()),
                ("screed, never looked at", False, ()),
                ("screed, looked at again", True, (HeapEvent(_ms(-5), "rain"),)),
                ("can", True, ()),
                ("plaster", False, ()),
                ("two heaps", False, ()),
                ("designed", False, ()),
            )
        ),
        Vector("by the briefs, till it asks", "screed", _by_briefs(sets["screed"], loads=5)),
        Vector(
            "looked at beside the mixer", "screed, looked at again", _looked_beside(sets["screed, looked at again"])
        ),
        Vector("another morning", "screed, looked at again", _another_morning(sets["screed"][1].mixer.key)),
        Vector("looked at before the first load", "screed", _looked_first(sets["screed"])),
        Vector("looked at meanwhile", "screed", _looked_at_meanwhile(sets["screed"])),
    ]
    return [_named_anew(vector) for vector in (*crafted, *random_vectors(44))]


class Read(NamedTuple):
    """What a log is read as."""

    run: dict[str, Any]
    told: dict[str, Any] | None
    """What the loads tell, and the next load's brief for either reader."""


def read(tickets: dict[int, Ticket], vector: Vector) -> Read:
    run = fold(tickets, [read_event(event) for event in vector.events])
    if run.next is None:
        return Read(run.model_dump(mode="json"), None)
    learned = learn(run, tickets, [HeapEvent(*one) for one in vector.heap])
    ticket = tickets[run.next.ticket]
    briefs = [brief(ticket, run.next, learned, us=us).model_dump(mode="json") for us in (False, True)]
    return Read(run.model_dump(mode="json"), {"briefs": briefs, "asks": learned.asks if learned.next_l else ""})


def kept() -> tuple[dict[str, dict[int, Ticket]], list[tuple[Vector, Read]]]:
    """Read what is kept: the sets of tickets, and each log with its run and what it tells."""
    tickets = json.loads((FOLDER / "tickets.json").read_text(encoding="utf-8"))
    rows = [json.loads(line) for line in (FOLDER / "vectors.jsonl").read_text(encoding="utf-8").splitlines()]
    return (
        {name: {int(r): open_ticket(t) for r, t in one.items()} for name, one in tickets.items()},
        [
            (Vector(row["name"], row["tickets"], row["bits"], row["heap"]), Read(row["run"], row["told"]))
            for row in rows
        ],
    )


def main() -> None:
    sets = ticket_sets()
    FOLDER.mkdir(exist_ok=True)
    documents = {name: {r: t.model_dump(mode="json") for r, t in one.items()} for name, one in sets.items()}
    (FOLDER / "tickets.json").write_text(json.dumps(documents, separators=(",", ":")) + "\n", encoding="utf-8")
    lines = []
    for vector in made():
        found = read(sets[vector.tickets], vector)
        lines.append(json.dumps(vector._asdict() | found._asdict(), separators=(",", ":")) + "\n")
    (FOLDER / "vectors.jsonl").write_text("".join(lines), encoding="utf-8")


if __name__ == "__main__":
    main()
