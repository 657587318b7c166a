"""How the log is written: one line an event, for people or as JSON."""

from __future__ import annotations

import logging
import sys

import structlog

COUNTS = "PROMETHEUS_MULTIPROC_DIR"
"""Of the environment: where several processes keep their counts, so that one of them can tell those of all; the name is that library's."""


def configure(as_json: bool, level: int = logging.INFO) -> None:
    """Write events of at least a level to the error stream."""
    shown = structlog.processors.JSONRenderer() if as_json else structlog.dev.ConsoleRenderer(colors=False)
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            shown,
        ],
        wrapper_class=structlog.make_filtering_bound_logger(level),
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
