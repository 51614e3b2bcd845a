"""What a stranger meets first is true: one version, every licence named, every import declared, every page in the site."""

import ast
import re
import sys
import tomllib
from importlib.metadata import packages_distributions
from pathlib import Path

import keeve
from tests.prose import PROSE

ROOT = Path(__file__).parents[1]


def test_there_is_one_version() -> None:
    """The tickets say it as `core_version`."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    newest = re.search(r"^## (\S+)", (ROOT / "CHANGELOG.md").read_text(encoding="utf-8"), re.MULTILINE)
    assert newest is not None
    assert keeve.__version__ == project["version"] == newest[1]


def test_what_ships_is_named_with_its_licence() -> None:
    notice = (ROOT / "NOTICE").read_text(encoding="utf-8")
    vendor = ROOT / "src/keeve/web/static/vendor"
    folders = {path.parent for path in vendor.rglob("*") if path.suffix in (".js", ".css", ".woff2")}
    assert len(folders) >= 5
    for folder in (*folders, ROOT / "tests/browser/vendor/axe"):
        assert (folder / "LICENSE").is_file(), folder
        assert str(folder.relative_to(ROOT)) in notice


def test_every_import_is_declared() -> None:
    """What another package happens to bring along may be gone with its next version."""
    declared = {
        re.split(r"[\[<>=]", line)[0].strip().lower()
        for line in (ROOT / "requirements.in").read_text(encoding="utf-8").splitlines()
        if line and not line.startswith("#")
    }
    known = packages_distributions()
    missing = set()
    for path in (ROOT / "src/keeve").rglob("*.py"):
        if path.name == "suite.py":
            continue  # what runs tests is there only where tests are
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            names = [node.module or ""] if isinstance(node, ast.ImportFrom) and not node.level else []
            names += [alias.name for alias in node.names] if isinstance(node, ast.Import) else []
            for top in {name.partition(".")[0] for name in names} - {"keeve", ""} - set(sys.stdlib_module_names):
                if not {one.lower().replace("_", "-") for one in known.get(top, [top])} & declared:
                    missing.add(top)
    assert missing == set()


def test_every_page_of_the_documents_is_in_the_site_and_every_link_leads_somewhere() -> None:
    site = (ROOT / "mkdocs.yml").read_text(encoding="utf-8")
    for page in (ROOT / "docs").glob("*.md"):
        assert page.name in site
    for page in (*(ROOT / "docs").glob("*.md"), ROOT / "README.md", ROOT / "CONTRIBUTING.md", ROOT / "SECURITY.md"):
        for link in re.findall(r"\]\(([^)#:]+)", page.read_text(encoding="utf-8")):
            assert (page.parent / link).exists(), (page.name, link)


def test_what_the_documents_name_is_there() -> None:
    """A module that moved is followed by what is written of it."""
    for page in ("how-it-works.md", "recipes.md"):
        text = (ROOT / "docs" / page).read_text(encoding="utf-8")
        for name in re.findall(r"`((?:core|web|store|formats|words|catalogue|static|tests|scripts)/[\w/.-]+)`", text):
            found = name.removesuffix("/")
            assert any((ROOT / base / found).exists() for base in ("", "src/keeve", "src/keeve/web")), (page, name)


def test_every_sentence_looked_for_stands_in_one_place() -> None:
    """A sentence nobody asks for any more is taken out of `tests/prose.toml`."""
    asked = {
        key
        for path in (ROOT / "tests").rglob("*.py")
        for key in re.findall(r'PROSE\["([^"]+)"\]', path.read_text(encoding="utf-8"))
    }
    assert asked == set(PROSE)
