"""Lays a page out on paper: A4, A5, letter, or a roll of 80 mm that is cut where it ends. Nothing is fetched."""

import re
from pathlib import Path
from typing import Any, Final, Literal

from weasyprint import HTML
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import FatalURLFetchingError, URLFetcher

Paper = Literal["a4", "a5", "letter", "roll"]
SIZES: Final[dict[Paper, str]] = {
    "a4": "size: A4; margin: 11mm 12mm 13mm",
    "a5": "size: A5; margin: 8mm 9mm 10mm",
    "letter": "size: letter; margin: 11mm 12mm 13mm",
    "roll": "size: 80mm 4000mm; margin: 3mm 4mm",
}
_PX_PER_MM: Final = 96 / 25.4
_ROLL_END_PX: Final = 8 * _PX_PER_MM
_SVG: Final = re.compile(r"<svg.*?</svg>", re.DOTALL)
_TAG: Final = re.compile(r'<(\w+)([^>]*?) class="([^"]*)"([^>]*)>')
_RULE: Final = re.compile(r"([^{}]+)\{([^{}]*)\}")
_PATTERN: Final = re.compile(r'<pattern id="([^"]+)".*?</pattern>', re.DOTALL)


class _Shipped(URLFetcher):  # type: ignore[misc]
    """Lets in what lies in one folder, and nothing else."""

    def __init__(self, folder: Path) -> None:
        super().__init__(allowed_protocols=("file",))
        self._folder = folder.resolve().as_uri() + "/"

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
        if not url.startswith(self._folder) or ".." in url:
            raise FatalURLFetchingError(f"Only what ships is put on paper, not {url[:80]}")
        return super().fetch(url, headers)


def as_pdf(html: str, paper: Paper, folder: Path, drawing_style: str = "") -> bytes:
    """Lay a page out.

    Parameters
    ----------
    html : the page; addresses in it are relative to `folder`
    paper : its size
    folder : where its fonts and styles are
    drawing_style : rules for what is drawn in it: on paper a drawing sees none of its page's

    Returns
    -------
    the file

    Raises
    ------
    FatalURLFetchingError : the page asks for something that does not ship
    """
    sized = html.replace("</head>", f"<style>@page {{ {SIZES[paper]} }}</style></head>", 1)
    rules = _rules(drawing_style)
    drawn = _SVG.sub(lambda found: _plain(found[0], rules), sized)
    page = HTML(string=drawn, base_url=folder.as_uri() + "/", url_fetcher=_Shipped(folder))
    document = page.render(font_config=FontConfiguration())
    if paper == "roll":
        _cut(document)
    return document.write_pdf()  # type: ignore[no-any-return]


def _rules(style: str) -> dict[str, dict[str, str]]:
    """Read rules of one class each, such as .wall{…} or line.never{…}: by selector, what they set."""
    found: dict[str, dict[str, str]] = {}
    for selector, body in _RULE.findall(style):
        pairs = (part.split(":", 1) for part in body.split(";") if ":" in part)
        found[selector.strip()] = {name.strip(): value.strip().replace('"', "'") for name, value in pairs}
    return found


def _plain(svg: str, rules: dict[str, dict[str, str]]) -> str:
    """Write classes as attributes and leave out patterns nobody uses: styles are parsed anew for every drawing."""

    def tag(found: re.Match[str]) -> str:
        name, before, classes, after = found.groups()
        given: dict[str, str] = {}
        for one in classes.split():
            given |= rules.get(f".{one}", {}) | rules.get(f"{name}.{one}", {})
        rest = before + after
        said = "".join(f' {key}="{value}"' for key, value in given.items() if f" {key}=" not in rest)
        closed = rest.rstrip().endswith("/")
        return f"<{name}{rest.rstrip().rstrip('/')}{said}{'/' if closed else ''}>"

    used = set(re.findall(r"url\(#([^)]+)\)", svg))
    fewer = _PATTERN.sub(lambda found: found[0] if found[1] in used else "", svg)
    return _TAG.sub(tag, fewer)


def _cut(document: Any) -> None:
    """End a roll a little below its lowest line."""
    first = document.pages[0]
    lowest = max((_bottom(box) for box in first._page_box.children[0].children), default=0.0)
    first.height = min(lowest + _ROLL_END_PX, first.height)


def _bottom(box: Any) -> float:
    """Where the lowest line of a box is [px]."""
    if getattr(box, "text", None) is not None or not getattr(box, "children", ()):
        height = getattr(box, "height", 0)
        return float(box.position_y) + (float(height) if isinstance(height, int | float) else 0.0)
    return max(_bottom(child) for child in box.children)
