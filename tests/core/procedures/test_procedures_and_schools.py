"""Steps as practice has them, and schools: each way that is not Keeve's own changes the plan or the steps, and says so."""

from typing import Any

import pytest
from pydantic import ValidationError

from keeve.catalogue import load_catalogue
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from keeve.core.mixes.mix import Mix, School
from keeve.core.mixes.schools import with_schools
from keeve.core.procedures.procedure import Procedure
from keeve.core.procedures.procedure_rules import check_order
from keeve.core.ticket.ticket import Ticket
from keeve.core.vessels.vessels import MixerKind
from tests.conftest import Planner, Ticketer
from tests.prose import PROSE

CATALOGUE = load_catalogue()
SMALL = {"shapes": [{"kind": "known", "volume_l": 10}], "strategy": "equal"}
WAYS = [
    (mix.key, school.key, way.key)
    for mix in CATALOGUE.mixes.values()
    for school in mix.schools
    for way in school.ways
    if way.key != school.default
]


def ticket_of(ticketed: Ticketer, mix: str, **more: Any) -> Ticket:
    try:
        return ticketed(mix=mix, **SMALL, **more)
    except TradeError:  # a whole pack is more than that
        return ticketed(mix=mix, shapes=[{"kind": "known", "volume_l": 40}], **more)


def told(ticket: Ticket) -> tuple[Any, ...]:
    """What a person mixes by: steps and times, doses as measured, life, what may still be done, and how much."""
    steps = [(plain(s.title), plain(s.detail), s.seconds) for s in ticket.cards[0].steps]
    doses = [(d.key, round(d.dry_kg, 6), d.fill) for d in ticket.cards[0].doses]
    return steps, doses, ticket.life_min, plain(ticket.rescue.stiffened), round(ticket.order_m3, 9)


@pytest.mark.parametrize(("mix", "school", "way"), WAYS)
def test_every_way_changes_something_and_says_what(mix: str, school: str, way: str, ticketed: Ticketer) -> None:
    usual = ticket_of(ticketed, mix)
    found = next(w for s in CATALOGUE.mixes[mix].schools if s.key == school for w in s.ways if w.key == way)
    instead = next((kind for kind, p in CATALOGUE.mixes[mix].procedures.items() if p.key in found.instead), None)
    mixer: dict[str, Any] = {}
    if instead is not None:  # a way about one mixer is gone in that one
        mixer = {"mixer": next(m.key for m in CATALOGUE.mixers.values() if m.kind == instead)}
        usual = ticket_of(ticketed, mix, **mixer)
    other = ticket_of(ticketed, mix, changes={"schools": {school: way}}, **mixer)
    assert told(other) != told(usual)
    assert plain(found.says)
    assert plain(found.says) in [plain(w) for w in other.warnings]
    assert plain(found.says) not in [plain(w) for w in usual.warnings]


def test_what_a_school_changes() -> None:
    schools = {school.key for mix in CATALOGUE.mixes.values() for school in mix.schools}
    # Every question where good people differ is asked of some mix. Common practice, no source.
    assert schools >= {
        "plaster amount", "mixing plaster", "warm water", "demould", "rest", "late water", "first", "blend", "measure",
        "spare", "longer",
    }  # fmt: skip


def test_a_way_nobody_knows_is_refused(planned: Planner) -> None:
    with pytest.raises(TradeError) as caught:
        planned(mix="stucco-base", changes={"schools": {"late water": "whenever"}})
    assert caught.value.faults[0].field == "changes.schools.late water"


def test_a_school_of_before_still_opens() -> None:
    old = {"question": "Spare", "ways": ["exact", "10 % over"], "default": "10 % over", "why": "A seam shows."}
    school = School.model_validate(old)
    assert [way.name for way in school.ways] == ["10 % over", "exact", "10 % over"]
    assert school.way(school.default) is not None


