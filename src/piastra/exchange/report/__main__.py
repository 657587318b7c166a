"""Typesets a page: ``python -m piastra.exchange.report < report.html > report.pdf``. A process of its own ends with what it does."""

from __future__ import annotations

import resource
import sys

from piastra.exchange.report.written import typeset

MOST = 3 * 2**30
"""Bytes of address space that a report may take."""


def main() -> None:
    """From standard input to standard output."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST, MOST))
    sys.stdout.buffer.write(typeset(sys.stdin.buffer.read().decode()))


if __name__ == "__main__":
    main()
