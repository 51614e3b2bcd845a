"""Commands that read a paper – a job sheet, a mix, a sieve sheet – and print what comes of it."""

import json
import sys
from collections.abc import Callable
from pathlib import Path

from pydantic import BaseModel, ValidationError

from keeve.catalogue import JobSheet, SandTest, judge_sand, load_catalogue, resolve
from keeve.core.message.errors import Code, Fault, MixError, TradeError, faults_of
from keeve.core.message.said import Said
from keeve.core.planning.plan import plan
from keeve.core.ticket.ticketing import issue
from keeve.formats.writing.cards import mix_card, sand_card
from keeve.formats.writing.mix_exchange import read_mix, write_mix
from keeve.formats.writing.ticket_text import ticket
from keeve.words.putting import put
from keeve.words.reader import METRIC, Reader


def plan_file(path: Path, *, as_ticket: bool, reader: Reader) -> int:
    """Plan one job sheet from a file and print its ticket, as a document or to be read."""

    def answer() -> str:
        sheet = JobSheet.model_validate_json(path.read_bytes())
        request = resolve(sheet, load_catalogue())
        issued = issue(request, plan(request))
        return ticket(issued, sheet.job, reader) if as_ticket else _document(issued)

    return _printed(str(path), answer, reader)


def list_mixes(words: str) -> int:
    """Print key, name and use of every mix whose entry, or the words of the trade for it, hold all the words."""
    wanted = words.lower().split()
    shelf = load_catalogue()
    for mix in shelf.mixes.values():
        entry = f"{mix.key:<26} {put(mix.name)} – {put(mix.use)}"
        known = f"{entry} {' '.join(shelf.found_by[mix.key])}".lower()
        if all(word in known for word in wanted):
            print(entry)
    return 0


def show_mix(which: str, *, as_file: bool, reader: Reader) -> int:
    """Print one mix, of the catalogue or from an exchange file, to be read or to be handed on."""

    def answer() -> str:
        shelf = load_catalogue()
        if which.endswith(".json"):
            mix = read_mix(Path(which).read_bytes())
        elif which in shelf.mixes:
            mix = shelf.mixes[which]
        else:
            raise MixError(
                Fault(
                    Code.UNKNOWN, Said("There is no mix called “{key}”.", key=which[:40]), "./keeve mixes lists them."
                )
            )
        return write_mix(mix) if as_file else mix_card(mix, shelf.gauges()[0], reader)

    return _printed(which, answer, reader)


def sand_file(path: Path, *, as_json: bool) -> int:
    """Judge a sieve sheet, or two, from a file."""

    def answer() -> str:
        result = judge_sand(SandTest.model_validate_json(path.read_bytes()), load_catalogue())
        return _document(result) if as_json else sand_card(result)

    return _printed(str(path), answer, METRIC)


def _document(result: BaseModel) -> str:
    return json.dumps(result.model_dump(mode="json"), indent=2, ensure_ascii=False)


def _printed(name: str, answer: Callable[[], str], reader: Reader) -> int:
    try:
        print(answer())
    except OSError as error:
        print(f"{name}: {error.strerror}. Give the path of a file; examples/ has some.", file=sys.stderr)
        return 2
    except ValidationError as error:
        return _say_faults(name, faults_of(error), reader)
    except TradeError as error:
        return _say_faults(name, error.faults, reader)
    return 0


def _say_faults(name: str, faults: tuple[Fault, ...], reader: Reader) -> int:
    for fault in faults:
        said = f"{put(fault.sentence, reader)} {put(fault.hint, reader)}".rstrip()
        print(f"{name}: {fault.field + ': ' if fault.field else ''}{said}", file=sys.stderr)
    return 2
