"""Packs for a bag, colour and its limit, what a bag yields with other water, and what stays in mixer and pump."""

from datetime import date
from typing import Any

import pytest

from keeve.catalogue import load_catalogue
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from keeve.core.yard.buying import Needed, buying
from keeve.words import saying
from keeve.words.reader import METRIC, US
from tests.conftest import Planner, Ticketer
from tests.prose import PROSE

CATALOGUE = load_catalogue()
BAGS: dict[str, Any] = {"mix": "concrete-bag-60lb", "mixer": "drum-small", "strategy": "whole_bags"}


def one(key: str, dose: str) -> dict[str, Any]:
    return {"admixtures": [{"admixture": key, "dose": dose}]}


@pytest.mark.parametrize(
    ("key", "dose", "per_bag_kg"),
    [
        ("colour-pack", "1 pack/bag", 0.45), ("fibre-pack", "2 packs/bag", 0.06),
        ("accelerator-pack", "200 mL/bag", 0.200 * 1.35), ("retarder-pack", "60 mL/bag", 0.060 * 1.15),
    ],
)  # fmt: skip
def test_packs_go_by_the_bag_on_a_premix_and_a_kit(planned: Planner, key: str, dose: str, per_bag_kg: float) -> None:
    plan = planned(**BAGS, **one(key, dose))
    for card in plan.cards:
        packs = card.doses[0].packs
        assert packs is not None
        assert card.admixtures[0].mass_kg == pytest.approx(packs * per_bag_kg)
    kit = planned(mix="carving-mix", shapes=[{"kind": "known", "volume_l": 30}], **one(key, dose)).cards[0]
    bags = next(d.dry_kg for d in kit.doses if d.role == "premix") / 36.2873896  # 80 lb
    assert kit.admixtures[0].mass_kg == pytest.approx(bags * per_bag_kg)


def test_what_counts_on_cement_cannot_be_dosed_on_a_bag_of_who_knows(planned: Planner) -> None:
    with pytest.raises(TradeError) as told:
        planned(**BAGS, **one("plasticiser", "300 mL/100 kg"))
    assert PROSE["packs-for-a-bag"] in plain(told.value.faults[0].sentence)
    assert told.value.faults[0].field == "admixtures.0.admixture"


@pytest.mark.parametrize("mix", ["concrete-1-2-4", "bricklaying-mortar-1-4", "c270-n"])
def test_pigment_goes_by_the_cement_and_never_over_its_limit(planned: Planner, mix: str) -> None:
    plan = planned(mix=mix, mixer="drum-site", strategy="equal", **one("pigment", "4 %"))
    cement = next(d.dry_kg for d in plan.cards[0].doses if d.role == "cement")
    assert plan.cards[0].admixtures[0].mass_kg == pytest.approx(0.04 * cement)
    assert any(PROSE["outside-its-label"] in plain(w) for w in planned(mix=mix, **one("pigment", "8 %")).warnings)
    with pytest.raises(TradeError) as told:  # ASTM C979: at most 10 % of the cement by mass, from memory
        planned(mix=mix, **one("pigment", "12 %"))
    assert "10" in plain(told.value.faults[0].sentence)
    assert told.value.faults[0].field == "admixtures.0.dose"


def test_an_admixture_is_told_for_a_whole_for_a_bag_and_for_the_load(ticketed: Ticketer) -> None:
    ticket = ticketed(
        mix="concrete-1-2-4", mixer="drum-site", strategy="whole_bags", **one("retarder", "200 mL/100 kg"),
        moisture_percent={"sharp-sand": 4, "gravel-20": 1},
    )  # fmt: skip
    card = ticket.cards[0]
    given = card.admixtures[0]
    packs = card.doses[0].packs
    assert packs is not None
    # 200 mL to 100 kg is 50 mL to a 25 kg bag, plain arithmetic.
    assert given.volume_l == pytest.approx(0.050 * packs)
    assert saying.admixture_rates(given, card, METRIC).endswith(PROSE["in-1-m-50"])
    assert PROSE["in-1-yd-1"].replace("1.69", "1.7") in saying.admixture_rates(given, card, US)


def test_a_bag_yields_by_the_water_it_really_gets(planned: Planner) -> None:
    label = CATALOGUE.mixes["concrete-bag-60lb"].basis
    usual = planned(**BAGS)
    wetter = planned(**BAGS, changes={"water_target_l": "5.5 pt"})
    pint_l = 0.473176473  # NIST SP 811
    bag_l = [plan.cards[0].volume_m3 * 1000 / (plan.cards[0].doses[0].packs or 0) for plan in (usual, wetter)]
    assert bag_l[1] - bag_l[0] == pytest.approx(5.5 * pint_l - label.water_target_l)  # type: ignore[attr-defined]
    stated = planned(**BAGS, changes={"water_target_l": "5.5 pt", "yield_l": "13 L"})  # its own label comes first
    assert stated.cards[0].volume_m3 * 1000 / (stated.cards[0].doses[0].packs or 0) == pytest.approx(13)


def test_what_stays_in_mixer_and_pump_is_mixed_too(planned: Planner) -> None:
    fields: dict[str, Any] = {"mix": "concrete-1-2-4", "mixer": "drum-site", "strategy": "equal", "waste_percent": 10}
    without, with_it = planned(**fields), planned(**fields, residue_l="30 L")
    assert with_it.need.order_m3 - without.need.order_m3 == pytest.approx(0.030)
    assert with_it.order_working.result == pytest.approx(0.2 * 1.1 + 0.030)


def test_a_wet_pail_is_lifted_bought_and_told_by_what_it_weighs(planned: Planner, ticketed: Ticketer) -> None:
    """A pail of 32 kg holds a fifth of water: 25.6 kg dry; common practice, no source for its label."""
    two = {"mix": "tinted-finish", "mixer": "paddle-tub", "start": "2 kits", "shapes": []}
    finish = planned(**two).cards[0].doses[0]
    assert finish.pack_kg == pytest.approx(32.0)
    assert finish.batch_kg == pytest.approx(32.0 * (finish.packs or 0))
    ticket = ticketed(**two)
    assert max(way.heaviest_kg for way in ticket.divisions) == pytest.approx(32.0)
    total = next(t for t in ticket.totals if t.key == "wet-finish")
    (line,), _ = buying(
        [Needed(total.key, total.name, "premix", total.batch_kg, finish.pack_kg)], {}, 0.0, date(2026, 9, 14)
    )
    assert line.packs == 2
    assert any(plain(one).startswith("A pack of 32") for one in ticket.cautions)


def test_a_pail_is_tinted_whole(planned: Planner) -> None:
    """House ruling: tinted whole, then parted; half of a vial never comes out the same twice."""
    found = planned(mix="tinted-finish", mixer=None, shapes=[{"kind": "known", "volume_l": 8}])
    assert found.split.bags_each == (1.0,)
    with pytest.raises(TradeError, match=PROSE["only-mixed-in-whole"]):
        planned(mix="tinted-finish", mixer=None, shapes=[], start="half a kit")


def test_part_of_a_bag_is_not_called_the_whole_bag(planned: Planner) -> None:
    titles = [
        plain(step.title) for step in planned(mix="overlay", mixer=None, shapes=[], start="half a bag").cards[0].steps
    ]
    assert PROSE["part-of-the-bag"] in titles
    kit = planned(mix="wet-base-kit", mixer="paddle-bucket", shapes=[], start="half a kit")
    assert any(PROSE["stir-the-whole-pail"] in plain(one) for one in kit.warnings)
