"""Turns templates into pages: filters that say figures in the reader's units, hashed addresses, drawings."""

import itertools
import json
import secrets
import time
from collections.abc import Callable, Iterable, Mapping
from datetime import datetime
from functools import cache, lru_cache
from pathlib import Path
from typing import Any, Final
from urllib.parse import quote

from babel.dates import format_date, format_datetime
from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse
from fastapi.routing import iter_route_contexts
from jinja2 import Environment, FileSystemLoader, StrictUndefined, pass_context
from jinja2.environment import TemplateModule
from jinja2.runtime import Context
from markupsafe import Markup, escape
from starlette.requests import HTTPConnection

from keeve.catalogue import OWN, load_catalogue
from keeve.core.measure.units import YD3_M3
from keeve.core.message.said import WHOLE, Words, fill, many, verbatim
from keeve.core.message.working import Working
from keeve.core.procedures import consistency
from keeve.core.proportions.asked import Beside
from keeve.web.asking.deps import NIGHT_COOKIE, get_reader
from keeve.web.edge.links import from_outside
from keeve.web.edge.security import cookie, page_token
from keeve.web.edge.settings import Places
from keeve.web.edge.static_files import address_of, scripts_of
from keeve.web.pages import shape_forms as forms
from keeve.web.pages.compiled import kept_pages
from keeve.web.pages.stations import STATIONS
from keeve.web.pages.translated import TranslatedPages
from keeve.web.pages.typed import typed
from keeve.words import measuring, saying
from keeve.words.beside import number_beside, unit_beside, without_unit
from keeve.words.catalogues import ENGLISH, script_messages
from keeve.words.putting import put, t, translated
from keeve.words.reader import Reader, locale_of
from keeve.words.showing import counted, measured, show

HERE: Final = Path(__file__).parent
WEB: Final = HERE.parent
_TEMPLATES: Final = (HERE, WEB / "stations", WEB / "beside", WEB / "ways_in")
"""A template is named by its page's package: `measure/page.html`."""
_SHOWS: Final = {"mass": "kg", "litres": "L", "space": "m³", "tape": "mm", "area": "m²", "density": "kg/m³"}
"""Filters, and the unit of the core each one shows."""


def _shower(unit: str) -> tuple[Any, Any]:
    @pass_context
    def filter_(context: Context, value: float) -> str:
        return show(value, unit, context["reader"])

    @pass_context
    def pair(context: Context, value: float) -> Markup:
        shown = measured(value, unit, context["reader"])
        return Markup('<span class="n">{}</span> <span class="u">{}</span>').format(shown.number, shown.unit)

    return filter_, pair


@pass_context
def _said(context: Context, value: float, unit: str) -> str:
    return show(value, unit, context["reader"])


@pass_context
def _counted(context: Context, value: float) -> str:
    return counted(value, context["reader"])


@pass_context
def _working_lines(context: Context, working: Working) -> list[tuple[str, str]]:
    reader: Reader = context["reader"]
    return [(put(given.name, reader), show(given.value, given.unit, reader)) for given in working.given]


@lru_cache(maxsize=64)
def _fields_for(reader: Reader) -> TemplateModule:
    return environment_in(reader.language).get_template("shared/fields.html").make_module({"reader": reader})


@lru_cache(maxsize=1024)
def _explanation(work: Working, reader: Reader) -> Markup:
    # Shown again and again while other things are edited, and every page has some ten of them.
    return Markup(_fields_for(reader).working(work))  # type: ignore[attr-defined]  # noqa: S704


@pass_context
def _explained(context: Context, work: Working) -> Markup:
    """Show how a figure was found."""
    return _explanation(work, context["reader"])


@pass_context
def _words(context: Context, words: Words) -> str:
    """Put what is no text of the page itself into the reader's words: a name, a caution, a message."""
    return put(words, context["reader"])


def _filled(reader: Reader, msg: Words, values: dict[str, Any]) -> str:
    if not any(isinstance(value, Markup) for value in values.values()):
        return t(reader, msg, **values) if isinstance(msg, str) else put(msg, reader)
    # Markup among the values: the message and the others are made safe, then put round it.
    marked = {name: value for name, value in values.items() if isinstance(value, Markup)}
    blank = {name: f"{{{name}}}" if name in marked else value for name, value in values.items()}
    return Markup(fill(str(escape(t(reader, str(msg), **blank))), {name: str(value) for name, value in marked.items()}))  # noqa: S704


@pass_context
def _moment(context: Context, at: datetime) -> Markup:
    """Say a day and its time, as the reader's language writes it."""
    said = format_datetime(at, "d MMMM y, HH:mm", locale=locale_of(context["reader"].language))
    return Markup('<time datetime="{}">{}</time>').format(at.isoformat(), said)


