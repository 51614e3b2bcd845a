"""Keeve's commands, behind the launcher ./keeve."""

import argparse
import gc
import io
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from ctypes.util import find_library
from importlib import import_module
from pathlib import Path
from typing import NoReturn

import segno
from sqlalchemy.orm import Session

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import outlook
from keeve.demo.yard import CREW, load_demo
from keeve.formats.reading.warm import warm_readers
from keeve.formats.writing import papers
from keeve.store.cluster import Cluster, ClusterError, bin_folder, free_port
from keeve.store.database import check_database, make_engine, migrate
from keeve.store.rows.book_store import BookStore
from keeve.store.rows.run_store import catch_up
from keeve.web.app import make_app
from keeve.web.edge.logs import write_logs
from keeve.web.edge.server import Server, allow_many_lines
from keeve.web.edge.settings import Places, Settings, kept_secret
from keeve.web.pages.render import compile_pages, paths_of
from keeve.web.ways_in.lan.server import Lan
from keeve.words.reader import METRIC, US

PLACES = Places()
ROOT, HOME = PLACES.root, PLACES.home


@contextmanager
def database() -> Iterator[str]:
    """Give the address of a database that is up to date: the user's own, or a cluster started for this run."""
    if PLACES.database_url:
        check_database(PLACES.database_url)
        _migrate(PLACES.database_url)
        yield PLACES.database_url
        return
    with Cluster(HOME / "postgres") as cluster:
        _migrate(cluster.url)
        yield cluster.url


def _migrate(url: str) -> None:
    engine = make_engine(url)
    try:
        migrate(engine)
        with Session(engine) as session, session.begin():
            catch_up(session, lambda job: outlook(job.sheet, BookStore(session, job.crew_id).shelf(load_catalogue())))
    finally:
        engine.dispose()


def serve(*, demo: bool, lan: bool = False) -> int:
    """Serve until Ctrl-C; leave nothing running."""
    write_logs()
    allow_many_lines()
    began = time.monotonic()
    with database() as url, warm_readers():
        settings = Settings(database_url=url, secret=kept_secret(HOME))
        if demo:
            settings = settings.model_copy(update={"crew": CREW})
        if demo:
            load_demo(url)
        load_catalogue()
        compile_pages()
        gc.set_threshold(20_000, 50, 50)
        gc.freeze()  # what is read once is not looked through again whenever a page leaves something to sweep up
        port = free_port(PLACES.port)
        words = f"Keeve is at http://127.0.0.1:{port}"
        phones = Lan(HOME / "authority", port + 1) if lan else None
        if phones:
            hosts = f"{settings.hosts}, {phones.hosts}"
            settings = settings.model_copy(
                update={"lan": phones.runs_at, "trust": phones.trust_at, "hosts": hosts}
            )  # fmt: skip
            words = f"{words_for_phones(phones)}\n{words}"
        app = make_app(settings)
        paths_of(app)  # so that nobody is the first to wait for it
        Server(app, words, began, port, lambda: phones.beside(app) if phones else []).run()
    return 0


def words_for_phones(phones: Lan) -> str:
    """Say where phones come in, with the code that leads to it."""
    code = io.StringIO()
    segno.make(phones.trust_at, error="m", micro=False).terminal(code, compact=True)
    return (
        f"{code.getvalue()}\nPhones of this network: scan it once to trust this machine ({phones.trust_at}).\n"
        f"Then scan the code of a run: Mixer, “On a phone”. Runs are at {phones.runs_at}."
    )


def setup() -> int:
    """Make everything ready without serving."""
    with database():
        print("Keeve is set up. ./keeve demo starts it with jobs to look at, ./keeve serve without.")
    return 0


def doctor() -> int:
    """Say in plain words what is missing."""
    checks = [_check_python(), _check_packages(), _check_postgres(), _check_chromium(), _check_paper(), _check_folder()]
    for good, words in checks:
        print(f"{'good   ' if good else 'missing'}  {words}")
    return 0 if all(good for good, _ in checks) else 1


def _check_python() -> tuple[bool, str]:
    return sys.version_info >= (3, 11), f"Python {sys.version.split()[0]} (3.11 or newer is needed)"


def _check_packages() -> tuple[bool, str]:
    stamp = HOME / "venv" / ".requirements.lock.stamp"
    good = stamp.exists() and stamp.read_bytes() == (ROOT / "requirements.lock").read_bytes()
    test = (HOME / "venv" / ".requirements-test.lock.stamp").exists()
    return good or test, "Python packages" + ("" if good or test else ": ./keeve setup fetches them")


def _check_postgres() -> tuple[bool, str]:
    try:
        if PLACES.database_url:
            check_database(PLACES.database_url)
            return True, "PostgreSQL: your own, by DATABASE_URL"
        return True, f"PostgreSQL in {bin_folder()}"
    except ClusterError as error:
        return False, str(error)


def chromium() -> Path | None:
    """Return where Debian's Chromium is: the one without windows, which is quicker, or the whole."""
    places = (Path("/usr/bin/chromium-headless-shell"), Path("/usr/bin/chromium"))
    return next((place for place in places if place.exists()), None)


