"""Reads where a job begins from one field: 4 tins of sand, 1 bag, 10 lb of plaster, what the mixer takes."""

import re
from typing import Final

from keeve.catalogue.loader import Catalogue
from keeve.core.dividing.start import OfBags, OfDepth, OfMass, OfMeasures, OfMixer, OfWater, Start
from keeve.core.measure.reading import is_bare, read_mass_kg, read_number, read_volume_l
from keeve.core.message.errors import Code, Fault, LoadError, TradeError
from keeve.core.message.said import Said, mark, plain
from keeve.core.mixes.mix import Mix
from keeve.core.vessels.vessels import Container, Mixer

_ALL: Final = re.compile(
    r"^(?:what|as much as|all) (?:this |the )?(?:mixer|drum|pan|tray|bucket|tub|bowl) (?:takes|holds)"
)
_PART_OF: Final = re.compile(
    r"^(?P<share>half|a third|two thirds|a quarter|three quarters)(?: of)? (?:a |the |this )?(?P<vessel>[^,]{1,60})$"
)
_SHARES: Final = {
    "full": 1.0,
    "half": 0.5,
    "two thirds": 2 / 3,
    "a third": 1 / 3,
    "third": 1 / 3,
    "three quarters": 0.75,
    "a quarter": 0.25,
    "quarter": 0.25,
}
_SAID_NUMBERS: Final = {
    "a": 1.0, "an": 1.0, "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "seven": 7.0,
    "eight": 8.0, "nine": 9.0, "ten": 10.0, "half": 0.5, "half a": 0.5, "half an": 0.5,
}  # fmt: skip
_NUMBER: Final = re.compile(r"^(?P<n>half an?|half|[a-z]+|[0-9][0-9 .,/½¼¾⅓⅔]*)\s*[×x]?\s+(?P<rest>.+)$")
_OF: Final = re.compile(r"^(?P<what>.+?)\s+of\s+(?:the\s+)?(?P<material>.+)$")
_BAG: Final = re.compile(r"^(?:bags?|sacks?|packs?|kits?)\b")
_SPACE: Final = re.compile(r"\s+")
_EXAMPLES: Final = mark(
    "Write it like 4 tins of sand, 1 bag, 10 kg of plaster, half a bucket, or what the mixer takes."
)


def _unread(said: str = "") -> LoadError:
    sentence = said or mark("That does not say how much of what.")
    return LoadError(Fault(Code.UNREADABLE, sentence, _EXAMPLES, field="start"))


def _number(text: str) -> float | None:
    known = _SAID_NUMBERS.get(text)
    if known is not None:
        return known
    try:
        return read_number(text)
    except TradeError:
        return None


def _same(word: str, name: str) -> bool:
    """Whether a word of a start means something by this name: a tin is tins, a Sand tin is a tin."""
    one, other = word.rstrip("s"), name.lower()
    return bool(one) and (one == other.rstrip("s") or re.search(rf"\b{re.escape(one)}s?\b", other) is not None)


def _material(word: str, mix: Mix) -> str:
    mine = mix.materials()
    # "Hemp" is the hemp, and not the binder that is named after it.
    found = [m.key for m in mine if m.key == word or word.rstrip("s") == m.role]
    found += [m.key for m in mine if _same(word, plain(m.name))]
    if not found:
        raise _unread(mark("This mix has none of that in it."))
    return found[0]


def _vessel(word: str, mixer: Mixer, gauges: tuple[Container, ...], catalogue: Catalogue) -> Container | Mixer | None:
    word = word.strip()
    own = [*gauges, *(c for c in catalogue.containers.values() if c not in gauges)]
    shorts = [(one, plain(one.short)) for one in own]
    for one, short in shorts:
        if _same(word, short) and (short.lower() == word.rstrip("s") or word in (short, f"{short}s")):
            return one
    for one, short in shorts:
        if _same(word, plain(one.name).split(",")[0]) or _same(word, short):
            return one
    found = [m for m in (mixer, *catalogue.mixers.values()) if _same(word, plain(m.name).split(",")[0])]
    return found[0] if found else None


