"""A field that holds a mix stated in any way there is, found by its name when it is read."""

from typing import Annotated, Any

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, core_schema

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Said
from keeve.core.proportions.base import BASES, Basis


def read_basis(given: object) -> Basis:
    """Read a mix as stated, by the name of its basis. Plain arithmetic.

    Raises
    ------
    MixError : a way of stating a mix that nobody has set down
    pydantic.ValidationError : its figures cannot be read
    """
    if isinstance(given, Basis):
        return given
    name = given.get("basis") if isinstance(given, dict) else None
    if not isinstance(name, str) or name not in BASES:
        known = Said("Known are: {known}.", known=", ".join(BASES))
        raise MixError(Fault(Code.UNKNOWN, "This way of stating a mix is not known.", known, field="basis"))
    return BASES[name].model_validate(given)


class _ByName:
    """Keeps the schema open: a basis added later is found without the models being built anew."""

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            read_basis, serialization=core_schema.simple_ser_schema("any")
        )

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        return {"oneOf": [handler(kind.__pydantic_core_schema__) for kind in BASES.values()]}


AnyBasis = Annotated[Basis, _ByName()]
