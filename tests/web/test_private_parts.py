"""What Keeve leans on in other packages that they do not promise: a new version of theirs that changes it is red here."""

import asyncio
import inspect

import h11
import uvicorn
from jinja2 import Environment, nodes
from jinja2.compiler import CodeGenerator
from markupsafe import Markup
from uvicorn.protocols.http.h11_impl import H11Protocol

from keeve.web.edge.server import _Line
from keeve.web.pages.translated import TranslatedPages


def test_jinja_lets_a_template_print_through_a_function_of_ours() -> None:
    for name in ("_output_child_pre", "_output_child_post"):
        assert list(inspect.signature(getattr(CodeGenerator, name)).parameters) == ["self", "node", "frame", "finalize"]
    assert list(inspect.signature(Environment._parse).parameters) == ["self", "source", "name", "filename"]
    assert isinstance(Environment(autoescape=True)._parse("x", None, None), nodes.Template)
    printed: list[object] = []

    class Printing(TranslatedPages):
        written = staticmethod(lambda _context, value: printed.append(value) or Markup("!"))  # type: ignore[assignment, func-returns-value]

    assert Printing("en").from_string("a{{ x }}b").render(x=2) == "a!b"
    assert printed == [2]


def test_uvicorn_and_h11_tell_how_far_a_line_is() -> None:
    assert issubclass(_Line, H11Protocol)
    for name in ("connection_made", "data_received", "connection_lost"):
        assert callable(getattr(H11Protocol, name))
    for name in ("startup", "shutdown", "capture_signals"):
        assert callable(getattr(uvicorn.Server, name))
    loop = asyncio.new_event_loop()
    try:
        line = H11Protocol(uvicorn.Config(lambda: None), uvicorn.server.ServerState(), {}, loop)
        assert line.conn.their_state is h11.IDLE
        assert line.conn.our_state is h11.IDLE
        assert line.loop is loop
    finally:
        loop.close()