def _check_chromium() -> tuple[bool, str]:
    there = chromium() is not None
    return there, "Chromium, for the tests only" + ("" if there else ": ./keeve test installs it")


def _check_paper() -> tuple[bool, str]:
    there = all(find_library(name) for name in ("pango-1.0", "pangoft2-1.0", "harfbuzz-subset"))
    return there, "Pango, for tickets on paper" + ("" if there else ": ./keeve setup installs it")


def cannot_write(home: Path) -> str:
    """Say in a sentence why a folder cannot be written, by trying; nothing where it can."""
    try:
        home.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=home, prefix=".asked-") as tried:
            tried.write(b"room for a page of a database" * 300)
            tried.flush()
    except OSError as error:
        why = error.strerror or str(error)
        way_out = "Make room, or name another as KEEVE_HOME."
        return f"Keeve keeps its things in {home}, and cannot write there: {why}. {way_out}"
    return ""


def _check_folder() -> tuple[bool, str]:
    wrong = cannot_write(HOME)
    return not wrong, wrong or f"folder {HOME} can be written"


def run_tests(arguments: list[str]) -> int:
    """Run all tests, or those that are named."""
    suite = import_module("keeve.suite")  # what runs tests is there only where tests are
    return int(suite.run(ROOT, arguments))


def check() -> int:
    """Run lint, types and import rules."""
    tools = [
        ["-m", "ruff", "check", "."],
        ["-m", "ruff", "format", "--check", "."],
        ["-m", "mypy"],
        ["-c", "from importlinter.cli import lint_imports_command as run; run()"],
    ]
    failed = 0
    for tool in tools:
        failed |= subprocess.call([sys.executable, *tool], cwd=ROOT)  # noqa: S603
    failed |= subprocess.call(["tsc", "-p", "tsconfig.json"], cwd=ROOT)  # noqa: S607 - the types of the scripts
    return 1 if failed else 0


def _stop(_number: int, _frame: object) -> NoReturn:
    raise SystemExit(0)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="keeve", description="Sizes batches and stays beside the mixer.")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, words in {
        "demo": "everything, with jobs to look at",
        "serve": "serve your own jobs",
        "setup": "install and prepare what is missing",
        "doctor": "say what is missing",
        "check": "lint, types and import rules",
    }.items():
        command = commands.add_parser(name, help=words)
        if name in ("demo", "serve"):
            command.add_argument("--lan", action="store_true", help="let phones of this network join a run by its code")
    commands.add_parser("test", help="run all tests; further words go to pytest", add_help=False)
    planner = commands.add_parser("plan", help="plan a job sheet from a file")
    planner.add_argument("file", type=Path)
    planner.add_argument("--ticket", action="store_true", help="as a ticket to read instead of JSON")
    planner.add_argument("--us", action="store_true", help="ticket in US units")
    lister = commands.add_parser("mixes", help="list the mixes of the book")
    lister.add_argument("words", nargs="*", help="only those whose entry holds these words")
    shower = commands.add_parser("mix", help="show a mix by its key, or one from an exchange file")
    shower.add_argument("which", help="key, or a path ending in .json")
    shower.add_argument("--file", action="store_true", help="as an exchange file to hand on")
    shower.add_argument("--us", action="store_true", help="in US units")
    siever = commands.add_parser("sand", help="judge a sieve sheet, or blend two, from a file")
    siever.add_argument("file", type=Path)
    siever.add_argument("--json", action="store_true", help="everything, as JSON")
    return parser


def main() -> int:
    """Read the command line and do what it says."""
    parser = _parser()
    given, rest = parser.parse_known_args()
    if rest and given.command != "test":
        parser.error(f"not understood: {' '.join(rest)}")
    # A launcher started with & has Ctrl-C ignored; and a plain kill must still stop the database.
    signal.signal(signal.SIGINT, signal.default_int_handler)
    signal.signal(signal.SIGTERM, _stop)
    try:
        return _run(given, rest)
    except KeyboardInterrupt:
        return 0
    except ClusterError as error:
        print(error, file=sys.stderr)
        return 1
    except OSError:
        # Whatever else goes wrong is looked for in a trace; a home that cannot be written is told.
        wrong = cannot_write(HOME) if given.command in ("demo", "serve", "setup") else ""
        if not wrong:
            raise
        print(wrong, file=sys.stderr)
        return 1


def _run(given: argparse.Namespace, rest: list[str]) -> int:
    reader = US if getattr(given, "us", False) else METRIC
    commands: dict[str, Callable[[], int]] = {
        "plan": lambda: papers.plan_file(given.file, as_ticket=given.ticket, reader=reader),
        "mixes": lambda: papers.list_mixes(" ".join(given.words)),
        "mix": lambda: papers.show_mix(given.which, as_file=given.file, reader=reader),
        "sand": lambda: papers.sand_file(given.file, as_json=given.json),
        "test": lambda: run_tests(rest),
        "demo": lambda: serve(demo=True, lan=given.lan),
        "serve": lambda: serve(demo=False, lan=given.lan),
        "setup": setup,
        "doctor": doctor,
        "check": check,
    }
    return commands[given.command]()


if __name__ == "__main__":
    sys.exit(main())
