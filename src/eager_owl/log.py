"""The program's own log: faults with their tracebacks, in files that take turns, under the machine's state folder."""

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

from platformdirs import user_state_path

LOG = logging.getLogger(__name__)
_BYTES, _FILES = 512 * 1024, 3


def log_path() -> Path:
    """Where faults are written down."""
    return user_state_path("eager-owl") / "eager-owl.log"


def log_fault(doing: str, fault: BaseException) -> str:
    """Write a fault of the program's own down, with its traceback; answers the line that tells of it."""
    LOG.error("a fault in %s", doing, exc_info=fault)
    told = f"a fault of its own: {type(fault).__name__}: {fault} (written down in {log_path()})"
    return " ".join(told.split())


def start_log() -> None:
    """Write what is logged there from now on; without a place to write to, nowhere."""
    logger = logging.getLogger("eager_owl")
    if logger.handlers:
        return
    logger.propagate = False
    try:
        log_path().parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(log_path(), "a", _BYTES, _FILES, encoding="utf-8")
    except OSError:
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logger.addHandler(handler)
