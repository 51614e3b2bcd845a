"""What a crew's loads tell of a mix, against figures by hand, and what a plan makes of them."""

from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import try_plan
from keeve.core.lessons.own_figures import OwnFigures, Worked, own_figures, with_own
from keeve.core.proportions.bases.premix_bag import PremixBag
from keeve.core.run.folding import fold
from keeve.core.ticket.ticket import Ticket
from tests.taps import Phone

SHELF = load_catalogue()
BAG = next(mix for mix in SHELF.mixes.values() if isinstance(mix.basis, PremixBag) and not mix.stages)
HEMP = SHELF.mixes["hemp-lime-wall"]
PLASTER = SHELF.mixes["casting-plaster-70"]


def worked(ticket: Ticket, loads: list[dict[str, Any]], filled_l: float | None = None) -> Worked:
    """Loads used up so many minutes after they were right; `seen` marks stages, `density` weighs a litre."""
    phone, use = Phone(mixer=ticket.mixer.key), len(ticket.cards[0].steps) - 1
    at = 0.0
    for slot, load in enumerate(loads):
        phone.tap(at, "started", ticket=1, slot=slot)
        phone.tap(at + 0.5, "poured", litres=ticket.cards[0].water.pour.target)
        for step in range(use):
            phone.tap(at + 1, "step_done", step=step)
        if "density" in load:
            phone.tap(at + 1.2, "measured", what="density", value=load["density"])
        if "seen" in load:
            phone.tap(at + 1 + load["seen"][1], "stage_seen", stage=load["seen"][0])
        phone.tap(at + 1 + load["minutes"], load.get("end", "accepted"))
        phone.load += 1
        at += 200
    return Worked(fold({1: ticket}, phone.events), {1: ticket}, filled_l)


def by_what(found: tuple[Any, ...]) -> dict[str, Any]:
    return {one.what: one for one in found}


def test_pace_is_litres_a_minute_from_right_to_used_up(ticketed: Callable[..., Ticket]) -> None:
    ticket = ticketed(mix=BAG.key, shapes=[{"kind": "known", "volume_l": 400}])
    litres = ticket.cards[0].volume_m3 * 1000
    job = worked(ticket, [{"minutes": 5}, {"minutes": 10}, {"minutes": 4}, {"minutes": 4, "end": "thrown_away"}])
    pace = by_what(own_figures([job], BAG))["pace"]
    assert (pace.seen, pace.enough) == (3, True)
    assert pace.value == pytest.approx(litres / 5, rel=0.02)
    assert pace.low == pytest.approx(litres / 10, rel=0.02)
    assert not by_what(own_figures([worked(ticket, [{"minutes": 5}])], BAG))["pace"].enough
    assert own_figures([worked(ticket, [{"minutes": 0.1}])], BAG) == ()  # tapped at once: nobody places so


def test_a_bag_makes_what_its_weighed_mix_says_and_what_was_filled(ticketed: Callable[..., Ticket]) -> None:
    ticket = ticketed(mix=BAG.key, shapes=[{"kind": "known", "volume_l": 100}])
    card = ticket.cards[0]
    mass_kg = sum(dose.batch_kg for dose in card.doses) + card.water.pour.target
    denser = mass_kg / (card.volume_m3 * 0.9)  # so dense that it fills nine tenths
    found = by_what(own_figures([worked(ticket, [{"minutes": 5, "density": denser}])], BAG))
    assert found["makes"].value == pytest.approx(0.9, rel=1e-6)
    told = worked(ticket, [{"minutes": 5}], filled_l=card.volume_m3 * 1000 * 0.95)
    assert by_what(own_figures([told], BAG))["makes"].value == pytest.approx(0.95, rel=1e-6)
    # Parts by volume have nothing that is claimed: there is no label to set right.
    concrete = SHELF.mixes["concrete-1-2-4"]
    other = ticketed(mix=concrete.key)
    assert "makes" not in by_what(own_figures([worked(other, [{"minutes": 5}], filled_l=90)], concrete))


def test_a_plaster_that_is_quicker_than_the_book_is_told_by_its_stages(ticketed: Callable[..., Ticket]) -> None:
    ticket = ticketed(mix=PLASTER.key, shapes=[{"kind": "known", "volume_l": 12}])
    stage = next(one for one in ticket.stages if one.key == "cream")
    loads = [{"minutes": 60, "seen": ("cream", stage.from_min * share)} for share in (0.8, 0.7, 0.9)]
    clock = by_what(own_figures([worked(ticket, loads)], PLASTER))["clock"]
    assert clock.seen >= 1
    assert 0.68 <= clock.low <= clock.value <= clock.high <= 0.95


def test_a_plan_goes_by_ones_own_figures_unless_the_job_says_otherwise() -> None:
    sheet = {"mix": BAG.key, "shapes": [{"kind": "known", "volume_l": 100}]}

    def bags(**more: Any) -> float:
        plan = try_plan(sheet | more, SHELF).plan
        assert plan is not None
        return plan.split.bags_opened

    own = {BAG.key: {"makes": 0.8, "pace": 6.0}}
    assert bags(own=own) > bags()
    assert bags(own={"another-mix": {"makes": 0.8}}) == bags()
    assert bags(own=own, changes={"yield_l": BAG.basis.yield_l}) == bags()  # type: ignore[attr-defined]
    tried = try_plan(sheet | {"own": own}, SHELF)
    assert tried.request is not None
    assert tried.request.place_l_min == 6.0
    said = try_plan(sheet | {"own": own, "place_l_min": "9 L"}, SHELF).request
    assert said is not None
    assert said.place_l_min == 9.0
    refused = try_plan(sheet | {"own": {BAG.key: {"makes": 40}}}, SHELF)
    assert refused.plan is None


def test_old_stock_and_ones_own_clock_do_not_add_up() -> None:
    sheet = {"mix": PLASTER.key, "shapes": [{"kind": "known", "volume_l": 5}]}

    def life(**more: Any) -> float:
        ticket = try_plan(sheet | more, SHELF).ticket
        assert ticket is not None
        return ticket.life_min

    book, aged, own = life(), {"casting-plaster": 0.7}, {PLASTER.key: {"clock": 0.8}}
    assert life(own=own) == pytest.approx(0.8 * book)
    assert life(own=own, aged=aged) == pytest.approx(0.7 * book)
    assert life(own={PLASTER.key: {"clock": 0.6}}, aged=aged) == pytest.approx(0.6 * book)


@given(makes=st.floats(0.6, 1.5), clock=st.floats(0.3, 3))
def test_figures_of_ones_own_scale_what_they_say_and_nothing_else(makes: float, clock: float) -> None:
    own = with_own(HEMP, OwnFigures(makes=makes, clock=clock), {})
    assert own.working_life_min == pytest.approx(HEMP.working_life_min * clock)
    assert own.basis.placed_kg_m3 * makes == pytest.approx(HEMP.basis.placed_kg_m3)  # type: ignore[attr-defined]
    assert with_own(HEMP, OwnFigures(), {}) is HEMP
    assert with_own(HEMP, None, {}) is HEMP
    unchanged = own.model_copy(update={"basis": HEMP.basis, "working_life_min": HEMP.working_life_min})
    assert unchanged == HEMP
