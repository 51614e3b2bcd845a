"""A load that came out too wet or too dry: what can still be done, and what must not."""

from keeve.core.errors import Frozen
from keeve.core.mix import Mix
from keeve.core.proportions import Proportions
from keeve.core.working import PRACTICE, Given, Working


class Correction(Frozen):
    """What to do about a load that is not right."""

    may_take_water: bool
    too_dry: str
    too_wet: str
    dry_kg_per_litre_over: float | None
    """Dry mix that takes up one litre of water too much, aggregate as damp as the heap; None where forbidden."""
    working: Working | None


def dry_to_add_kg(excess_l: float, target_per_dry: float, brought_per_dry: float) -> float:
    """Dry mix that brings a load which is too wet back to its target.

    Parameters
    ----------
    excess_l : water too much [L], >= 0
    target_per_dry : target free water per dry mass [kg/kg], > 0
    brought_per_dry : water the make-up aggregate itself brings, Σ fᵢ (wᵢ − aᵢ) [kg/kg]

    Returns
    -------
    mass of dry solids to add [kg]

    Notes
    -----
    d = x / (t − Σ fᵢ (wᵢ − aᵢ)); damp make-up sand helps less.

    References
    ----------
    Plain arithmetic: (W + x + d s)/(D + d) = t with W/D = t.

    >>> round(dry_to_add_kg(1.0, 0.145, 0.03), 2)
    8.7
    """
    return excess_l / (target_per_dry - brought_per_dry)


def room_for_dry_kg(largest_m3: float, volume_m3: float, dry_kg_m3: float) -> float:
    """Dry mix that still fits into the mixer beside a load; past it the load is thrown away instead.

    Parameters
    ----------
    largest_m3 : largest load the mixer takes [m³]
    volume_m3 : the load [m³]
    dry_kg_m3 : dry mass in a cubic metre of the mix [kg/m³]

    Returns
    -------
    dry mass [kg], 0 where the mixer is full

    References
    ----------
    Plain arithmetic: made-up mix fills its own share of a cubic metre.

    >>> round(room_for_dry_kg(0.116, 0.0986, 1870), 1)
    32.5
    """
    return max(largest_m3 - volume_m3, 0.0) * dry_kg_m3


def correction(mix: Mix, proportions: Proportions, brought_kg_m3: float) -> Correction:
    """Prepare the advice for a load of this mix.

    Parameters
    ----------
    mix : the mix, for what it permits
    proportions : its proportions
    brought_kg_m3 : water the aggregates bring per m³ of fresh mix [kg]

    Returns
    -------
    sentences and the dry mass per litre over; none where the make-up itself is as wet as the target

    References
    ----------
    Common practice, no source.
    """
    rule = mix.late_water
    target = proportions.water.target / proportions.dry_kg_m3
    brought = brought_kg_m3 / proportions.dry_kg_m3
    per_litre = None
    working = None
    if rule.dry_may_be_added and target - brought > 0.1 * target:
        per_litre = dry_to_add_kg(1.0, target, brought)
        working = Working(
            figure="Dry mix for each litre too much",
            formula="1 / (target − brought by the make-up)",
            given=(Given("target free water per kg dry", target, ""), Given("brought per kg dry", brought, "")),
            result=per_litre,
            unit="kg",
            source=PRACTICE,
        )
    return Correction(
        may_take_water=rule.allowed != "never",
        too_dry=rule.too_dry,
        too_wet=rule.too_wet,
        dry_kg_per_litre_over=per_litre,
        working=working,
    )
