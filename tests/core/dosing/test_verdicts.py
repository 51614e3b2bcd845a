"""What a load's verdict says of its doses: nothing that is right is called wrong, what is wrong is named."""

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.dividing.dividing import Split
from keeve.core.planning.plan import Plan, plan
from keeve.core.planning.request import PlanRequest
from keeve.core.ticket.ticketing import issue
from keeve.core.vessels.vessels import Container, Ring, Section
from keeve.formats.writing.ticket_text import ticket as as_text
from keeve.words import measuring
from keeve.words.reader import METRIC, US

CATALOGUE = load_catalogue()
EXAMPLES = sorted(Path("examples").glob("*.json"))


def asked(path: Path) -> PlanRequest:
    return resolve(JobSheet.model_validate_json(path.read_text(encoding="utf-8")), CATALOGUE)


def straight(litres: float, deep_mm: float = 250.0) -> Container:
    """A round vessel with upright sides that holds just so much."""
    wide_mm = 2 * (litres * 1e6 / (deep_mm * 3.141592653589793)) ** 0.5
    rings = (Ring(height_mm=0, width_mm=wide_mm), Ring(height_mm=deep_mm, width_mm=wide_mm))
    return Container(key="own-box", name="Box", short="box", section=Section(rings=rings))


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_no_example_is_called_wrong(path: Path) -> None:
    """All of them are measured as well as their vessels can be: packs, marks drawn by the millimetre, fit scales."""
    found = plan(asked(path))
    assert [card.rounded.failing for card in found.cards] == [()] * len(found.cards)


PARTS = ["cement-mortar-1-3", "bricklaying-mortar-1-4", "lime-pointing-1-2-5", "concrete-1-2-4", "ballast-1-6"]


@settings(max_examples=80, deadline=None)
@given(st.sampled_from(PARTS), st.integers(1, 6), st.floats(1, 90), st.sampled_from(["counts", "marks"]))
def test_what_comes_out_exactly_is_right(mix: str, each: int, litres: float, way: str) -> None:
    """A vessel of one's own of which a part wants a whole number: that part is told without a word against it."""
    keys = [m.key for m in CATALOGUE.mixes[mix].materials()]
    sheet = {"mix": mix, "mixer": "drum-site", "measured": dict.fromkeys(keys, way)}
    shapes = [{"kind": "known", "volume_l": litres}]
    request = resolve(JobSheet.model_validate(sheet | {"shapes": shapes, "strategy": "equal"}), CATALOGUE)
    first = plan(request.model_copy(update={"gauges": (straight(10.0),)})).cards[0]
    for at, dose in enumerate(first.doses):
        boxed = request.model_copy(update={"gauges": (straight(dose.gauged_l / each),)})
        found = plan(boxed)
        card = issue(boxed, found).cards[0]
        assert card.rounded is not None
        if found.cards[0].doses[at].means == way and found.cards[0].volume_m3 == first.volume_m3:
            assert dose.material_key not in {one.key for one in card.rounded.failing}
            said, keeps = measuring.off(card.doses[at], US)
            assert keeps
            assert way == "marks" or not said


def by_tins(litres: float, **more: object) -> tuple[PlanRequest, Plan]:
    sheet = {
        "mix": "cement-mortar-1-3",
        "mixer": "tray",
        "gauges": ["small-bucket"],
        "shapes": [{"kind": "known", "volume_l": litres}],
        "measured": {"portland-cement": "counts", "sharp-sand": "counts"},
    }
    request = resolve(JobSheet.model_validate(sheet | more), CATALOGUE)
    return request, plan(request)


def test_what_fails_is_named_everywhere_with_what_would_be_nearer() -> None:
    request, found = by_tins(8.0)
    (card,) = issue(request, found).cards
    assert card.rounded is not None
    cement = next(d for d in card.doses if d.key == "portland-cement")
    # Two thirds of a bucket by people's counts, by hand: the dose over what a bucket holds.
    assert cement.count is not None
    wanted = (2 / 3 / cement.count.exact - 1) * 100
    assert cement.error_percent == pytest.approx(wanted)
    assert {one.key for one in card.rounded.failing} == {"portland-cement", "ratio"}
    text = as_text(issue(request, found), "", METRIC)
    for words in measuring.verdicts(card, METRIC):
        assert words in text
    assert f"{wanted:.1f} % too much, filled to a mark it comes out." in text
    assert "Sharp sand: " not in "".join(measuring.verdicts(card, US))


def test_a_dose_is_never_a_quarter_of_a_measure_it_hardly_wets() -> None:
    _, found = by_tins(0.5)
    assert all(d.means != "counts" or d.count is None or d.count.exact >= 0.2 for d in found.cards[0].doses)
    assert found.cards[0].rounded.good


@given(st.floats(4, 60))
@settings(max_examples=40, deadline=None)
def test_no_way_that_is_off_is_recommended_beside_one_that_comes_out(litres: float) -> None:
    _, found = by_tins(litres)
    request, _ = by_tins(litres)
    ways = {one.strategy: one for one in issue(request, found).divisions}
    taken = ways[found.recommended]
    if not taken.good:
        near = [w for w in ways.values() if w.good and w.loads <= 1.5 * taken.loads + 1]
        made: dict[str, Split] = {s.strategy: s for s in found.splits}
        assert not [w for w in near if abs(made[w.strategy].left_m3) <= 0.05 * made[w.strategy].made_m3]
