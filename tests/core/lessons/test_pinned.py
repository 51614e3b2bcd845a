"""A good load as a recipe: what changes in each kind of mix, and what stays within its label."""

import pytest

from keeve.catalogue import load_catalogue
from keeve.core.lessons.pinned import pinned
from keeve.core.message.errors import MixError
from keeve.core.proportions.bases.designed import Designed
from keeve.core.proportions.bases.powder_islands import PowderIslands
from keeve.core.proportions.bases.powder_water import PowderWater
from keeve.core.proportions.bases.premix_bag import PremixBag
from tests.prose import PROSE

SHELF = load_catalogue()


def test_every_mix_takes_the_water_of_a_load_or_says_why_not() -> None:
    refused, held = set(), set()
    for mix in SHELF.mixes.values():
        before = mix.basis.proportions()
        if isinstance(mix.basis, Designed | PowderIslands):
            with pytest.raises(MixError, match=PROSE["works-its-water-out"]):
                pinned(mix.basis, 1.01)
            refused.add(mix.key)
            continue
        change = pinned(mix.basis, 1.01)
        whole, _, part = change.field.partition(".")
        value = getattr(mix.basis, whole).model_copy(update={part: change.value}) if part else change.value
        after = mix.basis.model_copy(update={whole: value}).proportions()
        wetter = after.water.target / after.dry_kg_m3 / (before.water.target / before.dry_kg_m3)
        if change.held:  # to the most its label takes
            held.add(mix.key)
            assert 1 <= wetter < 1.01
        else:
            assert wetter == pytest.approx(1.01, rel=1e-3), mix.key  # water to what is dry, whatever the recipe states
    assert len(refused) < len(SHELF.mixes) / 3
    assert len(held) < 5


def test_a_label_is_never_left() -> None:
    bag = SHELF.mixes["mortar-bag-s"].basis
    assert isinstance(bag, PremixBag)
    assert pinned(bag, 2.0).value == pytest.approx(bag.water_high_l, rel=1e-3)
    assert pinned(bag, 0.1).value == pytest.approx(bag.water_low_l, rel=1e-3)


def test_plaster_at_seventy_with_two_per_cent_more_is_at_seventy_one_and_some() -> None:
    plaster = SHELF.mixes["casting-plaster-70"].basis
    assert isinstance(plaster, PowderWater)
    assert pinned(plaster, 1.02).value == pytest.approx(0.714)


def test_a_load_as_asked_changes_nothing() -> None:
    with pytest.raises(MixError, match=PROSE["nothing-to-change"]):
        pinned(SHELF.mixes["mortar-bag-s"].basis, 1.003)
