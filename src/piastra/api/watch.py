"""What is noted of requests: a line each with its number, and counts for Prometheus. Of what is sent nothing is kept: no names, no documents, no
secrets."""

from __future__ import annotations

import os
import re
import time
import traceback
import uuid
from pathlib import Path

import psutil
import structlog
from fastapi import APIRouter, Response
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Gauge, Histogram, Metric, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector, mark_process_dead
from prometheus_client.registry import Collector
from sqlalchemy import func, select
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from piastra.api.wiring import Manager, Sessions
from piastra.logs import COUNTS
from piastra.store.tables import RunRecord

log = structlog.get_logger()
router = APIRouter(prefix="/api")

REGISTRY = CollectorRegistry()
REQUESTS = Counter("piastra_requests", "Requests by operation and answer.", ("operation", "status"), registry=REGISTRY)
SECONDS = Histogram(
    "piastra_request_seconds", "Seconds until an answer is complete.", ("operation",), registry=REGISTRY,
    buckets=(0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30),
)  # fmt: skip
LISTENERS = Gauge("piastra_listeners", "Pages that listen to a floor.", registry=REGISTRY, multiprocess_mode="livesum")

NUMBER = re.compile(r"[A-Za-z0-9-]{1,64}")
LONG = ("events", "project_events")
"""Operations that last as long as somebody listens: their seconds tell nothing."""


class Watch:
    """Gives each request a number, notes how it ended, and counts it."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on, and note what came of it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        given = next((v.decode("latin-1") for k, v in scope["headers"] if k.lower() == b"x-request-id"), "")
        number = given if NUMBER.fullmatch(given) else uuid.uuid4().hex[:16]
        structlog.contextvars.bind_contextvars(request=number)
        begun, status = time.perf_counter(), 500

        async def with_number(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)["X-Request-Id"] = number
            await send(message)

        try:
            await self._app(scope, receive, with_number)
        finally:
            state = scope.get("state", {})
            operation = state.get("operation", "page" if not scope["path"].startswith("/api") else "none")
            took = time.perf_counter() - begun
            REQUESTS.labels(operation, status).inc()
            if operation not in LONG:
                SECONDS.labels(operation).observe(took)
            person = state.get("person")
            log.info(
                "request", operation=operation, method=scope["method"], status=status, ms=round(1e3 * took, 1),
                person=person.id if person is not None else None, of=state.get("numbers"),
            )  # fmt: skip
            structlog.contextvars.unbind_contextvars("request")


def where(error: BaseException) -> str:
    """What went wrong and in which line, without what it was about: messages may quote what people typed."""
    frames = traceback.extract_tb(error.__traceback__)
    last = frames[-1] if frames else None
    return f"{type(error).__name__} at {last.filename.rpartition('piastra/')[2]}:{last.lineno}" if last else type(error).__name__


@router.get("/metrics")
def metrics(session: Sessions, manager: Manager) -> Response:
    """Counts in the form that Prometheus reads; for administrators, by a token."""
    counts = REGISTRY
    if COUNTS in os.environ:
        # Processes that answer requests keep their counts in files; one of them reads all.
        counts = CollectorRegistry()
        for path in Path(os.environ[COUNTS]).glob("gauge_live*_*.db"):
            if not psutil.pid_exists(pid := int(path.stem.rpartition("_")[2])):
                mark_process_dead(pid)  # type: ignore[no-untyped-call]  # as above
        MultiProcessCollector(counts)  # type: ignore[no-untyped-call]  # it has no types
    runs = GaugeMetricFamily("piastra_runs", "Runs in the database by state.", labels=["state"])
    for state, count in session.execute(select(RunRecord.state, func.count()).group_by(RunRecord.state)):
        runs.add_metric([state], count)
    now = CollectorRegistry()
    now.register(_Now([runs, GaugeMetricFamily("piastra_workers", "Workers that compute.", value=manager.workers)]))
    return Response(generate_latest(counts) + generate_latest(now), media_type=CONTENT_TYPE_LATEST)


class _Now(Collector):
    """What is looked up when it is asked for."""

    def __init__(self, found: list[Metric]) -> None:
        self._found = found

    def collect(self) -> list[Metric]:
        return self._found
