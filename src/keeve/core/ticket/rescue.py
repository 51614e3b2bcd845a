"""A load that came out too wet: how much dry mix brings it back, and whether it still fits."""

from typing import Final

SMALLEST_SHARE: Final = 0.001
"""Over the target by less than this share of it is nothing a jug can tell: common practice, no source."""


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


def proposal_kg(
    poured_l: float, once_l: float, dry_kg: float, aim_l: float, aim_once_l: float, load_dry_kg: float, step_l: float
) -> float:
    """Dry mix to propose for a load that was found too wet.

    Parameters
    ----------
    poured_l, once_l : water poured, and water that came in once with admixtures and ice [L]
    dry_kg : dry mass in the load, earlier additions counted [kg]
    aim_l, aim_once_l : what the whole load should have been poured, and its water that comes once [L]
    load_dry_kg : dry mass of the load as planned [kg]
    step_l : one step of water [L]

    Returns
    -------
    dry mass to add [kg]: what the count asks for; one step where the count is not over its aim

    Notes
    -----
    The heap's water goes with the dry mass, so (poured + once) / dry must come back to (aim + once) / dry planned.

    References
    ----------
    As `dry_to_add_kg`.

    >>> proposal_kg(11.0, 0.0, 100.0, 10.0, 0.0, 100.0, 0.3), proposal_kg(9.5, 0.0, 100.0, 10.0, 0.0, 100.0, 0.3)
    (10.0, 3.0)
    """
    per_litre = load_dry_kg / (aim_l + aim_once_l)
    by_count = (poured_l + once_l) * per_litre - dry_kg
    return by_count if by_count > SMALLEST_SHARE * dry_kg else step_l * per_litre


def made_l(volume_l: float, share_more: float, water_l: float, target_water_l: float, *, by_dry_mass: bool) -> float:
    """Fresh mix a load really made, by absolute volume.

    Parameters
    ----------
    volume_l : as planned [L]
    share_more : dry mix added, as a share of the planned dry mass [-], >= 0
    water_l : water poured, and what came once [L]
    target_water_l : the same as planned [L]
    by_dry_mass : the placed volume follows the dry mass alone

    Returns
    -------
    volume [L]: the added mix fills its share, water off the target fills itself

    References
    ----------
    Plain arithmetic.

    >>> made_l(60.0, 0.0, 9.5, 9.0, by_dry_mass=False), made_l(60.0, 0.1, 9.9, 9.0, by_dry_mass=False)
    (60.5, 66.0)
    """
    whole = volume_l * (1 + share_more)
    return whole if by_dry_mass else whole + water_l - target_water_l * (1 + share_more)
