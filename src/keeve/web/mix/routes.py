"""Station 2: the mix and how this job sets it."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, NamedTuple

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.catalogue import Catalogue
from keeve.catalogue.trying import old_looks
from keeve.core.admixtures import Admixture
from keeve.core.material import WET_HEAPS, Material
from keeve.core.mix import LATE_WATER, Mix, School
from keeve.core.moisture import heap_water
from keeve.core.said import Amount, Said, Words, mark
from keeve.core.vessels import Container
from keeve.web.book.sands import finenesses
from keeve.web.deps import Book, ReadBy, SheetedJob, Shelf, Store
from keeve.web.shared.asked_fields import asked_fields
from keeve.web.shared.mix_rows import families, own_rows
from keeve.web.shared.routes import full_sheet, station_page
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import measured, say, show

router = APIRouter(include_in_schema=False)

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
    return packs


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


@router.get("/jobs/{job_id}/mix", name="mix")
def mix(request: Request, job: SheetedJob, store: Store, shelf: Shelf, book: Book, reader: ReadBy) -> Response:
    """Show the mixes, the chosen one's settings, and what it is made of."""
    chosen = shelf.mixes.get(job.mix_key)
    materials = chosen.materials() if chosen else ()
    changes = full_sheet(store.sheet(job))["changes"]
    asked = asked_fields(chosen.basis, changes, "changes", reader, for_job=True) if chosen else []
    return station_page(
        request,
        "mix",
        job,
        store,
        shelf,
        chosen=chosen,
        families=families(own_rows(shelf, reader), reader),
        heaps=[_heap(m) for m in materials if m.role in WET_HEAPS],
        looks=LOOKS,
        old_looks=old_looks(store.sheet(job), datetime.now(UTC)),
        schools=[_asked_way(school, changes) for school in chosen.schools] if chosen else [],
        asked=asked,
        sands=finenesses(book, shelf) if any(one.path == "changes.fineness_modulus" for one in asked) else [],
        by_volume=[m for m in materials if m.role == "cement"] if chosen and chosen.basis.by_volume else [],
        gauge=first_gauge(shelf, full_sheet(store.sheet(job))["gauges"]).short,
        pack_of=chosen.bagged().name if chosen else "",
        cooled=any(m.role in ("cement", "premix") for m in materials),
        has_cement=any(m.role == "cement" for m in materials),
        admixtures=[
            ("", t(reader, "none")),
            *((a.key, _admixture_words(a, reader)) for a in _dosed_in(materials, shelf)),
        ],
        dosed_as=_dosed_as(materials, reader),
        packs=_packs(chosen, reader) if chosen and chosen.basis.own_bag_kg() is None else [],
    )