@pass_context
def _day(context: Context, at: datetime) -> str:
    return str(format_date(at, "d MMMM y", locale=locale_of(context["reader"].language)))


@pass_context
def _called(context: Context, shape: Any) -> str:
    """Say what a shape is called: the name it was read with, or its kind."""
    return put(verbatim(getattr(shape, "name", None) or "") or forms.title_of(shape.kind), context["reader"])


@pass_context
def _said_options(context: Context, options: Iterable[tuple[str, Words]]) -> list[tuple[str, str]]:
    return [(key, put(words, context["reader"])) for key, words in options]


@pass_context
def _in_whole(context: Context, per_m3: float) -> str:
    """Say how many there are in a cubic metre, or in a US reader's cubic yard."""
    reader: Reader = context["reader"]
    return counted(per_m3 * YD3_M3 if reader.us else per_m3, reader)


@pass_context
def _beside(context: Context, beside: Beside) -> str:
    """Return the unit that stands beside a field."""
    return unit_beside(beside, context["reader"])


@pass_context
def _plain(context: Context, value: float, beside: Beside) -> str:
    """Write a number as a field shows it whose unit stands beside it."""
    return number_beside(value, beside, context["reader"])


def _first_big(text: str) -> str:
    return text[:1].upper() + text[1:]


def _strong(text: str) -> Markup:
    return Markup("<strong>{}</strong>").format(text)


@pass_context
def _t(context: Context, msg: str, **values: Any) -> str:
    """Say a message of the page itself."""
    reader = context["reader"]
    return _filled(reader, msg, values) if values else translated(msg, reader)


@pass_context
def _many(context: Context, one: str, other: str, n: int, **values: Any) -> str:
    """Say a count on a page."""
    return put(many(one, other, n, **values), context["reader"])


@lru_cache(maxsize=4096)
def _quoted(value: str) -> str:
    return quote(value, safe="")


def paths_of(app: FastAPI) -> dict[str, str]:
    """Return all addresses by their names; the first time it has every route read, which takes a third of a second."""
    paths: dict[str, str] | None = getattr(app.state, "paths", None)
    if paths is None:
        paths = app.state.paths = {str(c.name): str(c.path) for c in iter_route_contexts(app.routes) if c.name}
    return paths


@pass_context
def _url_for(context: Context, name: str, **given: Any) -> str:
    """Return an address by its name; prepared once, for asking every router for each link is slow."""
    paths = paths_of(context["request"].app)
    return paths[name].format(**{key: _quoted(str(value)) for key, value in given.items()}) if given else paths[name]


_FILTERS: Final = {
    "called": _called,
    "counted": _counted,
    "counted_in_whole": _in_whole,
    "day": _day,
    "explained": _explained,
    "first_big": _first_big,
    "moment": _moment,
    "plain": _plain,
    "said": _said,
    "said_options": _said_options,
    "typed": typed,
    "strong": _strong,
    "words": _words,
    "working_lines": _working_lines,
}


@pass_context
def _token_field(context: Context) -> Markup:
    """Return the hidden field by which a form shows that our own page asked."""
    return Markup('<input type="hidden" name="token" value="{}">').format(context["token"])


_PAGE_HATCH: Final = "h"


@cache
def _hatches_as_written() -> str:
    return (HERE / "shared" / "hatches.html").read_text(encoding="utf-8").split("#}\n", 1)[1]


def _hatches(uid: str) -> Markup:
    """Return the hatches for a page or one drawing: the same text in every one, so it is no template."""
    return Markup(_hatches_as_written().replace("@", uid))  # noqa: S704


@pass_context
def _fixed(context: Context, name: str, **values: Any) -> Markup:
    return fixed_part(name, context["reader"], **values)


_GLOBALS: Final[dict[str, Any]] = {
    "static": address_of,
    "modules": scripts_of,
    "t": _t,
    "many": _many,
    "url_for": _url_for,
    "saying": saying,
    "measuring": measuring,
    "beside": _beside,
    "fixed": _fixed,
    "without_unit": without_unit,
    "verbatim": verbatim,
    "STATIONS": STATIONS,
    "WHOLE": WHOLE,
    "consistency": consistency,
    "glossary_word": lambda key: load_catalogue().glossary[key],
    "forms": forms,
    # On a page all drawings use the hatches of its layout: in each they would be half of what is sent and read.
    "hatches_of_page": _hatches(_PAGE_HATCH),
    "hatch_name": lambda: _PAGE_HATCH,
    "hatches": lambda uid: "",  # noqa: ARG005
    "token_field": _token_field,
    "time_of_day": lambda minutes: f"{int(minutes) // 60}:{int(minutes) % 60:02d}",
    "clock": lambda seconds: f"{int(seconds) // 60}:{int(seconds) % 60:02d}",
}


