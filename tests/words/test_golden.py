"""Every example ticket says what it said when it was last read through; scripts/golden writes them anew, to be read."""

from pathlib import Path

import pytest

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.planning.plan import plan
from keeve.core.ticket.ticketing import issue
from keeve.formats.writing.ticket_text import ticket
from keeve.words.reader import METRIC, US, Reader

HOME = Path(__file__).parents[2]
GOLDEN = HOME / "tests" / "fixtures" / "golden"


def texts(reader: Reader) -> dict[str, str]:
    found = {}
    for path in sorted((HOME / "examples").glob("*.json")):
        sheet = JobSheet.model_validate_json(path.read_text())
        request = resolve(sheet, load_catalogue())
        found[path.stem] = ticket(issue(request, plan(request)), sheet.job, reader)
    return found


def kept(name: str) -> dict[str, str]:
    parts = (GOLDEN / f"{name}.txt").read_text().split("== ")
    return {name: text.strip("\n") for name, _, text in (part.partition("\n") for part in parts if part)}


def write() -> None:
    for reader in (METRIC, US):
        said = "".join(f"== {name}\n{text}\n\n" for name, text in texts(reader).items())
        (GOLDEN / f"{reader.system}.txt").write_text(said)


@pytest.mark.parametrize("reader", [METRIC, US], ids=["metric", "us"])
def test_every_example_ticket_says_what_it_said_when_it_was_read(reader: Reader) -> None:
    before, now = kept(reader.system), texts(reader)
    assert before.keys() == now.keys()
    for name, old in before.items():
        assert [" ".join(line.split()) for line in old.splitlines()] == [
            " ".join(line.split()) for line in now[name].splitlines()
        ], name
