"""What a heap looks like, and how wet it may be then; and how wet one is that nobody looked at."""

from typing import Final, Literal, NamedTuple

HeapLook = Literal["dry", "damp", "moist", "wet", "dripping"]
"""What a heap looks like, where nobody measured it."""


class HeapWater(NamedTuple):
    """Total moisture of a heap [% of the dry mass]: from, likely, to; all alike where it was measured."""

    low: float
    likely: float
    high: float
    seen: bool = True
    """Whether anybody looked."""


HeapChange = Literal["rain", "uncovered", "bottom", "delivery"]
"""After each of them a heap is as wet as nobody knows."""

# House rulings; the surface water of moist stone, 1.25 to 2.5 %, is IS 456 table 10, from memory.
SAND_LOOKS: Final[dict[HeapLook, HeapWater]] = {
    "dry": HeapWater(0, 1, 2),
    "damp": HeapWater(2, 3, 4),
    "moist": HeapWater(4, 5, 6),
    "wet": HeapWater(6, 7, 8),
    "dripping": HeapWater(8, 9, 10),
}
SAND_UNSEEN: Final = HeapWater(2, 5, 8, seen=False)
BAGGED_UNSEEN: Final = HeapWater(0, 0.5, 1, seen=False)
"""Sand that was bagged dry."""
STONE_LOOKS: Final[dict[HeapLook, HeapWater]] = {
    "dry": HeapWater(-1, -0.5, 0),
    "damp": HeapWater(0, 0.25, 0.5),
    "moist": HeapWater(0.5, 0.9, 1.25),
    "wet": HeapWater(1.25, 1.6, 2),
    "dripping": HeapWater(2, 2.25, 2.5),
}
"""Surface water of stone; the dry end is its absorption, for which -1 stands."""
STONE_UNSEEN: Final = HeapWater(0, 0.6, 1.25, seen=False)
