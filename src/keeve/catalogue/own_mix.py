"""A crew's own mix: one that exists, and what they changed in it, as they typed it."""

from typing import Annotated, Any, Final, Literal

from pydantic import Field, ValidationError

from keeve.catalogue.loader import Catalogue
from keeve.core.materials.material import Material
from keeve.core.measure.quantities import Density, Mass, Minutes, NoneOrMany, Waste
from keeve.core.message.errors import Frozen, MixError, TradeError, faults_of
from keeve.core.message.said import Said, Words, mark, verbatim
from keeve.core.mixes.mix import Mix
from keeve.core.procedures.procedure import Procedure
from keeve.core.procedures.step_template import Addition
from keeve.core.proportions.changing import changed_basis

Text = Annotated[str, Field(max_length=300)]


class MaterialChange(Frozen):
    """What is different about a material: another bag's label, a test of one's own."""

    name: Annotated[str, Field(min_length=1, max_length=60)] | None = None
    particle_density_kg_m3: Density | None = None
    loose_bulk_kg_m3: Density | None = None
    damp_loose_kg_m3: Density | None = None
    absorption_percent: NoneOrMany | None = None
    held_water_percent: NoneOrMany | None = None


class MixSheet(Frozen):
    """What is changed in a mix; empty fields change nothing."""

    name: Annotated[str, Field(min_length=1, max_length=80)] | None = None
    use: Annotated[str, Field(max_length=160)] | None = None
    waste_percent: Waste | None = None
    working_life_min: Minutes | None = None
    pack_kg: Mass | None = None
    source: Annotated[str, Field(max_length=300)] | None = None
    consistency: dict[Literal["test", "dry", "right", "wet"], Text] = {}
    basis: dict[str, Any] = {}
    """Fields of the mix's own basis; constituents by the keys of their materials."""
    materials: Annotated[dict[str, MaterialChange], Field(max_length=12)] = {}
    """By the key of the material."""


_NAMED: Final = ("name", "use", "waste_percent", "working_life_min", "pack_kg", "source")


def own_mix(base: Mix, key: str, sheet: MixSheet, catalogue: Catalogue) -> Mix:
    """Put a crew's changes into a mix.

    Parameters
    ----------
    base : the mix they began with
    key : of the new mix
    sheet : what is changed
    catalogue : where materials are looked up that the base does not hold

    Returns
    -------
    a whole mix

    Raises
    ------
    MixError : an unknown material or field, or figures that make no mix; fields as in the sheet
    """
    known = catalogue.materials | {m.key: m for m in base.materials()}
    materials = {k: _changed(m, sheet.materials.get(k)) for k, m in known.items()}
    try:
        basis = changed_basis(base.basis, sheet.basis, materials, base.name, anew=True)
    except MixError as error:
        raise MixError(*(fault.under("basis") for fault in error.faults)) from error
    words: dict[str, Any] = {n: verbatim(v) for n, v in sheet.consistency.items() if v}
    named = {name: getattr(sheet, name) for name in _NAMED if getattr(sheet, name) is not None}
    named = {name: verbatim(value) if isinstance(value, str) else value for name, value in named.items()}
    mix = base.model_copy(
        update={
            "key": key,
            "source": Said("own mix, based on {mix}", mix=base.name),
            "basis": basis,
            "consistency": base.consistency.model_copy(update=words),
        }
        | named
    )
    roles = {m.role for m in mix.materials()}
    mix = mix.model_copy(update={"procedures": {k: _with_roles(p, roles) for k, p in mix.procedures.items()}})
    try:
        mix.basis.proportions()  # whatever cannot be made is refused now, not on the job
    except MixError as error:
        raise MixError(*(fault.under("basis") for fault in error.faults)) from error
    return mix


def _changed(material: Material, change: MaterialChange | None) -> Material:
    wanted = change.model_dump(exclude_none=True) if change else {}
    if not wanted:
        return material
    fields = {name: getattr(material, name) for name in Material.model_fields}
    wanted |= {"name": verbatim(wanted["name"])} if "name" in wanted else {}
    try:
        return Material.model_validate(fields | wanted | {"source": mark("the crew's own figures")})
    except ValidationError as error:
        raise MixError(*(fault.under(f"materials.{material.key}") for fault in faults_of(error))) from error


def _with_roles(procedure: Procedure, roles: set[Any]) -> Procedure:
    """Say when a constituent goes in that the steps do not know: with the binder."""
    missing = roles - {add.of for step in procedure.steps for add in step.adds}
    if not missing:
        return procedure
    binders = ("cement", "lime", "plaster", "premix")
    steps = list(procedure.steps)
    at = next((i for i, s in enumerate(steps) if any(a.of in binders for a in s.adds)), None)
    if at is None:
        at = next(i for i, s in enumerate(steps) if s.adds)
    more = tuple(Addition(of=role) for role in sorted(missing))
    steps[at] = steps[at].model_copy(update={"adds": (*steps[at].adds, *more)})
    return procedure.model_copy(update={"steps": tuple(steps)})


def read_own_mix(base: Mix, key: str, typed: dict[str, Any], catalogue: Catalogue) -> Mix:
    """Read a sheet as typed and put it into a mix.

    Raises
    ------
    MixError : as `own_mix`, or a field that cannot be read
    """
    try:
        sheet = MixSheet.model_validate(typed)
    except ValidationError as error:
        raise MixError(*faults_of(error)) from error
    return own_mix(base, key, sheet, catalogue)


def doubts(mix: Mix) -> tuple[Words, ...]:
    """Say what is unusual about a mix: outside its standard's row, or what its basis warns of."""
    said: list[Words] = []
    if mix.standard is not None:
        said += mix.standard.outside(mix.basis.parts_by_volume())
    try:
        said += mix.basis.proportions().warnings
    except TradeError as error:
        said += [words for fault in error.faults for words in (fault.sentence, fault.hint) if words]
    return tuple(said)
