"""Begun with what is at hand, bought after stock, rules of thumb, vessels filled at heights: against sums done here."""

import math
from datetime import date
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import Tried, try_plan
from keeve.core.message.errors import Code, TradeError, faults_of
from keeve.core.message.said import plain
from keeve.core.planning.plan import plan
from keeve.core.vessels.own_scale import ScaleSheet, scale_of
from keeve.core.vessels.own_vessel import VesselSheet, vessel_of
from keeve.core.vessels.profile import filled_profile
from keeve.core.vessels.tilted import tilted_height_mm, tilted_l
from keeve.core.vessels.vessels import Mixer, Ring, Section, brim_l, volume_l
from keeve.core.yard.buying import Needed, Stocked, StockSheet, buying
from keeve.words import saying
from keeve.words.reader import METRIC
from tests.prose import PROSE

CATALOGUE = load_catalogue()
DAMP = {"moisture_percent": {"sharp-sand": 0, "plaster-sand": 0, "soft-sand": 0}}


def begun(mix: str, start: str, **more: object) -> Tried:
    return try_plan({"mix": mix, "start": start} | more, CATALOGUE)


def total(tried: Tried, key: str) -> float:
    assert tried.plan is not None, tried.faults
    return next(t.batch_kg for t in tried.plan.totals if t.material_key == key)


@pytest.mark.parametrize("mix", ["stucco-base", "bricklaying-mortar-1-4", "concrete-1-2-4"])
@pytest.mark.parametrize("start", ["1 bag", "half a bag", "7 bags is all there is"])
def test_bags_at_hand_are_all_used_and_no_more(mix: str, start: str) -> None:
    tried = begun(mix, start, strategy="equal")
    assert tried.request is not None
    bags = {"1 bag": 1.0, "half a bag": 0.5, "7 bags is all there is": 7.0}[start]
    assert total(tried, "portland-cement") == pytest.approx(bags * (tried.request.mix.bag_kg() or 0))


def test_a_mass_a_measure_and_water_at_hand_come_out_in_the_totals() -> None:
    assert total(begun("casting-plaster-70", PROSE["10-lb-of-plaster"]), "casting-plaster") == pytest.approx(
        10 * 0.45359237
    )
    assert total(begun("stucco-base", "80 kg of sand"), "plaster-sand") == pytest.approx(80)
    water = begun("casting-plaster-70", "1 qt of water")
    assert water.plan is not None
    assert water.plan.water_l.target == pytest.approx(0.946352946)
    pails = begun("bricklaying-mortar-1-4", "4 pails of sand", strategy="equal")
    assert pails.plan is not None
    brim = brim_l(CATALOGUE.containers["pail"].section)
    gauged = sum(pails.plan.cards[load.card].doses[1].gauged_l for load in pails.plan.loads)
    assert gauged == pytest.approx(4 * brim)


def test_a_vessel_two_thirds_full_is_two_thirds_deep() -> None:
    tried = begun("stucco-base", "this bucket two thirds full")
    assert tried.plan is not None
    # Frustum of 225 to 293 mm over 265 mm, filled to 176.67 mm: width there 225 + 68 · ⅔; plain arithmetic.
    low, high, up = 225.0, 225 + 68 * 2 / 3, 265 * 2 / 3
    litres = math.pi * up / 12 * (low**2 + low * high + high**2) / 1e6
    assert tried.plan.need.order_m3 * 1000 == pytest.approx(litres)
    # What a start fills is told after waste.
    assert tried.plan.need.net_m3 == pytest.approx(
        tried.plan.need.order_m3 / (1 + tried.plan.need.items[0].waste_percent / 100)
    )


def test_what_the_mixer_takes_is_one_full_load() -> None:
    tried = begun("stucco-base", "what the drum takes", strategy="equal", mixer="drum-small")
    assert tried.plan is not None
    assert len(tried.plan.loads) == 1
    assert tried.plan.need.order_m3 == pytest.approx(min(limit.volume_m3 for limit in tried.plan.limits))


def test_two_bag_loads_divide_what_is_measured() -> None:
    shapes = [{"kind": "known", "volume_l": 100}]
    tried = begun("concrete-bag-25kg", "two-bag loads", shapes=shapes, mixer="drum-small")
    assert tried.plan is not None
    assert tried.plan.strategy == "n_bags"
    assert set(tried.plan.split.bags_each[:-1]) == {2.0}


