"""Who reads: a language and a system of units."""

from functools import lru_cache
from typing import Final, Literal, NamedTuple

from babel import Locale, UnknownLocaleError
from babel.numbers import get_decimal_symbol

System = Literal["metric", "us"]


class Reader(NamedTuple):
    """In which units and which language something is shown."""

    system: System = "metric"
    language: str = "en"

    @property
    def us(self) -> bool:
        """Whether pounds, gallons and inches are read."""
        return self.system == "us"


METRIC: Final = Reader("metric")
US: Final = Reader("us")


@lru_cache(maxsize=64)
def locale_of(language: str) -> Locale:
    """Return the locale whose numbers and lists a language uses; English for one that is made up."""
    try:
        return Locale.parse(language, sep="-")
    except (UnknownLocaleError, ValueError):
        return Locale("en")


@lru_cache(maxsize=64)
def decimal_mark(language: str) -> str:
    """Return what parts the whole from its fraction in a language."""
    return str(get_decimal_symbol(locale_of(language)))