def test_a_mix_of_before_with_rules_about_late_water_still_opens() -> None:
    now = CATALOGUE.mixes["stucco-base"]
    once = next(w.late_water for s in now.schools if s.key == "late water" for w in s.ways if w.key == "once")
    assert once is not None
    old = now.model_dump(mode="json", exclude={"schools"})
    opened = Mix.model_validate(
        old | {"schools": [], "other_late_water": {"once within 1½ h": once.model_dump(mode="json")}}
    )
    chosen = with_schools(opened, {"late water": "rule 0"})
    assert chosen.late_water == once
    assert with_schools(opened, {}).late_water == now.late_water


def test_an_overlay_begins_at_the_labels_low_end_and_goes_bag_by_bag(ticketed: Ticketer) -> None:
    ticket = ticketed(
        mix="overlay", mixer="paddle-tub", strategy="whole_bags", shapes=[{"kind": "known", "volume_l": 22}]
    )
    card = ticket.cards[0]
    packs = next(d.packs for d in card.doses)
    assert packs == pytest.approx(2)  # two-bag loads, common practice
    assert card.water.first_l == pytest.approx(card.water.pour.low)
    bags = [plain(s.title) for s in card.steps if "Bag " in plain(s.title)]
    assert bags == ["Bag 1 of 2, in slowly", "Bag 2 of 2, in slowly"]
    shares = [p.share for s in card.steps for p in s.parts if p.key == "overlay-premix"]
    assert shares == pytest.approx([0.5, 0.5])
    assert plain(card.steps[0].title).startswith(PROSE["water-at-the-label"])


def test_the_plasticiser_powder_is_sprinkled_last_by_default(ticketed: Ticketer) -> None:
    def at(ticket: Ticket) -> tuple[int, int]:
        steps = ticket.cards[0].steps
        powder = next(i for i, s in enumerate(steps) if any(p.key == "plasticiser-powder" for p in s.parts))
        return powder, next(i for i, s in enumerate(steps) if s.water_l > 0)

    last, water = at(ticketed(mix="thin-panel", **SMALL))
    assert last > water
    dry, water = at(ticketed(mix="thin-panel", **SMALL, changes={"schools": {"powder": "dry"}}))
    assert dry < water


def test_a_wall_finish_is_spread_and_grout_keeps_its_ceiling(ticketed: Ticketer) -> None:
    titles = " ".join(plain(s.title) for s in ticketed(mix="finish-plaster", **SMALL).cards[0].steps)
    assert "pour" not in titles.lower()
    assert "Spread it" in titles
    grout = ticketed(mix="c476-fine", mixer="drum-site", strategy="equal")
    assert grout.rescue.may_take_water
    assert grout.cards[0].water.pour.high > grout.cards[0].water.pour.target


@pytest.mark.parametrize(("litres", "seconds"), [(2, 60), (6, 180)])
def test_plaster_soaks_by_its_mass(ticketed: Ticketer, litres: float, seconds: int) -> None:
    # Common practice, no source: one minute under 2.3 kg (5 lb) of powder, two to four above.
    card = ticketed(mix="casting-plaster-70", shapes=[{"kind": "known", "volume_l": litres}], waste_percent=0).cards[0]
    assert (card.doses[0].dry_kg > 2.3) is (seconds == 180)
    assert next(s.seconds for s in card.steps if s.kind == "wait") == seconds


def test_a_small_load_by_hand_is_turned_for_less_long(ticketed: Ticketer) -> None:
    def turning(litres: float) -> int:
        ticket = ticketed(
            mix="cement-mortar-1-3", mixer="tray", strategy="equal", shapes=[{"kind": "known", "volume_l": litres}]
        )
        return sum(s.seconds for s in ticket.cards[0].steps if s.kind == "mix")

    assert turning(6) < turning(20) < turning(40)
    assert turning(6) >= 120  # however little, a third of the time


