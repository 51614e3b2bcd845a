"""What can hurt is said of every mix where it can, with its figures, and at the step where it matters."""

import pytest

from keeve.catalogue import load_catalogue
from keeve.core.conditions.cautions import cautions_of, heaviest_pack_kg
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from keeve.words.putting import put
from keeve.words.reader import METRIC, US
from tests.conftest import Ticketer
from tests.prose import PROSE

CATALOGUE = load_catalogue()
MIXES = sorted(CATALOGUE.mixes)
CEMENTED = {"cement", "lime"}


@pytest.mark.parametrize("key", MIXES)
def test_every_mix_says_what_can_hurt(key: str) -> None:
    mix = CATALOGUE.mixes[key]
    said = cautions_of(mix, mix.basis.proportions())
    roles = {m.role for m in mix.materials()}
    if roles & CEMENTED:
        assert "alkali" in said
    if roles & {"cement", "lime", "premix", "plaster", "supplementary"} and key != "tinted-finish":
        assert "dust" in said
    # Common practice, no source: over 20 kg (44 lb) two hands or two people.
    assert ("lifting" in said) is (heaviest_pack_kg(mix) > 20)
    if key.startswith(("c270", "c476", "concrete", "ballast", "bricklaying")):
        assert "structure" in said


@pytest.mark.parametrize("key", MIXES)
def test_each_is_told_once_and_where_it_matters(key: str, ticketed: Ticketer) -> None:
    try:
        ticket = ticketed(mix=key, shapes=[{"kind": "known", "volume_l": 40}])
    except TradeError:
        ticket = ticketed(mix=key, shapes=[{"kind": "known", "volume_l": 4}], strategy="equal")
    card = ticket.cards[0]
    told = [plain(words) for step in card.steps for words in step.cautions]
    assert len(told) == len(set(told))
    assert set(told) <= {plain(words) for words in (*ticket.cautions, *ticket.warnings)}
    dusty = [step for step in card.steps if any("dust" in plain(words) for words in step.cautions)]
    for step in dusty:
        assert any(part.key != "water" for part in step.parts)


def test_lifting_says_the_mass_of_the_pack(ticketed: Ticketer) -> None:
    heavy = ticketed(mix="concrete-bag-60lb", mixer="drum-small").cautions
    assert PROSE["a-pack-of-27"] in [put(c, METRIC) for c in heavy]
    assert PROSE["a-pack-of-60"] in [put(c, US) for c in heavy]
    assert not any("two people" in plain(c) for c in ticketed(mix="hemp-lime-wall", changes={"pack_kg": 18}).cautions)
