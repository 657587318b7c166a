"""Runs: one open run a floor, a newer one supersedes it, none is left running for ever."""

from __future__ import annotations

import math
import os
import queue
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import urlsplit

import dask
import structlog
from distributed import Client, Event, Future, KilledWorker, LocalCluster
from distributed.security import Security
from distributed.utils import get_mp_context
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError

from piastra.jobs.asking import Asking
from piastra.jobs.listening import Listener, Listening, Runs, Told
from piastra.jobs.studying import Studies
from piastra.jobs.turns import Turns
from piastra.jobs.worker import cancel_flag, compute, limits, stop_flag, topic
from piastra.store import repository as store
from piastra.store.database import sessions

log = structlog.get_logger()

RETRIES = 1
SWEEP_SECONDS = 3.0
AHEAD = 2
"""So many runs a worker may be computed or being written."""
BARE_SWEEPS = 8
"""Looks in a row without any worker after which workers are started anew; a nanny takes some seconds to start another."""
ENDING_SECONDS = 5.0
"""For so long after a cancellation a run may meet a worker that is about to end."""
DATABASE_PATIENCE = 300.0
WAYS = 3
"""So many times a life of a floor makes way for edits of others before it goes on to its end."""
SWOLLEN = 0.5
"""Share of the memory that a run may take at which an idle worker is started anew."""

ASKED = "asked"
"""Of PIASTRA_HISTORY: the lives of floors are computed when somebody asks for them, not after every edit."""


@dataclass(slots=True)
class Active:
    """A run that waits for its turn, that the cluster works on (``launched``), or whose results are being written (``computed``)."""

    floor_id: int
    revision: int
    document: dict[str, Any]
    revision_id: int
    rigorous: bool = False
    made_way: int = 0
    attempts: int = 0
    launched: bool = False
    computed: bool = False
    future: Future | None = None
    since: float = 0.0
    """When it was launched."""


def _secured(address: str) -> Security | None:
    """Certificates for a cluster by address, as its own configuration names them; without, only one on this machine is spoken to."""
    if urlsplit(address).scheme == "tls":
        return Security(require_encryption=True)
    if urlsplit(address).hostname not in ("127.0.0.1", "::1", "localhost"):
        raise ValueError(
            f"PIASTRA_SCHEDULER={address} is neither encrypted nor on this machine: whoever reaches it may run what he likes; use tls://"
        )
    return None


