"""Plans a sheet as it was typed, and says what is wrong with it instead of failing."""

from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from keeve.catalogue import Catalogue, JobSheet, resolve
from keeve.core.errors import Fault, TradeError, faults_of
from keeve.core.mix import Mix
from keeve.core.plan import Plan, PlanRequest, plan


@dataclass(frozen=True, slots=True)
class Tried:
    """A plan, or why there is none."""

    request: PlanRequest | None = None
    plan: Plan | None = None
    faults: tuple[Fault, ...] = ()

    @property
    def mix(self) -> Mix | None:
        """Return the mix planned with."""
        return self.request.mix if self.request else None


def pruned(document: Any) -> Any:
    """Drop empty entries: an empty field is a field not filled in."""
    if isinstance(document, dict):
        return {k: pruned(v) for k, v in document.items() if v not in ("", None)}
    return [pruned(v) for v in document if v not in ("", None)] if isinstance(document, list) else document


def try_plan(typed: dict[str, Any], catalogue: Catalogue) -> Tried:
    """Plan a sheet as typed."""
    try:
        request = resolve(JobSheet.model_validate(pruned(typed)), catalogue)
        return Tried(request, plan(request))
    except ValidationError as error:
        return Tried(faults=faults_of(error))
    except TradeError as error:
        return Tried(faults=error.faults)
