"""What Keeve ships knowing: materials, mixes, procedures, vessels and cautions, each with its source."""

from keeve.catalogue.loader import OWN, Catalogue, load_catalogue
from keeve.catalogue.own_mix import MixSheet, own_mix, read_own_mix
from keeve.catalogue.sand_test import SandResult, SandTest, judge_sand
from keeve.catalogue.sheet import JobSheet, plan_sheet, resolve

__all__ = [
    "OWN",
    "Catalogue",
    "JobSheet",
    "MixSheet",
    "SandResult",
    "SandTest",
    "judge_sand",
    "load_catalogue",
    "own_mix",
    "plan_sheet",
    "read_own_mix",
    "resolve",
]
