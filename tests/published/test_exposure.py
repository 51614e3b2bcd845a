"""Exposure classes against the tables of their standards, both from memory: EN 206 annex F and ACI 318-19."""

from typing import Any

import pytest
from pydantic import ValidationError

from keeve.core.message.errors import faults_of
from keeve.core.message.said import plain
from keeve.core.planning.plan import Plan
from keeve.core.proportions.exposure import CLASSES, read_classes
from tests.conftest import Planner
from tests.prose import PROSE

PSI_MPA = 0.45359237 * 9.80665 / 0.0254**2 / 1e6
"""NIST SP 811."""


@pytest.mark.parametrize(
    ("key", "ratio", "cylinder", "cement", "air"),
    [
        # EN 206, table F.1, from memory: greatest w/c, least class, least cement, least air.
        ("XC1", 0.65, 20, 260, None), ("XC2", 0.60, 25, 280, None), ("XC4", 0.50, 30, 300, None),
        ("XS3", 0.45, 35, 340, None), ("XD3", 0.45, 35, 320, None), ("XF2", 0.55, 25, 300, 4),
        ("XF4", 0.45, 30, 340, 4), ("XA3", 0.45, 35, 360, None),
        # ACI 318-19, table 19.3.2.1, from memory: greatest w/cm, least f'c in psi.
        ("F1", 0.55, 3500 * PSI_MPA, None, None), ("F3", 0.40, 5000 * PSI_MPA, None, None),
        ("S1", 0.50, 4000 * PSI_MPA, None, None), ("W2", 0.50, 4000 * PSI_MPA, None, None),
        ("C2", 0.40, 5000 * PSI_MPA, None, None),
    ],
)  # fmt: skip
def test_a_class_asks_what_its_table_says(
    key: str, ratio: float, cylinder: float, cement: float | None, air: float | None
) -> None:
    row, _ = CLASSES[key]
    assert (row.ratio, row.cement_kg_m3, row.air_percent) == (ratio, cement, air)
    assert row.cylinder_mpa == pytest.approx(cylinder)


def told(plan: Plan) -> str:
    return " | ".join(plain(one) for one in plan.warnings)


def test_a_mix_is_set_against_its_classes_with_the_clause(planned: Planner) -> None:
    sheet: dict[str, Any] = {"mix": "concrete-1-2-4", "mixer": "drum-site", "exposure_classes": "XC4, F2"}
    plan = planned(**sheet)
    cement = plan.proportions.constituents[0].dry_kg_m3
    ratio = plan.proportions.water.target / cement
    said = told(plan)
    assert f"XC4 (EN 206, table F.1): w/c 0.50 at most, this mix has {ratio:.2f}." in said
    assert ("of cement at least" in said) == (cement < 300)
    assert "F2 (ACI 318-19, table 19.3.2.1): w/c 0.45 at most" in said
    assert "entrain air" in said
    assert PROSE["local-annexes"] in said
    assert PROSE["local-annexes"] not in told(planned(mix="concrete-1-2-4", mixer="drum-site"))


def test_a_design_is_judged_by_its_class_too(planned: Planner) -> None:
    design = {"en_class": "C25/30", "mean_mpa": None, "slump_mm": "80 mm"}
    said = told(planned(mix="concrete-designed", changes=design, exposure_classes="XC2 XC4"))
    assert "XC2 (EN 206, table F.1): it holds" in said or "XC2 (EN 206, table F.1): w/c" in said
    assert "30 MPa by cylinder at least, this mix is for 25 MPa" in said


def test_a_class_nobody_knows_is_named(planned: Planner) -> None:
    assert read_classes(" xc4;xf3 ") == ("XC4", "XF3")
    with pytest.raises(ValidationError, match="XQ9") as refused:
        planned(mix="concrete-1-2-4", mixer="drum-site", exposure_classes="XC4 XQ9")
    assert [one.field for one in faults_of(refused.value)] == ["exposure_classes"]  # told beside the field it stands in
