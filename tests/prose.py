"""What the program says where a test looks for it: sentences by their first words, in one file."""

import tomllib
from pathlib import Path

HERE = Path(__file__).with_suffix(".toml")

PROSE: dict[str, str] = tomllib.loads(HERE.read_text("utf-8"))
