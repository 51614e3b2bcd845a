"""How the server writes its log: one line an event, its values named, whatever somebody sent made harmless."""

import logging
from typing import Final

import structlog
from structlog.typing import EventDict


def _harmless(_logger: object, _name: str, event: EventDict) -> EventDict:
    """Write out what would move, colour or clear the screen of whoever reads the log."""
    for key, value in event.items():
        if isinstance(value, str) and not value.isprintable():
            event[key] = "".join(one if one.isprintable() else one.encode("unicode_escape").decode() for one in value)
    return event


_LINE: Final = structlog.processors.LogfmtRenderer(key_order=["timestamp", "level", "event"])


def set_up_logs() -> None:
    """Let every log of the program be written as lines of named values, through the log of the process."""
    structlog.configure(
        processors=[
            structlog.stdlib.filter_by_level,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            _harmless,
            _LINE,
        ],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )


def write_logs() -> None:
    """Write the log of this process, for a server that is started from the command line."""
    logging.basicConfig(level=logging.INFO, format="%(message)s")
    logging.getLogger("alembic").setLevel(logging.WARNING)