def read_start(
    text: str, mix: Mix, mixer: Mixer, gauges: tuple[Container, ...], catalogue: Catalogue
) -> tuple[Start | None, float | None]:
    """Read a start.

    Parameters
    ----------
    text : as typed, at most 200 letters
    mix : whose materials may be named
    mixer : what is meant by the mixer
    gauges : measures at hand; they are looked at before all others of the catalogue
    catalogue : where vessels are looked up

    Returns
    -------
    the start, or the bags to a load where only that was said: "two-bag loads"

    Raises
    ------
    LoadError : what cannot be read, with how to write it
    """
    words = _SPACE.sub(" ", text.strip().lower().removesuffix(".")).replace("mixer's", "mixer")
    loads = re.match(r"^(?P<n>[a-z0-9½.]+)[- ](?:bag|sack|kit)s? (?:loads?|batch(?:es)?)$", words)
    if loads:
        number = _number(loads["n"])
        if number is None:
            raise _unread()
        return None, number
    if _ALL.match(words):
        return OfMixer(), None
    words = re.sub(r"\s+(?:is|are) (?:all there (?:is|are)|all (?:i|we) have|left)$", "", words)
    words = re.sub(r"^(?:only|just)\s+", "", words).removesuffix(" now")
    full = _deep(words, mixer, gauges, catalogue)
    if full is not None:
        return full, None
    return _amount(words, mix, mixer, gauges, catalogue), None


def _deep(words: str, mixer: Mixer, gauges: tuple[Container, ...], catalogue: Catalogue) -> Start | None:
    """Read a vessel that is so full: this bucket two thirds full, half a bucket."""
    match = re.match(r"^(?:this |the |a |one )?(?P<vessel>[^,]{1,60}?),? (?P<share>[a-z ]*?) ?full$", words)
    if match:
        share = _SHARES.get(match["share"].strip() or "full")
        vessel = _vessel(match["vessel"], mixer, gauges, catalogue)
    else:
        match = _PART_OF.match(words)
        if not match or " of " in match["vessel"] or _BAG.match(match["vessel"]):
            return None
        share = _SHARES[match["share"]]
        vessel = _vessel(match["vessel"], mixer, gauges, catalogue)
    if share is None or vessel is None:
        return None
    return OfDepth(share=share, vessel=vessel)


def _amount(words: str, mix: Mix, mixer: Mixer, gauges: tuple[Container, ...], catalogue: Catalogue) -> Start:
    of = _OF.match(words)
    what, material = (of["what"], of["material"]) if of else (words, "")
    if material == "water":
        try:
            return OfWater(litres=read_volume_l(what))
        except TradeError as error:
            raise _unread() from error
    counted = _NUMBER.match(what)
    number = _number(counted["n"].strip()) if counted else None
    if counted and number is not None and number > 0:
        if _BAG.match(counted["rest"]):
            if material and _material(material, mix) != mix.bagged().key:
                raise _unread(mark("Of that nobody knows the bag: say how much it weighs."))
            return OfBags(bags=number)
        vessel = _vessel(counted["rest"], mixer, gauges, catalogue)
        if isinstance(vessel, Container) and material:
            return OfMeasures(material=_material(material, mix), count=number, measure=vessel)
        if vessel is not None and not material and number <= 1:
            return OfDepth(share=number, vessel=vessel)
        if vessel is None and material and _mass_kg(what) is None:
            raise LoadError(
                Fault(
                    Code.UNKNOWN,
                    Said("Nobody has measured this yet: {measure}.", measure=counted["rest"][:40]),
                    mark("Describe it in the yard, then begin from it."),
                    field="start",
                )
            )
    mass_kg = _mass_kg(what)
    if material and mass_kg:
        return OfMass(material=_material(material, mix), mass_kg=mass_kg)
    raise _unread()


def _mass_kg(text: str) -> float | None:
    try:
        return None if is_bare(text) else read_mass_kg(text)
    except TradeError:
        return None
