"""A load that came out too wet: how much dry mix brings it back, and whether it still fits."""

from typing import Final

from keeve.core.message.working import PRACTICE, Given, Working
from keeve.core.ticket.cards import TicketCard

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
    water_l: float, dry_kg: float, back_per_dry: float, step_l: float, share: float = 1.0
) -> tuple[float, bool]:
    """Dry mix to propose for a load that was found too wet.

    Parameters
    ----------
    water_l : water in the load, poured and come once with admixtures and ice [L]
    dry_kg : dry mass in the load, earlier additions counted [kg]
    back_per_dry : the water per dry mass it is brought back to [L/kg], > 0: what it had when it was last right or too
        dry, else what was expected of it
    step_l : one step of water [L]
    share : of the way back [-]: half where it was too dry then

    Returns
    -------
    dry mass to add [kg], and whether the count asks for it; else it is for one step, as the count is not over

    Notes
    -----
    The heap's water goes with the dry mass, so water / dry must come back to what it was.

    References
    ----------
    As `dry_to_add_kg`; from where it is counted: house ruling.

    >>> proposal_kg(11.0, 100.0, 0.1, 0.3), proposal_kg(11.0, 100.0, 0.1, 0.3, 0.5)
    ((10.0, True), (5.0, True))
    >>> proposal_kg(9.5, 100.0, 0.1, 0.3)
    (3.0, False)
    """
    by_count = water_l / back_per_dry - dry_kg
    if by_count > SMALLEST_SHARE * dry_kg:
        return round(by_count * share, 9), True
    return round(step_l / back_per_dry, 9), False


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


def rescue_working(card: TicketCard, per_litre: float) -> Working:
    """Explain the dry mix for each litre too much [kg/L]. Plain arithmetic."""
    brought = card.water.brought_l - card.water.once_l
    return Working(
        figure="Dry mix for each litre too much",
        formula="1 / (target − brought by the make-up)",
        given=(
            Given("target free water per kg dry", card.water.free.target / card.dry_kg, ""),
            Given("brought per kg dry", brought / card.dry_kg, ""),
        ),
        result=per_litre,
        unit="kg",
        source=PRACTICE,
    )