@pytest.mark.parametrize(
    "start",
    [
        "a splash",
        "some",
        "4 of sand",
        "-3 bags",
        "0 bags",
        "sand",
        "¾",
        "1 bag of rubies",
        "2 furlongs of sand",
        "x" * 199,
    ],
)
def test_what_says_no_amount_is_refused_with_how_to_write_it(start: str) -> None:
    tried = begun("stucco-base", start)
    assert tried.plan is None
    assert tried.faults[0].field == "start"
    assert tried.faults[0].hint


def test_a_measure_nobody_knows_is_sent_to_the_yard() -> None:
    fault = begun("stucco-base", "4 hats of sand").faults[0]
    assert plain(fault.sentence) == PROSE["nobody-has-measured-this"]
    assert "yard" in plain(fault.hint)


@pytest.mark.parametrize(
    ("litres", "mixer"),
    [(0.2, "cup"), (0.87, "bowl"), (3.0, "bowl-large"), (9.0, "paddle-bucket"), (20.0, "paddle-bucket")],
)
def test_a_small_mould_is_mixed_in_a_small_bowl_and_it_says_why(litres: float, mixer: str) -> None:
    tried = try_plan(
        {"mix": "casting-plaster-70", "shapes": [{"kind": "known", "volume_l": litres}], "waste_percent": 0}, CATALOGUE
    )
    assert tried.request is not None
    assert tried.request.mixer.key == mixer
    assert bool(tried.request.mixer_why) == (mixer != "paddle-bucket")


@given(
    bottom=st.floats(80, 400), top=st.floats(80, 400), deep=st.floats(80, 600),
    shares=st.lists(st.floats(0.1, 0.9), min_size=1, max_size=3, unique=True),
)  # fmt: skip
def test_a_vessel_filled_to_several_heights_holds_there_what_was_filled_in(
    bottom: float, top: float, deep: float, shares: list[float]
) -> None:
    known = Section(rings=(Ring(height_mm=0, width_mm=bottom), Ring(height_mm=deep, width_mm=top)))
    heights = sorted({round(deep * share, 3) for share in shares} | {deep})
    if any(b - a < 3 for a, b in pairwise(heights)):
        return
    steps = tuple((height, volume_l(known, height)) for height in heights)
    found = filled_profile(steps)
    for height, litres in steps:
        assert volume_l(found, height) == pytest.approx(litres, rel=1e-6)


def test_a_straight_frustum_comes_back_as_it_is_from_three_fills() -> None:
    known = Section(rings=(Ring(height_mm=0, width_mm=262), Ring(height_mm=366, width_mm=300)))
    found = filled_profile(tuple((height, volume_l(known, height)) for height in (100.0, 220.0, 366.0)))
    for height in (40.0, 160.0, 300.0):
        assert volume_l(found, height) == pytest.approx(volume_l(known, height), rel=1e-3)


def test_a_shovel_is_counted_into_a_vessel_one_knows() -> None:
    made = vessel_of(VesselSheet.model_validate({"name": "Shovel", "use": "scoop", "scoops": 5, "into_l": 22.7}), "own")
    assert made.brim_l == pytest.approx(22.7 / 5)
    with pytest.raises(TradeError, match=PROSE["nobody-lifts-it"]) as caught:
        vessel_of(VesselSheet.model_validate({"name": "Shovel", "use": "scoop", "scoops": 1, "into_l": 40}), "own")
    assert caught.value.faults[0].field == "scoops"
    fills = [{"height_mm": 100, "holds_l": 5}, {"height_mm": 200, "holds_l": 4}]
    tub = VesselSheet.model_validate({"name": "Tub", "use": "bucket", "fills": fills})
    with pytest.raises(TradeError, match=PROSE["filled-higher-it-must"]):
        vessel_of(tub, "own")


@pytest.mark.parametrize(
    ("said", "words"),
    [({}, "what it carries"), ({"carries_kg": 5}, "how finely"), ({"carries_kg": 5, "step_kg": 1}, "too coarse")],
)
def test_a_scale_that_weighs_nothing_is_refused(said: dict[str, float], words: str) -> None:
    sheet = ScaleSheet.model_validate({"name": "S", "use": "scale_kitchen"} | said)
    with pytest.raises(TradeError, match=words):
        scale_of(sheet, "own")


TODAY = date(2026, 9, 20)


def stocked(used_kg: float = 0.0, **entry: object) -> Stocked:
    return Stocked(StockSheet.model_validate({"material": "portland-cement"} | entry), used_kg)


