"""Start the server: ``python -m piastra.api.serve``."""

from __future__ import annotations

import argparse

import uvicorn

from piastra.api.app import create_app


def main() -> None:
    """Serve on 127.0.0.1."""
    parser = argparse.ArgumentParser(description="Serve Piastra on 127.0.0.1.")
    parser.add_argument("--port", type=int, default=8347)
    arguments = parser.parse_args()
    uvicorn.run(
        create_app(), host="127.0.0.1", port=arguments.port, log_level="warning", timeout_graceful_shutdown=2, server_header=False
    )


if __name__ == "__main__":
    main()
