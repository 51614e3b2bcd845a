"""What Keeve ships knowing: materials, mixes, procedures, vessels and cautions, each with its source."""

from keeve.catalogue.loader import Catalogue, load_catalogue
from keeve.catalogue.sheet import JobSheet, MixChanges, plan_sheet, resolve

__all__ = ["Catalogue", "JobSheet", "MixChanges", "load_catalogue", "plan_sheet", "resolve"]
