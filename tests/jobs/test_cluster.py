"""A scheduler and two workers that are reached by address, each by its own: the same numbers as here, and nobody without a certificate is answered."""

import json
import os
import subprocess
import sys
import time
from contextlib import ExitStack

import dask
import pytest
from distributed import Client
from distributed.security import Security

from piastra.core.pipeline import solve_floor
from piastra.exchange.floor_file import floor_from
from piastra.exchange.results_file import results
from piastra.jobs.manager import start_cluster
from piastra.jobs.worker import BEHIND, compute
from piastra.store.repository import unpack
from tests.conftest import free_port
from tests.floors import one_bay

OF_CLUSTER = "127.0.0.4"
OF_WORKERS = ("127.0.0.2", "127.0.0.3")


@pytest.fixture(scope="module")
def papers(tmp_path_factory):
    """Files of one certificate and its key, as one authority made them for this cluster."""
    folder = tmp_path_factory.mktemp("papers")
    made = Security.temporary()
    for name, text in (("ca.pem", made.tls_ca_file), ("cert.pem", made.tls_client_cert), ("key.pem", made.tls_client_key)):
        (folder / name).write_text(text)
    return folder


@pytest.fixture(scope="module")
def cluster(papers):
    """Its address, and the process of each worker by its own."""
    address = f"tls://{OF_CLUSTER}:{free_port()}"
    tls = ["--tls-ca-file", papers / "ca.pem", "--tls-cert", papers / "cert.pem", "--tls-key", papers / "key.pem"]
    dask_command = [sys.executable, "-m", "dask"]
    with ExitStack() as stack:

        def begun(*arguments):
            process = subprocess.Popen([*dask_command, *map(str, (*arguments, *tls))], stderr=subprocess.DEVNULL)
            stack.callback(process.wait, 30)
            stack.callback(process.terminate)
            return process

        begun("scheduler", "--host", address, "--no-dashboard")
        workers = {
            host: begun("worker", address, "--host", host, "--nthreads", 1, "--no-dashboard", "--no-nanny") for host in OF_WORKERS
        }
        yield address, workers


@pytest.fixture(scope="module")
def client(cluster, papers):
    """What the server makes of PIASTRA_SCHEDULER once all workers are there."""
    address, workers = cluster
    with (
        pytest.MonkeyPatch.context() as patch,
        dask.config.set(
            {
                "distributed.comm.tls.ca-file": str(papers / "ca.pem"),
                "distributed.comm.tls.client.cert": str(papers / "cert.pem"),
                "distributed.comm.tls.client.key": str(papers / "key.pem"),
            }
        ),
    ):
        patch.setitem(os.environ, "PIASTRA_SCHEDULER", address)
        made = start_cluster()
        made.wait_for_workers(len(workers), timeout=60)
        yield made
        made.close()


def plain(found):
    return {k: v for k, v in json.loads(json.dumps(found)).items() if k not in ("seconds", "stages_run")}


def test_workers_elsewhere_find_the_same_numbers_and_one_goes_on_without_the_other(client, cluster):
    floor = one_bay()
    here = plain(results(solve_floor(floor_from(floor))))
    by_host = {address.split("//")[1].split(":")[0]: address for address in client.scheduler_info(n_workers=-1)["workers"]}
    assert set(by_host) == set(OF_WORKERS)
    both = [client.submit(compute, k, floor, workers=[by_host[host]], pure=False) for k, host in enumerate(OF_WORKERS)]
    for future, host in zip(both, OF_WORKERS, strict=True):
        answer = future.result(timeout=120)
        assert answer["worker"] == by_host[host]
        assert plain(unpack(answer["results"].results)) == here
        # Who computes comes after who answers.
        assert client.submit(os.getpriority, os.PRIO_PROCESS, 0, workers=[by_host[host]], pure=False).result() == BEHIND
    cluster[1][OF_WORKERS[0]].kill()
    deadline = time.monotonic() + 30
    while len(client.scheduler_info(n_workers=-1)["workers"]) > 1:
        assert time.monotonic() < deadline
        time.sleep(0.2)
    left = client.submit(compute, 2, floor, pure=False).result(timeout=120)
    assert left["worker"] == by_host[OF_WORKERS[1]]
    assert plain(unpack(left["results"].results)) == here


def test_a_certificate_of_another_authority_is_not_answered(client, cluster):
    # Begun after those who have the right ones: the cluster is there.
    with pytest.raises((OSError, TimeoutError)):
        Client(cluster[0], security=Security.temporary(), timeout=3, set_as_default=False)