def start_cluster() -> Client:
    """A client of the cluster at PIASTRA_SCHEDULER, or of one that this process starts."""
    # A task whose worker dies comes back to us at once: we decide about the retry and tell of it.
    dask.config.set({"distributed.scheduler.allowed-failures": 0})
    address = os.environ.get("PIASTRA_SCHEDULER")
    if address:
        return Client(address, security=_secured(address), set_as_default=False)
    workers = int(os.environ.get("PIASTRA_WORKERS", "1"))
    # Workers are held to one thread each for their linear algebra unless told otherwise: they share the cores here.
    threads = str(max(1, (os.cpu_count() or 1) // workers))
    # Only the solver gains by more: numpy's products are of small matrices. Its threads rest when it does, as they would take the core that the
    # server answers from.
    environment = {"OMP_NUM_THREADS": threads, "MKL_NUM_THREADS": threads, "OPENBLAS_NUM_THREADS": "1", "KMP_BLOCKTIME": "0"}
    dask.config.set({"distributed.nanny.pre-spawn-environ": environment})
    # A worker that takes another's place is there at once: it is forked off a process that has read what this one has, and has computed nothing.
    dask.config.set({"distributed.worker.multiprocessing-method": "forkserver"})
    own = getattr(sys.modules["__main__"], "__spec__", None)
    read = [name for name in sys.modules if name.startswith("piastra.") and not (own and name == own.name)]
    get_mp_context().set_forkserver_preload(["distributed", "pypardiso", *read])
    # Nobody reads what processes sample of themselves many times a second.
    dask.config.set({"distributed.worker.profile.enabled": False, "distributed.admin.system-monitor.interval": "10s"})
    dask.config.set({"distributed.admin.tick.interval": "500ms"})
    # A worker that was lost some time ago and is away once more at the end of this time would be given up for good: its nanny
    # starts it again, and if that fails, the sweeper does.
    dask.config.set({"distributed.deploy.lost-worker-timeout": "24 hours"})
    # What they show of themselves as pages, and take as commands there, is nobody's.
    dask.config.set({"distributed.scheduler.http.routes": [], "distributed.worker.http.routes": []})
    cluster = LocalCluster(
        n_workers=workers, threads_per_worker=1, processes=True, host="127.0.0.1", protocol="tls",
        # Whoever reaches a scheduler may run what he likes as its user: certificates that live as long as this process keep others of this machine out.
        security=Security.temporary(), dashboard_address="127.0.0.1:0",
        scheduler_kwargs={"dashboard": False}, memory_limit=0, silence_logs=40,
    )  # fmt: skip
    return Client(cluster, set_as_default=False)


class RunManager(Runs):
    """Starts, follows and ends runs; tells listeners of a floor what happens to them."""

    def __init__(self, engine: Engine, client: Client) -> None:
        self.client = client
        self._sessions = sessions(engine)
        self._active: dict[int, Active] = {}
        self.heard = Listening()
        self._turns, self._slots = Turns(), 1
        self._owed: set[int] = set()
        self._took: dict[int, float] = {}
        """Seconds that the last run of a floor took."""
        self._lock = threading.RLock()
        self._closing = threading.Event()
        self._cancelled = -ENDING_SECONDS
        self._reports: queue.SimpleQueue[tuple[int, dict[str, Any]] | None] = queue.SimpleQueue()
        self._enders = ThreadPoolExecutor(2, "run-ender")
        self._asking = Asking(client)
        self._studies = Studies(engine, client, self._launched, lambda: self._slots)
        self._teller = threading.Thread(target=self._pass_on, name="run-teller", daemon=True)
        self._sweeper = threading.Thread(target=self._sweep, name="run-sweeper", daemon=True)

    def start(self) -> None:
        """Begin to look after runs, those left open by an earlier server included."""
        self._slots = self.workers
        self._teller.start()
        self._sweeper.start()
        self._studies.start()

    def close(self) -> None:
        """Stop looking after runs and end the cluster that this process started."""
        self._closing.set()
        self._studies.close()
        self._enders.shutdown(wait=False)
        self._reports.put(None)
        cluster = self.client.cluster
        self.client.close()
        if cluster is not None:
            cluster.close()

    def listen(self, floor_id: int, listener: Listener) -> Callable[[], None]:
        """As :meth:`Runs.listen`."""
        return self.heard.listen(floor_id, listener)

    def tell(self, event: Told) -> None:
        """As :meth:`Runs.tell`."""
        self.heard.tell(event)

    def submit(
        self,
        floor_id: int,
        revision_id: int,
        number: int,
        document: dict[str, Any],
        rigorous: bool = False,
        together: bool = False,
    ) -> int | None:
        """Run a revision when it is the floor's turn; an open run of the same floor is superseded, and its turn is the new one's, unless the floor is
        edited without pause and has had no verdict, or no results, for long, or others wait and the half of it is done: then the run that goes on comes to its end
        first. Floors that nobody has edited, asked for ``together``, have one turn among those that are. Where the floor has a history, a ``rigorous``
        run follows by itself; it makes way for edits of others. None where the database is away: the floor is run when it is back."""
        return self._submit(Active(floor_id, number, document, revision_id, rigorous), together)

    def _submit(self, wish: Active, together: bool = False) -> int | None:
        floor_id, rigorous = wish.floor_id, wish.rigorous
        with self._lock:
            now = time.monotonic()
            # What is computed is nearly there.
            starves = self._turns.starves(floor_id, now)
            half = now - self._took.get(floor_id, math.inf) / 2 if self._turns.others(floor_id) else -math.inf
            going = {k: a for k, a in self._active.items() if a.floor_id == floor_id and a.launched}
            spared = [k for k, a in going.items() if a.computed or ((starves or a.since < half) and not a.rigorous)]
            ended = [k for k, a in self._active.items() if a.floor_id == floor_id and k not in spared]
            try:
                with self._sessions.begin() as session:
                    for run_id in ended:
                        store.set_state(session, run_id, "superseded")
                    run = store.begin_run(session, wish.revision_id)
            except DBAPIError:
                self.owe(floor_id)
                return None
            for run_id in ended:
                self._let_go(run_id, "superseded")
            if len(spared) < len(going):
                self._turns.again(floor_id)
            self._active[run.id] = wish
            self._turns.ask(floor_id, run.id, now, patient=rigorous, together=together)
            self._tell(run.id, {"state": "queued", "stage": "", "share": 0.0})
            self._dispatch()
            if not rigorous:
                self._make_way()
        return run.id

    def _make_way(self) -> None:
        """Put the life of a floor off, for which nobody waits, where it keeps others from their turn."""
        going = [a for a in self._active.values() if a.launched]
        if self._launched() < max(1, self._slots) or not self._turns.wanted([a.floor_id for a in going]):
            return
        lives = [a for a in going if a.rigorous and not a.computed and a.made_way < WAYS]
        if lives:
            last = max(lives, key=lambda a: a.since)
            self._submit(replace(last, made_way=last.made_way + 1, attempts=0, launched=False, future=None))

    def _launched(self) -> int:
        """How many workers runs take."""
        return sum(a.launched and not a.computed for a in list(self._active.values()))

    def study(self) -> None:
        """As :meth:`Runs.study`."""
        self._studies.look()

    def section(self, document: dict[str, Any], strip: str, s: float, face: str) -> dict[str, Any] | None:
        """As :meth:`Runs.section`."""
        return self._asking.section(document, strip, s, face)

    def owe(self, floor_id: int) -> None:
        """See later that a floor's newest revision is run: it was saved, but what is needed to run it could not be had."""
        log.warning("run.owed", floor=floor_id)
        self._owed.add(floor_id)

    def _pay(self, floor_id: int) -> None:
        with self._sessions() as session:
            last = store.newest(session, floor_id)
            document = store.unpack(last.content)
            wanted = bool(document["slabs"]) and store.standing_run(session, last) is None
        self._owed.discard(floor_id)
        if wanted:
            self.submit(floor_id, last.id, last.number, document)

    def _dispatch(self) -> None:
        """Give free workers what waits; of one floor one run goes at a time."""
        with self._lock:
            busy = {a.floor_id for a in self._active.values() if a.launched}
            slots = max(1, self._slots)
            # Where results are written slower than found, workers wait.
            while self._launched() < slots and len(busy) < AHEAD * slots:
                run_id = self._turns.take(busy)
                if run_id is None:
                    return
                if run_id in self._active:
                    busy.add(self._active[run_id].floor_id)
                    self._launch(run_id)

    def _follow(self, active: Active) -> None:
        """Begin the rigorous run of a floor, unless another has begun since."""
        if os.environ.get("PIASTRA_HISTORY") == ASKED:
            return
        with self._lock:
            if not self._closing.is_set() and all(a.floor_id != active.floor_id for a in self._active.values()):
                self.submit(active.floor_id, active.revision_id, active.revision, active.document, rigorous=True)

    def stop(self, floor_id: int, state: str) -> None:
        """End a floor's open runs as ``superseded`` or ``cancelled``."""
        with self._lock:
            ended = [k for k, a in self._active.items() if a.floor_id == floor_id]
            with self._sessions.begin() as session:
                for run_id in ended:
                    store.set_state(session, run_id, state)
            for run_id in ended:
                self._let_go(run_id, state)
            for run_id in [k for f, k in self._turns.waiting.items() if f == floor_id]:
                self._turns.drop(floor_id, run_id)
            self._turns.fed(floor_id, time.monotonic())
            self._dispatch()

    def _let_go(self, run_id: int, state: str) -> None:
        """Tell that an open run has ended, and stop who works on it; its floor's place in the queue stays."""
        self._tell(run_id, {"state": state})
        active = self._active.pop(run_id)
        if not active.launched or active.computed:
            return
        if state == "cancelled":
            self._cancelled = time.monotonic()
            Event(cancel_flag(run_id), client=self.client).set()
        Event(stop_flag(run_id), client=self.client).set()
        if active.future is not None:
            active.future.cancel()

    def _launch(self, run_id: int) -> None:
        active = self._active[run_id]
        active.launched, active.computed, active.since = True, False, time.monotonic()

        # This handler runs on the client's own loop, which must never wait for our lock: it only passes things on.
        self.client.subscribe_topic(topic(run_id), lambda event: self._reports.put((run_id, event[1])))
        active.future = self.client.submit(
            compute, run_id, active.document, active.rigorous, key=f"run-{run_id}-{active.attempts}", pure=False
        )
        active.future.add_done_callback(lambda f: self._ended(run_id, f))
        self._studies.make_room()
        self._asking.make_room()
        try:
            with self._sessions.begin() as session:
                store.set_state(session, run_id, "running", attempts=active.attempts + 1)
        except DBAPIError as error:
            # It runs all the same; how it ends is written later.
            log.warning("run.not_noted", run=run_id, error=type(error).__name__)

    def _ended(self, run_id: int, future: Future) -> None:
        """The cluster is done with a run: its worker is given the next one, and what it found is kept beside that."""
        with self._lock:
            active = self._active.get(run_id)
            if active is None or active.future is not future or future.cancelled() or self._closing.is_set():
                return
            if future.status == "finished":
                active.computed = True
                if not active.rigorous:
                    self._took[active.floor_id] = time.monotonic() - active.since
                self._dispatch()
        self._enders.submit(self._settle, run_id, active, future)

    def _settle(self, run_id: int, active: Active, future: Future) -> None:
        """Keep what a run found, or try it again, or tell why not."""
        try:
            self._take_in(run_id, active, future.result())
        except Exception as error:
            if self._closing.is_set() or future.cancelled():
                return
            if run_id in self._active:
                self._failed(run_id, active, error)
            else:
                log.error("run.end", run=run_id, error=repr(error))

    def _take_in(self, run_id: int, active: Active, answer: dict[str, Any]) -> None:
        if answer["outcome"] == "fresh":
            if not self._finish(run_id, lambda s: self._keep(s, run_id, active, answer), {"state": "fresh", "share": 1.0}):
                # Cancelled or superseded while its results waited to be written: nothing of it is kept, and nothing follows it.
                return
            self._keep_late(run_id, active, answer)
            if answer["more"]:
                self._follow(active)
            self._recycle(answer)
        else:
            told = answer.get("told", "")
            self._finish(
                run_id,
                lambda s: store.set_state(s, run_id, answer["outcome"], told=told),
                {"state": answer["outcome"], "told": told},
            )

    def _failed(self, run_id: int, active: Active, error: Exception) -> None:
        # A worker that ends because another run on it was cancelled is no fault of this one.
        spare = 1 if time.monotonic() - self._cancelled < ENDING_SECONDS else 0
        if isinstance(error, KilledWorker) and active.attempts < RETRIES + spare:
            log.warning("run.worker_died", run=run_id)
            active.attempts += 1
            with self._lock:
                if run_id in self._active:
                    self._tell(run_id, {"state": "failed, will retry once"})
                    self._launch(run_id)
            return
        log.error("run.failed", run=run_id, error=repr(error))
        why = "the worker died twice" if isinstance(error, KilledWorker) else "the computation failed in a way it should not"
        self._finish(run_id, lambda s: store.set_state(s, run_id, "failed", told=why), {"state": "failed", "told": why})

    def _keep(self, session: Any, run_id: int, active: Active, answer: dict[str, Any]) -> None:
        arrays = {"fields": answer["fields"], "responses": answer["responses"]}
        store.keep_results(session, run_id, answer["results"], arrays, answer["seconds"])

    def _keep_late(self, run_id: int, active: Active, answer: dict[str, Any]) -> None:
        """Write what nobody waits for, after the run has been told fresh; without it only values by element and totals
        of slices lack."""
        try:
            with self._sessions.begin() as session:
                store.keep_array(session, run_id, "bodies", answer["bodies"])
                store.prune_results(session, active.floor_id)
        except DBAPIError as error:
            log.warning("run.bodies_not_written", run=run_id, error=type(error).__name__)

    def _recycle(self, answer: dict[str, Any]) -> None:
        """Start a worker anew that has swollen, while nothing runs: freed memory is not all given back."""
        if answer["held"] > SWOLLEN * limits().bytes:
            with self._lock:
                idle = not self._active
            if idle:
                log.info("worker.recycled", held=answer["held"])
                self.client.restart_workers([answer["worker"]], raise_for_error=False)

    def _finish(self, run_id: int, write: Callable[[Any], object], event: dict[str, Any]) -> bool:
        """Write a run's end, however long the database is away, then tell of it; whether the run was still open."""
        until = time.monotonic() + DATABASE_PATIENCE
        while not self._closing.is_set():
            try:
                with self._sessions.begin() as session:
                    write(session)
                break
            except DBAPIError as error:
                if time.monotonic() > until:
                    log.error("run.not_written", run=run_id, error=type(error).__name__)
                    event = {"state": "failed", "told": "the database did not answer; the floor runs again when it does"}
                    break
                time.sleep(0.5)
        with self._lock:
            self._tell(run_id, event)
            ended = self._active.pop(run_id, None)
            if ended is not None:
                self._turns.fed(ended.floor_id, time.monotonic())
            self._dispatch()
        return ended is not None

    def _tell(self, run_id: int, event: dict[str, Any]) -> None:
        active = self._active.get(run_id)
        if active is None:
            return
        self.heard.tell({"kind": "run", "run": run_id, "floor": active.floor_id, "revision": active.revision, **event})

    def _pass_on(self) -> None:
        """Tell listeners of the progress that workers report."""
        while (heard := self._reports.get()) is not None:
            run_id, told = heard
            with self._lock:
                active = self._active.get(run_id)
                if active is None or told["share"] >= 1.0:
                    continue
                if "ended" not in told:
                    if "verdict" in told:
                        self._turns.answered(active.floor_id, time.monotonic())
                    self._tell(run_id, {"state": "running", **told})
                    continue
                # Beyond its limits: what its process ended with is no accident, and is not tried again.
                active.future = None
            self._end_beyond(run_id, f"the run {told['ended']}")

    def _end_beyond(self, run_id: int, why: str) -> None:
        """End a run that went beyond its limits."""
        self._finish(run_id, lambda s: store.set_state(s, run_id, "failed", told=why), {"state": "failed", "told": why})

    def _take_up(self, run_id: int, floor_id: int) -> None:
        """Run a floor anew whose run nobody works on; one that ended since it was listed is left alone."""
        with self._lock:
            if run_id in self._active:
                return
            with self._sessions.begin() as session:
                if run_id not in {run.id for run, _ in store.open_runs(session)}:
                    return
                store.set_state(session, run_id, "failed", told="the server stopped while it ran; it runs again")
                last = store.newest(session, floor_id)
                document = store.unpack(last.content)
            self.submit(floor_id, last.id, last.number, document, together=True)

    def _sweep(self) -> None:
        """Pick up runs that are open in the database but that nobody works on, and see that there is a worker."""
        bare = 0
        while not self._closing.wait(SWEEP_SECONDS):
            try:
                self._slots = self.workers
                bare = 0 if self._slots else bare + 1
                # Again and again: what is started anew may die while it starts as well.
                if bare and bare % BARE_SWEEPS == 0:
                    self._revive()
                with self._sessions() as session:
                    found = store.open_runs(session)
                for run, floor_id in found:
                    self._take_up(run.id, floor_id)
                for floor_id in list(self._owed):
                    self._pay(floor_id)
                self._dispatch()
            except DBAPIError:
                continue
            except Exception as error:
                log.error("run.sweep", error=repr(error))

    @property
    def workers(self) -> int:
        """How many of them there are to compute."""
        return len(self.client.scheduler_info(n_workers=-1)["workers"])

    def _revive(self) -> None:
        """Start workers anew: one that dies while its nanny starts it is given up by the nanny."""
        cluster = self.client.cluster
        if cluster is None:
            log.error("run.no_workers")
            return
        log.warning("run.workers_gone")
        wanted = int(os.environ.get("PIASTRA_WORKERS", "1"))
        cluster.scale(0)
        time.sleep(0.5)
        cluster.scale(wanted)
