"""How far a dose may be off: by the scale and by volume."""

from typing import Final, Literal

Rule = Literal["ASTM C94", "EN 206"]
SLACK: Final = 1e-9
"""What is exactly right is right however it was worked out, as a share."""

# Plus or minus, in percent of the dose. From memory of the standards; lime and plaster are judged as cement.
BY_SCALE: Final[dict[Rule, dict[str, float]]] = {
    "ASTM C94": {"binder": 1.0, "aggregate": 2.0, "water": 1.0, "admixture": 3.0},
    "EN 206": {"binder": 3.0, "aggregate": 3.0, "water": 3.0, "admixture": 5.0},
}
_KIND: Final = {
    "sand": "aggregate",
    "stone": "aggregate",
    "ballast": "aggregate",
    "hemp": "aggregate",
    "water": "water",
    "admixture": "admixture",
    "fibre": "admixture",
    "powder": "admixture",
}


def kind_of(role: str) -> str:
    """Say as what a constituent is judged: binder, aggregate, water or admixture. ASTM C94, from memory."""
    return _KIND.get(role, "binder")


def allowed_percent(role: str, rule: Rule = "ASTM C94") -> float:
    """How far a dose may be off, either way [%].

    Parameters
    ----------
    role : of the constituent; `water` or `admixture` for those
    rule : whose tolerance

    References
    ----------
    ASTM C94 and EN 206, from memory.

    >>> allowed_percent("cement"), allowed_percent("sand", "EN 206")
    (1.0, 3.0)
    """
    return BY_SCALE[rule][kind_of(role)]


# How close a dose by volume must be, % below and above: ASTM C685, from memory; for its 0 under cement stands −1, a
# house ruling, since nobody fills to less than that.
BY_VOLUME: Final[dict[str, tuple[float, float]]] = {
    "cement": (-1.0, 4.0),
    "sand": (-2.0, 2.0),
    "stone": (-2.0, 2.0),
    "ballast": (-2.0, 2.0),
}


def allowed_by_volume(role: str) -> tuple[float, float]:
    """Say how far a dose by volume may be off, below and above [%]. ASTM C685, from memory; lime as cement."""
    return BY_VOLUME.get(role, BY_VOLUME["cement"])


def close_enough(role: str, error_percent: float) -> bool:
    """Whether a dose measured by volume is as close as it must be.

    Parameters
    ----------
    role : of the constituent; lime is judged as cement
    error_percent : what the measure does to the dose [%]

    Returns
    -------
    inside the tolerance

    References
    ----------
    ASTM C685, from memory; for lime common practice, no source.

    >>> close_enough("sand", 1.9), close_enough("cement", -1), close_enough("cement", -1.2)
    (True, True, False)
    """
    low, high = allowed_by_volume(role)
    return low - SLACK * 100 <= error_percent <= high + SLACK * 100
