"""Where the window writes what went wrong, and where it keeps settings and kernels: the places of the platform."""

from __future__ import annotations

import logging
import logging.handlers
from pathlib import Path

import platformdirs

LARGEST, KEPT = 1_000_000, 3
"""Bytes of a log, and how many older ones are kept."""


def log_file() -> Path:
    """Return the file of the log."""
    return platformdirs.user_log_path("cryonome") / "cryonome.log"


def settings_file() -> Path:
    """Return the file of the window's settings."""
    return platformdirs.user_config_path("cryonome") / "cryonome.conf"


def log_to_file() -> bool:
    """Let everything that is logged be written to the log's file as well; False where it cannot be written."""
    path = log_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = logging.handlers.RotatingFileHandler(path, maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8")
    except OSError as error:
        logging.getLogger(__name__).warning("there is no log: %s", error)
        return False
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logging.getLogger().addHandler(handler)
    return True
