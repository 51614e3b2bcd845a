"""A heap's part in a load, were it wetter or drier."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import try_plan
from keeve.core.materials.heap_dose import HeapDose
from tests.conftest import slab

SHELF = load_catalogue()


def sand(**sheet: object) -> tuple[HeapDose, float, float]:
    """The sand of a load of concrete: the heap, its dry mass, and the water it is said to bring."""
    given = {"mix": "concrete-1-2-4", "mixer": "drum-site", "shapes": [slab()], "moisture_percent": {"sharp-sand": "6"}}
    ticket = try_plan(given | sheet, SHELF).ticket
    assert ticket is not None
    card = ticket.cards[0]
    dose = next(one for one in card.doses if one.key == "sharp-sand")
    assert dose.heap is not None
    brought = next(line.litres for line in card.water.brought if line.key == "sharp-sand")
    return dose.heap, dose.dry_kg, brought


@pytest.mark.parametrize("means", ["scale", "marks"])
def test_at_its_own_moisture_it_holds_and_brings_what_the_ticket_says(means: str) -> None:
    heap, dry_kg, brought_l = sand(measured={"sharp-sand": means})
    assert heap.dry_at_kg(6) == pytest.approx(dry_kg)
    assert heap.brings_l(6) == pytest.approx(brought_l)
    assert heap.percent_for(brought_l) == pytest.approx(6)


def test_a_weighed_dose_holds_less_dry_sand_the_wetter_it_is_and_a_pail_as_it_bulks() -> None:
    weighed, dry_kg, _ = sand(measured={"sharp-sand": "scale"})
    assert weighed.dry_at_kg(10) == pytest.approx(dry_kg * 1.06 / 1.10)
    gauged, *_ = sand(measured={"sharp-sand": "marks"})
    assert gauged.dry_at_kg(0) > gauged.dry_at_kg(5) < gauged.dry_at_kg(12)  # dry and flooded sand lie closer


@given(st.floats(0, 12), st.sampled_from(["scale", "marks"]))
def test_moisture_and_water_go_there_and_back(percent: float, means: str) -> None:
    heap, *_ = sand(measured={"sharp-sand": means})
    assert heap.percent_for(heap.brings_l(percent)) == pytest.approx(percent, abs=1e-6)


def test_sand_bagged_dry_is_no_heap() -> None:
    ticket = try_plan({"mix": "thin-panel", "shapes": [{"kind": "known", "volume_l": "10 L"}]}, SHELF).ticket
    assert ticket is not None
    assert all(dose.heap is None for dose in ticket.cards[0].doses)
