"""Turns templates into pages: filters that say figures in the reader's units, hashed addresses, drawings."""

import hashlib
import itertools
import json
from functools import cache
from pathlib import Path
from typing import Any, Final
from urllib.parse import quote

from fastapi import Request
from fastapi.responses import HTMLResponse
from fastapi.routing import iter_route_contexts
from fastapi.templating import Jinja2Templates
from jinja2 import ChainableUndefined, Environment, FileSystemLoader, pass_context
from jinja2.runtime import Context
from markupsafe import Markup

from keeve.core import saying
from keeve.core.said import Said, put
from keeve.core.units import (
    FT3_M3,
    GAL_L,
    IN_MM,
    LB_KG,
    System,
    counted,
    say,
    show,
    show_area,
    show_length,
    show_litres,
    show_mass,
    show_space,
)
from keeve.core.working import Working
from keeve.store.book_store import OWN
from keeve.web import drawing, drawing_mix, drawing_shapes
from keeve.web.deps import NIGHT_COOKIE, get_units
from keeve.web.measure import forms, take_off
from keeve.web.security import page_token

HERE: Final = Path(__file__).parent
STATIC: Final = HERE / "static"
_SHOWS: Final = {
    "mass": show_mass,
    "litres": show_litres,
    "space": show_space,
    "tape": show_length,
    "area": show_area,
}
_numbers = itertools.count(1)


@cache
def static_hash(path: str) -> str:
    """Return a short hash of a static file's content, so that its address changes with it."""
    return hashlib.sha256((STATIC / path).read_bytes()).hexdigest()[:10]


def _static(path: str) -> str:
    return f"/static/{path}?v={static_hash(path)}"


def _shower(name: str) -> Any:
    @pass_context
    def filter_(context: Context, value: float) -> str:
        return say(_SHOWS[name](value, context["units"]))

    @pass_context
    def pair(context: Context, value: float) -> Markup:
        number, unit = _SHOWS[name](value, context["units"])
        return Markup('<span class="n">{}</span> <span class="u">{}</span>').format(number, unit)

    return filter_, pair


def _say_given(value: float, unit: str, units: str) -> str:
    return show(value, unit, "us" if units == "us" else "metric")


def _working_lines(working: Working, units: str) -> list[tuple[str, str]]:
    system: System = "us" if units == "us" else "metric"
    return [(put(given.name, system), show(given.value, given.unit, system)) for given in working.given]


def plain_number(value: float, what: str, units: System) -> str:
    """Say a label's figure without its unit, in the unit its field shows."""
    if units == "metric":
        return f"{value:.4g}"
    per = {"kg": LB_KG, "yield": FT3_M3 * 1000, "water": GAL_L / 8, "mm": IN_MM}[what]
    return f"{value / per:.3g}"


@pass_context
def _url_for(context: Context, name: str, **given: Any) -> str:
    """Return an address by its name; prepared once, for asking every router for each link is slow."""
    app = context["request"].app
    paths: dict[str, str] | None = getattr(app.state, "paths", None)
    if paths is None:
        paths = app.state.paths = {str(c.name): str(c.path) for c in iter_route_contexts(app.routes) if c.name}
    return paths[name].format(**{key: quote(str(value), safe="") for key, value in given.items()})


@pass_context
def _spoken(context: Context, value: Any) -> Any:
    """Put every message into the reader's units, wherever a template prints one."""
    return put(value, context["units"]) if isinstance(value, Said) else value


def _environment() -> Environment:
    environment = Environment(
        finalize=_spoken,
        loader=FileSystemLoader(HERE),
        autoescape=True,
        undefined=ChainableUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    for name in _SHOWS:
        environment.filters[name], environment.filters[f"{name}_big"] = _shower(name)
    environment.filters["counted"] = counted
    environment.filters["working_lines"] = _working_lines
    environment.filters["said"] = _say_given
    environment.filters["json_text"] = lambda value: Markup(json.dumps(value).replace("<", "\\u003c"))  # noqa: S704
    environment.tests["is_own"] = lambda key: str(key).startswith(OWN)
    environment.globals |= {
        "static": _static,
        "url_for": _url_for,
        "next_number": lambda: next(_numbers),
        "saying": saying,
        "saying_plain": plain_number,
        "drawing": drawing,
        "drawing_mix": drawing_mix,
        "drawing_shapes": drawing_shapes,
        "forms": forms,
        "take_off": take_off,
        "clock": lambda seconds: f"{int(seconds) // 60}:{int(seconds) % 60:02d}",
    }
    return environment


templates = Jinja2Templates(env=_environment())


def page(request: Request, name: str, status: int = 200, **values: Any) -> HTMLResponse:
    """Render a page or a part of one, with what every template may use."""
    common = {
        "units": get_units(request),
        "night": request.cookies.get(NIGHT_COOKIE) == "1",
        "token": page_token(request),
        "job": None,
        "station": "",
    }
    return templates.TemplateResponse(request, name, common | values, status_code=status)