_MADE: Final[list[Environment]] = []


def lend(things: Mapping[str, Any]) -> None:
    """Lend the templates what stands in rooms above this one, by its names: the drawings."""
    for names in (_GLOBALS, *(environment.globals for environment in _MADE)):
        names.update(things)


@cache
def environment_in(language: str) -> Environment:
    """Return the templates of a language."""
    environment = TranslatedPages(
        language,
        loader=FileSystemLoader(_TEMPLATES),
        bytecode_cache=kept_pages(Places().home, language),
        undefined=StrictUndefined,
        auto_reload=False,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    for name, unit in _SHOWS.items():
        environment.filters[name], environment.filters[f"{name}_big"] = _shower(unit)
    environment.filters |= _FILTERS
    environment.filters["json_text"] = json_text
    environment.tests["is_own"] = lambda key: str(key).startswith(OWN)
    environment.globals |= _GLOBALS
    _MADE.append(environment)
    return environment


@lru_cache(maxsize=256)
def fixed_part(name: str, reader: Reader, **values: Any) -> Markup:
    """Render a part of a page that hangs on nothing but its reader, and values that seldom change, once."""
    common = {"reader": reader, "units": reader.system, "next_number": _numbering(name)}
    return Markup(environment_in(reader.language).get_template(name).render(common | values))  # noqa: S704


def compile_pages() -> None:
    """Compile every page in English, so that nobody is the first to wait for it."""
    environment = environment_in(ENGLISH)
    for name in environment.list_templates(extensions=["html"]):
        environment.get_template(name)


_TOKEN_PLACE: Final = f"token-{secrets.token_hex(16)}"
"""Stands in every page as it is written, where the token of whoever asks is put in: no two answers have the same."""
_NOW_PLACE: Final = f"now-{secrets.token_hex(16)}"
"""Stands where the moment of the answer is put in."""


def _numbering(name: str) -> Callable[[], str]:
    """Number what a template draws.

    The same at each rendering, so that a page sees what has changed; and no number of another template, which may stand
    on the same page.
    """
    numbers, stem = itertools.count(1), Path(name).stem
    return lambda: f"-{stem}-{next(numbers)}"


def json_text(value: Any) -> Markup:
    """Write a document down in a page."""
    return Markup(json.dumps(value, separators=(",", ":")).replace("<", "\\u003c"))  # noqa: S704


class Page(HTMLResponse):
    """A page or a part of one."""

    def __init__(self, written: bytes, token: str, status: int = 200) -> None:
        now_ms = str(round(time.time() * 1000))
        super().__init__(
            written.replace(_TOKEN_PLACE.encode(), token.encode()).replace(_NOW_PLACE.encode(), now_ms.encode()), status
        )
        self.written = written
        """As it is for everybody, to be remembered."""


def finished(request: Request, written: bytes, status: int = 200) -> Page:
    """Make a page as it is written the page of whoever asks."""
    return Page(written, page_token(request), status)


def rendered(name: str, reader: Reader, **values: Any) -> str:
    """Render what is no page of the browser: paper, whose drawings have their hatches within them."""
    next_number = _numbering(name)
    common = {
        "reader": reader,
        "units": reader.system,
        "next_number": next_number,
        "hatch_name": lambda: f"d{next_number()}",
        "hatches": _hatches,
    }
    return environment_in(reader.language).get_template(name).render(common | values)


def _common(asked: HTTPConnection, name: str, reader: Reader) -> dict[str, Any]:
    return {
        "request": asked,
        "reader": reader,
        "units": reader.system,
        "guest": from_outside(asked),
        "next_number": _numbering(name),
        "job": None,
    }


def part_of_page(asked: HTTPConnection, name: str, **values: Any) -> str:
    """Render a part of a page, to be put into one that stands: it has no form of its own, and so no token."""
    reader = get_reader(asked)
    return environment_in(reader.language).get_template(name).render(_common(asked, name, reader) | values)


def page(request: Request, name: str, status: int = 200, **values: Any) -> Page:
    """Render a page, with what every template may use."""
    reader = get_reader(request)
    common = _common(request, name, reader) | {
        "said_in_scripts": script_messages(reader.language),
        "night": cookie(request, NIGHT_COOKIE) == "1",
        "token": _TOKEN_PLACE,
        "now_ms": _NOW_PLACE,
        "station": "",
        "room": "",
    }
    text = environment_in(reader.language).get_template(name).render(common | values)
    return finished(request, text.encode(), status)
