"""The logs that are kept fold to the runs beside them, at once and bit by bit; the scripts' share of them is current."""

import runpy
from pathlib import Path

import pytest

from keeve.core.run.events import read_event
from keeve.core.run.folding import Folding, fold
from tests.browser.test_fold_twin import differences
from tests.vectors import Read, Vector, kept, read

SETS, KEPT = kept()
TWINS = Path(__file__).parents[3] / "scripts" / "twins.py"


@pytest.mark.parametrize(("vector", "found"), KEPT, ids=[vector.name for vector, _ in KEPT])
def test_a_kept_log_folds_to_its_run(vector: Vector, found: Read) -> None:
    at_once = fold(SETS[vector.tickets], [read_event(event) for event in vector.events])
    folding = Folding(SETS[vector.tickets])
    for bit in vector.bits:
        folding.take([read_event(event) for event in bit]).run()
    for run in (at_once, folding.run()):
        assert differences(vector.name, found.run, run.model_dump(mode="json")) == []
    assert differences(vector.name, found.told, read(SETS[vector.tickets], vector).told) == []


def test_what_a_newer_phone_tells_ends_and_begins_no_load() -> None:
    (vector, found) = next(one for one in KEPT if one[0].name == "from a newer phone")
    (load,) = found.run["loads"]
    assert load["ended"] == ""
    assert load["poured_l"] == 9.5
    assert len(found.run["standing"]) == 4  # what was taken back does not stand, whatever it was
    folded = fold(
        SETS[vector.tickets], [read_event(event) for event in vector.events if event["kind"] in ("started", "poured")]
    )
    assert folded.loads[0].poured_l == 9.5


@pytest.mark.parametrize("name", ["run/constants.js", "documents.d.ts"])
def test_what_the_scripts_share_with_the_core_is_current(name: str) -> None:
    from keeve.web.edge.static_files import STATIC

    made = runpy.run_path(str(TWINS))["FILES"][name]()
    assert (STATIC / name).read_text(encoding="utf-8") == made, "run scripts/twins.py"
