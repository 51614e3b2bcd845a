"""Which letters can be kept and shown, whoever sends them."""

import unicodedata
from typing import Final

_TURNING: Final = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Letters that turn the direction of writing: a name could stand on the page as another."""
_KEPT: Final = frozenset("\n\r\t")


def harmless(text: str) -> bool:
    """Whether a text holds only letters that can be kept and shown: none that control, turn, or are half of one.

    Own assumption of what is needed, after the general categories of Unicode.
    """
    if text.isascii() and text.isprintable():
        return True
    return not any(
        letter in _TURNING or (unicodedata.category(letter) in ("Cc", "Cs") and letter not in _KEPT) for letter in text
    )


def cleaned(text: str) -> str:
    r"""Return a text that may hold anything with a sign in the place of what cannot be kept. As `harmless`.

    >>> cleaned("Porch\x07 step")
    'Porch� step'
    """
    return text if harmless(text) else "".join(letter if harmless(letter) else "�" for letter in text)


def shown(text: str) -> str:
    """Return the beginning of a text that may hold anything, fit to be shown. Own assumption of how much."""
    return cleaned(text[:40])
