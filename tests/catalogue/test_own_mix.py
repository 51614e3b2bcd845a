"""A crew's own mix: what is changed is changed, what is not stays, and nothing that cannot be made gets through."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue, read_own_mix
from keeve.catalogue.own_mix import doubts
from keeve.core.message.errors import MixError
from keeve.core.message.said import plain
from keeve.core.mixes.mix import Mix
from tests.prose import PROSE

SHELF = load_catalogue()


def own(base: str, **entry: Any) -> Mix:
    return read_own_mix(SHELF.mixes[base], "own-1", entry, SHELF)


@pytest.mark.parametrize("base", SHELF.mixes)
def test_a_copy_with_nothing_changed_makes_the_same_concrete_mortar_or_plaster(base: str) -> None:
    copied, shipped = own(base), SHELF.mixes[base]
    assert copied.key == "own-1"
    assert copied.basis.proportions() == shipped.basis.proportions()
    assert copied.procedures == shipped.procedures
    assert plain(copied.source).startswith(PROSE["own-mix-based-on"])


@given(st.floats(1.0, 6.0), st.floats(0.0, 12.0))
def test_parts_typed_are_the_parts_made(sand: float, air: float) -> None:
    parts = [{"material": "portland-cement", "parts": "1"}, {"material": "sharp-sand", "parts": f"{sand:.4f}"}]
    made = own("cement-mortar-1-3", basis={"parts": parts, "air_percent": f"{air:.4f}"}).basis.proportions()
    cement, heap = made.constituents
    # By volume: the ratio of masses is the ratio of parts times that of the bulk densities (94 and 80 lb to the ft³).
    assert heap.dry_kg_m3 / cement.dry_kg_m3 == pytest.approx(round(sand, 4) * 1281 / 1506, rel=1e-6)
    assert made.air == pytest.approx(round(air, 4) / 100, abs=1e-9)


def test_a_material_of_ones_own_changes_only_the_mix_it_stands_in() -> None:
    label = {"sharp-sand": {"name": "Quarry sand", "particle_density_kg_m3": "2700", "absorption_percent": "1.8"}}
    mix = own("cement-mortar-1-3", materials=label)
    sand = next(m for m in mix.materials() if m.role == "sand")
    assert (plain(sand.name), sand.particle_density_kg_m3, sand.absorption_percent) == ("Quarry sand", 2700, 1.8)
    assert sand.source == PROSE["the-crew-s-own"]
    assert SHELF.materials["sharp-sand"].particle_density_kg_m3 == 2650
    assert mix.basis.proportions().volume_m3() == pytest.approx(1.0, abs=1e-9)


def test_a_binder_that_is_new_to_the_mix_is_put_in_by_its_steps() -> None:
    parts = [
        {"material": "portland-cement", "parts": "1"},
        {"material": "hydrated-lime", "parts": "1/2"},
        {"material": "sharp-sand", "parts": "4"},
    ]
    mix = own("cement-mortar-1-3", basis={"parts": parts})
    for kind, procedure in mix.procedures.items():
        together = [{a.of for a in s.adds} for s in procedure.steps]
        assert any({"cement", "lime"} <= adds for adds in together), kind


def test_a_mix_that_leaves_its_standard_says_so_and_one_inside_it_does_not() -> None:
    def type_n(sand: str) -> Mix:
        rows = [("portland-cement", "1"), ("hydrated-lime", "1"), ("soft-sand", sand)]
        return own("c270-n", basis={"parts": [{"material": m, "parts": p} for m, p in rows]})

    # ASTM C270, from memory: 2 1/4 to 3 of sand to the sum of binders, so 4 1/2 to 6 here.
    assert doubts(type_n("6")) == ()
    (said,) = doubts(type_n("7"))
    assert "wants 2.25 to 3" in plain(said)


def test_words_of_ones_own_stand_beside_those_left_alone() -> None:
    mix = own("stucco-base", consistency={"right": "stands on the hawk"}, name="Base, ours")
    assert plain(mix.consistency.right) == "stands on the hawk"
    assert mix.consistency.wet == SHELF.mixes["stucco-base"].consistency.wet
    assert plain(mix.name) == "Base, ours"


@pytest.mark.parametrize(
    ("entry", "field"),
    [
        ({"basis": {"parts": ["sand"]}}, "basis.parts.0"),
        ({"basis": {"basis": "kit"}}, "basis.basis"),
        ({"basis": {"colour": "red"}}, "basis.colour"),
        ({"basis": {"parts": [{"material": "sharp-sand", "parts": "-1"}]}}, "basis.parts.0.parts"),
        ({"basis": {"air_percent": "80"}}, "basis.air_percent"),
        ({"materials": {"sharp-sand": {"loose_bulk_kg_m3": "0"}}}, "materials.sharp-sand.loose_bulk_kg_m3"),
        ({"basis": {"water": {"low": "9", "target": "0.2", "high": "0.1"}}}, "basis.water"),
        ({"colour": "red"}, "colour"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(entry: dict[str, Any], field: str) -> None:
    with pytest.raises(MixError) as caught:
        own("cement-mortar-1-3", **entry)
    assert any(f.field.startswith(field) for f in caught.value.faults), caught.value.faults
    assert all(f.sentence for f in caught.value.faults)


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=8) | st.integers(),
        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(
            st.sampled_from(["parts", "water", "material", "air_percent", "low", "sharp-sand", "name", "x"]), inner, max_size=3),
        max_leaves=8,
    ),
    st.sampled_from(["basis", "materials", "consistency", "name", "waste_percent"]),
    st.sampled_from(list(SHELF.mixes)),
)  # fmt: skip
def test_nothing_typed_ends_in_anything_but_a_mix_or_a_sentence(value: Any, name: str, base: str) -> None:
    try:
        mix = own(base, **{name: value})
    except MixError as error:
        said = [f.sentence for f in error.faults]
    else:
        said = [mix.name]
        assert mix.basis.proportions().volume_m3() == pytest.approx(1.0, abs=1e-6)
    assert all(said)
