"""A crew's own mix: one that exists, and what they changed in it, as they typed it."""

from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from keeve.catalogue.loader import Catalogue
from keeve.core.errors import Code, Fault, Frozen, MixError, TradeError, faults_of
from keeve.core.material import Material
from keeve.core.mix import Mix
from keeve.core.procedure import Addition, Procedure
from keeve.core.quantities import Mass, Minutes, NoneOrMany, Plain, Waste
from keeve.core.said import Said, Words, mark

Text = Annotated[str, Field(max_length=300)]
_LISTS = ("parts", "cementitious", "others")
_SINGLE = ("material", "hemp", "binder", "sand", "stone", "cement")


class MaterialChange(Frozen):
    """What is different about a material: another bag's label, a test of one's own."""

    name: Annotated[str, Field(min_length=1, max_length=60)] | None = None
    particle_density_kg_m3: Plain | None = None
    loose_bulk_kg_m3: Plain | None = None
    damp_loose_kg_m3: Plain | None = None
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
    basis = _basis(base, sheet, materials)
    words: dict[str, Any] = {n: v for n, v in sheet.consistency.items() if v}
    named = {n: v for n in ("name", "use", "waste_percent", "working_life_min", "pack_kg", "source")
             if (v := getattr(sheet, n)) is not None}  # fmt: skip
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
    try:
        return Material.model_validate(fields | wanted | {"source": mark("the crew's own figures")})
    except ValidationError as error:
        raise MixError(*(fault.under(f"materials.{material.key}") for fault in faults_of(error))) from error


def _basis(base: Mix, sheet: MixSheet, materials: dict[str, Material]) -> Any:
    kind = type(base.basis)
    fields: dict[str, Any] = {name: getattr(base.basis, name) for name in kind.model_fields}
    for name, value in sheet.basis.items():
        if name not in fields or name == "basis":
            raise MixError(
                Fault(
                    Code.UNKNOWN, Said("{mix} has no such figure.", mix=base.name), "Leave it empty.", f"basis.{name}"
                )
            )
        if name in _LISTS and isinstance(value, list):
            fields[name] = [_part(name, i, row, materials) for i, row in enumerate(value)]
        elif isinstance(value, dict) and isinstance(fields[name], Frozen):
            before = {n: getattr(fields[name], n) for n in type(fields[name]).model_fields}
            fields[name] = before | value
        else:
            fields[name] = value
    _put_materials(fields, sheet.basis, materials)
    try:
        return kind.model_validate(fields)
    except ValidationError as error:
        raise MixError(*(fault.under("basis") for fault in faults_of(error))) from error


def _put_materials(fields: dict[str, Any], typed: dict[str, Any], materials: dict[str, Material]) -> None:
    """Put materials as the crew changed them also where the sheet left the figures alone."""
    for name in _SINGLE:
        if isinstance(fields.get(name), Material):
            fields[name] = materials[fields[name].key]
        elif isinstance(fields.get(name), str):
            fields[name] = _material(fields[name], f"basis.{name}", materials)
    for name in _LISTS:
        if isinstance(fields.get(name), tuple) and name not in typed:
            fields[name] = [
                {n: getattr(row, n) for n in type(row).model_fields} | {"material": materials[row.material.key]}
                for row in fields[name]
            ]


def _material(key: Any, field: str, materials: dict[str, Material]) -> Material:
    if not isinstance(key, str) or key not in materials:
        raise MixError(Fault(Code.MISSING, "Choose what this is.", "Or take the row out.", field))
    return materials[key]


def _part(name: str, index: int, row: Any, materials: dict[str, Material]) -> Any:
    if not isinstance(row, dict):
        raise MixError(Fault(Code.UNREADABLE, "This row cannot be read.", "Take it out.", f"basis.{name}.{index}"))
    return row | {"material": _material(row.get("material"), f"basis.{name}.{index}.material", materials)}


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
    if mix.standard is not None and mix.basis.basis == "volume parts":
        said += mix.standard.outside(mix.basis)
    try:
        said += mix.basis.proportions().warnings
    except TradeError as error:
        said += [words for fault in error.faults for words in (fault.sentence, fault.hint) if words]
    return tuple(said)
