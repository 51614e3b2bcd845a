"""Sets single figures of a mix anew, for one job or for a mix of the crew's own: one mechanism for both."""

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from keeve.core.materials.material import Material
from keeve.core.message.errors import Code, Fault, Frozen, MixError, faults_of
from keeve.core.message.said import Said, Words
from keeve.core.proportions.base import Basis


def changed_basis(
    basis: Basis, typed: Mapping[str, Any], materials: Mapping[str, Material], called: Words, *, anew: bool = False
) -> Basis:
    """Put figures as typed into a mix.

    Parameters
    ----------
    basis : the mix as it was stated
    typed : its fields by their names; materials by their keys; nothing changes nothing
    materials : where keys are looked up
    called : name of the mix, for a refusal
    anew : whether its own materials are taken from `materials` too, because they were changed there

    Returns
    -------
    a basis of the same kind

    Raises
    ------
    MixError : an unknown field or material, or figures that make no mix; fields as in `typed`

    References
    ----------
    Plain arithmetic.
    """
    # Unpacked by hand: a dump would turn the materials inside into mappings only to validate them again.
    fields: dict[str, Any] = {name: getattr(basis, name) for name in type(basis).model_fields}
    wanted = basis.understood({name: value for name, value in typed.items() if value is not None})
    if not wanted and not anew:
        return basis
    for name, value in wanted.items():
        if name not in fields or name == "basis":
            raise MixError(
                Fault(Code.UNKNOWN, Said("{mix} has no such figure.", mix=called), "Leave it empty.", field=name)
            )
        fields[name] = _put(fields[name], value, name, materials)
    if anew:
        for name in fields.keys() - wanted.keys():
            fields[name] = _renewed(fields[name], materials)
    try:
        return type(basis).model_validate(fields)
    except ValidationError as error:
        raise MixError(*faults_of(error)) from error


def _put(before: Any, value: Any, field: str, materials: Mapping[str, Material]) -> Any:
    if isinstance(before, Material) and not isinstance(value, Material):
        return _material(value, field, materials)
    if isinstance(before, tuple) and isinstance(value, list):
        return [_row(row, f"{field}.{i}", materials) for i, row in enumerate(value)]
    if isinstance(before, Frozen) and isinstance(value, dict):
        return {n: getattr(before, n) for n in type(before).model_fields} | value
    return value


def _row(row: Any, field: str, materials: Mapping[str, Material]) -> Any:
    if not isinstance(row, dict):
        raise MixError(Fault(Code.UNREADABLE, "This row cannot be read.", "Take it out.", field=field))
    return row | {"material": _material(row.get("material"), f"{field}.material", materials)}


def _material(key: Any, field: str, materials: Mapping[str, Material]) -> Material:
    if not isinstance(key, str) or key not in materials:
        raise MixError(Fault(Code.MISSING, "Choose what this is.", "Or take the row out.", field=field))
    return materials[key]


def _renewed(value: Any, materials: Mapping[str, Material]) -> Any:
    """Return a value with its materials as they are now."""
    if isinstance(value, Material):
        return materials.get(value.key, value)
    if isinstance(value, tuple) and all(isinstance(one, Frozen) for one in value):
        return tuple(_renewed(one, materials) for one in value)
    if isinstance(value, Frozen) and isinstance(getattr(value, "material", None), Material):
        return {n: _renewed(getattr(value, n), materials) for n in type(value).model_fields}
    return value
