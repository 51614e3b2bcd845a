"""No figure on any example ticket changed when words and units moved to the edge, but for those listed with a reason."""

from pathlib import Path

import pytest

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.plan import plan
from keeve.core.ticketing import issue
from keeve.formats.ticket_text import ticket
from keeve.words.reader import METRIC, US, Reader

HOME = Path(__file__).parents[2]
BEFORE = HOME / "tests" / "fixtures" / "golden"

# What was said before, what is said now, and why.
CHANGES = {
    METRIC: (
        ("Sinks 200 to 280 mm", "Sinks 200 mm to 280 mm", "each quantity carries its unit"),
        ("About 30 lb to half a pail", "About 13.6 kg to half a pail", "a metric reader sees kilograms"),
    ),
    US: (
        ("Sinks 200 to 280 mm", "Sinks 8 in to 11 in", "a US reader sees inches"),
        ("Place it in 50 mm lifts", "Place it in 2 in lifts", "a US reader sees inches"),
        ("About 21 °C.", "About 70 °F.", "a US reader sees °F"),
        ("about 60 °C inside", "about 140 °F inside", "a US reader sees °F"),
        ("13.1 fl oz", "13.15 fl oz", "fluid ounces go down to 0.05"),
        ("8.8 fl oz", "8.75 fl oz", "fluid ounces go down to 0.05"),
        ("14.7 fl oz", "14.75 fl oz", "fluid ounces go down to 0.05"),
        ("15 oz  ", "14.6 oz", "ounces go down to 0.1"),
        ("15 oz;", "14.6 oz;", "ounces go down to 0.1"),
        ("15 oz", "14.6 oz", "ounces go down to 0.1"),
    ),
}


def texts(reader: Reader) -> dict[str, str]:
    found = {}
    for path in sorted((HOME / "examples").glob("*.json")):
        sheet = JobSheet.model_validate_json(path.read_text())
        request = resolve(sheet, load_catalogue())
        found[path.stem] = ticket(issue(request, plan(request)), sheet.job, reader)
    return found


def kept(name: str) -> dict[str, str]:
    parts = (BEFORE / f"{name}.txt").read_text().split("== ")
    return {name: text.strip("\n") for name, _, text in (part.partition("\n") for part in parts if part)}


@pytest.mark.parametrize("reader", [METRIC, US], ids=["metric", "us"])
def test_every_example_ticket_says_what_it_said_but_for_the_list(reader: Reader) -> None:
    before, now = kept(reader.system), texts(reader)
    assert before.keys() == now.keys()
    used = set()
    for name, old in before.items():
        for was, is_now in zip(old.splitlines(), now[name].splitlines(), strict=True):
            said = was
            for change in CHANGES[reader]:
                if said != is_now and change[0] in said and change[1].strip() in is_now:
                    said = said.replace(change[0].strip(), change[1].strip())
                    used.add(change)
            assert " ".join(said.split()) == " ".join(is_now.split()), name
    assert {c[1] for c in CHANGES[reader]} == {c[1] for c in used} | {"14.6 oz", "14.6 oz;"} & {
        c[1] for c in CHANGES[reader]
    }