@pytest.mark.parametrize(
    ("mix", "mixer"),
    [
        ("concrete-1-2-4", "pan-forced"), ("lime-pointing-1-2-5", "pan-forced"), ("concrete-designed", "pan-forced"),
        ("pervious", "pan-forced"), ("thin-panel", "pan-forced"), ("mortar-bag-s", "tray"), ("pervious", "tray"),
        ("cement-mortar-1-3", "paddle-bucket"), ("bricklaying-mortar-1-4", "paddle-bucket"), ("ballast-1-6", "tray"),
    ],
)  # fmt: skip
def test_mixers_that_are_good_for_it_are_not_refused(mix: str, mixer: str, ticketed: Ticketer) -> None:
    ticket = ticketed(mix=mix, mixer=mixer, shapes=[{"kind": "known", "volume_l": 25}])
    card = ticket.cards[0]
    for dose in card.doses:  # whatever the steps, all of it goes in
        assert sum(p.share for s in card.steps for p in s.parts if p.key == dose.key) == pytest.approx(1)


def test_the_limits_of_a_drill_are_said(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="cement-mortar-1-3", mixer="paddle-bucket", shapes=[{"kind": "known", "volume_l": 8}])
    assert any(PROSE["a-drill-takes-no"] in plain(s.detail) for s in ticket.cards[0].steps)
    assert ticket.cards[0].volume_m3 * 1000 <= 13.3  # two thirds of the bucket


def test_two_bags_and_not_five_in_a_small_drum(planned: Planner) -> None:
    small = planned(mix="concrete-bag-60lb", mixer="drum-small", strategy="whole_bags")
    assert max(small.split.bags_each) == pytest.approx(2)  # common practice, no source
    assert any(plain(limit.name) == PROSE["packs-that-mix-through"] for limit in small.limits)


@pytest.mark.parametrize("strategy", ["whole_bags", "half_bags", "equal", "fewest"])
def test_half_a_thousand_loads_is_a_limit_for_every_way_of_dividing(planned: Planner, strategy: str) -> None:
    fields = {"mix": "concrete-bag-60lb", "mixer": "drum-small", "strategy": strategy, "waste_percent": 0}
    # 2 bags make about 25 L: 500 loads are 12.7 m³.
    assert len(planned(**fields, shapes=[{"kind": "known", "volume_l": 12_400}]).loads) <= 500
    with pytest.raises(TradeError) as told:
        planned(**fields, shapes=[{"kind": "known", "volume_l": 13_600}])
    assert told.value.faults[0].code == "too_many"


EVERY = [
    (mix.key, kind, school, way)
    for mix in CATALOGUE.mixes.values()
    for kind in mix.procedures
    for school, way in [("", ""), *((s.key, w.key) for s in mix.schools for w in s.ways)]
]


@pytest.mark.parametrize(("mix", "kind", "school", "way"), EVERY, ids=lambda part: str(part) or "usual")
def test_every_mix_in_every_mixer_by_every_school_keeps_to_the_order_of_work(
    mix: str, kind: MixerKind, school: str, way: str
) -> None:
    made = with_schools(CATALOGUE.mixes[mix], {school: way} if school else {})
    if kind not in made.procedures:
        return  # a school that takes another mix takes its mixers
    procedure = made.procedures[kind]
    check_order(procedure.key, procedure.steps, procedure.hold_back_share)
    shares: dict[str, float] = {}
    for step in procedure.steps:
        for add in step.adds:
            shares[f"{add.of} {add.only} {add.but}"] = shares.get(f"{add.of} {add.only} {add.but}", 0) + (
                procedure.share_of(add)
            )
    assert all(total == pytest.approx(1) for total in shares.values())
    roles = {material.role for material in made.materials()}
    assert roles <= {add.of for step in procedure.steps for add in step.adds}


def broken(steps: list[dict[str, Any]], hold_back: float = 0.2) -> dict[str, Any]:
    return {"key": "wrong", "name": "Wrong", "hold_back_share": hold_back, "source": "made up", "steps": steps}


