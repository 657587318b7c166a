"""Requests that fit the API's schema, and ones that do not, with and without a sign-in: none is answered by 500 or more, none hangs.

``python -m tests.faults.requests [COUNT]`` starts a server of its own and sends 10,000. Numbers of projects, floors and runs are ones that are there, half of the time.
"""

from __future__ import annotations

import sys
import tempfile
import time
import warnings
from collections import Counter
from pathlib import Path

import requests
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from piastra.api.app import create_app
from tests.faults.storm import House

LONGEST = 20.0
"""Seconds for an answer."""
LEFT_OUT = ("events", "project_events", "sign_out", "end_sign_in", "leave", "compute_history")
"""Goes on for ever; ends the sign-in; takes minutes of computing."""


def there(client) -> dict[str, list[int]]:
    """Numbers of what is there."""
    projects = client.get("/api/projects").json()
    floors = [f for p in projects for f in p["floors"]]
    return {
        "project_id": [p["id"] for p in projects],
        "floor_id": [f["id"] for f in floors],
        "run_id": [f["run"]["id"] for f in floors if f["run"] and f["run"]["state"] == "fresh"],
    }


def send(house: House, count: int) -> tuple[Counter[str], list[str], float]:
    """Answers by their first figure, what was wrong, and the longest answer in seconds."""
    schema = schemathesis.openapi.from_dict(create_app().openapi())
    operations = [found.ok() for found in schema.get_all_operations()]
    operations = [o for o in operations if o.definition.raw["operationId"] not in LEFT_OUT]
    client = house.client()
    until = time.monotonic() + 300
    while len((numbers := there(client))["run_id"]) < len(numbers["floor_id"]) and time.monotonic() < until:
        time.sleep(1)
    signed = {"x-piastra-guard": client.headers["x-piastra-guard"], "Cookie": f"piastra={client.cookies['piastra']}"}
    answers, wrong, longest = Counter(), [], [0.0]
    each = max(1, count // (2 * len(operations)))

    def asking(operation, headers):
        @seed(1)
        @settings(
            max_examples=each, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
        )
        @given(case=operation.as_strategy(), known=st.data())
        def one(case, known):
            for name, ids in numbers.items():
                if name in case.path_parameters and ids and known.draw(st.booleans()):
                    case.path_parameters[name] = known.draw(st.sampled_from(ids))
            begun = time.perf_counter()
            try:
                answer = case.call(base_url=house.address, headers={**(case.headers or {}), **headers}, timeout=LONGEST)
            except (requests.Timeout, requests.ConnectionError) as error:
                wrong.append(f"{operation.label}: {type(error).__name__}")
                return
            except (requests.RequestException, ValueError, UnicodeError):
                # What no client can send is no request.
                return
            longest[0] = max(longest[0], time.perf_counter() - begun)
            answers[f"{answer.status_code // 100}xx"] += 1
            if answer.status_code >= 500:
                wrong.append(f"{operation.label}: {answer.status_code} {answer.text[:200]} | {case.as_curl_command()[:400]}")

        return one

    for operation in operations:
        for headers in (signed, {}):
            asking(operation, headers)()
        # Without it the rest would only be turned away.
        if requests.get(f"{house.address}/api/projects", headers=signed, timeout=LONGEST).status_code != 200:
            wrong.append(f"{operation.label}: nobody is signed in any more")
            break
    return answers, wrong, longest[0]


def main() -> None:
    """Send them, and tell what came back."""
    warnings.simplefilter("ignore")
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    with tempfile.TemporaryDirectory() as folder, House(Path(folder)) as house:
        begun = time.monotonic()
        answers, wrong, longest = send(house, count)
        print(
            f"{sum(answers.values())} requests, {dict(answers)}, longest {longest:.1f} s, {time.monotonic() - begun:.0f} s in all"
        )
        print("\n".join(dict.fromkeys(wrong)) or "no answer of 500 or more, none that did not come")
    if wrong:
        sys.exit(1)


if __name__ == "__main__":
    main()
