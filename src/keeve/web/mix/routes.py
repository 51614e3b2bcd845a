"""Station 2: the mix and how this job sets it."""

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.core.admixtures import Admixture
from keeve.core.material import WET_HEAPS, Material
from keeve.core.mix import Mix
from keeve.core.units import System, show
from keeve.web.book.sands import finenesses
from keeve.web.deps import Book, SheetedJob, Shelf, Store, Units
from keeve.web.shared.routes import station_page

router = APIRouter(include_in_schema=False)

# Surface water by look, in % of the dry mass: IS 456 table 10, from memory; "dry" is common practice.
LOOKS_SAND = (("moist", 2.5), ("wet", 5.0), ("very wet", 7.5))
LOOKS_STONE = (("moist", 1.5),)


@dataclass(frozen=True, slots=True)
class Heap:
    """An aggregate whose water counts."""

    key: str
    name: str
    absorption_percent: float
    bulks: bool
    looks: tuple[tuple[str, str], ...]


def _heap(material: Material) -> Heap:
    looks = LOOKS_STONE if material.role == "stone" else LOOKS_SAND
    total = tuple((word, f"{percent + material.absorption_percent:g}") for word, percent in looks)
    return Heap(
        material.key,
        material.name,
        material.absorption_percent,
        material.bulking != "none",
        (("bone dry", "0"), *total),
    )


def _admixture_words(label: Admixture) -> str:
    return f"{label.name} ({label.least:g}–{label.most:g} {label.unit})"


def _packs(mix: Mix, units: System) -> list[tuple[str, str]]:
    packs = [(f"{p.mass_kg:g}", p.name) for p in mix.bagged().packs]
    if mix.pack_kg and all(abs(float(key) - mix.pack_kg) > 1e-3 for key, _ in packs):
        packs.append((f"{mix.pack_kg:g}", show(mix.pack_kg, "kg", units)))
    return packs


@router.get("/jobs/{job_id}/mix", name="mix")
def mix(request: Request, job: SheetedJob, store: Store, shelf: Shelf, book: Book, units: Units) -> Response:
    """Show the mixes, the chosen one's settings, and what it is made of."""
    chosen = shelf.mixes.get(job.mix_key)
    materials = chosen.materials() if chosen else ()
    return station_page(
        request,
        "mix",
        job,
        store,
        shelf,
        chosen=chosen,
        heaps=[_heap(m) for m in materials if m.role in WET_HEAPS],
        late_water=[(words, words) for words in chosen.other_late_water] if chosen else [],
        sands=finenesses(book, shelf) if chosen and chosen.basis.basis == "designed" else [],
        has_cement=any(m.role == "cement" for m in materials),
        admixtures=[("", "none"), *((a.key, _admixture_words(a)) for a in shelf.admixtures.values())],
        packs=_packs(chosen, units) if chosen else [],
    )
