"""Start the server: ``python -m piastra.api.serve``."""

from __future__ import annotations

import argparse
import logging
import os

import uvicorn

from piastra.api.app import create_app
from piastra.api.bounds import HOSTS
from piastra.api.door import DEMO
from piastra.logs import configure


def main() -> None:
    """Serve on 127.0.0.1; what other machines reach stands in front of it and encrypts."""
    parser = argparse.ArgumentParser(description="Serve Piastra on 127.0.0.1.")
    parser.add_argument("--port", type=int, default=8347)
    parser.add_argument("--demo", action="store_true", help="let whoever sits at this machine in as the demo's designer")
    parser.add_argument("--log", choices=("warnings", "lines", "json"), default="warnings", help="what is logged, and how")
    arguments = parser.parse_args()
    configure(arguments.log == "json", logging.WARNING if arguments.log == "warnings" else logging.INFO)
    if arguments.demo:
        if os.environ.get(HOSTS):
            parser.error(f"the demo lets everybody in and is for this machine alone; unset {HOSTS}, or leave --demo out")
        os.environ[DEMO] = "1"
    uvicorn.run(
        create_app(), host="127.0.0.1", port=arguments.port, log_level="warning", timeout_graceful_shutdown=2, server_header=False
    )


if __name__ == "__main__":
    main()
