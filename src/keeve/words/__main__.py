"""Brings the catalogues up to date: python -m keeve.words."""

import sys
from io import BytesIO

from babel.messages.pofile import read_po, write_po

from keeve.words.catalogues import ALL_MESSAGES, FOLDER
from keeve.words.collecting import catalog, collect, written


def main() -> int:
    """Collect, write, and merge into each language; what cannot be translated fails."""
    found, wrong = collect()
    for where, what in wrong:
        sys.stderr.write(f"{where}: put together at run time, nobody can translate it: {what}\n")
    messages = catalog(found)
    ALL_MESSAGES.write_bytes(written(messages))
    for path in FOLDER.glob("*.po"):
        language = read_po(BytesIO(path.read_bytes()), locale=path.stem.replace("-", "_"))
        # Nothing is guessed: "too wet" is no translation of "too dry".
        language.update(messages, no_fuzzy_matching=True)
        with path.open("wb") as file:
            write_po(file, language, width=0, include_lineno=False, ignore_obsolete=True)
    sys.stdout.write(f"{len(messages)} messages\n")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
