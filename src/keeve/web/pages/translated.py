"""Templates in one language: what a page says without a quantity is put in when it is compiled, not at each showing."""

from typing import Any

from jinja2 import Environment, nodes
from jinja2.compiler import CodeGenerator, Frame
from jinja2.runtime import Context
from jinja2.visitor import NodeTransformer
from markupsafe import Markup, escape

from keeve.core.message.said import Said
from keeve.words.putting import put, translated
from keeve.words.reader import Reader


def written(context: Context, value: Any) -> str:
    """Return what stands on the page where a template prints a value: safe, and a message in the reader's words."""
    kind = type(value)
    if kind is Markup or kind is float or kind is int:  # a drawing prints hundreds of numbers: nothing to be made safe
        return str(value)
    return escape(put(value, context["reader"]) if kind is Said else value)


class _Writing(CodeGenerator):
    """Lets templates print through `written`: asking and making safe apart cost a tenth of a page."""

    def _output_child_pre(self, _node: nodes.Expr, _frame: Frame, _finalize: Any) -> None:
        self.write("environment.written(context, ")

    def _output_child_post(self, _node: nodes.Expr, _frame: Frame, _finalize: Any) -> None:
        self.write(")")


class TranslatedPages(Environment):
    """An environment whose templates speak one language."""

    code_generator_class = _Writing
    written = staticmethod(written)

    def __init__(self, language: str, **options: Any) -> None:
        super().__init__(**options, autoescape=True)
        self.reader = Reader(language=language)

    def _parse(self, source: str, name: str | None, filename: str | None) -> nodes.Template:
        # The one place where a parsed template can be had before it is compiled.
        template: nodes.Template = _Told(self.reader).visit(super()._parse(source, name, filename))
        return template


class _Told(NodeTransformer):
    """Puts the message in the place of a call of `t` that has nothing but one."""

    def __init__(self, reader: Reader) -> None:
        self.reader = reader

    def visit_Output(self, node: nodes.Output) -> nodes.Output:  # noqa: N802 - named by the visitor
        """Print the message where it is printed as it is."""
        for i, child in enumerate(node.nodes):
            said = self._said(child)
            if said is not None:
                node.nodes[i] = nodes.TemplateData(str(escape(said)), lineno=child.lineno)
        self.generic_visit(node)
        return node

    def visit_Call(self, node: nodes.Call) -> nodes.Expr:  # noqa: N802
        """Hand the message on where it is given to something else."""
        said = self._said(node)
        if said is not None:
            return nodes.Const(said, lineno=node.lineno)
        self.generic_visit(node)
        return node

    def _said(self, node: nodes.Node) -> str | None:
        plain = isinstance(node, nodes.Call) and isinstance(node.node, nodes.Name) and node.node.name == "t"
        if not plain or len(node.args) != 1 or node.kwargs or not isinstance(node.args[0], nodes.Const):  # type: ignore[attr-defined]
            return None
        return translated(node.args[0].value, self.reader)  # type: ignore[attr-defined]
