"""Station 2: the mix and how this job sets it."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Final, NamedTuple

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.catalogue import Catalogue
from keeve.catalogue.trying import old_looks
from keeve.core.materials.material import WET_HEAPS, Material
from keeve.core.materials.moisture import heap_water
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.mixes.admixtures import Admixture
from keeve.core.mixes.mix import LATE_WATER, Mix, School
from keeve.core.vessels.vessels import Container
from keeve.web.asking.deps import Looking, ReadBy
from keeve.web.asking.entries import finenesses
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.pages.asked_fields import asked_fields
from keeve.web.pages.mix_rows import families, own_rows
from keeve.web.stations.answering import Shown, full_sheet, seen_station
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import measured, say, show

router = APIRouter(responses=REFUSALS)

LOOKS = (mark("dry"), mark("damp"), mark("moist"), mark("wet"), mark("dripping"))


@dataclass(frozen=True, slots=True)
class Heap:
    """An aggregate whose water counts."""

    key: str
    name: Words
    bulks: bool
    unseen: Words
    """What is reckoned with until somebody looks."""


def _heap(material: Material) -> Heap:
    water = heap_water(material, None)
    unseen = Said("{low} to {high}", low=Amount(water.low, ""), high=Amount(water.high, "%"))
    return Heap(material.key, material.name, material.bulking != "none", unseen)


def _dosed_in(materials: tuple[Material, ...], shelf: Catalogue) -> list[Admixture]:
    """List the admixtures a mix takes: on its cement, or packs for a bag whose cement nobody knows."""
    roles = {material.role for material in materials}
    if "cement" in roles:
        return list(shelf.admixtures.values())
    return [a for a in shelf.admixtures.values() if a.unit.endswith("/bag")] if "premix" in roles else []


def _dosed_as(materials: tuple[Material, ...], reader: Reader) -> str:
    if not any(material.role == "cement" for material in materials):
        return t(reader, "1 pack/bag")
    return "6 fl oz/cwt" if reader.us else "400 mL/100 kg"


def _admixture_words(label: Admixture, reader: Reader) -> str:
    least, most = (measured(v, label.unit, reader) for v in (label.least, label.most))
    return f"{put(label.name, reader)} ({least.number}–{say(most)})"


def _packs(mix: Mix, reader: Reader) -> list[tuple[str, str]]:
    packs = [(f"{p.mass_kg:g}", put(p.name, reader)) for p in mix.bagged().packs]
    if mix.pack_kg and all(abs(float(key) - mix.pack_kg) > 1e-3 for key, _ in packs):
        packs.append((f"{mix.pack_kg:g}", show(mix.pack_kg, "kg", reader)))
    # Bags of a reader's own country come first.
    return sorted(packs, key=lambda pack: reader.us != ("lb" in pack[1]))


class AskedWay(NamedTuple):
    """A question of a school as the form asks it."""

    key: str
    question: Words
    why: Words
    ways: list[tuple[str, Words]]
    """Keys and names; what Keeve does comes first and stands for nothing typed."""
    chosen: str


def _asked_way(school: School, changes: dict[str, Any]) -> AskedWay:
    typed = changes.get("schools")
    chosen = str(typed.get(school.key, "")) if isinstance(typed, dict) else ""
    if not chosen and school.key == LATE_WATER:  # as sheets of before have it
        chosen = next((way.key for way in school.ways if way.name == changes.get("late_water")), "")
    first = sorted(school.ways, key=lambda way: way.key != school.default)
    ways = [("" if way.key == school.default else way.key, way.name) for way in first]
    return AskedWay(school.key, school.question, school.why, ways, chosen)


def first_gauge(shelf: Catalogue, typed: list[Any]) -> Container:
    """Return the measure that is weighed: the one chosen for the job, else the first of the shelf."""
    chosen = typed[0] if typed and isinstance(typed[0], str) else ""
    return shelf.containers.get(chosen) or shelf.gauges()[0]


@router.get("/jobs/{job_id}/mix", name="mix", **PAGE)
def mix(request: Request, job_id: str, desk: Looking, reader: ReadBy) -> Response:
    """Show the mixes, the chosen one's settings, and what it is made of."""
    return seen_station(request, desk, job_id, "mix", lambda shown: _settings(shown, reader))


def _settings(shown: Shown, reader: Reader) -> dict[str, Any]:
    shelf, whole = shown.shelf, full_sheet(shown.typed)
    chosen = shelf.mixes.get(shown.job.mix_key)
    always = {
        "chosen": chosen,
        "families": families(own_rows(shelf, reader), reader),
        "looks": LOOKS,
        "old_looks": old_looks(shown.typed, datetime.now(UTC)),
        "gauge": first_gauge(shelf, whole["gauges"]).short,
    }
    return always | (_of_chosen(chosen, shown, whole["changes"], reader) if chosen else _WITHOUT_MIX)


_WITHOUT_MIX: Final[dict[str, Any]] = {
    "heaps": (), "schools": (), "asked": (), "sands": (), "by_volume": (), "pack_of": "", "cooled": False, "warmed": (),
    "designed": False, "classed": False, "has_cement": False, "admixtures": (), "dosed_as": "", "packs": (),
}  # fmt: skip


def _warmed(materials: tuple[Material, ...]) -> list[str]:
    """Name the temperatures that a mix asks for: a bag has neither sand nor stone."""
    roles = {m.role for m in materials}
    heaps = ["aggregate_c"] * bool(roles & set(WET_HEAPS)) + ["stone_c"] * (roles >= {"sand", "stone"})
    return ["water_c", *heaps, "binder_c"]


def _of_chosen(chosen: Mix, shown: Shown, changes: dict[str, Any], reader: Reader) -> dict[str, Any]:
    shelf, materials = shown.shelf, chosen.materials()
    asked = asked_fields(chosen.basis, changes, "changes", reader, for_job=True)
    by_sand = any(one.path == "changes.fineness_modulus" for one in asked)
    cements = [m for m in materials if m.role == "cement"]
    return {
        "heaps": [_heap(m) for m in materials if m.role in WET_HEAPS],
        "schools": [_asked_way(school, changes) for school in chosen.schools],
        "asked": asked,
        "sands": finenesses(shown.at.book, shelf) if by_sand else [],
        "by_volume": cements if chosen.basis.by_volume else [],
        "pack_of": chosen.bagged().name,
        "cooled": any(m.role in ("cement", "premix") for m in materials),
        "warmed": _warmed(materials),
        "has_cement": bool(cements),
        "designed": chosen.basis.designs_water,
        "classed": chosen.kin.name in ("concrete", "high-strength"),
        "admixtures": [
            ("", t(reader, "none")),
            *((a.key, _admixture_words(a, reader)) for a in _dosed_in(materials, shelf)),
        ],
        "dosed_as": _dosed_as(materials, reader),
        "packs": _packs(chosen, reader) if chosen.basis.own_bag_kg() is None else [],
    }