WATER = {"kind": "water", "title": "Water", "adds": [{"of": "water", "share": "all"}]}
CEMENT = {"kind": "add", "title": "Cement", "adds": [{"of": "cement"}]}
PLASTER = {"kind": "add", "title": "Plaster", "adds": [{"of": "plaster"}]}
LOOK, USE = {"kind": "judge", "title": "Is it right?"}, {"kind": "use", "title": "Use it"}
REST = {"kind": "wait", "title": "Leave it", "closed": True}
SCRAPE = {"kind": "scrape", "title": "Scrape it"}
FIRST = {"kind": "water", "title": "First", "adds": [{"of": "water", "share": "first"}]}
SIPS = {"kind": "sips", "title": "Sips", "adds": [{"of": "water", "share": "hold back"}]}


@pytest.mark.parametrize(
    ("steps", "hold_back", "said"),
    [
        ([WATER, CEMENT, USE], 0.2, "without a look"),
        ([WATER, CEMENT, LOOK], 0.2, "without a look"),
        ([WATER, LOOK, CEMENT, USE], 0.2, "after the look"),
        ([FIRST, CEMENT, REST, SIPS, LOOK, USE], 0.2, "after the point from which nothing may"),
        ([PLASTER, WATER, LOOK, USE], 0.2, "plaster goes into water"),
        ([FIRST, PLASTER, SIPS, LOOK, USE], 0.2, "water is poured onto plaster"),
        ([FIRST, CEMENT, SIPS, LOOK, USE], 0.0, "held back"),
        ([WATER, LOOK, USE], 0.2, "no binder"),
        ([FIRST, CEMENT, LOOK, USE], 0.2, "add up to"),
        ([{**FIRST, "kind": "break"}, CEMENT, SIPS, LOOK, USE], 0.2, "goes in at a step of break"),
        ([FIRST, CEMENT, SCRAPE, SIPS, LOOK, USE], 0.2, "a hand goes in while it turns"),
    ],
)
def test_an_order_of_work_that_would_spoil_the_mix_is_not_taken_in(
    steps: list[dict[str, Any]], hold_back: float, said: str
) -> None:
    with pytest.raises(ValidationError, match=said):
        Procedure.model_validate(broken(steps, hold_back))


def test_a_right_order_is_taken_in() -> None:
    assert Procedure.model_validate(broken([FIRST, CEMENT, SIPS, LOOK, USE])).key == "wrong"
    stopped = {**SCRAPE, "speed": "stopped"}
    assert Procedure.model_validate(broken([FIRST, CEMENT, stopped, SIPS, LOOK, USE])).key == "wrong"
    assert Procedure.model_validate(broken([WATER, PLASTER, REST, LOOK, USE], 0.0)).key == "wrong"


def test_one_coat_begins_with_three_fifths_of_its_water(planned: Planner) -> None:
    """Common practice, no source."""
    card = planned(mix="one-coat-stucco", mixer=None, shapes=[{"kind": "known", "volume_l": 18}]).cards[0]
    first = next(step.water_l for step in card.steps if step.water_l > 0)
    assert first == pytest.approx(0.6 * card.water.pour.target)
    assert [step.title for step in card.steps][1] == "The bag, slowly"


@pytest.mark.parametrize(("powder", "hand"), [("2 kg", True), ("5 lb", True), ("2.5 kg", False)])
def test_little_plaster_is_mixed_by_hand_and_soaks_a_minute(planned: Planner, powder: str, hand: bool) -> None:
    """One figure for both, 5 lb: common practice, no source."""
    sheet = {"mix": "casting-plaster-70", "mixer": "paddle-bucket", "shapes": [], "start": f"{powder} of plaster"}
    steps = planned(**sheet).cards[0].steps
    assert any("by hand" in str(step.title) for step in steps) == hand
    assert next(step.seconds for step in steps if step.kind == "wait") == (60 if hand else 180)
