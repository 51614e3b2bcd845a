"""A load dosed only to be compared is the same load: its time and its doses, for every mix in everything it is mixed in."""

import itertools
import re

import pytest

from keeve.catalogue import load_catalogue
from keeve.core.dosing.card import Recipe, brief_card, dose_card
from keeve.core.materials.moisture import Heaps
from keeve.core.message.errors import TradeError
from keeve.core.mixes.mix import Mix
from keeve.core.vessels.tools import Tools

SHELF = load_catalogue()
TOOLS = Tools(
    tuple(SHELF.gauges()), next(one for one in SHELF.containers.values() if one.mark_l), tuple(SHELF.scales.values())
)


@pytest.mark.parametrize("mix", SHELF.mixes.values(), ids=lambda mix: mix.key)
def test_a_load_that_is_only_compared_takes_as_long_and_is_as_far_off(mix: Mix) -> None:
    proportions = mix.basis.proportions()
    done = 0
    for procedure, volume_l in itertools.product(mix.procedures.values(), (0.8, 7.0, 33.0, 140.0)):
        given = (Recipe(proportions, mix, procedure, Heaps(), TOOLS), volume_l / 1000)
        try:
            whole = dose_card(*given)
        except TradeError as refused:
            with pytest.raises(TradeError, match=re.escape(str(refused))):
                brief_card(*given)
            continue
        brief = brief_card(*given)
        assert brief.seconds == whole.seconds, (procedure.key, volume_l)
        assert brief.rounded == whole.rounded
        untold = {"heap": None, "gauged_to_l": None}
        assert brief.doses == tuple(dose.model_copy(update=untold) for dose in whole.doses)
        done += 1
    assert done