@given(
    need=st.floats(1, 2000), packs=st.integers(0, 40), opened=st.floats(0, 100), pack=st.sampled_from([25.0, 42.6, 50.0]),
    used=st.floats(0, 500), spare=st.floats(0, 20),
)  # fmt: skip
def test_what_is_bought_is_enough_and_one_pack_less_is_not(
    need: float, packs: int, opened: float, pack: float, used: float, spare: float
) -> None:
    stock = [stocked(used, pack_kg=pack, packs=packs, opened_percent=opened, price=10, currency="€")]
    (line,), (cost,) = buying(
        [Needed("portland-cement", "Cement", "cement", need, pack)], {"portland-cement": stock}, spare, TODAY
    )
    held = max(pack * (packs + opened / 100) - used, 0)
    assert line.in_stock_kg == pytest.approx(held)
    wanted = need * (1 + spare / 100)
    assert held + line.packs * pack >= wanted * (1 - 1e-6) - 1e-4
    if line.packs:
        assert held + (line.packs - 1) * pack < wanted + pack * 1e-5
    assert line.left_kg == pytest.approx(held + line.packs * pack - need)
    assert cost.bought == pytest.approx(line.packs * 10)
    assert cost.used == pytest.approx(need / pack * 10)


def test_old_bags_are_told_and_a_price_needs_its_currency() -> None:
    stock = {"portland-cement": [stocked(pack_kg=25, packs=4, delivered="2026-06-01")]}
    (line,), _ = buying([Needed("portland-cement", "Cement", "cement", 10, 25)], stock, 0, TODAY)
    assert line.keeps_until == date(2026, 9, 1)
    assert line.too_old
    with pytest.raises(ValidationError) as caught:
        stocked(pack_kg=25, price=9)
    (fault,) = faults_of(caught.value)
    assert (fault.field, plain(fault.sentence)) == ("currency", PROSE["a-price-needs-its"])


def test_rules_of_thumb_stand_beside_the_sum_with_what_they_hide() -> None:
    plaster = begun("casting-plaster-70", "1 qt of water").ticket
    assert plaster is not None
    (thumb,) = plaster.thumbs
    # 80 in³ by the rule; w/p 0.70, powder 2650 kg/m³, 1 % of air: (0.9464 + 0.9464 / 0.70 / 2.65) / 0.99 L by the sum.
    assert thumb.by_rule == pytest.approx(80 * 0.016387064)
    assert thumb.by_sum == pytest.approx((0.946352946 + 0.946352946 / 0.70 / 2.65) / 0.99, rel=2e-3)
    concrete = try_plan({"mix": "concrete-1-2-4", "shapes": [{"kind": "known", "volume_l": 1000}], "waste_percent": 0,
                         "moisture_percent": {"sharp-sand": 0, "gravel-20": 0}, "mixer": "drum-site"}, CATALOGUE).ticket  # fmt: skip
    assert concrete is not None
    # Dry loose volume to wet: 1.43 to 1.46 by solids; the trade rounds up to 1.54 with loss: common practice, no source.
    assert 1.42 <= concrete.thumbs[0].by_sum <= 1.47
    assert concrete.thumbs[0].by_rule == pytest.approx(1.54)


def test_a_start_that_the_mix_has_none_of_says_what_it_has() -> None:
    fault = begun("casting-plaster-70", "3 kg of sand").faults[0]
    assert fault.code in (Code.UNKNOWN, Code.UNREADABLE)


@given(wide=st.floats(200, 800), deep=st.floats(200, 900), tilt=st.floats(5, 60), share=st.floats(0.05, 1))
def test_a_tilted_can_holds_what_its_closed_form_says(wide: float, deep: float, tilt: float, share: float) -> None:
    """Where the level crosses both sides of a cylinder, it holds its cross-section times the level at its axle."""
    can = Section(rings=(Ring(height_mm=0, width_mm=wide), Ring(height_mm=deep, width_mm=wide)))
    lean, radius = math.radians(tilt), wide / 2
    lip = deep * math.cos(lean) - radius * math.sin(lean)
    least = radius * math.sin(lean)  # below that the bottom is not covered
    if lip <= least:
        return
    level = least + (lip - least) * share
    along = level / math.cos(lean)
    closed = math.pi * radius**2 * along * 1e-6  # plain arithmetic
    assert tilted_l(can, tilt, level) == pytest.approx(closed, rel=3e-3)
    assert tilted_l(can, tilt, tilted_height_mm(can, tilt, closed)) == pytest.approx(closed, rel=5e-3)


def test_a_leaning_drum_takes_less_and_says_so() -> None:
    said = {"name": "Drum", "use": "drum", "depth_mm": 600, "top_mm": 420, "bottom_mm": 480}
    upright = vessel_of(VesselSheet.model_validate(said), "own")
    leaning = vessel_of(VesselSheet.model_validate(said | {"tilt_deg": 35}), "own")
    assert isinstance(leaning.vessel, Mixer)
    assert isinstance(upright.vessel, Mixer)
    assert leaning.vessel.mixed_l < upright.vessel.mixed_l
    with pytest.raises(TradeError, match=PROSE["tilted-so-far"]):
        vessel_of(
            VesselSheet.model_validate(said | {"tilt_deg": 80, "depth_mm": 12, "top_mm": 30, "bottom_mm": 30}), "own"
        )


def test_a_little_plaster_is_mixed_in_the_smallest_vessel_that_takes_it_the_crews_own_too() -> None:
    mould = {
        "job": "Finial",
        "mix": "casting-plaster-70",
        "shapes": [{"kind": "known", "volume_l": "0.85 L"}],  # 0.9 US qt
    }
    ships = load_catalogue()
    tin = vessel_of(
        VesselSheet.model_validate(
            {"name": "Paint tin", "use": "bucket", "depth_mm": 190, "top_mm": 132, "bottom_mm": 132}
        ),
        "own-tin",
    )
    taken = [try_plan(mould, shelf).request for shelf in (ships, ships.with_own((), (), (tin.vessel,)))]
    assert [one.mixer.key for one in taken if one] == ["bowl", "own-tin"]  # 1.3 L and 1.7 L take it at once
    assert taken[1] is not None
    wide = tin.vessel.model_copy(update={"key": "own-tub", "mixed_l": 5.0})  # a load under a third of it is lost in it
    third = try_plan(mould, ships.with_own((), (), (wide,))).request
    assert third is not None
    assert third.mixer.key == "bowl"
    assert PROSE["would-stick-to-its"] in plain(taken[1].mixer_why)


def capped(cap_l: str, *, gauges: bool = True) -> Tried:
    """Bricklaying mortar with a plasticiser of 300 mL to 100 kg of cement, and a cap of the crew's own."""
    cap = vessel_of(
        VesselSheet.model_validate({"name": "Cap", "use": "measure", "word": "cap", "holds_l": cap_l}), "own-cap"
    )
    sheet = {
        "mix": "bricklaying-mortar-1-4", "mixer": "drum-small", "shapes": [{"kind": "known", "volume_l": "40 L"}],
        "admixtures": [{"admixture": "mortar-plasticiser", "dose": "300 mL/100 kg"}],
    }  # fmt: skip
    own = {"gauges": ["pail", "own-cap"]} if gauges else {}
    return try_plan(sheet | own, load_catalogue().with_own((), (), (cap.vessel,)))


def test_a_splash_of_plasticiser_is_told_in_caps_where_there_is_one() -> None:
    ticket = capped("15 mL").ticket
    assert ticket is not None
    given = ticket.cards[0].admixtures[0]
    assert given.volume_l is not None
    assert given.caps is not None
    # Parts of a cap are read: the count is a half, third or quarter away from nothing, and within 3 %.
    assert given.caps.count * 12 == pytest.approx(round(given.caps.count * 12))
    assert given.caps.count * 0.015 == pytest.approx(given.volume_l, rel=0.03)
    said = saying.admixture(given, ticket, METRIC)
    assert "caps (" in said
    assert "mL)" in said
    assert "own-cap" in {c.key for c in ticket.measures}
    assert all(d.fill is None or d.fill.container == "pail" for d in ticket.cards[0].doses)


@pytest.mark.parametrize(("cap_l", "gauges"), [("2 mL", True), ("15 mL", False)])
def test_no_caps_are_counted_past_a_dozen_or_where_there_is_none(cap_l: str, gauges: bool) -> None:
    ticket = capped(cap_l, gauges=gauges).ticket
    assert ticket is not None
    assert ticket.cards[0].admixtures[0].caps is None
    assert "syringe" in saying.admixture(ticket.cards[0].admixtures[0], ticket, METRIC)


def test_half_a_kit_is_half_where_its_maker_allows_it() -> None:
    half = begun("wet-base-kit", "half a kit").plan
    assert half is not None
    assert math.fsum(half.split.bags_each) == pytest.approx(0.5)
    kit = CATALOGUE.mixes["wet-base-kit"]
    whole = kit.model_copy(update={"basis": kit.basis.model_copy(update={"halves": False})})
    request = begun("wet-base-kit", "half a kit").request
    assert request is not None
    with pytest.raises(TradeError, match=PROSE["only-mixed-in-whole"]):
        plan(request.model_copy(update={"mix": whole}))
